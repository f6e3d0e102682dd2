"""Short ways to write a row, and the steps of raw values on the wire."""

from __future__ import annotations

from fractions import Fraction

from .parameter import Choice, Kind, Parameter, Wire, WireType
from .units import Dimension

# Steps of the raw values on the wire, in the table's unit. One position unit is 0.1 µm or 0.0001°.
POSITION_STEP = Fraction(1, 10_000)
SPEED_STEP = Fraction(1, 1_000)
ACCELERATION_STEP = Fraction(1, 1_000)
JERK_STEP = Fraction(1, 1_000)
LEAD_STEP = Fraction(1, 1_000_000)
SHARE_STEP = Fraction(1, 1_000)
MICRO = Fraction(1, 1_000)
CORRECTION_STEP = Fraction(1, 100_000_000)

U8, U16, U32, I16, I32 = WireType.U8, WireType.U16, WireType.U32, WireType.I16, WireType.I32
MOST_AXES = 8  # of a controller: as many axes, and as many drive outputs
LONGEST_PART = 40  # letters of what a part says of itself
REACH = Fraction(100_000)
FASTEST = Fraction(2_000_000)


def quantity(
    key: str,
    label: str,
    default: str,
    dimension: Dimension,
    bounds: tuple[str | Fraction, str | Fraction],
    wire: Wire,
    what: str,
    find: str,
    **more: object,
) -> Parameter:
    low, high = (Fraction(bound) for bound in bounds)
    return Parameter(
        key,
        label,
        Kind.QUANTITY,
        Fraction(default),
        wire,
        what,
        find,
        dimension,
        low,
        high,
        **more,  # type: ignore[arg-type]
    )


def whole(
    key: str, label: str, default: int, bounds: tuple[int, int], wire: Wire, what: str, find: str, **more: object
) -> Parameter:
    low, high = (Fraction(bound) for bound in bounds)
    return Parameter(key, label, Kind.WHOLE, default, wire, what, find, Dimension.PURE, low, high, **more)  # type: ignore[arg-type]


def choice(
    key: str, label: str, choices: tuple[Choice, ...], wire: Wire, what: str, find: str, **more: object
) -> Parameter:
    return Parameter(key, label, Kind.CHOICE, choices[0].key, wire, what, find, choices=choices, **more)  # type: ignore[arg-type]


def flag(key: str, label: str, default: bool, wire: Wire, what: str, find: str, **more: object) -> Parameter:
    return Parameter(key, label, Kind.FLAG, default, wire, what, find, **more)  # type: ignore[arg-type]


def text(
    key: str, label: str, default: str, longest: int, wire: Wire, what: str, find: str, **more: object
) -> Parameter:
    return Parameter(key, label, Kind.TEXT, default, wire, what, find, high=Fraction(longest), **more)  # type: ignore[arg-type]
