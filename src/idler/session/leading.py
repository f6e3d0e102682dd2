"""Whether the window goes on by itself to what is next, where a proof was made and the person lets it. Nothing moves by it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .topic import Topic

if TYPE_CHECKING:
    from idler.core.report.agenda import Step

    from .session import Session

READING = 6  # s in which what came of a proof is read


class Leading:
    """changed: `left` is another one. goes: the step whose place is opened now.

    It waits as long as anything runs or moves, and whatever the person does meanwhile (`stay`) ends it."""

    def __init__(self, session: Session) -> None:
        self.changed: Topic[()] = Topic()
        self.goes: Topic[Step] = Topic()
        self.on = False
        self.left = 0  # s until it goes on; 0: it does not
        self._session = session
        self._timer = session.loop.timer(1.0, self._tick)  # the person's time, who reads
        session.halted.subscribe(self.stay)
        session.stopped.subscribe(lambda _incident: self.stay())

    def stay(self) -> None:
        """The person does something, or something has happened that is to be looked at first."""
        if self.left:
            self._count(0)

    def proven(self) -> None:
        """Something has been: what came of it is read first."""
        if self.on:
            self._count(READING)

    def _count(self, left: int) -> None:
        self.left = left
        if left:
            self._timer.start()
        else:
            self._timer.stop()
        self.changed.publish()

    def _tick(self) -> None:
        step = self._session.agenda.next
        if step is None or self._session.closed:
            self.stay()
        elif self._session.moving or self._session.runs or self._session.floor.obstacle():
            self._count(READING)
        elif self.left > 1:
            self._count(self.left - 1)
        else:
            self._count(0)
            self.goes.publish(step)
