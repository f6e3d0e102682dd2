"""What each procedure asks, does and says on iron that is right and on iron that is not, as it was written down when somebody
last looked at it. Where it was changed on purpose: `python -m tests.procedures.test_told --write`, and look at the difference.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
import math
import sys
import tempfile
import unittest
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any
from unittest import mock

from idler import new_machine, open_machine
from idler.core.errors import IdlerError
from idler.core.machine import Address, Axis, Machine
from idler.core.machine import file as machinefile
from idler.core.proof.claims import Witness, ends_claim, pace_claim
from idler.core.values.parameter import Value
from idler.core.values.roles import InputRole
from idler.core.wiring import inputs
from idler.library import OpenMachine
from idler.link.controller import Kind
from idler.procedures.geometry.square import MARKS
from idler.procedures.questions import Question
from idler.procedures.registry import WORDS, Wishes
from idler.shelf.examples import examples
from tests.procedures.iron import TICK, Faults, Iron, StillLoop
from tests.support import wired

TOLD = Path(__file__).with_name("told.json")
SHORT = Wishes(length="20 mm", tolerance="0.5 %", seconds=2)
CHANGES = {
    "the switch is moved": Faults(moved={"X": 0.8}), "steps are lost": Faults(moved={"X": -0.35}),
    "something lies there": Faults(iron={"X": (-30.0, 3.0)}), "the drive of X sees no steps": Faults(blind="X"),
    "the spindle stands": Faults(stands=(1, -1)), "it turns only left": Faults(stands=(1,)),
}  # fmt: skip
PACED = "as if its pace and its ends had been proven"
ALONG = {
    "program",
    "figure",
    "probe",
    "action",
    "index",
    "torque-print",
}  # a path, a plate, terminals and stops, and the efforts of a way, which this iron does not know
LIMIT = 40  # questions, after which whoever asks is not right in the head


class Person:
    """Answers by what the iron does."""

    def __init__(self, mill: OpenMachine, iron: Iron, lines: list[str], way: str = "") -> None:
        self.mill, self.iron, self.lines, self.way = mill, iron, lines, way
        self.zero = [body.at for body in iron.bodies]
        self.marks: list[tuple[float, float]] = []
        self.asked = 0
        self.stop_at = 0  # the question at which STOP is pressed

    def __call__(self, question: Question[Any]) -> str | None:
        self.asked += 1
        self.lines.append(f"asks {question.key} {question.axis}: {question.text}")
        if self.asked == self.stop_at or self.asked > LIMIT:
            self.mill.session.stop()
            return None
        answer = self._answer(question)
        self.lines.append(f"answer {answer}")
        return answer

    def _answer(self, question: Question[Any]) -> str | None:
        match question.key:
            case "direction.seen":
                moved = self._moved(question.axis)
                return "plus" if moved > 0.001 else "minus" if moved < -0.001 else "nothing"
            case "scale.zero" | "play.zero" | "return.zero" | "blade.zero" | "runout.zero":
                self.zero = [body.at for body in self.iron.bodies]
                return ""
            case "level.zero":
                self.mill.session.link.jog_step(2, -20, 600)
                self._later_answer(3.0)
                return None
            case "level.reading" | "level.follows":
                x, y, z = (body.at for body in self.iron.bodies[:3])
                return f"{3e-4 * x - 2e-4 * y - z + self.zero[2]:.3f}"
            case "blade.follows" | "blade.begin" | "blade.end":
                return f"{-self._moved('Y' if question.axis == 'stock' else 'X'):.4f} mm"
            case "runout.follows" | "runout.reading":
                turned = math.radians(self._moved(question.axis) - 30)
                return f"{0.02 * math.cos(turned) + (0.1 if question.key == 'runout.follows' else 0):.3f} mm"
            case "tailstock.head" | "tailstock.tail":
                return "24.00" if question.key == "tailstock.head" else "24.05"
            case "tailstock.apart" | "tailstock.centres":
                return "200 mm" if question.key == "tailstock.apart" else "300 mm"
            case "square.mark":
                self.marks.append((self.iron.bodies[0].at, self.iron.bodies[1].at))
                return ""
            case key if (ends := MARKS.get(key)) is not None:
                one, other = (mark - 5 for mark in ends)
                return f"{math.dist(self.marks[one], self.marks[other]):.3f}"
            case "play.radius":
                return "100 mm"
            case "play.follows" | "play.reading" if question.axis in "ABC":
                return f"{100 * math.radians(self._moved(question.axis)):.4f} mm"
            case "scale.reading" | "play.follows" | "play.reading" | "return.follows" | "return.reading":
                return f"{self._moved(question.axis) / (25.4 if question.unit == 'in' else 1):.4f} {question.unit}"
            case "stop.loose":
                return "no" if self.iron.powered else "yes"
            case "stop.holds":
                return "every"
            case "direction.hand":
                return "holds" if self.iron.powered else "loose"
            case "spindle.seconds":
                return "3.2 s"
            case "spindle.reading" if question.text.startswith("It still turned"):
                self.mill.loop.timer(4.0, lambda: self._say(f"{abs(self.iron.rpm):.1f}"), once=True).start()
                return None
            case "spindle.reading":
                return f"{abs(self.iron.rpm):.1f}"
            case "spindle.stands" | "spindle.faster":
                return ""
            case "spindle.way":
                return "right" if self.iron.rpm > 0 else "left" if self.iron.rpm < 0 else "nothing"
            case "encoder.turned":
                self.iron.turn_by_hand(5 if "5 times" in question.text else 1)
                return ""
            case "home.elsewhere":
                return question.choices[0].key
            case "touch.switch":
                ways = {way.key for way in question.choices}
                if "swapped" in ways:
                    return "swapped"
                if "no_more" in ways and self.mill.procedure.round.of_chain[0] > 3:  # type: ignore[union-attr]
                    return "no_more"
                self._later(self._touch)
                return None
            case "stop.press" | "guard.open" | "stop.release" | "guard.close":
                role = InputRole.STOP if question.key.startswith("stop") else InputRole.GUARD
                self._later(lambda: self._press(role, question.key in ("stop.press", "guard.open")))
                return None
            case "spindle.end" | "spindle.clear":
                self._later(lambda: self._end(question.key == "spindle.end"))
                return None
            case "learn.role":
                return question.choices[0].key
            case "learn.touch" if self.asked > 3:
                return ""
            case "learn.touch":
                self._later(lambda: self._tap(9 + self.asked))
                return None
        return ""

    def _moved(self, axis: str) -> float:
        slot = self.mill.machine.names.index(axis)
        return self.iron.bodies[slot].at - self.zero[slot]

    def _say(self, typed: str) -> None:
        self.lines.append(f"answer {typed}")
        self.mill.procedure.answer(typed)  # type: ignore[union-attr]

    def _later_answer(self, seconds: float) -> None:
        """What the person does takes so long; then the dial is set to zero, and it is done."""

        def answer() -> None:
            self.zero = [body.at for body in self.iron.bodies]
            self.mill.procedure.answer("")  # type: ignore[union-attr]

        self.mill.loop.timer(seconds, answer, once=True).start()

    def _later(self, work: Any) -> None:
        self.mill.loop.timer(0.3, work, once=True).start()

    def _press(self, role: InputRole, on: bool) -> None:
        for item in inputs(self.mill.machine):
            if item.role is role:
                self.iron.press(item.slot, on)

    def _tap(self, slot: int) -> None:
        self.iron.press(slot, True)
        self._later(lambda: self.iron.press(slot, False))

    def _touch(self) -> None:
        asked = self.mill.procedure.round.asked  # type: ignore[union-attr]
        swap = self.iron.faults.swapped
        if asked is not None:
            self._tap(swap[1 - swap.index(asked)] if swap and asked in swap and self.asked < 4 else asked)

    def _end(self, ends: bool) -> None:
        if self.way == "esc":
            self.mill.session.stop()
        elif self.way in ("stop", "guard"):
            self._press(InputRole.STOP if self.way == "stop" else InputRole.GUARD, ends)


def short(machine: Machine) -> Machine:
    """The same with short ways and quick touches: time is what these stories take."""
    values: dict[Address, Value] = {}
    for axis in machine.axes:
        low, high = axis.number("travel.low"), axis.number("travel.high")
        if high - low > 60 and not axis.rotary:
            far, by = ("high", 60) if axis.choice("homing.towards") == "low" else ("low", -60)
            near = low if far == "high" else high
            values[axis_at(axis, f"travel.{far}")] = near + by
            values[axis_at(axis, f"travel.stop_{far}")] = near + by + (4 if far == "high" else -4)
        values |= {axis_at(axis, "homing.touch"): Fraction(900), axis_at(axis, "homing.approach"): Fraction(1500)}
        values |= {axis_at(axis, "homing.search"): Fraction(100), axis_at(axis, "travel.limits_on"): not axis.rotary}
    return machine.with_values(values)


def axis_at(axis: Axis, key: str) -> Address:
    return Address(axis.slot, key)


def told(
    machine: Machine, faults: Faults, words: Iterator[tuple[str, str, Wishes]] | list[Any], stop_at: int = 0
) -> list[str]:
    """What is asked, commanded, said and proven, line by line, of procedures one after the other on one machine."""
    lines: list[str] = []
    irons: list[Iron] = []

    def made(tell: Any, _keep: Path | None) -> Iron:
        irons.append(Iron(tell, loop, machine, faults))
        return irons[-1]

    loop = StillLoop()
    kind = Kind("iron", lambda _: True, made)  # type: ignore[arg-type]
    with (
        tempfile.TemporaryDirectory() as folder, mock.patch("idler.library.PlainLoop", lambda: loop),
        mock.patch("idler.session.session.kind_of", lambda _: kind), mock.patch("time.time", lambda: 1e9),
        mock.patch("idler.session.session.LOOKS", TICK), mock.patch("idler.procedures.engine.LOOK", TICK),
    ):  # fmt: skip
        new_machine("it", shelf=folder)
        Path(folder, "machines", "it.toml").write_text(machinefile.write(machine), "utf-8")
        with open_machine("it", folder, says=lambda text: lines.append(f"says {text}")) as mill:
            mill.connect("iron")
            for word, axis, wishes in words:
                if word in CHANGES:
                    lines.append(f"== {word}")
                    irons[-1].faults = CHANGES[word]
                    continue
                if word == PACED:
                    slot = mill.machine.names.index(axis)
                    for claim in (pace_claim(mill.machine, slot), ends_claim(mill.machine, slot)):
                        mill.session.prove(claim, True, PACED, Witness.TOUCH)
                    continue
                if word not in ("learn", "stop", "touch"):
                    with contextlib.suppress(IdlerError):  # the stop is pressed still
                        mill.power()
                person = Person(mill, irons[-1], lines, wishes.way)
                person.stop_at = stop_at
                lines.append(f"-- {word} {axis} {wishes.way}".rstrip())
                try:
                    result = mill.run(word, axis, person, wishes)
                except IdlerError as why:
                    lines.append(f"refused {why.sentence}")
                    continue
                lines.append(_done(irons[-1].told))
                irons[-1].told.clear()
                edit = {f"{where.slot} {where.key}": str(value) for where, value in result.edit.items()}
                figures = {
                    key: f"{each:.6g}" if isinstance(each, float) else each for key, each in result.figures.items()
                }
                lines.append(f"result {result.end.name}: {result.words} {edit or ''} {figures or ''}".rstrip())
                mill.wait(lambda: not mill.session.moving, 60)
            for key, kept in sorted(mill.session.proofs.items()):
                lines.append(f"proof {key} {kept.passed} {kept.witness.name}: {kept.result}")
    return lines


def _done(commands: list[str]) -> str:
    """What the iron was told to do: the first of it, and a digest of all."""
    more = hashlib.sha1("\n".join(commands).encode()).hexdigest()[:8]
    return f"does {'; '.join(commands[:6])} … {len(commands)} in all, {more}"


def stories() -> dict[str, list[str]]:
    """By what is so: everything that was told."""
    verge = short(wired())
    found = {}
    begin = [("stop", "", SHORT), ("touch", "", SHORT)]
    each = [
        (word, axis, SHORT)
        for axis in "XZ"
        for word in ("direction", "scale", "home", "ends", "repeat", "pace", "signals")
    ]
    after = [
        ("home", "", SHORT),
        ("envelope", "", SHORT),
        ("park", "", SHORT),
        ("kept", "", SHORT),
        ("guard", "", SHORT),
        ("study", "", SHORT),
    ]
    spindle = [(word, "", SHORT) for word in ("spindle-curve", "spindle-speeds", "spindle-times", "spindle-way",
                                              "spindle-encoder")]  # fmt: skip
    ends = [("spindle-stop", "", Wishes(way=way)) for way in ("esc", "stop", "guard")]
    found["all of it on a good machine"] = told(verge, Faults(), [*begin, *each, *after, *spindle, *ends])
    few = [(word, "X", SHORT) for word in ("direction", "scale", "home", "ends", "pace")]
    for words, faults in (
        ("X turned", Faults(turned="X")), ("X too long", Faults(long={"X": 1.25})),
        ("X loses steps", Faults(loses={"X": (900, 0.3)})),
        ("X loses many", Faults(loses={"X": (100, 1.0)})), ("iron in the way of X", Faults(iron={"X": (-40.0, 3.0)})),
        ("X gives up at iron", Faults(iron={"X": (-40.0, 3.0)}, gives_up="X")),
        ("the spindle turned", Faults(spindle_turned=True)),
    ):  # fmt: skip
        more = ("search", "X", SHORT) if "steps" in words or "many" in words else ("signals", "X", SHORT)
        found[words] = told(verge, faults, [*few, more, ("spindle-way", "", SHORT)])
    home = ("home", "X", SHORT)
    by = [("move", "X", Wishes(length=length)) for length in ("-5 mm", "0.1 in", "80 mm")]
    found["moves"] = told(verge, Faults(), [("move", "X", Wishes()), *by, ("home", "X", SHORT), *by])
    found["found elsewhere"] = told(
        verge, Faults(), [*begin, few[0], home, home, ("the switch is moved", "", SHORT), home, home,
                          ("steps are lost", "", SHORT), ("ends", "X", SHORT), home, ("repeat", "X", SHORT)],
    )  # fmt: skip
    backwards = {Address(None, "spindle.counts"): 4096, Address(None, "spindle.counts_reversed"): True}
    told_so = {**backwards, Address(None, "names.screen_unit"): "in"}
    found["an encoder, in inches"] = told(verge.with_values(told_so), Faults(), [*few[:4], *spindle])
    turns = [
        (word, "A", Wishes(length="360 °", tolerance="0.5 %"))
        for word in ("direction", "scale", "home", "repeat", "pace", "signals")
    ]
    found["a table that turns"] = told(verge, Faults(), turns)
    denied = [
        *begin, *few, ("steps are lost", "", SHORT), ("ends", "X", SHORT), ("the drive of X sees no steps", "", SHORT),
        *few[:3], *spindle[:4], ("the spindle stands", "", SHORT), *spindle[2:4], ("it turns only left", "", SHORT),
        spindle[3],
    ]  # fmt: skip
    found["what was proven is denied"] = told(verge, Faults(), denied)
    found["a spindle that runs down for long"] = told(verge, Faults(coasts=10.0), ends[:2])
    found["a low level that does not turn"] = told(verge, Faults(deaf=1000.0), [spindle[3]])
    found["a level with play"] = told(verge, Faults(plays=12.0), [spindle[1]])
    part = Wishes(length="30 °", instrument="mark", tolerance="0.5 %")
    found["part of a turn against a mark"] = told(verge, Faults(), [("scale", "A", part)])
    slips, surest = Faults(slips={"X": 0.0065}), {Address(None, "signals.direction_setup"): Fraction(100)}
    found["X loses two counts where it turns round"] = told(
        verge, slips, [*begin, few[0], home, ("repeat", "X", SHORT)]
    )
    found["and with the longest setup time"] = told(verge.with_values(surest), slips, [home, ("repeat", "X", SHORT)])
    found["a table that loses steps"] = told(verge, Faults(loses={"A": (900, 0.4)}), turns)
    magnet = {Address(7, "input.role"): "pulse", Address(7, "input.rest"): "open"}
    found["a magnet on the spindle"] = told(verge.with_values(magnet), Faults(), [*spindle[:4], ends[0]])
    chain = {Address(7, "input.role"): "limit_chain", Address(7, "input.rest"): "closed"}
    found["a chain of limits"] = told(verge.with_values(chain), Faults(), [*begin, ("home", "", SHORT)])
    found["two wires swapped"] = told(
        verge, Faults(swapped=(1, 2)), [*begin, ("touch", "", SHORT), ("home", "X", SHORT)]
    )
    found["STOP at each question"] = [
        line for at in (1, 2, 3) for line in told(verge, Faults(), [*begin, *few[:3], *spindle, *ends], stop_at=at)
    ]
    found["nothing is wired"] = told(
        Machine(("X", "Y"), {}, 12, 4), Faults(), [("learn", "", SHORT), *begin, *few, *after]
    )
    geometry = [
        ("home", "", SHORT),
        ("play", "X", Wishes()),
        ("square", "", Wishes(tolerance="3", sides=True)),
        ("level", "", Wishes()),
        ("return", "X", Wishes()),
        (PACED, "X", Wishes()),
        ("return", "X", Wishes()),
        ("runout", "A", Wishes()),
        ("play", "A", Wishes()),
        ("move", "X", Wishes(length="-20 mm")),
        ("zero", "", Wishes(zero="here")),
        ("move", "X", Wishes(length="-10 mm")),
        ("zero", "", Wishes(way="down")),
        ("blade", "", Wishes(length="20 mm", tolerance="1")),
    ]
    found["play, square and level"] = told(verge, Faults(), geometry)
    found["play in inches, and nothing homed"] = told(
        verge.with_values(told_so), Faults(), [*geometry[1:], *geometry[:2]]
    )
    for name in ("longcase", "fusee"):
        other = short(machinefile.read(examples()[name]).machine)
        found[name] = told(other, Faults(), [*begin, *few, *after, *spindle, ("tailstock", "", Wishes())])
    return found


class Told(unittest.TestCase):
    maxDiff = 6000

    def test_procedures_ask_do_and_say_what_they_did(self) -> None:
        kept = json.loads(TOLD.read_text("utf-8"))
        now = stories()
        self.assertEqual(set(kept), set(now))
        played = {line.split()[1] for lines in now.values() for line in lines if line.startswith("-- ")}
        self.assertEqual(played, set(WORDS) - ALONG)
        for story, lines in now.items():
            with self.subTest(story, renew="python -m tests.procedures.test_told --write"):
                self.assertEqual(kept[story], lines)


if __name__ == "__main__" and "--write" in sys.argv:
    TOLD.write_text(json.dumps(stories(), indent=0, ensure_ascii=False) + "\n", "utf-8")
