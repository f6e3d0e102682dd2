"""What is wrong with the index stops of an axis, and with the lines that are to pick them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from itertools import combinations

from ..machine import Axis, Machine
from ..machine.finding import Finding, Severity, at_axis
from ..mechanics.chain import Chain
from ..wiring import Duty, input_of
from ..wiring.indexing import by_lines, distance, lines, stops_of_axis, wanted_roles


def index_rules(machine: Machine, axis: Axis) -> Iterator[Finding]:
    stops = stops_of_axis(axis)
    if not stops:
        return

    def finding(key: str, code: str, text: str) -> Finding:
        return at_axis(machine, axis, f"index.{key}", code, Severity.WARNING, text)

    if not axis.whole("homing.turn"):
        yield finding(
            "stops", "stops_without_home", f"{axis.name} has index stops and does not home: they count from home."
        )
    yield from _places(machine, axis)
    pick = axis.choice("index.pick")
    missing = [role for role in wanted_roles(axis) if input_of(machine, Duty(role, axis.name)) is None]
    if missing:
        names = ", ".join(role.label.removeprefix("index stop, ") for role in missing)
        text = f"{axis.name}: its {len(stops)} stops are picked by inputs, and without a wire there are: {names}."
        yield finding("pick", "stop_lines_missing", text)
    if by_lines(axis) and not missing:
        most = (1 << len(lines(machine, axis))) - 1
        if most > len(stops):
            yield at_axis(
                machine, axis, "index.pick", "state_without_stop", Severity.NOTE,
                f"{axis.name}: its lines can tell {most}, and it has {len(stops)} stops: from {len(stops) + 1} on it stays, "
                "and says that the number is wrong.",
            )  # fmt: skip
    if pick == "pulses" and machine.made_of_parts:
        text = f"{axis.name}: plain terminals are looked at every 20 ms, and count no pulses. Take a number on lines."
        yield finding("pick", "pulses_not_seen", text)
    if pick != "screen":
        slowest = max((item.filter for item in lines(machine, axis).values()), default=None)
        settle = axis.number("index.settle")
        if slowest is not None and settle < slowest:
            text = (
                f"{axis.name}: its lines are filtered for up to {float(slowest):g} ms and settle within {float(settle):g} ms: "
                "lines that change together come through one after the other."
            )
            yield finding("settle", "settles_too_soon", text)


def taken_in_haste(machine: Machine, seen: Mapping[str, float]) -> Iterator[Finding]:
    """seen: ms of the longest state of the lines that was taken for a number though it was brief, by the letter of the axis."""
    for axis in machine.axes:
        ms, settle = seen.get(axis.name, 0.0), float(axis.number("index.settle"))
        if by_lines(axis) and ms and settle <= ms:
            text = (
                f"{axis.name}: its lines told something for {ms:.1f} ms only, and it was taken for a number, for they settle "
                f"within {settle:g} ms. What bounces or passes would do something: let them settle for longer."
            )
            yield at_axis(machine, axis, "index.settle", "settles_too_soon", Severity.WARNING, text)


def _places(machine: Machine, axis: Axis) -> Iterator[Finding]:
    stops = stops_of_axis(axis)
    near, step = float(axis.number("index.tolerance")), float(Chain.of(axis).resolution)
    for first, second in combinations(range(len(stops)), 2):
        apart = abs(distance(axis, stops[second], float(stops[first].at)))
        names = f"{stops[first].title(first + 1)} and {stops[second].title(second + 1)}"
        if apart < step:
            yield at_axis(machine, axis, "index.stops", "stops_too_close", Severity.WARNING,
                          f"{axis.name}: stops {names} lie closer together than it can tell: one step of it is "
                          f"{axis.reads.length(step, 4, trim=True)}.")  # fmt: skip
        elif apart <= 2 * near:
            yield at_axis(machine, axis, "index.tolerance", "stops_too_close", Severity.WARNING,
                          f"{axis.name}: stops {names} are {axis.reads.length(apart, 4, trim=True)} apart, and each is reached "
                          f"within {axis.reads.length(near, 4, trim=True)}: it could be at both.")  # fmt: skip
    low, high = axis.number("travel.low"), axis.number("travel.high")
    over = axis.number("index.over")
    for number, stop in enumerate(stops, start=1):
        beyond = stop.at + (-over if axis.choice("index.way") == "down" else over)
        if not axis.wraps and not all(low <= place <= high for place in (stop.at, beyond)):
            there = axis.reads.length(stop.at, trim=True)
            with_over = f" with {axis.reads.length(over, trim=True)} beyond it" if over else ""
            yield at_axis(machine, axis, "index.stops", "stop_outside", Severity.WARNING,
                          f"{axis.name}: stop {stop.title(number)} lies at {there}{with_over}, and its travel is "
                          f"{axis.reads.range(low, high)}.")  # fmt: skip
