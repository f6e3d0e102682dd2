"""Numbers of nodes, given while nothing is connected; on a thread of its own, for a bus is waited for."""

from __future__ import annotations

import threading
from typing import TYPE_CHECKING

from idler.core.errors import IdlerError
from idler.link.bus.address import parse
from idler.link.bus.numbers import give_number

from .topic import Topic

if TYPE_CHECKING:
    from .session import Session


class NumberGiving:
    """ended: the sentence of what came of it, and whether a number was given."""

    def __init__(self, session: Session) -> None:
        self.ended: Topic[str, bool] = Topic()
        self._session = session
        self._thread: threading.Thread | None = None

    @property
    def busy(self) -> bool:
        return self._thread is not None

    def obstacle(self) -> str:
        """Why no number can be given now, or an empty text."""
        if self._session.connected:
            return (
                "A number is given only while no controller is connected: nothing may move meanwhile. Disconnect first."
            )
        return "One is being given." if self.busy else ""

    def give(self, address: str, number: int, node: int) -> str:
        """Begins; node 0: one that has none yet. A sentence where it cannot begin; else `ended` follows."""
        if why := self.obstacle():
            return why
        try:
            where = parse(address)
        except IdlerError as trouble:
            return trouble.sentence

        def work() -> None:
            try:
                words, given = give_number(where, number, node).sentence, True
            except IdlerError as trouble:
                words, given = trouble.sentence, False
            self._session.loop.call(lambda: self._end(words, given=given))

        self._thread = threading.Thread(target=work, name="numbers", daemon=True)
        self._thread.start()
        return ""

    def _end(self, words: str, *, given: bool) -> None:
        self._thread = None
        self.ended.publish(words, given)
