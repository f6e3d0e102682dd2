"""The work zeros of the job on the table: taken from where axes stand, kept on the shelf, in no revision."""

from __future__ import annotations

from typing import TYPE_CHECKING

from idler.core.errors import IdlerError
from idler.core.proof.workzero import WorkZero, stale, taken
from idler.shelf.shelf import Shelf

from .topic import Topic

if TYPE_CHECKING:
    from .session import Session


class WorkZeros:
    """By axis letter. One whose home or train has changed since is stale, and counts nothing until it is taken anew."""

    def __init__(self, session: Session, shelf: Shelf, name: str) -> None:
        self.changed: Topic[()] = Topic()
        self._session, self._shelf, self._name = session, shelf, name
        self._zeros: dict[str, WorkZero] = {}
        self.trouble = ""  # why they could not be read
        try:
            self._zeros = shelf.work_zeros(name)
        except IdlerError as why:
            self.trouble = why.sentence

    def of(self, axis: str) -> float | None:
        """Its machine coordinate; None where there is none, or one that is stale."""
        return None if self.is_stale(axis) or axis not in self._zeros else self._zeros[axis].at

    def is_stale(self, axis: str) -> bool:
        """Whether a work zero was taken with a home or a train that is another one now: its place is not known any more."""
        zero, machine = self._zeros.get(axis), self._session.in_force
        return zero is not None and axis in machine.names and stale(machine, machine.names.index(axis), zero)

    def take(self, slot: int) -> None:
        """The work is counted from where this axis stands."""
        session, name = self._session, self._session.machine.names[slot]
        why = session.axes_obstacle
        if not why and not session.axes[slot].homed:
            why = f"{name} is not homed: its coordinates mean nothing yet. Home it first."
        if not why and session.axes[slot].moving:
            why = f"{name} is moving: the work zero is where it stands. Wait until it does."
        if why:
            session.tell("warn", f"No work zero was taken. {why}")
        else:
            self._keep({**self._zeros, name: taken(session.in_force, slot, session.axes[slot].position)})

    def clear(self, slot: int) -> None:
        name = self._session.machine.names[slot]
        self._keep({axis: zero for axis, zero in self._zeros.items() if axis != name})

    @property
    def zeros(self) -> dict[str, WorkZero]:
        return self._zeros

    def put(self, zeros: dict[str, WorkZero]) -> None:
        """Others, as axes got other letters."""
        if zeros != self._zeros:
            self._keep(zeros)

    def _keep(self, zeros: dict[str, WorkZero]) -> None:
        self._zeros = zeros
        try:
            self._shelf.save_work_zeros(self._name, zeros)
        except IdlerError as why:
            self._session.tell("warn", f"The work zero is not on the disk yet. {why.sentence}")
        self.changed.publish()
