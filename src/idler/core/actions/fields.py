"""A step as fields: what each kind of step is made of, what a field may hold, and the step that follows from one that is filled
in anew. The grammar of the text reads what was typed, so that both refuse the same with the same words.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from fractions import Fraction

from ..errors import Refusal
from ..values.quantity import NotANumber, split
from ..values.roles import AxisNeed, InputRole, OutputRole
from ..values.units import MM, RPM, SECOND, exact_text
from .edits import sides, with_side
from .steps import (
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
from .text import BARE, INPUTS, OUTPUTS, TURNING, place_unit, read, speed_unit

NONE = ""  # the key of an offer that takes something away
SAFE = "as fast as is safe"
_AXIS, _PLACE = "axis", "place"


@dataclass(frozen=True)
class Named:
    """What the fields of a step may name: letters of the axes, the other actions, inputs and outputs that have a role here."""

    axes: tuple[str, ...]
    actions: tuple[str, ...] = ()
    inputs: tuple[InputRole, ...] = tuple(INPUTS.values())
    outputs: tuple[OutputRole, ...] = tuple(OUTPUTS.values())


@dataclass(frozen=True)
class Field:
    """text: what stands in it, as the text of actions has it. offers: what may stand there, key and words; empty where it is
    typed. long: whether it holds a sentence. empty: what it means that nothing stands in it."""

    key: str
    name: str
    text: str
    offers: tuple[tuple[str, str], ...] = ()
    long: bool = False
    empty: str = ""


KINDS: dict[str, str] = {
    "move": "Move axes", "index": "Go to an index stop", "home": "Find home", "probe": "Probe", "zero": "Take a work zero",
    "length": "Take a tool's length", "output": "Switch an output", "spindle": "Turn the spindle", "dwell": "Stay a while",
    "wait": "Wait for an input", "power": "Power the drives", "say": "Say something", "ask": "Ask, and do one or the other",
    "if": "Look at an input, and do one or the other", "call": "Do another action",
}  # fmt: skip


def fresh(kind: str, named: Named) -> Step:
    """A step of a kind that does as little as one can; to be filled in. Raises Refusal where there is nothing to name."""
    axis = named.axes[0] if named.axes else "X"
    up = "Z" if "Z" in named.axes else axis
    contact = Contact(*_first_input(named), made=True)
    if kind == "call" and not named.actions:
        raise Refusal("call", "", "there is no other action", way_out="make one first")
    made: dict[str, Callable[[], Step]] = {
        "move": lambda: Move(Frame.BY, (Goal(axis, Fraction(0)),)), "index": lambda: GoToStop(axis, 1),
        "home": lambda: Home((axis,)), "probe": lambda: Probe(up, Fraction(-10), Fraction(60)),
        "zero": lambda: TakeZero(up, Fraction(0)), "length": lambda: TakeLength(ASKED, Fraction(0)),
        "output": lambda: Switch(named.outputs[0] if named.outputs else OutputRole.COOLANT, on=False),
        "spindle": lambda: Spin(Fraction(0)), "dwell": lambda: Dwell(Fraction(1)),
        "wait": lambda: Await(contact, Fraction(10)), "power": lambda: Power(on=True), "say": lambda: Say("Look."),
        "ask": lambda: Ask("Go on?", ()), "if": lambda: If(contact, ()), "call": lambda: Call(named.actions[0]),
    }  # fmt: skip
    return made[kind]()


def fields_of(step: Step, named: Named) -> tuple[Field, ...]:
    """In the order in which they are read."""
    axes = _offers(
        tuple(dict.fromkeys((*named.axes, *_letters(step))))
    )  # those that it names, whether they are there or not
    on = (("on", "on"), ("off", "off"))
    match step:
        case Move(frame, goals, speed):
            first = Field("frame", "Counted from", frame.value, _FRAMES)
            speed_text = "" if speed is None else exact_text(speed, speed_unit(goals[0].axis))
            last = Field("speed", "Speed", speed_text, empty=SAFE)
            return (first, *_goals(goals, axes), last)
        case GoToStop(axis, number):
            return Field(_AXIS, "Axis", axis, axes), Field("number", "Index stop", str(number))
        case Home(letters):
            listed = [
                Field(f"{_AXIS}{at}", f"Axis {at + 1}", name, _or_none(axes, at)) for at, name in enumerate(letters)
            ]
            if left := _offers(tuple(name for name in named.axes if name not in letters)):
                listed.append(Field(f"{_AXIS}{len(letters)}", "Then", NONE, ((NONE, "—"), *left)))
            return tuple(listed)
        case Probe(axis, by, speed):
            return (
                Field(_AXIS, "Axis", axis, axes), Field("by", "By at most", exact_text(by, place_unit(axis))),
                Field("speed", "Speed", exact_text(speed, speed_unit(axis))),
            )  # fmt: skip
        case TakeZero(axis, reads):
            return Field(_AXIS, "Axis", axis, axes), Field("reads", "It reads", exact_text(reads, place_unit(axis)))
        case TakeLength(number, reads):
            return Field("number", "Tool", str(number or "asked"), empty="asked"), Field(
                "reads", "Z reads", exact_text(reads, MM)
            )
        case Switch(role, state):
            roles = tuple((each.key, each.label) for each in dict.fromkeys((*named.outputs, role)))
            return Field("role", "Output", role.key, roles), Field("on", "State", "on" if state else "off", on)
        case Spin(rpm):
            way = "right" if rpm > 0 else "left" if rpm else "off"
            ways = tuple((each, each) for each in ("right", "left", "off"))
            turns = (Field("speed", "Speed", exact_text(abs(rpm), RPM)),) if rpm else ()
            return (Field("way", "Way", way, ways), *turns)
        case Dwell(seconds):
            return (Field("seconds", "For", exact_text(seconds, SECOND)),)
        case Await(contact, within):
            return (*_contact(contact, named), Field("within", "Within", exact_text(within, SECOND)))
        case If(contact):
            return _contact(contact, named)
        case Power(state):
            return (Field("on", "Drives", "on" if state else "off", on),)
        case Say(text) | Ask(text):
            return (Field("text", "Words", text, long=True),)
        case Call(name):
            names = tuple((each, each) for each in dict.fromkeys((*named.actions, name)))
            return (Field("name", "Action", name, names),)


def filled(step: Step, key: str, text: str, named: Named) -> Step:
    """The step with something else in one of its fields. A bare number has the unit of what stands there. Raises Refusal."""
    fields = {field.key: field for field in fields_of(step, named)}
    typed = " ".join(text.split())
    if BARE.fullmatch(typed) and not fields[key].offers:
        typed = f"{typed} {_unit_of(fields[key].text)}".strip()
    told = {each.key: each.text for each in fields.values()} | {key: typed}
    words = _words(step, told, key)
    try:
        (action,) = read(f'action "a" {{ {words} }}')
        (made,) = action.steps
    except Refusal as why:
        raise Refusal(fields[key].name, why.value, why.problem, why.bound, why.way_out) from None
    except ValueError:
        made = None
    if type(made) is not type(step):
        raise Refusal(fields[key].name, f"“{text[:40]}”", "is more than one value", "one value with its unit")
    assert made is not None
    for side, block in enumerate(sides(step)):
        made = with_side(made, side, block)
    return made


def _unit_of(text: str) -> str:
    """Of a value; nothing where it has none, or is no value."""
    try:
        return split(text)[1]
    except NotANumber:
        return ""


# -- heads of actions ---------------------------------------------------------------------------------------------------

EVENTS = tuple((event.words, event.what) for event in Event)


def headed(action: Action, *, event: str | None = None, key: str | None = None) -> Action:
    """With another event, by its words, or another key. Raises Refusal."""
    event = action.event.words if event is None else event
    key = action.key if key is None else " ".join(key.split())
    on, by = f" on {event}" if event else "", f' key "{key}"' if key else ""
    (head,) = read(f'action "a"{on}{by} {{ }}')
    return Action(action.name, action.steps, head.event, head.key)


def named_by(text: str) -> str:
    """A name of an action as it is kept. Raises Refusal."""
    if '"' in text:
        raise Refusal("name", f"“{text[:40]}”", "has a quotation mark in it", way_out="leave it out")
    (action,) = read(f'action "{text}" {{ }}')
    return action.name


# -- within -------------------------------------------------------------------------------------------------------------

_FRAMES = (
    (Frame.MACHINE.value, "the machine"), (Frame.WORK.value, "the work zero"), (Frame.BY.value, "where it stands"),
)  # fmt: skip


def _offers(names: tuple[str, ...]) -> tuple[tuple[str, str], ...]:
    return tuple((name, name) for name in names)


def _or_none(axes: tuple[tuple[str, str], ...], at: int) -> tuple[tuple[str, str], ...]:
    """The first one of a list is not to be taken away."""
    return axes if not at else ((NONE, "—"), *axes)


def _letters(step: Step) -> tuple[str, ...]:
    """Of the axes that a step names."""
    match step:
        case Move(_, goals):
            return tuple(goal.axis for goal in goals)
        case Home(letters):
            return letters
        case GoToStop(axis) | Probe(axis) | TakeZero(axis):
            return (axis,)
    return ()


def _goals(goals: tuple[Goal, ...], axes: tuple[tuple[str, str], ...]) -> list[Field]:
    """An axis and a place for each, and an axis to go on with."""
    found: list[Field] = []
    for at, goal in enumerate(goals):
        place = "park" if goal.at is None else exact_text(goal.at, place_unit(goal.axis))
        found += [
            Field(f"{_AXIS}{at}", "Axis" if not at else "Then", goal.axis, _or_none(axes, at)),
            Field(f"{_PLACE}{at}", "Place", place),
        ]
    return [*found, Field(f"{_AXIS}{len(goals)}", "Then", NONE, ((NONE, "—"), *axes))]


def _contact(contact: Contact, named: Named) -> tuple[Field, ...]:
    roles = tuple((each.key, each.label) for each in dict.fromkeys((*named.inputs, contact.role)))
    axes = ((NONE, "—"), *_offers(tuple(dict.fromkeys((*named.axes, *contact.axis)))))
    of = () if contact.role.axis is AxisNeed.NO else (Field(_AXIS, "Of axis", contact.axis, axes),)
    state = Field("on", "State", "on" if contact.made else "off", (("on", "made, not at rest"), ("off", "at rest")))
    return (Field("role", "Input", contact.role.key, roles), *of, state)


def _first_input(named: Named) -> tuple[InputRole, str]:
    role = next((each for each in named.inputs if each.axis is not AxisNeed.MUST), None)
    if role is not None:
        return role, ""
    axis = named.axes[0] if named.axes else "X"
    return (named.inputs[0], axis) if named.inputs else (InputRole.PROBE, "")


def _words(step: Step, told: Mapping[str, str], key: str) -> str:
    """The text of a step whose fields hold so much; what a changed axis leaves without sense becomes 0 of its own unit."""
    if '"' in told.get("text", ""):
        raise Refusal("Words", f"“{told['text'][:40]}”", "have a quotation mark in them", way_out="leave it out")
    match step:
        case Move():
            return _move_words(step, told, key)
        case Home():
            return f"home {' '.join(name for at, name in sorted(told.items()) if name)}"
        case Probe(axis) | TakeZero(axis) if key == _AXIS and (axis in TURNING) != (told[_AXIS] in TURNING):
            new = told[_AXIS]
            nothing = exact_text(Fraction(0), place_unit(new))
            slow = exact_text(Fraction(60), speed_unit(new))
            return f"probe {new} {nothing} at {slow}" if isinstance(step, Probe) else f"zero {new} {nothing}"
        case Probe():
            return f"probe {told[_AXIS]} {told['by']} at {told['speed']}"
        case TakeZero():
            return f"zero {told[_AXIS]} {told['reads']}"
        case GoToStop():
            return f"index {told[_AXIS]} {told['number']}"
        case TakeLength():
            return f"length {told['number'] or 'asked'} {told['reads']}"
        case Switch():
            return f"output {told['role']} {told['on']}"
        case Spin():
            way = told["way"]
            return (
                "spindle off"
                if way == "off"
                else f"spindle {way} {told.get('speed') or exact_text(Fraction(1000), RPM)}"
            )
        case Dwell():
            return f"dwell {told['seconds']}"
        case Await():
            return f"wait {_contact_words(told)} within {told['within']}"
        case If():
            return f"if {_contact_words(told)} {{ }}"
        case Power():
            return f"power {told['on']}"
        case Say():
            return f'say "{told["text"]}"'
        case Ask():
            return f'ask "{told["text"]}" {{ }}'
        case Call():
            return f'call "{told["name"]}"'


def _contact_words(told: Mapping[str, str]) -> str:
    role = INPUTS[told["role"]]
    axis = "" if role.axis is AxisNeed.NO else told.get(_AXIS, "")
    return " ".join(word for word in (told["role"], axis, told["on"]) if word)


def _move_words(step: Move, told: Mapping[str, str], key: str) -> str:
    frame, speed = told["frame"], told["speed"]
    goals: list[str] = []
    for at in range(sum(name.startswith(_AXIS) for name in told)):
        axis, place = told[f"{_AXIS}{at}"], told.get(f"{_PLACE}{at}", "")
        if not axis:
            continue
        parks = frame == Frame.MACHINE.value and place == "park"
        other = at < len(step.goals) and (step.goals[at].axis in TURNING) != (axis in TURNING)  # mm in place of °
        if not parks and (not place or other or (key == "frame" and place == "park")):
            place = exact_text(Fraction(0), place_unit(axis))
        if other and not goals:
            speed = ""
        goals.append(f"{axis} {place}")
    return f"move {frame} {' '.join(goals)}{f' at {speed}' if speed else ''}"
