"""The physical side, in JSON lines: what a person beside the machine sees and touches. The wire never carries this.

{"do": "look"}                                     everything as it truly is
{"do": "zero" | "read", "axis": "X", "instrument": "rule"}
{"do": "zero" | "read", "over": "bed", "instrument": "dial"}   a dial that the spindle holds
{"do": "lay", "turned": true}                      a square on the bed, turned over or not
{"do": "zero" | "read", "over": "stock" | "blade", "instrument": "dial"}   a dial at the tool, against a leg of the square
{"do": "zero" | "read", "over": "bar", "axis": "A", "instrument": "dial"}   a dial at rest, against what a turning axis
                                                   holds; "feeler": 0.1 slipped in between
{"do": "diameter", "at": 180, "centres": 300}      of a bar turned between centres, so far from the headstock, in mm
{"do": "mark", "name": "1"}                        a mark on the bed under the tool
{"do": "between", "marks": ["1", "3"], "instrument": "tape"}
{"do": "paper"}                                    a clean sheet, and a pen in the tool holder that just touches it
{"do": "drawn"}                                    what is on it, as lines of places over the bed in mm
{"do": "across", "along": "X", "instrument": "caliper"}   how wide what is drawn is, measured on the sheet
{"do": "work", "left": -10, "front": -10, "wide": 60, "deep": 40, "top": -5, "tool": 6, "bore": 0}   something that
                                                   conducts on the bed, from where the tool stands; "deepest" in its answer
{"do": "probe", "over": 8}                         a touch probe in the spindle, its ball so many mm over the bed where it
                                                   stands; "deepest" in its answer: how far it was ever pressed
{"do": "press" | "release", "switch": "X home"}   any switch of the rig, the emergency stop and the guard among them
{"do": "break" | "loosen" | "sound", "switch": "X home"}   a broken wire, a loose one, a good one again
{"do": "jam" | "free", "axis": "Z"}                something holds the axis, and lets go
{"do": "push", "axis": "X"}                        a hand pushes at the axis: "loose" says whether its motor lets it,
                                                   "sinks" whether it goes on by its own weight
{"do": "belt", "place": 2}                         the spindle's belt on another place, from 1
{"do": "spin", "turns": 1.0}                       the spindle turned by hand, + is right
{"do": "tachometer"}                               a hand tachometer held to it, in rpm without sign
{"do": "trip" | "restore"}                         the spindle's drive trips, and is ready again
{"do": "cut" | "mend"}                             pull the plug of the bus, put it back
{"do": "dip"}                                      a dip of the controller's power: it restarts
{"do": "fault", "kind": "refuse", "after": 3}      something goes wrong after so many times (mischief.py); "" nothing
{"do": "deliver"}                                  everything as it came: rig, memory, instruments
{"do": "run", "seconds": 2.0}                      as fast as can be
{"do": "events"}                                   first steps and first slowing, with the wall clock
{"do": "pace", "factor": 20}
"""

from __future__ import annotations

import json
import math
import time
from collections.abc import Callable
from typing import Any, Protocol

from idler.core.errors import IdlerError
from idler.core.geometry.tailstock import MICROMETER
from idler.core.machine import filedata
from idler.core.machine.filedata import Unreadable
from idler.core.mechanics.scale import fitting

from ..plant.instruments import KNOWN, LEGS, Toolbox
from ..state import SLOWED, STARTED, TICK
from ..wire.hub import Hub
from ..wire.mischief import Mischief
from ..world import World

_KINDS = {STARTED: "started", SLOWED: "slowed"}
LONGEST_RUN = 3600.0
MOST_TURNS = 1000
LOOSE_RATE = 30.0  # false openings a second


PLANES = ("XY", "XZ", "YZ")


class Controller(Protocol):
    """What hands may do to a controller of the bench, of whatever kind."""

    mischief: Mischief

    @property
    def names(self) -> tuple[str, ...]: ...

    def restart(self, now: float) -> None: ...

    def deliver(self) -> None: ...


class Hands:
    def __init__(self, world: World, node: Controller, hub: Hub, toolbox: Toolbox, pace: float) -> None:
        self._world, self._node, self._hub, self._toolbox = world, node, hub, toolbox
        self.pace = pace
        self._events: list[dict[str, Any]] = []
        self.stumbles = 0  # inputs that the bench was not made for
        self._plane = "XY"  # in which the square was laid

    def note(self, events: Any, now: float) -> None:
        """Keeps what the stepping code saw, with the time of the wall clock (time.monotonic)."""
        for event in events:
            name = self._node.names[event["axis"]]
            self._events.append({"at": now, "axis": name, "kind": _KINDS[int(event["kind"])]})
        del self._events[:-1000]

    def answer(self, line: bytes) -> bytes:
        """One request, one answer; a mistake is answered with a sentence."""
        try:
            asked = filedata.json(line.decode())
            if not isinstance(asked, dict):
                raise IdlerError("Hands: a request is one JSON object.")
            action = self._actions().get(str(asked.get("do")))
            if action is None:
                raise IdlerError(f"Hands: cannot do “{asked.get('do')}”. Can do: {', '.join(self._actions())}.")
            reply = {"ok": True, **(action(asked) or {})}
        except Unreadable as why:
            reply = {"ok": False, "error": f"Hands: {why.sentence}"}
        except UnicodeDecodeError as why:
            reply = {"ok": False, "error": f"Hands: this is not JSON: {why}"}
        except IdlerError as why:
            reply = {"ok": False, "error": why.sentence}
        except (LookupError, TypeError, ValueError, ArithmeticError) as why:
            reply = {"ok": False, "error": f"Hands: the request lacks or mistakes {why}."}
        return json.dumps(reply).encode() + b"\n"

    def _actions(self) -> dict[str, Callable[[dict[str, Any]], dict[str, Any] | None]]:
        return {
            "look": self._look, "zero": self._zero, "read": self._read, "mark": self._mark, "between": self._between,
            "lay": self._lay, "diameter": self._diameter, "paper": self._paper, "drawn": self._drawn, "across": self._across,
            "work": self._work, "probe": self._probe,
            "press": self._press, "release": self._press,
            "break": self._spoil, "loosen": self._spoil, "sound": self._spoil, "jam": self._jam, "free": self._jam,
            "push": self._push, "belt": self._belt, "spin": self._spin, "tachometer": self._tachometer,
            "trip": self._trip, "restore": self._trip,
            "cut": self._cut, "mend": self._cut, "dip": lambda _: self._node.restart(time.monotonic()),
            "deliver": self._deliver, "fault": self._fault,
            "run": self._run, "events": self._take_events, "pace": self._set_pace,
        }  # fmt: skip

    def _slot(self, name: object) -> int:
        for slot, axis in enumerate(self._world.rig.motors):
            if axis.name == name:
                return slot
        raise IdlerError(f"Hands: this rig has no axis “{name}”.")

    def _look(self, _: dict[str, Any]) -> dict[str, Any]:
        axes = []
        for slot, axis in enumerate(self._world.rig.motors):
            p = self._world.plant[slot]
            driver = self._world.driver_of(slot)
            ax = self._world.firmware[driver] if driver is not None else None
            axes.append(
                {
                    "name": axis.name, "at": float(p["carriage"]), "travel": axis.travel, "rotary": axis.rotary,
                    "moves": axis.moves, "motor_turns": float(p["angle"]) / 6.283185307179586,
                    "steps": int(ax["steps"]) if ax is not None else 0,
                    "powered": bool(ax is not None and ax["powered"]), "shaking": float(p["left"]),
                    "moving": bool(abs(p["speed"]) > 1e-3), "current": bool(p["on"]),
                    "struck": float(p["struck"]), "places": axis.places,
                    "in_front": self._world.rig.in_front(slot, float(p["carriage"])),
                    "instruments": [
                        {"name": i.key, "resolution": i.resolution} for i in fitting(axis.rotary)
                    ],
                }
            )  # fmt: skip
        rig = self._world.rig
        return {
            "rig": rig.title, "kind": rig.kind, "axes": axes, "switches": self._switches(),
            "spindle": float(self._world.spindle["speed"]), "belt": int(self._world.spindle["belt"]) + 1,
            "belts": len(rig.spindle.ratios), "spindles": rig.spindle.top > 0, "tripped": not self._world.spindle["ready"],
            "clock": self._world.tick * TICK, "cut": self._hub.cut,
            "outputs": [bool(each) for each in self._world.outputs["energised"]],
            "stumbles": self.stumbles, "marks": self._toolbox.marked, "laid": self._toolbox.laid,
        }  # fmt: skip

    def _switches(self) -> list[dict[str, Any]]:
        found, places = [], self._world.rig.places()
        for wire in self._world.rig.wires:
            w = self._world.wires[places[wire.name]]
            found.append(
                {"name": wire.name, "input": wire.input + 1, "made": bool(w["made"]), "held": bool(w["held"]),
                 "closed": bool(self._world.wires[wire.input]["level"]), "source": wire.source}
            )  # fmt: skip
        return found

    def _held(self, asked: dict[str, Any]) -> tuple[str, str, bool, float]:
        if asked.get("over") == "bed":
            self._has_bed("XYZ")
            return str(asked["instrument"]), "the bed", False, self._world.bed_against_tool()
        if (leg := asked.get("over")) in LEGS:
            self._has_bed(self._plane)
            stands = self._toolbox.leg(str(leg), self._world.tool_in(self._plane))
            return str(asked["instrument"]), f"the {leg}", False, stands
        slot = self._slot(asked["axis"])
        axis = self._world.rig.motors[slot]
        if asked.get("over") == "bar":
            if not axis.rotary:
                raise IdlerError(f"Hands: {axis.name} turns nothing.")
            turned = math.radians(float(self._world.plant[slot]["carriage"]) - axis.off_at)
            stands = axis.off * math.cos(turned) + float(asked.get("feeler", 0.0))
            return str(asked["instrument"]), f"the bar in {axis.name}", False, stands
        p, item = self._world.plant[slot], KNOWN.get(str(asked["instrument"]))
        way = math.copysign(1.0, p["way"] * p["direction"] * p["lead"]) if p["way"] else 0.0
        behind = way * item.lag / 2 if item is not None else 0.0  # of a pointer, when its motion turned round
        if asked.get("over") == "arm":
            if not axis.rotary:
                raise IdlerError(f"Hands: {axis.name} turns no arm.")
            stands = math.radians(float(p["carriage"])) * float(asked["radius"])
            return str(asked["instrument"]), f"the arm on {axis.name}", False, stands - behind
        return str(asked["instrument"]), axis.name, axis.rotary, float(p["carriage"]) - behind

    def _zero(self, asked: dict[str, Any]) -> None:
        self._toolbox.zero(*self._held(asked))

    def _read(self, asked: dict[str, Any]) -> dict[str, Any]:
        held = self._held(asked)
        value, resolution = self._toolbox.read(*held)
        return {"value": round(value, 6), "resolution": resolution, "unit": "deg" if held[2] else "mm"}

    def _mark(self, asked: dict[str, Any]) -> None:
        self._has_bed("XY")
        self._toolbox.mark(str(asked["name"]), self._world.tool_over_bed())

    def _paper(self, _: dict[str, Any]) -> None:
        self._has_bed("XYZ")
        self._world.lay_paper()

    def _work(self, asked: dict[str, Any]) -> dict[str, Any]:
        """Laid, where its sides are told; how deep the tool was ever pressed into it."""
        self._has_bed("XYZ")
        if "wide" in asked:
            told = [float(asked.get(key, usual)) for key, usual in (("left", 0), ("front", 0), ("wide", 60), ("deep", 40),
                                                                    ("top", -5), ("tool", 6), ("bore", 0))]  # fmt: skip
            self._world.lay_work(*told)
        return {"deepest": max(0.0, float(self._world.work["deepest"]))}

    def _probe(self, asked: dict[str, Any]) -> dict[str, Any]:
        self._has_bed("XYZ")
        if "over" in asked:
            self._world.hold_probe(float(asked["over"]))
        return {"deepest": max(0.0, float(self._world.work["deepest"]))}

    def _drawn(self, _: dict[str, Any]) -> dict[str, Any]:
        return {"lines": [[(round(x, 4), round(y, 4)) for x, y in line] for line in self._world.paper.lines]}

    def _across(self, asked: dict[str, Any]) -> dict[str, Any]:
        column, name = {"X": 0, "Y": 1}[str(asked["along"])], str(asked["instrument"])
        places = [place[column] for line in self._world.paper.lines for place in line]
        if not places:
            raise IdlerError("Hands: nothing is drawn that could be measured.")
        value = self._toolbox.across(name, max(places) - min(places))
        return {"value": round(value, 6), "resolution": KNOWN[name].resolution, "unit": "mm"}

    def _has_bed(self, names: str) -> None:
        """Raises IdlerError where the rig has none that these axes reach."""
        if self._world.rig.kind == "lathe" or not set(names) <= {motor.name for motor in self._world.rig.motors}:
            raise IdlerError(f"Hands: this rig has no bed under {', '.join(names)}.")

    def _diameter(self, asked: dict[str, Any]) -> dict[str, Any]:
        if self._world.rig.kind != "lathe":
            raise IdlerError("Hands: this rig turns no bar between centres.")
        at, centres = float(asked["at"]), float(asked["centres"])
        if not 0 <= at <= centres:
            raise IdlerError(f"Hands: {at:g} mm is not between centres that are {centres:g} mm apart.")
        return {"value": round(self._toolbox.diameter(2 * self._world.rig.tail * at / centres), 6), "unit": "mm",
                "resolution": MICROMETER.resolution}  # fmt: skip

    def _lay(self, asked: dict[str, Any]) -> None:
        plane = str(asked.get("plane", "XY"))
        if plane not in PLANES:
            raise IdlerError(f"Hands: no square is laid along {plane}. It is along {', '.join(PLANES)}.")
        self._has_bed(plane)
        self._plane = plane
        self._toolbox.lay(bool(asked["turned"]), self._world.tool_in(plane))

    def _between(self, asked: dict[str, Any]) -> dict[str, Any]:
        first, second = (str(name) for name in asked["marks"])
        value = self._toolbox.between(str(asked["instrument"]), first, second)
        return {"value": round(value, 6), "resolution": KNOWN[str(asked["instrument"])].resolution, "unit": "mm"}

    def _press(self, asked: dict[str, Any]) -> None:
        self._wire(asked)["held"] = asked["do"] == "press"

    def _wire(self, asked: dict[str, Any]) -> Any:
        rig = self._world.rig
        return self._world.wires[rig.places()[rig.wire(str(asked["switch"])).name]]

    def _spoil(self, asked: dict[str, Any]) -> None:
        wire = self._wire(asked)
        wire["broken"] = asked["do"] == "break"
        wire["loose_rate"] = LOOSE_RATE if asked["do"] == "loosen" else 0.0

    def _jam(self, asked: dict[str, Any]) -> None:
        motor = self._world.plant[self._slot(asked["axis"])]
        motor["jammed"], motor["asleep"] = asked["do"] == "jam", False

    def _push(self, asked: dict[str, Any]) -> dict[str, Any]:
        motor = self._world.plant[self._slot(asked["axis"])]
        return {"loose": not motor["on"], "sinks": bool(not motor["on"] and abs(motor["gravity"]) > motor["friction"])}

    def _belt(self, asked: dict[str, Any]) -> None:
        place, spindle = int(asked["place"]), self._world.spindle
        if not 1 <= place <= len(self._world.rig.spindle.ratios):
            raise IdlerError(f"Hands: the belt has {len(self._world.rig.spindle.ratios)} places, from 1.")
        if spindle["motor"]:
            raise IdlerError("Hands: the belt is moved only while the spindle stands.")
        spindle["belt"] = place - 1

    def _spin(self, asked: dict[str, Any]) -> None:
        spindle = self._world.spindle
        if spindle["motor"]:
            raise IdlerError("Hands: a spindle that runs is not turned by hand.")
        turns = float(asked["turns"])
        if not abs(turns) <= MOST_TURNS:
            raise IdlerError(f"Hands: a spindle is turned by at most {MOST_TURNS} turns at once, not {turns:g}.")
        spindle["hand"] += turns

    def _tachometer(self, _: dict[str, Any]) -> dict[str, Any]:
        return {"value": self._toolbox.tachometer(float(self._world.spindle["speed"])), "unit": "rpm"}

    def _trip(self, asked: dict[str, Any]) -> None:
        self._world.spindle["ready"] = asked["do"] == "restore"

    def _cut(self, asked: dict[str, Any]) -> None:
        self._hub.cut = asked["do"] == "cut"

    def _fault(self, asked: dict[str, Any]) -> None:
        self._node.mischief.plan(str(asked["kind"]), int(asked.get("after", 0)))

    def _deliver(self, _: dict[str, Any]) -> None:
        self._world.deliver()
        self._toolbox.deliver()
        self._hub.cut = False
        self._node.mischief.plan("", 0)
        self._node.deliver()
        self._events.clear()

    def _run(self, asked: dict[str, Any]) -> None:
        seconds = float(asked["seconds"])
        if not 0 < seconds <= LONGEST_RUN:
            raise IdlerError(f"Hands: can run more than 0 and up to {LONGEST_RUN:g} seconds, not {seconds:g}.")
        self.note(self._world.run(round(seconds / TICK)), time.monotonic())

    def _take_events(self, _: dict[str, Any]) -> dict[str, Any]:
        taken, self._events = self._events, []
        return {"events": taken}

    def _set_pace(self, asked: dict[str, Any]) -> None:
        factor = float(asked["factor"])
        if not 0 <= factor <= 1000:
            raise IdlerError(f"Hands: the pace is a factor from 0 (stands still) to 1000, not {factor:g}.")
        self.pace = factor
