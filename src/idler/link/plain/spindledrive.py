"""A drive of CiA 402 that turns the spindle: told the speed of its motor in velocity mode, or in profile velocity mode.

It is switched on for a speed, and off again when it says that it stands. What stops it by itself when Idler falls silent is
tried before it turns for the first time.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import replace
from fractions import Fraction

from idler.core.profile import cia402 as c

from ..errors import LinkError, NotAllowedNow, Overtaken, WriteRefused
from .part import Object, Part
from .power import WALK
from .safety import Watch, expect, expect_no_more, make_safe
from .values import units_of

MODE_SPEED = 2  # velocity mode (CiA 402-2, "vl"), of frequency converters; speeds in rpm
RAMPED = 0x70  # its controlword: the ramp is enabled, unlocked, and follows the target
VL_TARGET, VL_ACTUAL, VL_MOST, MOTOR_MOST = (0x6042, 0), (0x6044, 0), (0x6046, 2), (0x6080, 0)
_VL_FACTORS = (0x604C, 0x604B)  # dimension and setpoint factor: numerator and denominator
BETWEEN_WORDS, LATEST = (
    0.03,
    15.0,
)  # s between two words to it; and after which it is off though it does not say that it stands
_ON = (c.State.ENABLED, c.State.QUICK_STOP)
AGAIN = 0.1  # s after which its speed is said again
RESETS = 5  # after which a fault is taken for one that stays
STANDS = 3.0  # rpm of the motor


class SpindleDrive:
    """What it is told is said again and again, for a frame may be lost: what should stand must not turn on."""

    def __init__(self, part: Part) -> None:
        self.part = part
        self.state = c.State.NOT_READY
        self.watch = Watch()
        self.fastest = 0  # rpm of its motor, as it says itself; 0: it does not
        self._wanted = 0.0  # rpm of its motor, right is +
        self._mode, self._per_rpm = 0, Fraction(1)
        self._target: Object = VL_TARGET
        self._actual: Object | None = None
        self._turning = 0.0  # rpm that it says its motor makes
        self._looked = self._said_at = self._told_at = self._ended_at = 0.0  # time.monotonic
        self._enabled = False  # whether it has been on for what is wanted now
        self._mode_told = self._is_tried = False
        self._resets = 0  # that were told in vain

    def find(self) -> None:
        """Raises LinkError where it takes no speed, or its unit is not to be known."""
        part = self.part
        if not part.has((c.STATUS, 0)):
            raise LinkError(f"{part.called} does not say its state (6041h): it is no drive of a spindle. Leave it out.")
        modes = part.read_if_there((c.MODES_KNOWN, 0))
        known = [mode for mode in (MODE_SPEED, c.MODE_VELOCITY) if modes is None or modes >> mode - 1 & 1]
        told = units_of(part)
        if MODE_SPEED in known and part.has(VL_TARGET):
            self._mode, self._target, self._actual = MODE_SPEED, VL_TARGET, VL_ACTUAL
            self._per_rpm = 1 / self._factor()
        elif c.MODE_VELOCITY in known and part.has((c.TARGET_VELOCITY, 0)) and told.per_rpm is not None:
            self._mode, self._target, self._actual = c.MODE_VELOCITY, (c.TARGET_VELOCITY, 0), (c.VELOCITY, 0)
            self._per_rpm = told.per_rpm
        else:
            raise LinkError(
                f"{part.called} takes no speed that Idler could tell it: neither turns per minute (6042h), nor a target "
                "velocity (60FFh) together with its counts per turn of the motor (608Fh). Leave it out."
            )
        self._actual = self._actual if self._actual is not None and part.has(self._actual) else None
        self.fastest = next(filter(None, (part.read_if_there(where) for where in (VL_MOST, MOTOR_MOST))), 0)
        part.watch([(c.STATUS, 0), *([self._actual] if self._actual else [])])
        part.seen = self._seen

    def _factor(self) -> Fraction:
        """What makes rpm of the number in 6042h."""
        found = Fraction(1)
        for index in _VL_FACTORS:
            above, below = (self.part.read_if_there((index, sub), signed=True) for sub in (1, 2))
            found *= Fraction(above, below) if above and below else 1
        return found

    def _seen(self, where: Object, data: bytes, asked: float, now: float) -> None:
        if where[0] == c.STATUS:
            self.state, self._looked = c.State.of(int.from_bytes(data[:2], "little")), asked
        else:
            self._turning = float(int.from_bytes(data, "little", signed=True) / self._per_rpm)

    # -- what it may ----------------------------------------------------------------------------------------------

    @property
    def tripped(self) -> bool:
        return self.state in (c.State.FAULT, c.State.FAULT_REACTION)

    @property
    def listens(self) -> bool:
        """Whether it was seen to stop by itself when Idler falls silent."""
        return self.watch.seen

    @property
    def enabled(self) -> bool:
        return self.state is c.State.ENABLED

    def make_safe(self, own_node: int, silence: float) -> None:
        """Raises NotAllowedNow where it would turn on when Idler falls silent, or not end when it is told to."""
        watch = make_safe(self.part, "The spindle", own_node, silence, [(c.STATUS, 0)])
        if not watch.told:
            raise self._refusal(watch.words)
        self.watch = watch.as_tried(self.watch)

    def expect(self, own_node: int, silence: float) -> None:
        expect(self.part, self.watch, own_node, silence)

    def silence_was_seen(self, stopped: bool) -> None:
        """Raises NotAllowedNow where it went on."""
        self.watch = replace(self.watch, seen=stopped)
        if not stopped:
            raise self._refusal("it was told to listen to Idler (1016h, 100Ch), and did not stop without it")

    def _refusal(self, why: str) -> NotAllowedNow:
        return NotAllowedNow(
            f"The spindle is not started: {self.part.called} would turn on when Idler falls silent, for {why}. Wire its safe "
            "torque off, or its enable terminal, to an output, and tell it in another way."
        )

    @contextmanager
    def tried(self) -> Iterator[None]:
        """Nothing is told to it meanwhile: what it does then it does by itself."""
        self._is_tried = True
        try:
            yield
        finally:
            self._is_tried = False

    def switch_on(self, patience: float, wait: Callable[[float], None], wanted: Callable[[], bool]) -> None:
        """On, at rest; a fault is reset. patience: s. Raises NotAllowedNow with its reason."""
        self._walk_until(lambda: self.enabled, patience, wait, wanted)

    def reset(self, patience: float, wait: Callable[[float], None], wanted: Callable[[], bool]) -> None:
        """Its fault, if it has one. Raises NotAllowedNow."""
        self._walk_until(lambda: not self.tripped, patience, wait, wanted)

    def _walk_until(
        self, reached: Callable[[], bool], patience: float, wait: Callable[[float], None], wanted: Callable[[], bool]
    ) -> None:
        deadline = time.monotonic() + patience
        self._wanted, self._resets = 0.0, 0
        self._say_speed()
        while not reached():
            if not wanted():
                raise Overtaken("STOP came first.")
            if time.monotonic() > deadline or (self.tripped and self._resets > RESETS):
                code = self.part.read_if_there((c.ERROR_CODE, 0)) or 0
                why = c.fault_text(code) if code else f"its state is “{self.state.name.lower().replace('_', ' ')}”"
                raise NotAllowedNow(f"The drive of the spindle does not follow: {why}.")
            self._walk(time.monotonic())
            wait(0.01)

    # -- what it is told ------------------------------------------------------------------------------------------

    def follow(self, rpm: float, now: float) -> bool:
        """Goes on with what is wanted of its motor; waits for nothing. False where it has ended by itself what it was doing."""
        if self._is_tried:
            return True
        if rpm != self._wanted:
            if not self._wanted:
                self._enabled = False
            self._wanted, self._ended_at = rpm, now
            self._say_speed()
        elif self.watch.told and self.state in _ON and now - self._told_at > AGAIN:
            self._say_speed()
        if self._wanted:
            known = self._looked > self._said_at  # what it says now is its answer to the last word
            ended = self.tripped or (known and self._enabled and not self.enabled)
            self._enabled = self._enabled or (known and self.enabled)
            if ended:
                return False
            self._walk(now)
        elif self.watch.told and self.state in _ON and self._looked > self._said_at and self._is_over(now):
            self._say(c.DISABLE_VOLTAGE, now)
        return True

    def _is_over(self, now: float) -> bool:
        return self._stands(now) or now - self._ended_at > LATEST

    def _stands(self, now: float) -> bool:
        """As it says; whoever has been told a moment ago has not even begun."""
        settled = now - self._ended_at > 10 * BETWEEN_WORDS
        return settled and self._actual is not None and abs(self._turning) <= STANDS

    def _walk(self, now: float) -> None:
        """The next word towards “operation enabled”, where the last one was answered by a state."""
        if self._looked <= self._said_at or now - self._said_at < BETWEEN_WORDS:
            return
        if not self._mode_told:
            with suppress(WriteRefused):
                self.part.say((c.MODE, 0), self._mode, 1)
            self._mode_told = True
        word = WALK.get(self.state)
        if word == c.FAULT_RESET:
            self.part.say((c.CONTROL, 0), 0, 2)
            self._resets += 1
        if word is not None:
            self._say(word, now)

    def _say(self, word: int, now: float) -> None:
        ramped = RAMPED if word == c.ENABLE and self._mode == MODE_SPEED else 0
        self.part.say((c.CONTROL, 0), word | ramped, 2)
        self._said_at = now

    def _say_speed(self) -> None:
        size = self.part.size_of(self._target)
        most = (1 << 8 * size - 1) - 1
        raw = max(-most, min(most, round(Fraction(self._wanted) * self._per_rpm)))
        self.part.say(self._target, raw, size)
        self._told_at = time.monotonic()

    def stop(self) -> None:
        """As fast as it can; needs no answer."""
        self._wanted, self._ended_at = 0.0, time.monotonic()
        if self._mode:
            self._say_speed()
            self.part.say((c.CONTROL, 0), c.QUICK_STOP, 2)
            self._said_at = self._ended_at

    def let_go(self) -> None:
        """It is told not to expect Idler any more; waits for nothing."""
        if self.watch.told:
            self.stop()
            expect_no_more(self.part, self.watch)

    def forget(self) -> None:
        """It has started anew: nothing of what it was told holds any more."""
        self.watch, self._mode_told, self._wanted = Watch(), False, 0.0
