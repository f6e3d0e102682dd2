"""Which way a spindle turned when it was asked to, as eyes and encoder saw it (ISO 841: right is clockwise, as seen from the
spindle towards the work)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from ..machine import Address, Machine
from ..values.parameter import Value
from ..values.roles import OutputRole
from ..values.units import several
from ..wiring import outputs
from . import Range, flag, has_level, takes_speeds, turns_both_ways, whole
from .encoder import Counted, cause_of_ratio, from_hand, pulses_from_hand, sign_words

SLOWLY = 10  # times slower than the highest speed of its range it turns first
FASTER = 3  # times slower than the highest, where that turned nothing
WAYS = {1: "right", -1: "left", 0: "nothing"}


@dataclass(frozen=True)
class WayVerdict:
    """edit: what would turn round what was found to be wrong. unseen: whether it must be seen to turn the other way, too,
    before anything can be told."""

    held: bool
    words: str
    edit: Mapping[Address, Value] = field(default_factory=dict)
    unseen: bool = False


def turned_round(machine: Machine) -> dict[Address, Value]:
    """The values that turn a spindle round: the sense of its direction output, or both relays swapped."""
    by_role = {out.role: out.slot for out in outputs(machine)}
    if OutputRole.DIRECTION in by_role:
        where = Address(by_role[OutputRole.DIRECTION], "output.inverted")
        return {where: not machine[where]}
    pair = (OutputRole.TURN_RIGHT, OutputRole.TURN_LEFT)
    if all(role in by_role for role in pair):
        return {
            Address(by_role[role], "output.role"): other.key for role, other in zip(pair, reversed(pair), strict=True)
        }
    return {}


def ways_of(machine: Machine) -> tuple[int, ...]:
    """The ways that it can be asked to turn, each of which must be seen: what changes its way may do nothing."""
    return (1, -1) if turns_both_ways(machine) else (1,)


def look_speeds(machine: Machine, found: Range) -> tuple[int, ...]:
    """rpm at which it is looked at, slowly first. The next is where nothing was seen to turn: a low level may not turn it."""
    slow = round(max(found.low, found.high / SLOWLY))
    faster = round(found.high / FASTER)
    return (slow, faster) if takes_speeds(machine) and faster > slow else (slow,)


@dataclass(frozen=True)
class Look:
    """What was seen when it was asked to turn: 1 right, -1 left, 0 nothing. measured: the encoder's speed in rpm, right is +, 0
    where there is none. expected: the speed that was asked for, in rpm."""

    seen: int
    measured: float
    expected: float


def ways_verdict(machine: Machine, looks: Mapping[int, Look]) -> WayVerdict:
    """By the way that was asked for, each once: whether it goes the wrong way, or what should change its way does nothing, is
    told by both."""
    verdicts = {way: way_verdict(machine, way, look.seen, look.measured, look.expected) for way, look in looks.items()}
    if nothing := [way for way, look in looks.items() if not look.seen]:
        turned = [way for way, look in looks.items() if look.seen]
        if turned:
            return _one_way_only(machine, nothing[0], turned[0])
        other = [WAYS[way] for way in ways_of(machine) if way not in looks]
        return replace(verdicts[nothing[0]], words=_joined(verdicts[nothing[0]].words, *map(_see_other, other)))
    told = [f"Asked to turn {WAYS[way]}, it turned {WAYS[look.seen]}." for way, look in looks.items()]
    if unseen := [WAYS[way] for way in ways_of(machine) if way not in looks]:
        words = _joined(*told, f"See it turn {' and '.join(unseen)}, too.")
        return WayVerdict(False, words, unseen=True)
    if len({look.seen for look in looks.values()}) < len(looks):
        return WayVerdict(
            False, _joined(*told, "What should change its way does nothing: look at that output and its wire.")
        )
    wrong = [verdict for verdict in verdicts.values() if not verdict.held]
    return wrong[0] if wrong else WayVerdict(True, _joined(*(verdict.words for verdict in verdicts.values())))


def _see_other(way: str) -> str:
    return f"See whether it turns {way}: its wires may be crossed."


def _one_way_only(machine: Machine, nothing: int, turned: int) -> WayVerdict:
    """It turned only when it was asked for the other way: on and direction are at each other's terminals, or the output of one
    way does nothing."""
    told = f"Asked to turn {WAYS[nothing]}, nothing was seen to turn; asked to turn {WAYS[turned]}, it did."
    by_role = {out.role: out for out in outputs(machine)}
    pair = (OutputRole.SPINDLE_ON, OutputRole.DIRECTION)
    if nothing == 1 and all(role in by_role for role in pair):
        on, direction = (by_role[role] for role in pair)
        edit: dict[Address, Value] = {
            Address(on.slot, "output.role"): direction.role.key, Address(direction.slot, "output.role"): on.role.key,
        }  # fmt: skip
        words = f"Likely the wires of {on.name} and {direction.name} are at each other's terminals: on there, direction here."
        return WayVerdict(False, f"{told} {words}", edit)
    return WayVerdict(False, f"{told} Look at the output that turns it {WAYS[nothing]}, and at its wire.")


def way_verdict(machine: Machine, asked: int, seen: int, measured: float, expected: float) -> WayVerdict:
    """Of one way alone; figures as in a Look."""
    if not seen:
        asked_for = f", asked for {expected:.0f} rpm" if takes_speeds(machine) else ""
        look = "Look at its power, its outputs at Wiring, and its bus."
        return WayVerdict(False, f"Nothing was seen to turn{asked_for}. {look}")
    encoder = sign_words(asked, measured) if whole(machine, "counts") else ""
    ratio = cause_of_ratio(abs(measured), expected) if not has_level(machine) or encoder else ""
    if seen != asked:
        edit = turned_round(machine)
        way_out = "turn it round" if edit else "swap two wires of its motor"
        return WayVerdict(False, _joined(f"It turns the wrong way: {way_out}.", encoder, ratio), edit)
    if whole(machine, "counts") and not measured:
        return WayVerdict(
            False, "The encoder counted nothing while it turned. Hold longer; else look at its wires and power."
        )
    if encoder and (measured > 0) != (asked > 0):
        where = Address(None, "spindle.counts_reversed")
        words = "The encoder counts the other way: turn its sign round."
        return WayVerdict(False, _joined(encoder, words, ratio), {where: not flag(machine, "counts_reversed")})
    agrees = "; the encoder agrees" if encoder else ""
    return WayVerdict(True, _joined(f"Asked to turn {WAYS[asked]}, it did{agrees}.", ratio))


def _joined(*sentences: str) -> str:
    return " ".join(sentence for sentence in sentences if sentence)


@dataclass(frozen=True)
class HandVerdict:
    """again: turns that are to be made instead, where the ones that were made fit two encoders; else 0."""

    words: str
    edit: Mapping[Address, Value] = field(default_factory=dict)
    counted: Counted | None = None

    @property
    def again(self) -> int:
        return self.counted.again if self.counted is not None else 0


def hand_verdict(machine: Machine, moved: int, turns: int) -> HandVerdict:
    """What whole turns to the right by hand say of the encoder: its counts for each turn, and its sign."""
    found = from_hand(moved, turns)
    if found is None:
        return HandVerdict("Nothing was counted: is the encoder wired, and powered?")
    if found.again:
        return HandVerdict(f"{found.words}.", {}, found)
    edit: dict[Address, Value] = {Address(None, "spindle.counts"): found.counts}
    words = f"{found.words}."
    if moved < 0:
        words += " Turned right it counts downwards: it is told to count backwards with it."
        edit[Address(None, "spindle.counts_reversed")] = not flag(machine, "counts_reversed")
    return HandVerdict(words, {where: value for where, value in edit.items() if machine[where] != value}, found)


def pulses_verdict(machine: Machine, moved: int, turns: int) -> HandVerdict:
    """What whole turns by hand say of the pulses of an input."""
    found = pulses_from_hand(moved, turns)
    if found is None:
        if not moved:
            return HandVerdict("No pulse came: does the magnet pass its switch, and is that wired?")
        fits = f"{several(moved, 'pulse')} in {several(turns, 'turn')} make no whole number in each"
        return HandVerdict(f"{fits}. Count again; does its switch bounce, or is it touched by something else?")
    where = Address(None, "spindle.pulses")
    if (told := machine[where]) == found.counts:
        return HandVerdict(f"{found.words}.", {}, found)
    return HandVerdict(f"{found.words}, and {told} is told.", {where: found.counts}, found)
