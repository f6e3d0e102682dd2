"""The envelope in plan and elevation, to scale: stops, soft limits, cushions, switches, home, parking, the tool."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen, QPolygonF

from idler.core.travel import Ends
from idler.core.values.measures import MILLIMETRES, Measures
from idler.core.words import word

from .. import theme
from .labels import on_plate
from .picture import ScenePicture

FRAME, HEAD, FOOT = 26.0, 32.0, 30.0  # pixels: around the drawings, above each for its words, for what the lines mean
RIGHT, BELOW = 64.0, 26.0  # beside and below each, for the figures of its ends
IRON, CHUCK = 9.0, 28.0
APART = 12.0  # between two names
SMALLER = 1.5  # times that drawings one below the other are smaller, and their names are short for it
LINE = 18.0  # of the words below


@dataclass(frozen=True)
class View:
    """One drawing: an axis to the right and one up, and what it is called."""

    across: Ends
    up: Ends
    words: str
    turned: bool = False  # the work turns about the line where `up` is zero, in a chuck at the left

    @property
    def short(self) -> str:
        return self.words.partition(":")[0]


def views_of(ends: dict[str, Ends]) -> tuple[View, ...]:
    """The drawings of a machine with these linear axes: from above and from the front, or a lathe's one from above."""
    if "Y" not in ends and {"X", "Z"} <= ends.keys():
        return (View(ends["Z"], ends["X"], "from above: Z + to the right, X + up", turned=True),)
    words = (("X", "Y", "from above: X + to the right, Y + up"), ("X", "Z", "from the front: X + to the right, Z + up"))
    return tuple(View(ends[across], ends[up], told) for across, up, told in words if across in ends and up in ends)


def planes_of(ends: dict[str, Ends]) -> tuple[View, ...]:
    """The same, and the third plane, where there is one: from the right."""
    side = (
        (View(ends["Y"], ends["Z"], "from the right: Y + to the right, Z + up"),)
        if {"X", "Y", "Z"} <= ends.keys()
        else ()
    )
    return (*views_of(ends), *side)


@dataclass(frozen=True)
class EnvelopeScene:
    """at: coordinates by letter, empty while they are not known. trail: of the last run, as (letter, coordinate) by step."""

    views: tuple[View, ...]
    chosen: str
    at: dict[str, float]
    trail: tuple[dict[str, float], ...] = ()
    reads: Measures = MILLIMETRES


class EnvelopePicture(ScenePicture[EnvelopeScene]):
    least = 200

    def paint(self, p: QPainter, scene: EnvelopeScene) -> None:
        if self._scene is None or not self._scene.views:
            p.setPen(theme.color("soft"))
            p.drawText(self.room, Qt.AlignmentFlag.AlignCenter, "Two linear axes with their ends make the drawing.")
            return
        p.setFont(theme.text_font(12))
        lines = self._key_lines(p)
        foot = FOOT + LINE * (len(lines) - 1)
        room = QRectF(FRAME, 6, self.wide - 2 * FRAME, self.high - 6 - foot)
        for view, box, scale in laid(self._scene.views, room):
            self._view(p, view, box, scale)
        for number, line in enumerate(lines):
            self._key(p, line, self.high - foot + 16 + LINE * number)

    def _key_lines(self, p: QPainter) -> list[list[tuple[str, str]]]:
        """What the lines are, in as many lines as there is room for."""
        lines: list[list[tuple[str, str]]] = [[]]
        x = FRAME
        kinds = (
            ("stop", "hard stop"), ("limit", "soft limit"), ("cushion", word("cushion")), ("switch", word("switch")),
            ("home", word("home")),
        )  # fmt: skip
        for kind, words in kinds:
            width = p.fontMetrics().horizontalAdvance(words)
            if lines[-1] and x + 30 + width > self.wide:
                lines.append([])
                x = FRAME
            lines[-1].append((kind, words))
            x += width + 46
        return lines

    def _key(self, p: QPainter, line: list[tuple[str, str]], y: float) -> None:
        x = FRAME
        p.setFont(theme.text_font(12))
        for kind, words in line:
            if kind == "cushion":
                p.fillRect(QRectF(x, y - 6, 22, 12), theme.color("pale_brass"))
            elif kind == "home":
                _datum(p, QPointF(x + 11, y + 6))
            else:
                p.setPen(_pen(kind))
                p.drawLine(QPointF(x, y), QPointF(x + 22, y))
            p.setPen(theme.color("soft"))
            p.drawText(QPointF(x + 28, y + 4), words)
            x += p.fontMetrics().horizontalAdvance(words) + 46

    def _view(self, p: QPainter, view: View, box: QRectF, scale: float) -> None:
        scene = self._scene
        assert scene is not None
        low_x, low_y = view.across.span[0], view.up.span[0]

        def at(x: float, y: float) -> QPointF:
            return QPointF(box.left() + (x - low_x) * scale, box.bottom() - (y - low_y) * scale)

        p.setFont(theme.text_font(12))
        p.setPen(theme.color("soft"))
        p.drawText(QPointF(box.left(), box.top() - IRON - 6), view.words)
        draw_limits(p, view, at, scale)
        if view.turned:
            self._chuck(p, box, at(low_x, 0.0).y())
        self._switches(p, box, view, at)
        self._chosen(p, box, view, at)
        self._trail(p, view, at)
        self._points(p, view, at)

    def _chuck(self, p: QPainter, box: QRectF, y: float) -> None:
        """Of a lathe: the chuck, and the line about which the work turns."""
        p.setPen(QPen(theme.color("soft"), 1.4, Qt.PenStyle.DashDotLine))
        p.drawLine(QPointF(box.left() - CHUCK, y), QPointF(box.right() + IRON, y))
        p.setPen(QPen(theme.color("ink"), 1.4))
        p.setBrush(theme.color("metal"))
        left = box.left() - IRON - CHUCK / 2
        p.drawRect(QRectF(left - CHUCK / 2, y - 26, CHUCK / 2, 52))
        for side in (-1, 1):
            p.drawRect(QRectF(left, y + side * 14 - 6, CHUCK / 2, 12))

    def _switches(self, p: QPainter, box: QRectF, view: View, at: Callable[[float, float], QPointF]) -> None:
        p.setPen(_pen("switch"))
        if view.across.switch is not None:
            x = at(view.across.switch, view.up.span[0]).x()
            p.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
        if view.up.switch is not None:
            y = at(view.across.span[0], view.up.switch).y()
            p.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))

    def _chosen(self, p: QPainter, box: QRectF, view: View, at: Callable[[float, float], QPointF]) -> None:
        """The ends of the axis in question, with their figures."""
        scene = self._scene
        assert scene is not None
        p.setFont(theme.figure_font(11, bold=True))
        p.setPen(theme.color("petrol"))
        for ends, level in ((view.across, True), (view.up, False)):
            if ends.name != scene.chosen or ends.low >= ends.high:
                continue
            for value in (ends.low, ends.high):
                words = scene.reads.length(value, trim=True)
                if level:
                    x = at(value, view.up.span[0]).x()
                    first = value == ends.low  # each grows to the inside, clear of what is drawn beside
                    side = Qt.AlignmentFlag.AlignLeft if first else Qt.AlignmentFlag.AlignRight
                    p.drawText(QRectF(x if first else x - 100, box.bottom() + IRON + 3, 100, 15), side, words)
                else:
                    y = at(view.across.span[0], value).y()
                    right = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
                    p.drawText(QRectF(box.right() + IRON + 4, y - 8, 100, 16), right, words)

    def _trail(self, p: QPainter, view: View, at: Callable[[float, float], QPointF]) -> None:
        scene = self._scene
        assert scene is not None
        names = view.across.name, view.up.name
        points = [at(*(place[name] for name in names)) for place in scene.trail if all(name in place for name in names)]
        if len(points) > 1:
            p.setPen(QPen(theme.color("indigo"), 1.6, Qt.PenStyle.DashLine))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPolyline(QPolygonF(points))

    def _points(self, p: QPainter, view: View, at: Callable[[float, float], QPointF]) -> None:
        scene = self._scene
        assert scene is not None
        if view.across.home is not None and view.up.home is not None:
            _datum(p, at(view.across.home, view.up.home))
        if view.across.park is not None and view.up.park is not None:
            park = at(view.across.park, view.up.park)
            p.setPen(QPen(theme.color("ink"), 1.6))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(QRectF(park.x() - 15, park.y() - 15, 30, 30))  # the tool stands inside of it when it is parked
            p.setFont(theme.text_font(12, bold=True))
            tool = scene.at.get(view.across.name)
            side = -1 if tool is None or tool >= view.across.park else 1  # away from the tool
            p.drawText(QRectF(park.x() + side * 25 - 7, park.y() + 2, 14, 14), Qt.AlignmentFlag.AlignCenter, "P")
        if view.across.name in scene.at and view.up.name in scene.at:
            here = at(scene.at[view.across.name], scene.at[view.up.name])
            p.setPen(QPen(theme.color("petrol"), 2))
            p.setBrush(theme.color("pale_petrol"))
            p.drawEllipse(here, 6, 6)
            for way in (QPointF(1, 0), QPointF(-1, 0), QPointF(0, 1), QPointF(0, -1)):
                p.drawLine(here + way * 7, here + way * 13)


def draw_limits(p: QPainter, view: View, at: Callable[[float, float], QPointF], scale: float) -> None:
    """Iron, soft limits and cushions of a drawing. scale: pixels for each mm."""
    a, b = view.across, view.up
    if a.stops is not None and b.stops is not None:
        iron = QRectF(at(a.stops[0], b.stops[1]), at(a.stops[1], b.stops[0]))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color("metal"))
        p.drawRect(iron.adjusted(-IRON, -IRON, IRON, IRON))  # what stands in the way
        p.setPen(_pen("stop"))
        p.setBrush(theme.color("paper"))
        p.drawRect(iron)
    if a.low < a.high and b.low < b.high:
        inside = QRectF(at(a.low, b.high), at(a.high, b.low))
        on = a.limits_on and b.limits_on
        p.fillRect(inside, theme.color("panel"))
        _cushions(p, inside, a.cushion * scale, b.cushion * scale)
        p.setPen(_pen("limit") if on else QPen(theme.color("brass"), 1.8, Qt.PenStyle.DashLine))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(inside)
        if not on and inside.height() > 2 * LINE:  # in a smaller one the dashes alone say it
            p.setPen(theme.color("brass"))
            p.setFont(theme.text_font(12, bold=True))
            on_plate(p, inside, "soft limits off")


def _cushions(p: QPainter, inside: QRectF, across: float, up: float) -> None:
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(theme.color("pale_brass"))
    if across > 0:
        p.drawRect(QRectF(inside.left(), inside.top(), across, inside.height()))
        p.drawRect(QRectF(inside.right() - across, inside.top(), across, inside.height()))
    if up > 0:
        p.drawRect(QRectF(inside.left(), inside.top(), inside.width(), up))
        p.drawRect(QRectF(inside.left(), inside.bottom() - up, inside.width(), up))


def _pen(kind: str) -> QPen:
    """Iron is thick, a soft limit thin, a switch dashed."""
    match kind:
        case "stop":
            return QPen(theme.color("ink"), 4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap)
        case "switch":
            return QPen(theme.color("indigo"), 2, Qt.PenStyle.DashLine)
    return QPen(theme.color("petrol"), 1.6)


def _datum(p: QPainter, tip: QPointF) -> None:
    """Home: the datum triangle of technical drawings."""
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(theme.color("petrol"))
    p.drawPolygon(QPolygonF([tip, tip + QPointF(-7, -12), tip + QPointF(7, -12)]))


def laid(views: tuple[View, ...], room: QRectF) -> list[tuple[View, QRectF, float]]:
    """The drawings side by side or one below the other, whichever shows them larger, to one scale in the middle of the room.
    Their names are short where they would be much smaller for the whole ones."""
    spans = [(_length(view.across), _length(view.up)) for view in views]
    count = len(views)
    beside = min(
        (room.width() - RIGHT * count) / sum(across for across, _ in spans),
        (room.height() - HEAD - BELOW) / max(up for _, up in spans),
    )
    stacked = min(
        (room.width() - RIGHT) / max(across for across, _ in spans),
        (room.height() - (HEAD + BELOW) * count) / sum(up for _, up in spans),
    )
    if count > 1 and beside > SMALLER * stacked and sum(_named(view.words) for view in views) > room.width():
        views = tuple(replace(view, words=view.short) for view in views)
    wide = [max(across * beside + RIGHT, _named(view.words)) for (across, _), view in zip(spans, views, strict=True)]
    side_by_side = beside >= stacked and (count == 1 or sum(wide) <= room.width())  # with room for their names
    scale = max(beside if side_by_side else stacked, 1e-9)
    placed = []
    if side_by_side:
        x = room.left() + (room.width() - sum(wide)) / 2
        for view, (across, up), each in zip(views, spans, wide, strict=True):
            top = room.top() + HEAD + (room.height() - HEAD - BELOW - up * scale) / 2
            placed.append((view, QRectF(x, top, across * scale, up * scale), scale))
            x += each
        return placed
    y = room.top() + (room.height() - sum(up * scale + HEAD + BELOW for _, up in spans)) / 2
    for view, (across, up) in zip(views, spans, strict=True):
        left = room.left() + (room.width() - RIGHT - across * scale) / 2
        left = max(room.left(), min(left, room.right() - _named(view.words)))
        placed.append((view, QRectF(left, y + HEAD, across * scale, up * scale), scale))
        y += up * scale + HEAD + BELOW
    return placed


def _named(words: str) -> float:
    """Pixels that the name of a drawing needs."""
    return QFontMetricsF(theme.text_font(12)).horizontalAdvance(words) + APART


def _length(ends: Ends) -> float:
    low, high = ends.span
    return high - low
