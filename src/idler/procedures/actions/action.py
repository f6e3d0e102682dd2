"""An own action, by its button, its key or its name; and what is done when the drives are powered."""

from __future__ import annotations

from idler.core.actions.rehearsal import rehearse
from idler.core.actions.steps import Action, Event
from idler.core.machine import Machine
from idler.core.rules.actions import actions_of
from idler.session.session import Session

from ..engine import Ending, Procedure, Result, Run
from .performing import Performer, unready


class ActionRun(Procedure):
    """name: of what runs, or ran last."""

    what = "an own action"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.name = ""
        self._performer = Performer(session, self)

    def find(self, name: str) -> Action | None:
        return next((each for each in actions_of(self._session.machine) if each.name == name), None)

    def obstacle(self, name: str) -> str:
        """Why it cannot be begun now, or an empty text."""
        action = self.find(name)
        if action is None:
            known = ", ".join(each.name for each in actions_of(self._session.machine)) or "none yet"
            return f"“{name}” is no action of this machine. Known: {known}."
        return unready(self._session, action) or self._session.floor.obstacle(self)

    def start(self, name: str, why: str = Event.BUTTON.what) -> str:
        """A sentence where it cannot begin. why: what starts it."""
        action = self.find(name)
        if trouble := self.obstacle(name):
            return trouble
        assert action is not None
        self.name = name
        self.what = f"the action “{name}”"
        self.begin(self._running((action,), why), f"“{name}” begins.")
        return ""

    def powered(self) -> str:
        """What is to be done where the drives were powered; a sentence where it cannot begin."""
        todo = tuple(each for each in actions_of(self._session.machine) if each.event is Event.POWERED)
        if not todo:
            return ""
        if why := unready(self._session, todo[0]) or self._session.floor.obstacle(self):
            return why
        self.name = todo[0].name
        self.begin(self._running(todo, Event.POWERED.what), f"“{self.name}” begins.")
        return ""

    def rehearsed(self, name: str) -> list[str]:
        """What it would do, with nothing moved."""
        action = self.find(name)
        lines = rehearse(action, actions_of(self._session.machine)) if action is not None else []
        return [f"{'    ' * depth}{words}" for depth, words in lines]

    def way_from_here(self, name: str) -> tuple[Machine, Action, dict[str, float], dict[str, float]] | None:
        """What `way_of` needs to say where it would go from here."""
        action, session = self.find(name), self._session
        if action is None:
            return None
        machine = session.machine
        stands = {
            each: session.axes[slot].position for slot, each in enumerate(machine.names) if session.homes.known(slot)
        }
        zeros = {each: zero for each in machine.names if (zero := session.work.of(each)) is not None}
        return machine, action, stands, zeros

    def _running(self, todo: tuple[Action, ...], why: str) -> Run:
        self._performer.said.clear()
        for action in todo:
            yield from self._performer.perform(action, why)
        self._performer.let_go()
        said = "".join(f" {words}" for words in self._performer.said[-1:])
        return Result(Ending.DONE, f"“{self.name}” is done.{said}", {"runs": self._session.acts.count(self.name)})

    def _end(self, result: Result) -> None:
        """Whatever ends it, what it switched on goes off."""
        self._performer.let_go()
        super()._end(result)
