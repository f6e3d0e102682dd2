"""How plain parts of the bench differ from ones that keep to the standard."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class DriveTruth:
    """How a drive differs from one that keeps to the standard. counts: that it says of a turn of the motor.

    listens: to heartbeats (1016h). stores_powered: whether 1010h is taken with power on.
    """

    node: int
    counts: int = 4000
    listens: bool = True
    stores_powered: bool = False
    tells_units: bool = True
    name: str = "Servo 200"
    serial: int = 1
