"""The terminals of a machine read as what they are for, and which roles are still without a wire."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import NamedTuple, TypeVar

from ..machine import Address, Machine
from ..table.rows.axis import BY_INDEX, BY_STOP, BY_SWITCH
from ..values.roles import AxisNeed, InputRole, OutputKind, OutputRole
from .tool import tool_of

_Kind = TypeVar("_Kind", InputRole, OutputRole, OutputKind)

HOMED_BY_SWITCH, HOMED_BY_STOP, HOMED_BY_INDEX = (ways[1:] for ways in (BY_SWITCH, BY_STOP, BY_INDEX))


class Duty(NamedTuple):
    """A role of an input, with the axis that it belongs to ("" where it has none)."""

    role: InputRole
    axis: str = ""

    @property
    def label(self) -> str:
        """ "X home switch", "emergency stop"."""
        return f"{self.axis} {self.role.label}".strip()


@dataclass(frozen=True)
class Input:
    """One input. filter in ms."""

    slot: int
    name: str
    duty: Duty
    closed_at_rest: bool
    marks_turns: bool
    filter: Fraction

    @property
    def role(self) -> InputRole:
        return self.duty.role

    @property
    def low_when_closed(self) -> bool:
        """Which level a trace draws low: that of rest; of a free input, open."""
        return self.closed_at_rest and self.role is not InputRole.NONE

    def says(self, closed: bool) -> str:
        """What a level means, in a word."""
        if self.role is InputRole.NONE:
            return "closed" if closed else "open"
        return self.role.made if self.made(closed) else self.role.clear

    def made(self, closed: bool) -> bool:
        """Whether a level is not that of rest."""
        return closed != self.closed_at_rest


@dataclass(frozen=True)
class Output:
    """One output. load is the key of a Load; volts and amps are those of the load."""

    slot: int
    name: str
    kind: OutputKind
    role: OutputRole
    load: str
    volts: Fraction
    amps: Fraction
    own_volts: Fraction
    most_volts: Fraction
    most_amps: Fraction
    label: str  # of its role


def _member(kinds: type[_Kind], key: object) -> _Kind:
    return next(kind for kind in kinds if kind.key == key)


def _input(machine: Machine, slot: int) -> Input:
    def value(name: str) -> object:
        return machine[Address(slot, f"input.{name}")]

    role = _member(InputRole, value("role"))
    axis = str(value("axis")) if role.axis is not AxisNeed.NO and value("axis") != "none" else ""
    return Input(
        slot, str(value("terminal")), Duty(role, axis), value("rest") == "closed", value("sensor") == "mark",
        _number(value("filter")),
    )  # fmt: skip


def _output(machine: Machine, slot: int) -> Output:
    def value(name: str) -> object:
        return machine[Address(slot, f"output.{name}")]

    role = _member(OutputRole, value("role"))
    volts, amps, own_volts, most_volts, most_amps = (
        _number(value(name)) for name in ("load_volts", "load_amps", "own_volts", "most_volts", "most_amps")
    )
    return Output(
        slot, str(value("terminal")), _member(OutputKind, value("kind")), role, str(value("load")), volts, amps, own_volts,
        most_volts, most_amps, tool_of(machine).worded(role.label),
    )  # fmt: skip


def _number(value: object) -> Fraction:
    assert isinstance(value, Fraction)
    return value


def _inputs(machine: Machine) -> tuple[Input, ...]:
    return tuple(_input(machine, slot) for slot in range(machine.inputs))


def _outputs(machine: Machine) -> tuple[Output, ...]:
    return tuple(_output(machine, slot) for slot in range(machine.outputs))


def inputs(machine: Machine) -> tuple[Input, ...]:
    return machine.once(_inputs)


def home_switch(machine: Machine, slot: int) -> int | None:
    """The input whose edge tells where an axis is: its home switch, else the chain of all, else its index mark, or None."""
    own = [item for item in inputs(machine) if item.duty.axis == machine.names[slot]]
    switches = [item for item in own if item.role.homes and item.role is not InputRole.HOME_SECOND]
    marks = [item for item in own if item.role is InputRole.INDEX]
    axis = machine.axis(slot)
    chained = (
        axis.choice("homing.method") in HOMED_BY_SWITCH and axis.whole("homing.turn") and axis.whole("axis.output")
    )
    chain = [item for item in inputs(machine) if item.role is InputRole.HOME_CHAIN] if chained else []
    return next((item.slot for item in (*switches, *chain, *marks)), None)


def input_of(machine: Machine, duty: Duty) -> Input | None:
    """The first input that has a duty."""
    return next((item for item in inputs(machine) if item.duty == duty), None)


# What says which axes have switches on a chain: with another axis on it, not all of it has been touched.
CHAIN_RESTS = {
    InputRole.HOME_CHAIN: ("homing.turn", "homing.method"),
    InputRole.LIMIT_CHAIN: ("axis.output", "axis.kind", "travel.switches_on"),
}


def contacts(machine: Machine, item: Input) -> int:
    """How many switches hang on an input: on a chain those of every axis that it serves."""
    if item.role is InputRole.HOME_CHAIN:
        homed = [a for a in machine.axes if a.whole("homing.turn") and a.choice("homing.method") in HOMED_BY_SWITCH]
        return max(1, len(homed))
    if item.role is InputRole.LIMIT_CHAIN:
        watched = [a for a in machine.axes if a.whole("axis.output") and not a.rotary and a.flag("travel.switches_on")]
        return max(1, 2 * len(watched))
    return 1


def outputs(machine: Machine) -> tuple[Output, ...]:
    return machine.once(_outputs)


def spindle_kind(machine: Machine) -> str:
    return str(machine[Address(None, "spindle.kind")])


def has_spindle(machine: Machine) -> bool:
    return spindle_kind(machine) != "none" or any(output.role.of_spindle for output in outputs(machine))


def needed(machine: Machine) -> list[Duty]:
    """What must be wired on this machine, the stop first."""
    duties = [Duty(InputRole.STOP)]
    if has_spindle(machine):
        duties.append(Duty(InputRole.GUARD))
    chained = any(item.role is InputRole.HOME_CHAIN for item in inputs(machine))
    own = {item.duty.axis for item in inputs(machine) if item.role is InputRole.HOME_LIMIT}
    for axis in machine.axes:
        method = axis.choice("homing.method")
        if not axis.whole("homing.turn") or not axis.whole("axis.output"):
            continue  # it does not home
        if method in HOMED_BY_SWITCH and not chained and axis.name not in own:
            duties.append(Duty(InputRole.HOME, axis.name))
        if method in HOMED_BY_INDEX:
            duties.append(Duty(InputRole.INDEX, axis.name))
    return duties


def missing(machine: Machine) -> list[Duty]:
    """Needed duties that no input has yet."""
    there = {item.duty for item in inputs(machine)}
    return [duty for duty in needed(machine) if duty not in there]


def cannot_home(duty: Duty) -> str:
    """What is wrong where no input has this duty of a homing."""
    return f"{duty.axis} homes by its {duty.role.label}, and no input is that: it cannot home."


def homeless(machine: Machine, name: str) -> str:
    """Why an axis would look in vain for its home, or an empty text: it would go on to the end of its search, or into iron."""
    if not machine.inputs:
        return ""
    why = next((cannot_home(duty) for duty in missing(machine) if duty.axis == name), "")
    return f"{why} Learn it at Wiring first." if why else ""


def offered(machine: Machine) -> list[Duty]:
    """Every duty that an input could still take, those that are missing first."""
    there = {item.duty for item in inputs(machine)}
    first = missing(machine)
    rest: list[Duty] = []
    for role in InputRole:
        if role is InputRole.NONE:
            continue
        if role.axis is not AxisNeed.MUST:
            rest.append(Duty(role))
        if role.axis is not AxisNeed.NO:
            rest += [Duty(role, name) for name in machine.names]
    return first + [duty for duty in rest if duty not in there and duty not in first]


def given_duty(slot: int, duty: Duty) -> dict[Address, str]:
    """The values that give an input a duty."""
    return {Address(slot, "input.role"): duty.role.key, Address(slot, "input.axis"): duty.axis or "none"}
