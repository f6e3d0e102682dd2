"""Jogging: what the buttons and the armed keys do. The widgets only say what was pressed and let go."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import QObject, QTimer, Signal

from idler.core.errors import Refusal
from idler.core.units import INCH, INCH_MIN, MM, MM_MIN, convert, parse

from .desk import Desk

CONFIRM_MS = 60  # how often a held jog is confirmed to the link
DISARM_MS = 60_000
STEPS_MM = ("10", "1", "0.1", "0.01")
STEPS_INCH = ("1", "0.1", "0.01", "0.001")
FIRST_SPEED = Fraction(600)  # mm/min: no crawl, and slow enough to take the hand away


class Jog(QObject):
    """step: text of the step in the screen's unit, or "" to move while held."""

    changed = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.step = "1"
        self.speed = FIRST_SPEED
        self.armed = False
        self._held: int | None = None
        self.targets: dict[int, float] = {}
        self._confirm = QTimer(self)
        self._confirm.setInterval(CONFIRM_MS)
        self._confirm.timeout.connect(desk.link.keep_holding)
        desk.halted.connect(self.stopped)
        self._disarm = QTimer(self)
        self._disarm.setSingleShot(True)
        self._disarm.setInterval(DISARM_MS)
        self._disarm.timeout.connect(lambda: self.arm(False))

    @property
    def steps(self) -> tuple[str, ...]:
        return STEPS_INCH if self._desk.machine.inch else STEPS_MM

    def set_step(self, step: str) -> None:
        self.step = step
        self.changed.emit()

    def set_speed(self, text: str) -> None:
        """Speed of jogging, in mm/min (or °/min for a rotary axis). Raises Refusal."""
        speed = parse(text, MM_MIN, bare=INCH_MIN if self._desk.machine.inch else None, part="jog speed")
        if not 0 < speed <= 200_000:
            raise Refusal("jog speed", text.strip(), "cannot be used", "above 0 and up to 200 000 mm/min")
        self.speed = speed
        self.changed.emit()

    def arm(self, on: bool) -> None:
        """Lets the keyboard jog, for a while."""
        if on != self.armed:
            self.armed = on
            self.changed.emit()
        if on:
            self._disarm.start()
        else:
            self._disarm.stop()
            self.let_go()

    def press(self, slot: int, sign: int) -> None:
        """A jog button or an armed key went down."""
        if self.armed:
            self._disarm.start()
        axis = self._desk.machine.axis(slot)
        top = axis.number("pace.top_speed")
        speed = float(min(self.speed, top) if top else self.speed)
        if self.step:
            distance = Fraction(self.step) * sign
            if self._desk.machine.inch and not axis.rotary:
                distance = convert(distance, INCH, MM)
            self._aim(slot, float(distance))
            self._desk.link.jog_step(slot, float(distance), speed)
        else:
            self.let_go()
            self._held = slot
            self._confirm.start()
            self._desk.link.jog_hold(slot, sign * speed)

    def let_go(self) -> None:
        """Whatever was held is let go."""
        if self._held is not None:
            slot, self._held = self._held, None
            self._confirm.stop()
            self._desk.link.jog_hold(slot, 0.0)

    def stopped(self) -> None:
        """STOP was pressed: nothing is held, nothing is on its way."""
        self._held = None
        self._confirm.stop()
        self.targets.clear()

    def _aim(self, slot: int, distance: float) -> None:
        """Where the ghost on the rail stands: the end of the steps asked for."""
        axes = self._desk.link.axes
        if slot >= len(axes):
            return
        start = self.targets.get(slot, axes[slot].position) if axes[slot].moving else axes[slot].position
        self.targets[slot] = start + distance
