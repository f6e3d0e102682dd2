"""Homing rehearsed: what each axis will do, when and where, before anything moves; and what a failure means.

Along the way to the switch, with the switch at 0, an axis that begins D before it reaches it after V/a + (D − V²/2a)/V, or
√(2D/a) where it does not reach the approach speed V. The filter sees it t_f later; braking from v takes v/a and v²/2a.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from .finding import Finding, Severity, at_axis
from .machine import Address, Axis, Machine
from .pace import Pace
from .wire.homing import Phase, Result
from .wiring import home_switch


@dataclass(frozen=True)
class Leg:
    """One phase: seconds from the start of the axis's homing, and machine coordinates in mm (°)."""

    phase: Phase
    begin: float
    end: float
    start: float
    stop: float

    @property
    def seconds(self) -> float:
        return self.end - self.begin


@dataclass(frozen=True)
class Rehearsal:
    """The homing of one axis. begin: seconds after the first turn began."""

    slot: int
    begin: float
    legs: tuple[Leg, ...]

    @property
    def seconds(self) -> float:
        return self.legs[-1].end if self.legs else 0.0

    @property
    def end(self) -> float:
        return self.begin + self.seconds

    def at(self, time: float) -> float:
        """The coordinate at a time after the first turn began, along straight lines between the ends of the phases."""
        t = time - self.begin
        for leg in self.legs:
            if t < leg.end:
                share = (t - leg.begin) / leg.seconds if leg.seconds > 0 else 1.0
                return leg.start + (leg.stop - leg.start) * max(0.0, share)
        return self.legs[-1].stop


def _reach(distance: float, speed: float, rise: float) -> tuple[float, float]:
    """Seconds to cover a distance from rest, and the speed at its end."""
    ramp = speed * speed / (2 * rise)
    if distance <= ramp:
        return math.sqrt(2 * distance / rise), math.sqrt(2 * rise * distance)
    return speed / rise + (distance - ramp) / speed, speed


def possible(axis: Axis) -> bool:
    """Whether the values allow a homing that moves."""
    return all(axis.number(key) > 0 for key in ("homing.approach", "homing.touch", "homing.acceleration"))


def moves(axis: Axis) -> bool:
    """Whether this method looks for a switch. “Home is here” moves nothing; hard stops are not felt by this profile yet."""
    return axis.choice("homing.method") in ("switch", "switch_index")


def rehearse(machine: Machine, slot: int, distance: float, begin: float = 0.0) -> Rehearsal:
    """The homing of an axis that stands `distance` (mm or °, above zero) before its switch."""
    axis = machine.axis(slot)
    if not moves(axis) or not possible(axis):
        return Rehearsal(slot, begin, ())
    way = 1.0 if axis.choice("homing.towards") == "high" else -1.0
    home = float(axis.number("homing.coordinate"))
    top = float(axis.number("pace.top_speed")) / 60 or math.inf
    fast, slow = (min(top, float(axis.number(key)) / 60) for key in ("homing.approach", "homing.touch"))
    rise = float(axis.number("homing.acceleration"))
    back, leave = (float(axis.number(key)) for key in ("homing.back_off", "homing.leave"))
    late = filter_of(machine, slot)
    legs: list[Leg] = []
    time, place = 0.0, -distance

    def leg(phase: Phase, seconds: float, to: float) -> None:
        nonlocal time, place
        legs.append(Leg(phase, time, time + seconds, home + way * place, home + way * to))
        time, place = time + seconds, to

    def go(phase: Phase, to: float) -> None:
        far = abs(to - place)
        leg(phase, Pace(fast, rise, rise).move(far).duration if far else 0.0, to)

    seconds, speed = _reach(distance, fast, rise)
    first = speed * late
    leg(Phase.APPROACH, seconds + late, first)
    leg(Phase.HALT, speed / rise, first + speed * speed / (2 * rise))
    go(Phase.BACK_OFF, first - back)
    edge = max(0.0, -place)
    seconds, speed = _reach(edge, slow, rise) if edge else (0.0, 0.0)
    leg(Phase.TOUCH, seconds + late, speed * late)
    touched = place
    leg(Phase.HALT_AT_TOUCH, speed / rise, place + speed * speed / (2 * rise))
    if axis.choice("homing.method") == "switch_index":
        within = float(axis.number("homing.index_within")) / 2  # where in its turn the mark sits is not known before
        seconds, speed = _reach(within, slow, rise)
        leg(Phase.INDEX, seconds, place - within)
        leg(Phase.HALT_AT_INDEX, speed / rise, place - speed * speed / (2 * rise))
    go(Phase.LEAVE, touched - leave)
    return Rehearsal(slot, begin, tuple(legs))


def filter_of(machine: Machine, slot: int) -> float:
    """Filter time of the home switch of an axis, in seconds."""
    number = home_switch(machine, slot)
    if number is None:
        return 0.0
    value = machine[Address(number, "input.filter")]
    return float(value) / 1000  # type: ignore[arg-type]


def turns(machine: Machine) -> list[tuple[int, ...]]:
    """The axes that home together, in their order; those with turn 0, or without a motor, are left out."""
    found: dict[int, list[int]] = {}
    for axis in machine.axes:
        if axis.whole("homing.turn") and axis.whole("axis.output"):
            found.setdefault(axis.whole("homing.turn"), []).append(axis.slot)
    return [tuple(found[turn]) for turn in sorted(found)]


def rehearse_all(machine: Machine, distances: Mapping[int, float]) -> list[Rehearsal]:
    """Every axis in its turn; distances to the switches by slot."""
    found, begin = [], 0.0
    for group in turns(machine):
        made = [rehearse(machine, slot, distances.get(slot, 0.0), begin) for slot in group]
        found += made
        begin = max([begin, *(item.end for item in made)])
    return found


def distance_to_switch(machine: Machine, slot: int, position: float | None) -> float:
    """From a coordinate to the switch, along the way of homing; from the other hard stop where the position is not known.

    A rotary axis meets its switch once in a turn.
    """
    axis = machine.axis(slot)
    high = axis.choice("homing.towards") == "high"
    home = float(axis.number("homing.coordinate"))
    if position is None:
        position = float(axis.number("travel.stop_low" if high else "travel.stop_high"))
    distance = (home - position) * (1 if high else -1)
    return distance % 360 or 360.0 if axis.rotary else max(0.01, distance)


# -- what is wrong with it ----------------------------------------------------------------------------------------------


def homing_rules(machine: Machine, axis: Axis) -> Sequence[Finding]:
    """Confusions of the three signs, and settings that cannot end well, of one axis whose homing is in use."""
    if not axis.whole("homing.turn") or not axis.whole("axis.output") or axis.rotary:
        return []
    found: list[Finding] = []
    high = axis.choice("homing.towards") == "high"
    low_end, high_end, home = (float(axis.number(key)) for key in ("travel.low", "travel.high", "homing.coordinate"))
    where = "high" if high else "low"
    if low_end < high_end and (home < (low_end + high_end) / 2) == high:
        text = (
            f"{axis.name} homes at its {where} end, and its coordinate there is {home:g} mm, at the other end of the travel "
            f"from {low_end:g} to {high_end:g} mm: a move to zero would drive {'down past' if high else 'up past'} the end. "
            f"With home at the {where} end the travel is {'negative' if high else 'positive'} from there."
        )
        found.append(at_axis(machine, axis, "homing.coordinate", "signs_confused", Severity.ERROR, text))
    approach, touch = axis.number("homing.approach"), axis.number("homing.touch")
    if moves(axis):
        for key, value in (("homing.approach", approach), ("homing.touch", touch)):
            if not value:
                label = Address(axis.slot, key).row.label
                text = f"{axis.name} has no {label}: it would never find its switch."
                found.append(at_axis(machine, axis, key, "homing_stands_still", Severity.ERROR, text))
        if touch >= approach > 0:
            text = f"{axis.name} touches its switch as fast as it approaches it; a tenth of that finds it again more surely."
            found.append(
                at_axis(machine, axis, "homing.touch", "touch_not_slower", Severity.WARNING, text, approach / 10)
            )
    chained = any(
        str(machine[Address(slot, "input.role")]) == "home_chain" for slot in range(machine.inputs)
    )  # fmt: skip
    if chained:
        same = [
            other.name for other in machine.axes
            if other.slot != axis.slot and other.whole("homing.turn") == axis.whole("homing.turn") and moves(other)
        ]  # fmt: skip
        if same and moves(axis):
            text = (
                f"{axis.name} homes in one turn with {', '.join(same)} on one chain of switches: which one was met could "
                "not be told. Give each a turn of its own."
            )
            free = next(
                turn for turn in range(1, 9) if turn not in {a.whole("homing.turn") for a in machine.axes} | {0}
            )
            found.append(at_axis(machine, axis, "homing.turn", "chain_shared_turn", Severity.ERROR, text, free))
    return found


def explain(machine: Machine, slot: int, result: Result) -> tuple[str, str, dict[Address, object]]:
    """Of a homing that failed: what was seen, the likely cause with its figures, and an edit that would help, if any."""
    axis = machine.axis(slot)
    search, back = (float(axis.number(key)) for key in ("homing.search", "homing.back_off"))
    unit = "°" if axis.rotary else " mm"
    seen = f"{axis.name}: {result.words}."
    number = home_switch(machine, slot)
    terminal = machine[Address(number, "input.terminal")] if number is not None else "—"
    match result:
        case Result.NOT_FOUND:
            return (
                seen,
                (
                    f"It went {search:g}{unit} and terminal {terminal} did not change. It may go the wrong way (see its "
                    "direction), stand further off than that, or its switch may not answer: press it by hand and watch "
                    "the terminal."
                ),
                {},
            )
        case Result.PRESSED:
            return (
                seen,
                (
                    f"It stands on its switch, or terminal {terminal} is told the wrong contact at rest. Move clear "
                    "of it, then home again."
                ),
                {},
            )
        case Result.STILL_PRESSED:
            more = axis.number("homing.back_off") + 1
            return (
                seen,
                (f"{back:g}{unit} back did not free terminal {terminal}: the switch needs more, or it sticks."),
                {Address(slot, "homing.back_off"): more},
            )
        case Result.OTHER_END:
            other = "low" if axis.choice("homing.towards") == "high" else "high"
            return (
                seen,
                ("It runs away from its switch: the direction of homing, or of the axis, is turned round."),
                {Address(slot, "homing.towards"): other},
            )
        case Result.NO_INDEX:
            return seen, "The mark may not answer, or the distance is shorter than one turn of what it sits on.", {}
    return seen, "", {}
