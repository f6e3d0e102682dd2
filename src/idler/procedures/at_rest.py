"""Whether an axis that was asked to move has moved, and for how long it has stood since."""

from __future__ import annotations

from idler.link.events import AxisState
from idler.session.session import Session


class AtRest:
    """Made when the motion is asked for; `look` as often as something new may have been heard."""

    def __init__(self, session: Session, slot: int) -> None:
        self._session, self._slot = session, slot
        self.stood = session.axes[slot].position  # where it began
        self.started = False
        self._moved = session.loop.now()

    def look(self) -> AxisState:
        """The axis now. One that stands elsewhere than it stood has moved: a quick move may be over between two reports."""
        axis = self._session.axes[self._slot]
        if axis.moving:
            self._moved = self._session.loop.now()
        self.started = self.started or axis.moving or axis.position != self.stood
        return axis

    @property
    def seconds(self) -> float:
        """Since it moved last, or since it was asked to."""
        return self._session.loop.now() - self._moved
