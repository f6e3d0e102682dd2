"""Runs that rest on a witness: the home switch (or stop) touched again tells whether the counts are still those of the iron.

A way home is always sought: it ends at the edge of the switch, wherever lost steps have put it.
"""

from __future__ import annotations

from idler.core.homing import by_index, by_stop, extent_of, met_at, way
from idler.core.machine import Address
from idler.core.mechanics.reliable import shift_allowed
from idler.core.profile import cia402 as c
from idler.core.profile.cia402 import position_from
from idler.core.profile.codec import Place
from idler.core.profile.homing import LATCHED_WITHIN, TOUCH_PLACE
from idler.core.proof.claims import Proof, ends_claim, home_witness, scale_claim, state
from idler.core.table import axis_index
from idler.core.travel.ends import counts_apart
from idler.core.values.parameter import Value
from idler.core.wiring import home_switch

from .engine import TOUCH_SPEED, Procedure, Steps, Trouble

SOFTER = 8  # times softer than its pace an axis sets out and stops where steps must not be lost by that
SURE = 4  # times closer than what is lost at least the switch is to be known
TOUCHES = 4  # each half as fast as the one before, until it is
BACK = 3.0  # mm or °: back from the switch before it is touched again, at least
TURN = 360.0


class WitnessRun(Procedure):
    """place: where the switch was found last, in mm (°); within: by how far it may lie elsewhere."""

    place = within = 0.0

    def witness_obstacle(self, slot: int) -> str:
        """Why nothing could tell lost steps of this axis, or an empty text."""
        machine = self._session.machine
        if home_switch(machine, slot) is None and not by_stop(machine.axis(slot)):
            return f"{machine.names[slot]} has no home switch or index mark that could tell lost steps. Wire and learn one."
        return ""

    def fine_obstacle(self, slot: int) -> str:
        """Why nothing could tell lost steps of this axis as finely as a switch does, or an empty text."""
        machine = self._session.machine
        if why := self.witness_obstacle(slot):
            return why
        if home_switch(machine, slot) is None:
            return (
                f"{machine.names[slot]} feels its home and has no switch: lost steps could not be told finely enough."
            )
        return ""

    def approach_speed(self, slot: int) -> float:
        axis = self._session.machine.axis(slot)
        return min(float(axis.number("homing.approach")) or TOUCH_SPEED, float(axis.number("pace.top_speed")))

    def back(self, slot: int) -> float:
        """How far back its switch lets go: as its homing was told."""
        axis = self._session.machine.axis(slot)
        return max(BACK, *(float(axis.number(key)) for key in ("homing.back_off", "homing.leave")))

    def known(self, slot: int) -> bool:
        """Whether the axis has been to both ends, and nothing was met."""
        session = self._session
        return state(session.machine, ends_claim(session.machine, slot), session.proofs) is Proof.PROVEN

    def scaled(self, slot: int) -> bool:
        session = self._session
        return state(session.machine, scale_claim(session.machine, slot), session.proofs) is Proof.PROVEN

    # -- steps ----------------------------------------------------------------------------------------------------

    def witness(self, slot: int, *, crawls: bool = False) -> Steps:
        """Touches the home switch, or the stop, slowly; where it was met is then in `place`. Ends clear of it. crawls: all of
        it is as slow as the touch, and sets out softly, so that it loses no steps by itself."""
        if home_switch(self._session.machine, slot) is None:
            yield from self._feel_home(slot)
        else:
            yield from self._touch(slot, crawls)

    def _feel_home(self, slot: int) -> Steps:
        """An axis without a switch homes at its stop; where that was met is told in the coordinates before."""
        where = Place(axis_index(TOUCH_PLACE.index, slot), TOUCH_PLACE.sub)
        yield self.find_home(slot)
        yield self.read(where)
        self.place = position_from(self.raw(where))

    def soft(self, slot: int) -> dict[Address, Value]:
        """The values with which an axis sets out and stops much more softly than its pace."""
        axis = self._session.machine.axis(slot)
        rise = min(axis.number("pace.acceleration"), axis.number("pace.deceleration")) / SOFTER
        return {Address(slot, key): rise for key in ("pace.acceleration", "pace.deceleration", "homing.acceleration")}

    def _touch(self, slot: int, crawls: bool) -> Steps:
        """To the switch, back, and slowly to it again."""
        axis = self._session.machine.axis(slot)
        ahead, back = way(axis), self.back(slot)
        touch = self.touch_speed(slot)
        approach = touch if crawls else self.approach_speed(slot)
        low, high = extent_of(axis) or (0, 0)
        room = max(float(high - low), abs(float(axis.number("travel.high") - axis.number("travel.low"))))
        reach = 400.0 if axis.rotary else 1.1 * room + 50
        soft = self.soft(slot) if crawls else {}
        yield self.try_values({Address(slot, "travel.limits_on"): False, **soft})
        for _ in range(4):
            if not self._session.axes[slot].home_made:
                break
            yield self.move(slot, -ahead * back, touch)
        count, latched = Place(axis_index(c.LATCHES, slot), 0), Place(axis_index(c.LATCHED, slot), 0)
        finest = shift_allowed(self._session.machine, slot) / SURE
        slower = [(2 * back, touch / 2**n) for n in range(TOUCHES)]
        for number, (distance, speed) in enumerate([(reach, approach), *slower]):
            yield self.read(count)
            before = self.raw(count)
            yield self.move(slot, ahead * distance, speed, seek=True)
            yield self.read(count, latched)
            if self.raw(count) == before:
                raise Trouble(f"The switch of {axis.name} was not found within {axis.reads.length(distance, 0)}.")
            yield from self._known_to(slot)
            yield self.move(slot, -ahead * back, approach)
            if number and self.within <= finest:
                break
        else:
            raise Trouble(
                f"Where the switch of {axis.name} is cannot be told: to {axis.reads.length(self.within, 3)} only. Its parts "
                "are not looked at often enough: end what else this computer does, and try again."
            )
        self.place = position_from(self.raw(latched))
        yield self.put_back()

    def _known_to(self, slot: int) -> Steps:
        """A controller of its own latches the place at the edge; plain parts are looked at now and then."""
        self.within = 0.0
        if self._session.machine.made_of_parts:
            where = Place(axis_index(LATCHED_WITHIN.index, slot), LATCHED_WITHIN.sub)
            yield self.read(where)
            self.within = position_from(self.raw(where))

    def shift_since(self, slot: int, before: float) -> float:
        """How far the switch was found from where it was before, in mm (°)."""
        axis = self._session.machine.axis(slot)
        if home_switch(self._session.machine, slot) is None:
            return self.place - met_at(axis)
        turn = TURN if axis.wraps else 0.0
        shift = self.place - before
        return (shift + turn / 2) % turn - turn / 2 if turn else shift

    def off_home(self, slot: int) -> float:
        """How far the switch was found from where its homing put it, in mm (°); 0 where an index mark has the say."""
        axis = self._session.machine.axis(slot)
        return (
            self.place - met_at(axis)
            if self._session.homes.known(slot) and not by_index(axis) and not axis.wraps
            else 0.0
        )

    def lost(self, slot: int, shift: float) -> bool:
        """Whether so large a shift is lost steps; then its home is not known any more, and the person is told."""
        if abs(shift) <= shift_allowed(self._session.machine, slot):
            return False
        self._session.homes.lost_steps(slot, "lost steps", home_witness(self._session.machine.axis(slot)))
        return True

    def to(self, slot: int, coordinate: float, speed: float, *, feel: bool = False) -> Steps:
        """A move to a machine coordinate; none where the axis stands there."""
        distance = coordinate - self._session.axes[slot].position
        if abs(distance) > 2 * float(counts_apart(self._session.machine, slot)):
            yield self.move(slot, distance, speed, feel=feel)
