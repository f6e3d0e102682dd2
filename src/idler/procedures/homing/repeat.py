"""Homing one axis again and again from different starts, and keeping where its switch was touched each time."""

from __future__ import annotations

from idler.core.homing import beside, moves, two_sides, way
from idler.core.homing.repeat import TURN, Scatter, advice, lost, lost_by_turns, starts, turns_to_tell
from idler.core.machine import Address
from idler.core.mechanics.pulses import EDGE
from idler.core.mechanics.reliable import shift_allowed
from idler.core.profile.cia402 import position_from
from idler.core.profile.codec import Place
from idler.core.profile.homing import INDEX_DISTANCE, SIDES, TOUCH_PLACE
from idler.core.proof.claims import home_claim, home_witness, repeat_claim, value_texts
from idler.core.table import axis_index
from idler.core.values.parameter import Value
from idler.session.session import Session

from ..engine import Procedure, Result, Run, Steps

TOUCHES = 8
FIRST = 10.0  # mm (°) from the switch from which it is homed before anything counts


class RepeatRun(Procedure):
    what = "homing again and again"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.scatters: dict[int, Scatter] = {}
        self.spreads: dict[int, float] = {}  # standard deviations in mm (°), of whole runs
        self._advised: dict[int, tuple[str, dict[Address, Value]]] = {}
        self.sides: dict[int, Scatter] = {}  # how far the second switch of a beam lies further to +, each time

    def repeat(self, slot: int, times: int) -> str:
        """The axis must be homed, and free to move 20 mm (°) away from its switch; a sentence where it cannot begin."""
        session = self._session
        moving = "The machine is moving. Wait until it stands, or press Esc." if session.moving else ""
        if why := session.motion_obstacle(home_claim(session.machine, slot).rests) or moving:
            return why
        if why := session.homes.obstacle([slot]):
            return why
        if not moves(session.machine.axis(slot)):
            return (
                f"{session.machine.names[slot]} is told where home is, and looks for none: there is nothing to repeat."
            )
        self.scatters.pop(slot, None)
        self._advised.pop(slot, None)
        self.begin(self._repeating(slot, times), "Away from the switch, and home again.")
        return ""

    def _repeating(self, slot: int, times: int) -> Run:
        axis = self._session.machine.axis(slot)
        found: list[float] = []
        sides: list[float] = []
        self.say(f"{axis.name} is homed first. Esc stops it.")
        yield from self._home_from(slot, FIRST)
        self._judge_first(slot, self._deviation(slot))
        for number, distance in enumerate(starts(times), start=1):
            self.say(f"{axis.name}: {number} of {times}. Esc stops it.")
            yield from self._home_from(slot, distance)
            if two_sides(self._session.machine, axis):
                sides.append(position_from(self.raw(_of(SIDES, slot))))
                self.sides[slot] = Scatter(tuple(sides))
            found.append(self._deviation(slot))
            self.scatters[slot] = Scatter(tuple(found))
            self.changed.publish()
        if not self._session.machine.made_of_parts:  # whose drives count no steps
            turns = turns_to_tell(self._session.machine, slot, self.scatters[slot])
            self.say(f"{axis.name}: {turns} times to and fro. Esc stops it.")
            yield from self._home_from(slot, FIRST, turns)
            self.scatters[slot] = Scatter(tuple(found), self._deviation(slot), turns)
            self.changed.publish()
        self.spreads[slot] = self.scatters[slot].standard
        return self._judged(slot)

    def _home_from(self, slot: int, distance: float, turns: int = 0) -> Steps:
        """Away from the switch by so many mm (°), to and fro there, to it again, and what was found there is read."""
        axis = self._session.machine.axis(slot)
        away, speed = -way(axis), float(axis.number("homing.approach"))
        yield self.move(slot, away * distance, speed)
        for _ in range(turns):
            yield self.move(slot, away * TURN, speed)
            yield self.move(slot, -away * TURN, speed)
        yield self.find_home(slot)
        both = [SIDES] if two_sides(self._session.machine, axis) else []
        yield self.read(*(_of(each, slot) for each in (TOUCH_PLACE, INDEX_DISTANCE, *both)))

    def _deviation(self, slot: int) -> float:
        """Of the switch that was found last, from where the homing before had it, mm (°)."""
        place, mark = (position_from(self.raw(_of(each, slot))) for each in (TOUCH_PLACE, INDEX_DISTANCE))
        return beside(self._session.machine.axis(slot), place, mark)

    def advised(self, slot: int) -> tuple[str, dict[Address, Value]]:
        """What the touches so far say of an axis that has some, and what of it that mends them is not told yet."""
        machine = self._session.machine
        said, edit = self._advised.get(slot) or advice(machine, slot, self.scatters[slot], self._edges(slot))
        return said, {where: value for where, value in edit.items() if machine[where] != value}

    def _judge_first(self, slot: int, off: float) -> None:
        """What it was off before it was homed here is no scatter of its switch: it was lost since it was homed last."""
        machine = self._session.machine
        axis = machine.axis(slot)
        if abs(off) > shift_allowed(machine, slot) + float(axis.number("play.backlash")):
            words = f"was {axis.reads.length(abs(off), 3)} from where it was counted: steps were lost since it was homed last"
            self._session.tell("warn", f"{axis.name} {words}.")
            self._session.homes.deny_pace(slot, words, home_witness(axis))

    def _judged(self, slot: int) -> Result:
        """Keeps the scatter as a proof."""
        machine, scatter = self._session.machine, self.scatters[slot]
        axis = machine.axis(slot)
        reads = axis.reads
        spread = f"standard deviation {reads.length(scatter.standard, 4)}, range {reads.length(scatter.range, 4)}"
        words = f"{len(scatter.deviations)} touches, {spread}"
        held = scatter.good and not lost(machine, slot, scatter)
        edit: dict[Address, Value] = {}
        if not held:
            said, edit = advice(machine, slot, scatter, self._edges(slot))
            words = f"{words}. {said.removesuffix('.')}"
            self._advised[slot] = said, edit
        if lost(machine, slot, scatter):
            self._session.homes.lost_steps(slot, "lost steps", home_witness(axis))
        self.keep_proof(repeat_claim(machine, slot), held, words, home_witness(axis))
        return Result.of(
            held, f"{axis.name}: {words}.", edit, standard=scatter.standard, range=scatter.range, mean=scatter.mean,
            turned=lost_by_turns(machine, slot, scatter),
        )  # fmt: skip

    def _edges(self, slot: int) -> set[bool]:
        """With which edges of the steps this was tried last, and not proven."""
        machine = self._session.machine
        last = self._session.proofs.get(repeat_claim(machine, slot).key)
        if last is None or last.passed:
            return set()
        return {
            edge for edge in (False, True)
            if value_texts(machine.with_values({EDGE: edge}), [EDGE]).items() <= last.rests.items()
        }  # fmt: skip


def _of(each: Place, slot: int) -> Place:
    """The object of an axis."""
    return Place(axis_index(each.index, slot), each.sub)
