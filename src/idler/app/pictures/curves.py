"""Lines through many points."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise, starmap

from PySide6.QtCore import QLineF, QPointF
from PySide6.QtGui import QPainter


def draw_curve(p: QPainter, points: Sequence[QPointF]) -> None:
    """A solid, opaque line through these points. Piece by piece: a wide line that is stroked as a whole takes a time that
    grows with the square of its points where it goes up and down."""
    p.drawLines(list(starmap(QLineF, pairwise(points))))
