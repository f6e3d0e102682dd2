"""Index stops of a machine: which axes have them, how a number is told on lines, and what eyes make of where it stands."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..machine import Axis, Machine
from ..values.indexstops import IndexStop, index_stops
from ..values.roles import STOP_LINES, STOP_PULSES, InputRole
from . import Input, inputs


def stops_of_axis(axis: Axis) -> tuple[IndexStop, ...]:
    return index_stops(str(axis.values["index.stops"]))


def indexed(machine: Machine) -> tuple[Axis, ...]:
    """The axes that have index stops."""
    return tuple(axis for axis in machine.axes if stops_of_axis(axis))


def turrets(machine: Machine) -> tuple[Axis, ...]:
    """Axes that a tool change of a program turns to the stop with the tool's number."""
    return tuple(axis for axis in indexed(machine) if axis.flag("index.tools"))


def by_lines(axis: Axis) -> bool:
    """Whether a number on lines picks a stop."""
    return axis.choice("index.pick") in ("binary", "gray")


def lines(machine: Machine, axis: Axis) -> dict[int, Input]:
    """The lines that are wired, by their bit from 0."""
    of = {item.role: item for item in inputs(machine) if item.duty.axis == axis.name}
    return {bit: of[role] for bit, role in enumerate(STOP_LINES) if role in of}


def wanted_roles(axis: Axis) -> tuple[InputRole, ...]:
    """What must be wired so that its stops can be picked as it is told; of the lines as many as its stops need."""
    if by_lines(axis):
        return STOP_LINES[: len(stops_of_axis(axis)).bit_length()]
    return STOP_PULSES if axis.choice("index.pick") == "pulses" else ()


def number_of(state: int, *, gray: bool) -> int:
    """The number that a state of the lines tells, line 1 the lowest bit. Gray code is the reflected one."""
    number = state
    for shift in range(1, len(STOP_LINES)) if gray else ():
        number ^= state >> shift
    return number


def distance(axis: Axis, stop: IndexStop, at: float) -> float:
    """mm or ° from where an axis stands to a stop; of an endless one the shorter way."""
    off = float(stop.at) - at
    return (off + 180) % 360 - 180 if axis.wraps else off


def way_to(axis: Axis, stop: IndexStop, at: float) -> tuple[float, ...]:
    """The moves, in mm or °, that bring an axis from where it stands to a stop: with travel beyond it one there and one back,
    and none where it stands there."""
    off, way = distance(axis, stop, at), axis.choice("index.way")
    if abs(off) <= float(axis.number("index.tolerance")):
        return ()
    if axis.wraps and way == "up":
        off %= 360
    elif axis.wraps and way == "down":
        off = -(-off % 360)
    over = float(axis.number("index.over")) * (-1 if way == "down" else 1)
    return (off + over, -over) if over else (off,)


def stop_at(axis: Axis, at: float) -> int:
    """The number of the stop that it stands at; 0 at none."""
    near = float(axis.number("index.tolerance"))
    return next((n for n, stop in enumerate(stops_of_axis(axis), 1) if abs(distance(axis, stop, at)) <= near), 0)


@dataclass(frozen=True)
class StateSpan:
    """How long the lines told one state. begin, end: µs of the controller's clock; end None: it stands still."""

    state: int
    begin: int
    end: int | None


def state_spans(
    at_begin: int, edges: Sequence[tuple[int, int, bool]], bits: Mapping[int, int], begin: int
) -> list[StateSpan]:
    """States of the lines one after the other. at_begin: the state at `begin`, µs. edges: (µs, slot of the input, made), in
    order of time. bits: by slot."""
    spans, state, since = [], at_begin, begin
    for time, slot, made in edges:
        if slot not in bits:
            continue
        new = state | 1 << bits[slot] if made else state & ~(1 << bits[slot])
        if new != state:
            if time > since:
                spans.append(StateSpan(state, since, time))
            state, since = new, time
    return [*spans, StateSpan(state, since, None)]


def passed(spans: Sequence[StateSpan], settle: float) -> list[StateSpan]:
    """Those that were over before they had settled. settle: ms."""
    return [span for span in spans[1:] if span.end is not None and span.end - span.begin < settle * 1000]


BRIEF = 30.0  # ms: what lines tell for less is a bounce, or passes; no hand and no panel tells a number so briefly


def hasty(spans: Sequence[StateSpan], settle: float) -> float:
    """ms of the longest state that was over so soon, and was taken for a number all the same; 0 where there was none. The first
    span has begun before it was seen. settle: ms."""
    brief = (((span.end or 0) - span.begin) / 1000 for span in spans[1:] if span.end is not None)
    return max((ms for ms in brief if settle <= ms < BRIEF), default=0.0)


def unrest(spans: Sequence[StateSpan], settle: float) -> float:
    """ms of the longest time in which the lines went from one settled state to the next: with a shorter settling time one of
    the states on the way may be taken for a number."""
    longest, since = 0, None
    for span in spans[1:]:
        rests = span.end is None or span.end - span.begin >= settle * 1000
        if not rests:
            since = span.begin if since is None else since
            assert span.end is not None
            longest = max(longest, span.end - since)
        else:
            since = None
    return longest / 1000


def home_shift(axis: Axis, seen: Sequence[tuple[int, int]]) -> Fraction:
    """By how much the coordinate at its home is to be greater so that each stop (asked for, seen to stand there) comes as it is
    asked for; 0 where it is not its home that is wrong."""
    stops, turn = stops_of_axis(axis), Fraction(360)
    shifts = {stops[there - 1].at - stops[asked - 1].at for asked, there in seen}
    if axis.wraps:
        shifts = {(shift + turn / 2) % turn - turn / 2 for shift in shifts}
    return shifts.pop() if len(shifts) == 1 else Fraction(0)


def seen_wrong(count: int, seen: Sequence[tuple[int, int]]) -> str:
    """What is wrong where stops (asked for, seen to stand there) do not agree, or an empty text. Numbers from 1."""
    if all(asked == there for asked, there in seen):
        return ""
    offs = {(there - asked) % count for asked, there in seen}
    sums = {(asked + there) % count for asked, there in seen}
    if len(offs) == 1:
        off = offs.pop()
        off = off - count if off > count / 2 else off
        ahead = "further" if off > 0 else "before"
        return (
            f"Each time the stop {abs(off)} {'place' if abs(off) == 1 else 'places'} {ahead} stood there: its home lies at "
            "another stop than the table says. Correct the coordinate at its home, or begin the table there."
        )
    if len(sums) == 1 and count > 2:
        return "They come in the opposite order: the axis turns the other way round, or the table is written backwards."
    wrong = ", ".join(f"{asked} showed {there}" for asked, there in seen if asked != there)
    return f"They do not agree in any order: {wrong}. Look at the scale of the axis and at its play."
