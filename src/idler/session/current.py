"""Whether the drives that say they have power have current: seen at the first motion of each axis by the torque it takes."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .session import Session

FEWEST = 3  # readings of the torque that say something


class CurrentWatch:
    """Looks again and again. An axis that goes its way without any torque turns no motor."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._proven: set[int] = set()  # since they were powered: seen, or said once
        self._seen: set[int] = set()
        self._since: dict[int, float] = {}

    def seen(self, slot: int) -> bool:
        """Whether its motor was ever seen to take torque: then a reading of none means something."""
        return slot in self._seen

    def look(self) -> None:
        session = self._session
        if not session.powered:
            self._proven.clear()
            self._since.clear()
            return
        # a controller may have others for a moment
        for told, axis in zip(session.machine.axes, session.axes, strict=False):
            slot = told.slot
            if slot in self._proven or not told.whole("axis.output"):
                continue
            if axis.moving:
                self._judge(slot, self._since.setdefault(slot, session.loop.now()))

    def _judge(self, slot: int, since: float) -> None:
        efforts = self._session.link.efforts(slot, since)
        if any(efforts):
            self._proven.add(slot)
            self._seen.add(slot)
        elif len(efforts) >= FEWEST:
            self._proven.add(slot)  # said once for each power
            name = self._session.machine.names[slot]
            self._session.tell(
                "fault", f"{name} is told to move, and its motor takes no torque at all: it has no current. Look whether the "
                "enable line is inverted (Wiring, Signals), and whether the motor is plugged in.",
            )  # fmt: skip
