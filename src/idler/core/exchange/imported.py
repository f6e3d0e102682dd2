"""What an import gives: a machine, and what of the file did not become part of it."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import IdlerError
from ..machine import Machine


class ImportRefusal(IdlerError):
    """A file that cannot be taken; one sentence that says where and why."""


@dataclass(frozen=True)
class Imported:
    """notes: sentences on what the file says that the machine does not, in the order of the file."""

    machine: Machine
    notes: tuple[str, ...] = ()
