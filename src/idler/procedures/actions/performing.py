"""Own actions step by step, within whatever procedure begins them. Whatever they switch on goes off when that ends."""

from __future__ import annotations

from functools import partial

from idler.core.actions.steps import (
    ASKED,
    Action,
    Ask,
    Await,
    Call,
    Contact,
    Dwell,
    Event,
    Frame,
    Goal,
    GoToStop,
    Home,
    If,
    Move,
    Power,
    Probe,
    Say,
    Spin,
    Step,
    Switch,
    TakeLength,
    TakeZero,
)
from idler.core.actions.text import step_text
from idler.core.errors import Refusal
from idler.core.machine import Axis
from idler.core.profile.terminals import Condition
from idler.core.proof.claims import ends_claim
from idler.core.rules.actions import actions_of, contact_input, moved, place_of, with_called, wrong_with
from idler.core.spindle import is_on_bus
from idler.core.values.roles import InputRole
from idler.core.values.toolnumber import number_of
from idler.core.wiring import Duty, input_of, outputs
from idler.core.words import listed
from idler.link.events import Asked
from idler.link.pathoutputs import UP_TO_SPEED
from idler.session.session import Session

from ..dead_man import HeldTerminals
from ..engine import Procedure, Steps, Trouble, Wait
from ..questions import choice, reading
from ..safe import go_to, safe_speed
from ..seeking import seek, seen_to_work, touched
from .indexing import to_stop

FOLLOWS = 5.0  # s in which drives, spindle and outputs do what they are told


def unready(session: Session, action: Action) -> str:
    """Why an action cannot be begun now, or an empty text: all that it and what it calls name must be there."""
    machine = session.machine
    actions = actions_of(machine)
    for each in with_called(action, actions):
        if wrong := wrong_with(machine, each):
            return wrong[0]
    slots = [machine.names.index(name) for name in moved(action, actions)]
    rests = dict.fromkeys(address for slot in slots for address in ends_claim(machine, slot).rests)
    if why := session.axes_obstacle or session.unsent(tuple(rests)):
        return why
    return ""


class Performer:
    """host: the procedure whose steps these are. said: what it said, the newest last."""

    def __init__(self, session: Session, host: Procedure) -> None:
        self._session, self._host = session, host
        self._held = HeldTerminals(session)
        self.said: list[str] = []
        self._touched: dict[str, float] = {}  # where the probe was touched last, by axis letter
        self._plate_seen = False

    def let_go(self) -> None:
        """Spindle and outputs go off, in one frame. What was seen of the plate, and touched, holds no longer than that."""
        self._held.let_go()
        self._plate_seen = False
        self._touched.clear()

    def perform(self, action: Action, why: str) -> Steps:
        """All of it. why: what started it. Raises Trouble with the step that could not be done."""
        if trouble := unready(self._session, action):
            raise Trouble(trouble)
        self._session.acts.note(action.name, why)
        yield from self._all(action.steps)

    def happened(self, event: Event) -> Steps:
        """What is to be done where something has happened, in the order of the text; each of them once."""
        for action in actions_of(self._session.machine):
            if action.event is event:
                yield from self.perform(action, event.what)

    # -- steps ------------------------------------------------------------------------------------------------------

    def _all(self, steps: tuple[Step, ...]) -> Steps:
        for step in steps:
            self._host.say(f"{step_text(step)}. Esc stops it.")
            try:
                yield from self._step(step)
            except Trouble as why:
                raise Trouble(f"{step_text(step)}: {why.result.words}", why.result.end) from None

    def _step(self, step: Step) -> Steps:
        match step:
            case Move():
                yield from self._move(step)
            case Probe():
                yield from self._probe(step)
            case TakeZero(name, reads):
                self._zero(name, float(reads))
            case TakeLength(number, reads):
                yield from self._length(number, float(reads))
            case Home(names):
                yield from self._home(names)
            case Power(on):
                yield from self._power(on=on)
            case GoToStop(name, number):
                yield from to_stop(self._host, self._session, self._axis(name), number)
            case Switch():
                yield from self._switch(step)
            case Spin(rpm):
                yield from self._spin(float(rpm))
            case Dwell(seconds):
                ends = self._session.loop.now() + float(seconds)
                yield lambda: self._session.loop.now() >= ends
            case Await(contact, within):
                yield from self._until(partial(self._made, contact), float(within), "it did not come in time")
            case If(contact, then, otherwise):
                yield from self._all(then if self._made(contact) else otherwise)
            case Ask(text, yes, no):
                answer = yield from self._host.ask(choice("action.ask", text, {"yes": "Yes", "no": "No"}))
                yield from self._all(yes if answer == "yes" else no)
            case Say(text):
                self.said.append(text)
                self._session.tell("plain", text)
            case Call(name):
                called = next(each for each in actions_of(self._session.machine) if each.name == name)
                self._session.acts.note(name, "a call")
                yield from self._all(called.steps)

    def _until(self, so: Wait, seconds: float, otherwise: str) -> Steps:
        """Waits for something at most so long. Raises Trouble."""
        ends = self._session.loop.now() + seconds
        yield lambda: so() or self._session.loop.now() >= ends
        if not so():
            raise Trouble(otherwise)

    def _made(self, contact: Contact) -> bool:
        item = contact_input(self._session.machine, contact)
        return item is not None and item.made(self._session.panel.is_closed(item.slot)) == contact.made

    def _axis(self, name: str) -> Axis:
        machine = self._session.machine
        return machine.axis(machine.names.index(name))

    def _inside(self, axis: Axis, place: float) -> None:
        """Raises Trouble where an axis is not to go: its place must be known, and within its soft limits."""
        if not self._session.powered:
            raise Trouble("the drives are off")
        if not self._session.homes.known(axis.slot):
            raise Trouble(f"{axis.name} is not homed, so that its places mean nothing")
        if axis.wraps:
            return
        if not axis.flag("travel.limits_on"):
            raise Trouble(f"the soft limits of {axis.name} are off")
        low, high = float(axis.number("travel.low")), float(axis.number("travel.high"))
        if not low <= place <= high:
            told = axis.reads.length(place, trim=True)
            raise Trouble(f"{axis.name} would go to {told}, and its travel is {axis.reads.range(low, high)}")

    def _place(self, frame: Frame, goal: Goal) -> float:
        axis = self._axis(goal.axis)
        if frame is Frame.MACHINE:
            return float(place_of(axis, goal.at))
        assert goal.at is not None
        if frame is Frame.BY:
            return self._session.axes[axis.slot].position + float(goal.at)
        zero = self._session.work.of(goal.axis)
        if zero is None:
            raise Trouble(f"{goal.axis} has no work zero")
        return zero + float(goal.at)

    def _move(self, step: Move) -> Steps:
        for goal in step.goals:
            axis = self._axis(goal.axis)
            place = self._place(step.frame, goal)
            self._inside(axis, place)
            speed = safe_speed(self._session, axis.slot)
            asked = float(step.speed) if step.speed is not None else speed
            by = float(goal.at) if step.frame is Frame.BY and goal.at is not None else None  # a whole turn is one, too
            yield from go_to(self._host, self._session, axis.slot, place, min(asked, speed), by=by)

    def _probe(self, step: Probe) -> Steps:
        axis = self._axis(step.axis)
        item = input_of(self._session.machine, Duty(InputRole.PROBE))
        assert item is not None
        if touched(self._session):
            raise Trouble(f"{item.name} says that it is touched already")
        if not self._plate_seen:
            yield from seen_to_work(self._host, self._session)
            self._plate_seen = True
        self._inside(axis, self._session.axes[axis.slot].position + float(step.by))
        speed = min(float(step.speed), safe_speed(self._session, axis.slot))
        met = yield from seek(self._host, axis.slot, float(step.by), speed)
        if met is None:
            raise Trouble("nothing was touched")
        self._touched[step.axis] = met

    def _zero(self, name: str, reads: float) -> None:
        axis = self._axis(name)
        at = self._touched.pop(name, self._session.axes[axis.slot].position)
        try:
            self._session.work.place(axis.slot, at - reads)
        except Refusal as why:
            raise Trouble(why.sentence) from None

    def _length(self, number: int, reads: float) -> Steps:
        if "Z" not in self._touched:
            raise Trouble("nothing was touched along Z")
        if number == ASKED:
            typed = yield from self._host.ask(
                reading("action.tool", "Which tool is it? Programs call its length by this number (H).", number_of)
            )
            assert typed is not None  # the world does not answer it
            number = typed
        try:
            length = self._session.tools.touched(number, self._touched.pop("Z") - reads)
        except Refusal as why:
            raise Trouble(why.sentence) from None
        told = self._axis("Z").reads.length(length, sign=True)
        self.said.append(f"H{number} is {told} against the tool of the work zero.")

    def _home(self, names: tuple[str, ...]) -> Steps:
        for name in names:
            if not self._session.powered:
                raise Trouble("the drives are off")
            yield self._host.find_home(self._axis(name).slot)
        yield from self.happened(Event.HOMED)

    def _power(self, *, on: bool) -> Steps:
        if not on:
            self.let_go()
        self._session.link.power(on)
        yield from self._until(lambda: self._session.powered == on, FOLLOWS, "the drives do not follow")
        if on:
            yield from self.happened(Event.POWERED)

    def _switch(self, step: Switch) -> Steps:
        slot = next(out.slot for out in outputs(self._session.machine) if out.role is step.role)
        asked = self._held.asked
        if step.on or asked.tried == slot + 1:
            self._hold(asked._replace(tried=slot + 1 if step.on else 0))
        yield from self._until(lambda: self._session.panel.is_energised(slot) == step.on, FOLLOWS, "it does not switch")

    def _spin(self, rpm: float) -> Steps:
        if rpm and (why := self._session.spindle_obstacle()):
            raise Trouble(why.rstrip("."))
        self._hold(self._held.asked._replace(run=(rpm > 0) - (rpm < 0), speed=round(abs(rpm))))
        yield from self._until(lambda: self._turns() == bool(rpm), FOLLOWS, "the spindle does not follow")
        if is_on_bus(self._session.machine):
            asked, bus = self._held.asked, self._session.bus
            at_speed = lambda: bus.turns(asked, lambda: self._held.asked == asked)  # noqa: E731
            yield from self._until(at_speed, UP_TO_SPEED, "the spindle's drive does not come to its speed")

    def _turns(self) -> bool:
        return bool(self._session.panel.conditions & Condition.SPINDLE)

    def _hold(self, asked: Asked) -> None:
        if asked == Asked():
            self._held.let_go()
        else:
            self._held.hold(asked)


def waits(session: Session, event: Event) -> str:
    """Names of the actions that something starts; empty where there are none."""
    return listed([action.name for action in actions_of(session.machine) if action.event is event])
