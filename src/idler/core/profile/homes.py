"""Where each value lives in a controller that is made of plain parts (CiA 402, CiA 401): in a part, with Idler, or nowhere.

In a controller of our own profile every value lives in the controller, and nothing here is asked.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from enum import Enum

from ..machine import Address, Machine, Shape
from ..table import axis_index
from .codec import DERIVED, Place, located
from .partunits import Measure


class Home(Enum):
    """key and words."""

    PART = ("part", "kept in the part")
    OURS = ("ours", "kept and done by Idler")
    ABSENT = ("absent", "not to be had with this controller")

    def __init__(self, key: str, words: str) -> None:
        self.key = key
        self.words = words


@dataclass(frozen=True)
class Where:
    """object: index (of the first axis) and sub in the part. words: why it is not to be had, or how Idler does it."""

    home: Home
    object: tuple[int, int] | None = None
    measure: Measure = Measure.PLAIN
    words: str = ""

    @property
    def sentence(self) -> str:
        if self.object is not None and not self.words:
            return f"Kept in the part, in its object {self.object[0]:04X}h."
        return self.words or "Kept and done by Idler."


OURS = Where(Home.OURS)


def _part(index: int, sub: int, measure: Measure = Measure.PLAIN) -> Where:
    return Where(Home.PART, (index, sub), measure)


def _absent(words: str) -> Where:
    return Where(Home.ABSENT, words=words)


_NO_STEPS = _absent("There are no step pulses here: a plain drive makes its own motion.")
_ONE_MOTOR = _absent("Here an axis is one drive; a second motor on its own drive is not to be had.")
_OWN_WAY = _absent("A plain drive homes in its own way: the standard has no object for this.")
_NO_CUSHION = _absent("A plain drive knows no cushion before an end: soft limits hold, with its usual ramp.")
_WATCHED = Where(
    Home.OURS, words="Done by Idler, in its window: it looks at the lines every 20 ms, and counts no pulses."
)
_SPINDLE = Where(Home.OURS, words="Done by Idler, while it is connected: it tells the terminals.")
_NO_OIL = _absent("Way oil needs a controller that counts while Idler is away.")
# Values of an input that lie in its terminals, and what a part that has not the object has instead.
FILTERED = (0x6003, 0)
_IN_TERMINALS = {
    "input.filter": Where(
        Home.PART,
        FILTERED,
        words="Kept in the part (6003h), as on or off: any time above 0 is on; how long is its own.",
    ),
}
_NO_FILTER = _absent("These terminals have no filter of their own (6003h).")
_NO_PULSES = _absent("Plain terminals give a level as a voltage, and no pulses of a width.")
_NO_WAITING = _absent("Plain drives do not wait for a spindle: Idler tells them to move when they are told to.")

# Every key that does not live with Idler. What lies in a part is there only where that part has the object.
_HOMES: dict[str, Where] = {
    "pace.top_speed": _part(0x607F, 0, Measure.SPEED),
    "pace.acceleration": _part(0x6083, 0, Measure.ACCELERATION),
    "pace.deceleration": _part(0x6084, 0, Measure.ACCELERATION),
    "pace.stop_deceleration": _part(0x6085, 0, Measure.ACCELERATION),
    "pace.motor_speed": _part(0x6080, 0),
    "pace.shape": _part(0x6086, 0),
    "pace.jerk": _part(0x60A4, 1, Measure.ACCELERATION),
    "homing.approach": _part(0x6099, 1, Measure.SPEED),
    "homing.touch": _part(0x6099, 2, Measure.SPEED),
    "homing.acceleration": _part(0x609A, 0, Measure.ACCELERATION),
    "loop.window": _part(0x6065, 0, Measure.LENGTH),
    "loop.window_time": _part(0x6066, 0),
    **dict.fromkeys(
        (f"signals.{name}" for name in ("step_rate", "pulse_width", "direction_setup", "enable_inverted", "step_inverted")),
        _NO_STEPS,
    ),
    "signals.power_delay": _absent("A plain drive says by itself when it has power."),
    "axis.second_output": _ONE_MOTOR,
    "axis.second_reversed": _ONE_MOTOR,
    "play.backlash": _absent("The standard has no object for play: what is measured is worked out of the mechanics."),
    "travel.cushion": _NO_CUSHION,
    "travel.cushion_speed": _NO_CUSHION,
    "travel.beyond": _absent("What would go beyond the end goes to the end here."),
    "travel.switches_on": _absent("Whether limit switches stop a plain drive is set in the drive, in its maker's way."),
    "homing.squaring": _ONE_MOTOR,
    "homing.apart": _ONE_MOTOR,
    **dict.fromkeys(
        (f"homing.{name}" for name in
         ("back_off", "leave", "index_within", "mark_distance", "mark_spread", "effort")),
        _OWN_WAY,
    ),
    **dict.fromkeys(("index.pick", "index.settle"), _WATCHED),
    **dict.fromkeys((f"oil.{name}" for name in ("seconds", "every", "of", "dose")), _NO_OIL),
    "spindle.frequency": _NO_PULSES, "spindle.waits": _NO_WAITING,
    **dict.fromkeys((f"spindle.{name}" for name in ("rest", "start_speed", "needs_drives")), _SPINDLE),
    **_IN_TERMINALS,
}  # fmt: skip
SOFT_LIMITS = (0x607D, 1), (0x607D, 2)  # low and high: products of travel.low, travel.high, travel.limits_on


def where(key: str) -> Where:
    return _HOMES.get(key, OURS)


def absent(machine: Machine, address: Address) -> bool:
    """Whether a value is not to be had with the kind of controller that this machine has, whatever its parts are."""
    return machine.made_of_parts and where(address.key).home is Home.ABSENT


def keys_in_parts() -> dict[str, Where]:
    """Every key of an axis whose value lies in a part, by itself."""
    return {key: each for key, each in _HOMES.items() if each.home is Home.PART and key not in _IN_TERMINALS}


def homes(shape: Shape, objects: Collection[tuple[int, tuple[int, int]]]) -> dict[Place, Where]:
    """Where every value of machines of this shape lives. objects: slot (of the axis, or of the input) and object of what the
    parts have.

    A value whose object a drive has not is not to be had there.
    """
    found: dict[Place, Where] = {}
    for address, place, _ in located(shape):
        found[place] = _of(address, objects)
    for slot in range(len(shape.names)):
        for item in DERIVED:
            found[Place(axis_index(item.index, slot), item.sub)] = OURS
    return found


def _of(address: Address, objects: Collection[tuple[int, tuple[int, int]]]) -> Where:
    lives = where(address.key)
    if lives.object is not None and (address.slot or 0, lives.object) not in objects:
        return (
            _NO_FILTER if address.key in _IN_TERMINALS else _absent(f"This drive has no object {lives.object[0]:04X}h.")
        )
    return lives
