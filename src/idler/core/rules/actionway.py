"""The way of an own action: what it moves, as a program whose path is checked and drawn like any other."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ..actions.steps import Action, Ask, Call, Frame, Goal, Home, If, Move, Probe, Step
from ..homing import stands_at
from ..machine import Axis, Machine
from ..program.choices import Chosen
from ..program.strokes import Strokes, strokes_of
from ..program.told import diameter_of
from ..program.verdict import Verdict, judge
from ..words import listed
from .actions import actions_of, place_of

DEEPEST = 40  # calls in one another
MOST_STEPS = 4000  # that are followed: actions that call others many times each have no end that anybody waits for


@dataclass(frozen=True)
class ActionWay:
    """unknown: letters of axes that go somewhere which is not known now: not homed, or without a work zero. Those ways are left
    out. Of a branch the first side is gone, and what is probed is gone to its end."""

    verdict: Verdict
    strokes: Strokes
    unknown: tuple[str, ...]

    @property
    def words(self) -> str:
        """Where it leaves the travel, and what of it is not known."""
        axes = {axis.name: axis for axis in self.verdict.program.machine.axes}
        found = [
            f"{item.axis} goes {axes[item.axis].reads.length(item.by)} beyond its {item.side} end"
            for item in self.verdict.envelope.beyond
        ]
        if self.unknown:
            found.append(
                f"Where {listed(self.unknown)} would go is not known before home is found and a work zero is taken"
            )
        return "".join(f"{words}. " for words in found).strip()


def way_of(
    machine: Machine, action: Action, stands: Mapping[str, float], zeros: Mapping[str, float]
) -> ActionWay | None:
    """stands: machine coordinates of the axes that are homed, zeros: of the chosen work zero; mm (°), by letter. None where it
    moves nothing."""
    walk = _Walk(machine, stands, zeros)
    lines = list(walk.lines(action.steps, (action.name,)))
    if not lines and not walk.unknown:
        return None
    begins = " ".join(walk.word(name, at) for name, at in walk.first.items())
    text = "\n".join(("G21 G90 F100", f"G53 G0 {begins}", *lines))
    verdict = judge(text.encode(), machine, Chosen(stands=walk.first))
    assert verdict is not None  # nobody ends it
    return ActionWay(verdict, strokes_of(verdict.program), tuple(walk.unknown))


class _Walk:
    """first: where each axis begins, as far as that is known."""

    def __init__(self, machine: Machine, stands: Mapping[str, float], zeros: Mapping[str, float]) -> None:
        self._machine, self._zeros = machine, zeros
        self._at = {name: at for name, at in stands.items() if name in machine.names}
        self._by_name = {each.name: each for each in actions_of(machine)}
        self._crosses = diameter_of(machine)
        self.first = dict(self._at)
        self.unknown: dict[str, None] = {}
        self._followed = 0

    def lines(self, steps: tuple[Step, ...], within: tuple[str, ...]) -> Iterator[str]:
        for step in steps:
            self._followed += 1
            if self._followed > MOST_STEPS:
                return
            match step:
                case Move(frame, goals, _):
                    for goal in goals:
                        yield from self._to(goal.axis, self._place(frame, goal), "G0")
                case Probe(name, by, _):
                    at = self._at.get(name)
                    yield from self._to(name, None if at is None else at + float(by), "G1")
                case Home(names):
                    for name in names:
                        axis = self._axis(name)
                        yield from self._to(name, None if axis is None else stands_at(axis), "G0")
                case Ask(_, yes, no):
                    yield from self.lines(yes or no, within)
                case If(_, then, otherwise):
                    yield from self.lines(then or otherwise, within)
                case Call(name) if name in self._by_name and name not in within and len(within) < DEEPEST:
                    yield from self.lines(self._by_name[name].steps, (*within, name))

    def _axis(self, name: str) -> Axis | None:
        return self._machine.axis(self._machine.names.index(name)) if name in self._machine.names else None

    def _place(self, frame: Frame, goal: Goal) -> float | None:
        axis = self._axis(goal.axis)
        if axis is None:
            return None
        if frame is Frame.MACHINE:
            return float(place_of(axis, goal.at))
        assert goal.at is not None  # only places of the machine are parking places
        base = (self._at if frame is Frame.BY else self._zeros).get(goal.axis)
        return None if base is None else base + float(goal.at)

    def _to(self, name: str, place: float | None, word: str) -> Iterator[str]:
        if place is None or name not in self._machine.names:
            self.unknown[name] = None
            self._at.pop(name, None)
            return
        if name not in self._at:  # nobody knows from where: no way is drawn, as if it stood there
            self.first.setdefault(name, place)
        self._at[name] = place
        yield f"G53 {word} {self.word(name, place)}"

    def word(self, name: str, place: float) -> str:
        return f"{name}{place * (2 if name == self._crosses else 1):.6f}"
