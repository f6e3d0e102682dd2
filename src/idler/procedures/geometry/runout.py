"""Whether what an axis holds turns true: a dial at rest against a bar, read at four angles."""

from __future__ import annotations

from collections.abc import Generator
from fractions import Fraction

from idler.core.geometry.runout import (
    ANGLES,
    FEELER,
    Runout,
    RunoutVerdict,
    figures,
    follows,
    runout,
    sentence,
    slipped,
    verdict,
)
from idler.core.machine import Axis
from idler.core.mechanics.scale import Instrument
from idler.core.proof.claims import Witness, runout_claim, value_texts
from idler.core.values.measures import Measures
from idler.session.session import Session

from ..engine import Result, Run, Steps, Trouble, Wait
from ..questions import done, reading
from ..safe import go_to
from .dial import DIALS, KeptReading, ReadingsRun, dial_value, set_to_zero

TRUE_ENOUGH = Fraction(2, 100)  # mm to and fro, where nothing else is wanted
OVER = "bar"  # what the dial stands against, as the bench's hands call it


class RunoutRun(ReadingsRun):
    """values: by the name of the axis, and by which of ANGLES, what the dial said. They hang on one zero of the dial: where
    some are missing, one that was read is read again first, and must be what it was."""

    what = "runout, by a dial"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.dial: Instrument = DIALS[0]
        self.values: dict[str, dict[int, float]] = {}
        self._rests: dict[str, dict[str, str]] = {}  # the values with which they were read
        self._slot = 0

    @property
    def reads(self) -> Measures:
        """Of a length: what the dial says is one, whatever the axis counts."""
        return self._session.machine.reads

    def found(self, slot: int) -> Runout | None:
        values = self.values.get(self._session.machine.names[slot], {})
        return runout([values[k] for k in range(len(ANGLES))], self.dial) if len(values) == len(ANGLES) else None

    def forget(self, slot: int) -> None:
        """Forgets what was read at an axis."""
        self.values.pop(self._session.machine.names[slot], None)
        self.changed.publish()

    def readings(self, slot: int) -> list[KeptReading]:
        """What was read, each of which can be read again."""
        name = self._session.machine.names[slot]
        values = self.values.get(name, {})
        return [
            KeptReading(
                f"{ANGLES[number]:g}°: {self.reads.length(each, 3)}",
                self.dropping(values, number, name),
            )
            for number, each in sorted(values.items())
        ]

    def goes_on(self, slot: int) -> bool:
        """Whether only what is missing is read next."""
        name, claim = self._session.machine.names[slot], runout_claim(self._session.machine, slot)
        same = self._rests.get(name) == value_texts(self._session.machine, claim.rests)
        return 0 < len(self.values.get(name, {})) < len(ANGLES) and same

    def obstacle(self, slot: int) -> str:
        """Why it cannot be measured now, or an empty text."""
        session, axis = self._session, self._session.machine.axis(slot)
        if not axis.rotary:
            return f"{axis.name} goes straight: it turns nothing."
        claim = runout_claim(session.machine, slot)
        if why := session.motion_obstacle(claim.rests) or session.proof_obstacle(claim):
            return why
        if why := session.homes.obstacle([slot]):
            return why
        return ""

    def measure(self, slot: int, tolerance: float) -> str:
        """At all four angles, or those that are missing; a sentence where it cannot begin."""
        if why := self.obstacle(slot):
            return why
        name = self._session.machine.names[slot]
        self._slot = slot
        if not self.goes_on(slot):
            self.anew(name)
            self.values[name] = {}
            self._rests[name] = value_texts(self._session.machine, runout_claim(self._session.machine, slot).rests)
        self.begin(self._measuring(tolerance), f"{name} turns to 0°.")
        return ""

    def settle(self, slot: int, tolerance: float) -> None:
        """Keeps what the readings prove."""
        machine, found = self._session.machine, self.found(slot)
        claim, axis = runout_claim(machine, slot), machine.axis(slot)
        if found is not None and not self.running and self._rests.get(axis.name) == value_texts(machine, claim.rests):
            self._settle(axis, found, tolerance)

    def _settle(self, axis: Axis, found: Runout, tolerance: float) -> None:
        held = verdict(found, tolerance) is RunoutVerdict.PROVEN
        wanted = self.reads.length(tolerance, 3, trim=True)
        words = f"{figures(found, self.reads)}; wanted {wanted}{self.again_words(axis.name)}"
        self.keep_proof(runout_claim(self._session.machine, axis.slot), held, words, Witness.INSTRUMENT)

    def _measuring(self, tolerance: float) -> Run:
        session, axis = self._session, self._session.machine.axis(self._slot)
        values = self.values[axis.name]
        anchor = min(values, default=0)  # the angle that is read at the beginning and at the end
        yield from go_to(self, session, axis.slot, ANGLES[anchor])
        if values:
            words = f"The dial still stands against the bar in {axis.name}, its zero untouched?"
            yield from self.ask(done("runout.on", words, axis.name, instrument=self.dial.key))
            again = yield from self._said_at(f"{axis.name} stands at {ANGLES[anchor]:g}° again.")
            self._compare(axis, anchor, again, "before", "now")
        else:
            yield from self._hold(axis)
        for number, angle in enumerate(ANGLES):
            if number not in values:
                self.say(f"{axis.name} turns to {angle:g}°. Esc stops it.")
                yield from go_to(self, session, axis.slot, angle)
                values[number] = yield from self._said_at(f"{axis.name} stands at {angle:g}°.")
                self.changed.publish()
        yield from go_to(self, session, axis.slot, ANGLES[anchor])
        again = yield from self._said_at(f"{axis.name} is back at {ANGLES[anchor]:g}°.")
        self._compare(axis, anchor, again, "at first", "at the end")
        found = self.found(axis.slot)
        assert found is not None
        self._settle(axis, found, tolerance)
        said = verdict(found, tolerance)
        return Result.of(
            said is RunoutVerdict.PROVEN,
            f"{axis.name}: {said.words}. {figures(found, self.reads)}. {sentence(axis, found, self.reads, tolerance)}",
            total=found.total, uncertainty=found.expanded, off=found.off, toward=found.toward, shape=found.shape,
        )  # fmt: skip

    def _compare(self, axis: Axis, number: int, again: float, then: str, now: str) -> None:
        """Raises Trouble where an angle is not what it was: nothing that was read holds."""
        kept = self.values[axis.name][number]
        if slipped(kept, again, self.dial):
            told = f"{self.reads.length(kept, 3)} {then} and {self.reads.length(again, 3)} {now}"
            self.forget(axis.slot)
            raise Trouble(f"The dial has slipped: at {ANGLES[number]:g}° it said {told}. Clamp it, and measure again.")

    def _hold(self, axis: Axis) -> Steps:
        """The dial stands against the bar, at zero, and was seen to follow."""
        yield from self.ask(
            done(
                "runout.zero", f"{axis.name} stands at 0°: hold the {self.dial.words(self.reads)} against the bar in it, its "
                "foot at rest on the machine, and set it to zero. + is towards the dial. "
                f"{axis.name} turns three quarters of a turn and back.", axis.name, instrument=self.dial.key,
            )
        )  # fmt: skip
        yield from set_to_zero(self._session, over=OVER, axis=axis.name, instrument=self.dial.key)
        yield from self._see_it_follow(axis)

    def _see_it_follow(self, axis: Axis) -> Generator[Wait, None, None]:
        """A dial that touches nothing would say that it turns true. Raises Trouble."""
        feeler = self.reads.length(FEELER, 2, trim=True)
        said = yield from self._read_dial(
            "runout.follows",
            f"Slip a feeler gauge of {feeler} between the dial and the bar. What does the dial say with it?",
        )
        if why := follows(said):
            told = f"The dial says {self.reads.length(said, 3)} with {feeler} more"
            raise Trouble(f"{told}: {why}. Nothing was measured with it.")
        yield from self.ask(done("runout.out", "Take the feeler gauge out again.", axis.name))

    def _said_at(self, where: str) -> Generator[Wait, None, float]:
        return (yield from self._read_dial("runout.reading", f"{where} What does the dial say, with its sign?"))

    def _read_dial(self, key: str, text: str) -> Generator[Wait, None, float]:
        name = self._session.machine.names[self._slot]
        said = yield from self.ask(
            reading(
                key, text,
                lambda typed: dial_value(typed, self.dial, self.reads, f"dial at the bar in {name}"),
                axis=name, instrument=self.dial.key, unit=self.reads.name,
            )
        )  # fmt: skip
        return float(said or 0)
