"""Whoever does only what is next: takes each step, answers what is asked from what is seen, takes what is proposed, and leaves
out what does not come to an end. It knows nothing of the work but how the machine is wired, as its drawing would say."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path

from idler.bench.rigs.rig import load
from idler.core.errors import IdlerError
from idler.core.incident.diagnosis import LIKELY
from idler.core.machine import Address, Machine
from idler.core.machine import file as machinefile
from idler.core.proof.claims import Proof
from idler.core.report.agenda import CONNECT, KEEP, Step
from idler.core.values.parameter import Value
from idler.library import Answers, OpenMachine, nobody
from idler.procedures.engine import Ending, Result
from idler.procedures.registry import Wishes
from idler.shelf.shelf import Shelf
from tests.link.test_modbus import paper
from tests.person import Person
from tests.spoilt import false_proofs
from tests.support import DEADLINE, SWITCHED, Bench, at

LONGEST = DEADLINE  # s that one step may take
CONNECTS = 5  # times that a link is connected again which was lost for good
PARTS_LONGEST = 900.0  # at the pace of the room, which plain parts are judged by


OUTPUTS = {
    "verge": SWITCHED, "longcase": {1: "spindle_on", 5: "spindle_level"}, "fusee": {1: "spindle_on"},
    "pieces": {1: "spindle_on", 9: "spindle_level"},
}  # fmt: skip
PROGRAMS = {
    "flat": "G21 G90 G94 F600\nG0 X-20 Y-20\nG1 X20\nY20\nX-20\nY-20\nM30\n",
    "mill": "G21 G90 G94 F600\nG0 Z5\nG0 X-20 Y-20\nG1 X20\nY20\nX-20\nY-20\nG0 Z0\nM30\n",
    "lathe": "G21 G90 G94 F200\nG0 X5 Z5\nG1 X-5\nZ-5\nX5\nZ5\nM30\n",
}


class Watched(OpenMachine):
    """A machine beside which somebody stands: looks where an axis is before it moves, and ends what takes too long."""

    person: Person | None = None
    in_the_room = False  # whether its bench goes at the pace of the room

    def run(self, word: str, axis: str = "", answers: Answers = nobody, wishes: Wishes | None = None) -> Result:
        if self.person is not None:
            self.person.in_the_room = self.in_the_room
            self.person.way = wishes.way if wishes is not None else ""
            self.person.look_first()
        limit = self.loop.timer(PARTS_LONGEST if self.in_the_room else LONGEST, self.stop, once=True)
        limit.start()
        try:
            return super().run(word, axis, answers, wishes)
        finally:
            limit.stop()
            if self.person is not None:
                self.person.let_go()


@dataclass
class Walk:
    """What came of it. steps: each with its key, how it ended, and its words. left_out: keys with the last words."""

    steps: list[tuple[str, Ending, str]] = field(default_factory=list)
    left_out: dict[str, str] = field(default_factory=dict)
    seconds: float = 0.0
    struck: float = 0.0
    proven: list[str] = field(default_factory=list)
    false: list[str] = field(default_factory=list)  # what is proven, and is not so
    told: dict[Address, Value] = field(default_factory=dict)  # every edit that was proposed
    heard: list[str] = field(default_factory=list)  # what was said of stops meanwhile
    machine: Machine | None = None  # as it was at the end

    @property
    def story(self) -> str:
        """All of it in lines, for whoever reads a failure."""
        return "\n".join(f"{key} {end.value}: {words}" for key, end, words in self.steps)

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
    wishes, untold = Wishes(file=str(program) if program else ""), dict(knows)  # each of them is told once
    agenda, connects = machine.session.agenda, CONNECTS
    while (step := agenda.next) is not None and len(walk.steps) < most and not until(step):
        last = ""
        try:
            for done, result in machine.work_through(person, wishes, take=True):
                walk.steps.append((done.key, result.end, result.words))
                walk.told |= result.edit
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
        if now.key.startswith("settle") and settled(machine, untold):
            continue
        if now.key == CONNECT and connects > 0:  # lost on the way: whoever stands there connects again
            connects -= 1
            continue
        tell(f"{time.monotonic() - begun:5.0f} {now.key:22s} left out: {last}")
        walk.left_out[now.key] = last
        agenda.skip(now.key, (last or "It does not come to an end")[:100])
    walk.seconds = time.monotonic() - begun
    walk.struck = max(axis["struck"] for axis in bench.hands.ask(do="look")["axes"])
    return walk


def commission(
    rig: Path | str, pace: float, *, tell: Callable[[str], object] = lambda _: None, skip: tuple[str, ...] = (),
    parts: str = "",
) -> Walk:  # fmt: skip
    """A machine that is as its controller was told, beside a bench that is as this rig file says, from delivery to sign-off.
    skip: begins of the keys of steps that are left out from the beginning. parts: which is which, where all are plain ones."""
    made = load(str(rig))
    bench = Bench(pace=pace, rig=str(rig))
    try:
        with tempfile.TemporaryDirectory() as folder:
            Shelf(Path(folder)).add("machine", machinefile.write(made.told), "as it was delivered", time.time())
            heard: list[str] = []
            with Watched("machine", Path(folder), says=heard.append) as machine:
                machine.in_the_room = bool(parts)
                machine.connect(f"{bench.link}?parts={parts}" if parts else bench.link)
                if "drive" in bench.ready:
                    machine.session.bus.keep(paper(bench.ready["drive"]))
                program = Path(folder) / "program.nc"
                names = "".join(machine.machine.names)
                kind = "lathe" if made.kind == "lathe" or "Y" not in names else "mill" if "Z" in names else "flat"
                program.write_text(PROGRAMS[kind])
                for step in machine.session.agenda.steps:
                    if skip and step.key.startswith(skip):
                        machine.session.agenda.skip(step.key, "not on this walk")
                walk = work_through(machine, bench, drawing(made.name), program, tell=tell)
                walk.proven = [key for key, found in machine.proofs.items() if found is Proof.PROVEN]
                walk.machine = machine.machine
                walk.heard = [words for words in heard if words.startswith(LIKELY)]
                walk.false = false_proofs(machine, made, bench.hands)
                return walk
    finally:
        bench.close()


def settled(machine: Watched, knows: dict[Address, Value]) -> bool:
    """Whether the drawing says something that the machine was not told yet; it is told then."""
    new = {where: value for where, value in knows.items() if machine.machine[where] != value}
    knows.clear()
    if new:
        machine.session.set_values(new)
    return bool(new)


def drawing(base: str) -> dict[Address, Value]:
    """What the drawing of a cabinet says of its outputs, and of switches that no duty asks for."""
    outputs = OUTPUTS.get(base, {})
    told: dict[Address, Value] = {at(number - 1, "output.role"): role for number, role in outputs.items()}
    if base == "longcase":
        second = {"role": "home_second", "axis": "Y", "rest": "open"}
        told |= {at(5, f"input.{key}"): value for key, value in second.items()}
    return told
