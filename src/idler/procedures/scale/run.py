"""The scale of an axis: take up the play, zero the instrument, move, read. Passes add up until they prove or disprove it."""

from __future__ import annotations

import math
from fractions import Fraction

from idler.core.homing import by_switch
from idler.core.homing import way as way_home
from idler.core.machine import Address
from idler.core.mechanics.reliable import stalled
from idler.core.mechanics.scale import Instrument, Verdict, lacking, least_far, of_now, placed, verdict
from idler.core.mechanics.scalewords import proof_words, reading_words, sentence
from idler.core.proof.claims import Proof, Witness, direction_claim, scale_claim, state
from idler.core.values.measures import Measures
from idler.core.values.parameter import Value

from ..engine import Ending, Result, Run, Steps, Trouble
from .onepass import TAKE_UP, Met, OnePass, PassStage, Stood
from .wanted import usual_length

FIRST = 10.0  # mm of the first pass of an axis of which nothing is known
MOST = 8  # passes of one proof: more of them make it hardly better


class ScaleRun(OnePass):
    """Passes of an axis, one or as many as prove its scale."""

    what = "a pass of the scale"

    def choose(self, slot: int) -> None:
        """Another axis, or anew."""
        self.stop("")
        self._slot, self._start, self._away, self._iron, self._gentler = slot, None, 0.0, 0.0, {}
        self.changed.publish()

    @property
    def usual_way(self) -> int:
        """1 or -1: to where there is more room, where that is known; else back where the last pass came from, or away from
        its switch."""
        session, axis = self._session, self._session.machine.axis(self._slot)
        low, high = (float(axis.number(f"travel.{end}")) for end in ("low", "high"))
        if self._iron:
            return -int(self._iron)
        if session.homes.known(self._slot) and low < high:
            return 1 if high - session.axes[self._slot].position >= session.axes[self._slot].position - low else -1
        if kept := session.passes.get(axis.name):
            return -1 if kept[-1].commanded > 0 else 1
        return -way_home(axis) if by_switch(axis) and not axis.rotary else 1

    def proposed(self, instrument: Instrument) -> Fraction:
        """The next move, in mm (°) with its sign: a little of an axis of which nothing is known."""
        usual = usual_length(self._session.machine.axis(self._slot), instrument)
        careful = self._session.connected and self._unknown(instrument) and self._grossly_off
        return self.usual_way * (min(usual, Fraction(FIRST)) if careful else usual)

    def obstacle(self) -> str:
        """Why the next pass cannot be made now, or an empty text."""
        if why := self._session.motion_obstacle():
            return why
        reads, instrument = self._session.machine.axis(self._slot).reads, self.instrument
        if instrument is None:
            return "Choose an instrument first."
        if abs(self.length) > instrument.reach:
            return (
                f"The {instrument.words(reads)} reaches {reads.length(instrument.reach, trim=True)}; the move is "
                f"{reads.length(abs(self.length), trim=True)}. Take another one."
            )
        if not instrument.fits(self.length):
            whole = reads.length(instrument.steps, trim=True)
            return (
                f"With {instrument.words(reads)} only {whole} and its multiples can be told; the move is "
                f"{reads.length(abs(self.length), trim=True)}. Take {whole}, or another instrument."
            )
        return ""

    def measure(self, tolerance: float) -> str:
        """One pass; a sentence where it cannot begin."""
        if why := self.obstacle():
            return why
        self.begin(self._once(tolerance), "First the play is taken up.")
        return ""

    def prove(self, tolerance: float) -> str:
        """Passes until the scale is proven to a tolerance (relative), or is not; a sentence where it cannot begin."""
        if why := self.obstacle() or self._session.proof_obstacle(scale_claim(self._session.machine, self._slot)):
            return why
        before = verdict(self.passes, self.told, tolerance)
        hopeless = before is Verdict.WAYS and not lacking(of_now(self.passes, self.told))
        if before is Verdict.APART or hopeless:  # no further pass could bring these together
            name = self._session.machine.names[self._slot]
            if not hopeless:
                self._shorten()
            self._session.keep_passes(name, [])
            self._session.tell(
                "plain", f"The passes of {name} contradict each other: they are left, and it is measured anew."
            )
        self.begin(self._until(tolerance), "First the play is taken up.")
        return ""

    def _shorten(self) -> None:
        """Half as far, and away from where the pass went that came least far: it may have met iron there."""
        short, axis = least_far(self.passes), self._session.machine.axis(self._slot)
        if short is None or axis.rotary or self.instrument is None:
            return
        self._iron = math.copysign(1.0, short.commanded)
        half = min(abs(self.length), max(FIRST, float(int(abs(short.measured) / 2))))
        self.length = -self._iron * (half if self.instrument.fits(half) else abs(self.length))

    def _once(self, tolerance: float) -> Run:
        assert self.instrument is not None
        self._careful = self._unknown(self.instrument) and self._grossly_off and abs(self.length) <= FIRST
        try:
            yield from self._pass()
        except Met as met:
            raise Trouble(f"{met.words} The next pass goes the other way.", Ending.STOPPED) from None
        except Stood as stood:
            return self._stood(stood.speed)
        last = self.passes[-1]
        if self._turns_after(self.said(tolerance)):
            self._turn_round()
            self.turned.publish(1 if self.length > 0 else -1)
        return Result(Ending.DONE, "The pass was added.", {"commanded": last.commanded, "measured": last.measured})

    def _until(self, tolerance: float) -> Run:
        axis = self._session.machine.axis(self._slot)
        met: Met | None = None
        said, whole = Verdict.NOTHING, abs(self.length)
        assert self.instrument is not None
        self._careful = self._unknown(self.instrument)
        if self._careful:
            self.length = math.copysign(min(whole, FIRST), self.length)
        yield from self._to_the_last()
        for _ in range(MOST):
            try:
                yield from self._pass()
            except Met as now:
                if met is not None and met.way != now.way:
                    raise Trouble(f"{now.words} It has done so on both ways: there is too little room.") from None
                met = now
                self._session.tell("warn", f"{met.words} The next pass goes the other way.")
                continue
            except Stood as stood:
                return self._stood(stood.speed)
            said = self.said(tolerance)
            if said is Verdict.APART and self._leave_unplaced():
                continue  # what is left is not believed before it was seen once more
            if self._careful and not self._grossly_off:  # near enough for a longer way, at the usual speed
                self._careful, self.length = False, math.copysign(whole, self.length)
                if said is not Verdict.PROVEN:
                    continue
            if self._turns_after(said):
                self._turn_round()
            elif said not in (Verdict.COARSE, Verdict.AGAIN) and not (said is Verdict.WAYS and self._lacks):
                break
        self.settle(tolerance)
        likely = self.likely if said is Verdict.OFF else None
        edit = self.edit_for(likely) if likely else self.corrected() if said is Verdict.OFF else {}
        why = f" Likely: {likely.slip.words}." if likely else ""
        found = sentence(axis, self.passes, said, self.told, tolerance, self.length, self.instrument)
        words = f"{axis.name}: {said.words}. {found}{why}"
        return Result.of(said is Verdict.PROVEN, words, edit, passes=len(self.passes))

    def _to_the_last(self) -> Steps:
        """To where the last pass of this length began: a screw is not the same all along, and is compared with itself."""
        kept = [each for each in of_now(self.passes, self.told) if each.start is not None]
        if not kept or not self._placed or self._iron or abs(kept[-1].commanded) != abs(self.length):
            return
        length, start = kept[-1].commanded, kept[-1].start
        assert start is not None
        if not all(self._has_room(place) for place in (start, start + length)):
            return
        self.length = length
        yield from self._go(start - self._session.axes[self._slot].position, self.safe_speed)

    def _has_room(self, place: float) -> bool:
        """Whether play can be taken up on either side of a place without meeting a soft limit."""
        axis = self._session.in_force.axis(self._slot)
        low, high = (float(axis.number(f"travel.{end}")) for end in ("low", "high"))
        return not axis.flag("travel.limits_on") or low + TAKE_UP <= place <= high - TAKE_UP

    def _leave_unplaced(self) -> bool:
        """Leaves the passes of which nobody knows where they were made, beside others of which that is known."""
        name, known = self._session.machine.names[self._slot], placed(self.passes)
        if known is None:
            return False
        self._session.keep_passes(name, known)
        self._session.tell(
            "plain",
            f"The passes of {name} from before its home was known were made elsewhere on its way: they are left.",
        )
        return True

    def _stood(self, speed: float) -> Result:
        """What follows from a move in which nothing moved: of a motor that eyes have seen to move its axis, a gentler pace."""
        session, slot = self._session, self._slot
        axis, self._away = session.machine.axis(slot), 0.0
        session.homes.lost_steps(slot, "stood still where the controller counted a move", Witness.INSTRUMENT)
        reads, rise = axis.reads, float(session.in_force.axis(slot).number("pace.acceleration"))
        at = f"{axis.name} stood still: it was told to go {self._told} at {reads.speed(speed, 0)}"
        if state(session.machine, direction_claim(session.machine, slot), session.proofs) is not Proof.PROVEN:
            return Result(Ending.NOT_PROVEN, f"{at}. Look at its drive and its wires, and at its direction (Drives).")
        self._gentler = stalled(axis, speed)
        slower = float(session.machine.with_values(self._gentler).axis(slot).number("pace.acceleration"))
        words = (
            f"{at} and {reads.acceleration(rise, 0)}, and its small move was seen. Likely: its motor has not the torque for "
            f"that. Try {reads.acceleration(slower, 0)}, or give the motor more current."
        )
        return Result(Ending.NOT_PROVEN, words, edit=self._gentler)

    @property
    def gentler(self) -> dict[Address, Value]:
        """The pace that is proposed for a motor that stood still in the last move; empty where it was taken."""
        return {where: value for where, value in self._gentler.items() if self._session.machine[where] != value}

    def _unknown(self, instrument: Instrument) -> bool:
        """Whether nothing is known of how far it truly goes, nor of where its ends are: it may go several times as far, and as
        fast, as it is told."""
        session, axis = self._session, self._session.machine.axis(self._slot)
        claim = scale_claim(session.machine, self._slot)
        proven = state(session.machine, claim, session.proofs) is Proof.PROVEN
        return not (axis.rotary or session.homes.known(self._slot) or proven) and instrument.fits(FIRST)

    def _turns_after(self, said: Verdict) -> bool:
        """Whether the next pass is to go the other way than the last one."""
        return said is Verdict.ONE_WAY or (said is Verdict.WAYS and self._lacks * self.length < 0)

    def _turn_round(self) -> None:
        """The next pass goes the other way, and begins clear of where this one has ended."""
        self._iron, self._away = (1.0 if self.length > 0 else -1.0), 0.0
        self.length = -self.length

    def settle(self, tolerance: float) -> str:
        """Keeps what the passes prove; a sentence where it cannot be proven now."""
        axis, claim = self._session.machine.axis(self._slot), scale_claim(self._session.machine, self._slot)
        if why := self._session.proof_obstacle(claim):
            return f"The scale of {axis.name} cannot be proven now. {why}"
        if words := proof_words(self.passes, self.told, axis.reads):
            held = verdict(self.passes, self.told, tolerance) is Verdict.PROVEN
            self.keep_proof(claim, held, words, Witness.INSTRUMENT)
        return ""

    def words_at(self, stage: PassStage, reads: Measures, instrument: Instrument) -> str:
        """What is to be done now."""
        match stage:
            case PassStage.START:
                return "First the play is taken up: the axis goes back and comes again from the side of the move."
            case PassStage.MOVING:
                return "The axis moves. Esc stops it."
            case PassStage.ZERO:
                return f"Hold the {instrument.words(reads)} to the axis and set it to zero."
            case PassStage.MOVE:
                pace = f"{reads.speed(self.top if self.fast else self.safe_speed, 0)}"
                return f"Now the axis will go {reads.length(self.length, trim=True)} at {pace}."
            case PassStage.READ:
                return reading_words("the axis", self.length)

    def button(self, reads: Measures) -> str:
        length = f" {reads.length(self.length, trim=True)}" if self.stage is PassStage.MOVE else ""
        return f"{self.stage.button}{length}"
