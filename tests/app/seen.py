"""What a person sees of a window: every text and every stroke of its pictures, and which of them lie upon each other."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any
from unittest import mock

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPaintDevice, QPainter, QPainterPath, QPolygonF
from PySide6.QtWidgets import (
    QAbstractButton,
    QCheckBox,
    QLabel,
    QPushButton,
    QScrollArea,
    QStyle,
    QStyleOptionButton,
    QWidget,
)

from idler.app.pictures.picture import Picture

TOUCH = 1.5  # pixels by which two may touch
FAINT = 0.6  # a stroke this transparent strikes nothing through


@dataclass
class Ink:
    """Texts with their place, and strokes, in the order in which they were painted, in pixels of the window."""

    texts: list[tuple[int, str, QRectF]] = field(default_factory=list)
    strokes: list[tuple[int, QLineF]] = field(default_factory=list)
    plates: list[tuple[int, QRectF]] = field(default_factory=list)  # what is filled hides what is below it
    order: int = 0

    def next(self) -> int:
        self.order += 1
        return self.order


class Recorder(QPainter):
    """Paints as any painter does, and writes down what."""

    ink: Ink

    def _mapped(self, rect: QRectF) -> QRectF:
        found = self.transform().mapRect(rect)
        return found.intersected(self.transform().mapRect(self.clipBoundingRect())) if self.hasClipping() else found

    def _lines(self, lines: Iterable[QLineF]) -> None:
        pen = self.pen()
        if pen.style() == Qt.PenStyle.NoPen or pen.color().alphaF() < FAINT:
            return
        transform = self.transform()
        seen = [transform.map(line) for line in lines]
        if self.hasClipping() and seen:
            clip = transform.mapRect(self.clipBoundingRect())
            ends = np.array([(line.x1(), line.y1(), line.x2(), line.y2()) for line in seen])
            seen = [seen[k] for k in _crossing(ends, clip).tolist()]
        self.ink.strokes += [(self.ink.next(), line) for line in seen]

    def _path(self, points: Sequence[QPointF]) -> None:
        self._lines(itertools.starmap(QLineF, itertools.pairwise(points)))

    def _outline(self, path: QPainterPath) -> None:
        if self.brush().style() != Qt.BrushStyle.NoBrush and self.brush().color().alphaF() > FAINT:
            self._plate(path.boundingRect())
        for polygon in path.toSubpathPolygons():
            self._path(list(polygon))

    def _plate(self, rect: QRectF) -> None:
        self.ink.plates.append((self.ink.next(), self._mapped(rect)))

    def drawText(self, *given: Any) -> Any:
        if isinstance(given[0], QPointF):
            point, words = given
            box = QFontMetricsF(self.font()).tightBoundingRect(words).translated(point)
        else:
            rect, flags, words = given[0], given[1], str(given[2])
            box = QRectF(super().boundingRect(QRectF(rect), int(flags), words))
            lines = max(1, round(box.height() / QFontMetricsF(self.font()).lineSpacing()))
            if lines == 1:  # the letters alone, without the room above and below them
                tight = QFontMetricsF(self.font()).tightBoundingRect(words)
                base = box.top() + QFontMetricsF(self.font()).ascent()
                box = QRectF(box.left(), base + tight.top(), box.width(), tight.height())
        if words.strip() and self.pen().style() != Qt.PenStyle.NoPen:
            self.ink.texts.append((self.ink.next(), words, self._mapped(box)))
        return super().drawText(*given)

    def drawLine(self, *given: Any) -> None:
        super().drawLine(*given)
        if len(given) == 4:
            given = QPointF(given[0], given[1]), QPointF(given[2], given[3])
        if len(given) == 1:
            given = QPointF(given[0].p1()), QPointF(given[0].p2())
        self._lines([QLineF(QPointF(given[0]), QPointF(given[1]))])

    def drawLines(self, lines: Any) -> None:
        super().drawLines(lines)
        self._lines(lines)

    def drawPolyline(self, points: Any) -> None:
        super().drawPolyline(points)
        self._path([QPointF(point) for point in points])

    def drawPolygon(self, points: Any) -> None:
        super().drawPolygon(points)
        path = QPainterPath()
        path.addPolygon(QPolygonF(points))
        path.closeSubpath()
        self._outline(path)

    def drawPath(self, path: QPainterPath) -> None:
        super().drawPath(path)
        self._outline(path)

    def drawRect(self, *given: Any) -> None:
        super().drawRect(*given)
        path = QPainterPath()
        path.addRect(QRectF(*given))
        self._outline(path)

    def drawRoundedRect(self, rect: Any, *radii: Any) -> None:
        super().drawRoundedRect(rect, *radii)
        path = QPainterPath()
        path.addRoundedRect(QRectF(rect), radii[0], radii[1])
        self._outline(path)

    def drawEllipse(self, *given: Any) -> None:
        super().drawEllipse(*given)
        path = QPainterPath()
        path.addEllipse(*given)
        self._outline(path)

    def fillRect(self, rect: Any, *given: Any) -> None:
        super().fillRect(rect, *given)
        self._plate(QRectF(rect))


def painted(picture: Picture) -> Ink:
    """What a picture paints."""
    ink = Ink()

    def painter(self: Picture, device: QPaintDevice | None = None) -> QPainter:
        made = Recorder(device if device is not None else self)
        made.ink = ink
        made.setRenderHint(QPainter.RenderHint.Antialiasing)
        scale = self.width() / self.wide
        made.scale(scale, scale)
        return made

    for kept in ("_ground", "_still"):  # painted once
        if kept in vars(picture):
            setattr(picture, kept, None)
    with mock.patch.object(Picture, "painter", painter):
        picture.grab()
    return ink


def _crossing(lines: np.ndarray, box: QRectF) -> np.ndarray:
    """Places of the lines (x1, y1, x2, y2) of which a part lies in the box: Liang and Barsky, all at once."""
    start, way = lines[:, :2], lines[:, 2:] - lines[:, :2]
    enter, leave = np.zeros(len(lines)), np.ones(len(lines))
    inside = np.ones(len(lines), bool)
    for axis, low, high in ((0, box.left(), box.right()), (1, box.top(), box.bottom())):
        at, step = start[:, axis], way[:, axis]
        flat = step == 0
        inside &= ~flat | ((at >= low) & (at <= high))
        safe = np.where(flat, 1.0, step)
        first, second = (low - at) / safe, (high - at) / safe
        enter = np.where(flat, enter, np.maximum(enter, np.minimum(first, second)))
        leave = np.where(flat, leave, np.minimum(leave, np.maximum(first, second)))
    return np.flatnonzero(inside & (enter <= leave))


def overlaps(ink: Ink, size: QRectF) -> Iterator[str]:
    """Texts upon each other, struck through by a stroke that nothing hides, or cut by the picture's edge."""
    inner = [
        (order, words, box.adjusted(TOUCH, TOUCH, -TOUCH, -TOUCH))
        for order, words, box in ink.texts
        if box.width() > 2 * TOUCH and box.height() > 2 * TOUCH
    ]

    def hidden(order: int, box: QRectF) -> bool:
        return any(later > order and plate.contains(box) for later, plate in ink.plates)

    visible = [(order, words, box) for order, words, box in inner if not hidden(order, box)]
    for place, (_, words, box) in enumerate(visible):
        for _, other, place_of in visible[place + 1 :]:
            if box.intersects(place_of):
                yield f"“{words}” and “{other}” lie upon each other"
    lines = np.array([(line.x1(), line.y1(), line.x2(), line.y2()) for _, line in ink.strokes]).reshape(-1, 4)
    for order, words, box in visible:
        for place in _crossing(lines, box):
            drawn = ink.strokes[place][0]
            if drawn < order and any(drawn < filled < order and plate.contains(box) for filled, plate in ink.plates):
                continue
            yield f"“{words}” is struck through"
            break
        if any(later > order and plate.intersects(box) for later, plate in ink.plates):
            yield f"“{words}” is covered in part"
        if not size.adjusted(-1, -1, 1, 1).contains(box):
            yield f"“{words}” is cut by the edge"


def pictures_of(window: QWidget) -> list[Picture]:
    return [made for made in window.findChildren(Picture) if made.isVisible() and made.width() > 1]


def scrolled_away(around: QWidget) -> list[str]:
    """Cards that are meant to be seen whole and are not. A list may be too long."""
    return [
        f"{area.verticalScrollBar().maximum()} pixels of {area.widget().__class__.__name__} are not seen"
        for area in around.findChildren(QScrollArea)
        if area.property("whole")
        and not area.property("rows")
        and area.isVisible()
        and area.verticalScrollBar().maximum() > 0
    ]


def sideways(window: QWidget) -> Iterator[str]:
    """What is wider than the card in which it scrolls up and down."""
    for scroll in window.findChildren(QScrollArea):
        beyond, inside = scroll.horizontalScrollBar().maximum(), scroll.widget()
        if scroll.isVisible() and inside is not None and beyond:
            yield f"{type(inside).__name__} is {beyond} px wider than its card"


def cut_words(window: QWidget) -> Iterator[str]:
    """Labels and buttons whose words have less room than they need."""
    for made in (*window.findChildren(QLabel), *window.findChildren(QAbstractButton)):
        if not made.isVisible() or not made.text():
            continue
        if isinstance(made, QLabel) and (made.wordWrap() or made.pixmap()):
            needed = made.heightForWidth(made.width())
            if made.height() + 1 < needed:
                yield f"“{made.text()[:60]}” needs {needed} px of height and has {made.height()}"
            continue
        plain = re.sub(r"<[^>]*>|&", "", made.text())
        wide = max(made.fontMetrics().horizontalAdvance(line) for line in plain.split("\n"))
        room = made.width()
        if isinstance(made, QCheckBox):
            wide = made.sizeHint().width()
        elif isinstance(made, QPushButton) and type(made).paintEvent is QPushButton.paintEvent:
            option = QStyleOptionButton()
            made.initStyleOption(option)
            room = made.style().subElementRect(QStyle.SubElement.SE_PushButtonContents, option, made).width()
        if room + 1 < wide:
            yield f"“{made.text()[:60]}” needs {wide} px and has {room}"
