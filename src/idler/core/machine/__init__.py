"""A machine as values: one for every row of the table, for the machine and for each of its axes. Immutable."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import lru_cache
from types import MappingProxyType
from typing import NamedTuple, TypeVar, cast

from ..errors import Refusal
from ..table import AXIS, AXIS_LETTERS, MOST_AXES, MOST_INPUTS, MOST_OUTPUTS, MOST_RANGES, TABLE, defaults, row_of
from ..values.measures import Measures
from ..values.parameter import Parameter, Scope, Value
from ..values.stage import Stage

NO_STEPS = Fraction(10**15)  # per second
T = TypeVar("T")


class Address(NamedTuple):
    """One value of a machine: slot None for the machine itself, else the axis, input or output by its place from 0."""

    slot: int | None
    key: str

    @property
    def row(self) -> Parameter:
        return row_of(self.slot, self.key)

    @property
    def axis(self) -> int | None:
        """The slot of the axis that the value belongs to, or None where it is of something else."""
        return self.slot if self.slot is not None and self.row.scope is Scope.AXIS else None


class Shape(NamedTuple):
    """What a machine has: the letters of its axes, and how many terminals its controller has."""

    names: tuple[str, ...]
    inputs: int = 0
    outputs: int = 0

    def count(self, scope: Scope) -> int:
        if scope is Scope.AXIS:
            return len(self.names)
        if scope is Scope.INPUT:
            return self.inputs
        return self.outputs if scope is Scope.OUTPUT else MOST_RANGES

    def has(self, address: Address) -> bool:
        return address.slot is None or address.slot < self.count(address.row.scope)

    @property
    def addresses(self) -> tuple[Address, ...]:
        """Every address, the machine's own first, then axis by axis and terminal by terminal, in the order of the table."""
        return _addresses(self)

    def __str__(self) -> str:
        terminals = f", {self.inputs} inputs and {self.outputs} outputs" if self.inputs or self.outputs else ""
        return f"the axes {', '.join(self.names)}{terminals}"


@dataclass(frozen=True)
class Axis:
    """The values of one axis, read by kind. Raises KeyError for a key that is no row of the table."""

    slot: int
    name: str
    values: Mapping[str, Value]
    inch: bool = False  # whether the screen is in inches

    @property
    def reads(self) -> Measures:
        """How the screen writes lengths and rates of this axis."""
        return Measures(self.rotary, self.inch)

    @property
    def rotary(self) -> bool:
        return is_rotary(self.values["axis.kind"])

    @property
    def unit(self) -> str:
        """Of its positions."""
        return "°" if self.rotary else "mm"

    @property
    def wraps(self) -> bool:
        """Whether its position begins again at 360°."""
        return self.values["axis.kind"] in ("endless", "spindle")

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

    def uses(self, row: Parameter) -> bool:
        """Whether a value counts on this axis: others belong to choices that were not made."""
        return row.used_when is None or self.choice(row.used_when[0]) in row.used_when[1:]

    @property
    def stages(self) -> tuple[Stage, ...]:
        value = self.values["chain.stages"]
        assert isinstance(value, tuple)
        return value


@dataclass(frozen=True)
class Machine:
    """names: one letter per axis, in the order of their slots. inputs, outputs: how many terminals the controller has.

    changed: only what differs from the defaults.
    """

    names: tuple[str, ...] = ("X", "Y", "Z")
    changed: Mapping[Address, Value] = field(default_factory=dict)
    inputs: int = 0
    outputs: int = 0
    _worked_out: dict[Callable[[Machine], object], object] = field(
        default_factory=dict, init=False, compare=False, repr=False
    )

    def __post_init__(self) -> None:
        if not 1 <= len(self.names) <= MOST_AXES:
            raise Refusal("axes", str(len(self.names)), "is not a number of axes", f"1 to {MOST_AXES} can be stored")
        if len(set(self.names)) != len(self.names):
            raise Refusal("axes", ", ".join(self.names), "hold one letter twice")
        for name in self.names:
            if len(name) != 1 or name not in AXIS_LETTERS:
                raise Refusal("axis", f"“{name[:20]}”", "is not the name of an axis", f"one letter of {AXIS_LETTERS}")
        for count, most, what in ((self.inputs, MOST_INPUTS, "inputs"), (self.outputs, MOST_OUTPUTS, "outputs")):
            if not 0 <= count <= most:
                raise Refusal(what, str(count), f"is not a number of {what}", f"0 to {most} can be stored")
        object.__setattr__(self, "changed", MappingProxyType(dict(self.changed)))

    def __getitem__(self, address: Address) -> Value:
        return self.changed[address] if address in self.changed else row_of(*address).default

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Machine):
            return NotImplemented
        return self.shape == other.shape and not self.differences(other)

    def __hash__(self) -> int:
        return hash(self.shape)

    def once(self, work: Callable[[Machine], T]) -> T:
        """What a pure function makes of this machine, worked out once, for a machine never changes."""
        if work not in self._worked_out:
            self._worked_out[work] = work(self)
        return cast("T", self._worked_out[work])

    @property
    def shape(self) -> Shape:
        return Shape(self.names, self.inputs, self.outputs)

    @classmethod
    def shaped(cls, shape: Shape, changed: Mapping[Address, Value] | None = None) -> Machine:
        """A machine with these axes and terminals."""
        return cls(shape.names, changed or {}, shape.inputs, shape.outputs)

    def shaped_as(self, shape: Shape) -> Machine:
        """With other axes or terminals: what they have in common keeps its values."""
        return Machine.shaped(shape, {where: value for where, value in self.changed.items() if shape.has(where)})

    def addresses(self) -> tuple[Address, ...]:
        """Every address of its shape."""
        return self.shape.addresses

    def with_values(self, values: Mapping[Address, Value]) -> Machine:
        """A machine with these values in place. Raises Refusal where one is out of bounds."""
        for address, value in values.items():
            address.row.check(value, rotary=self.is_rotary(address), part=self.part(address), inch=self.inch)
        return replace(self, changed={**self.changed, **values})

    def axis(self, slot: int) -> Axis:
        return self.axes[slot]

    @property
    def axes(self) -> tuple[Axis, ...]:
        return self.once(_axes)

    @property
    def title(self) -> str:
        return str(self[Address(None, "names.machine")])

    @property
    def short_title(self) -> str:
        """Its own name, where the title says beside it what it is: of “Gantry router “Longcase”” only the last word."""
        _, opened, rest = self.title.partition("“")
        own, closed, _ = rest.partition("”")
        return own if opened and closed and own else self.title

    @property
    def inch(self) -> bool:
        return self[Address(None, "names.screen_unit")] == "in"

    @property
    def reads(self) -> Measures:
        """How the screen writes lengths and rates of linear axes."""
        return Measures(inch=self.inch)

    @property
    def made_of_parts(self) -> bool:
        """Whether its controller is made of plain drives and terminals, which make no step pulses and keep little."""
        return self[Address(None, "build.controller")] == "parts"

    @property
    def step_rate(self) -> Fraction:
        """Highest step rate of one axis, in steps per second; without end where nobody makes steps."""
        if self.made_of_parts:
            return NO_STEPS
        value = self[Address(None, "signals.step_rate")]
        assert isinstance(value, Fraction)
        return value * 1000

    def is_rotary(self, address: Address) -> bool:
        return address.axis is not None and is_rotary(self[Address(address.slot, "axis.kind")])

    def part(self, address: Address) -> str:
        """The value's place in words: "X pitch of the screw", "input 3 filter"."""
        row = address.row
        if address.slot is None:
            return row.label
        if row.scope is Scope.AXIS:
            return f"{self.names[address.slot]} {row.label}"
        if row.scope is Scope.RANGE:
            return f"range {address.slot + 1} {row.label}"
        terminal = self[Address(address.slot, f"{row.scope.value}.terminal")]
        return f"input {terminal} {row.label}" if row.scope is Scope.INPUT else f"output {terminal} {row.label}"

    def show(self, address: Address, *, unit: bool = True) -> str:
        """The value at an address as the screen shows it."""
        return address.row.show(self[address], rotary=self.is_rotary(address), inch=self.inch, unit=unit)

    def differences(self, other: Machine) -> list[Address]:
        """Addresses of this machine whose values differ in the other (what that one has not differs wholly)."""
        has, told = other.shape.has, self.changed.keys() | other.changed.keys()  # the others are defaults in both
        return [
            address
            for address in self.addresses()
            if not has(address) or (address in told and self[address] != other[address])
        ]


@lru_cache(maxsize=64)
def _addresses(shape: Shape) -> tuple[Address, ...]:
    return tuple(
        Address(slot, key)
        for scope, rows in TABLE.items()
        for slot in ((None,) if scope is Scope.MACHINE else range(shape.count(scope)))
        for key in rows
    )


def is_rotary(kind: Value) -> bool:
    """Whether an axis of this kind ("axis.kind") counts in degrees."""
    return kind != "linear"


def _axes(machine: Machine) -> tuple[Axis, ...]:
    values = [defaults(AXIS) for _ in machine.names]
    for address, value in machine.changed.items():
        if address.axis is not None:
            values[address.axis][address.key] = value
    return tuple(Axis(slot, name, values[slot], machine.inch) for slot, name in enumerate(machine.names))
