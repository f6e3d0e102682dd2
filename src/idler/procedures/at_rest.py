"""Time by the controller's clock, and whether an axis that was asked to move has moved, and for how long it has stood since."""

from __future__ import annotations

from collections.abc import Callable

from idler.link.events import AxisState
from idler.session.session import Session

STILL = 0.01  # mm or ° between two looks, which an axis at rest may waver
UNHEARD = 1.0  # s by the room's clock, after which that one counts: the controller's is not heard


class Stopwatch:
    """seconds: by the controller's clock, so that a computer that pauses, or a link that is slow, adds nothing. `look` as
    often as something new may have been heard."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self.begin()

    def begin(self) -> None:
        self.seconds = 0.0
        self._last = self._session.clock
        self._room = self._heard = self._session.loop.now()

    def look(self) -> float:
        """`seconds`, with what has passed since the last look; a clock that was set back adds nothing."""
        now, room = self._session.clock, self._session.loop.now()
        if now is not None:
            if self._last is not None and now > self._last:
                self.seconds += now - self._last
            if now != self._last:
                self._heard = room
        if room - self._heard > UNHEARD:
            self.seconds += room - self._room
        self._last, self._room = now, room
        return self.seconds


NEVER_STARTS = 2.0  # s of the controller's clock without motion after it was asked for
HEARD_BY = 0.3  # s of the computer's own clock within which a report comes in, however quick the controller's is


class AtRest:
    """Made when the motion is asked for; `look` as often as something new may have been heard. taken: whether the controller
    has taken what was asked for; until then it cannot stand still for it."""

    def __init__(self, session: Session, slot: int, taken: Callable[[], bool]) -> None:
        self._session, self._slot, self._taken = session, slot, taken
        self.stood = self._at = session.axes[slot].position  # where it began
        self.started = False
        self._watch, self._since = Stopwatch(session), session.loop.now()

    def look(self) -> AxisState:
        """The axis now. One that stands elsewhere than it stood has moved: a quick move may be over between two reports."""
        axis = self._session.axes[self._slot]
        self._watch.look()
        if axis.moving or not self._taken() or abs(axis.position - self._at) > STILL:
            self._watch.begin()  # a place may be heard before the state that says that it moves
        self._at = axis.position
        self.started = self.started or axis.moving or axis.position != self.stood
        return axis

    @property
    def stuck(self) -> bool:
        """Whether it should have begun long ago, and a report of it would be here."""
        return not self.started and self.seconds > NEVER_STARTS and self.heard_since

    @property
    def heard_since(self) -> bool:
        """Whether a report of what has become of it must have come in, however quick the controller's clock is."""
        return self._session.loop.now() - self._since > HEARD_BY

    @property
    def seconds(self) -> float:
        """Since it moved last, or since it was told to."""
        return self._watch.seconds
