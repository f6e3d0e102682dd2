"""Terminals drawn: the screw with its name, a contact at rest, and the last seconds of every input as traces."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen

from idler.link.trace import Edges

from .. import theme
from .picture import Picture

SPAN_US = 5_000_000


def draw_screw(p: QPainter, box: QRectF, name: str, *, lit: bool = False) -> None:
    """A terminal as it sits on the controller: a slotted screw with its name below."""
    p.setPen(QPen(theme.color("soft"), 1))
    p.setBrush(theme.color("pale_petrol" if lit else "metal"))
    p.drawRoundedRect(box, 3, 3)
    radius = min(4.5, box.height() / 5)
    middle = QPointF(box.left() + radius + 4, box.center().y())
    p.setPen(QPen(theme.color("ink"), 1.1))
    p.setBrush(theme.color("panel"))
    p.drawEllipse(middle, radius, radius)
    p.drawLine(middle + QPointF(-radius * 0.7, radius * 0.4), middle + QPointF(radius * 0.7, -radius * 0.4))
    p.setFont(theme.text_font(12, bold=True))
    room = box.adjusted(radius * 2 + 5, 0, -1, 0)
    p.drawText(room, Qt.AlignmentFlag.AlignCenter, name)


class Screw(Picture):
    def __init__(self, name: str) -> None:
        super().__init__()
        self.name = name
        self._lit = False
        self.setFixedSize(40, 24)

    def light(self, on: bool) -> None:
        if on != self._lit:
            self._lit = on
            self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        draw_screw(p, QRectF(0.5, 0.5, self.wide - 1, self.high - 1), self.name, lit=self._lit)


def draw_contact(p: QPainter, box: QRectF, closed: bool) -> None:
    """A contact as circuit diagrams draw it: two ends of a wire, and a lever that joins them or stands away."""
    y = box.center().y() + 2
    a, b = QPointF(box.left() + 8, y), QPointF(box.right() - 8, y)
    p.setPen(QPen(p.pen().color(), 1.6))
    p.drawLine(QPointF(box.left(), y), a)
    p.drawLine(b, QPointF(box.right(), y))
    p.drawLine(a, b + QPointF(1, -1 if closed else -7))
    if closed:
        p.drawLine(b + QPointF(0, -4), b + QPointF(0, 1))


class TraceColumn(Picture):
    """The traces of all inputs, one below the other, drawn as one picture: what is away from rest stands high."""

    def __init__(self, row_height: int) -> None:
        super().__init__()
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self._row = row_height
        self._edges: Edges | None = None
        self._rest: np.ndarray = np.zeros(0, np.uint8)

    def show_edges(self, edges: Edges | None, rest: np.ndarray) -> None:
        """rest: 0 open or 1 closed for each input, in the order of the rows."""
        self._edges, self._rest = edges, rest
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        p.drawImage(QRectF(0, 0, self.wide, self._row * max(1, len(self._rest))), self._image())

    def _image(self) -> QImage:
        width, rows = max(1, int(self.wide)), max(1, len(self._rest))
        pixels = np.zeros((rows, self._row, width), np.uint32)
        line, ink, ground = (_argb(theme.color(name)) for name in ("line", "petrol", "paper"))
        pixels[:, 2:-2] = ground
        pixels[:, -3] = line
        if self._edges is not None and len(self._edges.levels) == len(self._rest):
            self._draw(pixels, self._edges, width, ink)
        image = QImage(pixels.data, width, rows * self._row, 4 * width, QImage.Format.Format_ARGB32_Premultiplied)
        return image.copy()

    def _draw(self, pixels: np.ndarray, edges: Edges, width: int, ink: int) -> None:
        """All rows at once; pixels has the shape (rows, height of a row, width)."""
        per_pixel = SPAN_US / width
        first_pixel = int(edges.now / per_pixel) - width + 1  # whole pixels, so that what was drawn moves as one
        at = (edges.times / per_pixel).astype(np.int64) - first_pixel
        inside = (at >= 0) & (at < width)
        at, inputs, closed = at[inside], edges.inputs[inside], edges.closed[inside]
        level = columns_of_levels(at, inputs, closed, edges.levels, width)
        rows, columns = np.ogrid[: level.shape[0], : level.shape[1]]
        y = np.where(level == self._rest[:, None], self._row - 7, 5)
        pixels[rows, y, columns] = ink
        pixels[rows, y + 1, columns] = ink
        row, column = np.nonzero(_marks(at, inputs, level.shape))
        pixels[row, 5 : self._row - 5, column] = ink


def _marks(at: np.ndarray, inputs: np.ndarray, shape: tuple[int, ...]) -> np.ndarray:
    """Where a row has an edge in a column."""
    made = np.zeros(shape, bool)
    made[inputs, at] = True
    return made


def columns_of_levels(
    at: np.ndarray, inputs: np.ndarray, closed: np.ndarray, levels: np.ndarray, width: int
) -> np.ndarray:
    """The level of each input in each column, from edges in order of time with their columns; shape (inputs, width).

    levels: those at the end, for inputs without an edge; before the first edge an input had the other level.
    """
    unknown = -1
    found = np.full((len(levels), width), unknown, np.int8)
    found[inputs, at] = closed  # the last edge in a column stays
    first = np.array(levels, np.int8)
    first[inputs[::-1]] = 1 - closed[::-1].astype(np.int8)  # the first edge stays
    known = np.where(found != unknown, np.arange(width), 0)
    last = np.maximum.accumulate(known, axis=1)
    filled = np.take_along_axis(found, last, axis=1)
    return np.where(filled == unknown, first[:, None], filled)


def _argb(color: QColor) -> int:
    return color.rgba()
