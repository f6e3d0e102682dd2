"""Whether a lathe's tailstock stands in line: a bar is turned between centres, and its diameter measured at both ends."""

from __future__ import annotations

from fractions import Fraction

from idler.core.errors import Refusal
from idler.core.geometry.tailstock import (
    LEAST,
    MICROMETER,
    Tailstock,
    TailstockVerdict,
    figures,
    sentence,
    tailstock,
    verdict,
)
from idler.core.machine import Address
from idler.core.mechanics.scale import Instrument
from idler.core.proof.claims import Witness, tailstock_claim
from idler.core.values.measures import Measures
from idler.core.values.quantity import parse
from idler.core.values.units import Dimension
from idler.core.words import capital
from idler.session.session import Session

from ..engine import Result, Run
from ..questions import Question, reading
from .dial import KeptReading, ReadingsRun

IN_LINE = Fraction(2, 100)  # ± mm of the centre, where nothing else is wanted
LONGEST = Fraction(10_000)  # mm
AT_BENCH = {"tailstock.head": 20, "tailstock.tail": 260}  # mm from the headstock, where the bench's hands measure
CENTRES = 280  # mm between the bench's centres
ASKED = {
    "tailstock.head": "What is its diameter near the headstock?",
    "tailstock.tail": "What is its diameter near the tailstock?",
    "tailstock.apart": "How far are these two places apart?",
    "tailstock.centres": "How far are the two centres apart?",
}
SHORT = {
    "tailstock.head": "diameter at the headstock", "tailstock.tail": "diameter at the tailstock",
    "tailstock.apart": "length between the diameters", "tailstock.centres": "length between centres",
}  # fmt: skip
FIRST = "Turn a bar between centres over its length with one setting of the tool, finely and without a tail support. "


class TailstockRun(ReadingsRun):
    """answers: in mm, by the key of the question; those that were given stay when it is interrupted."""

    what = "the tailstock, by two diameters"
    moves = False  # what turns the bar is the person's program

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.micrometer: Instrument = MICROMETER
        self.answers: dict[str, float] = {}

    @property
    def reads(self) -> Measures:
        return self._session.machine.reads

    @property
    def found(self) -> Tailstock | None:
        if set(self.answers) != set(ASKED):
            return None
        head, tail, apart, centres = (self.answers[key] for key in ASKED)
        return tailstock(head, tail, apart, centres, self.micrometer)

    def obstacle(self) -> str:
        """Why it cannot be measured now, or an empty text."""
        if self._session.machine[Address(None, "build.kind")] != "lathe":
            return "This machine is no lathe: it has no tailstock that must stand in line."
        return self._session.proof_obstacle(tailstock_claim(self._session.machine))

    def measure(self, tolerance: float) -> str:
        """All that is not answered yet, or all anew where all is. A sentence where it cannot begin."""
        if why := self.obstacle():
            return why
        if self.found is not None:
            self.answers = {}
            self.anew()
        self.begin(self._measuring(tolerance), "A bar is measured.")
        return ""

    def drop(self) -> None:
        """Forgets what was measured."""
        self.answers = {}
        self.changed.publish()

    @property
    def readings(self) -> list[KeptReading]:
        """What was measured, each of which can be measured again."""
        return [
            KeptReading(f"{SHORT[key]}: {self.reads.length(self.answers[key], 3)}", self.dropping(self.answers, key))
            for key in ASKED
            if key in self.answers
        ]

    def settle(self, tolerance: float) -> None:
        """Keeps what the diameters prove."""
        if (found := self.found) is not None:
            held = verdict(found, tolerance) is TailstockVerdict.PROVEN
            words = f"{figures(found, self.reads)}; wanted ± {self.reads.length(tolerance, 3, trim=True)}{self.again_words()}"
            self.keep_proof(tailstock_claim(self._session.machine), held, words, Witness.INSTRUMENT)

    def _measuring(self, tolerance: float) -> Run:
        for key in ASKED:
            if key not in self.answers:
                self.answers[key] = float((yield from self.ask(self._question(key))) or 0)
                self.changed.publish()
        found = self.found
        assert found is not None
        self.settle(tolerance)
        said = verdict(found, tolerance)
        return Result.of(
            said is TailstockVerdict.PROVEN,
            f"Tailstock: {said.words}. {capital(figures(found, self.reads))}. {sentence(found, self.reads, tolerance)}",
            off=found.off, uncertainty=found.expanded, taper=found.taper,
        )  # fmt: skip

    def _question(self, key: str) -> Question[Fraction]:
        text = f"{FIRST if key == 'tailstock.head' else ''}{ASKED[key]}"
        tool = self.micrometer.key if key in ("tailstock.head", "tailstock.tail") else "rule"
        return reading(key, text, lambda typed: self._length(key, typed), instrument=tool, unit=self.reads.name)

    def _length(self, key: str, typed: str) -> Fraction:
        """Raises Refusal."""
        name = SHORT[key].partition(" at ")[0]
        value = parse(typed, Dimension.TRAVEL.unit(False), bare=self.reads.unit(), part=name, sample=Fraction(100))
        low, high = Fraction(1), LONGEST
        if key == "tailstock.apart":
            low, high = Fraction(LEAST), Fraction(self.answers.get("tailstock.centres", LONGEST))
        elif key == "tailstock.centres":
            low = Fraction(self.answers["tailstock.apart"])
        elif key == "tailstock.tail":
            low, high = (
                Fraction(self.answers["tailstock.head"]) * share for share in (Fraction(9, 10), Fraction(11, 10))
            )
        if not low <= value <= high:
            reads = self.reads
            raise Refusal(name, reads.length(value, trim=True), "cannot be", reads.range(float(low), float(high), 1))
        return value
