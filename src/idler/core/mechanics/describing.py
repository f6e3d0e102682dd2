"""A machine that nobody has described yet, from a handful of answers. Window and terminal ask the same questions.

What follows from an answer is worked out anew from all of them, so that each can be changed at any time; everything that was
not asked has its careful default, and is said to have it.
"""

from __future__ import annotations

import difflib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction

from ..errors import Refusal
from ..machine import Address, Axis, Machine
from ..table import AXIS_LETTERS, MOST_AXES, row_of, used_with
from ..values.parameter import Parameter, Value
from ..values.units import figure
from .chain import Chain

COARSE, FINE = Fraction(1, 100), Fraction(1, 1_000_000)  # mm of one count: beyond them it is asked about
LONG, SHORT = 20_000, 20  # mm of travel
SWITCH_BEYOND = 2  # mm from the end of the travel to the home switch
MICROSTEPS = (1, 2, 4, 5, 8, 10, 16, 20, 25, 32, 40, 50, 64, 100, 125, 128, 200, 250, 256)
YES, NO = "yes", "no"
Answers = Mapping[str, str]


@dataclass(frozen=True)
class Asked:
    """One question. key: "kind", or with the letter of an axis "X.pitch". choices: key and words of each; none where a value is
    typed. row: of the value that is typed, where it is one of the table. usual: what counts while nobody has answered.
    """

    key: str
    text: str
    usual: str
    choices: tuple[tuple[str, str], ...] = ()
    row: Parameter | None = None
    axis: str = ""


def _row_choice(key: str, text: str, where: str, usual: str, axis: str = "", only: tuple[str, ...] = ()) -> Asked:
    row = row_of(0 if axis else None, where)
    offered = tuple((choice.key, choice.label) for choice in row.choices if not only or choice.key in only)
    return Asked(key, text, usual, offered, axis=axis)


def _typed(key: str, text: str, where: str, axis: str = "", usual: str = "") -> Asked:
    row = row_of(0 if axis else None, where)
    return Asked(key, text, usual or row.show(row.default), row=row, axis=axis)


_MOVES = {"mill": {"X": "work", "Y": "work", "Z": "tool"}, "router": {"X": "tool", "Y": "tool", "Z": "tool"},
          "lathe": {"X": "tool", "Z": "tool"}, "table": {"X": "tool", "Y": "tool", "Z": "tool"}}  # fmt: skip
_USUAL_AXES = {"lathe": "XZ"}
TABLE = "table"
ROTARY = "ABC"


def questions(answers: Answers) -> list[Asked]:
    """All that are asked, in their order, with these answers; an answer that is no choice counts as none."""
    return list(_questions(answers))


def _questions(answers: Answers) -> Iterator[Asked]:
    def said(asked: Asked) -> str:
        return _answer(asked, answers)

    kind = _row_choice("kind", "What kind of machine is it?", "build.kind", "mill")
    yield kind
    yield _row_choice("unit", "In what do you read lengths?", "names.screen_unit", "mm")
    axes = Asked(
        "axes", "Which axes has it? Their letters, in the order of their drives.", _USUAL_AXES.get(said(kind), "XYZ")
    )
    yield axes
    for letter in _letters(said(axes), lenient=True):
        yield from _of_axis(letter, answers)
    table = said(kind) == TABLE
    if table:
        yield _row_choice("cutter", "What cuts?", "build.cutter", "torch")
        spindle = Asked("spindle", "Does an output switch it?", "relay", (("relay", "yes"), ("none", "no, by hand")))
    else:
        spindle = _row_choice("spindle", "What turns the tool, or the work?", "spindle.kind", "none")
    yield spindle
    if said(spindle) != "none" and not table:
        yield Asked("top", "Its highest speed?", "6000 rpm", row=row_of(0, "range.high"))
    oil = Asked("oil", "Does it oil its ways by a pump?", NO, ((YES, "yes"), (NO, "no")))
    yield oil
    if said(oil) == YES:
        yield _typed("oil_seconds", "For how long does the pump run?", "oil.seconds", usual="6 s")
        yield _typed("oil_every", "Every how many minutes?", "oil.every")


def _short(key: str) -> str:
    return key.partition(".")[2]


def _of_axis(letter: str, answers: Answers) -> Iterator[Asked]:
    def asked(key: str, text: str, usual: str, choices: tuple[tuple[str, str], ...]) -> Asked:
        return Asked(f"{letter}.{key}", f"{letter}: {text}", usual, choices, axis=letter)

    rotary = letter in ROTARY
    offered = tuple((choice.key, choice.label) for choice in row_of(0, "chain.final").choices)
    driven = asked("driven", "what drives it?", "worm" if rotary else "screw", offered)
    yield driven
    for row in used_with("chain.final", _answer(driven, answers)):
        yield _typed(f"{letter}.{_short(row.key)}", f"{letter}: {row.label}?", row.key, letter)
    motor = _row_choice(f"{letter}.motor", f"{letter}: its motor?", "chain.motor", "stepper", letter)
    yield motor
    if _answer(motor, answers) == "stepper":
        yield _typed(f"{letter}.microsteps", f"{letter}: microsteps, as its drive is set?", "chain.microsteps", letter)
    else:
        yield _typed(f"{letter}.counts", f"{letter}: counts for one turn of its motor?", "chain.motor_counts", letter)
    if not rotary:
        yield Asked(
            f"{letter}.travel", f"{letter}: how far can it travel?", "300 mm", row=row_of(0, "travel.high"), axis=letter
        )
    by = asked("by", "how does it find its home?", "switch",
               (("switch", "a switch"), ("stop", "a hard stop, felt"), ("here", "where it stands")))  # fmt: skip
    yield by
    if _answer(by, answers) != "here":
        yield asked(
            "home", "at which end does home lie?", "high", (("high", "the high end, +"), ("low", "the low end, −"))
        )


def _answer(asked: Asked, answers: Answers) -> str:
    """What was answered; what is usual where nothing was, or nothing that can be."""
    given = answers.get(asked.key, "").strip()
    if not given:
        return asked.usual
    if asked.choices:
        return given if given in dict(asked.choices) else asked.usual
    return given


def _letters(text: str, *, lenient: bool = False) -> tuple[str, ...]:
    """Raises Refusal for what are no letters of axes; lenient: leaves them out."""
    found = tuple(letter for letter in text.upper() if not letter.isspace() and letter != ",")
    good = tuple(dict.fromkeys(letter for letter in found if letter in AXIS_LETTERS))[:MOST_AXES]
    if lenient:
        return good
    if good != found or not good:
        raise Refusal("axes", f"“{text[:20]}”", "are no axes", f"up to {MOST_AXES} different letters of {AXIS_LETTERS}")
    return good


def described(answers: Answers, name: str = "") -> Machine:
    """The machine that the answers mean. Raises Refusal naming the answer, what is wrong with it and the way out."""
    asked = {each.key: each for each in questions(answers)}
    for key, value in answers.items():
        if key not in asked:
            near = difflib.get_close_matches(key, asked, 1)
            raise Refusal(
                "answer",
                key[:40],
                "belongs to no question that is asked",
                way_out=f"write {near[0]}" if near else "",
            )
        choices = dict(asked[key].choices)
        if value.strip() and choices and value.strip() not in choices:
            raise Refusal(key, f"“{value[:20]}”", "is none of its answers", f"they are {', '.join(choices)}")
    said = {key: _answer(each, answers) for key, each in asked.items()}
    machine = Machine(_letters(said["axes"]))
    values: dict[Address, Value] = {
        Address(None, "build.kind"): said["kind"], Address(None, "names.screen_unit"): said["unit"],
        Address(None, "spindle.kind"): said["spindle"],
    }  # fmt: skip
    if name:
        values[Address(None, "names.machine")] = name
    if said["kind"] == TABLE:
        values[Address(None, "build.cutter")] = said["cutter"]
        values[Address(None, "spindle.start_speed")] = Fraction(1)  # there is none, and nothing starts without one
    if "top" in said:
        values[Address(0, "range.high")] = _read(asked["top"], said["top"])
    if said["oil"] == YES:
        for key in ("seconds", "every"):
            values[Address(None, f"oil.{key}")] = _read(asked[f"oil_{key}"], said[f"oil_{key}"])
    for slot, letter in enumerate(machine.names):
        values |= _axis_values(slot, letter, said, asked)
    kinds = {where: value for where, value in values.items() if where.key in ("axis.kind", "names.screen_unit")}
    return machine.with_values(kinds).with_values(values)


def _read(asked: Asked, text: str) -> Value:
    assert asked.row is not None
    return asked.row.read(text, part=asked.text.rstrip("?"))


def _axis_values(slot: int, letter: str, said: Answers, asked: Mapping[str, Asked]) -> dict[Address, Value]:
    rotary = letter in ROTARY

    def of(key: str) -> str:
        return said.get(f"{letter}.{key}", "")

    values: dict[str, Value] = {
        "axis.output": slot + 1, "chain.final": of("driven"), "chain.motor": of("motor"), "homing.method": of("by"),
        "axis.kind": "endless" if rotary else "linear", "axis.moves": _MOVES.get(said["kind"], {}).get(letter, "work"),
        "homing.turn": 1 if letter == "Z" else 2,
    }  # fmt: skip
    typed = {_short(row.key): row.key for row in used_with("chain.final", of("driven"))}
    typed |= {"microsteps": "chain.microsteps", "counts": "chain.motor_counts"}
    for key, where in typed.items():
        if text := of(key):
            values[where] = _read(asked[f"{letter}.{key}"], text)
    high = of("home") != "low"
    values["homing.towards"] = "high" if high else "low"
    if not rotary:
        travel = _read(asked[f"{letter}.travel"], of("travel"))
        assert isinstance(travel, Fraction)
        if travel <= 0:
            raise Refusal(f"{letter} travel", of("travel"), "is no way to go", "more than 0")
        values |= {"travel.low": -travel if high else Fraction(0), "travel.high": Fraction(0) if high else travel,
                   "travel.limits_on": True, "homing.coordinate": Fraction(SWITCH_BEYOND if high else -SWITCH_BEYOND),
                   "homing.search": travel * Fraction(11, 10) + 20}  # fmt: skip
        if of("by") == "here":
            values["homing.coordinate"] = Fraction(0)
    return {Address(slot, key): value for key, value in values.items()}


@dataclass(frozen=True)
class Doubt:
    """Something that is possible, and seldom meant. key: of the question that it is about."""

    key: str
    text: str


def doubts(machine: Machine, answers: Answers) -> list[Doubt]:
    """What is asked about once more before it is believed."""
    return [doubt for axis in machine.axes for doubt in _doubts(axis, answers)]


def _doubts(axis: Axis, answers: Answers) -> Iterator[Doubt]:
    name, chain = axis.name, Chain.of(axis)
    if not axis.rotary:
        one, why = chain.resolution, f"{chain.counts_text} = {chain.derivation}"
        of_motor = f"{name}.{'microsteps' if axis.choice('chain.motor') == 'stepper' else 'counts'}"
        if one > COARSE:
            yield Doubt(
                of_motor, f"{name}: one count would move it {figure(one, 4, trim=True)} mm ({why}). Is that meant?"
            )
        elif one < FINE:
            yield Doubt(
                of_motor, f"{name}: one count would move it a millionth of a mm, or less ({why}). Is that meant?"
            )
        travel = axis.number("travel.high") - axis.number("travel.low")
        if not SHORT <= travel <= LONG:
            yield Doubt(f"{name}.travel", f"{name}: it would travel {figure(travel, 2, trim=True)} mm. Is that meant?")
        if axis.choice("chain.final") == "screw" and not 1 <= axis.number("chain.pitch") <= 40:
            pitch = figure(axis.number("chain.pitch"), 4, trim=True)
            yield Doubt(
                f"{name}.pitch", f"{name}: a screw with a pitch of {pitch} mm is rare. Is it that, and not in inches?"
            )
    if axis.choice("chain.motor") == "stepper" and axis.whole("chain.microsteps") not in MICROSTEPS:
        yield Doubt(
            f"{name}.microsteps",
            f"{name}: drives seldom have {axis.whole('chain.microsteps')} microsteps. Is that meant?",
        )


def usual_words(answers: Answers) -> str:
    """How many of the answers are those that are usual, as nobody has given them."""
    left = [each.key for each in questions(answers) if not answers.get(each.key, "").strip()]
    return f"{len(left)} of {len(questions(answers))} answers are what is usual" if left else "everything was answered"
