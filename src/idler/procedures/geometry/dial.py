"""What every procedure asks of a dial: a reading within its reach; on the bench its hands set it to zero."""

from __future__ import annotations

import math
from collections.abc import Callable, Generator, MutableMapping, MutableSequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from idler.core.errors import Refusal
from idler.core.geometry.play import FOLLOWS, LEAST_RADIUS, USUAL_RADIUS, at_radius, follows, most_radius
from idler.core.machine import Axis
from idler.core.mechanics.scale import COVERAGE, Instrument, fitting
from idler.core.values.measures import Measures
from idler.core.values.quantity import parse
from idler.core.values.units import Dimension
from idler.session.session import Session

from ..engine import Procedure, Trouble, Wait
from ..questions import reading
from ..safe import go_to

DIALS = tuple(item for item in fitting(False) if item.lag)
# of what is measured: a radius told so much too large passes where the dial must follow to a quarter (1 / 0.75)
RADIUS_OFF = 1 / 3


def dial_value(typed: str, dial: Instrument, reads: Measures, part: str) -> Fraction:
    """What a dial says, in mm. Raises Refusal."""
    value = parse(typed, Dimension.TRAVEL.unit(False), bare=reads.unit(), part=part, sample=Fraction(3, 100))
    if abs(value) > dial.reach:
        reach = reads.length(dial.reach, trim=True)
        raise Refusal(part, reads.length(value, trim=True), "is beyond the reach of the dial", f"-{reach} to {reach}")
    return value


@dataclass(frozen=True)
class KeptReading:
    """One reading that is kept: what it says, and how it alone is forgotten, so that it is taken again."""

    words: str
    drop: Callable[[], None]


class ReadingsRun(Procedure):
    """A procedure whose readings can be taken again one by one. How many were is said with what they prove."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._again: dict[str, int] = {}  # by what they are of

    def dropping(
        self, kept: MutableMapping[Any, Any] | MutableSequence[Any], which: Any, of: str = ""
    ) -> Callable[[], None]:
        """What forgets one of them."""

        def drop() -> None:
            del kept[which]
            self._again[of] = self._again.get(of, 0) + 1
            self.dropped(which)
            self.changed.publish()

        return drop

    def dropped(self, which: Any) -> None:
        """What hangs on it is forgotten, too."""

    def anew(self, of: str = "") -> None:
        """All of them are taken anew."""
        self._again.pop(of, None)

    def again_words(self, of: str = "") -> str:
        """How many readings were taken again, to be said after the others; empty where none was."""
        number = self._again.get(of, 0)
        return f"; {number} {'reading' if number == 1 else 'readings'} taken again" if number else ""


@dataclass(frozen=True)
class Held:
    """A dial against the part that a linear axis moves, or at a radius (mm) against an arm on one that turns."""

    dial: Instrument
    axis: Axis
    radius: float | None = None

    @property
    def reads(self) -> Measures:
        """What the dial itself says: lengths, whatever the axis counts in."""
        return Measures(inch=self.axis.reads.inch)

    @property
    def by_axis(self) -> Instrument:
        """The dial in the axis's own unit."""
        return self.dial if self.radius is None else at_radius(self.dial, self.radius)

    def moved(self, said: float) -> float:
        """By how much the axis moved, in mm (°), where the dial says so many mm."""
        return said if self.radius is None else math.degrees(said / self.radius)

    def value(self, typed: str) -> Fraction:
        """What was read, in mm. Raises Refusal."""
        return dial_value(typed, self.dial, self.reads, f"dial at {self.axis.name}")

    @property
    def at_bench(self) -> dict[str, Any]:
        """Where the hands of the bench hold it."""
        place = {"axis": self.axis.name, "instrument": self.dial.key}
        return place if self.radius is None else {**place, "over": "arm", "radius": self.radius}


def see_it_follow(run: Procedure, session: Session, held: Held, at: float, key: str) -> Generator[Wait, None, None]:
    """A dial that touches nothing, or another part, would say that nothing ever moves. The axis has come from above to where
    it was set to zero: its play is no part of this way. Raises Trouble."""
    axis, dial = held.axis, held.dial
    slot = axis.slot
    yield from go_to(run, session, slot, at - FOLLOWS)
    said = yield from run.ask(
        reading(
            key, f"{axis.name} went {axis.reads.length(FOLLOWS, trim=True)} to \u2212, to see that the dial "
            "follows. What does it say, with its sign?",
            held.value, axis=axis.name, instrument=dial.key, unit=held.reads.name,
        )
    )  # fmt: skip
    if why := follows(held.moved(float(said or 0))):
        raise Trouble(f"The dial says {held.reads.length(float(said or 0))}: {why}. Nothing was measured with it.")


def ask_radius(run: Procedure, axis: Axis, dial: Instrument, key: str) -> Generator[Wait, None, float]:
    """How far from the middle of an axis that turns the dial is going to stand, mm."""
    reads, most = Measures(inch=axis.reads.inch), most_radius(dial)

    def take(typed: str) -> Fraction:
        part = f"radius at {axis.name}"
        value = parse(typed, Dimension.TRAVEL.unit(False), bare=reads.unit(), part=part, sample=Fraction(50))
        if not LEAST_RADIUS <= value <= most:
            bounds = reads.range(LEAST_RADIUS, most, 0)
            raise Refusal(part, reads.length(value, trim=True), "is too near or too far for the dial", bounds)
        return value

    said = yield from run.ask(
        reading(
            key, f"{axis.name} turns. How far from its middle will the dial stand against an arm on it? The "
            "further out, the finer.", take, axis=axis.name, unit=reads.name,
        )
    )  # fmt: skip
    return float(said or USUAL_RADIUS)


def by_radius(standard: float, found: float) -> float:
    """The standard uncertainty of what was found (°) by a dial at a radius that a person told."""
    return math.hypot(standard, RADIUS_OFF * found / COVERAGE)


def moved_meanwhile(kept: float, now: float, dial: Instrument) -> bool:
    """Whether a dial that said so much at a place says another thing there now: what is read from here on hangs on another
    zero. mm (°)."""
    return abs(now - kept) > COVERAGE * math.sqrt(2) * dial.reading + dial.resolution


def set_to_zero(session: Session, **where: Any) -> Generator[Wait, None, None]:
    """On the bench its hands set the dial to zero here; at a real machine the person has done it."""
    hands, answered = session.bench_hands, list[object]()
    if hands is not None:
        hands.ask(answered.append, do="zero", **where)
        yield lambda: bool(answered)
