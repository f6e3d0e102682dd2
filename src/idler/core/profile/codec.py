"""Values to raw wire values and back, and the objects of CiA 402 that are derived from several values."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from typing import NamedTuple

from ..errors import Refusal
from ..machine import Address, Axis, Machine, Shape
from ..mechanics.chain import Chain
from ..table import POSITION_STEP, axis_index, part_index, row_of
from ..values.parameter import Kind, Parameter, Value
from ..values.stage import parse_stages, stages_text

Raw = int | str

U32_MAX = (1 << 32) - 1
NOTHING = "none"  # an empty string cannot be transferred (CiA 301: no data available)


class Place(NamedTuple):
    """An object: index and sub-index. A tuple, for it is the key of every table of values."""

    index: int  # type: ignore[assignment]  # hides a method of tuples that nothing here uses
    sub: int

    def __str__(self) -> str:
        return f"{self.index:04X}h:{self.sub:02X}"


LETTERS = Place(0x2000, 5)  # text: the letters of the axes in their order; a change waits for a restart


def place(address: Address) -> Place:
    """Where the value at an address lies in the controller."""
    return _place(address.slot, address.key)


@lru_cache(maxsize=8192)
def _place(slot: int | None, key: str) -> Place:
    row = row_of(slot, key)
    return Place(part_index(row, slot), row.wire.sub)


def encode(row: Parameter, value: Value, part: str = "") -> Raw:
    """The raw wire value, rounded to the row's resolution. Raises Refusal where it does not fit the wire."""
    match row.kind:
        case Kind.CHOICE:
            return row.choice(str(value)).raw
        case Kind.FLAG:
            return row.wire.on if value else 0
        case Kind.STAGES:
            assert isinstance(value, tuple)
            return stages_text(value) or NOTHING
        case Kind.TEXT:
            return str(value)
    assert isinstance(value, Fraction | int)
    raw = round(Fraction(value) / row.wire.resolution)
    if not row.wire.type.lowest <= raw <= row.wire.type.highest:
        raise Refusal(part or row.label, row.write(value), "does not fit the controller")
    return raw


class Located(NamedTuple):
    """A value of machines of one shape, and where it lies in the controller."""

    address: Address
    place: Place
    given: bool  # the controller says it of itself


@lru_cache(maxsize=32)
def located(shape: Shape) -> tuple[Located, ...]:
    """Every value of machines of this shape, in the order of `Machine.addresses`."""
    return tuple(Located(address, place(address), address.row.given) for address in shape.addresses)


def raws_of(machine: Machine) -> Mapping[Address, Raw | None]:
    """Its values as they are on the wire, worked out once for each machine; None where one does not fit."""
    return machine.once(_raws)


def _raws(machine: Machine) -> Mapping[Address, Raw | None]:
    return _defaults(machine.shape) | {
        address: _fitting(address.row, value) for address, value in machine.changed.items()
    }


@lru_cache(maxsize=32)
def _defaults(shape: Shape) -> dict[Address, Raw | None]:
    return {address: encode(address.row, address.row.default) for address in shape.addresses}


def _fitting(row: Parameter, value: Value) -> Raw | None:
    try:
        return encode(row, value)
    except Refusal:
        return None


def decode(row: Parameter, raw: Raw) -> Value:
    """The value that a raw wire value means. Raises Refusal where the controller holds something unknown."""
    match row.kind:
        case Kind.CHOICE:
            for choice in row.choices:
                if choice.raw == raw:
                    return choice.key
            raise Refusal(row.label, str(raw), "in the controller is not one of the known choices")
        case Kind.FLAG:
            return bool(raw)
        case Kind.STAGES:
            return () if raw == NOTHING else parse_stages(str(raw), row.label, turns=True)
        case Kind.TEXT:
            return str(raw)
        case Kind.WHOLE:
            return int(raw)
    return int(raw) * row.wire.resolution


def ratio(value: Fraction, most: int = U32_MAX) -> tuple[int, int]:
    """The nearest ratio of two whole numbers from 1 to `most` (continued fractions, Fraction.limit_denominator)."""
    if value.numerator <= most and value.denominator <= most:
        return value.numerator, value.denominator
    limit = most if value <= 1 else max(1, int(most / value))
    near = value.limit_denominator(limit)
    return min(max(near.numerator, 1), most), near.denominator


def homing_method(axis: Axis) -> int:
    """Homing method of CiA 402-2 (table "homing methods"); hard stops take the manufacturer's range below zero."""
    high = axis.choice("homing.towards") == "high"
    codes = {"switch": (23, 27), "switch_index": (7, 11), "stop": (-1, -2), "stop_index": (-3, -4), "here": (37, 37)}
    return codes[axis.choice("homing.method")][0 if high else 1]


@dataclass(frozen=True)
class DerivedObject:
    """An object that follows from several values of an axis. `index` is that of the first axis."""

    index: int
    sub: int
    label: str


DERIVED: tuple[DerivedObject, ...] = (
    DerivedObject(0x608F, 1, "counts per motor turns"),
    DerivedObject(0x608F, 2, "motor turns for those counts"),
    DerivedObject(0x6091, 1, "motor turns of the reduction"),
    DerivedObject(0x6091, 2, "shaft turns of the reduction"),
    DerivedObject(0x6092, 1, "feed, in position units"),
    DerivedObject(0x6092, 2, "shaft turns for that feed"),
    DerivedObject(0x6098, 0, "homing method"),
)


def derived(axis: Axis) -> dict[Place, int]:
    """Raw values of the derived objects of one axis. Position units are POSITION_STEP mm (or °)."""
    chain = Chain.of(axis)
    motor, shaft = ratio(chain.reduction)
    feed, turns = ratio(chain.final.travel / POSITION_STEP)
    raws = (chain.counts_per_turn, 1, motor, shaft, feed, turns, homing_method(axis))
    return {Place(axis_index(item.index, axis.slot), item.sub): raw for item, raw in zip(DERIVED, raws, strict=True)}


def counts_on_wire(raws: Mapping[Place, Raw], slot: int) -> Fraction:
    """Counts per unit as the controller works them out of 608Fh, 6091h and 6092h (CiA 402-2, position factor)."""

    def part(index: int) -> Fraction:
        first, second = (raws[Place(axis_index(index, slot), sub)] for sub in (1, 2))
        return Fraction(int(first), int(second))

    return part(0x608F) * part(0x6091) / (part(0x6092) * POSITION_STEP)


def image(machine: Machine) -> dict[Place, Raw]:
    """All raw values of a machine as a controller would hold them, derived objects included."""
    raws: dict[Place, Raw] = {
        place(address): encode(address.row, machine[address], machine.part(address)) for address in machine.addresses()
    }
    for axis in machine.axes:
        raws.update(derived(axis))
    raws[LETTERS] = "".join(machine.names)
    return raws


def given(machine: Machine) -> frozenset[Place]:
    """Places of what the controller says of itself: read, and never sent."""
    return frozenset(place(address) for address in machine.addresses() if address.row.given)


def machine_from(raws: Mapping[Place, Raw], shape: Shape) -> Machine:
    """The machine that an image means. Raises Refusal where a value is unknown or out of the table's bounds."""
    machine = Machine.shaped(shape)
    values = {address: _meant(address.slot is None, address.key, raws[where]) for address, where, _ in located(shape)}
    return machine.with_values({address: value for address, value in values.items() if value != address.row.default})


@lru_cache(maxsize=8192)
def _meant(on_machine: bool, key: str, raw: Raw) -> Value:
    return decode(row_of(None if on_machine else 0, key), raw)
