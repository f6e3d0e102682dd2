"""Steps of undo, one after the other."""

from __future__ import annotations

from typing import Protocol

from .topic import Topic

ALONE = -1  # the mark of a step that never becomes one with the next


class UndoStep(Protocol):
    """merge: successive steps with the same mark become one, where `absorb` agrees."""

    words: str
    merge: int

    def redo(self) -> None: ...

    def undo(self) -> None: ...

    def absorb(self, later: UndoStep) -> bool:
        """Takes the later step into this one, or says that it cannot."""


class UndoStack:
    """`changed` where something else can be undone or done again."""

    def __init__(self) -> None:
        self.changed: Topic[()] = Topic()
        self._steps: list[UndoStep] = []
        self._done = 0  # the first of these are done; the others can be done again

    def push(self, step: UndoStep) -> None:
        """Does the step. What could be done again cannot be any more."""
        step.redo()
        del self._steps[self._done :]
        last = self._steps[-1] if self._steps else None
        if last is None or step.merge == ALONE or last.merge != step.merge or not last.absorb(step):
            self._steps.append(step)
        self._done = len(self._steps)
        self.changed.publish()

    def undo(self) -> None:
        if self._done:
            self._done -= 1
            self._steps[self._done].undo()
            self.changed.publish()

    def redo(self) -> None:
        if self._done < len(self._steps):
            self._steps[self._done].redo()
            self._done += 1
            self.changed.publish()

    @property
    def undone_next(self) -> str:
        """What `undo` would undo, in words, or an empty text."""
        return self._steps[self._done - 1].words if self._done else ""

    @property
    def redone_next(self) -> str:
        return self._steps[self._done].words if self._done < len(self._steps) else ""

    def count(self) -> int:
        return len(self._steps)
