"""Edits of the draft as steps of undo. Undo never writes to the machine."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PySide6.QtGui import QUndoCommand

from idler.core.belongings import Belongings, Letters, back_again
from idler.core.machine import Address, Machine
from idler.core.parameter import Value


class Edit(QUndoCommand):
    """Takes new values into the draft; successive edits with the same `merge` mark become one step."""

    def __init__(
        self,
        before: Machine,
        put: Callable[[Mapping[Address, Value]], None],
        values: Mapping[Address, Value],
        words: str,
        merge: int,
    ) -> None:
        super().__init__(words)
        self._put = put
        self._new = dict(values)
        self._old = {address: before[address] for address in values}
        self._merge = merge

    def id(self) -> int:
        return self._merge

    def mergeWith(self, other: QUndoCommand) -> bool:
        if not isinstance(other, Edit) or other._new.keys() != self._new.keys():
            return False
        self._new = other._new
        return True

    def redo(self) -> None:
        self._put(self._new)

    def undo(self) -> None:
        self._put(self._old)


class Reshape(QUndoCommand):
    """Other axes: the whole machine is another one, and what belongs to its axes follows their letters."""

    def __init__(
        self,
        before: Machine,
        put: Callable[[Machine], None],
        after: Machine,
        words: str,
        letters: Letters,
        reletter: Callable[[Letters, Belongings | None], Belongings],
    ) -> None:
        super().__init__(words)
        self._put, self._old, self._new = put, before, after
        self._letters, self._reletter = letters, reletter
        self._had: Belongings | None = None

    def redo(self) -> None:
        if self._letters:
            self._had = self._reletter(self._letters, None)
        self._put(self._new)

    def undo(self) -> None:
        if self._letters:
            self._reletter(back_again(self._letters), self._had)
        self._put(self._old)
