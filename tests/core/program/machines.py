"""Machines that programs are read against: their figures are round, so that verdicts and times can be worked by hand."""

from __future__ import annotations

from fractions import Fraction

from idler.core.machine import Address, Machine
from idler.core.values.parameter import Value


def mill(shape: str = "constant", jerk: int = 5000, **more: Value) -> Machine:
    """X 0 to 300, Y 0 to 200, Z −80 to 20 mm, A endless: 100 mm/s and 500 mm/s², A 60 °/s and 240 °/s². Home is at 0. A spindle
    of 100 to 6000 rpm, 2 s to speed and 3 s to rest. more: values of all linear axes, with _ for the dot."""
    values: dict[Address, Value] = {}
    for slot, (low, high) in enumerate(((0, 300), (0, 200), (-80, 20))):
        own = {"travel.low": Fraction(low), "travel.high": Fraction(high), "pace.top_speed": Fraction(6000),
               "pace.acceleration": Fraction(500), "pace.deceleration": Fraction(500), "pace.shape": shape,
               "pace.jerk": Fraction(jerk), "travel.limits_on": True,
               "homing.leave": Fraction(0),
               **{key.replace("_", ".", 1): value for key, value in more.items()}}  # fmt: skip
        values |= {Address(slot, key): value for key, value in own.items()}
    values |= {
        Address(3, "axis.kind"): "endless", Address(3, "homing.leave"): Fraction(0),
        Address(3, "pace.top_speed"): Fraction(3600),
        Address(3, "pace.acceleration"): Fraction(240), Address(3, "pace.deceleration"): Fraction(240),
        Address(3, "pace.shape"): shape, Address(3, "pace.jerk"): Fraction(jerk),
        Address(None, "spindle.kind"): "voltage", Address(0, "range.low"): Fraction(100),
        Address(0, "range.high"): Fraction(6000), Address(0, "range.run_up"): Fraction(2000),
        Address(0, "range.run_down"): Fraction(3000),
    }  # fmt: skip
    return Machine(("X", "Y", "Z", "A"), values, 8, 8)


def lathe() -> Machine:
    """X, shown as a diameter, 0 to 100 mm of its slide, Z −200 to 20 mm; without a spindle that is told anything."""
    values: dict[Address, Value] = {
        Address(None, "build.kind"): "lathe", Address(None, "build.cross"): "diameter",
        Address(None, "spindle.kind"): "none",
    }  # fmt: skip
    for slot, (low, high) in enumerate(((0, 100), (-200, 20))):
        values |= {Address(slot, "travel.low"): Fraction(low), Address(slot, "travel.high"): Fraction(high),
                   Address(slot, "travel.limits_on"): True}  # fmt: skip
    return Machine(("X", "Z"), values, 8, 8)
