"""A machine as values: one for every row of the table, for the machine and for each of its axes. Immutable."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction
from types import MappingProxyType
from typing import NamedTuple

from .errors import Refusal
from .parameter import Parameter, Value
from .stage import Stage
from .table import AXIS, AXIS_LETTERS, MACHINE, MOST_AXES, defaults


class Address(NamedTuple):
    """One value of a machine: slot None for the machine itself, else the axis by its place (0 to 7)."""

    slot: int | None
    key: str

    @property
    def row(self) -> Parameter:
        return MACHINE[self.key] if self.slot is None else AXIS[self.key]


@dataclass(frozen=True)
class Axis:
    """The values of one axis, read by kind. Raises KeyError for a key that is no row of the table."""

    slot: int
    name: str
    values: Mapping[str, Value]

    @property
    def rotary(self) -> bool:
        return self.values["axis.kind"] == "rotary"

    def number(self, key: str) -> Fraction:
        value = self.values[key]
        assert isinstance(value, Fraction | int)
        return Fraction(value)

    def whole(self, key: str) -> int:
        value = self.values[key]
        assert isinstance(value, int)
        return value

    def choice(self, key: str) -> str:
        return str(self.values[key])

    def flag(self, key: str) -> bool:
        return bool(self.values[key])

    @property
    def stages(self) -> tuple[Stage, ...]:
        value = self.values["chain.stages"]
        assert isinstance(value, tuple)
        return value


@dataclass(frozen=True)
class Machine:
    """names: one letter per axis, in the order of their slots. values: only what differs from the defaults."""

    names: tuple[str, ...] = ("X", "Y", "Z")
    changed: Mapping[Address, Value] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if not 1 <= len(self.names) <= MOST_AXES:
            raise Refusal("axes", str(len(self.names)), "is not a number of axes", f"1 to {MOST_AXES} can be stored")
        if len(set(self.names)) != len(self.names):
            raise Refusal("axes", ", ".join(self.names), "hold one letter twice")
        for name in self.names:
            if len(name) != 1 or name not in AXIS_LETTERS:
                raise Refusal("axis", f"“{name[:20]}”", "is not the name of an axis", f"one letter of {AXIS_LETTERS}")
        object.__setattr__(self, "changed", MappingProxyType(dict(self.changed)))

    def __getitem__(self, address: Address) -> Value:
        return self.changed.get(address, address.row.default)

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Machine):
            return NotImplemented
        return self.names == other.names and all(self[address] == other[address] for address in self.addresses())

    def __hash__(self) -> int:
        return hash(self.names)

    def addresses(self) -> Iterator[Address]:
        """Every address, the machine's own first, then axis by axis, in the order of the table."""
        for key in MACHINE:
            yield Address(None, key)
        for slot in range(len(self.names)):
            for key in AXIS:
                yield Address(slot, key)

    def with_values(self, values: Mapping[Address, Value]) -> Machine:
        """A machine with these values in place. Raises Refusal where one is out of bounds."""
        for address, value in values.items():
            address.row.check(value, rotary=self.is_rotary(address), part=self.part(address))
        return replace(self, changed={**self.changed, **values})

    def axis(self, slot: int) -> Axis:
        values = defaults(AXIS)
        values.update({address.key: value for address, value in self.changed.items() if address.slot == slot})
        return Axis(slot, self.names[slot], values)

    @property
    def axes(self) -> tuple[Axis, ...]:
        return tuple(self.axis(slot) for slot in range(len(self.names)))

    @property
    def title(self) -> str:
        return str(self[Address(None, "names.machine")])

    @property
    def inch(self) -> bool:
        return self[Address(None, "names.screen_unit")] == "in"

    @property
    def step_rate(self) -> Fraction:
        """Highest step rate of one axis, in steps per second."""
        value = self[Address(None, "signals.step_rate")]
        assert isinstance(value, Fraction)
        return value * 1000

    def is_rotary(self, address: Address) -> bool:
        return address.slot is not None and self[Address(address.slot, "axis.kind")] == "rotary"

    def part(self, address: Address) -> str:
        """The value's place in words: "X pitch of the screw"."""
        name = "" if address.slot is None else self.names[address.slot] + " "
        return name + address.row.label

    def show(self, address: Address, *, unit: bool = True) -> str:
        """The value at an address as the screen shows it."""
        return address.row.show(self[address], rotary=self.is_rotary(address), inch=self.inch, unit=unit)

    def differences(self, other: Machine) -> list[Address]:
        """Addresses of this machine whose values differ in the other (an axis that it lacks differs wholly)."""
        return [
            address
            for address in self.addresses()
            if (address.slot is not None and address.slot >= len(other.names)) or self[address] != other[address]
        ]
