"""The torque print of an axis: slowly over its travel and back, and what its motor gave on the way."""

from __future__ import annotations

import time
from collections.abc import Generator

from idler.core.machine import Address
from idler.core.mechanics.torqueprint import Reading, TorquePrint, holds, print_words, printed
from idler.session.session import Session
from idler.shelf.dates import day

from ..engine import Ending, Procedure, Result, Run, Trouble, Wait
from ..safe import go_to, safe_speed

TAKES = 20.0  # s of a way at least: its readings come some thirty times a second
ROOM = 2.0  # mm or ° that both ends are left out


class TorquePrintRun(Procedure):
    """found: the last print of this run. before: the one that it is laid over."""

    what = "the torque print"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.found: TorquePrint | None = None
        self.before: TorquePrint | None = None

    def obstacle(self, slot: int) -> str:
        """Why it cannot be made now, or an empty text."""
        session = self._session
        ends = [Address(slot, f"travel.{name}") for name in ("low", "high", "limits_on")]
        if why := session.motion_obstacle(ends):
            return why
        axis = session.machine.axis(slot)
        if why := session.homes.obstacle([slot]):
            return why
        if not axis.wraps and not axis.flag("travel.limits_on"):
            return f"The soft limits of {axis.name} are off. Switch them on and send: it goes from end to end."
        low, high = self.ends(slot)
        return "" if high - low > ROOM else f"{axis.name} has too little travel between its soft limits."

    def ends(self, slot: int) -> tuple[float, float]:
        """Between which places it goes: of an axis without ends one turn."""
        axis = self._session.machine.axis(slot)
        if axis.wraps:
            return 0.0, 360.0
        low, high = float(axis.number("travel.low")), float(axis.number("travel.high"))
        return low + ROOM, high - ROOM

    def speed(self, slot: int) -> float:
        """mm/min (°/min): slowly, and never faster than is safe."""
        low, high = self.ends(slot)
        return min(safe_speed(self._session, slot), 60 * (high - low) / TAKES)

    def go(self, slot: int) -> str:
        """A sentence where it cannot begin."""
        if why := self.obstacle(slot):
            return why
        kept = self._session.prints.get(self._session.machine.names[slot], [])
        self.found, self.before = None, kept[-1] if kept else None
        self.begin(self._going(slot), "It goes to its low end first.")
        return ""

    def _going(self, slot: int) -> Run:
        session, name = self._session, self._session.machine.names[slot]
        low, high = self.ends(slot)
        speed = self.speed(slot)
        yield from go_to(self, session, slot, low)
        up = yield from self._way(slot, high - low, speed, f"{name} goes to + slowly. Esc stops it.")
        down = yield from self._way(slot, low - high, speed, f"{name} goes back. Esc stops it.")
        if session.machine.axis(slot).wraps:
            up, down = ([(place % 360, share) for place, share in way] for way in (up, down))
        self.found = found = printed(up, down, low, high, speed, time.time())
        date = day(self.before.when) if self.before is not None else ""
        words = print_words(name, session.machine.axis(slot).reads, found, self.before, date)
        if found.told:
            session.keep_print(name, found)
        return Result(Ending.DONE if holds(found) else Ending.NOT_PROVEN, words)

    def _way(self, slot: int, distance: float, speed: float, words: str) -> Generator[Wait, None, list[Reading]]:
        self.say(words)
        since = self._session.loop.now()
        self._session.link.effort_places(slot, since)  # from here on it is read
        ready = self.move(slot, distance, speed, feel=True)

        def over() -> bool:
            self._session.link.effort_places(slot, self._session.loop.now())
            return ready()

        yield over
        if self.felt is not None:
            name = self._session.machine.names[slot]
            self._session.homes.lose([slot], "met something")
            raise Trouble(
                f"{name} met something on its way: its motor gave all that it has. Home it, and prove its ends."
            )
        return self._session.link.effort_places(slot, since)
