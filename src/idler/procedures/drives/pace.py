"""The hard runs of the reliable pace: touch the switch, run once, touch it again, and never further than what could be lost.

What one run loses is known before the next begins, so nothing adds up; every way home is sought, and ends at the switch.
"""

from __future__ import annotations

import math
from enum import Enum
from fractions import Fraction

from idler.core.homing import extent_of, stops_of, way
from idler.core.incident import Incident
from idler.core.machine import Address, Axis
from idler.core.mechanics.reliable import Search, ceiling_of, fastest_in, lower_pace, paced, run_up, shift_allowed
from idler.core.profile.cia402 import DRIVE_TROUBLE, LAGGED, fault_text
from idler.core.proof.claims import home_witness, input_claim, pace_claim
from idler.core.values.measures import Measures
from idler.core.values.parameter import Value
from idler.core.wiring import home_switch, inputs
from idler.session.session import Session

from ..engine import Ending, Result, Run, Steps, Trouble
from ..witness import WitnessRun

FULL = 0.9  # of its way that a run may take
SLOWEST = 200.0  # mm/min (°/min) that are worth to be proposed
TIMES = 2  # runs to and fro at a pace that is looked for; twice as many prove one
_TRIED = ("pace.top_speed", "pace.acceleration", "pace.deceleration")


class Doing(Enum):
    NOTHING = "nothing"
    SEARCH = "search"
    PROOF = "proof"


class HardRun(WitnessRun):
    """lower: a pace below one that lost steps, as speed and acceleration."""

    what = "the search for a reliable pace"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._doing = Doing.NOTHING
        self.search: Search | None = None
        self.lower: tuple[Fraction, Fraction] | None = None
        self.slot = 0
        self._shift = 0.0
        self._runs_hard = False  # whether it goes at the pace that is tried now
        self._explored = 0.0  # mm (°) from the switch that were gone over slowly

    @property
    def doing(self) -> Doing:
        return self._doing if self.running else Doing.NOTHING

    def room(self, slot: int) -> float | None:
        """How far from its switch an axis can go, in mm; None where it turns, or where its stops were not told and it was not
        at both ends yet."""
        axis = self._session.machine.axis(slot)
        extent = extent_of(axis) if self.known(slot) else stops_of(axis)
        return float(extent[1] - extent[0]) if extent is not None else None

    def usual_length(self, slot: int) -> Fraction:
        """Of a run to begin with, in mm (°)."""
        room = self.room(slot)
        return Fraction(60) if room is None else min(Fraction(60), max(Fraction(5), Fraction(round(room / 3))))

    def obstacle(self, slot: int, length: float) -> str:
        """Why nothing can be run now over such a length, or an empty text."""
        machine = self._session.machine
        if why := self._session.axes_obstacle:
            return why
        axis, room = machine.axis(slot), self.room(slot)
        needed = length + 2 * self._clear(slot, *self._told(slot))
        if not axis.rotary and room is None:
            return f"Where {axis.name} meets iron is not known. Prove its ends at Travel first, or tell its hard stops there."
        if room is not None and needed > FULL * room:
            return self._too_much(axis, room, length, needed)
        if why := self.fine_obstacle(slot):
            return why
        switch = home_switch(machine, slot)
        assert switch is not None  # the obstacle says so
        touched = input_claim(machine, inputs(machine)[switch])
        return self._session.motion_obstacle([*touched.rests, *pace_claim(machine, slot).rests])

    def _too_much(self, axis: Axis, room: float, length: float, needed: float) -> str:
        """What does not fit into its way, and what would."""
        reads, rise, most = axis.reads, self._told(axis.slot)[1], self._fastest(axis.slot, room, length)
        ways = [f"lower its top speed to {reads.speed(most)}"] if most >= SLOWEST else []
        ways += ["take a shorter run"] if needed - length < FULL * room else []
        return (
            f"{axis.name} has {reads.length(room, trim=True)} to go; {reads.length(length, trim=True)} and what its stopping "
            f"takes at {reads.acceleration(rise)}, {reads.length(needed, 0)}, are too much: "
            f"{' or '.join(ways) or 'its way is too short to try a pace on it'}."
        )

    def _fastest(self, slot: int, room: float, length: float) -> int:
        """The top speed that finds room on a way, in mm/min (°/min)."""
        return 100 * math.floor(fastest_in(FULL * room - length - 2 * self.back(slot), self._told(slot)[1]) / 100)

    def _told(self, slot: int) -> tuple[float, float]:
        axis = self._session.machine.axis(slot)
        return float(axis.number(_TRIED[0])), float(axis.number(_TRIED[1]))

    def _clear(self, slot: int, speed: float, rise: float) -> float:
        """How far from the switch a run keeps, in mm (°): its way back, and what it takes to come to rest without a motor."""
        return self.back(slot) + run_up(speed, rise)

    def find(self, slot: int, length: float, times: int) -> str:
        """Looks for the fastest pace that loses nothing; a sentence where it cannot begin."""
        if why := self.obstacle(slot, length):
            return why
        axis = self._session.machine.axis(slot)
        speed, rise = (float(axis.number(key)) for key in _TRIED[:2])
        room = self.room(slot)
        ceiling = ceiling_of(self._session.machine, slot)
        if room is not None:
            ceiling = min(ceiling, fastest_in(0.9 * room - length - 2 * self.back(slot), rise))
        self.search = Search.of(speed, rise, ceiling)
        self._start(Doing.SEARCH, slot, self._searching(length, times))
        return ""

    def prove(self, slot: int, length: float, times: int) -> str:
        """Runs the pace as it is, and keeps as a proof whether it held."""
        why = self.obstacle(slot, length)
        if why and not self._session.axes_obstacle and (fits := self._fits(slot, length)) is not None:
            self._start(Doing.PROOF, slot, self._proposing(why, fits))
            return ""
        if why:
            return why
        self._start(Doing.PROOF, slot, self._proving(length, times))
        return ""

    def _fits(self, slot: int, length: float) -> tuple[Fraction, Fraction] | None:
        """The pace to be tried where its own finds no room on its way; None where it does, or nothing would."""
        room, (speed, rise) = self.room(slot), self._told(slot)
        if room is None or length + 2 * self._clear(slot, speed, rise) <= FULL * room:
            return None
        most = self._fastest(slot, room, length)
        return (Fraction(most), Fraction(rise).limit_denominator(1000)) if SLOWEST <= most < speed else None

    def _proposing(self, why: str, pace: tuple[Fraction, Fraction]) -> Run:
        """Nothing moves: what cannot be tried cannot be proven, and a slower pace can."""
        yield lambda: True
        self.lower = pace
        return Result(Ending.FAILED, why, edit=self.edit_for(self.slot, *pace))

    def _start(self, doing: Doing, slot: int, steps: Run) -> None:
        self._doing, self.slot, self._explored, self.lower = doing, slot, 0.0, None
        self._runs_hard = False
        self.begin(steps, "It begins at the switch.")

    # -- steps ----------------------------------------------------------------------------------------------------

    def _explore(self, far: float) -> Steps:
        """Over ground where nobody has been it goes slowly first: iron is felt there, and met no faster than it may be."""
        slot = self.slot
        if self.known(slot) or self._session.machine.axis(slot).rotary or far <= self._explored:
            return
        reads = self._reads
        self.say(f"Slowly over the way first, {reads.length(far, 0)} from the switch. Esc stops it.")
        before, ahead = self.place, way(self._session.machine.axis(slot))
        if self._explored:
            yield from self.to(slot, self.place - ahead * self._explored, self.approach_speed(slot))
        yield from self.to(slot, self.place - ahead * far, self.touch_speed(slot), feel=True)
        felt = self.felt
        yield from self._calm(self._told(slot)[1])
        yield from self.witness(slot)
        lost = self.lost(slot, self.shift_since(slot, before))
        if lost and felt is None:
            self.lower = lower_pace(*self._told(slot))
            raise Trouble(
                f"{self._session.machine.names[slot]} loses steps although it goes gently: a lower pace is proposed; look "
                "at its motor, its current and what it moves.",
                edit=self.edit_for(slot, *self.lower),
            )
        if felt is not None or lost:
            raise Trouble(
                f"{self._session.machine.names[slot]} met something within {reads.length(far, 0)} of its switch. Prove its "
                "ends at Travel first."
            )
        self._explored = far

    def _at_pace(self, speed: float, rise: float) -> Steps:
        told = dict(zip(_TRIED, (speed, rise, rise), strict=True))
        yield self.try_values(
            {Address(self.slot, key): Fraction(value).limit_denominator(1000) for key, value in told.items()}
        )

    def _calm(self, rise: float) -> Steps:
        """For ways that are to lose nothing: half of the acceleration that is tried, and no more than half of what is told."""
        speed, told = self._told(self.slot)
        yield from self._at_pace(speed, min(told, rise) / 2)

    def _hard(self, speed: float, rise: float, length: float, times: int) -> Steps:
        """Hard away from the switch, then hard towards it, each alone; after each the switch must be where it was.

        Both at once would hide what is lost there behind what is lost back. Ends at the first that lost steps; the
        largest shift is then in self._shift.
        """
        slot, self._shift = self.slot, 0.0
        ahead = way(self._session.machine.axis(slot))
        base = self._told(slot)
        clear = self._clear(slot, max(speed, base[0]), base[1])
        gentle = self.approach_speed(slot)
        yield from self._calm(rise)
        yield from self.witness(slot)
        yield from self._calm(rise)
        yield from self._explore(clear + length + run_up(max(speed, base[0]), base[1]))
        near, far = (self.place - ahead * (clear + further) for further in (0.0, length))
        for start, end in ((near, far), (far, near)) * times:
            before = self.place
            yield from self._calm(rise)
            yield from self.to(slot, start, gentle)
            yield from self._at_pace(speed, rise)
            self._runs_hard = True
            yield from self.to(slot, end, speed)
            self._runs_hard = False
            yield from self._calm(rise)
            yield from self.witness(slot)  # which puts all of it back
            shift = self.shift_since(slot, before)
            self._shift = max(self._shift, shift, key=abs)
            if self.lost(slot, shift):
                return

    def _incident(self, incident: Incident) -> None:
        """A drive that gives up in a hard run, or lags too far behind, does not follow this pace."""
        gave_up = incident.axis == self.slot and incident.code in (DRIVE_TROUBLE, LAGGED)
        if not (self.running and self._runs_hard and gave_up and self._doing is Doing.PROOF):
            super()._incident(incident)
            return
        machine = self._session.machine
        speed, rise = self._told(self.slot)
        self.lower = lower_pace(speed, rise)
        words = f"it did not follow {self._reads.speed(speed, 0)} at {self._reads.acceleration(rise, 0)}"
        self.keep_proof(pace_claim(machine, self.slot), False, words, home_witness(machine.axis(self.slot)))
        self._end(
            Result.of(
                False,
                f"{machine.names[self.slot]}: {words}: {fault_text(incident.code)}. A lower pace is proposed.",
                self.edit_for(self.slot, *self.lower),
            )
        )

    @property
    def _holds(self) -> bool:
        return abs(self._shift) <= shift_allowed(self._session.machine, self.slot)

    def _searching(self, length: float, times: int) -> Run:
        reads = self._reads
        assert self.search is not None
        while (asked := self.search.next) is not None:
            self.say(f"Trying {reads.speed(asked[0], 0)} at {reads.acceleration(asked[1], 0)}. Esc stops it.")
            yield from self._hard(*asked, length, times)
            self.search = self.search.after(self._shift, held=self._holds)
            self.changed.publish()
        if self.search.proposal is None:
            return Result(
                Ending.NOT_PROVEN,
                "Even a tenth of the pace that it has loses steps: look at its motor, its current and what it moves.",
            )
        speed, rise = self.search.proposal
        failed = self.search.failed_at_once
        words = "The pace that it has now loses steps; a lower one holds." if failed else "Found."
        return Result(
            Ending.DONE,
            words,
            {"speed": float(speed), "acceleration": float(rise)},
            self.edit_for(self.slot, speed, rise),
        )

    def _proving(self, length: float, times: int) -> Run:
        axis, reads = self._session.machine.axis(self.slot), self._reads
        speed, rise = (float(axis.number(key)) for key in _TRIED[:2])
        self.say(f"Running {times} times to and fro over {reads.length(length, trim=True)} at the pace as it is.")
        yield from self._hard(speed, rise, length, times)
        held = self._holds
        seen = f"the switch was found {reads.length(abs(self._shift), 3)} from where it was"
        self.lower = None if held else lower_pace(speed, rise)
        words = f"{times} times {reads.length(length, trim=True)} each way at {reads.speed(speed, 0)}; {seen}"
        self.keep_proof(pace_claim(self._session.machine, self.slot), held, words, home_witness(axis))
        lower = f"Steps were lost: {seen}. A lower pace is proposed; “Find it” looks for the best."
        edit = self.edit_for(self.slot, *self.lower) if self.lower is not None else {}
        return Result.of(held, "It held." if held else lower, edit, shift=self._shift)

    def edit_for(self, slot: int, speed: Fraction, rise: Fraction) -> dict[Address, Value]:
        """The values of another pace."""
        return paced(self._session.machine.axis(slot), speed, rise)

    @property
    def _reads(self) -> Measures:
        return self._session.machine.axis(self.slot).reads
