"""Machines of plain parts that nobody has drawn: small ones, whose drives, ways, switches and wires are dice's, and which their
builder believes to be otherwise."""

from __future__ import annotations

import random
import tomllib
from importlib import resources
from pathlib import Path
from typing import Any

import tomli_w

from tests.spoilt import Spoilt, swapped

LEADS = (4.0, 5.0, 8.0, 10.0)  # mm in a turn
SAYS = {"well": "", "refuses": "refuses", "nothing": "says nothing", "something else": "says something else"}
ROOM = 6.0  # mm between a switch and its hard stop
HOME = 2.0  # mm of the coordinate of a switch beyond its end of the travel
SPARE = 8.0  # mm of the travel that its builder leaves at the other end


def strange_parts(seed: int, folder: Path) -> Spoilt:
    """A rig file in the folder, with the machine file beside it that its builder believes in."""
    dice = random.Random(seed)
    data = tomllib.loads((resources.files("idler.bench") / "rigs" / "pieces.toml").read_text("utf-8"))
    told = tomllib.loads((resources.files("idler") / "data" / "pieces.toml").read_text("utf-8"))
    made = Spoilt(folder / "rig.toml", "pieces", data)
    for name in data["motor"]:
        for what in _axis(name, data, told["axis"][name], dice):
            made.faults.append(("built", name, f"{name}: {what}"))
    if dice.random() < 0.4:
        one, other = dice.sample(list(data["drive_input"]), 2)
        hangs = data["drive_input"]
        hangs[one], hangs[other] = hangs[other], hangs[one]
        made.faults.append(("crossed", one, f"the home switches of {one} and {other} hang at each other's drives"))
    if dice.random() < 0.4:
        hands = [wire for wire in data["wire"] if "axis" not in wire]
        made.faults.append(("swapped", "", swapped({"wire": hands}, "", dice)))
    data["spindle"]["top"] = dice.choice((12_000.0, 18_000.0, 21_000.0))
    told["spindle"]["counts"] = dice.choice((4000, 4096))
    told["names"]["screen_unit"] = dice.choice(("mm", "in"))
    (folder / "pieces.toml").write_text(tomli_w.dumps(told), "utf-8")
    made.rig.write_text(tomli_w.dumps(data), "utf-8")
    return made


def _axis(name: str, data: dict[str, Any], told: dict[str, Any], dice: random.Random) -> list[str]:
    """Builds one; what is not as its builder believes, or unusual."""
    motor, part, found = data["motor"][name], data["part"][name], list[str]()
    lead, long = dice.choice(LEADS), 70.0 if name == "Z" else dice.choice((90.0, 120.0, 150.0))
    high = name == "Z" or dice.random() < 0.6
    motor |= {
        "lead": lead, "travel": long, "start": long * dice.uniform(0.35, 0.65), "backlash": dice.choice((0.0, 0.01, 0.02)),
        "wires_swapped": dice.random() < 0.4,
    }  # fmt: skip
    wire = next(each for each in data["wire"] if each.get("axis") == name)
    wire |= {
        "at": long - ROOM if high else ROOM, "side": "high" if high else "low", "contact": dice.choice(("closed", "open")),
    }  # fmt: skip
    part |= {
        "counts": dice.choice((4000, 4000, 5000)), "listens": dice.random() < 0.7, "maps": dice.random() < 0.8,
        "says": dice.choice(("well", "well", *SAYS)), "stores_powered": dice.random() < 0.5, "guarded": dice.random() < 0.3,
    }  # fmt: skip
    pitch = lead if dice.random() < 0.6 else dice.choice(LEADS)
    reach = long - ROOM - HOME - SPARE
    told["chain"]["pitch"] = f"{pitch:g} mm"
    told["travel"] = {"low": f"{-reach if high else 0:g} mm", "high": f"{0 if high else reach:g} mm"}
    told["homing"] |= {"towards": "high" if high else "low", "coordinate": f"{HOME if high else -HOME:g} mm"}
    told["homing"] |= {"approach": "600 mm/min"}
    found += [f"its screw has a lead of {lead:g} mm, not {pitch:g} mm"] if pitch != lead else []
    found += ["it goes the other way"] if motor["wires_swapped"] else []
    found += ["it says 5000 counts of a turn, and counts 4000"] if part["counts"] == 5000 else []
    found += [] if part["listens"] else ["it hears no heartbeat" + (", and is guarded" if part["guarded"] else "")]
    found += [f"told to say its places, it {SAYS[part['says']]}"] if part["maps"] and part["says"] != "well" else []
    return found
