"""Proving every way that ends the spindle: it turns, is ended, comes to standstill, and does not start again by itself."""

from __future__ import annotations

from idler.core.profile.terminals import Condition
from idler.core.proof.claims import STOPS, Witness, stop_claim
from idler.core.spindle import Meter
from idler.core.wiring.tool import Tool, tool_of
from idler.core.words import capital
from idler.link.events import Asked
from idler.session.session import Session

from ..engine import Ending, Result, Run, Steps, Trouble, Wait
from ..questions import choice, done
from .run import Turning

STAYS_OFF = 2_000_000  # µs of the controller's clock that it must stay off after the way is clear again
FIRST = 0.3  # s by which a drive that the same contact cuts off may be heard before the contact
_DO = {
    "esc": ("Press Esc, or STOP.", ""), "stop": ("Press the emergency stop.", "Release the emergency stop."),
    "guard": ("Open the guard.", "Close the guard."),
    "ready": ("Trip the spindle's drive, or take its ready wire off.", "Reset the drive, or put the wire back."),
    "link": ("Pull the cable to the controller.", "Plug it in again."),
}  # fmt: skip
_BY = {"stop": Condition.STOP, "guard": Condition.GUARD, "ready": Condition.NOT_READY}


class StopRun(Turning):
    """Each way that ends the spindle, proven by the person who takes it."""

    of_speed = False

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.way = ""
        self._ended = ""

    def prove(self, way: str) -> str:
        """Begins to prove one of STOPS; a sentence where it cannot."""
        if why := self.obstacle():
            return why
        self.way, self._ended = way, ""
        tool = tool_of(self._session.machine)
        if tool.turns:
            self.begin(self._proving(way), "The spindle runs up.")
        else:
            self.begin(self._looking(tool, way), f"The {tool.noun} is to be switched on.")
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
        yield from self._ended_by(way, f"It turns at {rpm:.0f} rpm.")
        self.say("It was ended. Wait for standstill.")
        yield from self._settle("Read the tachometer: does it stand?")
        if self._speed() > 1:
            self._fail(f"it goes on at {self._speed():.0f} rpm")
        seconds: list[float | None] = []
        if self.meter.kind is not Meter.TYPED and way != "link":
            yield from self._take_trace(False, lambda trace: seconds.append(trace.settled()))
        yield from self._clear_again(way, "It stands.")
        time = f"stood {seconds[0]:.2f} s after it" if seconds and seconds[0] is not None else "came to standstill"
        self._keep(True, f"from {rpm:.0f} rpm it {time}, and stayed off")
        return Result(Ending.PROVEN, f"{capital(STOPS[way])}: proven.", {"rpm": rpm})

    def _looking(self, tool: Tool, way: str) -> Run:
        """Of what has no speed: eyes see that it is on, and that it is off after it was ended, and stays so."""
        yield from self.ask(
            done("cutter.ready", f"Lay scrap under the {tool.noun}. With your answer it {tool.starts}.")
        )
        yield from self._turning(Asked(run=1, speed=1))
        seen = {"yes": f"Yes, it {tool.works}", "no": "No"}
        on = yield from self.ask(choice("cutter.on", f"Does it {tool.work}?", seen), unless=self._ended_meanwhile)
        if on != "yes":
            raise Trouble(f"It was switched on and does not {tool.work}. Look at its supply and at its output.")
        yield from self._ended_by(way, f"It {tool.works}.")
        yield from self._off()
        yield from self._clear_again(way, "It is off.")
        yield from self._off()
        self._keep(True, "it was seen to be on, to be off after it, and to stay off")
        return Result(Ending.PROVEN, f"{capital(STOPS[way])}: proven.")

    def _off(self) -> Steps:
        seen = {"yes": "Yes, it is off", "no": "No, it goes on"}
        if (yield from self.ask(choice("cutter.off", "Is it off?", seen))) != "yes":
            self._fail("it was seen to go on")

    def _ended_by(self, way: str, now: str) -> Steps:
        """The person takes the way that ends it. now: what it does until then."""
        self._expecting = True
        do, undo = _DO[way]
        yield from self._done_by_person("spindle.end", f"{now} {do}", self._gone)
        until = self._session.loop.now() + FIRST
        yield lambda: self._is_by(way) or self._session.loop.now() > until
        self._judge_way(way)
        if way == "link":
            back = lambda: self._session.connected and not self._session.busy  # noqa: E731
            yield from self._done_by_person("spindle.clear", f"The link is gone. {undo}", back)
        self.rest()

    def _clear_again(self, way: str, now: str) -> Steps:
        """The way is clear again, and nothing starts by itself for a while."""
        undo = _DO[way][1]
        if undo and way != "link":
            clear = lambda: not self._session.panel.conditions & _BY[way]  # noqa: E731
            yield from self._done_by_person("spindle.clear", f"{now} {undo}", clear)
        self.say("Does it stay off?")
        since = self._session.link.trace.now

        def stays() -> bool:
            if self._told_to_turn:
                self._fail("it started again by itself")
            return self._session.link.trace.now - since > STAYS_OFF

        yield stays

    def _done_by_person(self, key: str, words: str, seen: Wait) -> Steps:
        """Over when it is seen to be done."""
        self.say(words)
        yield from self.ask(done(key, words, by_world=True), unless=seen)
        if self._answered:
            yield seen

    def _keep(self, held: bool, result: str) -> None:
        machine = self._session.machine
        witness = self.meter.kind.witness if tool_of(machine).turns else Witness.EYES
        self.keep_proof(stop_claim(machine, self.way), held, result, witness)

    @property
    def _blind(self) -> bool:
        return super()._blind and not (self._expecting and self.way == "link")

    def _gone(self) -> bool:
        """The controller does not tell it to turn any more, or is not heard."""
        return not self._session.connected or (self._session.link.connected and not self._told_to_turn)

    def _is_by(self, way: str) -> bool:
        """Whether it is this way that has ended it."""
        conditions, connected = self._session.link.panel.conditions, self._session.connected
        if way == "link":
            return not connected
        return connected and (bool(conditions & _BY[way]) if way in _BY else bool(self._ended))

    def _judge_way(self, way: str) -> None:
        if not self._is_by(way):
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
