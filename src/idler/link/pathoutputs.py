"""What is switched on the way of a path. What asks for it has no answer and may be lost, so that it is read back: no leg begins
before the spindle is told to turn, and a path does not go on where it is not any more."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TYPE_CHECKING

from idler.core.profile.terminals import CONDITIONS, SPINDLE_RUN, SPINDLE_SPEED, TRIED, Condition

from .errors import NotAllowedNow, Overtaken
from .events import Asked

if TYPE_CHECKING:
    from .along import Turning
    from .client import Client

MOST_SAID = 4  # times that a word is said which does not arrive, or is not followed
LET_GO = 0.5  # s after which a spindle that is free to turn, and is not told to, was let go of: Idler was not heard meanwhile
UP_TO_SPEED = 60.0  # s in which a drive that is spoken to comes to its speed
_ENDS_ALL = Condition.STOP | Condition.GUARD | Condition.TROUBLE  # the controller itself ends the path for these
_WHY = {
    Condition.STOP: "the emergency stop is pressed", Condition.GUARD: "the guard is open",
    Condition.NOT_READY: "its drive does not say that it is ready",
    Condition.NO_RANGE: "the inputs name no speed range, or several",
}  # fmt: skip


class PathOutputs:
    """Of one path. in_force: what was asked for last, and has arrived. turning: what turns the spindle, where that is not the
    controller."""

    def __init__(self, turning: Turning | None = None) -> None:
        self.in_force = Asked()
        self._turning = turning
        self._said, self._since = 0, 0.0
        self._speeds_up_from: float | None = None

    def switched(self, client: Client, asked: Asked, not_stopped: Callable[[], bool]) -> bool:
        """Whether a leg may begin: asked again and again until it may. Raises NotAllowedNow where it never will."""
        if asked == Asked():
            client.let_go_of_outputs()  # which is said again by itself while it is not so
            self._at_speed(asked, not_stopped)
        elif not self._arrived(client, asked, not_stopped) or not self._turns(client, asked, not_stopped):
            return False
        self.in_force, self._said, self._speeds_up_from = asked, 0, None
        return True

    def _at_speed(self, asked: Asked, not_stopped: Callable[[], bool]) -> bool:
        if self._turning is None or self._turning.turns(asked, not_stopped):
            return True
        if not not_stopped():
            raise Overtaken("STOP came first.")
        now = time.monotonic()
        self._speeds_up_from = now if self._speeds_up_from is None else self._speeds_up_from
        if now - self._speeds_up_from > UP_TO_SPEED:
            why = self._turning.stalled(asked) or "it does not come to its speed"
            raise NotAllowedNow(f"The spindle was asked to turn and does not: {why}.")
        return False

    def _arrived(self, client: Client, asked: Asked, not_stopped: Callable[[], bool]) -> bool:
        """True at the earliest one look after it was said: the controller has taken note of it by then."""
        if self._said and self._held_by(client) == (asked.run, asked.speed, asked.tried):
            return True
        self._say(client, asked, not_stopped)
        return False

    def _say(self, client: Client, asked: Asked, not_stopped: Callable[[], bool]) -> None:
        if self._said >= MOST_SAID:
            raise NotAllowedNow("The controller does not take what the program asks of spindle and outputs.")
        client.hold(asked, not_stopped)
        self._said, self._since = self._said + 1, time.monotonic()

    @staticmethod
    def _held_by(client: Client) -> tuple[int, ...]:
        """What it was asked last: way and speed of the spindle, and an output."""
        places = {SPINDLE_RUN: "way of the spindle", SPINDLE_SPEED: "speed of the spindle", TRIED: "output"}
        return tuple(int(client.objects.read(place, label)) for place, label in places.items())

    def _turns(self, client: Client, asked: Asked, not_stopped: Callable[[], bool]) -> bool:
        """Whether the spindle is told to turn; one that runs down first is waited for, and one that was let go of since is
        asked anew."""
        if not asked.run:
            return self._at_speed(asked, not_stopped)
        now = self._conditions(client)
        if now & Condition.RUNNING_DOWN:
            self._since = time.monotonic()
        elif now & Condition.SPINDLE:
            return self._at_speed(asked, not_stopped)
        waited = time.monotonic() - self._since > LET_GO
        if now & Condition.REFUSED or (waited and self._said >= MOST_SAID):
            raise NotAllowedNow(f"The spindle was asked to turn and does not{_because(now)}.")
        if waited:
            client.let_go_of_outputs()
            self._say(client, asked, not_stopped)
        return False

    def lost(self, client: Client) -> str:
        """Why a path that needs the spindle cannot go on, or an empty text."""
        if not self.in_force.run:
            return ""
        if self._turning is not None and (why := self._turning.stalled(self.in_force)):
            return f"The spindle does not turn any more: {why}."
        if client.panel.conditions & Condition.SPINDLE:
            return ""
        now = self._conditions(client)  # a frame of it may have been lost
        if now & (Condition.SPINDLE | _ENDS_ALL):
            return ""
        return f"The spindle was stopped{_because(now)}."

    @staticmethod
    def _conditions(client: Client) -> Condition:
        return Condition(int(client.objects.read(CONDITIONS, "what the controller finds of itself")))


def _because(now: Condition) -> str:
    words = [why for condition, why in _WHY.items() if now & condition]
    return f": {', and '.join(words)}" if words else ""
