"""What a procedure asks the person, by key: the window, the terminal and another program answer the same questions."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from enum import Enum
from typing import Any, Generic, TypeVar

from idler.core.errors import Refusal

A = TypeVar("A")


class QuestionKind(Enum):
    YES = "yes"
    CHOICE = "choice"
    READING = "reading"
    DONE = "done"


@dataclass(frozen=True)
class Option:
    key: str
    text: str


@dataclass(frozen=True)
class Question(Generic[A]):
    """text: as the person reads it. take: an answer out of what was typed; it raises Refusal."""

    key: str
    text: str
    take: Callable[[str], A] = field(compare=False)
    axis: str = ""
    choices: tuple[Option, ...] = ()
    instrument: str = ""
    unit: str = ""
    by_world: bool = False  # whether what is seen at the machine is an answer too

    @property
    def kind(self) -> QuestionKind:
        return QUESTIONS[self.key][0]

    def described(self) -> dict[str, Any]:
        """For another program."""
        return {
            "key": self.key, "kind": self.kind.value, "text": self.text, "axis": self.axis,
            "choices": [{"key": each.key, "text": each.text} for each in self.choices],
            "instrument": self.instrument, "unit": self.unit, "by_world": self.by_world,
        }  # fmt: skip


QUESTIONS: Mapping[str, tuple[QuestionKind, str]] = {
    "direction.seen": (QuestionKind.CHOICE, "where the axis was seen to go: plus, minus, apart (two motors), nothing, other"),
    "direction.hand": (QuestionKind.CHOICE, "what a hand feels that pushes at an axis which did not move: holds, loose, stiff"),
    "direction.which": (QuestionKind.CHOICE, "which axis moved instead of the one that was told to, or none"),
    "guard.close": (QuestionKind.DONE, "the guard is closed: answered by the machine"),
    "guard.open": (QuestionKind.DONE, "the guard is open: answered by the machine"),
    "guard.run": (QuestionKind.DONE, "the spindle may run"),
    "home.clear": (QuestionKind.YES, "whether an axis that stands on its switch may go off it"),
    "home.elsewhere": (QuestionKind.CHOICE, "why a home was found elsewhere than before: lost steps, or a moved switch"),
    "learn.touch": (QuestionKind.DONE, "answered by the switch that is touched; else nothing more is to be learnt"),
    "learn.role": (QuestionKind.CHOICE, "what the input that was touched is to be, or leave"),
    "play.radius": (QuestionKind.READING, "how far from the middle of an axis that turns the dial stands"),
    "play.zero": (QuestionKind.DONE, "the dial stands against the part that moves, and is set to zero"),
    "play.follows": (QuestionKind.READING, "what the dial says, with its sign, where the axis went a little to minus"),
    "play.reading": (QuestionKind.READING, "what the dial says, with its sign"),
    "return.radius": (QuestionKind.READING, "how far from the middle of a turning axis the dial will stand"),
    "return.on": (QuestionKind.DONE, "the dial stands as it did, its zero untouched"),
    "return.zero": (QuestionKind.DONE, "the dial stands against the part that moves, and is set to zero"),
    "return.follows": (QuestionKind.READING, "what the dial says, with its sign, where the axis went a little to minus"),
    "return.reading": (QuestionKind.READING, "what the dial says, with its sign"),
    "level.on": (QuestionKind.DONE, "the dial hangs in the spindle as it did, its zero untouched"),
    "level.probe": (QuestionKind.DONE, "the touch probe is in the spindle, its ball a few mm over the bed"),
    "level.zero": (QuestionKind.DONE, "the dial in the spindle stands against the bed, and is set to zero"),
    "level.follows": (QuestionKind.READING, "what the dial says, with its sign, where it was lifted a little"),
    "level.reading": (QuestionKind.READING, "what the dial says, with its sign"),
    "blade.lay": (QuestionKind.DONE, "the square lies on the bed as it is asked for"),
    "blade.zero": (QuestionKind.DONE, "the dial at the tool stands against the leg, near the corner, and is set to zero"),
    "blade.follows": (QuestionKind.READING, "what the dial says, with its sign, where the tool went a little to minus"),
    "blade.begin": (QuestionKind.READING, "what the dial says at the near end of the leg, with its sign"),
    "blade.end": (QuestionKind.READING, "what the dial says at the far end of the leg, with its sign"),
    "runout.on": (QuestionKind.DONE, "the dial stands as it did, its zero untouched"),
    "runout.zero": (QuestionKind.DONE, "the dial stands against the bar that the axis holds, and is set to zero"),
    "runout.follows": (QuestionKind.READING, "what the dial says with a feeler gauge between it and the bar"),
    "runout.out": (QuestionKind.DONE, "the feeler gauge is out again"),
    "runout.reading": (QuestionKind.READING, "what the dial says, with its sign"),
    "tailstock.head": (QuestionKind.READING, "the diameter at the headstock's end"),
    "tailstock.tail": (QuestionKind.READING, "the diameter at the tailstock's end"),
    "tailstock.apart": (QuestionKind.READING, "how far the two places are apart"),
    "tailstock.centres": (QuestionKind.READING, "how far the two centres are apart"),
    "square.mark": (QuestionKind.DONE, "the place under the tool is marked; the tool is clear again, or stands on the mark"),
    "square.across": (QuestionKind.READING, "how far the second side of a beam stands from the first, with its sign"),
    "square.rising": (QuestionKind.READING, "the diagonal from the first mark to the third"),
    "square.near": (QuestionKind.READING, "the side along the first axis, from mark 1 to mark 2"),
    "square.far": (QuestionKind.READING, "the side along the first axis, from mark 4 to mark 3"),
    "square.left": (QuestionKind.READING, "the side along the second axis, from mark 1 to mark 4"),
    "square.right": (QuestionKind.READING, "the side along the second axis, from mark 2 to mark 3"),
    "square.falling": (QuestionKind.READING, "the diagonal from the second mark to the fourth"),
    "figure.seen": (QuestionKind.CHOICE, "which drawing the paper shows: as_asked, or how the axes are mirrored or swapped"),
    "figure.size": (QuestionKind.READING, "how wide what was drawn or cut is along an axis"),
    "figure.flats": (QuestionKind.CHOICE, "where a drawn circle is flat: none, first, second, both"),
    "figure.flat": (QuestionKind.READING, "how long a flat of a drawn circle is"),
    "index.seen": (QuestionKind.CHOICE, "which index stop stands there: its number, or other"),
    "action.ask": (QuestionKind.CHOICE, "what an own action asks: yes, no"),
    "action.tool": (QuestionKind.READING, "the number of the tool whose length an own action measured"),
    "program.zero": (QuestionKind.DONE, "the axes stand where the work zero of a program or a figure is to be"),
    "program.stop": (QuestionKind.DONE, "what a program stopped for (M0, M1, M6) is done: it goes on"),
    "scale.zero": (QuestionKind.DONE, "the instrument is held to the axis and set to zero"),
    "scale.move": (QuestionKind.DONE, "the axis may go the way that is to be read"),
    "scale.reading": (QuestionKind.READING, "what the instrument says, with its sign"),
    "spindle.reading": (QuestionKind.READING, "what the tachometer says"),
    "stop.holds": (QuestionKind.CHOICE, "what axes do that should be loose: every or some hold, or one sinks by its weight"),
    "stop.loose": (QuestionKind.YES, "whether each axis that a hand can move is loose, without current, and none sinks"),
    "encoder.turned": (QuestionKind.DONE, "the spindle was turned by hand as often as it was asked for, to the same mark"),
    "spindle.belt": (QuestionKind.DONE, "the belt, or the gear, lies where it is asked for"),
    "spindle.lies": (QuestionKind.YES, "whether the belt, or gear, lies in the range that was told: it turns as in another"),
    "spindle.ready": (QuestionKind.DONE, "a stopwatch is at hand: it starts, and the spindle with it"),
    "spindle.seconds": (QuestionKind.READING, "what the stopwatch says, in seconds"),
    "spindle.free": (QuestionKind.DONE, "the stopwatch starts, and the spindle is let go"),
    "spindle.way": (QuestionKind.CHOICE, "which way the spindle turns, as seen from its motor towards the work"),
    "spindle.faster": (QuestionKind.DONE, "nothing was seen to turn: the spindle may be told to turn faster"),
    "spindle.stands": (QuestionKind.DONE, "the spindle stands: it may be told to turn, or to turn the other way"),
    "spindle.clear": (QuestionKind.DONE, "what ended the spindle is taken back: answered by the machine"),
    "spindle.end": (QuestionKind.DONE, "the spindle is ended in the way that is asked for: answered by the machine"),
    "cutter.ready": (QuestionKind.DONE, "what cuts in place of a spindle may be switched on: scrap lies under it"),
    "cutter.on": (QuestionKind.CHOICE, "whether what cuts in place of a spindle is seen to be on: yes, no"),
    "cutter.off": (QuestionKind.CHOICE, "whether what cuts in place of a spindle is seen to be off: yes, no"),
    "stop.press": (QuestionKind.DONE, "the emergency stop is pressed: answered by the machine"),
    "stop.release": (QuestionKind.DONE, "the emergency stop is released: answered by the machine"),
    "stop.power": (QuestionKind.DONE, "the drives may be powered"),
    "touch.plate": (QuestionKind.DONE, "the plate was held to the tool: answered by the machine"),
    "touch.ready": (QuestionKind.DONE, "the plate lies where it is to be touched, and hands are away"),
    "touch.switch": (QuestionKind.CHOICE, "by the switch; else later, swapped (wires), rest (contact), no_more (of a chain)"),
}  # fmt: skip


def described() -> list[dict[str, str]]:
    """Every question that there is, for another program."""
    return [{"key": key, "kind": kind.value, "about": about} for key, (kind, about) in QUESTIONS.items()]


def yes(key: str, text: str, axis: str = "") -> Question[bool]:
    answers = {"yes": True, "y": True, "true": True, "no": False, "n": False, "false": False}
    return Question(key, text, lambda typed: answers[_one_of(typed.lower(), tuple(answers))], axis)


def done(key: str, text: str, axis: str = "", *, instrument: str = "", by_world: bool = False) -> Question[None]:
    return Question(key, text, lambda _: None, axis, instrument=instrument, by_world=by_world)


def choice(key: str, text: str, choices: Mapping[str, str], axis: str = "", *, by_world: bool = False) -> Question[str]:
    listed = tuple(Option(name, words) for name, words in choices.items())
    return Question(key, text, lambda typed: _one_of(typed, tuple(choices)), axis, listed, by_world=by_world)


def reading(
    key: str, text: str, take: Callable[[str], A], *, axis: str = "", instrument: str = "", unit: str = ""
) -> Question[A]:
    return Question(key, text, take, axis, instrument=instrument, unit=unit)


def _one_of(typed: str, known: tuple[str, ...]) -> str:
    if typed.strip() not in known:
        raise Refusal("answer", f"“{typed.strip()[:30]}”", "is none of those that are asked for", ", ".join(known))
    return typed.strip()
