"""Whether the drives that say they have power have current: seen at the first motion of each axis by the torque it takes."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .session import Session

FEWEST = 3  # readings of the torque that say something
NOTHING = 5  # readings in a row without any, of a motor that took some before
STANDS = 20  # readings without torque or way: it stands in the path of others
GONE = 0.05  # mm or ° that it is said to have gone meanwhile: an axis of a path may stand, and takes none


class CurrentWatch:
    """Looks again and again. An axis that goes its way without any torque turns no motor."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._proven: set[int] = set()  # since they were powered: seen, or said once
        self._seen: set[int] = set()
        self._since: dict[int, float] = {}
        self._begun: dict[int, float] = {}  # of those that move: when this motion began; 0: its torque was seen

    def seen(self, slot: int) -> bool:
        """Whether its motor was ever seen to take torque: then a reading of none means something."""
        return slot in self._seen

    def look(self) -> None:
        session = self._session
        if not session.powered:
            self._proven.clear()
            self._since.clear()
            self._begun.clear()
            return
        # a controller may have others for a moment
        for told, axis in zip(session.machine.axes, session.axes, strict=False):
            slot = told.slot
            if not axis.moving:
                self._begun.pop(slot, None)
            elif slot in self._seen and self._open(slot):
                self._judge_again(slot, self._begun.setdefault(slot, session.loop.now()))
            elif slot not in self._proven and told.whole("axis.output"):
                self._judge(slot, self._since.setdefault(slot, session.loop.now()))

    def _open(self, slot: int) -> bool:
        """Whether its place is only counted: no drive of its own tells where it is, nor its trouble."""
        machine = self._session.in_force
        return not machine.made_of_parts and not machine.axis(slot).flag("loop.measured")

    def _judge(self, slot: int, since: float) -> None:
        efforts = self._session.link.efforts(slot, since)
        if any(efforts):
            self._proven.add(slot)
            self._seen.add(slot)
        elif len(efforts) >= FEWEST:
            self._proven.add(slot)  # said once for each power
            name = self._session.machine.names[slot]
            self._session.tell(
                "fault", f"{name} is told to move, and its motor takes no torque at all: it has no current, or sees no steps. "
                "Look at its direction (Drives), where a hand tells which, at its plug, and at Wiring, Signals.",
            )  # fmt: skip

    def _judge_again(self, slot: int, since: float) -> None:
        """At the beginning of each motion of a motor that only its torque tells of: its driver may have given up since."""
        seen = self._session.link.effort_places(slot, since) if since else []
        if any(share for _, share in seen):
            self._begun[slot] = 0.0
        elif len(seen) >= STANDS and abs(seen[-1][0] - seen[0][0]) <= GONE:
            self._begun[slot] = 0.0  # it is not asked about for a whole program
        elif len(seen) >= NOTHING and abs(seen[-1][0] - seen[0][0]) > GONE:
            self._begun[slot] = 0.0
            name = self._session.machine.names[slot]
            self._session.give_up(
                slot,
                f"{name} is told to move, and its motor takes no torque any more: its driver has given up. The drives were "
                "powered off. Look at what it met, and power them again.",
            )
