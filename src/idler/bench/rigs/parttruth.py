"""How plain parts of the bench differ from ones that keep to the standard."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum


class MakersCare(Enum):
    """How well the data sheet that a part keeps of itself was written."""

    NONE = "none"  # it keeps none
    CAREFUL = "careful"
    CARELESS = "careless"


class Speaks(Enum):
    """How a drive of the spindle is told its speed."""

    TURNS = "turns"  # velocity mode: turns of the motor per minute
    COUNTS = "counts"  # profile velocity mode: counts per second


class Says(Enum):
    """What becomes of process data that it was told to say by itself."""

    WELL = "well"
    REFUSES = "refuses"  # maps nothing
    NOTHING = "nothing"  # maps it, and says nothing
    SOMETHING_ELSE = "something else"  # than what it answers


@dataclass(frozen=True)
class InverterTruth:
    """The drive of a spindle. fastest: rpm of its motor. counts: in a turn of it. deaf: takes heartbeats, and does not stop
    without them."""

    node: int
    fastest: int = 18_000
    listens: bool = True
    deaf: bool = False
    speaks: Speaks = Speaks.TURNS
    counts: int = 4096


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
    maps: bool = True  # whether it hears and says process data
    says: Says = Says.WELL
    supply: int = 48_000  # mV of its power stage
    name: str = "Servo 200"
    product: int = 0x200
    serial: int = 1
    sheet: MakersCare = MakersCare.NONE
    guarded: bool = False  # whether it can be asked for its state instead of hearing heartbeats
    meets_stops: bool = (
        False  # whether it homes at a hard stop, by methods of its maker's: -17 towards +, -18 towards -
    )
