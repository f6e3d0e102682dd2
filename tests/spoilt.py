"""Machines that are not as they were said to be: a known rig with hidden faults, drawn by dice, and what is then true of it."""

from __future__ import annotations

import random
import tomllib
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from importlib import resources
from pathlib import Path
from typing import Any

import tomli_w

from idler import OpenMachine
from idler.bench.plant import turning
from idler.bench.rigs.rig import Rig
from idler.core.geometry.square import TOLERANCES
from idler.core.machine import Address, Machine
from idler.core.machine import file as machinefile
from idler.core.mechanics.chain import Chain
from idler.core.proof.claims import Proof
from idler.core.spindle import allowed_error, has_level, speed_range
from idler.core.table.rows.spindle import MOST_RANGES
from idler.core.values.roles import InputRole
from idler.core.wiring import inputs
from tests.judge import held_back, not_so
from tests.support import Hands

KINDS = ("verge", "longcase", "fusee")
Fault = Callable[[dict[str, Any], str, random.Random], str]  # spoils a rig's data; its sentence, "" where it is none


@dataclass
class Spoilt:
    """rig: the file of it. data: the rig itself."""

    rig: Path
    base: str
    data: dict[str, Any]
    faults: list[tuple[str, str, str]] = field(default_factory=list)  # the name of each, its axis, and its sentence

    @property
    def wrong(self) -> list[str]:
        return [said for _, _, said in self.faults]


def spoilt(base: str, dice: random.Random, folder: Path, faults: int = 4, of: Sequence[Fault] = ()) -> Spoilt:
    """A rig file in the folder, with the machine file beside it that its controller was told. of: faults to draw from."""
    data = tomllib.loads((resources.files("idler.bench") / "rigs" / f"{base}.toml").read_text("utf-8"))
    made = Spoilt(folder / "rig.toml", base, data)
    drawn = of or FAULTS
    for fault in dice.sample(drawn, k=min(faults, len(drawn))):
        name = dice.choice([name for name in data["motor"] if name != "Y2"])
        if said := fault(data, name, dice):
            made.faults.append((fault.__name__, name, said))
    told = (resources.files("idler") / "data" / data["told"]).read_text("utf-8")
    (folder / data["told"]).write_text(told, "utf-8")
    made.rig.write_text(tomli_w.dumps(data), "utf-8")
    machine = machinefile.read(told).machine
    made.faults = [each for each in made.faults if not _made_it_right(data, machine, each)]
    return made


def _made_it_right(data: dict[str, Any], told: Machine, of: tuple[str, str, str]) -> bool:
    """Whether two wrongs made one right: what the machine was told of its scale is so, because of the fault."""
    fault, name, _ = of
    if fault not in ("pitch", "microsteps"):
        return False
    motor, axis = data["motor"][name], told.axis(told.names.index(name))
    truly = motor.get("full_steps", 200) * motor.get("microsteps", 8) / motor["lead"]
    return abs(float(Chain.of(axis).counts_per_unit) / truly - 1) < SCALE


def motors_of(data: dict[str, Any], name: str) -> list[dict[str, Any]]:
    """Of an axis: both, where it has two."""
    return [data["motor"][each] for each in data["motor"] if each == name or (each == "Y2" and name == "Y")]


def wires_of(data: dict[str, Any], name: str) -> list[dict[str, Any]]:
    return [wire for wire in data["wire"] if wire.get("axis") == name and wire.get("source") in (None, "mark")]


def microsteps(data: dict[str, Any], name: str, dice: random.Random) -> str:
    factor = dice.choice((2, 4))
    for motor in motors_of(data, name):
        motor["microsteps"] = motor.get("microsteps", 8) * factor
    return f"{name}: its driver makes {factor} times the microsteps"


def pitch(data: dict[str, Any], name: str, dice: random.Random) -> str:
    factor = dice.choice((0.8, 1.25, 25.4 / 25, 0.5, 1.003, 0.9995))
    for motor in motors_of(data, name):
        motor["lead"] = round(motor["lead"] * factor, 9)
    return f"{name}: a turn moves it {factor:.6g} times as far"


def turned(data: dict[str, Any], name: str, _dice: random.Random) -> str:
    for motor in motors_of(data, name):
        motor["wires_swapped"] = not motor.get("wires_swapped", False)
    if not motor["wires_swapped"]:  # it came with them swapped, and has no such fault then
        return ""
    return f"{name}: its wires are swapped"


def weak(data: dict[str, Any], name: str, dice: random.Random) -> str:
    factor = dice.uniform(0.45, 0.8)
    for motor in motors_of(data, name):
        motor["torque"] = round(motor["torque"] * factor, 3)
    return f"{name}: its motor gives {factor:.2f} of its torque"


def play(data: dict[str, Any], name: str, dice: random.Random) -> str:
    wide = round(dice.uniform(0.02, 0.25), 3)
    for motor in motors_of(data, name):
        motor["backlash"] = wide
    return f"{name}: {wide} of play"


def short(data: dict[str, Any], name: str, dice: random.Random) -> str:
    """Less travel than was told; a switch at the high end lies as far from its stop as before."""
    motors = motors_of(data, name)
    if not motors[0].get("travel"):
        return ""
    less = round(motors[0]["travel"] * dice.uniform(0.05, 0.2), 1)
    for motor in motors:
        motor["travel"] = round(motor["travel"] - less, 3)
        motor["start"] = round(min(motor.get("start", 0.0), motor["travel"] * 0.7), 3)
    for wire in wires_of(data, name):
        if wire.get("side", "high") == "high":
            wire["at"] = round(wire["at"] - less, 3)
    return f"{name}: {less} mm less travel"


def sticky(data: dict[str, Any], name: str, dice: random.Random) -> str:
    for wire in wires_of(data, name)[:1]:
        if not wire.get("source"):
            wire["hysteresis"] = round(dice.uniform(0.8, 2.5), 2)
            return f"{name}: its switch lets go {wire['hysteresis']} mm late"
    return ""


def noise(data: dict[str, Any], name: str, dice: random.Random) -> str:
    for wire in wires_of(data, name)[:1]:
        wire.update(noise=round(dice.uniform(10, 80), 1), noise_width=0.15, noise_longest=0.8)
        return f"{name}: its switch picks up {wire['noise']} pulses a second from the spindle"
    return ""


def contact(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    wire = dice.choice([wire for wire in data["wire"] if wire.get("source") is None])
    wire["contact"] = "open" if wire["contact"] == "closed" else "closed"
    return f"{wire['name']}: {wire['contact']} at rest"


def swapped(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    one, other = dice.sample(data["wire"], 2)
    one["input"], other["input"] = other["input"], one["input"]
    return f"{one['name']} and {other['name']} are at each other's terminals"


def heavy(data: dict[str, Any], name: str, dice: random.Random) -> str:
    factor = dice.uniform(1.5, 3)
    for motor in motors_of(data, name):
        motor["inertia"] *= factor
    return f"{name}: {factor:.1f} times as heavy"


def askew(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    data["rig"]["lean"] = round(dice.uniform(-1, 1), 2)
    return f"the frame leans by {data['rig']['lean']} mm per m"


def shim(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    for wire in data["wire"]:
        if wire.get("axis") == "Y2":
            wire["at"] = round(wire["at"] + dice.uniform(-0.5, 0.5), 2)
            return f"{wire['name']} at {wire['at']}"
    return ""


def tilted(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    bed = data.setdefault("bed", {})
    bed["along_x"] = round(dice.uniform(-0.5, 0.5), 2)
    return f"the bed rises by {bed['along_x']} mm per m along X"


def curve(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    spindle = data["spindle"]
    if spindle.get("on_bus"):
        return ""
    spindle["top"] = round(spindle["top"] * dice.uniform(0.8, 1.15))
    spindle["bend"] = round(dice.uniform(-0.1, 0.1), 3)
    return f"the spindle makes {spindle['top']} rpm, and its curve bends by {spindle['bend']}"


def bearing(data: dict[str, Any], name: str, dice: random.Random) -> str:
    for motor in motors_of(data, name):
        motor["friction"] = round(motor["friction"] * dice.uniform(1.5, 2.5), 3)
    return f"{name}: stiff"


FAULTS: tuple[Fault, ...] = (
    microsteps, pitch, turned, weak, play, short, sticky, noise, contact, swapped, heavy, askew, shim, tilted, curve, bearing,
)  # fmt: skip


CHAIN = ("chain.",)
QUIET = "quiet"  # the step that listens to all inputs
HEARD = "heard"  # in place of the key of a step: what was said of a stop meanwhile
NOT_OF_AXIS = ("askew", "shim", "tilted", "curve")
# By the fault: begins of the keys of which a value was then edited, on its axis where it is of one, or words that were said;
# any of them has named it. What is not here may do no harm, or is told from the beginning by whoever learns the inputs.
NAMING: dict[str, tuple[tuple[str, ...], tuple[str, ...]]] = {
    "microsteps": (CHAIN, ("microsteps", "another number of steps for a turn")),
    "pitch": (CHAIN, ("off, and certainly so",)), "turned": (("axis.",), ()),
    "weak": (("pace.", "homing.approach"), ("loses steps", "lost")), "short": (("travel.",), ("shorter", "met something")),
    "play": (("play.",), ("more than is wanted", "too much to be taken up", "cannot be told")),
    "askew": (("homing.squaring",), ("out of square", "cannot be told", "square within")),  # two of them may cancel each other
    "shim": (("homing.squaring",), ("out of square", "cannot be told", "square within")),
    "tilted": ((), ("lies askew", "uneven", "level enough", "flat enough")), "curve": (("range.",), ("speeds were tried",)),
    "noise": (("input.filter",), ("picks up", "pulse")),
}  # fmt: skip


HARMLESS = {  # what is said where a fault does no harm: the pace holds with this motor, too; so small a tilt is not minded
    "weak": "It held.", "tilted": "as level as is wanted",
}  # fmt: skip
LATHE = "fusee"  # has no bed under a tool that could lie askew


def unnamed(made: Spoilt, machine: Machine, told: Iterable[Address], steps: Iterable[tuple[str, str]]) -> list[str]:
    """The faults that do harm and were not named on the way to the sign-off. told: values that were proposed. steps: the key of
    each, and what was said at its end."""
    left, lines, values = [], list(steps), list(told)
    for fault, axis, said in made.faults:
        if fault not in NAMING:
            continue
        begins, words = NAMING[fault]
        slot = machine.names.index(axis) if axis in machine.names else None
        edited = any(where.key.startswith(begins) and where.axis in (slot, None) for where in values if begins)
        of = [
            text
            for key, text in lines
            if key.endswith(f".{axis}") or fault in NOT_OF_AXIS or (key in (HEARD, QUIET) and f" {axis} " in text)
        ]
        flat = fault == "tilted" and (made.base == LATHE or "Z" not in machine.names)  # nothing is lowered onto a bed
        if flat or (fault in HARMLESS and any(HARMLESS[fault] in text for text in of)):
            continue
        if not edited and not any(word in text for word in words for text in of):
            left.append(said)
    return left


def false_proofs(machine: OpenMachine, rig: Rig, hands: Hands) -> list[str]:
    """What is called proven, and is not so: a sentence each. What the rig truly is decides."""
    found, claims = [], machine.proofs

    def proven(key: str) -> bool:
        return claims.get(key) is Proof.PROVEN

    for axis in machine.machine.axes:
        number = axis.whole("axis.output") - 1
        if number < 0:
            continue
        motor, name = rig.motors[number], axis.name
        truly = motor.full_steps * motor.microsteps / motor.lead
        off = abs(float(Chain.of(axis).counts_per_unit) / truly - 1)
        if proven(f"scale.{name}") and off > SCALE:
            found.append(f"scale.{name}: {off:.4%} off")
        if proven(f"direction.{name}") and (motor.direction < 0) != axis.flag("axis.reversed"):
            found.append(f"direction.{name}: it goes the other way")
        play = max(motor.backlash, motor.backlash + motor.worn) - float(axis.number("play.backlash"))
        if proven(f"play.{name}") and not -PLAY - held_back(rig, number) <= play <= PLAY:
            found.append(f"play.{name}: {play:.3f} is left")
        told = [item for item in inputs(machine.machine) if item.duty.axis == name and item.role is InputRole.HOME]
        for item in told:
            wires = [wire for wire in rig.wires if wire.input == _wire_at(rig, item.slot)]
            if proven(f"wiring.home.{name}") and not any(wire.name.startswith(name) for wire in wires):
                found.append(f"wiring.home.{name}: {item.name} is {wires[0].name if wires else 'free'}")
    found += [f"speed.{slot + 1}: {off}" for slot in range(MOST_RANGES) if proven(f"speed.{slot + 1}")
              for off in speeds_off(machine.machine, rig, slot)]  # fmt: skip
    stands = [axis["at"] for axis in hands.ask(do="look")["axes"]]
    askew = [1000 * (stands[k] - stands[m.beam]) / m.across for k, m in enumerate(rig.motors) if m.across]
    wanted = TOLERANCES.get(str(machine.machine[Address(None, "build.kind")]), 0.1)
    if proven("square.XY") and abs(leans := rig.lean + sum(askew)) > SQUARE * wanted:
        found.append(f"square.XY: it leans by {leans:.2f} mm per m")
    return [*found, *not_so(machine, rig, hands, proven, SQUARE * wanted)]


def speeds_off(machine: Machine, rig: Rig, slot: int) -> list[str]:
    """Speeds of a range that its spindle does not turn at, where a level tells it: the truth's own curve says so."""
    told, truth = speed_range(machine, slot), rig.spindle
    if not has_level(machine) or slot >= len(truth.ratios) or truth.on_bus:
        return []
    found = []
    for share in range(11):
        rpm = told.low + (told.high - told.low) * share / 10
        for way in (-1, 1):  # from below and from above
            felt = told.level(rpm) / 100 + way * truth.slack / 2
            turns = (
                turning.curve.py_func(truth, felt) * truth.top * truth.ratios[slot]
            )  # as it is written, for any truth
            if abs(turns - rpm) > SPEEDS * allowed_error(rpm):
                found.append(f"{turns:.0f} rpm where {rpm:.0f} are asked for")
    return found


def _wire_at(rig: Rig, slot: int) -> int:
    """The wire that a terminal of the machine is. Behind those of plain terminals each drive has three of its own, its home
    switch last."""
    first = rig.told.inputs if not rig.drive_inputs else PLAIN
    if slot < first:
        return slot
    axis, which = divmod(slot - first, 3)
    return next((wire for wire, (_, of, _) in rig.drive_inputs.items() if of == axis and which == 2), -1)


SPEEDS = 2.0  # times what a speed may be off: the spindle follows a level that falls a little late
PLAIN = 8  # inputs of the plain terminals of a rig
SCALE = 3e-4  # relative: what was asked for, and what two axes of a person's eye may add
PLAY = 0.03  # mm (°)
SQUARE = 1.5  # times what is wanted
