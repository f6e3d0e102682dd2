"""The bus and what hangs on it: this computer, the controller with its axes, terminals and spindle, and other nodes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from idler.core.machine import Axis, Machine
from idler.core.table import MACHINE
from idler.core.values.roles import InputRole, OutputRole
from idler.core.wiring import inputs, outputs, spindle_kind
from idler.core.words import capital, word

from .. import theme
from .picture import ScenePicture

LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
GAP, BOX = 14.0, 62.0


@dataclass(frozen=True)
class Part:
    """A box of the picture: what it is, and a line about it."""

    title: str
    words: str = ""


@dataclass(frozen=True)
class BusScene:
    """wire: words about the bus. others: nodes beside the controller. hangs: what is wired to the controller."""

    alive: bool
    wire: str
    address: str
    controller: Part
    others: tuple[Part, ...]
    hangs: tuple[Part, ...]


def hangs_of(machine: Machine, drives: Mapping[str, int] | None = None) -> tuple[Part, ...]:
    """What is wired to the controller of a machine, as the draft says. drives: by letter the node of each axis, where a
    controller is made of parts."""

    def words(axis: Axis) -> str:
        if drives or machine.made_of_parts:
            return f"node {drives[axis.name]}" if drives and axis.name in drives else "no drive yet"
        return f"output {axis.whole('axis.output')}" if axis.whole("axis.output") else "no output yet"

    axes = [Part(axis.name, words(axis)) for axis in machine.axes]
    taken = sum(item.role is not InputRole.NONE for item in inputs(machine))
    given = sum(item.role is not OutputRole.NONE for item in outputs(machine))
    terminals = [
        Part(f"{number} {name}", f"{used} with a role")
        for number, used, name in ((machine.inputs, taken, word("inputs")), (machine.outputs, given, word("outputs")))
        if number
    ]
    return (*axes, *terminals, Part(word("spindle"), MACHINE["spindle.kind"].choice(spindle_kind(machine)).label))


class BusPicture(ScenePicture[BusScene]):
    least = 250

    def words(self, scene: BusScene) -> str:
        words = scene.wire if scene.alive else "no link"
        return f"{scene.controller.title}, {scene.controller.words}; {words}"

    def paint(self, p: QPainter, scene: BusScene) -> None:
        s = scene
        live = "petrol" if s.alive else "soft"
        third = self.wide * 0.3
        computer = QRectF(2, 6, third, BOX)
        controller = QRectF(self.wide - third * 1.25 - 2, 6, third * 1.25, BOX)
        self._wire(p, s, live, computer.right(), controller.left(), computer.center().y())
        self._box(p, computer, Part("this computer", "Idler"), s.alive)
        self._box(p, controller, s.controller, s.alive)
        if s.others:
            self._others(p, s.others, QRectF(2, BOX + 26, third, 24))
        self._hanging(p, s, live, controller)

    def _wire(self, p: QPainter, s: BusScene, live: str, start: float, end: float, y: float) -> None:
        """Two lines of a bus; whole while the link is alive."""
        style = Qt.PenStyle.SolidLine if s.alive else Qt.PenStyle.DashLine
        p.setPen(QPen(theme.color(live), 2.6 if s.alive else 1.8, style))
        for side in (-4, 4):
            p.drawLine(QPointF(start, y + side), QPointF(end, y + side))
        p.setPen(theme.color("ink" if s.alive else "soft"))
        p.setFont(theme.text_font(13))
        room = int(end - start) - 12
        for words, top in ((s.wire, y - 26), (s.address, y + 9)):
            shown = p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideMiddle, room)
            p.drawText(QRectF(start, top, end - start, 18), Qt.AlignmentFlag.AlignCenter, shown)

    def _others(self, p: QPainter, others: Sequence[Part], place: QRectF) -> None:
        p.setFont(theme.text_font(12))
        p.setPen(theme.color("soft"))
        p.drawText(place, LEFT, "also on this bus: " + ", ".join(part.title for part in others))

    def _hanging(self, p: QPainter, s: BusScene, live: str, controller: QRectF) -> None:
        """Rows of boxes below the controller, each on its wire."""
        columns = 4 if self.wide >= 520 else 3
        rows = -(-len(s.hangs) // columns)
        top = controller.bottom() + 44
        wide = (self.wide - 4 - GAP * (columns - 1)) / columns
        high = min(104.0, max(38.0, (self.high - top - 8 - GAP * (rows - 1)) / max(1, rows)))
        rail = controller.bottom() + 22
        p.setPen(QPen(theme.color(live), 1.6))
        p.drawLine(QPointF(controller.center().x(), controller.bottom()), QPointF(controller.center().x(), rail))
        p.drawLine(QPointF(2 + wide / 2, rail), QPointF(self.wide - 2 - wide / 2, rail))
        for place, part in enumerate(s.hangs):
            row, column = divmod(place, columns)
            box = QRectF(2 + column * (wide + GAP), top + row * (high + GAP), wide, high)
            p.setPen(QPen(theme.color(live), 1.6))
            above = rail if not row else box.top() - GAP
            p.drawLine(QPointF(box.center().x(), above), QPointF(box.center().x(), box.top()))
            self._box(p, box, part, s.alive)

    def _box(self, p: QPainter, box: QRectF, part: Part, alive: bool) -> None:
        p.setPen(QPen(theme.color("ink"), 1.4))
        p.setBrush(theme.color("pale_petrol" if alive else "paper"))
        p.drawRoundedRect(box, 4, 4)
        room = int(box.width()) - 18
        lines = ((part.title, "ink", theme.text_font(14, bold=True)), (part.words, "soft", theme.text_font(12)))
        half = box.height() / 2
        for line, (words, name, font) in enumerate(lines):
            p.setFont(font)
            p.setPen(theme.color(name))
            shown = p.fontMetrics().elidedText(capital(words) if not line else words, Qt.TextElideMode.ElideRight, room)
            place = QRectF(box.left() + 10, box.top() + 4 + line * (half - 4), box.width() - 18, half - 4)
            p.drawText(place, LEFT, shown)
