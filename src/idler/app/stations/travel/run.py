"""Moves of the Travel station: to both ends and beyond, round the envelope, to the parking place."""

from __future__ import annotations

from PySide6.QtCore import Signal

from idler.core.chain import Chain
from idler.core.travel import BEYOND, ends_of, parking_order

from ...desk import Desk
from ..script import Script, Steps, Trouble

SLOW = 600.0  # mm/min or °/min


class TravelRun(Script):
    """trail: coordinates of all axes, as often as a run round the envelope was looked at."""

    proven = Signal(int, bool, str)  # slot, whether both ends held, and in words what was seen

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.trail: list[dict[str, float]] = []

    def obstacle(self, slots: list[int]) -> str:
        """Why these axes cannot be driven to their ends now, or an empty text."""
        machine = self._desk.machine
        rests = [a for slot in slots for a in self._desk.values_of(slot, "travel", "pace", "chain", "axis")]
        if why := self._desk.motion_obstacle(rests):
            return why
        lost = [machine.names[slot] for slot in slots if not self._desk.axes[slot].homed]
        if lost:
            return f"{', '.join(lost)} {'is' if len(lost) == 1 else 'are'} not homed: coordinates mean nothing yet."
        open_ends = [machine.names[slot] for slot in slots if not machine.axis(slot).flag("travel.limits_on")]
        return f"The soft limits of {', '.join(open_ends)} are off." if open_ends else ""

    def prove(self, slot: int) -> str:
        """Drives to both ends and asks for more, slowly and at top speed; a sentence where it cannot begin."""
        if why := self.obstacle([slot]):
            return why
        self.begin(self._proving(slot), "First slowly to both ends.")
        return ""

    def go_round(self, slots: list[int], clear: int | None) -> str:
        """Slowly round the envelope of two axes; clear: the axis that first takes the tool to its high end."""
        if why := self.obstacle([*slots, *([clear] if clear is not None else [])]):
            return why
        self.trail = []
        self.begin(self._round(slots, clear), "Slowly round the envelope. Esc stops it.")
        return ""

    def park(self) -> str:
        order = parking_order(self._desk.machine)
        if not order:
            return "No axis has a parking place. Give one its place first."
        if why := self.obstacle([slot for group in order for slot in group]):
            return why
        self.begin(self._parking(order), "To the parking place. Esc stops it.")
        return ""

    # -- steps ----------------------------------------------------------------------------------------------------

    def _to(self, slot: int, coordinate: float, speed: float) -> Steps:
        distance = coordinate - self._desk.axes[slot].position
        if abs(distance) > 2 / float(Chain.of(self._desk.machine.axis(slot)).counts_per_unit):
            yield self.move(slot, distance, speed)

    def _proving(self, slot: int) -> Steps:
        axis, ends = self._desk.machine.axis(slot), ends_of(self._desk.machine, slot)
        count = 1.5 / float(Chain.of(axis).counts_per_unit)
        beyond = BEYOND if axis.choice("travel.beyond") == "shorten" else 0.0
        top = float(axis.number("pace.top_speed"))
        unit = axis.unit
        seen = []
        for speed in (min(SLOW, top), top):
            self.say(f"To both ends and beyond at {speed:.0f} {unit}/min. Esc stops it.")
            for end, past in ((ends.low, -beyond), (ends.high, beyond)):
                yield from self._to(slot, end + past, speed)
                state = self._desk.axes[slot]
                if abs(state.position - end) > count + 1e-4 or state.home_made or state.limit_made:
                    why = "met its switch" if state.home_made or state.limit_made else f"stands at {state.position:.3f}"
                    self.proven.emit(slot, False, f"asked beyond {end:g}, it {why}")
                    raise Trouble(f"{axis.name} did not stop at {end:g} {unit}: it {why}.")
            seen.append(f"{speed:.0f}")
        self.say("Both ends held.")
        paces = " and ".join(seen)
        result = f"stopped at {ends.low:g} and {ends.high:g} {unit}, asked {beyond:g} beyond, at {paces} {unit}/min"
        self.proven.emit(slot, True, result)

    def _round(self, slots: list[int], clear: int | None) -> Steps:
        machine = self._desk.machine
        if clear is not None:
            yield from self._noted(self._to(clear, ends_of(machine, clear).high, SLOW))
        first, second = slots
        a, b = ends_of(machine, first), ends_of(machine, second)
        for slot, place in (
            (first, a.low), (second, b.low), (first, a.high), (second, b.high), (first, a.low), (second, b.low),
        ):  # fmt: skip
            top = float(machine.axis(slot).number("pace.top_speed"))
            yield from self._noted(self._to(slot, place, min(4 * SLOW, top)))
        self.say("Round the envelope, and nothing was met.")

    def _noted(self, steps: Steps) -> Steps:
        """The same steps, with what the axes do written down."""
        for wait in steps:

            def ready(wait=wait) -> bool:  # type: ignore[no-untyped-def]
                places = zip(self._desk.machine.names, self._desk.axes, strict=True)
                self.trail.append({name: axis.position for name, axis in places})
                self.changed.emit()
                return wait()

            yield ready

    def _parking(self, order: list[tuple[int, ...]]) -> Steps:
        machine = self._desk.machine
        for group in order:
            for slot in group:
                axis = machine.axis(slot)
                self.say(f"{axis.name} goes to {float(axis.number('travel.park')):g}.")
                yield from self._to(slot, float(axis.number("travel.park")), float(axis.number("pace.top_speed")))
        self.say("Parked.")
