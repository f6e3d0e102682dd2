"""Rigs: what a machine truly is, and what its controller was told. Read from TOML beside this module."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from importlib import resources
from importlib.resources.abc import Traversable
from pathlib import Path
from typing import Any

import numpy as np

from idler.core.errors import IdlerError
from idler.core.machine import Address, Machine, filedata
from idler.core.machine import file as machinefile
from idler.core.values.roles import InputRole

from ..firmware.inputs import SOURCES
from ..state import PLANT, SPINDLE, TICK, WIRE
from .parttruth import DriveTruth, InverterTruth, MakersCare, Says, Speaks


@dataclass(frozen=True)
class MotorTruth:
    """One motor and what it moves, as built. Lengths in mm (or °) from the low hard stop; torques N·m, inertia kg·m².

    name       of what it moves, as a person beside the machine calls it; motors hang on drive outputs in their order
    lead       travel of the carriage for one turn of the motor
    direction  1, or -1 where wires are swapped
    knee       motor speed in rpm at which the torque has fallen to half
    """

    name: str
    lead: float
    direction: float
    full_steps: int
    microsteps: int
    travel: float
    start: float
    backlash: float
    inertia: float
    friction: float
    viscous: float
    gravity: float
    torque: float
    knee: float
    rotary: bool
    moves: str
    closed_loop: bool
    rings: float  # Hz of the frame that the carriage shakes
    damping: float
    beam: int  # the motor at the other side of the same beam, or -1
    stiffness: float  # of that beam, N·m at the motor per mm of skew
    grows: float = 0.0  # mm that the carriage stands further on when its screw has run warm
    warms: float = 600.0  # s in which it does so by two thirds
    worn: float = 0.0  # how much more play there is in the middle of the travel
    always_on: bool = False  # whether its driver does not hear its enable line
    off: float = 0.0  # mm by which what a turning axis holds stands beside its middle
    off_at: float = 0.0  # ° at which it stands nearest to a dial
    places: int = 0  # of a turret: how many tools, and the carriage's ° at which the first one stands in front
    first: float = 0.0
    across: float = (
        0.0  # mm of a beam from its first motor to this one, + towards + of the other axis; 0 where there is none
    )


@dataclass(frozen=True)
class WireTruth:
    """What really is at the other end of an input's wire. Times in ms, places in mm (or °) from the low hard stop.

    source     finger, carriage (a switch at a place of an axis), mark (passes every `period`), trouble (of a motor)
    noise      false pulses a second while the spindle runs at full speed
    loose      false openings a second of a wire that is loose from the beginning
    """

    input: int
    name: str
    source: str
    axis: int
    at: float
    side: float
    hysteresis: float
    period: float
    closed_at_rest: bool
    bounce: float
    noise: float
    noise_width: float
    noise_longest: float
    loose: float


@dataclass(frozen=True)
class DriverTruth:
    """What the drivers need of their signals: least pulse and direction setup in µs, time to wake in ms."""

    least_pulse: float = 1.0
    least_setup: float = 1.0
    wake: float = 0.0
    enable_inverted: bool = False
    step_inverted: bool = False


@dataclass(frozen=True)
class SpindleTruth:
    """What turns the tool, as built.

    outputs    by slot, -1 for none: run (or right), left, direction, level
    top        motor speed in rpm at full level
    run_up     s of its lag; gain and brake: the most that its motor speeds up and slows down, rpm/s in a light range
    inertia    of the spindle in those of the motor, at a ratio of 1
    dead/full  levels (0 to 1) below which nothing turns, and above which it goes no faster
    bend/wave  how far the curve between them is off a line, in shares of the top speed; slack: play of the level
    ratios     spindle turns per motor turn, place by place of the belt; belt: where it lies, from 1
    lines      encoder counts in a turn after quadrature; below 0: they count backwards
    """

    run_output: int = -1
    left_output: int = -1
    direction_output: int = -1
    level_output: int = -1
    top: float = 0.0
    run_up: float = 1.0
    gain: float = 1e9
    brake: float = 1e9
    inertia: float = 0.0
    dead: float = 0.0
    full: float = 1.0
    bend: float = 0.0
    wave: float = 0.0
    slack: float = 0.0
    ratios: tuple[float, ...] = (1.0,)
    belt: int = 1
    lines: float = 0.0
    on_bus: bool = False


@dataclass(frozen=True)
class BedTruth:
    """How the bed lies under the tool: it rises by mm per m along X and Y, and has waves of so many mm, `length` mm from crest
    to crest along both."""

    along_x: float = 0.0
    along_y: float = 0.0
    wave: float = 0.0
    length: float = 300.0

    def height(self, x: float, y: float) -> float:
        """mm at a place in mm."""
        crests = math.sin(2 * math.pi * x / self.length) * math.cos(2 * math.pi * y / self.length)
        return (self.along_x * x + self.along_y * y) / 1000 + self.wave * crests


@dataclass(frozen=True)
class Rig:
    """name: as on the command line. told: the machine file that its controller was delivered with."""

    name: str
    title: str
    kind: str
    serial: int
    device: str
    hardware: str
    software: str
    node: int
    lean: float  # mm per m by which + of Y leans towards + of X while its beam stands straight
    yaw: float  # mm per m, for each m of Y, by which its ways let X turn from + of X towards + of Y
    motors: tuple[MotorTruth, ...]
    wires: tuple[WireTruth, ...]
    driver: DriverTruth
    spindle: SpindleTruth
    told: Machine
    bed: BedTruth
    column: tuple[float, float]  # mm per m by which + of Z leans towards + of X and of Y
    tail: float  # mm by which a lathe's tail centre stands off, + away from the tool
    # of a controller that is made of plain parts: a drive for each motor, the nodes of the terminals and of an encoder on
    # the spindle (0: none), the drive that turns it, and by its number (from 0) each input that hangs on a drive:
    # role, axis, contact at rest
    parts: tuple[DriveTruth, ...] = ()
    terminals: int = 0
    encoder: int = 0
    inverter: InverterTruth | None = None
    drive_inputs: Mapping[int, tuple[int, int, int]] = field(default_factory=dict)

    def in_front(self, slot: int, carriage: float) -> int:
        """Which tool of a turret stands in front, from 1; 0 where none does or the axis has none."""
        motor = self.motors[slot]
        if not motor.places:
            return 0
        turned = (carriage - motor.first) / 360 * motor.places
        return round(turned) % motor.places + 1 if abs(turned - round(turned)) < 0.1 else 0

    def plant(self) -> np.ndarray:
        made = np.zeros(len(self.motors), PLANT)
        for p, axis in zip(made, self.motors, strict=True):
            p["counts_per_turn"] = axis.full_steps * axis.microsteps
            p["rotor_teeth"] = axis.full_steps / 4
            p["direction"] = axis.direction
            for name in ("lead", "backlash", "inertia", "friction", "viscous", "gravity", "torque", "start",
                         "rings", "damping", "beam", "stiffness", "worn", "grows", "warms", "always_on"):  # fmt: skip
                p[name] = getattr(axis, name)
            p["knee"] = axis.knee * 2 * math.pi / 60
            p["low_stop"] = 0.0 if axis.travel else -math.inf
            p["high_stop"] = axis.travel if axis.travel else math.inf
            p["carriage"] = axis.start
            p["gives_up"] = axis.closed_loop
            p["wake_ticks"] = round(self.driver.wake / TICK / 1000)
            for name in ("least_pulse", "least_setup", "enable_inverted", "step_inverted"):
                p[name] = getattr(self.driver, name)
        return made

    def wires_made(self, seed: int) -> np.ndarray:
        """One record for each input of the controller, then one for each further contact in series with another.

        What nothing is wired to is open."""
        places = self.places()
        made = np.zeros(self.told.inputs + sum(place >= self.told.inputs for place in places.values()), WIRE)
        made["joins"] = -1
        for slot, w in enumerate(made):
            w["dice"] = (0x9E3779B97F4A7C15 * (seed + 1) + 0xBF58476D1CE4E5B9 * (slot + 1)) % 2**64 | 1
        for wire in self.wires:
            w = made[places[wire.name]]
            if places[wire.name] != wire.input:
                w["joins"] = wire.input
            w["source"] = SOURCES[wire.source]
            for name in ("axis", "at", "side", "hysteresis", "period", "closed_at_rest"):
                w[name] = getattr(wire, name)
            w["noise_rate"], w["loose_rate"] = wire.noise, wire.loose
            for name, ms in (
                ("bounce", wire.bounce),
                ("noise_mean", wire.noise_width),
                ("noise_longest", wire.noise_longest),
            ):
                w[name] = ms * 1000
            w["level"] = wire.closed_at_rest
        return made

    def places(self) -> dict[str, int]:
        """Where the record of each wire lies, by its name."""
        found: dict[str, int] = {}
        more = self.told.inputs
        for wire in self.wires:
            if wire.input in found.values():
                found[wire.name], more = more, more + 1
            else:
                found[wire.name] = wire.input
        return found

    def spindle_made(self) -> np.ndarray:
        made = np.zeros(1, SPINDLE)
        truth = asdict(self.spindle)
        ratios = truth.pop("ratios")
        for name, value in truth.items():
            made[name] = value
        made["ratios"] = 1.0
        made["ratios"][0, : len(ratios)] = ratios
        made["belt"] = self.spindle.belt - 1
        made["ready"] = 1
        return made

    def wire(self, name: str) -> WireTruth:
        """A wire by its name ("X home"). Raises IdlerError."""
        for wire in self.wires:
            if wire.name == name:
                return wire
        known = ", ".join(wire.name for wire in self.wires)
        raise IdlerError(f"Rig {self.title}: has no switch “{name}”. It has: {known}.")


def names() -> list[str]:
    """The rigs that ship with Idler."""
    return sorted(file.name.removesuffix(".toml") for file in _folder().iterdir() if file.name.endswith(".toml"))


def load(name: str) -> Rig:
    """A rig by its name, or by the path of a rig file, which has the machine file beside it. Raises IdlerError."""
    machines = resources.files("idler") / "data"
    if name.endswith(".toml"):
        path = Path(name)
        machines = path.parent
        try:
            text = path.read_text("utf-8")
        except (OSError, UnicodeDecodeError) as why:
            raise IdlerError(f"Rig {name}: cannot be read ({why}).") from None
    elif name in names():
        text = (_folder() / f"{name}.toml").read_text("utf-8")
    else:
        raise IdlerError(f"Rig {name}: is not known. Known rigs: {', '.join(names())}; or give the path of a rig file.")
    try:
        return _rig(filedata.toml(text), machines)
    except KeyError as why:
        raise IdlerError(f"Rig {name}: has no {why}.") from None
    except (IdlerError, OSError, TypeError, ValueError, LookupError, AttributeError) as why:
        raise IdlerError(f"Rig {name}: {str(why)[:200]}") from None


def _rig(data: dict[str, Any], machines: Traversable) -> Rig:
    """Raises whatever a table that is not well-formed leads to."""
    told = machinefile.read((machines / data["told"]).read_text("utf-8")).machine
    motors = tuple(_motor(called, values, list(data["motor"])) for called, values in data["motor"].items())
    head = data["rig"]
    told = Machine.shaped(
        told.shape._replace(inputs=head.get("inputs", told.inputs), outputs=head.get("outputs", told.outputs)),
        told.changed,
    )
    parts = tuple(
        DriveTruth(
            **{**values, "sheet": MakersCare(values.get("sheet", "none")), "says": Says(values.get("says", "well"))}
        )
        for values in data.get("part", {}).values()
    )
    inverter = data.get("inverter")
    if inverter is not None:
        inverter = InverterTruth(**{**inverter, "speaks": Speaks(inverter.get("speaks", "turns"))})
    return Rig(
        data["name"], head["title"], head["kind"], head["serial"], head["device"], head["hardware"], head["software"],
        head["node"], head.get("lean", 0.0), head.get("yaw", 0.0), motors,
        tuple(_wire(values, list(data["motor"])) for values in data.get("wire", [])),
        DriverTruth(**data.get("driver", {})), _spindle(data.get("spindle", {}), told), told,
        BedTruth(**data.get("bed", {})), tuple(head.get("column", (0.0, 0.0))), head.get("tail", 0.0),
        parts, head.get("terminals", 0), head.get("encoder", 0), inverter, _drive_inputs(data, list(data["motor"])),
    )  # fmt: skip


def _drive_inputs(data: dict[str, Any], motors: list[str]) -> dict[int, tuple[int, int, int]]:
    """Home switches that hang on drives."""
    closed = {wire["input"]: int(wire["contact"] == "closed") for wire in data.get("wire", [])}
    return {
        number - 1: (InputRole.HOME.raw, motors.index(name), closed[number])
        for name, number in data.get("drive_input", {}).items()
    }


def _folder() -> Traversable:
    return resources.files("idler.bench") / "rigs"


def _motor(called: str, values: dict[str, Any], names: list[str]) -> MotorTruth:
    travel = values.get("travel", 0.0)
    return MotorTruth(
        name=called,
        lead=values["lead"],
        direction=-1.0 if values.get("wires_swapped") else 1.0,
        full_steps=values.get("full_steps", 200),
        microsteps=values.get("microsteps", 8),
        travel=travel,
        start=values.get("start", travel / 2),
        backlash=values["backlash"],
        inertia=values["inertia"],
        friction=values["friction"],
        viscous=values["viscous"],
        gravity=values.get("gravity", 0.0),
        torque=values["torque"],
        knee=values["knee"],
        rotary=values.get("rotary", False),
        moves=values["moves"],
        closed_loop=values.get("closed_loop", False),
        rings=values.get("rings", 0.0),
        damping=values.get("damping", 0.03),
        beam=names.index(values["beam"]) if "beam" in values else -1,
        stiffness=values.get("stiffness", 0.0),
        worn=values.get("worn", 0.0),
        always_on=values.get("always_on", False),
        grows=values.get("grows", 0.0),
        warms=values.get("warms", 600.0),
        across=values.get("across", 0.0),
        off=values.get("off", 0.0),
        off_at=values.get("off_at", 0.0),
        places=values.get("places", 0),
        first=values.get("first", 0.0),
    )


def _wire(values: dict[str, Any], motors: list[str]) -> WireTruth:
    return WireTruth(
        input=values["input"] - 1,
        name=values["name"],
        source=values.get("source", "carriage" if "axis" in values else "finger"),
        axis=motors.index(values["axis"]) if "axis" in values else 0,
        at=values.get("at", 0.0),
        side=1.0 if values.get("side", "high") == "high" else -1.0,
        hysteresis=values.get("hysteresis", 0.3),
        period=values.get("period", 1.0),
        closed_at_rest=values["contact"] == "closed",
        bounce=values.get("bounce", 0.0),
        noise=values.get("noise", 0.0),
        noise_width=values.get("noise_width", 0.1),
        noise_longest=values.get("noise_longest", 0.5),
        loose=values.get("loose", 0.0),
    )


def _spindle(values: dict[str, Any], told: Machine) -> SpindleTruth:
    names = [str(told[Address(slot, "output.terminal")]) for slot in range(told.outputs)]
    wired = {
        key: name - 1
        if isinstance(name, int)
        else names.index(name)  # by its number, where nothing is printed beside it
        for key, name in values.items()
        if key.endswith("_output")
    }
    return SpindleTruth(**{**values, **wired, "ratios": tuple(values.get("ratios", (1.0,)))})
