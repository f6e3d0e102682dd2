"""A move by a distance, for whoever has no buttons to jog with: slowly, and over when the axis has come to rest."""

from __future__ import annotations

from ..engine import Ending, Procedure, Result, Run, Trouble


class MoveRun(Procedure):
    what = "a move"

    def go(self, slot: int, distance: float) -> str:
        """By a distance in mm (°), at the speed at which iron may be met; a sentence where it cannot begin."""
        if why := self._session.motion_obstacle():
            return why
        axis = self._session.machine.axis(slot)
        self.what = f"a move of {axis.name}"
        self.begin(self._going(slot, distance), f"{axis.name} goes {axis.reads.length(distance, trim=True)}.")
        return ""

    def _going(self, slot: int, distance: float) -> Run:
        session = self._session
        axis = session.machine.axis(slot)
        before = session.axes[slot].position
        yield self.move(slot, distance, self.touch_speed(slot), feel=True)
        now = session.axes[slot].position
        if self.felt is not None:
            session.homes.lose([slot], "met something")
            raise Trouble(f"{axis.name} met something at {axis.reads.length(now, 3)}: its motor gave all that it has.")
        stopped = " It stands at its end." if session.axes[slot].at_limit else ""
        words = f"{axis.name} was told from {axis.reads.length(before, 3)} to {axis.reads.length(now, 3)}.{stopped}"
        return Result(Ending.DONE, words, {"from": before, "to": now})
