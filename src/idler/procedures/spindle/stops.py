"""Proving every way that ends the spindle: it turns, is ended, comes to standstill, and does not start again by itself."""

from __future__ import annotations

from idler.core.profile.terminals import Condition
from idler.core.proof.claims import STOPS, stop_claim
from idler.core.spindle import Meter
from idler.core.words import capital
from idler.link.events import Asked
from idler.session.session import Session

from ..engine import Ending, Result, Run, Steps, Trouble, Wait
from ..questions import done
from .run import Turning

STAYS_OFF = 2_000_000  # µs of the controller's clock that it must stay off after the way is clear again
_DO = {
    "esc": ("Press Esc, or STOP.", ""), "stop": ("Press the emergency stop.", "Release the emergency stop."),
    "guard": ("Open the guard.", "Close the guard."),
    "ready": ("Trip the spindle's drive, or take its ready wire off.", "Reset the drive, or put the wire back."),
    "link": ("Pull the cable to the controller.", "Plug it in again."),
}  # fmt: skip
_BY = {"stop": Condition.STOP, "guard": Condition.GUARD, "ready": Condition.NOT_READY}


class StopRun(Turning):
    """Each way that ends the spindle, proven by the person who takes it."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.way = ""
        self._ended = ""

    def prove(self, way: str) -> str:
        """Begins to prove one of STOPS; a sentence where it cannot."""
        if why := self.obstacle():
            return why
        self.way, self._ended = way, ""
        self.begin(self._proving(way), "The spindle runs up.")
        return ""

    def stop(self, why: str) -> None:
        """What ends other runs is what is waited for here, once the spindle turns."""
        if self.running and self.way and self._expecting:
            self._ended = self._ended or why
            self.rest()
        else:
            super().stop(why)

    _expecting = False

    def _end(self, result: Result) -> None:
        self._expecting = False
        super()._end(result)

    def _proving(self, way: str) -> Run:
        found = self.engaged()
        speed = round((max(found.low, found.high / 20) * found.high) ** 0.5)
        yield from self._turning(Asked(run=1, speed=speed))
        yield from self._settle(f"Read the tachometer at {speed} rpm")
        rpm = self._speed()
        self._expecting = True
        do, undo = _DO[way]
        yield from self._done_by_person("spindle.end", f"It turns at {rpm:.0f} rpm. {do}", self._gone)
        self._judge_way(way)
        if way == "link":
            back = lambda: self._session.connected and not self._session.busy  # noqa: E731
            yield from self._done_by_person("spindle.clear", f"The link is gone. {undo}", back)
        self.rest()
        self.say("It was ended. Wait for standstill.")
        yield from self._settle("Read the tachometer: does it stand?")
        if self._speed() > 1:
            self._fail(f"it goes on at {self._speed():.0f} rpm")
        seconds: list[float | None] = []
        if self.meter.kind is not Meter.TYPED and way != "link":
            yield from self._take_trace(False, lambda trace: seconds.append(trace.settled()))
        if undo and way != "link":
            clear = lambda: not self._session.panel.conditions & _BY[way]  # noqa: E731
            yield from self._done_by_person("spindle.clear", f"It stands. {undo}", clear)
        self.say("Does it stay off?")
        since = self._session.link.trace.now

        def stays() -> bool:
            if self._told_to_turn:
                self._fail("it started again by itself")
            return self._session.link.trace.now - since > STAYS_OFF

        yield stays
        time = f"stood {seconds[0]:.2f} s after it" if seconds and seconds[0] is not None else "came to standstill"
        self._keep(True, f"from {rpm:.0f} rpm it {time}, and stayed off")
        return Result(Ending.PROVEN, f"{capital(STOPS[way])}: proven.", {"rpm": rpm})

    def _done_by_person(self, key: str, words: str, seen: Wait) -> Steps:
        """Over when it is seen to be done."""
        self.say(words)
        yield from self.ask(done(key, words, by_world=True), unless=seen)
        if self._answered:
            yield seen

    def _keep(self, held: bool, result: str) -> None:
        self.keep_proof(stop_claim(self._session.machine, self.way), held, result, self.meter.kind.witness)

    @property
    def _blind(self) -> bool:
        return super()._blind and not (self._expecting and self.way == "link")

    def _gone(self) -> bool:
        """The controller does not tell it to turn any more, or is not heard."""
        return not self._session.connected or (self._session.link.connected and not self._told_to_turn)

    def _judge_way(self, way: str) -> None:
        conditions, connected = self._session.link.panel.conditions, self._session.connected
        right = not connected if way == "link" else connected and (
            bool(conditions & _BY[way]) if way in _BY else bool(self._ended)
        )  # fmt: skip
        if not right:
            self._expecting = False
            raise Trouble("It was ended by something else. Nothing is proven; try again.")

    def _fail(self, why: str) -> None:
        self._expecting = False
        self._keep(False, why)
        raise Trouble(f"Not proven: {why}.", Ending.NOT_PROVEN)

    def _held(self) -> None:
        """A link that is pulled on purpose does not end this run."""
        if not (self._expecting and self.way == "link"):
            super()._held()
