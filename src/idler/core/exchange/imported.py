"""What an import gives: a machine, and what of the file did not become part of it."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import About, IdlerError
from ..machine import Machine
from ..values.units import several


class ImportRefusal(IdlerError):
    """A file that cannot be taken; one sentence that says where and why."""

    about = About.FOREIGN


def left_out(count: int) -> tuple[str, ...]:
    """The note on values that a file does not hold."""
    if not count:
        return ()
    return (f"{several(count, 'value')} {'is' if count == 1 else 'are'} not in the file and took what is usual.",)


def not_given(machine: Machine) -> tuple[str, ...]:
    """The same of a machine that was read from a file of its values."""
    return left_out(sum(address not in machine.changed for address in machine.addresses()))


@dataclass(frozen=True)
class Imported:
    """notes: sentences on what the file says that the machine does not, in the order of the file.

    text: the machine file that it was, with its comments; "" where it was of another kind.
    """

    machine: Machine
    notes: tuple[str, ...] = ()
    text: str = ""
