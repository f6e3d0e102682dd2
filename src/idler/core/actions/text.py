"""The text of own actions: read into steps, and written so that it reads back as the same. See docs/actions.md."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache

from ..errors import Refusal
from ..values.indexstops import MOST_STOPS
from ..values.quantity import NotANumber, parse, split
from ..values.roles import InputRole, OutputRole
from ..values.toolnumber import TOOLS
from ..values.units import DEG, DEG_MIN, MM, MM_MIN, RPM, SECOND, Unit, exact_text
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

NOTHING = "none"  # the text of no actions: a string of no length cannot be sent
MOST_ACTIONS, MOST_STEPS, DEEPEST = 40, 400, 8
LONGEST_NAME, LONGEST_WORDS = 40, 160  # characters
LONGEST_WAIT = Fraction(600)  # s
AXES = "XYZABCUVW"
TURNING = "ABC"
BARE = re.compile(r"[-+−]?[0-9.,/]+")
_TOKEN = re.compile(r'\s+|#[^\n]*|"([^"\n]*)"|([{};])|([^\s{};"#]+)')
_FREE = (InputRole.NONE,)
INPUTS = {role.key: role for role in InputRole if role not in _FREE}
OUTPUTS = {role.key: role for role in (OutputRole.COOLANT, OutputRole.MIST, OutputRole.WAY_OIL)}
EVENTS = {event.words: event for event in Event if event.words}


@dataclass(frozen=True)
class _Token:
    text: str
    line: int
    quoted: bool = False


def _tokens(text: str) -> Iterator[_Token]:
    at, line = 0, 1
    while at < len(text):
        found = _TOKEN.match(text, at)
        if found is None:
            raise Refusal(
                f"line {line}", "", "a quotation that nothing closes", way_out='end it with " in the same line'
            )
        quoted, sign, word = found.groups()
        if quoted is not None:
            yield _Token(quoted, line, quoted=True)
        elif sign or word:
            yield _Token(sign or word, line)
        line += found.group().count("\n")
        at = found.end()


class _Reader:
    def __init__(self, text: str) -> None:
        self._tokens = list(_tokens(text))
        self._at = 0
        self._steps = 0

    # -- tokens -----------------------------------------------------------------------------------------------------

    @property
    def over(self) -> bool:
        return self._at >= len(self._tokens)

    @property
    def _now(self) -> _Token:
        if self.over:
            last = self._tokens[-1].line if self._tokens else 1
            raise Refusal(f"line {last}", "", "the text ends in the middle of something", way_out="end it with ; or }")
        return self._tokens[self._at]

    def _is(self, *words: str) -> bool:
        return not self.over and not self._now.quoted and self._now.text in words

    def _next(self) -> _Token:
        token = self._now
        self._at += 1
        return token

    def wrong(self, token: _Token, problem: str, bound: str) -> Refusal:
        return Refusal(f"line {token.line}", f"“{token.text[:40]}”", problem, bound)

    def _want(self, sign: str) -> None:
        token = self._next()
        if token.quoted or token.text != sign:
            raise self.wrong(token, f"stands where “{sign}” should", "")

    def _quoted(self, what: str, longest: int) -> str:
        token = self._next()
        words = " ".join(token.text.split())
        if not token.quoted:
            raise self.wrong(token, f"stands where {what} should", 'write it in "quotation marks"')
        if not 0 < len(words) <= longest or not words.isprintable():
            raise self.wrong(token, f"is no {what}", f"1 to {longest} signs")
        return words

    def _one_of(self, known: dict[str, object], what: str) -> str:
        token = self._next()
        if token.quoted or token.text not in known:
            raise self.wrong(token, f"is no {what}", f"take one of: {', '.join(known)}")
        return token.text

    def _axis(self) -> str:
        return self._one_of(dict.fromkeys(AXES), "axis")

    def _number(self, what: str, most: int, *words: str) -> int:
        """One from 1 on, as a word of its own. words: what might stand in its place."""
        token = self._next()
        number = int(token.text) if token.text.isdecimal() and len(token.text) < 5 and not token.quoted else 0
        if not 1 <= number <= most:
            raise self.wrong(token, f"is no {what}", ", or ".join((f"a number from 1 to {most}", *words)))
        return number

    def _figure(self, what: str, unit: Unit) -> Fraction:
        """A number and its unit, as one word or two. Raises Refusal."""
        token = self._next()
        text = token.text
        if not self.over and not self._now.quoted and BARE.fullmatch(text) and not self._is(";", "}", "at"):
            text = f"{text} {self._next().text}"
        try:
            if not split(text)[1]:
                raise NotANumber("has no unit")
            return parse(text, unit, part=what)
        except (Refusal, NotANumber):
            raise self.wrong(
                _Token(text, token.line), f"is no {what}", f"a number with its unit, as 12.5 {unit.symbol}"
            ) from None

    # -- the grammar ------------------------------------------------------------------------------------------------

    def actions(self) -> tuple[Action, ...]:
        found: list[Action] = []
        while not self.over:
            self._want("action")
            action = self._action()
            if action.name in [each.name for each in found]:
                raise Refusal("action", f"“{action.name}”", "is there twice", way_out="give one of them another name")
            found.append(action)
        if len(found) > MOST_ACTIONS:
            raise Refusal("actions", str(len(found)), "are too many", f"{MOST_ACTIONS} at most")
        return tuple(found)

    def _action(self) -> Action:
        name, event, key = self._quoted("name", LONGEST_NAME), Event.BUTTON, ""
        while not self._is("{"):
            token = self._next()
            if token.text == "on" and not token.quoted and event is Event.BUTTON:
                event = self._event()
            elif token.text == "key" and not token.quoted and not key:
                key = self._quoted("key", LONGEST_NAME)
                if "+" not in key.strip("+"):
                    raise Refusal("key", f"“{key}”", "is a single key, and nothing that moves is on one",
                                  way_out="take it with Ctrl or Alt, as Ctrl+1")  # fmt: skip
            else:
                raise self.wrong(token, "stands where the steps should begin", "on and an event, key and a key, or {")
        return Action(name, self._block(0), event, key)

    def _event(self) -> Event:
        first = self._next()
        two = f"{first.text} {self._now.text}" if not self.over else first.text
        if two in EVENTS:
            self._next()
            return EVENTS[two]
        if first.quoted or first.text not in EVENTS:
            raise self.wrong(first, "is nothing that starts an action", ", ".join(EVENTS))
        return EVENTS[first.text]

    def _block(self, depth: int) -> tuple[Step, ...]:
        token = self._now
        self._want("{")
        if depth > DEEPEST:
            raise self.wrong(token, "lies too deep", f"{DEEPEST} blocks in one another at most")
        steps: list[Step] = []
        while not self._is("}"):
            steps.append(self._step(depth))
            self._steps += 1
            if self._steps > MOST_STEPS:
                raise self.wrong(token, "is too long", f"{MOST_STEPS} steps in all")
        self._want("}")
        return tuple(steps)

    def _step(self, depth: int) -> Step:
        token = self._next()
        if token.text in ("ask", "if") and not token.quoted:
            return self._ask(depth) if token.text == "ask" else self._if(depth)
        simple: dict[str, Callable[[], Step]] = {
            "move": self._move, "index": self._index,
            "output": self._switch, "dwell": lambda: Dwell(self._seconds("dwell")), "spindle": self._spin,
            "wait": self._await, "probe": self._probe, "zero": self._zero, "length": self._length, "home": self._home,
            "power": lambda: Power(self._on()), "say": lambda: Say(self._quoted("sentence", LONGEST_WORDS)),
            "call": lambda: Call(self._quoted("name", LONGEST_NAME)),
        }  # fmt: skip
        if token.quoted or token.text not in simple:
            raise self.wrong(token, "is no step", ", ".join((*simple, "ask", "if")))
        step = simple[token.text]()
        if not self._is("}"):
            self._want(";")
        return step

    def _on(self) -> bool:
        return self._one_of({"on": 0, "off": 0}, "state") == "on"

    def _seconds(self, what: str) -> Fraction:
        token, value = self._now, self._figure(what, SECOND)
        if not 0 <= value <= LONGEST_WAIT:
            raise self.wrong(token, f"is no {what}", f"0 to {LONGEST_WAIT} s")
        return value

    def _speed(self, axis: str) -> Fraction:
        token, value = self._now, self._figure("speed", speed_unit(axis))
        if value <= 0:
            raise self.wrong(token, "is no speed", "above 0")
        return value

    def _move(self) -> Step:
        frame = Frame(self._one_of({frame.value: 0 for frame in Frame}, "way to count a place"))
        goals: list[Goal] = []
        while not goals or not self._is(";", "}", "at"):
            axis = self._axis()
            parks = frame is Frame.MACHINE and self._is("park")
            if parks:
                self._next()
            goals.append(Goal(axis, None if parks else self._figure("place", place_unit(axis))))
        speed = None
        if self._is("at"):
            self._next()
            speed = self._speed(goals[0].axis)
        return Move(frame, tuple(goals), speed)

    def _index(self) -> Step:
        return GoToStop(self._axis(), self._number("index stop", MOST_STOPS))

    def _switch(self) -> Step:
        role = OUTPUTS[self._one_of(dict(OUTPUTS), "output")]
        return Switch(role, self._on())

    def _spin(self) -> Step:
        way = self._one_of({"right": 0, "left": 0, "off": 0}, "way to turn")
        if way == "off":
            return Spin(Fraction(0))
        token, rpm = self._now, self._figure("speed", RPM)
        if rpm <= 0:
            raise self.wrong(token, "is no speed", "above 0 rpm")
        return Spin(rpm if way == "right" else -rpm)

    def _contact(self) -> Contact:
        role = INPUTS[self._one_of(dict(INPUTS), "input")]
        axis = self._axis() if not self.over and not self._now.quoted and self._now.text in AXES else ""
        return Contact(role, axis, self._on())

    def _await(self) -> Step:
        contact, token = self._contact(), self._next()
        if token.quoted or token.text != "within":
            raise self.wrong(
                token, "stands where a wait should say how long", "within and a time: every wait has an end"
            )
        return Await(contact, self._seconds("wait"))

    def _probe(self) -> Step:
        axis = self._axis()
        by = self._figure("way", place_unit(axis))
        self._want("at")
        return Probe(axis, by, self._speed(axis))

    def _zero(self) -> Step:
        axis = self._axis()
        return TakeZero(axis, self._figure("place", place_unit(axis)))

    def _length(self) -> Step:
        if self._is("asked"):
            self._next()
            number = ASKED
        else:
            number = self._number("tool", TOOLS - 1, "asked")
        return TakeLength(number, self._figure("place", MM))

    def _home(self) -> Step:
        axes = [self._axis()]
        while not self._is(";", "}"):
            axes.append(self._axis())
        return Home(tuple(axes))

    def _ask(self, depth: int) -> Step:
        text, yes = self._quoted("question", LONGEST_WORDS), self._block(depth + 1)
        return Ask(text, yes, self._otherwise(depth))

    def _if(self, depth: int) -> Step:
        contact, then = self._contact(), self._block(depth + 1)
        return If(contact, then, self._otherwise(depth))

    def _otherwise(self, depth: int) -> tuple[Step, ...]:
        if not self._is("else"):
            return ()
        self._next()
        return self._block(depth + 1)


def place_unit(axis: str) -> Unit:
    """A, B and C turn about X, Y and Z (ISO 841)."""
    return DEG if axis in TURNING else MM


def speed_unit(axis: str) -> Unit:
    return DEG_MIN if axis in TURNING else MM_MIN


@lru_cache(maxsize=16)
def read(text: str) -> tuple[Action, ...]:
    """Raises Refusal with the line where it makes no sense."""
    return () if text.strip() in ("", NOTHING) else _Reader(text).actions()


def problem(text: str) -> str:
    """Why a text is none of actions, or an empty one."""
    try:
        read(text)
    except Refusal as why:
        return why.sentence.rstrip(".")
    return ""


def brief(text: str) -> str:
    """What stands in it, for lists and comparisons."""
    try:
        found = read(text)
    except Refusal:
        return "no text of actions"
    return f"{len(found)}: {', '.join(action.name for action in found)}" if found else NOTHING


# -- writing ----------------------------------------------------------------------------------------------------------


def one_line(actions: tuple[Action, ...]) -> str:
    """As it is kept and sent: one line, without remarks."""
    return " ".join(line.strip() for line in write(actions).splitlines()) or NOTHING


def write(actions: tuple[Action, ...]) -> str:
    """As it is edited: a step in a line."""
    return "\n".join(line for action in actions for line in _action_lines(action))


def _action_lines(action: Action) -> Iterator[str]:
    on = f" on {action.event.words}" if action.event.words else ""
    key = f' key "{action.key}"' if action.key else ""
    yield f'action "{action.name}"{on}{key} {{'
    yield from _lines(action.steps, 1)
    yield "}"


def _lines(steps: tuple[Step, ...], depth: int) -> Iterator[str]:
    room = "  " * depth
    for step in steps:
        match step:
            case Ask(text, yes, no):
                yield from _branches(f'ask "{text}"', yes, no, depth)
            case If(contact, then, otherwise):
                yield from _branches(f"if {_contact(contact)}", then, otherwise, depth)
            case _:
                yield f"{room}{step_text(step)};"


def _branches(head: str, first: tuple[Step, ...], second: tuple[Step, ...], depth: int) -> Iterator[str]:
    room = "  " * depth
    yield f"{room}{head} {{"
    yield from _lines(first, depth + 1)
    if second:
        yield f"{room}}} else {{"
        yield from _lines(second, depth + 1)
    yield f"{room}}}"


def _contact(contact: Contact) -> str:
    axis = f" {contact.axis}" if contact.axis else ""
    return f"{contact.role.key}{axis} {'on' if contact.made else 'off'}"


def _place(axis: str, at: Fraction | None) -> str:
    return f"{axis} park" if at is None else f"{axis} {exact_text(at, place_unit(axis))}"


def _speed(axis: str, speed: Fraction) -> str:
    return exact_text(speed, speed_unit(axis))


def step_text(step: Step) -> str:
    """One step in words of the text; of a branch its head."""
    match step:
        case Move(frame, goals, speed):
            at = f" at {_speed(goals[0].axis, speed)}" if speed is not None else ""
            return f"move {frame.value} {' '.join(_place(goal.axis, goal.at) for goal in goals)}{at}"
        case GoToStop(axis, number):
            return f"index {axis} {number}"
        case Switch(role, on):
            return f"output {role.key} {'on' if on else 'off'}"
        case Dwell(seconds):
            return f"dwell {exact_text(seconds, SECOND)}"
        case Spin(rpm):
            return f"spindle {'right' if rpm > 0 else 'left'} {exact_text(abs(rpm), RPM)}" if rpm else "spindle off"
        case Await(contact, within):
            return f"wait {_contact(contact)} within {exact_text(within, SECOND)}"
        case Probe(axis, by, speed):
            return f"probe {_place(axis, by)} at {_speed(axis, speed)}"
        case TakeZero(axis, reads):
            return f"zero {_place(axis, reads)}"
        case TakeLength(number, reads):
            return f"length {number or 'asked'} {exact_text(reads, MM)}"
        case Home(axes):
            return f"home {' '.join(axes)}"
        case Power(on):
            return f"power {'on' if on else 'off'}"
        case Say(text):
            return f'say "{text}"'
        case Call(name):
            return f'call "{name}"'
        case Ask(text):
            return f'ask "{text}"'
        case If(contact):
            return f"if {_contact(contact)}"
