"""A beam with a motor on each side, held square by both: without their current it springs back, and stands elsewhere."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .session import Session


class BeamWatch:
    """Looks again and again. Whoever counts on the place of a beam that has lost its current would be off by what it sprang."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._held: set[int] = set()  # axes with two motors that have current

    def look(self) -> None:
        session, machine = self._session, self._session.machine
        beams = [axis.slot for axis in machine.axes if axis.whole("axis.output") and axis.whole("axis.second_output")]
        held = {slot for slot in beams if slot < len(session.axes) and session.axes[slot].state.powered}
        let_go, self._held = self._held - held, held
        if session.axes:
            session.lose_homes(sorted(let_go), "lost the current of both sides, and a beam springs back")
