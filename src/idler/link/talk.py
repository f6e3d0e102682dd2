"""One word after another with a controller, for programs without a window: each call waits for its answer."""

from __future__ import annotations

import queue
from collections.abc import Callable
from pathlib import Path
from types import TracebackType
from typing import TypeVar

from .controller import Controller, kind_of
from .errors import LinkError
from .events import Connected, Disconnected, Done, Event, Failed, Progress

E = TypeVar("E", bound=Event)


class Talk:
    """A context: the link is left at its end. progress is called with how far a long piece of work has come."""

    def __init__(
        self, address: str, progress: Callable[[Progress], None] = lambda _: None, keep: Path | None = None
    ) -> None:
        self._events: queue.SimpleQueue[Event] = queue.SimpleQueue()
        self._progress = progress
        opened = kind_of(address).open
        assert opened is not None
        self._link = opened(self._events.put, keep)
        try:
            self.found = self._after(lambda: self._link.connect(address), Connected)
        except LinkError:
            self._link.close()
            raise

    def __enter__(self) -> Talk:
        return self

    def __exit__(self, _: type[BaseException] | None, __: BaseException | None, ___: TracebackType | None) -> None:
        self._link.close()

    def do(self, ask: Callable[[Controller], None]) -> Done:
        """Raises LinkError with the sentence where it could not be done, or the link was lost."""
        return self._after(lambda: ask(self._link), Done)

    def _after(self, work: Callable[[], None], kind: type[E]) -> E:
        work()
        while True:
            match self._events.get():
                case Progress() as event:
                    self._progress(event)
                case Failed(_, why) | Disconnected(why):
                    raise LinkError(why)
                case event if isinstance(event, kind):
                    return event
