"""Runs of the spindle: a sweep of levels, speeds to prove, times to speed and to standstill, and ways of stopping it.

The spindle turns only while this confirms it; STOP, Esc, an open guard, a lost link or the window's loss of focus end a run.
"""

from __future__ import annotations

from collections.abc import Callable, Generator, Iterable, Iterator
from contextlib import contextmanager
from fractions import Fraction
from functools import partial

from idler.core.errors import Refusal
from idler.core.machine import Address
from idler.core.profile.terminals import SPINDLE_CHANGED, SPINDLE_LEVEL, SPINDLE_SPEED, Condition
from idler.core.proof.claims import Proof, curve_claim, meter_claim, speed_witness, spindle_claims, state, times_claim
from idler.core.spindle import (
    Meter,
    Range,
    allowed_error,
    has_level,
    ranges,
    takes_speeds,
    told_range,
    turns_both_ways,
    whole,
)
from idler.core.spindle.runup import SpeedTrace, from_pulses, wait_for
from idler.core.spindle.speedcurve import (
    Curve,
    Miss,
    Sample,
    first_levels,
    fit,
    level_play,
    levels_near,
    lies_in,
    next_level,
    speeds_to_try,
    worst,
)
from idler.core.values.parameter import Value
from idler.core.values.quantity import parse
from idler.core.values.speedpoints import points_text
from idler.core.values.units import RPM, SECOND, figure
from idler.core.wiring.tool import tool_of
from idler.core.words import capital
from idler.link.events import Asked, Speeds
from idler.session.session import Session

from ..dead_man import HeldTerminals
from ..engine import Ending, Procedure, Result, Run, Steps, Trouble, Wait
from ..questions import done, reading, yes
from .counting import TURNS, count_by_hand
from .meter import SpeedMeter

ASK_AGAIN = 0.6  # s after which it is asked for again: the link drops what waited behind something long
NEVER_TURNS = 6.0  # s after which a spindle that should be told to turn is not
NEVER_STEADY = 60.0  # s without a steady speed, beside twice the longest way down that is told
MOST_CLOSER = 8  # levels that look for the ends of the curve
FALLS = 5  # times that a tachometer is read again while a spindle slows down
WATCH = 0.3  # s by which a hand at a stopwatch is late, or early, at the most
LONGEST_WATCH = 600  # s
FAR_OFF = 0.25  # share by which a spindle may miss the highest speed of its range, and its times still be those of it


def _rpm(typed: str) -> float:
    """A reading of a tachometer. Raises Refusal."""
    return float(parse(typed, RPM, part="reading"))


def _seconds(typed: str) -> float:
    """What a stopwatch says. Raises Refusal."""
    seconds = parse(typed, SECOND, part="time")
    if not 0 < seconds <= LONGEST_WATCH:
        raise Refusal("time", f"{float(seconds):g} s", "is none of a stopwatch", f"above 0 and up to {LONGEST_WATCH} s")
    return float(seconds)


def _known(**figures: float | None) -> dict[str, float]:
    return {name: figure for name, figure in figures.items() if figure is not None}


class Turning(Procedure):
    """What every run of the spindle needs: it turns while this confirms it, until it is measured to be steady."""

    what = "a run of the spindle"
    of_speed = True  # whether it is about a speed or a direction

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.meter = SpeedMeter(session, Meter.TYPED)
        self._held_terminals = HeldTerminals(session)
        self._found: float | None = None  # the steady speed
        self._record: tuple[tuple[float, float], ...] | None = None
        session.speeds.subscribe(self._take_speeds)
        session.unattended.subscribe(lambda: self.stop("The window lost the focus."))

    def _take_speeds(self, event: Speeds) -> None:
        self._record = event.points

    # -- what turns -----------------------------------------------------------------------------------------------

    @property
    def speedless(self) -> str:
        """Why nothing of a speed or a direction can be found here, or an empty text."""
        tool = tool_of(self._session.machine)
        if tool.turns or not self.of_speed:
            return ""
        return f"A {tool.noun} has no speed and no direction: nothing of that kind is to be measured."

    def obstacle(self) -> str:
        """Why the spindle cannot be run for a measurement, or an empty text."""
        session = self._session
        if why := self.speedless:
            return why
        if not session.connected:
            return "No controller is connected."
        rests = dict.fromkeys(address for claim in spindle_claims(session.machine) for address in claim.rests)
        return session.unsent(tuple(rests)) or session.spindle_obstacle()

    @property
    def asked(self) -> Asked:
        """What is asked of the spindle now."""
        return self._held_terminals.asked

    def turn(self, asked: Asked) -> None:
        """Asks for the spindle, and confirms it from here on."""
        self._held_terminals.hold(asked)

    def rest(self) -> None:
        self._held_terminals.let_go()

    def _look(self) -> None:
        self.meter.look()
        super()._look()

    def _end(self, result: Result) -> None:
        self.rest()
        super()._end(result)

    @property
    def _told_to_turn(self) -> bool:
        return bool(self._session.link.panel.conditions & Condition.SPINDLE)

    @contextmanager
    def _within(self, seconds: float, why: str) -> Iterator[Callable[[], None]]:
        """A check that raises Trouble when a wait has lasted too long."""
        since = self._session.loop.now()

        def check() -> None:
            if self._session.loop.now() - since > seconds:
                raise Trouble(why)

        yield check

    def _turning(self, asked: Asked) -> Steps:
        """Over when the controller tells the spindle to turn as it was asked; asked again where the link dropped it."""
        self.turn(asked)
        told = self._session.loop.now()
        longest = NEVER_TURNS + max(each.run_down for each in ranges(self._session.machine))
        with self._within(longest, "The controller did not start the spindle.") as check:
            while True:
                yield self.read(SPINDLE_LEVEL, SPINDLE_SPEED)
                now = self.raw(SPINDLE_LEVEL), self.raw(SPINDLE_SPEED)
                if self._told_to_turn and now == (asked.level, asked.speed):
                    return
                check()
                if self._session.loop.now() - told > ASK_AGAIN:
                    told = self._session.loop.now()
                    self.turn(asked)

    def _settle(self, words: str) -> Steps:
        """Over when the speed is steady, of all that came since the controller told the spindle something else."""
        yield self.read(SPINDLE_CHANGED)
        self.meter.begin(1000 * self.raw(SPINDLE_CHANGED))
        if self.meter.kind is Meter.TYPED:
            rpm = yield from self.ask(reading("spindle.reading", words, _rpm, unit="rpm"), unless=self._ended_meanwhile)
            if rpm is not None:
                self.meter.type_in(rpm)
        yield self._steady()

    def _ended_meanwhile(self) -> bool:
        """Raises Trouble where the spindle should turn and is not told to any more."""
        if self.asked != Asked() and not self._told_to_turn:
            raise Trouble("The controller stopped the spindle.")
        return False

    def _steady(self) -> Wait:
        """Over when the meter has a steady speed."""
        longest = NEVER_STEADY + 2 * max(each.run_down for each in ranges(self._session.machine))
        with self._within(longest, "The speed does not become steady.") as check:

            def ready() -> bool:
                if self.meter.kind is not Meter.TYPED:
                    check()
                self._ended_meanwhile()
                self._found = self.meter.steady
                return self._found is not None

        return ready

    def _speed(self) -> float:
        """The speed that was found to be steady last. The meter goes on: a moment later it may have another opinion."""
        assert self._found is not None
        return self._found

    def engaged(self) -> Range:
        """The range that is engaged, as the machine was told or as the controller sees it."""
        return ranges(self._session.machine)[told_range(self._session.machine)]

    def _take_trace(self, rising: bool, into: Callable[[SpeedTrace], None]) -> Steps:
        """Speed against time since the spindle was last told something else."""
        if self.meter.kind is Meter.ENCODER:
            self._record = None
            self._session.link.ask_for_speeds()
            yield lambda: self._record is not None
            record: tuple[tuple[float, float], ...] = self._record or ()
            trace = SpeedTrace(tuple(at for at, _ in record), tuple(abs(speed) for _, speed in record))
        else:
            yield self.read(SPINDLE_CHANGED)
            since = 1000 * self.raw(SPINDLE_CHANGED)  # µs
            last, now = self.meter.pulses(since - 2_000_000), self._session.link.trace.now
            times = [(int(t) - since) / 1e6 for t in last if t >= since]
            speed = from_pulses(times, whole(self._session.machine, "pulses"), (now - since) / 1e6)
            trace = speed if rising else self._falling(last, since, speed)
        into(trace)

    def _falling(self, times: Iterable[int], since: int, speed: SpeedTrace) -> SpeedTrace:
        """A run down begins at the speed of the pulses before it."""
        before = [int(t) for t in times if t < since][-5:]
        if len(before) < 2:
            return speed
        rpm = 60e6 * (len(before) - 1) / (before[-1] - before[0]) / whole(self._session.machine, "pulses")
        return SpeedTrace((0.0, *speed.times[1:]), (rpm, *speed.speeds[1:]))


class SpindleRun(Turning):
    """Curve, speeds and times. samples, by the slot of the range; curves, misses and traces likewise. turns: that were asked
    for by hand last."""

    turns = 1

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.samples: dict[int, list[Sample]] = {}
        self.curves: dict[int, Curve] = {}
        self.misses: dict[int, tuple[Miss, ...]] = {}
        self.traces: dict[int, dict[str, SpeedTrace]] = {}
        self.watched: dict[int, dict[str, float]] = {}  # seconds of a stopwatch, by the names of the traces

    # -- the curve ------------------------------------------------------------------------------------------------

    def measure(self) -> str:
        """Sweeps levels up and down; a sentence where it cannot begin."""
        if why := self.speedless:
            return why
        if not has_level(self._session.machine):
            return "This spindle has no level: there is no curve to be measured."
        if why := self.obstacle():
            return why
        slot = self.engaged().slot
        self.begin(self._sweeping(slot), "Levels upwards. Esc stops it.")
        return ""

    def _at(self, slot: int, level: float, rising: bool) -> Steps:
        if level > 0:
            yield from self._turning(Asked(run=1, level=round(10 * level)))
            yield from self._settle(f"Read the tachometer at {level:g} %")
            rpm = self._speed()
        else:
            rpm = 0.0
        self.samples[slot].append(Sample(level, rising, rpm))
        self.changed.publish()

    def _counted_first(self) -> Generator[Wait, None, Result | None]:
        """What measures the speed must count a turn as one, by a hand that has turned it: None, or what ends the run."""
        machine, kind = self._session.machine, self.meter.kind
        claim = meter_claim(machine, kind)
        if claim is None or state(machine, claim, self._session.proofs) is Proof.PROVEN:
            return None
        counted = yield from count_by_hand(self, self, self._session, kind, TURNS[kind])
        return None if counted.end is Ending.PROVEN else counted

    def _sweeping(self, slot: int) -> Run:
        if (off := (yield from self._counted_first())) is not None:
            return off
        self.samples[slot] = []
        self.curves.pop(slot, None)
        typed = self.meter.kind is Meter.TYPED
        told, missed = ranges(self._session.machine)[slot], self.misses.get(slot, ())
        levels = levels_near(first_levels(by_hand=typed), told, missed)
        for k, level in enumerate(levels, start=1):
            self.say(f"Upwards, {k} of {len(levels)}: {level:g} %. Esc stops it.")
            yield from self._at(slot, level, True)
        for k, level in enumerate(() if typed else reversed(levels), start=1):
            self.say(f"Downwards, {k} of {len(levels)}: {level:g} %. Esc stops it.")
            yield from self._at(slot, level, False)
        for _ in range(MOST_CLOSER):
            closer = next_level(self.samples[slot])
            if closer is None:
                break
            self.say(f"Closer to where it begins and ends: {closer:g} %.")
            below = max(1, round(10 * closer) - 20)
            yield from self._turning(Asked(run=1, level=below))  # as a start would
            if not typed:
                yield from self._settle("")
            yield from self._at(slot, closer, True)
        self.rest()
        curve = fit(self.samples[slot])
        if curve is None:
            raise Trouble(
                "Fewer than three levels turned the spindle: there is no curve. Look at belt, drive and meter."
            )
        yield from self._lies_there(slot, curve.top)
        self.curves[slot] = curve
        return Result(Ending.DONE, "The curve is measured.", {"dead": curve.dead, "full": curve.full, "top": curve.top},
                      self.points(slot))  # fmt: skip

    def _lies_there(self, slot: int, top: float) -> Steps:
        """Where a curve is that of another range, eyes must say where the belt lies."""
        listed = ranges(self._session.machine)
        found, other = listed[slot], lies_in(listed, listed[slot], top)
        if other is None:
            return
        seen = f"At full level it turns with {top:.0f} rpm, which is the top of {other.title}"
        words = f"{seen}. Look at the belt (or the gear): does it lie in {found.title}?"
        self.say(words)
        if not (yield from self.ask(yes("spindle.lies", words))):
            raise Trouble(
                f"{seen}: the belt does not lie in {found.title}. Move it there while the spindle stands, and measure again"
            )

    def points(self, slot: int) -> dict[Address, Value]:
        """The values that a measured curve asks for: its points, and speeds that can be reached."""
        found, curve = ranges(self._session.machine)[slot], self.curves[slot]
        values: dict[Address, Value] = {Address(slot, "range.points"): points_text(curve.points)}
        if found.high > curve.points[-1][1]:
            values[Address(slot, "range.high")] = Fraction(int(curve.points[-1][1]))
        if found.low < curve.speeds[0]:
            values[Address(slot, "range.low")] = Fraction(int(curve.speeds[0]) + 1)
        return values

    def check_speeds(self, *, mend: bool = False) -> str:
        """Commands speeds over the range and measures each; a sentence where it cannot begin. mend: where they are off, the
        curve is measured, and its points are proposed."""
        if why := self.obstacle():
            return why
        slot = self.engaged().slot
        self.misses.pop(slot, None)
        self.begin(self._checking(slot, mend), "Speeds over the range. Esc stops it.")
        return ""

    def _checking(self, slot: int, mend: bool) -> Run:
        if (off := (yield from self._counted_first())) is not None:
            return off
        found = ranges(self._session.machine)[slot]
        typed, leveled = self.meter.kind is Meter.TYPED, has_level(self._session.machine)
        speeds = [(rpm, False) for rpm in speeds_to_try(found, count=4 if typed else 8)]
        if leveled and speeds[-1] > speeds[0]:
            # at the lowest the play of a level is the largest share; the next above was surely gone up to, too: not from rest
            speeds += [(rpm, True) for rpm, _ in reversed(speeds[:2])]
        missed: list[Miss] = []
        for k, (rpm, above) in enumerate(speeds, start=1):
            self.say(f"{k} of {len(speeds)}: {rpm:.0f} rpm, within {allowed_error(rpm):.0f}. Esc stops it.")
            yield from self._turning(Asked(run=1, speed=round(rpm)))
            yield from self._settle(f"Read the tachometer at {rpm:.0f} rpm{', from above' if above else ''}")
            if above and typed:
                yield from self._still_falling(rpm)
            missed.append(Miss(rpm, self._speed() - rpm, above))
            self.misses[slot] = tuple(missed)
            self.changed.publish()
        bad = worst(self.misses[slot])
        tried = (
            f"{len(missed)} speeds, largest error {figure(abs(bad.error), 1)} rpm at {bad.asked:.0f} rpm"
            f"{', from above' if bad.above else ''}, by {self.meter.kind.words}"
        )
        held = bad.share <= 1
        self.keep_proof(curve_claim(self._session.machine, slot), held, tried, speed_witness(self.meter.kind))
        words = f"The speeds were tried: {tried}."
        play = level_play(self.misses[slot])
        if not held and play > (1 if typed else 2) * allowed_error(speeds[0][0]):  # a curve lies in the middle, at best
            why = (
                f"From above it is {figure(play, 1)} rpm beside where it is from below: the level has play, and no curve takes "
                "that up. Look at its wire, and at the input of its drive."
            )
            return Result.of(False, f"{words} {why}", error=bad.error, at=bad.asked)
        if held or not mend or not leveled:
            return Result.of(held, words, error=bad.error, at=bad.asked)
        swept = yield from self._sweeping(slot)
        return Result.of(
            False, f"{words} {swept.words} Its points are proposed.", swept.edit, error=bad.error, at=bad.asked
        )

    def _still_falling(self, rpm: float) -> Steps:
        """A tachometer that was read while the spindle slowed down is read again, until it has come down or falls no more."""
        for _ in range(FALLS):
            read = self._speed()
            if read - rpm <= allowed_error(rpm):
                return
            yield from self._settle(
                f"Read the tachometer again once it slows down no more: {rpm:.0f} rpm are asked for"
            )
            if read - self._speed() <= allowed_error(rpm):
                return

    # -- times ----------------------------------------------------------------------------------------------------

    def time_it(self) -> str:
        """Runs up to the highest speed and down again, in the way it turns; a sentence where it cannot begin."""
        if why := self.obstacle():
            return why
        slot = self.engaged().slot
        self.traces[slot], self.watched[slot] = {}, {}
        steps = self._watching(slot) if self.meter.kind is Meter.TYPED else self._timing(slot)
        self.begin(steps, "Up to the highest speed, and down. Esc stops it.")
        return ""

    def _watching(self, slot: int) -> Run:
        """By a stopwatch: a hand tachometer shows no times."""
        found, kept = ranges(self._session.machine)[slot], self.watched[slot]
        for way, words in ((1, "right"), (-1, "left")):
            if way < 0 and not turns_both_ways(self._session.machine):
                continue
            text = f"Take a stopwatch. With your answer the spindle turns {words}, up to {found.high:.0f} rpm: start it then."
            yield from self.ask(done("spindle.ready", text))
            yield from self._turning(Asked(run=way, speed=round(found.high)))
            text = "How many seconds was it until it went no faster?"
            up = yield from self.ask(reading("spindle.seconds", text, _seconds, unit="s"), unless=self._ended_meanwhile)
            yield from self._settle(f"Read the tachometer: it should turn with {found.high:.0f} rpm now")
            self._is_of(found)
            text = "With your answer it is let go: start the stopwatch then."
            yield from self.ask(done("spindle.free", text), unless=self._ended_meanwhile)
            self.rest()
            text = "How many seconds was it until it stood?"
            down = yield from self.ask(reading("spindle.seconds", text, _seconds, unit="s"))
            kept[f"up, {words}"], kept[f"down, {words}"] = float(up or 0) + WATCH, float(down or 0) + WATCH
            self.changed.publish()
        return self._timed(slot)

    def _timing(self, slot: int) -> Run:
        if (off := (yield from self._counted_first())) is not None:
            return off
        found = ranges(self._session.machine)[slot]
        yield from self._settle("")  # from standstill
        for way, words in ((1, "right"), (-1, "left")):
            if way < 0 and not turns_both_ways(self._session.machine):
                continue
            self.say(f"Turning {words}, up to {found.high:.0f} rpm. Esc stops it.")
            yield from self._turning(Asked(run=way, speed=round(found.high)))
            yield from self._settle("")
            self._is_of(found)
            yield from self._take_trace(True, partial(self._keep, slot, f"up, {words}"))
            self.say("And down to standstill.")
            self.rest()
            yield lambda: not self._told_to_turn
            yield from self._settle("")
            yield from self._take_trace(False, partial(self._keep, slot, f"down, {words}"))
        return self._timed(slot)

    def _is_of(self, found: Range) -> None:
        """Times to a speed that is not that of the range would be another one's, and what stands has none. Raises Trouble; and
        speeds that were proven are not any more."""
        machine, speed = self._session.machine, self._speed()
        if abs(speed / found.high - 1) <= FAR_OFF if takes_speeds(machine) else speed > 0:
            return
        seen = f"asked for {found.high:.0f} rpm, it turns with {speed:.0f}"
        claim = curve_claim(machine, found.slot)
        if state(machine, claim, self._session.proofs) is Proof.PROVEN:
            self.keep_proof(claim, False, seen, speed_witness(self.meter.kind))
        raise Trouble(
            f"{capital(seen)}: these are not the times of {found.title}. Look where the belt (or the gear) lies, and prove the "
            "speeds first"
        )

    def _timed(self, slot: int) -> Result:
        """Measured while these waits were in force: proven where they are longer."""
        machine = self._session.machine
        told, up, down = ranges(machine)[slot], self.longest(slot, "up"), self.longest(slot, "down")
        if up is None or down is None:
            missing = "to speed" if up is None else "to standstill"
            words = f"The time {missing} was not measured: what was recorded of its speed begins too late, or does not settle."
            return Result(Ending.FAILED, f"{words} Measure again.", _known(up=up, down=down))
        if not (told.run_up and told.run_down):
            return Result(Ending.DONE, "The times are measured.", _known(up=up, down=down), self.waits(slot))
        ways = "right and left" if turns_both_ways(machine) else "one way"
        held = up <= told.run_up and down <= told.run_down
        words = f"{up:.2f} s to speed, {down:.2f} s to standstill, {ways}; waits {told.run_up:.2f} and {told.run_down:.2f} s"
        self.keep_proof(times_claim(machine, slot), held, words, speed_witness(self.meter.kind))
        edit = {} if held else self.waits(slot)
        return Result.of(held, f"The times are measured: {words}.", edit, up=up, down=down)

    def waits(self, slot: int) -> dict[Address, Value]:
        """The waits that the measured times ask for."""
        times = {"run_up": self.longest(slot, "up"), "run_down": self.longest(slot, "down")}
        return {
            Address(slot, f"range.{name}"): Fraction(round(1000 * wait_for(time)))
            for name, time in times.items()
            if time is not None
        }

    def _keep(self, slot: int, name: str, trace: SpeedTrace) -> None:
        self.traces[slot][name] = trace
        self.changed.publish()

    def longest(self, slot: int, direction: str) -> float | None:
        """The longest measured time, s, "up" or "down"; None where none was measured."""
        times = {name: trace.settled() for name, trace in self.traces.get(slot, {}).items()} | self.watched.get(
            slot, {}
        )
        seconds = [each for name, each in times.items() if name.startswith(direction) and each is not None]
        return max(seconds) if seconds else None
