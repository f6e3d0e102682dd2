"""Proving every way that ends the spindle: it turns, is ended, comes to standstill, and does not start again by itself."""

from __future__ import annotations

import math

from idler.core.profile.terminals import Condition
from idler.core.proof.claims import STOPS, Witness, speed_witness, stop_claim
from idler.core.spindle import Meter
from idler.core.spindle.runup import STANDS_RPM, SpeedTrace
from idler.core.wiring.tool import Tool, tool_of
from idler.core.words import capital
from idler.link.events import Asked
from idler.session.session import Session

from ..engine import Ending, Result, Run, Steps, Trouble, Wait
from ..questions import choice, done
from ..seen import is_it_on, not_on
from .run import Turning

STAYS_OFF = 2_000_000  # µs of the controller's clock that it must stay off after the way is clear again
STILL = 0.5  # share of its speed with which it must turn when it is ended
HEARD = 0.1  # s without a word, and it may be gone
SLOWER = 0.9  # of its speed: what is read later, and turns more slowly than that, runs down
FIRST = 0.3  # s by which a drive that the same contact cuts off may be heard before the contact
_DO = {
    "esc": ("Press Esc, or STOP on the screen.", ""), "stop": ("Press the emergency stop.", "Release the emergency stop."),
    "guard": ("Open the guard.", "Close the guard."),
    "ready": ("Trip the spindle's drive, or take its ready wire off.", "Reset the drive, or put the wire back."),
    "link": ("Pull the cable to the controller.", "Plug it in again."),
}  # fmt: skip
_BY = {"stop": Condition.STOP, "guard": Condition.GUARD, "ready": Condition.NOT_READY}
# What one of them may bring with it: a stop that cuts off the guard's circuit, or the spindle's drive.
_ENDS = Condition.STOP | Condition.GUARD | Condition.NOT_READY
_WITH = {"stop": _ENDS, "guard": Condition.GUARD | Condition.NOT_READY, "ready": Condition.NOT_READY}


class StopRun(Turning):
    """Each way that ends the spindle, proven by the person who takes it."""

    of_speed = False
    leads = True

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.way = ""
        self._expecting = False  # whether the person is to end it now
        self._by_hand = False  # whether Esc or STOP was pressed meanwhile

    def prove(self, way: str) -> str:
        """Begins to prove one of STOPS; a sentence where it cannot."""
        if why := self.obstacle():
            return why
        self.way, self._by_hand = way, False
        tool = tool_of(self._session.machine)
        if tool.turns:
            self.begin(self._proving(way), "The spindle runs up.")
        else:
            self.begin(self._looking(tool, way), f"The {tool.noun} is to be switched on.")
        return ""

    def stop(self, why: str) -> None:
        """What ends other runs is what is waited for here, once the spindle turns."""
        if self.running and self._expecting:
            self.rest()
        else:
            super().stop(why)

    def _halted(self) -> None:
        self._by_hand = self._expecting
        super()._halted()

    def _restarted(self) -> None:
        self._expecting = False
        super()._restarted()

    def _end(self, result: Result) -> None:
        self._expecting = False
        super()._end(result)

    def _proving(self, way: str) -> Run:
        found = self.engaged()
        speed = round((max(found.low, found.high / 20) * found.high) ** 0.5)
        yield from self._turning(Asked(run=1, speed=speed))
        yield from self._settle(f"Read the tachometer at {speed} rpm")
        if (rpm := self._speed()) <= STANDS_RPM:
            raise not_on(Tool.SPINDLE)
        yield from self._ended_by(way, f"It turns at {rpm:.0f} rpm.")
        self.say("It was ended. Wait for standstill.")
        yield from self._settle("Read the tachometer: does it stand?")
        before = math.inf
        while self.meter.kind is Meter.TYPED and 1 < self._speed() < SLOWER * before:  # it was read while it ran down
            before = self._speed()
            yield from self._settle(f"It still turned with {before:.0f} rpm. Wait, and read once more: does it stand?")
        if self._speed() > 1:
            self._fail(f"it goes on at {self._speed():.0f} rpm")
        time = "came to standstill"
        if self.meter.kind is not Meter.TYPED and way != "link":
            traces: list[SpeedTrace] = []
            yield from self._take_trace(False, traces.append)
            # a contact that cuts off a plain drive itself has slowed it before Idler tells it anything
            told_first = way == "esc" or not self._session.machine.made_of_parts
            if told_first and traces[0].speeds and traces[0].speeds[0] < STILL * rpm:
                raise Trouble(
                    "It did not turn any more when it was ended: something else has slowed it. Nothing is proven."
                )
            if (seconds := traces[0].settled()) is not None:
                time = f"stood {seconds:.2f} s after it"
        yield from self._clear_again(way, "It stands.")
        self._keep(True, f"from {rpm:.0f} rpm it {time}, and stayed off")
        return Result(Ending.PROVEN, f"{capital(STOPS[way])}: proven.", {"rpm": rpm})

    def _looking(self, tool: Tool, way: str) -> Run:
        """Of what has no speed: eyes see that it is on, and that it is off after it was ended, and stays so."""
        yield from self.ask(
            done("cutter.ready", f"Lay scrap under the {tool.noun}. With your answer it {tool.starts}.")
        )
        yield from self._turning(Asked(run=1, speed=1))
        if (yield from self.ask(is_it_on(tool), unless=self._ended_meanwhile)) != "yes":
            raise not_on(tool)
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
        (do, undo), homed = _DO[way], self._homed
        yield from self._done_by_person("spindle.end", f"{now} {do}", self._gone)
        until = self._session.loop.now() + FIRST
        # one that is not heard may have restarted, or be lost: that is told before anything is judged by what it said last
        yield lambda: self._is_by(way) or (self._session.loop.now() > until and self._heard())
        self._judge_way(way)
        if way == "link":
            back = lambda: self._session.connected and not self._session.busy  # noqa: E731
            yield from self._done_by_person("spindle.clear", f"The link is gone. {undo}", back)
            yield lambda: bool(self._session.axes)
            self._judge_return(homed)
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
        witness = speed_witness(self.meter.kind) if tool_of(machine).turns else Witness.EYES
        self.keep_proof(stop_claim(machine, self.way), held, result, witness)

    @property
    def _blind(self) -> bool:
        return super()._blind and not (self._expecting and self.way == "link")

    def _gone(self) -> bool:
        """The controller does not tell it to turn any more, or is not heard."""
        return not self._session.connected or (self._session.link.connected and not self._told_to_turn)

    def _heard(self) -> bool:
        link = self._session.link
        return link.silence < HEARD and not link.starts_anew

    def _is_by(self, way: str) -> bool:
        """Whether it is this way that has ended it."""
        if way == "link" or not self._session.connected:
            return way == "link" and not self._session.connected
        now = self._session.link.panel.conditions & _ENDS
        if way == "esc":
            return self._by_hand and not now
        return bool(now & _BY[way]) and not now & ~_WITH[way] and not self._by_hand

    def _judge_way(self, way: str) -> None:
        if not self._is_by(way):
            self._expecting = False
            raise Trouble("It was ended by something else. Nothing is proven; try again.")

    @property
    def _homed(self) -> set[int]:
        return {slot for slot, axis in enumerate(self._session.axes) if axis.homed}

    def _judge_return(self, homed: set[int]) -> None:
        """Whether nothing but the lost link can have ended it: a controller that lost its homes has restarted. Of plain parts
        Idler itself holds the homes."""
        self._expecting = False
        if homed - self._homed and not self._session.machine.made_of_parts:
            raise Trouble(
                "The controller restarted meanwhile: that ends the spindle, too. Nothing is proven; try again."
            )
        if self._session.link.panel.conditions & (Condition.STOP | Condition.GUARD):
            raise Trouble("It was ended by something else. Nothing is proven; try again.")

    def _fail(self, why: str) -> None:
        self._expecting = False
        self._keep(False, why)
        raise Trouble(f"Not proven: {why}.", Ending.NOT_PROVEN)

    def _held(self) -> None:
        """A link that is pulled on purpose does not end this run."""
        if not (self._expecting and self.way == "link"):
            super()._held()
