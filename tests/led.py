"""Whoever does only what is next: takes each step, answers what is asked from what is seen, takes what is proposed, and leaves
out what does not come to an end. It knows nothing of the work but how the machine is wired, as its drawing would say."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path

from idler.core.errors import IdlerError
from idler.core.machine import Address
from idler.core.report.agenda import KEEP, Step
from idler.core.values.parameter import Value
from idler.library import Answers, OpenMachine, nobody
from idler.procedures.engine import Ending, Result
from idler.procedures.registry import Wishes
from tests.person import Person
from tests.support import DEADLINE, SWITCHED, Bench, at

LONGEST = DEADLINE  # s that one step may take


class Watched(OpenMachine):
    """A machine beside which somebody stands: looks where an axis is before it moves, and ends what takes too long."""

    person: Person | None = None

    def run(self, word: str, axis: str = "", answers: Answers = nobody, wishes: Wishes | None = None) -> Result:
        if self.person is not None:
            self.person.way = wishes.way if wishes is not None else ""
            self.person.look_first()
        limit = self.loop.timer(LONGEST, self.stop, once=True)
        limit.start()
        try:
            return super().run(word, axis, answers, wishes)
        finally:
            limit.stop()


@dataclass
class Walk:
    """What came of it. steps: each with its key, how it ended, and its words. left_out: keys with the last words."""

    steps: list[tuple[str, Ending, str]] = field(default_factory=list)
    left_out: dict[str, str] = field(default_factory=dict)
    seconds: float = 0.0
    struck: float = 0.0

    @property
    def signed_off(self) -> bool:
        return bool(self.steps) and self.steps[-1][0] == KEEP and self.steps[-1][1] is Ending.DONE


def work_through(
    machine: Watched, bench: Bench, knows: Mapping[Address, Value], program: Path | None = None,
    *, tell: Callable[[str], object] = lambda _: None, most: int = 400, until: Callable[[Step], bool] = lambda _: False,
) -> Walk:  # fmt: skip
    """From how it stands to its sign-off. knows: the values that a drawing of the cabinet tells. until: ends it early."""
    walk, person = Walk(), Person(machine, bench.hands)
    machine.person = person
    begun = time.monotonic()
    wishes = Wishes(file=str(program) if program else "")
    agenda = machine.session.agenda
    while (step := agenda.next) is not None and len(walk.steps) < most and not until(step):
        last = ""
        try:
            for done, result in machine.work_through(person, wishes, take=True):
                walk.steps.append((done.key, result.end, result.words))
                tell(f"{time.monotonic() - begun:5.0f} {done.key:22s} {result.end.value:10s} {result.words}")
                last = result.words
                step = agenda.next or done
                if done.key.startswith("settle") and not result.edit:
                    break
                if len(walk.steps) >= most or until(step):
                    break
        except IdlerError as why:
            last = why.sentence
            tell(f"{time.monotonic() - begun:5.0f} {'refused':22s} {last}")
            walk.steps.append((step.key, Ending.FAILED, last))
        now = agenda.next
        if now is None or until(now):
            break
        if now.key.startswith("settle") and settled(machine, knows):
            continue
        tell(f"{time.monotonic() - begun:5.0f} {now.key:22s} left out: {last}")
        walk.left_out[now.key] = last
        agenda.skip(now.key, (last or "It does not come to an end")[:100])
    walk.seconds = time.monotonic() - begun
    walk.struck = max(axis["struck"] for axis in bench.hands.ask(do="look")["axes"])
    return walk


def settled(machine: Watched, knows: Mapping[Address, Value]) -> bool:
    """Whether the drawing says something that the machine was not told yet; it is told then."""
    new = {where: value for where, value in knows.items() if machine.machine[where] != value}
    if new:
        machine.session.set_values(new)
    return bool(new)


def drawing(base: str) -> dict[Address, Value]:
    """What the drawing of a cabinet says of its outputs, and of switches that no duty asks for."""
    outputs = {"verge": SWITCHED, "longcase": {1: "spindle_on", 5: "spindle_level"}, "fusee": {1: "spindle_on"}}[base]
    told: dict[Address, Value] = {at(number - 1, "output.role"): role for number, role in outputs.items()}
    if base == "longcase":
        second = {"role": "home_second", "axis": "Y", "rest": "open"}
        told |= {at(5, f"input.{key}"): value for key, value in second.items()}
    return told
