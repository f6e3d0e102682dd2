"""Where a text of a picture stands: in a free place, or on a plate of the ground's colour that breaks the lines below it."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter

from .. import theme

PAD = 2.0  # pixels around a text that stay free


def box_of(p: QPainter, words: str, at: QPointF) -> QRectF:
    """The room of a text that is written from its base line on, with the painter's font."""
    metrics = p.fontMetrics()
    return QRectF(at.x(), at.y() - metrics.ascent(), metrics.horizontalAdvance(words), metrics.height())


def plate(p: QPainter, box: QRectF, ground: str = "panel") -> None:
    """What lies below a text goes as far as the text."""
    p.fillRect(box.adjusted(-PAD, 0, PAD, 0), theme.color(ground))


def on_plate(
    p: QPainter, box: QRectF, words: str, flags: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignCenter, ground: str = "panel"
) -> None:
    """A text inside a box, on a plate as large as the text."""
    plate(p, p.boundingRect(box, flags, words), ground)
    p.drawText(box, flags, words)


class Placer:
    """Finds free places for texts among what has been drawn and what has been written so far."""

    def __init__(self, room: QRectF) -> None:
        self._room = room
        self._taken: list[QRectF] = []
        self._strokes: list[QLineF] = []

    def keep_clear(self, *boxes: QRectF) -> None:
        """Nothing is written there."""
        self._taken += boxes

    def stroke(self, *points: QPointF) -> None:
        """A line that goes through these points."""
        self._strokes += [QLineF(a, b) for a, b in pairwise(points)]

    def find(self, p: QPainter, words: str, places: Iterable[QPointF]) -> QPointF:
        """The first of these places, starts of a base line, in which the text hurts nothing, moved inside of the room; else
        the one in which it hurts least. It is taken from then on."""
        best, least = QPointF(), float("inf")
        for place in places:
            at = self._inside(p, words, place)
            hurt = self._hurt(box_of(p, words, at).adjusted(-PAD, 0, PAD, 0))
            if hurt < least:
                best, least = at, hurt
            if not hurt:
                break
        self._taken.append(box_of(p, words, best).adjusted(-PAD, 0, PAD, 0))
        return best

    def write(self, p: QPainter, words: str, places: Iterable[QPointF], ground: str = "panel") -> None:
        """Writes it there, on a plate, for a line may lie below it all the same."""
        at = self.find(p, words, places)
        plate(p, box_of(p, words, at), ground)
        p.drawText(at, words)

    def _inside(self, p: QPainter, words: str, at: QPointF) -> QPointF:
        box = box_of(p, words, at)
        x = min(max(0.0, self._room.left() + PAD - box.left()), self._room.right() - PAD - box.left())
        x = x if box.left() < self._room.left() + PAD else min(0.0, self._room.right() - PAD - box.right())
        y = max(0.0, self._room.top() - box.top()) + min(0.0, self._room.bottom() - box.bottom())
        return at + QPointF(x, y)

    def _hurt(self, box: QRectF) -> float:
        """A text below it hurts more than a line, which its plate breaks."""
        texts = sum(1 for taken in self._taken if taken.intersects(box))
        return 10.0 * texts + sum(1 for line in self._strokes if crosses(line, box))


def crosses(line: QLineF, box: QRectF) -> bool:
    """Whether any of a line lies in a box."""
    x, y = sorted((line.x1(), line.x2())), sorted((line.y1(), line.y2()))
    if x[1] < box.left() or x[0] > box.right() or y[1] < box.top() or y[0] > box.bottom():
        return False
    if box.contains(line.p1()) or box.contains(line.p2()):
        return True
    corners = (box.topLeft(), box.topRight(), box.bottomRight(), box.bottomLeft())
    return any(
        line.intersects(QLineF(corners[k - 1], corners[k]))[0] is QLineF.IntersectionType.BoundedIntersection
        for k in range(4)
    )


def beside(middle: QPointF, width: float, gap: float = 6.0, furthest: int = 72) -> list[QPointF]:
    """Places around a point for a text of this width: above, below, right, left, and up to `furthest` pixels further away."""
    x, y = middle.x(), middle.y()
    places = []
    for far in range(0, furthest, 8):
        places += [
            QPointF(x - width / 2, y - gap - far), QPointF(x - width / 2, y + gap + 10 + far),
            QPointF(x + gap, y + 4 - far), QPointF(x - width - gap, y + 4 - far),
            QPointF(x + gap, y - gap - far), QPointF(x - width - gap, y - gap - far),
        ]  # fmt: skip
    return places
