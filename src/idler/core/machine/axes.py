"""The axes of a machine: add, remove, rename, reorder, copy. Machines are immutable; each of these makes a new one."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from ..errors import Refusal
from ..table import AXIS, MOST_AXES
from ..values.parameter import AXIS_LETTERS, Scope, Value
from . import Address, Machine, is_rotary

LINEAR, ROTARY = "XYZUVW", "ABC"  # ISO 841: primary and secondary linear axes, rotary ones about X, Y and Z
# What is copied from one axis to another, by group of the table. Where an axis ends and what it is called stay its own.
GROUPS: Mapping[str, str] = {
    "chain": "train", "play": "backlash", "pace": "pace", "motor": "motor and load", "frame": "frame",
    "travel": "travel", "homing": "homing", "loop": "following error",
}  # fmt: skip


# Values that are of each axis and of no other: where it ends, finds home and parks, in which turn, what was measured.
OWN: Mapping[str, str] = {
    "travel.stop_low": "hard stops", "travel.stop_high": "hard stops", "travel.low": "ends", "travel.high": "ends",
    "travel.park": "parking place", "homing.coordinate": "coordinate at home", "homing.turn": "turn of homing",
    "homing.mark_distance": "distance of the mark", "homing.squaring": "squaring offset",
    "chain.correction": "measured correction",
}  # fmt: skip


def free_letters(machine: Machine) -> str:
    """Letters of ISO 841 that no axis has yet."""
    return "".join(letter for letter in AXIS_LETTERS if letter not in machine.names)


def add(machine: Machine, name: str) -> Machine:
    """One more axis behind the others: rotary for A, B and C, else linear, at the first free drive output.

    Raises Refusal where the letter is taken or no more axes can be stored.
    """
    if len(machine.names) == MOST_AXES:
        raise Refusal("axes", str(MOST_AXES), "are as many as a controller has", way_out="remove one first")
    slot = len(machine.names)
    kind = "rotary" if name in ROTARY else "linear"
    values: dict[Address, Value] = {
        Address(slot, "axis.kind"): kind,
        Address(slot, "axis.output"): next(iter(free_outputs(machine)), 0),
    }
    if kind == "rotary":
        values[Address(slot, "chain.final")] = "worm"
    return _rebuilt(machine, (*machine.names, name), range(slot)).with_values(values)


def of_other_kinds(machine: Machine, values: Mapping[Address, Value]) -> dict[Address, Value]:
    """What an edit that makes linear axes rotary, or rotary ones linear, takes along: their speeds, accelerations, limits
    and places become the usual ones, to be set anew, for 2 000 mm/min says nothing of degrees. Nothing for any other edit.
    """
    taken: dict[Address, Value] = {}
    for address, kind in values.items():
        if address.key != "axis.kind" or is_rotary(kind) == machine.is_rotary(address):
            continue
        for key, row in AXIS.items():
            if row.dimension.unit(rotary=True) != row.dimension.unit(rotary=False):
                taken[Address(address.slot, key)] = row.default
    return taken


def free_outputs(machine: Machine) -> list[int]:
    """Drive outputs of the controller that move nothing yet, from 1."""
    taken = {axis.whole(key) for axis in machine.axes for key in ("axis.output", "axis.second_output")}
    return [number for number in range(1, MOST_AXES + 1) if number not in taken]


def remove(machine: Machine, slot: int) -> Machine:
    """Without this axis; inputs that belonged to it lose their role. Raises Refusal for the last axis."""
    if len(machine.names) == 1:
        raise Refusal(f"axis {machine.names[0]}", "1", "is the last one", way_out="add another axis first")
    kept = [at for at in range(len(machine.names)) if at != slot]
    return _rebuilt(machine, tuple(machine.names[at] for at in kept), kept)


def rename(machine: Machine, slot: int, name: str) -> Machine:
    """With another letter; inputs of the axis follow it. Raises Refusal where the letter is taken."""
    names = tuple(name if at == slot else old for at, old in enumerate(machine.names))
    return _rebuilt(machine, names, range(len(names)))


def move(machine: Machine, slot: int, to: int) -> Machine:
    """With the axis in another place of the order. Its drive output stays: the motor is where its cable is."""
    order = [at for at in range(len(machine.names)) if at != slot]
    order.insert(to, slot)
    return _rebuilt(machine, tuple(machine.names[at] for at in order), order)


def _rebuilt(machine: Machine, names: tuple[str, ...], sources: Iterable[int]) -> Machine:
    """A machine with these axes, where new slot i takes the values of old slot sources[i]."""
    where = {old: new for new, old in enumerate(sources)}
    letters = {machine.names[old]: names[new] for old, new in where.items()}
    values: dict[Address, Value] = {}
    for address, value in machine.changed.items():
        if address.axis is not None:
            if address.axis in where:
                values[Address(where[address.axis], address.key)] = value
        elif address.key == "input.axis" and value != "none":
            values[address] = letters.get(str(value), "none")
        else:
            values[address] = value
    for slot in range(machine.inputs):
        axis = machine[Address(slot, "input.axis")]
        if axis in machine.names and axis not in letters:
            values[Address(slot, "input.role")] = "none"
    return Machine(names, values, machine.inputs, machine.outputs)


def copied(
    machine: Machine, source: int, target: int, groups: Iterable[str], own: Iterable[str] = ()
) -> dict[Address, Value]:
    """The values that one axis takes from another, by groups of the table. own: keys of OWN that are copied too.

    Raises Refusal where one counts in millimetres and the other in degrees.
    """
    first, second = machine.axis(source), machine.axis(target)
    if is_rotary(first.choice("axis.kind")) != is_rotary(second.choice("axis.kind")):
        words = ["rotary" if axis.rotary else "linear" for axis in (first, second)]
        raise Refusal(
            f"axis {second.name}", words[1], f"cannot take values of {first.name}, which is {words[0]}",
            way_out="make both of one kind first",
        )  # fmt: skip
    wanted, named = set(groups), set(own)
    return {
        Address(target, key): first.values[key]
        for key, row in AXIS.items()
        if (key in named if key in OWN else row.group in wanted)
        and row.scope is Scope.AXIS
        and first.values[key] != second.values[key]
    }


def left_out(machine: Machine, source: int, target: int, groups: Iterable[str]) -> list[str]:
    """What of these groups differs and is of each axis, in words: it was not copied."""
    first, second, wanted = machine.axis(source), machine.axis(target), set(groups)
    words = [OWN[key] for key in OWN if AXIS[key].group in wanted and first.values[key] != second.values[key]]
    return list(dict.fromkeys(words))
