"""Whether X and Y stand at right angles, by a square on the bed and a dial at the tool; the square is turned over once."""

from __future__ import annotations

from collections.abc import Generator
from dataclasses import dataclass

from idler.core.geometry.blade import FOLLOWS, LEAST, MOST, ByBlade, Laying, by_blade, follows
from idler.core.geometry.square import Rectangle, Squareness
from idler.core.machine import Axis
from idler.core.mechanics.scale import Instrument
from idler.session.session import Session

from ..engine import Result, Run, Steps, Trouble, Wait
from ..questions import done, reading
from ..safe import count_of, go_to
from .angle import AngleRun
from .dial import DIALS, KeptReading, dial_value, set_to_zero

USUAL = 150.0  # mm along each leg


@dataclass(frozen=True)
class Leg:
    """name: as the bench's hands call it. along: which of the two axes goes along it; the dial reads along the other one."""

    name: str
    along: int


STOCK, BLADE = Leg("stock", 0), Leg("blade", 1)


class BladeRun(AngleRun):
    """length (mm along each leg) may be changed while it does not run; layings stay until the square is laid anew."""

    what = "the right angle, by a square"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.dial: Instrument = DIALS[0]
        self.length = USUAL
        self.layings: dict[int, Laying] = {}  # by which of the two
        self.leg: tuple[int, Leg] | None = None  # which laying, and which leg is read now
        self._measured = USUAL

    def propose(self) -> None:
        """Legs as long as both travels allow, and no longer than usual; whole centimetres."""
        if self._axes is not None:
            travels = [float(axis.number("travel.high")) - float(axis.number("travel.low")) for axis in self._axes]
            self.length = max(LEAST, min(USUAL, 10.0 * int((min(travels) - 2 * FOLLOWS) / 10)))

    @property
    def _count(self) -> float:
        return max(count_of(self._session, slot) for slot in self.pair) if self.pair is not None else 0.0

    @property
    def by_blade(self) -> ByBlade | None:
        """The angle, and the square's own error."""
        return by_blade([each for _, each in sorted(self.layings.items())], self.dial, self._count)

    @property
    def found(self) -> Squareness | None:
        both = self.by_blade
        return both.square if both is not None else None

    @property
    def over(self) -> Rectangle | None:
        return Rectangle(0.0, 0.0, self._measured, self._measured) if self.layings else None

    def obstacle(self) -> str:
        if why := super().obstacle():
            return why
        assert self._axes is not None
        reads = self._axes[0].reads
        if not LEAST <= self.length <= MOST:
            return (
                f"Legs of {reads.length(self.length, trim=True)} are not measured; take {reads.range(LEAST, MOST, 0)}."
            )
        for axis in self._axes:
            travel = float(axis.number("travel.high")) - float(axis.number("travel.low"))
            if travel < self.length + 2 * FOLLOWS:
                return (
                    f"{axis.name} has {reads.length(travel, trim=True)} of travel between its soft limits: too little for legs "
                    f"of {reads.length(self.length, trim=True)}."
                )
        return ""

    def measure(self, tolerance: float) -> str:
        """Both layings, or the one that is missing. A sentence where it cannot begin."""
        if why := self.obstacle():
            return why
        rests = self._now
        if len(self.layings) != 1 or rests != self._rests or self.length != self._measured:
            self.layings = {}
            self.anew()
        self._measure_with(rests)
        self._measured = self.length
        self.begin(self._measuring(tolerance), "The square is laid on the bed.")
        return ""

    def choose(self, pair: tuple[int, int]) -> None:
        """Another pair of axes; the square is laid anew for it."""
        if pair != self.pair:
            self._pair = pair
            self.drop()

    def drop(self) -> None:
        """Forgets both layings."""
        self.layings = {}
        self.changed.publish()

    @property
    def readings(self) -> list[KeptReading]:
        """Both layings, each of which can be made again."""
        reads = self._axes[0].reads if self._axes is not None else self._session.machine.reads
        return [
            KeptReading(
                f"{'turned over' if number else 'as it came'}: stock {reads.length(each.stock, 3)}, "
                f"blade {reads.length(each.blade, 3)}", self.dropping(self.layings, number),
            )
            for number, each in sorted(self.layings.items())
        ]  # fmt: skip

    # -- steps ----------------------------------------------------------------------------------------------------

    def _measuring(self, tolerance: float) -> Run:
        try:
            for number in (0, 1):
                if number not in self.layings:
                    yield from self._laying(number)
        finally:
            self.leg = None
        yield from self._ask_across(tolerance)
        both = self.by_blade
        assert both is not None
        result = self.judged(tolerance, own=both.own)
        words = f"{result.words} The square itself has {both.own:+.2f} mm per m ± {both.own_expanded:.2f}."
        return Result(result.end, words.replace(" -", " \u2212"), result.figures, result.edit)

    def _make_room(self, number: int) -> Steps:
        """To where both legs of a laying lie within the travel, before the square is laid. What stands there stays."""
        assert self._axes is not None
        goes = -self._measured if number else self._measured
        for axis, leg in zip(self._axes, (goes, self._measured), strict=True):
            low, high = (float(axis.number(f"travel.{end}")) for end in ("low", "high"))
            least, most = low + FOLLOWS - min(leg, 0.0), high - FOLLOWS - max(leg, 0.0)
            place = min(max(self._session.axes[axis.slot].position, least), most)
            self.say(f"{axis.name} makes room for the square. Esc stops it.")
            yield from go_to(self, self._session, axis.slot, place)

    def _laying(self, number: int) -> Generator[Wait, None, None]:
        assert self._axes is not None
        first, second = self._axes
        lay = "Stand" if second.name == "Z" else "Lay"
        ways = (f"stock along {first.name}, blade to + of {second.name}", f"its stock to \u2212 of {first.name} now")
        words = (
            f"{lay} the square on the bed, {ways[0]}. Its stock points from the corner to + of {first.name}."
            if number == 0
            else f"Turn the square over about its blade, {ways[1]}, the blade still to + of {second.name}."
        )
        hands, answered = self._session.bench_hands, list[object]()
        self.leg = (number, STOCK)
        yield from self._make_room(number)
        yield from self.ask(done("blade.lay", words), free=True)
        if hands is not None:
            hands.ask(answered.append, do="lay", turned=bool(number), plane=f"{first.name}{second.name}")
            yield lambda: bool(answered)
        ends = []
        for leg, way in ((STOCK, -1 if number else 1), (BLADE, 1)):
            ends.append((yield from self._along(number, leg, way)))
        (stock, along_stock), (blade, along_blade) = ends
        self.layings[number] = Laying(stock, blade, along_stock, along_blade)
        self.changed.publish()

    def _along(self, number: int, leg: Leg, way: int) -> Generator[Wait, None, tuple[float, float]]:
        """What the dial says at the end of a leg, and how far it was carried, both in mm with their signs."""
        assert self._axes is not None
        goes, across = self._axes[leg.along], self._axes[1 - leg.along]
        session, reads = self._session, goes.reads
        self.leg = (number, leg)
        length = reads.length(self._measured, trim=True)
        sign = "+" if way > 0 else "\u2212"
        yield from self.ask(
            done(
                "blade.zero", f"Bring the dial at the tool against the {leg.name}, near the corner, in the middle of its "
                f"reach; it reads along {across.name}. Set it to zero, + where the {leg.name} lies further to +. Then "
                f"{goes.name} goes {length} to {sign}.", goes.name, instrument=self.dial.key,
            ),
            free=True,
        )  # fmt: skip
        begin, aside = session.axes[goes.slot].position, session.axes[across.slot].position
        self._refuse_beyond(goes, begin, begin + way * self._measured)
        self._refuse_beyond(across, aside, aside - FOLLOWS)
        yield from set_to_zero(session, over=leg.name, instrument=self.dial.key)
        yield from go_to(self, session, across.slot, aside - FOLLOWS)
        said = yield from self._read_dial(
            leg, "blade.follows", f"{across.name} went {reads.length(FOLLOWS, trim=True)} to \u2212, to see that the dial "
            f"stands on the {leg.name}. What does it say, with its sign?",
        )  # fmt: skip
        if why := follows(said):
            raise Trouble(f"The dial says {reads.length(said)}: {why}. Nothing was measured with it.")
        yield from go_to(self, session, across.slot, aside)
        zero = yield from self._read_dial(
            leg, "blade.begin", f"{across.name} is back. What does the dial say at the near end of the {leg.name}?"
        )
        self.say(f"{goes.name} goes along the {leg.name}. Esc stops it.")
        yield from go_to(self, session, goes.slot, begin + way * self._measured)
        end = yield from self._read_dial(
            leg,
            "blade.end",
            f"{goes.name} has gone {length} to {sign}. What does the dial say at the far end of the {leg.name}?",
        )
        yield from go_to(self, session, goes.slot, begin)
        return end - zero, way * self._measured

    def _refuse_beyond(self, axis: Axis, stands: float, wanted: float) -> None:
        """Raises Trouble where a place is out of the soft limits."""
        low, high = float(axis.number("travel.low")), float(axis.number("travel.high"))
        if not low <= wanted <= high:
            reads = axis.reads
            raise Trouble(
                f"{axis.name} stands at {reads.length(stands, 1)} and would have to go to {reads.length(wanted, 1)}, beyond "
                f"{reads.range(low, high, 1)}. Lay the square further in, or take a shorter length."
            )

    def _read_dial(self, leg: Leg, key: str, text: str) -> Generator[Wait, None, float]:
        assert self._axes is not None
        reads = self._axes[0].reads
        said = yield from self.ask(
            reading(
                key, text, lambda typed: dial_value(typed, self.dial, reads, f"dial at the {leg.name}"),
                axis=leg.name, instrument=self.dial.key, unit=reads.name,
            )
        )  # fmt: skip
        return float(said or 0)
