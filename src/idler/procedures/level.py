"""The level of the bed: a dial in the spindle, carried at one height over a grid, and what it says at each place."""

from __future__ import annotations

from collections.abc import Generator
from fractions import Fraction

from idler.core.geometry.level import (
    FOLLOWS,
    TOLERANCES,
    Bed,
    Grid,
    LevelVerdict,
    bed,
    figures,
    follows,
    largest,
    sentence,
    slipped,
    verdict,
)
from idler.core.machine import Address, Axis, Machine
from idler.core.mechanics.scale import Instrument
from idler.core.proof.claims import Witness, flat_pair, has_height, level_claim, value_texts
from idler.core.words import listed
from idler.session.session import Session

from .dial import DIALS, dial_value, set_to_zero
from .engine import Procedure, Result, Run, Trouble, Wait
from .questions import done, reading
from .safe import count_of, go_to

LIFT = 3.0  # mm by which the dial is lifted between two places: over what a bed is uneven by, inside of a dial's reach
OVER = "bed"  # what the dial stands against, as the bench's hands call it
LEAST_WANTED, MOST_WANTED = Fraction(1, 1000), Fraction(5)  # mm


def usual_flatness(machine: Machine) -> Fraction:
    """What is wanted of the bed of such a machine, in mm over the whole grid."""
    kind = str(machine[Address(None, "build.kind")])
    return Fraction(TOLERANCES.get(kind, TOLERANCES["router"])).limit_denominator(1000)


class LevelRun(Procedure):
    """grid may be changed while it does not run; heights stay until the bed is measured anew, or they are dropped."""

    what = "level of the bed"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.dial: Instrument = DIALS[0]
        self.grid: Grid | None = None
        self.measured: Grid | None = None  # what the heights are of
        self.heights: list[float] = []  # mm, in the order of its places
        self._rests: dict[str, str] = {}  # the values with which they were read
        self._height = 0.0  # of Z at the readings, mm in machine coordinates

    @property
    def axes(self) -> tuple[Axis, Axis, Axis] | None:
        """X, Y, and Z that carries the tool; None where the machine has no bed under a tool."""
        machine = self._session.machine
        pair = flat_pair(machine)
        if pair is None or not has_height(machine):
            return None
        first, second = (machine.axis(slot) for slot in pair)
        return first, second, machine.axis(machine.names.index("Z"))

    @property
    def _count(self) -> float:
        return count_of(self._session, self.axes[2].slot) if self.axes is not None else 0.0

    def propose(self, across: int = 3, along: int = 3) -> None:
        """The largest grid of so many places along X and Y. Raises Refusal."""
        if self.axes is not None:
            self.grid = largest(self.axes[0], self.axes[1], across, along)

    @property
    def found(self) -> Bed | None:
        if self.measured is None or len(self.heights) != len(self.measured.places):
            return None
        return bed(self.measured, self.heights, self.dial, self._count)

    def said(self, tolerance: float) -> str:
        """What is to be done about what was found."""
        if self.found is None or self.axes is None:
            return ""
        return sentence(self.found, self.axes[0], self.axes[1], tolerance)

    def drop(self) -> None:
        """Forgets the heights: they hang on one zero of the dial."""
        self.heights, self.measured = [], None
        self._session.program.bed = None
        self.changed.publish()

    def obstacle(self) -> str:
        """Why it cannot be measured now, or an empty text."""
        session, axes = self._session, self.axes
        if axes is None:
            return "This machine has no bed that a driven X and Y span, with a Z over it."
        claim = level_claim(session.machine, axes[0].slot, axes[1].slot)
        if why := session.motion_obstacle(claim.rests) or session.proof_obstacle(claim):
            return why
        unhomed = [axis.name for axis in axes if not session.homed(axis.slot)]
        if unhomed:
            return f"{listed(unhomed)}: not homed yet, so that its places are not known. Home it first."
        if self.grid is None:
            return "There is no grid that both travels have room for. Set the ends at Travel first."
        return ""

    def measure(self, tolerance: float) -> str:
        """All places of the grid; those that were read before are read again, for the dial is set to zero anew. A sentence
        where it cannot begin."""
        if why := self.obstacle():
            return why
        assert self.axes is not None
        claim = level_claim(self._session.machine, self.axes[0].slot, self.axes[1].slot)
        self._rests = value_texts(self._session.machine, claim.rests)
        self.measured, self.heights = self.grid, []
        self._session.program.bed = None
        self.begin(self._measuring(tolerance), "To the first place.")
        return ""

    def settle(self, tolerance: float) -> None:
        """Keeps what the heights prove."""
        found, axes = self.found, self.axes
        if found is None or axes is None:
            return
        machine = self._session.machine
        claim = level_claim(machine, axes[0].slot, axes[1].slot)
        if value_texts(machine, claim.rests) != self._rests:
            return  # read with other values: they prove nothing of these
        self._session.program.bed = found
        held = verdict(found, tolerance) is LevelVerdict.PROVEN
        wanted = axes[0].reads.length(tolerance, 3, trim=True)
        self.keep_proof(claim, held, f"{figures(found, *axes[:2])}; wanted {wanted}", Witness.INSTRUMENT)

    # -- steps ----------------------------------------------------------------------------------------------------

    def _measuring(self, tolerance: float) -> Run:
        assert self.axes is not None and self.measured is not None
        first, second, height = self.axes
        places = self.measured.places
        yield from self._clear()
        yield from self._over(places[0])
        yield from self.ask(
            done(
                "level.zero", f"Hold the {self.dial.words(first.reads)} in the spindle and lower {height.name} until it stands "
                "against the bed, in the middle of its reach. Set it to zero. + is where the bed is higher. Between two "
                f"places it is lifted by {first.reads.length(LIFT, trim=True)}.", height.name, instrument=self.dial.key,
            ),
            free=True,
        )  # fmt: skip
        self._height = self._session.axes[height.slot].position
        if self._height + LIFT > float(height.number("travel.high")):
            raise Trouble(f"{height.name} has no room to lift the dial by {first.reads.length(LIFT, trim=True)}.")
        yield from self._come_down(places[0])
        yield from set_to_zero(self._session, over=OVER, instrument=self.dial.key)
        yield from self._see_it_follow()
        for number, place in enumerate(places, start=1):
            yield from self._come_down(place)
            self.heights.append((yield from self._said_at(place, f"Place {number} of {len(places)}")))
            self.changed.publish()
        yield from self._come_down(places[0])
        again = yield from self._said_at(places[0], "The first place again")
        yield from go_to(self, self._session, height.slot, self._height + LIFT)
        if slipped(self.heights[0], again, self.dial, self._count):
            told = f"{first.reads.length(self.heights[0], 3)} at first and {first.reads.length(again, 3)} at the end"
            self.drop()
            raise Trouble(f"The dial has slipped: at the first place it said {told}. Clamp it, and measure again.")
        found = self.found
        assert found is not None
        self.settle(tolerance)
        said = verdict(found, tolerance)
        return Result.of(
            said is LevelVerdict.PROVEN, f"Bed: {said.words}. {figures(found, first, second)}. {self.said(tolerance)}", {},
            spread=found.spread, uncertainty=found.expanded, unevenness=found.unevenness,
            slope_1=1000 * found.along_first, slope_2=1000 * found.along_second,
            **{f"raise_{k}": by for k, by in enumerate(found.raises, start=1)},
        )  # fmt: skip

    def _see_it_follow(self) -> Generator[Wait, None, None]:
        """A dial that touches nothing would say that every place is as high as the first. Raises Trouble."""
        assert self.axes is not None
        first, _, height = self.axes
        yield from go_to(self, self._session, height.slot, self._height + FOLLOWS)
        said = yield from self._read_dial(
            "level.follows", f"{height.name} went up by {first.reads.length(FOLLOWS, trim=True)}, to see that the dial "
            "stands on the bed. What does it say, with its sign?",
        )  # fmt: skip
        if why := follows(said):
            raise Trouble(f"The dial says {first.reads.length(said)}: {why}. Nothing was measured with it.")

    def _clear(self) -> Generator[Wait, None, None]:
        """Up, so that nothing on the bed is met on the way to the first place."""
        assert self.axes is not None
        height = self.axes[2]
        top = float(height.number("travel.high")) - LIFT - 1  # with room to spare for what a count is off
        if self._session.axes[height.slot].position < top:
            yield from go_to(self, self._session, height.slot, top)

    def _over(self, place: tuple[float, float]) -> Generator[Wait, None, None]:
        assert self.axes is not None
        for axis, at in zip(self.axes[:2], place, strict=True):
            yield from go_to(self, self._session, axis.slot, at)

    def _come_down(self, place: tuple[float, float]) -> Generator[Wait, None, None]:
        """Lifted, over the place, and down to the height of all readings."""
        assert self.axes is not None
        self.say("To the next place. Esc stops it.")
        slot = self.axes[2].slot
        yield from go_to(self, self._session, slot, self._height + LIFT)
        yield from self._over(place)
        yield from go_to(self, self._session, slot, self._height)

    def _said_at(self, place: tuple[float, float], what: str) -> Generator[Wait, None, float]:
        assert self.axes is not None
        first, second, _ = self.axes
        reads = first.reads
        where = ", ".join(
            f"{axis.name} {reads.length(at, 1, trim=True)}" for axis, at in zip((first, second), place, strict=True)
        )
        return (yield from self._read_dial("level.reading", f"{what}, {where}. What does the dial say, with its sign?"))

    def _read_dial(self, key: str, text: str) -> Generator[Wait, None, float]:
        assert self.axes is not None
        reads = self.axes[0].reads
        said = yield from self.ask(
            reading(
                key, text, lambda typed: dial_value(typed, self.dial, reads, "dial over the bed"),
                instrument=self.dial.key, unit=reads.name,
            )
        )  # fmt: skip
        return float(said or 0)
