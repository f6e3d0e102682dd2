"""The path of a program over the envelope, in plan and elevation: rapid dashed, feed coloured, what lies beyond in red."""

from __future__ import annotations

import time
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QSizePolicy

from idler.core.program.state import Array
from idler.core.travel import Ends

from .. import growth, theme
from .curves import draw_curve
from .envelope import View, draw_limits, laid
from .picture import Picture
from .shades import BEYOND, RAPID, SHADES

if TYPE_CHECKING:
    from idler.core.program.strokes import Strokes

CALM = 0.020  # s that a drawing may take and still follow the hand; a slower one is moved first, and drawn when the hand rests
REST_MS = 90
CLOSEST, FARTHEST = 4000.0, 0.5  # of the scale that shows all
USUAL = 2  # drawings that are shown beside one another: plan and elevation
UNSEEN = 0.6  # pixels by which a drawing may err
NEAR = 7.0  # pixels from a stroke at which it is meant


@dataclass(frozen=True, eq=False)
class PathScene:
    """views: drawings of the envelope, of which the first two are usually shown. columns: of each axis letter in the strokes.
    shades: (n,) of each stroke, 0 to BEYOND.
    part: the strokes that are shown, from the first to before the last. zero: of the work, by letter."""

    views: tuple[View, ...]
    columns: dict[str, int]
    strokes: Strokes | None
    shades: Array
    part: tuple[int, int]
    zero: dict[str, float]


class ProgramPicture(Picture):
    """Drag to move, wheel to come nearer, a click takes a line, a double click shows one drawing alone; + − and 0 by keys, and
    1 to 3 for each plane alone."""

    taken = Signal(int)  # the stroke that was clicked
    turned = Signal()  # another drawing is shown alone, or none

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(150)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._scene: PathScene | None = None
        self._alone: int | None = None  # the drawing that is shown alone
        self._zoom, self._shift = 1.0, QPointF()
        self._held: QPointF | None = None
        self._moved = False
        self._marked: tuple[int, int] | None = None
        self._tool: dict[str, float] | None = None  # where it stands, by axis letter
        self._spots: Mapping[str, Mapping[str, float]] = {}
        self._images: dict[int, tuple[tuple[object, ...], QImage, float, float, float]] = {}
        self.slowest = 0.0  # s that the last drawing of all strokes took
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST_MS)
        self._rest.timeout.connect(self._redraw)
        self._late = False

    def show_scene(self, scene: PathScene | None) -> None:
        self._scene = scene
        self._images.clear()
        self.update()

    def mark(self, strokes: tuple[int, int] | None) -> None:
        """Shows these strokes, from the first to before the last, before all others."""
        self._marked = strokes
        self.update()

    def show_tool(self, places: dict[str, float] | None) -> None:
        """Where the tool stands now, in machine coordinates by letter; None where nobody knows."""
        if places != self._tool:
            self._tool = places
            self.update()

    def show_spots(self, spots: Mapping[str, Mapping[str, float]]) -> None:
        """Places that are pointed at, in machine coordinates by letter, each with what is written at it."""
        if spots != self._spots:
            self._spots = dict(spots)
            self.update()

    def show_all(self) -> None:
        self._zoom, self._shift = 1.0, QPointF()
        self._redraw()

    @property
    def alone(self) -> int | None:
        """The number of the drawing that is shown alone; None where the usual ones are."""
        there = self._scene is not None and self._alone is not None and self._alone < len(self._scene.views)
        return self._alone if there else None

    def turn_to(self, number: int | None) -> None:
        """One drawing alone, or the usual ones."""
        self._alone = number
        self._images.clear()
        self.show_all()
        self.turned.emit()

    def _redraw(self) -> None:
        self._late = False
        self.update()

    # -- where things lie -----------------------------------------------------------------------------------------

    def _panes(self) -> list[tuple[int, View, QRectF, float]]:
        """The drawings that are shown: number, view, frame, pixels for each mm when all is shown."""
        scene = self._scene
        if scene is None or not scene.views:
            return []
        alone = self.alone
        chosen = range(min(USUAL, len(scene.views))) if alone is None else (alone,)
        placed = laid(tuple(scene.views[at] for at in chosen), QRectF(14, 4, self.wide - 28, self.high - 12))
        return [(number, *each) for number, each in zip(chosen, placed, strict=True)]

    def _origin(self, view: View, box: QRectF, scale: float) -> tuple[float, float, float]:
        """(scale, x of 0, y of 0) in pixels of the usual size; all drawings are moved and magnified alike."""
        large = scale * self._zoom
        middle_x, middle_y = (sum(view.across.span) / 2, sum(view.up.span) / 2)
        return (large, box.center().x() + self._shift.x() - middle_x * large,
                box.center().y() + self._shift.y() + middle_y * large)  # fmt: skip

    # -- painting -------------------------------------------------------------------------------------------------

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        scene = self._scene
        if scene is None or not scene.views:
            p.setPen(theme.color("soft"))
            p.drawText(self.room, Qt.AlignmentFlag.AlignCenter, "Two linear axes with their ends make the drawing.")
            return
        for number, view, box, scale in self._panes():
            frame = box.adjusted(-12, -10, 12, 10)
            large, x, y = self._origin(view, box, scale)
            p.setFont(theme.text_font(12))
            p.setPen(theme.color("soft"))
            p.drawText(QPointF(box.left(), frame.top() - 5), view.words)
            p.save()
            p.setClipRect(frame)
            p.fillRect(frame, theme.color("paper"))

            def at(across: float, up: float, large: float = large, x: float = x, y: float = y) -> QPointF:
                return QPointF(x + across * large, y - up * large)

            draw_limits(p, view, at, large)
            self._zero(p, view, at)
            if scene.strokes is not None:
                self._strokes(p, number, view, frame, large, x, y)
                self._mark(p, view, at)
            self._spot_marks(p, view, at)
            self._tool_mark(p, view, at)
            p.restore()
            p.setPen(QPen(theme.color("line"), 1))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(frame)
        if self.hasFocus():
            p.setPen(QPen(theme.color("petrol"), 2))
            p.drawRect(self.room.adjusted(1, 1, -1, -1))
        p.end()

    def _strokes(self, p: QPainter, number: int, view: View, frame: QRectF, large: float, x: float, y: float) -> None:
        scene = self._scene
        assert scene is not None and scene.strokes is not None
        grown = growth.factor() * self.devicePixelRatioF()
        wide, high = max(1, round(frame.width() * grown)), max(1, round(frame.height() * grown))
        wanted = (large, x, y, wide, high, theme.is_night(), scene.part)
        held = self._images.get(number)
        if held is not None and held[0] != wanted and self._late and held[0][0] == large and held[0][3:] == wanted[3:]:
            p.drawImage(frame.translated(x - held[3], y - held[4]), held[1])  # as it was, moved along with the hand
            return
        if held is None or held[0] != wanted:
            from . import raster  # compiled, and slow to load

            names = view.across.name, view.up.name
            if any(name not in scene.columns for name in names):
                return
            a, b = (scene.columns[name] for name in names)
            begun = time.perf_counter()
            cover, shades = (np.zeros((high, wide), np.uint8) for _ in range(2))
            looked = np.array(
                [a, large * grown, (x - frame.left()) * grown, b, -large * grown, (y - frame.top()) * grown], float
            )
            strokes, (first, last), tints = scene.strokes, scene.part, scene.shades
            points, rapid = strokes.points, strokes.rapid
            coarse = strokes.level(UNSEEN / (large * grown))
            if coarse is not None:
                points, rapid, tints = coarse.points, coarse.rapid, tints[coarse.kept]
                first, last = (int(at) for at in np.searchsorted(coarse.kept, (first, last)))
            raster.draw(points, rapid, tints, first, last, looked, max(1.0, 1.7 * grown), cover, shades)
            pixels = np.ascontiguousarray(raster.coloured(cover, shades, palette()))
            image = QImage(pixels.data, wide, high, 4 * wide, QImage.Format.Format_ARGB32_Premultiplied).copy()
            self.slowest = time.perf_counter() - begun
            held = (wanted, image, self.slowest, x, y)
            self._images[number] = held
        p.drawImage(frame, held[1])

    def _zero(self, p: QPainter, view: View, at: object) -> None:
        """The work zero, as on the rails."""
        scene = self._scene
        assert scene is not None and callable(at)
        names = view.across.name, view.up.name
        if all(name in scene.zero for name in names):
            place = at(*(scene.zero[name] for name in names))
            p.setPen(QPen(theme.color("brass"), 2.4))
            for way in (QPointF(6, 6), QPointF(6, -6)):
                p.drawLine(place - way, place + way)

    def _spot_marks(self, p: QPainter, view: View, at: object) -> None:
        """Triangles whose tips are the places, with the letter of the axis over each."""
        names = view.across.name, view.up.name
        assert callable(at)
        for letter, places in self._spots.items():
            if not all(name in places for name in names):
                continue
            place = at(*(places[name] for name in names))
            p.setPen(QPen(theme.color("ink"), 1.4))
            p.setBrush(theme.color("vermilion"))
            p.drawPolygon([place, place + QPointF(-6, -12), place + QPointF(6, -12)])
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawText(place + QPointF(9, -6), letter)

    def _tool_mark(self, p: QPainter, view: View, at: object) -> None:
        """A ring with a point in it."""
        names = view.across.name, view.up.name
        if self._tool is None or not all(name in self._tool for name in names):
            return
        assert callable(at)
        place = at(*(self._tool[name] for name in names))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme.color("panel"), 5))
        p.drawEllipse(place, 7, 7)
        p.setPen(QPen(theme.color("ink"), 2.2))
        p.drawEllipse(place, 7, 7)
        p.setBrush(theme.color("ink"))
        p.drawEllipse(place, 1.6, 1.6)

    def _mark(self, p: QPainter, view: View, at: object) -> None:
        scene = self._scene
        assert scene is not None and scene.strokes is not None and callable(at)
        names = view.across.name, view.up.name
        if self._marked is None or any(name not in scene.columns for name in names):
            return
        a, b = (scene.columns[name] for name in names)
        first, last = self._marked
        places = [
            at(float(point[a]), float(point[b])) for point in scene.strokes.points[first : min(last, first + 2000) + 1]
        ]
        p.setPen(QPen(theme.color("ink"), 3.4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        draw_curve(p, places)
        if places:
            p.setBrush(theme.color("panel"))
            p.setPen(QPen(theme.color("ink"), 2))
            p.drawEllipse(places[-1], 5, 5)

    # -- hands ----------------------------------------------------------------------------------------------------

    def _move(self, by: QPointF) -> None:
        self._shift += by
        if self.slowest > CALM:
            self._late = True
            self._rest.start()
        self.update()

    def _nearer(self, factor: float, about: QPointF) -> None:
        panes = self._panes()
        if not panes:
            return
        zoom = min(CLOSEST, max(FARTHEST, self._zoom * factor))
        box = next((box for _, _, box, _ in panes if box.adjusted(-12, -10, 12, 10).contains(about)), panes[0][2])
        real = zoom / self._zoom
        away = about - box.center() - self._shift
        self._zoom, self._shift = zoom, self._shift - away * (real - 1)
        self._redraw()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._nearer(1.2 ** (event.angleDelta().y() / 120), event.position() / growth.factor())
        event.accept()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._held, self._moved = self.hand(event), False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            here = self.hand(event)
            if self._moved or (here - self._held).manhattanLength() > 4:
                self._moved = True
                self._move(here - self._held)
                self._held = here

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held is not None and not self._moved:
            self._take(self.hand(event))
        self._held = None
        if self._late:
            self._redraw()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        here = self.hand(event)
        alone = next((number for number, _, box, _ in self._panes() if box.contains(here)), None)
        self.turn_to(alone if self.alone is None else None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        middle = QPointF(self.wide / 2, self.high / 2)
        panes = self._panes()
        if panes:
            middle = panes[0][2].center()
        if event.text() in ("+", "="):
            self._nearer(1.3, middle)
        elif event.text() == "-":
            self._nearer(1 / 1.3, middle)
        elif event.text() == "0":
            self.show_all()
        elif self._scene is not None and event.text() in [str(each + 1) for each in range(len(self._scene.views))]:
            number = int(event.text()) - 1
            self.turn_to(None if number == self.alone else number)
        else:
            super().keyPressEvent(event)

    def _take(self, here: QPointF) -> None:
        """The stroke that is nearest to a click."""
        scene = self._scene
        if scene is None or scene.strokes is None:
            return
        for _, view, box, scale in self._panes():
            names = view.across.name, view.up.name
            if not box.adjusted(-12, -10, 12, 10).contains(here) or any(name not in scene.columns for name in names):
                continue
            large, x, y = self._origin(view, box, scale)
            a, b = (scene.columns[name] for name in names)
            first, last = scene.part
            points = scene.strokes.points[first : last + 1]
            place = np.array([(here.x() - x) / large, (y - here.y()) / large], np.float32)
            begins, ends = points[:-1][:, (a, b)], points[1:][:, (a, b)]
            ways = ends - begins
            squares = np.maximum((ways * ways).sum(1), np.float32(1e-12))
            shares = (((place - begins) * ways).sum(1) / squares).clip(0, 1)
            away = ((begins + shares[:, None] * ways - place) ** 2).sum(1)
            if len(away):
                best = int(away.argmin())
                if float(away[best]) ** 0.5 * large <= NEAR:
                    self.taken.emit(first + best)
            return


def palette() -> Array:
    """Colours by shade: indigo, petrol and brass for what grows, vermilion beyond, soft for what is rapid."""
    stops = [theme.color(name) for name in ("indigo", "petrol", "brass")]
    found: Array = np.zeros((256, 3), np.uint8)
    places = np.linspace(0, SHADES, len(stops))
    for at, part in enumerate(("red", "green", "blue")):
        found[: SHADES + 1, at] = np.interp(np.arange(SHADES + 1), places, [getattr(stop, part)() for stop in stops])
    for shade, name in ((BEYOND, "vermilion"), (RAPID, "soft")):
        tone = theme.color(name)
        found[shade] = tone.red(), tone.green(), tone.blue()
    return found


def wider(ends: Ends, low: float, high: float) -> Ends:
    """The same axis with a span that holds what reaches beyond it."""
    first, last = ends.span
    return ends if first <= low and high <= last else replace(ends, reach=(min(first, low), max(last, high)))
