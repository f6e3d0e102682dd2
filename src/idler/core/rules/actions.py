"""What is wrong with own actions on a machine: what they name and is not there, where they go, circles."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from ..actions.circles import circles
from ..actions.fields import Named
from ..actions.steps import (
    ASKED,
    Action,
    Ask,
    Await,
    Call,
    Contact,
    Event,
    Frame,
    GoToStop,
    Home,
    If,
    Move,
    Probe,
    Spin,
    Step,
    Switch,
    TakeLength,
    TakeZero,
    every,
)
from ..actions.text import INPUTS, OUTPUTS, TURNING, read, step_text
from ..homing import moves
from ..machine import Address, Axis, Machine
from ..machine.finding import Finding, Severity, at_value
from ..values.roles import AxisNeed, InputRole
from ..wiring import Duty, Input, input_of, inputs, outputs, spindle_kind
from ..wiring.indexing import stops_of_axis

TEXT = Address(None, "actions.text")
ALONE = (Event.HOMED, Event.POWERED)  # what happens without a person's asking for it


def actions_of(machine: Machine) -> tuple[Action, ...]:
    return read(str(machine[TEXT]))


def action_rules(machine: Machine) -> Iterator[Finding]:
    """A text whose actions cannot run is sent all the same: it moves nothing by itself, and is refused where it is begun."""
    for words in problems(machine):
        yield at_value(machine, TEXT, "own_action", Severity.WARNING, words)


def problems(machine: Machine) -> list[str]:
    """Of all of them, sentence by sentence."""
    return [words for action in actions_of(machine) for words in wrong_with(machine, action)]


def wrong_with(machine: Machine, action: Action) -> list[str]:
    """Why this machine cannot do an action, with the step at fault."""
    actions = actions_of(machine)
    found = [
        f"Action “{action.name}” would start itself again: {' → '.join(circle)}."
        for circle in circles(actions)
        if action.name in circle
    ]
    if action.event is Event.TOOL and any(
        isinstance(step, (TakeZero, TakeLength)) for each in with_called(action, actions) for step in every(each.steps)
    ):
        found.append(
            f"Action “{action.name}” would take a work zero or a length at a tool change: what is left of the program is "
            "planned already."
        )
    if action.event in ALONE and any(
        isinstance(step, (Ask, Probe)) or (isinstance(step, TakeLength) and step.number == ASKED)
        for each in with_called(action, actions)
        for step in every(each.steps)
    ):
        found.append(f"Action “{action.name}” asks something at {action.event.what}, where nobody needs to be there.")
    for step in every(action.steps):
        found += [f"Action “{action.name}”, {step_text(step)}: {why}." for why in wrong_with_step(machine, step)]
    return list(dict.fromkeys(found))


def named_on(machine: Machine, action: str) -> Named:
    """What the steps of an action, by its name, may name on this machine."""
    in_roles, out_roles = {each.role for each in inputs(machine)}, {each.role for each in outputs(machine)}
    return Named(
        tuple(axis.name for axis in machine.axes if axis.whole("axis.output")),
        tuple(each.name for each in actions_of(machine) if each.name != action),
        tuple(role for role in INPUTS.values() if role in in_roles),
        tuple(role for role in OUTPUTS.values() if role in out_roles),
    )


def wrong_with_step(machine: Machine, step: Step) -> Iterator[str]:
    """Why this machine cannot do a step, by itself."""
    match step:
        case Move(frame, goals, _):
            for goal in goals:
                axis = _axis(machine, goal.axis)
                yield from _of_axis(axis, goal.axis)
                if axis is not None and frame is Frame.MACHINE:
                    yield from _place(axis, goal.at)
        case Probe(name, by, _):
            yield from _of_axis(_axis(machine, name), name)
            if input_of(machine, Duty(InputRole.PROBE)) is None:
                yield "no input is told to be the touch probe"
            if not by:
                yield "it goes nowhere"
        case TakeZero(name, _):
            yield from _of_axis(_axis(machine, name), name)
        case TakeLength():
            yield from _of_axis(_axis(machine, "Z"), "Z")
        case Home(names):
            for name in names:
                axis = _axis(machine, name)
                yield from _of_axis(axis, name)
                if axis is not None and not moves(axis):
                    yield f"{name} has no homing that moves"
        case GoToStop(name, number):
            axis = _axis(machine, name)
            if axis is None or not axis.whole("axis.output"):
                yield from _of_axis(axis, name)
            elif number > len(stops_of_axis(axis)):
                yield f"{name} has {len(stops_of_axis(axis)) or 'no'} index stops"
        case Switch(role, _):
            if role not in [out.role for out in outputs(machine)]:
                yield f"no output is told to be {role.label}"
        case Spin(rpm):
            if rpm and spindle_kind(machine) == "none":
                yield "no output switches a spindle on"
        case Await(contact, _) | If(contact):
            yield from _contact(machine, contact)
        case Call(name):
            if name not in [each.name for each in actions_of(machine)]:
                yield "there is no such action"


def _axis(machine: Machine, name: str) -> Axis | None:
    return machine.axis(machine.names.index(name)) if name in machine.names else None


def _of_axis(axis: Axis | None, name: str) -> Iterator[str]:
    if axis is None:
        yield f"this machine has no {name}"
    elif not axis.whole("axis.output"):
        yield f"{name} has no motor"
    elif axis.rotary != (name in TURNING):
        told, does = "degrees" if name in TURNING else "mm", "turns" if axis.rotary else "does not turn"
        yield f"{name} is told in {told}, and this one {does}"


def place_of(axis: Axis, at: Fraction | None) -> Fraction:
    """Machine coordinate of a goal that is counted from the machine: None is the parking place."""
    return axis.number("travel.park") if at is None else at


def _place(axis: Axis, at: Fraction | None) -> Iterator[str]:
    low, high = axis.number("travel.low"), axis.number("travel.high")
    place = place_of(axis, at)
    if at is None and not axis.flag("travel.parks"):
        yield f"{axis.name} has no parking place"
    elif not axis.wraps and not low <= place <= high:
        there = axis.reads.length(place, trim=True)
        yield f"{axis.name} goes to {there}, and its travel is {axis.reads.range(low, high)}"


def _contact(machine: Machine, contact: Contact) -> Iterator[str]:
    if contact.role.axis is AxisNeed.MUST and not contact.axis:
        yield f"{contact.role.label} is of an axis: say which"
    elif contact_input(machine, contact) is None:
        of = f" of {contact.axis}" if contact.axis else ""
        yield f"no input is told to be {contact.role.label}{of}"


def contact_input(machine: Machine, contact: Contact) -> Input | None:
    """The input that a contact stands for; None where there is none."""
    return input_of(machine, Duty(contact.role, contact.axis))


def with_called(action: Action, actions: tuple[Action, ...]) -> tuple[Action, ...]:
    """An action and all that it calls, each once."""
    by_name = {each.name: each for each in actions}
    found, ahead = {action.name: action}, [action]
    while ahead:
        for step in every(ahead.pop().steps):
            if isinstance(step, Call) and step.name in by_name and step.name not in found:
                found[step.name] = by_name[step.name]
                ahead.append(by_name[step.name])
    return tuple(found.values())


def moved(action: Action, actions: tuple[Action, ...]) -> tuple[str, ...]:
    """Letters of the axes that it moves to places or by distances, those of what it calls too."""
    found: dict[str, None] = {}
    for each in with_called(action, actions):
        for step in every(each.steps):
            if isinstance(step, Move):
                found |= dict.fromkeys(goal.axis for goal in step.goals)
            elif isinstance(step, (Probe, GoToStop)):
                found[step.axis] = None
    return tuple(found)
