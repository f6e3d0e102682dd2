"""Learning the wiring: a switch is touched, its input and its rest are seen, and the person says what it is."""

from __future__ import annotations

from idler.core.machine import Address
from idler.core.wiring import Duty, given_duty, inputs, missing, offered
from idler.core.wiring.learning import QUIET, Learner, Touch
from idler.session.session import Session

from ..engine import Ending, Result, Run
from ..questions import choice, done
from .trials import WatchingProcedure

LEAVE = "leave"


def duty_word(duty: Duty) -> str:
    """A duty as an answer: "home.X", "guard"."""
    return duty.role.key + (f".{duty.axis}" if duty.axis else "")


class LearnRun(WatchingProcedure):
    """touches: what was touched last, and nobody has said yet what it is. Goes on until it is stopped."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.touches: list[Touch] = []
        self.given = ""  # what the last touch became, in words
        self._learner: Learner | None = None
        self._fed = self._missed = 0

    @property
    def watching(self) -> bool:
        """Whether it knows how every input is at rest: what is touched before that is taken for its rest."""
        return self._learner is not None

    @property
    def chattering(self) -> list[str]:
        """Names of the inputs that go on changing, and are left aside meanwhile."""
        listed = self._learner.chattering if self._learner is not None else []
        return [inputs(self._session.machine)[slot].name for slot in listed]

    @property
    def wanted(self) -> Duty | None:
        """What is still without a wire, the first of it."""
        left = missing(self._session.machine)
        return left[0] if left else None

    def learn(self, *, until_all: bool = False) -> str:
        """Looks at every input anew, and then for touches; until_all: ends when every needed duty has its wire."""
        self.stop("")
        if not self._session.connected:
            return "No controller is connected."
        if why := self._session.terminals_obstacle():
            return why
        self._learner, self._fed, self.touches, self.given = None, 0, [], ""
        self.begin(self._learning(until_all), "Looking at every input first: touch nothing yet.")
        return ""

    def _learning(self, until_all: bool) -> Run:
        while not until_all or self.wanted is not None:
            wanted = self.wanted
            if not self.watching:
                yield self._seen
                continue
            if len(self.touches) != 1:
                asked = f"Press the {wanted.label} at the machine, for a moment." if wanted else "Press any switch."
                self.say(asked)
                yield from self.ask(done("learn.touch", asked, by_world=True), unless=self._seen)
                if self._answered:
                    break
                continue
            touch = self.touches[0]
            ways = {
                duty_word(duty): duty.label
                for duty in (*((wanted,) if wanted else ()), *offered(self._session.machine))
            }
            said = yield from self.ask(
                choice("learn.role", self.words_of(touch), {**ways, LEAVE: "Leave it"}), unless=self._settled_or_seen
            )
            if said == LEAVE:
                self.touches = []
            elif said is not None:
                duties = {duty_word(duty): duty for duty in offered(self._session.machine)}
                self.give(duties[said])
        left = ", ".join(duty.label for duty in missing(self._session.machine))
        return Result(Ending.DONE, f"Still without a wire: {left}." if left else "Everything that is needed is wired.")

    def _settled_or_seen(self) -> bool:
        return not self.touches or self._seen()

    def words_of(self, touch: Touch) -> str:
        """What was seen."""
        item = inputs(self._session.machine)[touch.input]
        before, then = ("closed", "open") if touch.closed else ("open", "closed")
        free = item.duty == Duty(item.role) and item.role.key == "none"
        role = "" if free else f" It is the {item.duty.label} so far."
        return f"Input {item.name} went from {before} to {then}, so its contact is {before} at rest.{role}"

    def give(self, duty: Duty) -> None:
        """Gives the input that was touched this duty and its contact at rest, as one step of undo; nothing where none is."""
        if not self.touches:
            return
        touch = self.touches[0]
        rest = {Address(touch.input, "input.rest"): "closed" if touch.closed else "open"}
        name = inputs(self._session.machine)[touch.input].name
        self.touches, self.given = [], f"Input {name} is the {duty.label}."
        self._session.set_values({**given_duty(touch.input, duty), **rest}, f"input {name} learnt as {duty.label}")
        self.changed.publish()

    def _seen(self) -> bool:
        """Feeds what is heard of the inputs; over when it knows their rest, or something else was touched."""
        trace = self._session.trace
        if trace.now < self._fed or trace.missed != self._missed:
            self._learner = (
                None  # the controller has started anew, or edges were lost: how the inputs rest is not known
            )
            self._missed = trace.missed
        edges = trace.since(self._fed + 1 if self._learner is not None else trace.now - QUIET)
        if not len(edges.levels):
            return False
        if self._learner is None:
            self._learner = Learner(edges.levels.tolist(), edges.now, edges.inputs.tolist())
            self._fed = edges.now
            return True
        self._learner.feed(edges.times.tolist(), edges.inputs.tolist(), edges.closed.tolist(), edges.now)
        self._fed = int(edges.times[-1]) if len(edges.times) else self._fed
        touched = self._learner.take()
        if touched:
            self.touches, self.given = touched, ""
            self.changed.publish()
        return bool(touched)
