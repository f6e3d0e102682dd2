"""Edits of the draft as steps of undo. Undo never writes to the machine."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from idler.core.machine import Address, Machine
from idler.core.proof.belongings import Belongings, Letters, back_again
from idler.core.values.parameter import Value

from .undo import ALONE, UndoStep


class Edit:
    """Takes new values into the draft; successive edits of the same values with the same `merge` mark become one step."""

    def __init__(
        self,
        before: Machine,
        put: Callable[[Mapping[Address, Value]], None],
        values: Mapping[Address, Value],
        words: str,
        merge: int,
    ) -> None:
        self.words, self.merge = words, merge
        self._put = put
        self._new = dict(values)
        self._old = {address: before[address] for address in values}

    def absorb(self, later: UndoStep) -> bool:
        if not isinstance(later, Edit) or later._new.keys() != self._new.keys():
            return False
        self._new = later._new
        return True

    def redo(self) -> None:
        self._put(self._new)

    def undo(self) -> None:
        self._put(self._old)


class Reshape:
    """Other axes: the whole machine is another one, and what belongs to its axes follows their letters."""

    merge = ALONE

    def __init__(
        self,
        before: Machine,
        put: Callable[[Machine], None],
        after: Machine,
        words: str,
        letters: Letters,
        reletter: Callable[[Letters, Belongings | None], Belongings],
    ) -> None:
        self.words = words
        self._put, self._old, self._new = put, before, after
        self._letters, self._reletter = letters, reletter
        self._had: Belongings | None = None

    def absorb(self, _later: UndoStep) -> bool:
        return False

    def redo(self) -> None:
        if self._letters:
            self._had = self._reletter(self._letters, None)
        self._put(self._new)

    def undo(self) -> None:
        if self._letters:
            self._reletter(back_again(self._letters), self._had)
        self._put(self._old)
