"""Machines that nobody has drawn: described by the questions of a new machine, built on the bench as they were described, and
then spoilt. Axes, trains, units, ends and switches are dice's."""

from __future__ import annotations

import random
from pathlib import Path
from typing import Any

import tomli_w

from idler.core.machine import Address, Axis, Machine
from idler.core.machine import file as machinefile
from idler.core.mechanics.chain import Chain
from idler.core.mechanics.describing import described
from tests.spoilt import FAULTS, Spoilt

AXES = ("XYZ", "XYZ", "XYZA", "XY", "XZ", "YXZC", "ZXYAC")
INPUTS = 12
ROOM = 4.0  # mm between an end of the soft limits and its hard stop
DRIVEN = {  # answers of what drives an axis, a choice of each; keys without their axis
    "screw": ({"pitch": "5 mm"}, {"pitch": "4 mm"}, {"pitch": "10 mm"}, {"pitch": "0.2 in"}),
    "belt": ({"belt_pitch": "3 mm", "pulley_teeth": "20"}, {"belt_pitch": "5 mm", "pulley_teeth": "16"}),
    "rack": ({"module": "1 mm", "pinion_teeth": "15"},),
}
TURNED = ({"wheel_teeth": "90"}, {"wheel_teeth": "72"})


def answers(dice: random.Random) -> dict[str, str]:
    """What a builder would answer."""
    letters = dice.choice(AXES)
    said = {"kind": dice.choice(("mill", "router")), "unit": dice.choice(("mm", "in")), "axes": letters}
    for letter in letters:
        motor = dice.choice(("stepper", "stepper", "counts"))
        said[f"{letter}.motor"] = motor
        said[f"{letter}.microsteps" if motor == "stepper" else f"{letter}.counts"] = (
            dice.choice(("8", "10", "16")) if motor == "stepper" else dice.choice(("2000", "4000"))
        )
        said[f"{letter}.by"] = "switch"
        said[f"{letter}.home"] = dice.choice(("high", "low"))
        if letter in "ABC":
            more = dice.choice(TURNED)
            said[f"{letter}.driven"] = "worm"
        else:
            said[f"{letter}.driven"] = dice.choice(tuple(DRIVEN) if letter != "Z" else ("screw",))
            more = dice.choice(DRIVEN[said[f"{letter}.driven"]])
            said[f"{letter}.travel"] = dice.choice(("220 mm", "310 mm", "9 in")) if letter != "Z" else "150 mm"
        said |= {f"{letter}.{key}": value for key, value in more.items()}
    return said


def _motor(axis: Axis, dice: random.Random) -> dict[str, Any]:
    """As built: what the train says, and torque for the pace that it was told."""
    chain, rotary = Chain.of(axis), axis.rotary
    of_motor = (
        200 * axis.whole("chain.microsteps")
        if axis.choice("chain.motor") == "stepper"
        else axis.whole("chain.motor_counts")
    )
    lead = float(of_motor / chain.counts_per_unit)
    long = float(axis.number("travel.high") - axis.number("travel.low")) + 2 * ROOM + 2
    made: dict[str, Any] = {
        "moves": axis.choice("axis.moves"), "lead": lead, "backlash": dice.choice((0.0, 0.01, 0.02)),
        "torque": dice.uniform(1.8, 2.6), "knee": 1500.0, "inertia": 2e-4 * max(1.0, (lead / 8) ** 2),
        "friction": dice.uniform(0.08, 0.16), "viscous": 8e-4, "full_steps": 200,
        "microsteps": of_motor // 200,
    }  # fmt: skip
    made |= {"rotary": True, "start": 20.0} if rotary else {"travel": long, "start": long * dice.uniform(0.3, 0.7)}
    if axis.name == "Z":
        made |= {"gravity": 0.15, "friction": 0.25}
    return made


def stranger(seed: int, folder: Path, faults: int = 3) -> Spoilt:
    """A rig file in the folder, with the machine file beside it that its controller was told."""
    dice = random.Random(seed)
    told = described(answers(dice), "stranger")
    data: dict[str, Any] = {
        "name": "stranger", "told": "told.toml",
        "rig": {"title": "Stranger", "kind": str(told[Address(None, "build.kind")]), "device": "Bench controller",
                "hardware": "bench 7", "software": "1.0", "serial": 26112900 + seed % 100, "node": 5, "inputs": INPUTS},
        "motor": {axis.name: _motor(axis, dice) for axis in told.axes}, "wire": _wires(told, dice),
    }  # fmt: skip
    made = Spoilt(folder / "rig.toml", "stranger", data)
    for fault in dice.sample(FAULTS, k=faults):
        if "spindle" not in data and fault.__name__ in ("curve", "noise"):  # a spindle has them, or makes them
            continue
        name = dice.choice(list(data["motor"]))
        if said := fault(data, name, dice):
            made.faults.append((fault.__name__, name, said))
    (folder / "told.toml").write_text(machinefile.write(told), "utf-8")
    made.rig.write_text(tomli_w.dumps(data), "utf-8")
    return made


def _wires(told: Machine, dice: random.Random) -> list[dict[str, Any]]:
    """Who wired it left no list."""
    terminals = dice.sample(range(1, INPUTS + 1), k=INPUTS)
    found: list[dict[str, Any]] = [{"name": "emergency stop", "contact": "closed", "bounce": 0.8}]
    for axis in told.axes:
        high = axis.choice("homing.towards") == "high"
        long = float(axis.number("travel.high") - axis.number("travel.low")) + 2 * ROOM + 2
        wire = {
            "name": f"{axis.name} home",
            "axis": axis.name,
            "contact": dice.choice(("closed", "closed", "open")),
            "bounce": 0.5,
        }
        if axis.rotary:
            wire |= {"source": "mark", "at": 300.0, "period": 360.0, "hysteresis": 0.3}
        else:
            wire |= {"at": long - ROOM + 1 if high else ROOM - 1, "side": "high" if high else "low", "hysteresis": 0.3}
        found.append(wire)
    return [{"input": number, **wire} for number, wire in zip(terminals, found, strict=False)]
