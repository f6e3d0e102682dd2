"""Python's collector of cyclic garbage, kept on the GUI's own thread.

By itself it runs in whichever thread happens to allocate: in that of the link it would end Qt's objects from outside of their
thread, which Qt does not bear, and a look through everything holds all threads for as long as a held jog may stay unheard: it
waits until nothing moves.
"""

from __future__ import annotations

import gc
from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

LOOK_MS = 250
YOUNG, OLDER, OLDEST = 1000, 5, 20  # allocations, and looks through the generation below, before one is looked through
STARTED = 20  # looks after which what is there is there for good, and is looked through no more


class Collector(QObject):
    """On from its making to `end`. moves: whether something moves, so that nothing may hold the threads for long."""

    def __init__(self, moves: Callable[[], bool]) -> None:
        super().__init__()
        self._looks, self._moves = 0, moves
        gc.disable()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.look)
        self._timer.start(LOOK_MS)

    def look(self) -> None:
        """Looks through the generations that have grown enough."""
        young, older, oldest = gc.get_count()
        whole = not self._moves()
        self._looks += whole
        if whole and self._looks == STARTED:
            gc.collect()
            gc.freeze()
        elif whole and oldest > OLDEST:
            gc.collect()
        elif older > OLDER:
            gc.collect(1)
        elif young > YOUNG:
            gc.collect(0)

    def end(self) -> None:
        """The usual collector is on again."""
        self._timer.stop()
        gc.unfreeze()
        gc.enable()
