"""A touch plate, or a probe: fast to it, back, slowly again; what was found is shown before it is taken as a work zero."""

from __future__ import annotations

from collections.abc import Generator

from idler.core.errors import Refusal
from idler.core.trial.touching import CORNERS, SIDES, WHAT, Touch, middle, side, top
from idler.core.values.roles import InputRole
from idler.core.wiring import Duty, input_of
from idler.session.session import Session

from ..engine import Ending, Procedure, Result, Run, Steps, Wait
from ..safe import NEAR, count_of
from ..seeking import Touching, clear_way, seen_to_work, touches

OUT = 2.0  # mm beside the tool's edge that it goes down beside a side


class TouchRun(Procedure):
    """found: by axis letter, the machine coordinate of the work zero that follows, mm; of a tool whose length is measured, the
    one at which its tip touched. tool: its number, 0 where none is measured. scatter: of the slow touches."""

    what = "a touch of the plate"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.found: dict[str, float] = {}
        self.tool = 0
        self.scatter: dict[str, float] = {}
        self.touches: list[tuple[str, float]] = []  # letter and place, as they were made

    def obstacle(self, touch: Touch) -> str:
        """Why it cannot be done now, or an empty text."""
        session, machine = self._session, self._session.machine
        item = input_of(machine, Duty(InputRole.PROBE))
        if item is None:
            return "No input is told to be the touch probe. Wire and learn it at Wiring first."
        rests = [
            address for address in machine.addresses() if address.slot == item.slot and address.key.startswith("input.")
        ]
        if why := session.motion_obstacle(rests):
            return why
        if item.made(session.panel.is_closed(item.slot)):
            return f"{item.name} says that it is touched already. Look what touches the plate, or how the input rests."
        if touch.what == "length" and session.work.of("Z") is None:
            return "Z has no work zero to measure a tool from. Take one with the tool that lengths are told against."
        return session.homes.obstacle(machine.names.index(name) for name in self._letters(touch))

    @staticmethod
    def _letters(touch: Touch) -> str:
        return {"top": "Z", "length": "Z", "bore": "XY"}.get(
            touch.what, SIDES[touch.what][0] if touch.what in SIDES else "XYZ"
        )

    def touch(self, touch: Touch) -> str:
        """From where the tool stands: over the plate, beside the side, inside of the bore, over the boss. A sentence where it
        cannot begin."""
        if why := self.obstacle(touch):
            return why
        self.found, self.scatter, self.touches = {}, {}, []
        self.tool = int(touch.of("number")) if touch.what == "length" else 0
        self.begin(self._touching(touch), f"{WHAT[touch.what].capitalize()}. Nothing moves yet.")
        return ""

    @property
    def length(self) -> float | None:
        """Of the tool, mm longer than the one of the work zero; None where none was measured."""
        zero = self._session.work.of("Z")
        return None if not self.tool or not self.found or zero is None else self.found["Z"] - zero

    def take(self) -> str:
        """Makes what was found the work zero that is shown, or the length of the tool; a sentence where that cannot be."""
        names = self._session.machine.names
        if not self.found:
            return "Nothing was found yet."
        try:
            if self.tool:
                self._session.tools.touched(self.tool, self.found["Z"])
                return ""
            for name, at in self.found.items():
                self._session.work.place(names.index(name), at)
        except Refusal as why:
            return why.sentence
        return ""

    # -- steps ------------------------------------------------------------------------------------------------------

    def _touching(self, touch: Touch) -> Run:
        yield from seen_to_work(self, self._session)
        if touch.what in ("top", "length"):
            yield from self._top(touch)
        elif touch.what in SIDES:
            name, way = SIDES[touch.what]
            self.found[name] = yield from self._side(touch, name, way)
        elif touch.what in CORNERS:
            yield from self._corner(touch)
        elif touch.what == "bore":
            yield from self._bore(touch)
        else:
            yield from self._boss(touch)
        reads = self._session.machine.reads
        told = ", ".join(f"{name} {reads.length(at)}" for name, at in self.found.items())
        wide = max(self.scatter.values(), default=0.0)
        if self.length is not None:
            words = (
                f"H{self.tool} is {reads.length(self.length, sign=True)} against the tool of the work zero; its touches "
                f"scatter by {reads.length(wide)}. It is not kept until it is taken."
            )
            return Result(Ending.DONE, words, {"length": self.length, "scatter": wide})
        words = f"Found {told}; its touches scatter by {reads.length(wide)}. It is no work zero until it is taken."
        return Result(Ending.DONE, words, {**self.found, "scatter": wide})

    def _slot(self, name: str) -> int:
        return self._session.machine.names.index(name)

    def _go(self, name: str, distance: float, touch: Touch) -> Steps:
        """A way on which nothing may be touched."""
        yield from clear_way(self, self._session, self._slot(name), distance, touch.of("fast"))

    def _touch(self, touch: Touch, name: str, way: int, reach: float) -> Generator[Wait, None, float]:
        """The mean of the slow touches. Ends `back` from it."""
        how = Touching(touch.of("fast"), touch.of("slow"), touch.of("back"), int(touch.of("times")))
        places = yield from touches(self, self._session, self._slot(name), way, reach, how)
        self.scatter[name] = max(max(places) - min(places), self.scatter.get(name, 0.0))
        place = sum(places) / len(places)
        self.touches.append((name, place))
        return place

    def _top(self, touch: Touch) -> Steps:
        met = yield from self._touch(touch, "Z", -1, touch.of("reach"))
        self.found["Z"] = top(met, touch.of("thickness"))

    def _side(self, touch: Touch, name: str, way: int) -> Generator[Wait, None, float]:
        met = yield from self._touch(touch, name, way, touch.of("reach"))
        return side(met, way, touch.of("tool"))

    def _outside(self, touch: Touch, name: str, way: int, room: float, height: float) -> Generator[Wait, None, float]:
        """From over the work: out beyond a side, down, in to it, up again, and back over where it began. way: in which the
        side lies. height: how far above the depth of the touch it stands now."""
        out = room + touch.of("tool") / 2 + OUT
        yield from self._go(name, way * out, touch)
        yield from self._go("Z", -height, touch)
        met = yield from self._touch(touch, name, -way, out + touch.of("reach"))
        yield self.move(self._slot("Z"), height, touch.of("fast"))
        return side(met, -way, touch.of("tool"))

    def _corner(self, touch: Touch) -> Steps:
        """The tool stands over the plate, near the corner: the top, then both sides."""
        ways = dict(zip("XY", CORNERS[touch.what], strict=True))
        begin = {name: self._at(name) for name in "XYZ"}
        yield from self._top(touch)
        over = self.touches[-1][1]  # where the tool touched the top of the plate
        back = self._at("Z")
        for name, way in ways.items():
            height = back - over + touch.of("depth")
            self.found[name] = yield from self._outside(touch, name, way, touch.of("reach"), height)
            yield from self._over(name, begin[name], touch)

    def _bore(self, touch: Touch) -> Steps:
        """From inside: across X, to its middle, across Y, and across X once more, for the first was a chord."""
        for name in ("X", "Y", "X"):
            low = yield from self._touch(touch, name, -1, touch.of("reach"))
            high = yield from self._touch(touch, name, 1, 2 * touch.of("reach"))
            self.found[name] = middle(low, high)
            yield from self._over(name, self.found[name], touch)

    def _boss(self, touch: Touch) -> Steps:
        """From over about its middle: down beside each of its four sides."""
        for name, key in (("X", "wide"), ("Y", "deep"), ("X", "wide")):
            begin, sides = self._at(name), []
            for way in (-1, 1):
                room = touch.of(key) / 2 + touch.of("reach") / 2  # the tool stands over about its middle
                sides.append((yield from self._outside(touch, name, way, room, touch.of("depth"))))
                yield from self._over(name, begin, touch)
            self.found[name] = middle(*sides)
            yield from self._over(name, self.found[name], touch)

    def _at(self, name: str) -> float:
        return self._session.axes[self._slot(name)].position

    def _over(self, name: str, place: float, touch: Touch) -> Steps:
        distance = place - self._at(name)
        if abs(distance) > NEAR * count_of(self._session, self._slot(name)):
            yield from self._go(name, distance, touch)
