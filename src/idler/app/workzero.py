"""The work zeros of the job on the table: taken from where axes stand, kept on the shelf, in no revision."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from idler.core.errors import IdlerError
from idler.shelf.shelf import Shelf

if TYPE_CHECKING:
    from .desk import Desk


class WorkZeros(QObject):
    """Machine coordinates by axis letter, in mm (°)."""

    changed = Signal()

    def __init__(self, desk: Desk, shelf: Shelf, name: str) -> None:
        super().__init__(desk)
        self._desk, self._shelf, self._name = desk, shelf, name
        self._zeros: dict[str, float] = {}
        self.trouble = ""  # why they could not be read
        try:
            self._zeros = shelf.work_zeros(name)
        except IdlerError as why:
            self.trouble = why.sentence

    def of(self, axis: str) -> float | None:
        return self._zeros.get(axis)

    def take(self, slot: int) -> None:
        """The work is counted from where this axis stands."""
        desk, name = self._desk, self._desk.machine.names[slot]
        why = desk.axes_obstacle
        if not why and not desk.axes[slot].homed:
            why = f"{name} is not homed: its coordinates mean nothing yet. Home it first."
        if why:
            desk.told.emit("warn", f"No work zero was taken. {why}")
        else:
            self._keep({**self._zeros, name: desk.axes[slot].position})

    def clear(self, slot: int) -> None:
        name = self._desk.machine.names[slot]
        self._keep({axis: at for axis, at in self._zeros.items() if axis != name})

    def _keep(self, zeros: dict[str, float]) -> None:
        self._zeros = zeros
        try:
            self._shelf.save_work_zeros(self._name, zeros)
        except IdlerError as why:
            self._desk.told.emit("warn", f"The work zero is not on the disk yet. {why.sentence}")
        self.changed.emit()
