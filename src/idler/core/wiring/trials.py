"""Trials of the wiring: guided steps that end in a proof. Pure state machines; they are fed what the controller reports.

Times are µs of the controller's clock, so that a trial means the same however fast the clock runs.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import Enum

REACTION = 500_000  # µs that drives or spindle may take to lose their power
STAYS_OFF = 2_000_000  # µs that the spindle must stay off after the guard was closed


class Outcome(Enum):
    RUNNING = "running"
    PASSED = "passed"
    FAILED = "failed"


@dataclass(frozen=True)
class TerminalsSeen:
    """What the controller reports at one moment. made: the input under trial is not at its rest.

    power_asked: how often somebody has asked for power so far; power that comes back unasked is a failure.
    """

    now: int
    made: bool
    powered: bool
    fault: bool
    spindle: bool
    power_asked: int = 0


@dataclass
class _Trial:
    """step: what the person is asked to do now. result: words for the proof, at the end."""

    outcome: Outcome = field(default=Outcome.RUNNING, init=False)
    step: str = field(default="", init=False)
    result: str = field(default="", init=False)
    powers: bool = field(default=False, init=False)  # whether the drives are to be powered now
    spins: bool = field(default=False, init=False)  # whether the spindle is to be run now
    _phase: int = field(default=0, init=False)
    _since: int = field(default=0, init=False)

    @property
    def wants(self) -> str:
        """What the person is to do now: the key of a question, or an empty text while the machine is looked at."""
        raise NotImplementedError

    def _go(self, phase: int, now: int, step: str) -> None:
        self._phase, self._since, self.step = phase, now, step

    def _end(self, passed: bool, result: str) -> None:
        self.outcome = Outcome.PASSED if passed else Outcome.FAILED
        self.result, self.step = result, ""


class Held(Enum):
    """What axes do that should be loose and stand, while the stop is pressed: key, words, and what follows."""

    EVERY = (
        "every", "all hold",
        "every motor holds: the enable line is told the wrong way round, or does not reach the drives",
    )  # fmt: skip
    SOME = (
        "some", "some hold",
        "a motor holds: its drive does not hear its enable line. Look at that wire, and at how the drive is set",
    )  # fmt: skip
    SINKS = (
        "sinks", "one sinks",
        "an axis sinks by its own weight: that is not stopped. It needs a brake, a counterweight or a spring; until then keep "
        "hands and work away from under it",
    )  # fmt: skip

    def __init__(self, key: str, words: str, why: str) -> None:
        self.key, self.words, self.why = key, words, why


def held_of(felt: Sequence[tuple[bool, bool]]) -> Held | None:
    """Of all axes whether each is loose, and whether it sinks; None where all are as they should be."""
    if any(sinks for _, sinks in felt):
        return Held.SINKS
    loose = [each for each, _ in felt]
    return None if all(loose) else Held.SOME if any(loose) else Held.EVERY


@dataclass
class StopTrial(_Trial):
    """Press: everything loses power, and a hand at each axis feels it. Release: nothing comes back by itself. Power: it does.

    What the controller says of its drives proves nothing about their current, so `asks` is true while the person is to push
    each axis that can be; `answer` goes on. Where that is not so, `holds` is true while they are to say how, which tells a line
    from a drive, and both from an axis that goes on by its own weight; `felt` ends it. The time that it took is an upper bound:
    from the last moment that the stop was seen released to the first that everything was seen without power.
    """

    asks: bool = field(default=False, init=False)
    holds: bool = field(default=False, init=False)
    hand: Held | None = field(default=None, init=False)  # what one felt, where not every motor was loose
    _clear: int = field(default=0, init=False)
    _took: int = field(default=0, init=False)
    _asked: int = field(default=0, init=False)

    @property
    def wants(self) -> str:
        if self.asks or self.holds:
            return "stop.loose" if self.asks else "stop.holds"
        if self.powers:
            return "stop.power"
        return {0: "stop.release" if self.step else "", 1: "stop.press", 3: "stop.release"}.get(self._phase, "")

    def feed(self, seen: TerminalsSeen) -> None:
        if self.outcome is not Outcome.RUNNING:
            return
        self.powers = self._phase in (0, 4) and not seen.powered and not seen.made
        match self._phase:
            case 0:
                if seen.made:
                    self.step = "The emergency stop is pressed. Release it to begin."
                elif not seen.powered:
                    self.step = "Power the drives: the proof is that the stop takes their power."
                else:
                    self._clear = seen.now
                    self._go(1, seen.now, "Press the emergency stop at the machine.")
            case 1:
                if seen.made:
                    self._go(2, seen.now, "Pressed. Looking whether the drives lose their power…")
                    self._judge_press(seen)
                elif not seen.powered:
                    self._end(False, "the drives lost their power, and the input of the stop did not change")
                self._clear = self._clear if seen.made else seen.now
            case 2:
                self._judge_press(seen)
            case 5 | 6 if seen.powered or seen.spindle:
                self._end(False, "power came back while the stop was pressed")
            case 3:
                if seen.powered or seen.spindle:
                    self._end(False, "power came back while the stop was pressed")
                elif not seen.made:
                    self._asked = seen.power_asked
                    self._go(4, seen.now, "Released, and the drives stay off. Now power the drives again.")
            case 4:
                if seen.made:
                    self._go(3, seen.now, "Pressed again. Release it.")
                elif seen.powered and seen.power_asked == self._asked:
                    self._end(False, "the drives got their power back by themselves when the stop was released")
                elif seen.powered:
                    took = max(1, round(self._took / 1000))
                    self._end(True, f"pressed: drives and spindle off within {took} ms, each axis that a hand pushed was "
                              "loose; released: they stayed off")  # fmt: skip

    def answer(self, loose: bool) -> None:
        """What the hand felt while the stop was pressed."""
        if not self.asks:
            return
        self.asks, self.holds = False, not loose
        if loose:
            self._go(3, self._since, "The motors are without current. Release the stop.")
        else:
            self._go(6, self._since, "The drives are said to be off. Push each axis once more: what do they do?")

    def felt(self, hand: Held) -> None:
        """What they do instead."""
        if self.holds:
            self.holds, self.hand = False, hand
            self._end(False, f"pressed, the controller says that the drives are off, and {hand.why}")

    def _judge_press(self, seen: TerminalsSeen) -> None:
        if not seen.powered and not seen.spindle and seen.fault:
            self._took = seen.now - self._clear
            self._go(5, seen.now, "Push each axis that a hand can move: is every one loose, and does none sink?")
            self.asks = True
        elif seen.now - self._since > REACTION:
            what = "the drives kept their power" if seen.powered else "the spindle kept running" if seen.spindle else (
                "the controller reported no fault")  # fmt: skip
            self._end(False, f"pressed, and {what}")


@dataclass
class GuardTrial(_Trial):
    """With the spindle running, open: it stops. Close: it stays off."""

    @property
    def wants(self) -> str:
        if self.spins:
            return "guard.run"
        return {0: "guard.close" if self.step else "", 1: "guard.open", 3: "guard.close"}.get(self._phase, "")

    def feed(self, seen: TerminalsSeen) -> None:
        if self.outcome is not Outcome.RUNNING:
            return
        self.spins = self._phase in (0, 1) and not seen.spindle and not seen.made
        match self._phase:
            case 0:
                if seen.made:
                    self.step = "The guard is open. Close it to begin."
                elif not seen.spindle:
                    self.step = "Run the spindle: the proof is that the guard stops it."
                else:
                    self._go(1, seen.now, "The spindle runs. Open the guard.")
            case 1:
                if seen.made:
                    self._go(2, seen.now, "Open. Looking whether the spindle stops…")
                    self._judge_open(seen)
                elif not seen.spindle:
                    self._go(0, seen.now, "Run the spindle: the proof is that the guard stops it.")
            case 2:
                self._judge_open(seen)
            case 3:
                if seen.spindle:
                    self._end(False, "the spindle started while the guard was open")
                elif not seen.made:
                    self._go(4, seen.now, "Closed. Looking whether the spindle stays off…")
            case 4:
                if seen.spindle:
                    self._end(False, "the spindle started by itself when the guard was closed")
                elif seen.made:
                    self._go(3, seen.now, "Open again. Close the guard.")
                elif seen.now - self._since > STAYS_OFF:
                    self._end(True, "opened: the spindle was switched off; closed: it stayed off")

    def _judge_open(self, seen: TerminalsSeen) -> None:
        if not seen.spindle:
            self._go(3, seen.now, "The spindle is off. Close the guard: it must not start again.")
        elif seen.now - self._since > REACTION:
            self._end(False, "opened, and the spindle kept running")


@dataclass
class TouchTrial(_Trial):
    """One input: made, and clear again. One that was made when it began may rest the other way than it was told, and each
    press of it then looks like a release: it must stay clear, longer than a hand presses."""

    _freed = False  # whether it was made when it began

    @property
    def wants(self) -> str:
        return "touch.switch"

    def feed(self, seen: TerminalsSeen) -> None:
        if self.outcome is not Outcome.RUNNING:
            return
        if self._phase == 0 and not seen.made and not (self._freed and self._held(seen.now)):
            self._go(1, seen.now, "Press it.")
        elif self._phase == 1 and seen.made:
            self._go(2, seen.now, "Release it.")
        elif self._phase == 2 and not seen.made:
            self._end(True, f"made for {(seen.now - self._since) / 1e6:.1f} s, then clear again")
        elif self._phase == 0 and seen.made:
            self._freed, self._clear_since = True, None
            self.step = "It is made already. Free it first."

    _clear_since: int | None = None

    def _held(self, now: int) -> bool:
        """Whether it has not been clear for so long yet that no hand would press it for that."""
        if self._clear_since is None:
            self._clear_since = now
        return now - self._clear_since < FREED

    @property
    def made_already(self) -> bool:
        """Whether it was made when it began, and was not clear for long enough since."""
        return self._phase == 0 and self._freed


FREED = (
    3_000_000  # µs for which a switch that was made must be clear before it counts as free: nobody presses one so long
)
TOUCHED = 30_000  # µs that another input must be made before it counts as an answer


@dataclass
class TouchRound:
    """Every switch asked for by its name, one after the other; another terminal's answer is told, and proves nothing.

    left: inputs that are still to be touched, the one that is asked for first; a chain as often as it has switches. wrong: the
    input that answered instead of it, as long as nobody has said what that was.
    """

    left: list[int]
    _begun: frozenset[int] | None = None  # made when it was begun, or the next one asked for: no answer of a hand
    wrong: int | None = field(default=None, init=False)
    _trial: TouchTrial = field(default_factory=TouchTrial, init=False)
    _since: dict[int, int] = field(default_factory=dict, init=False)
    _fed: bool = field(default=False, init=False)
    _touched: dict[int, tuple[int, str]] = field(
        default_factory=dict, init=False
    )  # how often, and how it was the last time

    @property
    def asked(self) -> int | None:
        """The input whose switch is to be touched now; None at the end."""
        return self.left[0] if self.left else None

    def feed(self, now: int, made: frozenset[int]) -> tuple[int, str] | None:
        """made: inputs that are not at their rest. The input that has just been proven, with the words of its proof."""
        asked = self.asked
        if asked is None:
            return None
        if self._begun is None:
            self._begun = made
        if not self._fed:  # what was so when it was asked for comes first, however soon a hand was there
            self._fed = True
            self._trial.feed(TerminalsSeen(now, asked in self._begun, False, False, False))
        self._trial.feed(TerminalsSeen(now, asked in made, False, False, False))
        if self._trial.outcome is Outcome.PASSED:
            words = f"touched by name, it was {self._trial.result}"
            self._touched[asked] = (self._touched.get(asked, (0, ""))[0] + 1, words)
            self._go_on(self.left[1:], made)
            return None if asked in self.left else self._told(asked)
        if asked in made:
            self.wrong, self._since = None, {}
            return None
        for slot in made - self._begun:
            if now - self._since.setdefault(slot, now) >= TOUCHED:
                self.wrong = slot
        self._since = {slot: since for slot, since in self._since.items() if slot in made}
        self._begun &= made
        return None

    @property
    def made_already(self) -> bool:
        """Whether the input that is asked for was made before a hand was there."""
        return self._trial.made_already

    @property
    def of_chain(self) -> tuple[int, int]:
        """Of the chain that is asked for: how many of its switches were touched, and of how many."""
        done = self._touched.get(self.left[0], (0, ""))[0] if self.left else 0
        return done, done + self.left.count(self.left[0]) if self.left else 0

    def no_more(self) -> tuple[int, str] | None:
        """The chain that is asked for has no further switch: it is proven by those that were touched."""
        asked = self.asked
        if asked is None or asked not in self._touched:
            return None
        self._go_on([slot for slot in self.left if slot != asked])
        return self._told(asked)

    def _told(self, slot: int) -> tuple[int, str]:
        number, words = self._touched[slot]
        return slot, words if number == 1 else f"{number} switches of it; the last was {words}"

    def skip(self) -> None:
        """The next one: what is asked for is left for later."""
        asked = self.left[0]
        others = [slot for slot in self.left if slot != asked]
        self._go_on([*others, *[asked] * self.left.count(asked)])

    def _go_on(self, left: list[int], made: frozenset[int] | None = None) -> None:
        self.left, self.wrong, self._trial, self._since = left, None, TouchTrial(), {}
        self._begun, self._fed = made, False
