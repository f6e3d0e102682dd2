"""The one table of parameters.

Everything that is known about a value stands in its row; files, wire, EDS, editors, margin and reports derive from it.
Object indices: CiA 402 where it has one (for the first axis; 800h is added per axis), else 2000h.. for the machine and
4000h.. for the first axis (100h is added per axis). Inputs lie at 2100h.., outputs at 2140h.., speed ranges of the
spindle at 2180h.., one index each.
"""

from __future__ import annotations

from dataclasses import replace

from ..values.build import ACCELERATION_STEP, JERK_STEP, LEAD_STEP, MOST_AXES, POSITION_STEP, SHARE_STEP, SPEED_STEP
from ..values.parameter import AXIS_LETTERS, Parameter, Scope, Value
from .rows.axis import AXIS_ROWS as _AXIS
from .rows.machine import MACHINE_ROWS as _MACHINE
from .rows.spindle import MOST_RANGES
from .rows.spindle import RANGE_ROWS as _RANGES
from .rows.terminals import INPUT_ROWS as _INPUTS
from .rows.terminals import OUTPUT_ROWS as _OUTPUTS

__all__ = [
    "ACCELERATION_STEP", "AXIS", "AXIS_LETTERS", "INPUT", "JERK_STEP", "LEAD_STEP", "MACHINE", "MOST_AXES",
    "MOST_INPUTS", "MOST_OUTPUTS", "MOST_RANGES", "OUTPUT", "POSITION_STEP", "RANGE", "SHARE_STEP", "SPEED_STEP",
    "TABLE", "all_rows", "axis_index", "defaults", "part_index", "row_of", "used_with",
]  # fmt: skip

MOST_INPUTS = 32
MOST_OUTPUTS = 16


_NUMBERED = (Scope.INPUT, Scope.OUTPUT, Scope.RANGE)
_OF_NUMBERED = tuple(scope.value for scope in _NUMBERED)


def _by_key(scope: Scope, rows: tuple[Parameter, ...]) -> dict[str, Parameter]:
    found: dict[str, Parameter] = {}
    places: set[tuple[int, int]] = set()
    for row in rows:
        place = (row.wire.index, row.wire.sub)
        if row.key in found or place in places:
            raise ValueError(f"table row {row.key}: key or place on the wire is taken")
        if (row.group in _OF_NUMBERED) != (row.group == scope.value and scope in _NUMBERED):
            raise ValueError(f"table row {row.key}: its group does not belong to the {scope.value}")
        found[row.key] = replace(row, scope=scope)
        places.add(place)
    return found


TABLE: dict[Scope, dict[str, Parameter]] = {
    Scope.MACHINE: _by_key(Scope.MACHINE, _MACHINE),
    Scope.AXIS: _by_key(Scope.AXIS, _AXIS),
    Scope.INPUT: _by_key(Scope.INPUT, _INPUTS),
    Scope.OUTPUT: _by_key(Scope.OUTPUT, _OUTPUTS),
    Scope.RANGE: _by_key(Scope.RANGE, _RANGES),
}
MACHINE, AXIS, INPUT, OUTPUT, RANGE = (TABLE[scope] for scope in Scope)
_OF_A_PART: dict[str, Parameter] = {**AXIS, **INPUT, **OUTPUT, **RANGE}
if len(_OF_A_PART) != len(AXIS) + len(INPUT) + len(OUTPUT) + len(RANGE):
    raise ValueError("the table uses one key for two kinds of part")


def all_rows() -> tuple[Parameter, ...]:
    """Every row, in the order of the table."""
    return tuple(row for rows in TABLE.values() for row in rows.values())


def row_of(slot: int | None, key: str) -> Parameter:
    """The row of a value: slot None for the machine itself. Raises KeyError where there is none."""
    return MACHINE[key] if slot is None else _OF_A_PART[key]


def used_with(choice: str, key: str) -> tuple[Parameter, ...]:
    """The rows of an axis that come into use with one choice of a row: ("chain.final", "screw") gives pitch and starts."""
    return tuple(
        row for row in AXIS.values() if row.used_when and row.used_when[0] == choice and key in row.used_when[1:]
    )


def axis_index(index: int, slot: int) -> int:
    """The object index of a row for the axis in `slot` (0 to 7): CiA 402-1, logical devices 800h apart."""
    return index + (0x800 if index >= 0x6000 else 0x100) * slot


def part_index(row: Parameter, slot: int | None) -> int:
    """The object index of a row for the axis, input or output in `slot`."""
    if slot is None:
        return row.wire.index
    return axis_index(row.wire.index, slot) if row.scope is Scope.AXIS else row.wire.index + slot


def defaults(rows: dict[str, Parameter]) -> dict[str, Value]:
    return {key: row.default for key, row in rows.items()}
