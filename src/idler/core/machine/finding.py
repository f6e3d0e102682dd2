"""What a rule says about a machine."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from ..values.parameter import Value
from . import Address, Axis, Machine


class Severity(Enum):
    ERROR = "error"  # is not sent
    WARNING = "warning"
    NOTE = "note"


@dataclass(frozen=True)
class Finding:
    """where: the value that it stands at. edit: what would settle it, as values to take, with its words.

    missing: something is not there yet; it does not hold back what is sent meanwhile.
    """

    code: str
    severity: Severity
    where: Address
    place: str
    text: str
    edit: tuple[tuple[Address, Value], ...] = ()
    edit_text: str = ""
    missing: bool = False

    @property
    def holds_back(self) -> bool:
        """Whether nothing is sent while this stands."""
        return self.severity is Severity.ERROR and not self.missing

    def as_json(self) -> dict[str, str]:
        return {"code": self.code, "severity": self.severity.value, "where": self.place, "text": self.text}


def at_value(
    machine: Machine,
    address: Address,
    code: str,
    severity: Severity,
    text: str,
    value: Value | None = None,
    *,
    missing: bool = False,
) -> Finding:
    """A finding at one value, with another value for it as the suggested edit."""
    part = machine.part(address)
    if value is None:
        return Finding(code, severity, address, part, text, missing=missing)
    shown = address.row.show(value, rotary=machine.is_rotary(address), inch=machine.inch)
    return Finding(code, severity, address, part, text, ((address, value),), f"Set {shown}", missing)


def at_axis(
    machine: Machine, axis: Axis, key: str, code: str, severity: Severity, text: str, value: Value | None = None
) -> Finding:
    """The same at a value of an axis."""
    return at_value(machine, Address(axis.slot, key), code, severity, text, value)
