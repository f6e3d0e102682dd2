"""The level of the bed: a dial in the spindle, carried at one height over a grid, and what it says at each place; or a touch
probe, lowered onto each of them."""

from __future__ import annotations

from collections.abc import Generator
from fractions import Fraction

from idler.core.geometry.level import (
    FOLLOWS,
    PROBE,
    TOLERANCES,
    Bed,
    Grid,
    LevelVerdict,
    bed,
    figures,
    follows,
    largest,
    scatter_of,
    sentence,
    slipped,
    verdict,
)
from idler.core.machine import Address, Axis, Machine
from idler.core.mechanics.scale import Instrument
from idler.core.proof.claims import Proof, Witness, flat_pair, has_height, level_claim, scale_claim, state, value_texts
from idler.core.values.measures import Measures
from idler.core.values.roles import InputRole
from idler.core.wiring import Duty, input_of
from idler.session.session import Session

from ..engine import Result, Run, Steps, Trouble, Wait
from ..questions import done, reading
from ..safe import NEAR, count_of, go_to, safe_speed
from ..seeking import Touched, Touching, clear_way, seen_to_work, touches
from .dial import DIALS, KeptReading, ReadingsRun, dial_value, set_to_zero

LIFT = 3.0  # mm by which it is lifted between two places: over what a bed is uneven by, inside of a dial's reach
OVER = "bed"  # what the dial stands against, as the bench's hands call it
LEAST_WANTED, MOST_WANTED = Fraction(1, 1000), Fraction(5)  # mm
BY = (DIALS[0], PROBE)  # what may be held
HOW = Touching(fast=200.0, slow=30.0, back=1.0, times=3)
SIDEWAYS = 1200.0  # mm/min: with a probe on its way to the next place
HANGS = 8.0  # mm over the bed: where the bench's hands put the ball of a probe
STYLUS = Touched(
    "Push the ball of the probe aside with a finger, and let it go: its input must be seen to change.",
    "the probe, its wire and its input", "It was seen. Let it go, and take the hand away.",
    "Nothing but the bed stands in the way of the probe, and hands are away?",
)  # fmt: skip


def usual_flatness(machine: Machine) -> Fraction:
    """What is wanted of the bed of such a machine, in mm over the whole grid."""
    kind = str(machine[Address(None, "build.kind")])
    return Fraction(TOLERANCES.get(kind, TOLERANCES["router"])).limit_denominator(1000)


class LevelRun(ReadingsRun):
    """grid and held may be changed while it does not run; heights stay until the bed is measured anew, or they are dropped.

    heights: mm, by the number of the place. They hang on one zero of the dial, or on one height of the probe's ball: where
    some are missing, one that was read is read again first, and must be what it was.
    """

    what = "level of the bed"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.held: Instrument = DIALS[0]
        self.grid: Grid | None = None
        self.measured: Grid | None = None  # what the heights are of
        self.heights: dict[int, float] = {}
        self.touches: dict[int, list[float]] = {}  # of a probe, as Z stood
        self._by: Instrument = self.held  # what they were read with
        self._rests: dict[str, str] = {}  # the values with which they were read
        self._height = 0.0  # of Z at the readings, or at the first place of a probe, mm in machine coordinates

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
    def probes(self) -> bool:
        """Whether a touch probe is wired, so that it may be taken."""
        return input_of(self._session.machine, Duty(InputRole.PROBE)) is not None

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
        heights = [height for _, height in sorted(self.heights.items())]
        return bed(self.measured, heights, self._by, self._count, self._scatter)

    @property
    def _scatter(self) -> float:
        return scatter_of(self.touches.values())

    def said(self, tolerance: float) -> str:
        """What is to be done about what was found."""
        if self.found is None or self.axes is None:
            return ""
        return sentence(self.found, self.axes[0], self.axes[1], tolerance)

    def drop(self) -> None:
        """Forgets the heights."""
        self.heights, self.touches, self.measured = {}, {}, None
        self._session.program.bed = None
        self.changed.publish()

    @property
    def readings(self) -> list[KeptReading]:
        """The heights, each of which can be measured again."""
        return [
            KeptReading(f"{self._where(number)}: {self._reads.length(each, 3)}", self.dropping(self.heights, number))
            for number, each in sorted(self.heights.items())
        ]

    def dropped(self, which: int) -> None:
        self.touches.pop(which, None)
        self._session.program.bed = None
        self.measured = self.measured if self.heights else None

    @property
    def goes_on(self) -> bool:
        """Whether only what is missing is measured next."""
        return bool(self._kept) and self.found is None

    @property
    def _kept(self) -> dict[int, float]:
        """The heights that still hold for what is told and held now."""
        axes = self.axes
        if axes is None or self.measured != self.grid or self._by != self.held:
            return {}
        claim = level_claim(self._session.machine, axes[0].slot, axes[1].slot)
        return self.heights if value_texts(self._session.machine, claim.rests) == self._rests else {}

    def obstacle(self) -> str:
        """Why it cannot be measured now, or an empty text."""
        session, axes = self._session, self.axes
        if axes is None:
            return "This machine has no bed that a driven X and Y span, with a Z over it."
        claim = level_claim(session.machine, axes[0].slot, axes[1].slot)
        if why := session.motion_obstacle(claim.rests) or session.proof_obstacle(claim):
            return why
        if why := session.homes.obstacle(axis.slot for axis in axes):
            return why
        if self.grid is None:
            return "There is no grid that both travels have room for. Set the ends at Travel first."
        return self._probe_obstacle(axes[2]) if self.held == PROBE else ""

    def _probe_obstacle(self, height: Axis) -> str:
        session = self._session
        if not self.probes:
            return "No input is told to be the touch probe. Wire and learn it at Wiring first, or take a dial."
        if state(session.machine, scale_claim(session.machine, height.slot), session.proofs) is not Proof.PROVEN:
            return (
                f"How far {height.name} goes is not proven, and what a probe says is counted by it. Prove the scale of "
                f"{height.name} first, or take a dial."
            )
        return ""

    def measure(self, tolerance: float) -> str:
        """The places of the grid that are not read yet; all of them where they are whole, or were read with other values or by
        another instrument. A sentence where it cannot begin."""
        if why := self.obstacle():
            return why
        assert self.axes is not None
        if not self.goes_on:
            claim = level_claim(self._session.machine, self.axes[0].slot, self.axes[1].slot)
            self._rests = value_texts(self._session.machine, claim.rests)
            self.anew()
            self.measured, self.heights, self.touches, self._by = self.grid, {}, {}, self.held
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
        witness = Witness.SENSOR if self._by == PROBE else Witness.INSTRUMENT
        self.keep_proof(claim, held, f"{figures(found, *axes[:2])}; wanted {wanted}{self.again_words()}", witness)

    # -- steps ----------------------------------------------------------------------------------------------------

    def _measuring(self, tolerance: float) -> Run:
        assert self.axes is not None and self.measured is not None
        first, second, height = self.axes
        places, probing = self.measured.places, self._by == PROBE
        # where it begins and ends: a place that was read, or the first one
        anchor = min(self.heights, default=0)
        yield from self._clear()
        yield from self._over(places[anchor])
        yield from self._hold_probe(height) if probing else self._hold_dial(places[anchor], anchor)
        read = self._touch_at if probing else self._said_at
        if anchor in self.heights:
            again = yield from read(anchor, "A place that was read before")
            self._compare(anchor, again, "before", "now")
        for number in range(len(places)):
            if number not in self.heights:
                self.heights[number] = yield from read(number, f"Place {number + 1} of {len(places)}")
                self.changed.publish()
        again = yield from read(anchor, "Its first place once more")
        yield from self._lift(height)
        self._compare(anchor, again, "at first", "at the end")
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

    def _compare(self, number: int, again: float, then: str, now: str) -> None:
        """Raises Trouble where a place is not what it was: nothing that was read holds."""
        kept = self.heights[number]
        if slipped(kept, again, self._by, self._count, self._scatter):
            told = f"{self._reads.length(kept, 3)} {then} and {self._reads.length(again, 3)} {now}"
            self.drop()
            raise Trouble(
                f"The {'probe' if self._by == PROBE else 'dial'} has slipped: at one place it said {told}. Clamp it, and "
                "measure again."
            )

    @property
    def _reads(self) -> Measures:
        assert self.axes is not None
        return self.axes[0].reads

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

    def _lift(self, height: Axis) -> Generator[Wait, None, None]:
        """Over all places that were read."""
        most = max(self.heights.values(), default=0.0) if self._by == PROBE else 0.0
        yield from go_to(self, self._session, height.slot, self._height + most + LIFT)

    def _where(self, number: int) -> str:
        assert self.axes is not None and self.measured is not None
        place = self.measured.places[number]
        return ", ".join(
            f"{axis.name} {self._reads.length(at, 1, trim=True)}" for axis, at in zip(self.axes[:2], place, strict=True)
        )

    # -- by a dial ------------------------------------------------------------------------------------------------

    def _hold_dial(self, place: tuple[float, float], anchor: int) -> Steps:
        """The dial stands on the bed at its height; at zero, where nothing hangs on one that was set before."""
        assert self.axes is not None
        first, _, height = self.axes
        if anchor in self.heights:
            yield from self.ask(
                done(
                    "level.on", f"The dial hangs in the spindle as it did, its zero untouched, and nothing else does? "
                    f"{height.name} goes down to where it stood. Else end this, and forget the heights.", height.name,
                    instrument=self.held.key,
                )
            )  # fmt: skip
            yield from self._come_down(place)
            return
        yield from self.ask(
            done(
                "level.zero", f"Hold the {self.held.words(first.reads)} in the spindle and lower {height.name} until it stands "
                "against the bed, in the middle of its reach. Set it to zero. + is where the bed is higher. Between two "
                f"places it is lifted by {first.reads.length(LIFT, trim=True)}.", height.name, instrument=self.held.key,
            ),
            free=True,
        )  # fmt: skip
        self._height = self._session.axes[height.slot].position
        self._refuse_low_top(height, "dial")
        yield from self._come_down(place)
        yield from set_to_zero(self._session, over=OVER, instrument=self.held.key)
        yield from self._see_it_follow()

    def _refuse_low_top(self, height: Axis, what: str) -> None:
        if self._height + LIFT > float(height.number("travel.high")):
            raise Trouble(f"{height.name} has no room to lift the {what} by {self._reads.length(LIFT, trim=True)}.")

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

    def _come_down(self, place: tuple[float, float]) -> Generator[Wait, None, None]:
        """Lifted, over the place, and down to the height of all readings."""
        assert self.axes is not None
        self.say("To the next place. Esc stops it.")
        height = self.axes[2]
        if self._session.axes[height.slot].position < self._height + LIFT:
            yield from self._lift(height)
        yield from self._over(place)
        yield from go_to(self, self._session, height.slot, self._height)

    def _said_at(self, number: int, what: str) -> Generator[Wait, None, float]:
        assert self.measured is not None
        yield from self._come_down(self.measured.places[number])
        words = f"{what}, {self._where(number)}. What does the dial say, with its sign?"
        return (yield from self._read_dial("level.reading", words))

    def _read_dial(self, key: str, text: str) -> Generator[Wait, None, float]:
        said = yield from self.ask(
            reading(
                key, text, lambda typed: dial_value(typed, self.held, self._reads, "dial over the bed"),
                instrument=self.held.key, unit=self._reads.name,
            )
        )  # fmt: skip
        return float(said or 0)

    # -- by a touch probe -----------------------------------------------------------------------------------------

    def _hold_probe(self, height: Axis) -> Steps:
        """The ball hangs over the bed, and was seen to be felt."""
        reads = self._reads
        again = " as it did: the same, and clamped as it was" if self.heights else ""
        yield from self.ask(
            done(
                "level.probe", f"Put the touch probe into the spindle{again}, and lower {height.name} until its ball hangs a "
                f"few mm over the bed: it looks for it within {reads.length(PROBE.reach, trim=True)}.", height.name,
            ),
            free=True,
        )  # fmt: skip
        hands, answered = self._session.bench_hands, list[object]()
        if hands is not None and not self.heights:
            hands.ask(answered.append, do="probe", over=HANGS)
            yield lambda: bool(answered)
        yield from seen_to_work(self, self._session, STYLUS)

    def _touch_at(self, number: int, what: str) -> Generator[Wait, None, float]:
        """How high the bed stands at a place over the first one, mm: from where it hangs, down until it touches."""
        assert self.axes is not None and self.measured is not None
        height, session = self.axes[2], self._session
        self.say(f"{what}. Esc stops it.")
        for axis, at in zip(self.axes[:2], self.measured.places[number], strict=True):
            distance, speed = at - session.axes[axis.slot].position, min(SIDEWAYS, safe_speed(session, axis.slot))
            if abs(distance) > NEAR * count_of(session, axis.slot):
                yield from clear_way(self, session, axis.slot, distance, speed)
        reach = min(PROBE.reach, session.axes[height.slot].position - float(height.number("travel.low")))
        places = yield from touches(self, session, height.slot, -1, reach, HOW)
        mean = sum(places) / len(places)
        if not self.heights:
            self._height = mean
            self._refuse_low_top(height, "probe")
        self.touches.setdefault(number, places)
        yield from go_to(self, session, height.slot, mean + LIFT)
        return mean - self._height
