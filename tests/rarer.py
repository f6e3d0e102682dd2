"""Faults that are rarer than those of `spoilt`: of drivers and their signals, of wires that hold badly, of switches that lie
where nothing comes to them, of the wires and the belt of a spindle and what counts its turns, of a screw that grows warm, and
of what an axis holds."""

from __future__ import annotations

import random
from typing import Any

from tests.spoilt import Fault, motors_of, wires_of


def setup(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    driver = data.setdefault("driver", {})
    driver["least_setup"] = dice.choice((12.0, 25.0, 60.0))
    return f"drivers want {driver['least_setup']:g} µs between direction and step"


def pulse(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    driver = data.setdefault("driver", {})
    driver["least_pulse"] = dice.choice((6.0, 11.0))
    return f"drivers want pulses of {driver['least_pulse']:g} µs"


def wake(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    driver = data.setdefault("driver", {})
    driver["wake"] = dice.choice((400.0, 900.0))
    return f"drivers wake in {driver['wake']:g} ms"


def enable(data: dict[str, Any], _name: str, _dice: random.Random) -> str:
    driver = data.setdefault("driver", {})
    driver["enable_inverted"] = not driver.get("enable_inverted", False)
    return "drivers hear enable the other way round"


def edge(data: dict[str, Any], _name: str, _dice: random.Random) -> str:
    driver = data.setdefault("driver", {})
    driver["step_inverted"] = not driver.get("step_inverted", False)
    return "drivers step at the other edge"


def deaf(data: dict[str, Any], name: str, _dice: random.Random) -> str:
    for motor in motors_of(data, name):
        motor["always_on"] = True
    return f"{name}: its driver does not hear enable"


def loose(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    wire = dice.choice([wire for wire in data["wire"] if wire.get("source") is None])
    wire["loose"] = round(dice.uniform(0.2, 5.0), 2)
    return f"{wire['name']}: its wire lets go {wire['loose']} times a second"


def chatter(data: dict[str, Any], name: str, dice: random.Random) -> str:
    for wire in wires_of(data, name)[:1]:
        wire["bounce"] = round(dice.uniform(8.0, 40.0), 1)
        return f"{name}: its switch bounces for {wire['bounce']} ms"
    return ""


def beyond(data: dict[str, Any], name: str, _dice: random.Random) -> str:
    """A switch that the carriage never comes to: iron is first."""
    travel = data["motor"][name].get("travel")
    for wire in wires_of(data, name)[:1] if travel else []:
        wire["at"] = travel + 3.0 if wire.get("side", "high") == "high" else -3.0
        return f"{name}: its switch lies beyond its iron"
    return ""


def other_end(data: dict[str, Any], name: str, _dice: random.Random) -> str:
    travel = data["motor"][name].get("travel")
    for wire in wires_of(data, name)[:1] if travel and not data["motor"][name].get("beam") else []:
        high = wire.get("side", "high") == "high"
        wire["at"], wire["side"] = travel - wire["at"], "low" if high else "high"
        return f"{name}: its switch is at the other end"
    return ""


def one_of_two(data: dict[str, Any], _name: str, _dice: random.Random) -> str:
    if "Y2" not in data["motor"]:
        return ""
    data["motor"]["Y2"]["wires_swapped"] = not data["motor"]["Y2"].get("wires_swapped", False)
    return "Y2: its wires are swapped, those of Y are not"


def fine(data: dict[str, Any], name: str, _dice: random.Random) -> str:
    """Motors of 0.9° in place of 1.8°."""
    for motor in motors_of(data, name):
        motor["full_steps"] = 2 * motor.get("full_steps", 200)
    return f"{name}: its motor makes twice the steps"


def crossed(data: dict[str, Any], _name: str, _dice: random.Random) -> str:
    spindle = data.get("spindle", {})
    if "direction_output" not in spindle:
        return ""
    one, other = spindle["run_output"], spindle["direction_output"]
    spindle["run_output"], spindle["direction_output"] = other, one
    return "the wires of spindle on and direction are crossed"


def belt(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    spindle = data.get("spindle", {})
    if len(spindle.get("ratios", ())) < 2:
        return ""
    spindle["belt"] = dice.choice([k for k in range(1, 1 + len(spindle["ratios"])) if k != spindle.get("belt", 1)])
    return f"the belt lies in place {spindle['belt']}"


def pulleys(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    spindle = data.get("spindle", {})
    if len(spindle.get("ratios", ())) < 2:
        return ""
    factor = dice.choice((0.85, 1.2))
    spindle["ratios"] = [round(ratio * factor, 4) for ratio in spindle["ratios"]]
    return f"the pulleys make {factor} of what was told"


def coasting(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    spindle = data.get("spindle", {})
    if not spindle.get("brake"):
        return ""
    spindle["brake"] = round(spindle["brake"] / dice.choice((4, 8)))
    return f"the spindle slows down with {spindle['brake']} rpm/s"


def warm(data: dict[str, Any], name: str, dice: random.Random) -> str:
    for motor in motors_of(data, name):
        motor["grows"], motor["warms"] = round(dice.uniform(0.03, 0.12), 3), 200.0
    return f"{name}: its screw grows by {data['motor'][name]['grows']}"


def worn(data: dict[str, Any], name: str, dice: random.Random) -> str:
    for motor in motors_of(data, name):
        motor["worn"] = round(dice.uniform(0.05, 0.2), 3)
    return f"{name}: {data['motor'][name]['worn']} more play in its middle"


def plugs(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    """Two motors hang on each other's outputs."""
    one, other = dice.sample([name for name in data["motor"] if name not in ("Y", "Y2")], 2)
    names = {one: other, other: one}
    data["motor"] = {names.get(name, name): data["motor"][names.get(name, name)] for name in data["motor"]}
    return f"the motors of {one} and {other} hang on each other's outputs"


def leaning(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    data["rig"]["column"] = [round(dice.uniform(-0.5, 0.5), 2), round(dice.uniform(-0.5, 0.5), 2)]
    return f"the column leans by {data['rig']['column']} mm per m"


def falls(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    """Its weight is more than its friction holds."""
    motor = data["motor"].get("Z")
    if motor is None or data["rig"]["kind"] == "lathe":
        return ""
    motor["gravity"] = round(motor["friction"] * dice.uniform(1.2, 2.0), 3)
    return "Z: it sinks without power"


def lines(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    """Another encoder on the spindle than the one that was told, or its tracks the other way round."""
    spindle = data.get("spindle", {})
    if not spindle.get("lines"):
        return ""
    spindle["lines"] = dice.choice((0.5, 2.0, -1.0, 1000 / 1024)) * spindle["lines"]
    return f"the encoder of the spindle makes {spindle['lines']:g} counts in a turn"


def lazy(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    """Levels below which it does not turn, and from which it goes no faster."""
    spindle = data.get("spindle", {})
    if spindle.get("on_bus") or not spindle:
        return ""
    spindle["dead"], spindle["full"] = round(dice.uniform(0.05, 0.2), 3), round(dice.uniform(0.8, 0.95), 3)
    return f"the spindle turns from {spindle['dead']} of its level on, and at {spindle['full']} it is at its top"


def slack(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    spindle = data.get("spindle", {})
    if spindle.get("on_bus") or not spindle:
        return ""
    spindle["slack"] = round(dice.uniform(0.01, 0.04), 3)
    return f"the level of the spindle has {spindle['slack']} of play"


def rough(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    bed = data.setdefault("bed", {})
    bed["wave"], bed["length"] = round(dice.uniform(0.1, 0.4), 2), dice.choice((120.0, 200.0, 400.0))
    return f"the bed has waves of {bed['wave']} mm"


def eccentric(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    turning = [motor for motor in data["motor"].values() if "off" in motor]
    for motor in turning[:1]:
        motor["off"] = round(dice.uniform(0.02, 0.2), 3)
        return f"what it holds stands {motor['off']} mm beside the middle"
    return ""


def turret(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    for name, motor in data["motor"].items():
        if motor.get("places"):
            motor["first"] = round(motor.get("first", 0.0) + dice.choice((-60.0, 11.0, 60.0, 90.0)), 1)
            return f"{name}: its first tool stands in front at {motor['first']}°"
    return ""


def set_over(data: dict[str, Any], _name: str, dice: random.Random) -> str:
    if data["rig"]["kind"] != "lathe":
        return ""
    data["rig"]["tail"] = round(dice.uniform(-0.2, 0.2), 3)
    return f"the tailstock stands {data['rig']['tail']} mm off"


RARER: tuple[Fault, ...] = (
    setup, pulse, wake, enable, edge, deaf, loose, chatter, beyond, other_end, one_of_two, fine, crossed, belt, pulleys,
    coasting, warm, worn, leaning, falls, plugs, lines, lazy, slack, rough, eccentric, turret, set_over,
)  # fmt: skip
