"""Rigs: what a machine truly is, and what its controller was told. Read from TOML beside this module."""

from __future__ import annotations

import math
import tomllib
from dataclasses import dataclass
from importlib import resources
from pathlib import Path

import numpy as np

from idler.core import machinefile
from idler.core.errors import IdlerError
from idler.core.machine import Machine

from .state import PLANT


@dataclass(frozen=True)
class AxisTruth:
    """One axis as it is built. Lengths in mm (or °) from the low hard stop; torque N·m, inertia kg·m², friction N·m.

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
    home_at: float
    home_side: float
    home_hysteresis: float
    rotary: bool
    moves: str


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
    axes: tuple[AxisTruth, ...]
    told: Machine

    def plant(self) -> np.ndarray:
        made = np.zeros(len(self.axes), PLANT)
        for p, axis in zip(made, self.axes, strict=True):
            p["counts_per_turn"] = axis.full_steps * axis.microsteps
            p["rotor_teeth"] = axis.full_steps / 4
            p["direction"] = axis.direction
            for name in ("lead", "backlash", "inertia", "friction", "viscous", "gravity", "torque", "start"):
                p[name] = getattr(axis, name)
            p["knee"] = axis.knee * 2 * math.pi / 60
            p["low_stop"] = 0.0 if axis.travel else -math.inf
            p["high_stop"] = axis.travel if axis.travel else math.inf
            p["home_at"], p["home_side"] = axis.home_at, axis.home_side
            p["home_hysteresis"] = axis.home_hysteresis
            p["carriage"] = axis.start
        return made


def names() -> list[str]:
    """The rigs that ship with Idler."""
    return sorted(file.name.removesuffix(".toml") for file in _folder().iterdir() if file.name.endswith(".toml"))


def load(name: str) -> Rig:
    """A rig by its name, or by the path of a rig file. Raises IdlerError."""
    if name.endswith(".toml"):
        path = Path(name)
        try:
            text = path.read_text("utf-8")
        except OSError as why:
            raise IdlerError(f"Rig {name}: cannot be read ({why.strerror}).") from None
    elif name in names():
        text = (_folder() / f"{name}.toml").read_text("utf-8")
    else:
        raise IdlerError(f"Rig {name}: is not known. Known rigs: {', '.join(names())}; or give the path of a rig file.")
    data = tomllib.loads(text)
    told = machinefile.read((resources.files("idler") / "data" / data["told"]).read_text("utf-8")).machine
    axes = tuple(_axis(letter, values, told) for letter, values in data["axis"].items())
    if tuple(axis.name for axis in axes) != told.names:
        raise IdlerError(f"Rig {name}: has other axes than the machine file that its controller was told.")
    head = data["rig"]
    return Rig(
        data["name"], head["title"], head["kind"], head["serial"], head["device"], head["hardware"], head["software"],
        head["node"], axes, told,
    )  # fmt: skip


def _folder():
    return resources.files("idler.bench") / "rigs"


def _axis(letter: str, values: dict, told: Machine) -> AxisTruth:
    slot = told.names.index(letter)
    travel = values.get("travel", 0.0)
    return AxisTruth(
        name=letter,
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
        home_at=values["home_at"],
        home_side=1.0 if values.get("home_side", "high") == "high" else -1.0,
        home_hysteresis=values.get("home_hysteresis", 0.3),
        rotary=told.axis(slot).rotary,
        moves=values["moves"],
    )
