"""A beam with a motor on each side, held square by both: without their current it springs back, and stands elsewhere."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .session import Session

AGAIN = 2.0  # s, after which a controller that has not forgotten such a home is told again


class BeamWatch:
    """Looks again and again. Whoever counts on the place of a beam that has lost its current would be off by what it sprang; a
    home is found with current, so that one without it has lost it since, whether or not anybody saw that."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._told: dict[int, float] = {}  # when it was said of an axis last, s of the room's clock

    def look(self) -> None:
        session, now = self._session, self._session.loop.now()
        sprung = []
        # a controller may have others for a moment
        for axis, state in zip(session.machine.axes, session.axes, strict=False):
            slot, beam = axis.slot, axis.whole("axis.output") and axis.whole("axis.second_output")
            if beam and session.homes.known(slot) and not state.state.powered:
                if now - self._told.get(slot, -AGAIN) >= AGAIN:
                    self._told[slot] = now
                    sprung.append(slot)
            else:
                self._told.pop(slot, None)
        session.homes.lose(sprung, "lost the current of both sides, and a beam springs back")
