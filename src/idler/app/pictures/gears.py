"""Toothed outlines: wheels and racks, as painter paths."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import lru_cache

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainterPath

_PIECE = 8  # teeth


def wheel(x: float, y: float, radius: float, teeth: int, depth: float = 2.5, turn: float = 0.0) -> QPainterPath:
    """A gear wheel around (x, y); `radius` is that of the pitch circle, `turn` in radians."""
    return _wheel(radius, teeth, depth, turn).translated(x, y)


@lru_cache(64)
def _wheel(radius: float, teeth: int, depth: float, turn: float) -> QPainterPath:
    path = QPainterPath()
    step = 2 * math.pi / teeth
    for tooth in range(teeth):
        start = turn + tooth * step
        for k, (share, out) in enumerate(((0.0, -1), (0.18, 1), (0.5, 1), (0.68, -1))):
            angle, r = start + share * step, radius + out * depth / 2
            point = QPointF(r * math.cos(angle), r * math.sin(angle))
            if tooth == 0 and k == 0:
                path.moveTo(point)
            else:
                path.lineTo(point)
    path.closeSubpath()
    return path


def rack(x0: float, x1: float, y: float, pitch: float, depth: float = 2.5) -> Iterator[QPainterPath]:
    """The toothed upper edge of a rack from x0 to x1, in short pieces: the time of a stroke grows with its length squared."""
    piece = _PIECE * pitch
    while x1 - x0 > piece:
        yield _rack(piece, pitch, depth).translated(x0, y)
        x0 += piece
    yield _rack(x1 - x0, pitch, depth).translated(x0, y)


@lru_cache(16)
def _rack(length: float, pitch: float, depth: float) -> QPainterPath:
    path = QPainterPath(QPointF(0, depth))
    x = 0.0
    while x + pitch <= length:
        for share, up in ((0.25, True), (0.5, True), (0.75, False), (1.0, False)):
            path.lineTo(x + share * pitch, 0 if up else depth)
        x += pitch
    path.lineTo(length, depth)
    return path
