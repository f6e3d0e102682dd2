"""The scale of an axis: take up the play, zero the instrument, move, read. Passes add up until they prove or disprove it."""

from __future__ import annotations

import math
from collections.abc import Generator
from enum import Enum
from fractions import Fraction

from idler.core.errors import Refusal
from idler.core.homing import by_switch, stops_of
from idler.core.homing import way as way_home
from idler.core.machine import Address, Axis
from idler.core.mechanics.axis_directions import shown_per_travel
from idler.core.mechanics.chain import Chain
from idler.core.mechanics.drivers import counts_at, other_counts
from idler.core.mechanics.mistakes import ScaleCause, causes
from idler.core.mechanics.pulses import longer_pulses
from idler.core.mechanics.reliable import stalled, stood_still
from idler.core.mechanics.scale import (
    Instrument,
    Pass,
    Verdict,
    correction,
    estimate,
    fitting,
    instrument_needed,
    lacking,
    least_far,
    lost_steps,
    of_now,
    placed,
    verdict,
)  # fmt: skip
from idler.core.mechanics.scalewords import percent, proof_words, reading_words, sentence
from idler.core.proof.claims import (
    SIGNALS,
    Proof,
    Witness,
    direction_claim,
    motor_keys,
    scale_claim,
    state,
    value_texts,
)  # fmt: skip
from idler.core.values.measures import Measures
from idler.core.values.parameter import Value
from idler.core.values.quantity import parse
from idler.core.values.units import Dimension
from idler.session.session import Session
from idler.session.topic import Topic

from .engine import ARRIVED, A, Ending, Procedure, Result, Run, Steps, Trouble, Wait, has_no_current, is_iron
from .questions import Question, done, reading
from .safe import count_of, safe_speed

NEVER_ARRIVES = 1.5  # s at rest elsewhere than where it was sent
WITHIN = Fraction(45, 100)  # of an instrument's reach: an axis that goes twice as far as it was told is still read
HALF = 180.0  # ° of a turn, for axes that begin again
FIRST = 10.0  # mm of the first pass of an axis of which nothing is known
CAREFUL = 4  # times slower it goes then
GROSS = 0.02  # relative: less than that an axis is known well enough to go further
TAKE_UP = 2.0  # mm or °: further than any play that could be compensated
USUAL_TOLERANCE = "0.02 %"  # where nothing else is wanted
COUNTED = 1.0  # counts per unit, where no train tells them
MOST = 8  # passes of one proof: more of them make it hardly better


def usual_length(axis: Axis, instrument: Instrument) -> Fraction:
    """A move to begin with, in mm (°): a whole turn, or what the room between the stops and the instrument allow."""
    if axis.rotary:
        return Fraction(360)
    stops, reach = stops_of(axis), Fraction(instrument.reach) * WITHIN
    room = (stops[1] - stops[0]) / 2 if stops is not None else Fraction(100)
    most = min(Fraction(100), room, reach)
    return Fraction(int(most / 10) * 10) if most >= 10 else max(Fraction(1), Fraction(int(most)))


def usual_reach(axis: Axis) -> float:
    """mm (°) over which an instrument is chosen, where nothing else is wanted."""
    return 360.0 if axis.rotary else 100.0


def instrument_able(axis: Axis, tolerance: float, reach: float) -> Instrument:
    """The coarsest that could prove a tolerance (relative) over so many mm (°), whatever the counts are; else the finest."""
    able = instrument_needed(reach, COUNTED, tolerance, rotary=axis.rotary)
    return able or min(fitting(axis.rotary), key=lambda item: item.resolution)


def read_tolerance(text: str) -> Fraction:
    """What the scale is wanted to, relative, out of "0.02 %". Raises Refusal."""
    try:
        percents = Fraction(text.replace("%", "").replace(",", ".").strip())
        if not Fraction(1, 1000) <= percents <= 10:
            raise ValueError
    except (ValueError, ZeroDivisionError):
        raise Refusal("tolerance wanted", f"“{text[:20]}”", "cannot be used", "0.001 % to 10 %") from None
    return percents / 100


class PassStage(Enum):
    """Where a pass is: the key of its question, and what its button says."""

    START = ("start", "Take up the play")
    MOVING = ("moving", "moving…")
    ZERO = ("scale.zero", "It is at zero")
    MOVE = ("scale.move", "Move")
    READ = ("scale.reading", "Add this pass")

    def __init__(self, key: str, button: str) -> None:
        self.key, self.button = key, button


class Met(Exception):
    """What ended a move before its end. way: 1 or -1, in which it lies."""

    def __init__(self, way: float, words: str) -> None:
        super().__init__(words)
        self.way, self.words = way, words


class Stood(Exception):
    """The instrument says that the axis stood where the controller counted a move. speed: that it was told, in mm/min."""

    def __init__(self, speed: float) -> None:
        super().__init__()
        self.speed = speed


class ScaleRun(Procedure):
    """length (mm or °, with its sign), instrument and fast are those of the next move; they may change until it begins."""

    what = "a pass of the scale"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.turned: Topic[int] = Topic()  # something was met: 1 or -1, the way that the next pass goes
        self.length, self.fast = 100.0, False
        self.instrument: Instrument | None = None
        self._gentler: dict[Address, Value] = {}  # for a motor that stood still in the last move
        self._slot = 0
        self._start: float | None = None
        self._away = 0.0  # how far from the start mark the axis stands
        self._iron = 0.0  # the way on which something was met: the next pass first goes clear of it
        self._careful = False  # whether it goes a little and slowly: its scale may be wrong several times over
        self._turned = 0.0  # how far it has gone since its start mark

    def choose(self, slot: int) -> None:
        """Another axis, or anew."""
        self.stop("")
        self._slot, self._start, self._away, self._iron, self._gentler = slot, None, 0.0, 0.0, {}
        self.changed.publish()

    @property
    def stage(self) -> PassStage:
        if not self.running:
            return PassStage.START
        asked = self.question.key if self.question is not None else PassStage.MOVING.key
        return next(stage for stage in PassStage if stage.key == asked)

    @property
    def travelled(self) -> float | None:
        """How far the axis has gone from its start mark by its own counting."""
        axes = self._session.axes
        if self._start is None or self._slot >= len(axes):
            return None
        return abs(self._turned if self._wraps else axes[self._slot].position - self._start)

    @property
    def _wraps(self) -> bool:
        return self._session.in_force.axis(self._slot).wraps

    def _apart(self, a: float, b: float) -> float:
        """From b to a; on an endless axis the shorter way round."""
        return (a - b + HALF) % (2 * HALF) - HALF if self._wraps else a - b

    @property
    def top(self) -> float:
        return float(self._session.in_force.axis(self._slot).number("pace.top_speed"))

    @property
    def safe_speed(self) -> float:
        """Top speed where the pace is proven and the ends hold, else that at which iron may be met: what is measured must be
        the scale, and not what a pace loses."""
        return safe_speed(self._session, self._slot)

    @property
    def _count(self) -> float:
        """mm or ° of one count."""
        return count_of(self._session, self._slot)

    @property
    def _counts_per_unit(self) -> float:
        return float(Chain.of(self._session.in_force.axis(self._slot)).counts_per_unit)

    @property
    def _told(self) -> str:
        """How far it is told to go, in words."""
        return self._session.machine.axis(self._slot).reads.length(self.length, trim=True)

    # -- beginning ------------------------------------------------------------------------------------------------

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

    # -- steps ----------------------------------------------------------------------------------------------------

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

    @property
    def _placed(self) -> bool:
        """Whether it is known where on its way a pass is made."""
        return self._session.homes.known(self._slot) and not self._session.machine.axis(self._slot).rotary

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

    @property
    def _grossly_off(self) -> bool:
        found = estimate(of_now(self.passes, self.told))
        return found is None or abs(found.error(self.told)) > max(GROSS, found.expanded)

    @property
    def _both_ways(self) -> bool:
        """Whether passes with the counts in force went up and down; an axis that turns on has no ends to meet."""
        ways = {p.commanded > 0 for p in of_now(self.passes, self.told)}
        return len(ways) > 1 or self._wraps

    @property
    def _lacks(self) -> int:
        return lacking(of_now(self.passes, self.told))

    def _turns_after(self, said: Verdict) -> bool:
        """Whether the next pass is to go the other way than the last one."""
        return said is Verdict.ONE_WAY or (said is Verdict.WAYS and self._lacks * self.length < 0)

    def _turn_round(self) -> None:
        """The next pass goes the other way, and begins clear of where this one has ended."""
        self._iron, self._away = (1.0 if self.length > 0 else -1.0), 0.0
        self.length = -self.length

    # -- what the passes say --------------------------------------------------------------------------------------

    @property
    def told(self) -> float:
        """Counts per unit that the controller has in force, or those of the draft where there is none."""
        session = self._session
        machine = session.in_force if session.in_force.shape == session.machine.shape else session.machine
        return float(Chain.of(machine.axis(self._slot)).counts_per_unit)

    def said(self, tolerance: float) -> Verdict:
        """Of the passes so far. What is off one way only is no scale: iron was met, or steps were lost."""
        found = verdict(self.passes, self.told, tolerance)
        return Verdict.ONE_WAY if found is Verdict.OFF and not self._both_ways else found

    @property
    def likely(self) -> ScaleCause | None:
        """The most probable cause, where one edit of the train would mend it."""
        best = max(self.explained(), key=lambda cause: cause.probability, default=None)
        return best if best is not None and best.listed else None

    def explained(self) -> list[ScaleCause]:
        """What would explain the passes, most probable first; empty where nothing was measured."""
        machine, found = self._session.machine, estimate(self.passes)
        if found is None:
            return []
        axis, pulse = machine.axis(self._slot), machine[Address(None, "signals.pulse_width")]
        assert isinstance(pulse, Fraction)
        ratio = 1 + found.error(float(Chain.of(axis).counts_per_unit))
        cross = shown_per_travel(machine, self._slot) != 1
        return causes(axis, ratio, found.relative, pulse, longer_pulses(machine), cross=cross)

    def edit_for(self, cause: ScaleCause) -> dict[Address, Value]:
        """Mends the link of the train that explains the ratio; a correction that was there goes."""
        return {**dict(cause.slip.edit), Address(self._slot, "chain.correction"): Fraction(1)}

    def corrected(self) -> dict[Address, Value]:
        """The correction that the passes ask for; the train stays as it was drawn."""
        found, where = estimate(self.passes), Address(self._slot, "chain.correction")
        if found is None:
            return {}
        axis = self._session.machine.with_values({where: Fraction(1)}).axis(self._slot)
        factor = correction(float(Chain.of(axis).counts_per_unit), found)
        if where.row.low <= factor <= where.row.high:
            return {where: factor}
        # So much is no inaccuracy: a driver that counts otherwise is mended first, and only the rest is a correction.
        counts = other_counts(axis, float(factor))
        if counts is None:
            return {}
        rest = correction(float(Chain.of(axis).counts_per_unit) * counts / axis.whole(counts_at(axis).key), found)
        return {counts_at(axis): counts, where: rest} if where.row.low <= rest <= where.row.high else {}

    def settle(self, tolerance: float) -> str:
        """Keeps what the passes prove; a sentence where it cannot be proven now."""
        axis, claim = self._session.machine.axis(self._slot), scale_claim(self._session.machine, self._slot)
        if why := self._session.proof_obstacle(claim):
            return f"The scale of {axis.name} cannot be proven now. {why}"
        if words := proof_words(self.passes, self.told, axis.reads):
            held = verdict(self.passes, self.told, tolerance) is Verdict.PROVEN
            self.keep_proof(claim, held, words, Witness.INSTRUMENT)
        return ""

    @property
    def passes(self) -> list[Pass]:
        """Those that were made with the pulses that the drives are told now, and by the motors that move the axis now: with
        others, other steps may have been lost, or another screw was turned."""
        kept = self._session.passes.get(self._session.machine.names[self._slot], [])
        return [each for each in kept if each.signals in ("", self._signals)]

    @property
    def _signals(self) -> str:
        """How its motors are driven, without the letter of the axis, which may become another one."""
        machine = self._session.in_force
        where = [*(Address(None, key) for key in SIGNALS), *(Address(self._slot, key) for key in motor_keys(machine))]
        texts = value_texts(machine, where).values()
        return "; ".join(f"{address.key} {text}" for address, text in zip(where, texts, strict=True))

    def _pass(self) -> Steps:
        session, name = self._session, self._session.machine.names[self._slot]
        reads = session.machine.axis(self._slot).reads
        way = 1.0 if self.length > 0 else -1.0
        if self._on_switch and way == way_home(session.machine.axis(self._slot)):
            raise self._meet(way, f"{name} stands on its switch.")
        careful = self.safe_speed / (CAREFUL if self._careful else 1)
        if self._iron == -way or (not self._away and self._ends(-way)):
            yield from self._go(way * 2 * TAKE_UP, careful)
        for distance in (-self._away - way * TAKE_UP, way * TAKE_UP):
            yield from self._go(distance, careful)
        self._away = self._iron = 0.0
        assert self.instrument is not None
        yield from self.ask(
            done(
                "scale.zero", f"Hold the {self.instrument.words(reads)} to the axis and set it to zero.", name,
                instrument=self.instrument.key,
            ),
            free=True,
        )  # fmt: skip
        yield from self._zero()
        self._start, self._turned, self._gentler = session.axes[self._slot].position, 0.0, {}
        yield from self._stay(done("scale.move", f"Now {name} will go {self._told}.", name))
        told, counts, self._away = self.length, self._counts_per_unit, self.length
        speed = careful if self._careful else self.top if self.fast else self.safe_speed
        yield from self._go(told, speed)
        read = yield from self._stay(
            reading(
                "scale.reading", reading_words(name, told), self._value,
                axis=name, instrument=self.instrument.key, unit=reads.name,
            )
        )  # fmt: skip
        if stood_still(session.machine, self._slot, told, float(read), self.instrument.resolution):
            raise Stood(speed)
        made = Pass(
            told, float(read), counts, self.instrument, speed=speed, signals=self._signals,
            start=self._start if self._placed else None,
        )  # fmt: skip
        session.keep_passes(name, [*self.passes, made])
        self._start = None
        if (lost := lost_steps(self.passes)) is not None:
            words = f"lost {percent(lost[0])} of its way at {reads.speed(lost[1], 0)}"
            session.homes.lost_steps(self._slot, words, Witness.INSTRUMENT)

    def _value(self, typed: str) -> Fraction:
        """A reading of the instrument. Raises Refusal."""
        axis = self._session.machine.axis(self._slot)
        table, part = Dimension.TRAVEL.unit(axis.rotary), f"reading of {axis.name}"
        sample = abs(Fraction(self.length).limit_denominator(1000))
        return parse(typed, table, bare=axis.reads.unit(), part=part, sample=sample)

    def _stay(self, question: Question[A]) -> Generator[Wait, None, A]:
        """Asks while the axis is to stay where it is. Raises Trouble where it was moved meanwhile."""
        stood = self._session.axes[self._slot].position
        answer = yield from self.ask(question, free=True)
        if abs(self._apart(self._session.axes[self._slot].position, stood)) > 2 * self._count:
            raise Trouble("The axis was moved meanwhile. This pass begins anew.")
        return answer  # type: ignore[return-value]

    def _zero(self) -> Steps:
        """On the bench the instrument is set to zero here; at a real machine the person has done it."""
        hands, answered = self._session.bench_hands, list[object]()
        if hands is not None and self.instrument is not None:
            name = self._session.machine.names[self._slot]
            hands.ask(answered.append, do="zero", axis=name, instrument=self.instrument.key)
            yield lambda: bool(answered)

    def _go(self, distance: float, speed: float) -> Steps:
        """A move that must end where it was sent; ends where the motor's effort says iron."""
        session, slot, begun = self._session, self._slot, self._session.loop.now()
        on_switch, name, way = self._on_switch, session.machine.names[slot], 1.0 if distance > 0 else -1.0
        rest = self.jog(slot, distance, speed)
        seen, met = rest.stood, None

        def arrived() -> bool:
            nonlocal seen, met
            axis = rest.look()
            if axis.moving and speed <= self.safe_speed:
                efforts = session.link.efforts(slot, begun)
                if met is None and is_iron(efforts):
                    met = self._meet(way, f"{name} met something: its motor gives all that it has.")
                if session.current.seen(slot) and has_no_current(efforts):
                    session.link.stop_axis(slot)
                    raise Trouble(f"{name} is told to move, and its motor takes no torque: its driver has given up, or has "
                                  "no current. Look at the driver; this pass is void.")  # fmt: skip
            if met is None and axis.moving and self._on_switch and not on_switch:
                met = self._meet(way, f"{name} met its switch.")
            self._turned += self._apart(axis.position, seen)
            seen = axis.position
            if axis.moving:
                return False
            if met is not None:
                return rest.seconds > ARRIVED
            if rest.started and abs(self._apart(axis.position, rest.stood + distance)) <= 2 * self._count:
                return True
            if rest.seconds > NEVER_ARRIVES and rest.heard_since:
                why = "it has met a soft limit" if axis.at_limit else "it was stopped"
                self._away = 0.0
                raise Trouble(f"The axis did not arrive: {why}. This pass begins anew.")
            return False

        yield arrived
        if met is not None:
            raise met

    def _ends(self, way: float) -> bool:
        """Whether its travel ends so near on a way that the play could not be taken up from there."""
        axis = self._session.machine.axis(self._slot)
        if axis.rotary or not (axis.flag("travel.limits_on") and self._session.homes.known(self._slot)):
            return False
        low, high = (float(axis.number(f"travel.{end}")) for end in ("low", "high"))
        return not low <= self._session.axes[self._slot].position + way * TAKE_UP <= high

    @property
    def _on_switch(self) -> bool:
        """Whether it stands on its home switch, while nothing else says how far it may go."""
        session, slot = self._session, self._slot
        ends = by_switch(session.machine.axis(slot)) and not session.machine.axis(slot).rotary
        return ends and not session.homes.known(slot) and session.axes[slot].home_made

    def _meet(self, way: float, words: str) -> Met:
        """Stops the axis; the next pass goes the other way."""
        self._session.link.stop_axis(self._slot)
        self._iron, self._away, self.length = way, 0.0, -way * abs(self.length)
        self.turned.publish(-int(way))
        return Met(way, words)

    def _end(self, result: Result) -> None:
        self._start = None
        if result.end is not Ending.DONE:
            self._away = 0.0  # the pass is void
        super()._end(result)

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
