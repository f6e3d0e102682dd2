"""What a homing means: of one that found its home what was measured, of one that failed its likely causes.

Causes come most likely first, each with the figures that speak for it and what would help.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from fractions import Fraction

from .homing import by_stop, filter_of, way
from .machine import Address, Axis, Machine
from .parameter import Value
from .roles import InputRole
from .units import figure
from .wire.homing import Result
from .wiring import Duty, home_switch, input_of

CLEAR = 3.0  # mm or °: back from a switch on which an axis stands


@dataclass(frozen=True)
class Seen:
    """What was seen of one homing. Lengths in mm (°); None where it was not measured.

    went          how far the axis went from its start towards home
    lets_go       how far behind the place where it made the switch was seen to let go, in this run or the last good one
    mark          how far the index mark was from the switch or stop
    effort        usual share of the torque on the approach
    off           how far the switch was from where the homing before had it
    sides         how far the switch of the second motor's side lay further to +
    """

    result: Result
    went: float | None = None
    lets_go: float | None = None
    mark: float | None = None
    effort: float | None = None
    off: float | None = None
    sides: float | None = None


@dataclass(frozen=True)
class Cause:
    """One likely cause. edit: values that would mend it. watch: an input to be tried by hand. clear: moving clear helps."""

    title: str
    words: str
    edit: Mapping[Address, Value] = field(default_factory=dict)
    watch: int | None = None
    clear: bool = False


def causes(machine: Machine, slot: int, seen: Seen) -> tuple[Cause, ...]:
    """Empty for a homing that did not fail."""
    axis = machine.axis(slot)
    found = {
        Result.NOT_FOUND: _stop_not_found if by_stop(axis) else _switch_not_found, Result.PRESSED: _pressed,
        Result.STILL_PRESSED: _still_pressed, Result.OTHER_END: _other_end, Result.NO_INDEX: _no_index,
        Result.APART: _apart, Result.MARK_MOVED: _mark_moved, Result.CHAIN_BUSY: _chain_busy,
    }.get(seen.result)  # fmt: skip
    return tuple(found(machine, axis, seen)) if found is not None else ()


def measured(machine: Machine, slot: int, seen: Seen) -> tuple[tuple[str, ...], dict[Address, Value]]:
    """Of a homing that found its home: sentences on what was measured, and the distance to the mark where it is to be kept."""
    axis = machine.axis(slot)
    words: list[str] = []
    edit: dict[Address, Value] = {}
    if seen.mark is not None:
        words.append(f"The mark lies {_length(axis, seen.mark, 3)} behind.")
        if abs(seen.mark - float(axis.number("homing.mark_distance"))) > float(axis.number("homing.mark_spread")) / 2:
            edit = {Address(slot, "homing.mark_distance"): Fraction(round(seen.mark * 10_000), 10_000)}
    if seen.off is not None:
        words.append(f"{_length(axis, abs(seen.off), 3)} from where it was last.")
    if seen.effort is not None:
        words.append(f"On its way it takes {seen.effort:.0%} of its torque.")
    if seen.sides is not None:
        words.append(
            f"The second side's switch lies {_length(axis, abs(seen.sides), 3)} further to {'+' if seen.sides > 0 else '−'}."
        )
    return tuple(words), edit


def _unit(axis: Axis) -> str:
    return "°" if axis.rotary else " mm"


def _length(axis: Axis, value: float | Fraction, decimals: int = 2) -> str:
    return f"{figure(value, decimals, trim=True)}{_unit(axis)}"


def _terminal(machine: Machine, number: int | None) -> str:
    return f"terminal {machine[Address(number, 'input.terminal')]}" if number is not None else "its terminal"


def _too_short(machine: Machine, axis: Axis, seen: Seen) -> Iterator[Cause]:
    """The search ends before the travel does."""
    span = axis.number("travel.stop_high") - axis.number("travel.stop_low")
    search = axis.number("homing.search")
    if not axis.rotary and span > search:
        words = f"It looks over {_length(axis, search)}, and its hard stops lie {_length(axis, span)} apart."
        yield Cause("Search too short", words, {Address(axis.slot, "homing.search"): Fraction(round(span * 11 / 10))})


def _wrong_way(axis: Axis, went: float | None) -> Cause:
    far = f" It went {_length(axis, went)} to {'+' if way(axis) > 0 else '−'}." if went is not None else ""
    return Cause(
        "It goes the wrong way",
        f"Look which way it goes: its direction, or the side of its home, may be turned round.{far}",
    )


def _switch_not_found(machine: Machine, axis: Axis, seen: Seen) -> Iterator[Cause]:
    number = home_switch(machine, axis.slot)
    yield from _too_short(machine, axis, seen)
    late = filter_of(machine, axis.slot)
    passes = late * float(axis.number("homing.approach")) / 60
    if passes > 1:  # mm in which a short cam would come and go unseen
        words = (
            f"At the approach speed its filter of {late * 1000:g} ms misses a cam shorter than {_length(axis, passes)}."
        )
        yield Cause("Filter too long", words, {Address(number, "input.filter"): Fraction(1)}, number)
    words = f"{_terminal(machine, number).capitalize()} did not change. Press the switch by hand and watch it."
    yield Cause("The switch does not answer", words, {}, number)
    yield _wrong_way(axis, seen.went)


def _stop_not_found(machine: Machine, axis: Axis, seen: Seen) -> Iterator[Cause]:
    yield from _too_short(machine, axis, seen)
    told = axis.number("homing.effort")
    if seen.effort is not None:
        wanted = min(Fraction(9, 10), max(Fraction(1, 10), Fraction(round(200 * seen.effort), 100)))
        words = f"On its way it takes {seen.effort:.0%} of its torque, and iron is felt from {float(told):.0%} on."
        lower = {Address(axis.slot, "homing.effort"): wanted} if wanted < told else {}
        yield Cause("The motor slipped before iron was felt", words, lower)
    yield _wrong_way(axis, seen.went)


def _pressed(machine: Machine, axis: Axis, seen: Seen) -> Iterator[Cause]:
    number = home_switch(machine, axis.slot)
    where = _terminal(machine, number)
    yield Cause("It stands on its switch", f"{where.capitalize()} was made before anything moved.", clear=True)
    if number is not None:
        rest = str(machine[Address(number, "input.rest")])
        other = "open" if rest == "closed" else "closed"
        words = f"{where.capitalize()} is told to be {rest} at rest. Off the switch it must say clear."
        yield Cause("The contact at rest is told wrong", words, {Address(number, "input.rest"): other}, number)
        yield Cause(
            "The switch sticks, or its wire is broken", "Press and release it by hand and watch it.", {}, number
        )


def _still_pressed(machine: Machine, axis: Axis, seen: Seen) -> Iterator[Cause]:
    number = home_switch(machine, axis.slot)
    back, approach = axis.number("homing.back_off"), float(axis.number("homing.approach")) / 60
    where = Address(axis.slot, "homing.back_off")
    if seen.lets_go is not None:
        more = Fraction(round((seen.lets_go * 1.5 + 0.5) * 10), 10)
        words = f"It let go {_length(axis, seen.lets_go)} behind where it made; the back-off is {_length(axis, back)}."
        if more > back:
            yield Cause("Back-off too short", words, {where: more}, number, clear=True)
    else:
        words = f"{_length(axis, back)} back did not free {_terminal(machine, number)}."
        yield Cause("Back-off too short", words, {where: back + 1}, number, clear=True)
    hidden = filter_of(machine, axis.slot) * approach
    if number is not None and hidden > 0.05:
        words = (
            f"Its filter of {filter_of(machine, axis.slot) * 1000:g} ms hides the release for {_length(axis, hidden)}."
        )
        yield Cause("Filter too long", words, {Address(number, "input.filter"): Fraction(1)}, number)
    yield Cause(
        "The switch is bent or sticks",
        f"Press and release it by hand and watch {_terminal(machine, number)}.",
        {},
        number,
    )


def _other_end(machine: Machine, axis: Axis, seen: Seen) -> Iterator[Cause]:
    high = way(axis) > 0
    limit = input_of(machine, Duty(InputRole.LIMIT_LOW if high else InputRole.LIMIT_HIGH, axis.name))
    far = f" after {_length(axis, seen.went)}" if seen.went is not None else ""
    words = f"Sent to {'+' if high else '−'}, it met the limit switch of the {'low' if high else 'high'} end{far}."
    turned = {Address(axis.slot, "axis.reversed"): not axis.flag("axis.reversed")}
    yield Cause("Its direction is turned round", words, turned)
    words = f"Its home may lie at the {'low' if high else 'high'} end after all."
    yield Cause("It looks at the wrong end", words, {Address(axis.slot, "homing.towards"): "low" if high else "high"})
    if limit is not None:
        words = f"Or {_terminal(machine, limit.slot)} is at the other end of the machine. Press it and watch."
        yield Cause("The two limit switches are swapped", words, {}, limit.slot)


def _no_index(machine: Machine, axis: Axis, seen: Seen) -> Iterator[Cause]:
    mark = input_of(machine, Duty(InputRole.INDEX, axis.name))
    within = axis.number("homing.index_within")
    words = f"It looked over {_length(axis, within)}: that must be more than one turn of what the mark sits on."
    yield Cause("The search for the mark is too short", words, {Address(axis.slot, "homing.index_within"): within * 2})
    number = mark.slot if mark is not None else None
    if mark is not None:
        late = float(mark.filter) / 1000
        lost = late * float(axis.number("homing.touch")) / 60
        words = f"A filter of {late * 1000:g} ms lets a mark shorter than {_length(axis, lost, 3)} pass unseen at touch speed."
        yield Cause(
            "The mark passes unseen", words, {Address(number, "input.filter"): Fraction(1, 10)} if late > 1e-4 else {}
        )
    words = f"Turn the shaft by hand and watch {_terminal(machine, number)}."
    yield Cause("The mark does not answer", words, {}, number)


def _apart(machine: Machine, axis: Axis, seen: Seen) -> Iterator[Cause]:
    apart = _length(axis, axis.number("homing.apart"))
    own, second = home_switch(machine, axis.slot), input_of(machine, Duty(InputRole.HOME_SECOND, axis.name))
    pair = f"{_terminal(machine, own)} and {_terminal(machine, second.slot if second is not None else None)}"
    words = f"One of {pair} did not change within {apart} of the other. Press both by hand and watch."
    yield Cause("A switch does not answer", words, {}, second.slot if second is not None else own)
    words = f"The beam is out of square by more than {apart}. Take the power off the drives and push it square by hand."
    yield Cause("The beam is racked", words)
    more = {Address(axis.slot, "homing.apart"): axis.number("homing.apart") + 1}
    yield Cause("The switches are mounted further apart", "Only where the beam bears it.", more)


def _mark_moved(machine: Machine, axis: Axis, seen: Seen) -> Iterator[Cause]:
    known = axis.number("homing.mark_distance")
    thing = "stop" if by_stop(axis) else "switch"
    if seen.mark is None:
        yield Cause(
            f"The {thing} or the mark has moved", f"The mark was not {_length(axis, known, 3)} from the {thing}."
        )
        return
    found = Fraction(round(seen.mark * 10_000), 10_000)
    off = seen.mark - float(known)
    words = (
        f"The mark was found {_length(axis, found, 3)} from the {thing}, known was {_length(axis, known, 3)}: "
        f"{_length(axis, abs(off), 3)} {'more' if off > 0 else 'less'}."
    )
    if off < 0:
        yield Cause(
            f"Something lies before the {thing}", f"{words} A chip would be met too early. Clean it and home again."
        )
    else:
        yield Cause(f"The {thing} gave way", f"{words} Its bracket or bolt may have come loose.")
    yield Cause("The coupling slipped", "Then the mark has moved. Tighten it, prove the scale, and keep the new distance.",
                {Address(axis.slot, "homing.mark_distance"): max(Fraction(0), found)})  # fmt: skip


def _chain_busy(machine: Machine, axis: Axis, seen: Seen) -> Iterator[Cause]:
    yield Cause("Two axes at once on one chain", f"Home {axis.name} when the other has its home.")
