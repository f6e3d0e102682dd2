"""What a homing means: of one that found its home what was measured, of one that failed its likely causes.

Causes come most likely first, each with the figures that speak for it and what would help.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from fractions import Fraction

from ..machine import Address, Axis, Machine
from ..mechanics.chain import Chain
from ..mechanics.reliable import lower_pace, shift_allowed
from ..profile.homing import HomingResult
from ..values.parameter import Value
from ..values.roles import InputRole
from ..values.units import figure
from ..wiring import Duty, home_switch, input_of, inputs
from . import by_index, by_stop, filter_of, search_of, stops_of, way

CLEAR = 3.0  # mm or °: back from a switch on which an axis stands
FIGHTS = 0.55  # of the torque, in the mean of an approach: two motors that turn against each other
SURE_BACK = 3  # mm (°): a switch that does not let go so far back sticks
WHOLE_TURN = 0.1  # of a turn: a jump so near to whole turns is one of whole turns
TIMES_SCATTER = 5.0  # standard deviations of its own scatter by which a home may be found elsewhere


@dataclass(frozen=True)
class HomingSeen:
    """What was seen of one homing. Lengths in mm (°); None where it was not measured.

    went          how far the axis was counted to go from its start towards home
    lets_go       how far behind the place where it made the switch was seen to let go, in this run or the last good one
    mark          how far the index mark was from the switch or stop
    effort        usual share of the torque on the approach
    off           how far the switch, stop or mark was from where the homing before had it
    sides         how far the switch of the second motor's side lies further to +, by the steps of its own motor
    others        inputs that were made on the way and belong to something else
    directed      whether the direction of the axis was proven before
    refuted       whether it was seen not to go where it was told to
    touched       whether each switch of the axis has answered when it was touched by its name
    gave_up       whether its drive reported trouble on the way
    """

    result: HomingResult
    went: float | None = None
    lets_go: float | None = None
    mark: float | None = None
    effort: float | None = None
    off: float | None = None
    sides: float | None = None
    others: tuple[int, ...] = ()
    directed: bool = False
    refuted: bool = False
    touched: bool = False
    gave_up: bool = False


@dataclass(frozen=True)
class HomingCause:
    """One likely cause. edit: values that would mend it. watch: an input to be tried by hand. clear: moving clear helps.

    hides: what fault the edit would hide; such an edit is offered, and never first. press: what the button of the edit says,
    where that is not the values themselves.
    """

    title: str
    words: str
    edit: Mapping[Address, Value] = field(default_factory=dict)
    watch: int | None = None
    clear: bool = False
    hides: str = ""
    press: str = ""

    def mends(self, machine: Machine) -> bool:
        """Whether its edit would still change something of the machine as it is now."""
        return any(machine[where] != value for where, value in self.edit.items())


@dataclass(frozen=True)
class Doubt:
    """A home that was found elsewhere than before: not a home until a person says why. off in mm (°)."""

    off: float
    words: str
    answers: tuple[tuple[str, str], ...]  # key, and what the person says with it


def allowed_off(machine: Machine, slot: int, standard: float | None = None) -> float:
    """By how much two homes may lie apart, in mm (°): a few times their own scatter, and half a pole of the motor at least."""
    return max(shift_allowed(machine, slot), TIMES_SCATTER * (standard or 0.0))


def doubt(
    machine: Machine, slot: int, seen: HomingSeen, standard: float | None = None, otherwise: float = 0.0
) -> Doubt | None:
    """Whether a home that was found is to be believed, by where the homing before had it. otherwise: by how much play is taken
    up otherwise than then, in mm (°): so far the counts may differ, and nothing was lost or moved."""
    axis = machine.axis(slot)
    if seen.off is None or abs(seen.off) <= allowed_off(machine, slot, standard) + otherwise:
        return None
    thing = "hard stop" if by_stop(axis) else "switch"
    turns = whole_turns(axis, seen.off)
    whole = f" That is {turns} whole turn{'s' if turns > 1 else ''} of its motor." if turns and by_index(axis) else ""
    words = (
        f"The {thing} of {axis.name} was met {_length(axis, abs(seen.off), 3)} further to {'+' if seen.off > 0 else '−'} than "
        f"last time.{whole} Its coordinates count only when you have said why."
    )
    answers = [("lost", f"Steps were lost; the {thing} is where it was"), ("moved", f"The {thing} was moved")]
    if by_stop(axis):
        answers.insert(1, ("between", "Something lay before it, and is gone"))
    return Doubt(seen.off, words, tuple(answers))


def answered(machine: Machine, slot: int, found: Doubt, answer: str) -> dict[Address, Value]:
    """What an answer changes: a switch that was moved gets the coordinate at which it is now, so that all others stay."""
    if answer != "moved":
        return {}
    where = Address(slot, "homing.coordinate")
    return {where: machine.axis(slot).number(where.key) + Fraction(round(found.off * 10_000), 10_000)}


def whole_turns(axis: Axis, off: float) -> int:
    """How many whole turns of the motor a length is, or 0 where it is none."""
    turn = float(Chain.of(axis).travel_per_turn)
    count = round(abs(off) / turn) if turn else 0
    return count if count and abs(abs(off) - count * turn) < WHOLE_TURN * turn else 0


_BLIND = (
    HomingResult.NOT_FOUND,
    HomingResult.OTHER_END,
    HomingResult.APART,
    HomingResult.LIMIT_FIRST,
    HomingResult.PRESSED,
    HomingResult.STILL_PRESSED,
)


def causes(machine: Machine, slot: int, seen: HomingSeen) -> tuple[HomingCause, ...]:
    """Empty for a homing that did not fail."""
    axis = machine.axis(slot)
    found = {
        HomingResult.NOT_FOUND: _stop_not_found if by_stop(axis) else _switch_not_found, HomingResult.PRESSED: _pressed,
        HomingResult.STILL_PRESSED: _still_pressed, HomingResult.OTHER_END: _other_end, HomingResult.NO_INDEX: _no_index,
        HomingResult.APART: _apart, HomingResult.MARK_MOVED: _mark_moved, HomingResult.CHAIN_BUSY: _chain_busy,
        HomingResult.STILL_MADE: _still_pressed, HomingResult.UNSTEADY: _unsteady, HomingResult.LIMIT_FIRST: _limit_first,
        HomingResult.STOPPED: _gave_up, HomingResult.UNSURE: _unsure,
    }.get(seen.result)  # fmt: skip
    if found is None:
        return ()
    first = [*_refuted(axis, seen), *_swapped(machine, axis, seen)] if seen.result in _BLIND else ()
    return (*first, *found(machine, axis, seen))


def measured(machine: Machine, slot: int, seen: HomingSeen) -> tuple[tuple[str, ...], dict[Address, Value]]:
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
        held = _held_within(machine, slot)
        words.append(
            f"The second side's switch lies {_length(axis, abs(seen.sides), 3)} further to {'+' if seen.sides > 0 else '−'}, "
            f"known to ± {_length(axis, held, 3)}: so near to where they stand do its two motors take hold when power comes."
        )
        edit = edit or _squared(axis, seen.sides, held)
        if edit:
            words.append(
                "Both sides stand on their switches, so the beam is racked by that, if it lay square without power. The "
                "squaring offset takes it out."
            )
    return tuple(words), edit


def _held_within(machine: Machine, slot: int) -> float:
    """How far two motors may move against each other when power comes, in mm (°): each goes to its nearest pole."""
    return 2 * shift_allowed(machine, slot)


def _squared(axis: Axis, sides: float, within: float) -> dict[Address, Value]:
    """The squaring offset that undoes how far the two switches of a beam lie apart, where that is more than can be chance."""
    offset = Fraction(round(-sides * 1000), 1000)
    told = axis.number("homing.squaring")
    enough = max(float(SQUARE_ENOUGH), within)
    return {Address(axis.slot, "homing.squaring"): offset} if not told and abs(offset) > enough else {}


SQUARE_ENOUGH = Fraction(1, 20)  # mm between the two switches that nobody need take out


def _length(axis: Axis, value: float | Fraction, decimals: int = 2) -> str:
    return axis.reads.length(value, decimals, trim=True)


def _terminal(machine: Machine, number: int | None) -> str:
    return f"terminal {machine[Address(number, 'input.terminal')]}" if number is not None else "its terminal"


def _refuted(axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    """What eyes saw comes before what is counted."""
    if seen.refuted:
        words = (
            f"When it was looked at, {axis.name} did not go where it was told to. Settle its direction first (Drives): what "
            "was counted here is no way that it went."
        )
        yield HomingCause("It does not go as it is told", words)


def _swapped(machine: Machine, axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    """A switch of another axis answered while this one moved: their wires are exchanged."""
    own = home_switch(machine, axis.slot)
    wired = inputs(machine)
    for slot in seen.others:
        other = wired[slot]
        if own is None or not (other.role.homes or other.role.limits) or other.duty.axis in ("", axis.name):
            continue
        words = (
            f"{_terminal(machine, slot).capitalize()}, told to be the {other.duty.label}, was made while only {axis.name} "
            f"moved, and {_terminal(machine, own)} was not."
        )
        yield HomingCause(
            f"The wires of {axis.name} and {other.duty.axis} are swapped",
            words,
            exchanged(machine, own, slot),
            slot,
            clear=True,
        )


def exchanged(machine: Machine, one: int, other: int) -> dict[Address, Value]:
    """Two inputs with each other's roles; what each is at rest stays with its terminal."""
    return {
        Address(here, f"input.{key}"): machine[Address(there, f"input.{key}")]
        for here, there in ((one, other), (other, one))
        for key in ("role", "axis")
    }


def _fighting(axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    """Two motors of one beam that turn against each other twist it, and hardly move it."""
    if axis.whole("axis.second_output") and seen.effort is not None and seen.effort > FIGHTS:
        words = (
            f"On its way it took {seen.effort:.0%} of the torque: the two motors work against each other and twist the beam. "
            "Look whether both sides go the same way."
        )
        turned = {Address(axis.slot, "axis.second_reversed"): not axis.flag("axis.second_reversed")}
        yield HomingCause(f"The second motor of {axis.name} turns the other way", words, turned)


def _unsteady(machine: Machine, axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    number = home_switch(machine, axis.slot)
    words = (
        f"It made again when the second touch began. Press {_terminal(machine, number)} slowly by hand and watch it."
    )
    yield HomingCause("The contact bounces for too long", words, {}, number, clear=True)
    back = axis.number("homing.back_off")
    words = f"From {_length(axis, back)} back the second touch comes before the contact is quiet."
    yield HomingCause(
        "Back-off too short", words, {Address(axis.slot, "homing.back_off"): 2 * back}, number, hides="a worn contact"
    )


def _unsure(machine: Machine, axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    touch = axis.number("homing.touch")
    words = f"At {axis.reads.speed(touch)} the axis goes on between two answers of its drive. Slower, it goes on less."
    yield HomingCause(
        "Touched too fast for how quickly it is seen", words, {Address(axis.slot, "homing.touch"): touch / 4}
    )
    words = "Close what keeps this computer busy, let fewer nodes speak on the bus, or set the bus to a faster rate."
    yield HomingCause("Computer or bus is held up", words)


def _limit_first(machine: Machine, axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    number, end = home_switch(machine, axis.slot), "high" if way(axis) > 0 else "low"
    words = (
        f"{_terminal(machine, number).capitalize()} did not change before the limit switch of the {end} end. Press it by hand "
        "and watch it."
    )
    yield HomingCause("The home switch does not answer", words, {}, number, clear=True)
    words = f"Then the axis can never reach it: it must make before the limit switch of the {end} end does."
    yield HomingCause("The home switch sits behind the limit switch", words, {}, number, clear=True)
    chain = input_of(machine, Duty(InputRole.LIMIT_CHAIN))
    if chain is not None and not seen.directed:
        words = (
            f"{_terminal(machine, chain.slot).capitalize()} is the chain of all limits: it may have been the other end."
        )
        yield HomingCause("Its direction is turned round", words, _turned(axis))


def _too_short(machine: Machine, axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    """The search ends before the travel does, or only because the travel was told too short."""
    stops, search = stops_of(axis), axis.number("homing.search")
    if stops is None:
        return
    span = stops[1] - stops[0]
    if span > search:
        words = f"It looks over {_length(axis, search)}, and its hard stops lie {_length(axis, span)} apart."
        yield HomingCause(
            "Search too short", words, {Address(axis.slot, "homing.search"): Fraction(round(span * 11 / 10))}
        )


def _wrong_way(axis: Axis, went: float | None) -> HomingCause:
    far = f" {_length(axis, went)} to {'+' if way(axis) > 0 else '−'} were counted." if went is not None else ""
    return HomingCause(
        "It goes the wrong way",
        f"Look which way it goes: its direction, or the side of its home, may be turned round.{far}",
    )


def _stands(axis: Axis) -> HomingCause:
    """What only eyes can tell: a motor that has lost its steps is counted on."""
    speed, rise = (float(axis.number(f"homing.{key}")) for key in ("approach", "acceleration"))
    slower, gentler = lower_pace(speed, rise)
    words = (
        f"Look whether it goes at all: where it stands and is counted on, its motor has not the torque for "
        f"{axis.reads.speed(speed, 0)} and {axis.reads.acceleration(rise, 0)}. Try a gentler approach."
    )
    edit = {Address(axis.slot, "homing.approach"): slower, Address(axis.slot, "homing.acceleration"): gentler}
    return HomingCause("The motor stands still", words, edit)


def _switch_not_found(machine: Machine, axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    number = home_switch(machine, axis.slot)
    yield from _fighting(axis, seen)
    yield from _too_short(machine, axis, seen)
    late = filter_of(machine, axis.slot)
    passes = late * float(axis.number("homing.approach")) / 60
    if passes > 1:  # mm in which a short cam would come and go unseen
        words = (
            f"At the approach speed its filter of {late * 1000:g} ms misses a cam shorter than {_length(axis, passes)}."
        )
        yield HomingCause("Filter too long", words, {Address(number, "input.filter"): Fraction(1)}, number)
    if seen.directed and seen.touched:
        words = (
            f"It answered when a hand touched it, and {_terminal(machine, number)} did not change on this way. Look where the "
            "axis stands: at its hard stop before it comes to the switch, or past a switch that nothing meets."
        )
        yield HomingCause("Nothing comes to the switch", words, {}, number)
    words = f"{_terminal(machine, number).capitalize()} did not change. Press the switch by hand and watch it."
    dead, other_way = HomingCause("The switch does not answer", words, {}, number), _wrong_way(axis, seen.went)
    yield from (dead, other_way) if seen.directed else (other_way, dead)
    stops = stops_of(axis)
    if stops is not None and search_of(axis) < axis.number("homing.search"):
        words = (
            f"It looked over {_length(axis, search_of(axis))}: its hard stops are told to lie "
            f"{_length(axis, stops[1] - stops[0])} apart. If they lie further apart, tell Travel."
        )
        yield HomingCause("The hard stops are told too close together", words)
    yield _stands(axis)


def _stop_not_found(machine: Machine, axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    yield from _too_short(machine, axis, seen)
    told = axis.number("homing.effort")
    if seen.effort is not None:
        wanted = min(Fraction(9, 10), max(Fraction(1, 10), Fraction(round(200 * seen.effort), 100)))
        words = f"On its way it takes {seen.effort:.0%} of its torque, and iron is felt from {float(told):.0%} on."
        lower = {Address(axis.slot, "homing.effort"): wanted} if wanted < told else {}
        yield HomingCause("The motor slipped before iron was felt", words, lower)
    yield _wrong_way(axis, seen.went)


def _pressed(machine: Machine, axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    number = home_switch(machine, axis.slot)
    where = _terminal(machine, number)
    chained = number is not None and inputs(machine)[number].role is InputRole.HOME_CHAIN
    if chained:
        words = f"{where.capitalize()} is the chain of all axes: jog each of them off its switch, one after the other."
        yield HomingCause("Another axis may stand on its switch of the chain", words, {}, number, clear=True)
    yield HomingCause("It stands on its switch", f"{where.capitalize()} was made before anything moved.", clear=True)
    if number is not None:
        yield HomingCause(
            "The switch sticks, or its wire is broken", "Press and release it by hand and watch it.", {}, number
        )
        rest = str(machine[Address(number, "input.rest")])
        other = "open" if rest == "closed" else "closed"
        words = f"{where.capitalize()} is told to be {rest} at rest. Off the switch it must say clear."
        edit = {Address(number, "input.rest"): other}
        yield HomingCause(
            "The contact at rest is told wrong", words, edit, number, hides="a broken wire, or a switch that sticks"
        )


def _still_pressed(machine: Machine, axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    """After the back-off, or after it was left: how far the switch needs, and what else may hold it."""
    number = home_switch(machine, axis.slot)
    left = seen.result is HomingResult.STILL_MADE
    back, approach = (
        axis.number("homing.leave" if left else "homing.back_off"),
        float(axis.number("homing.approach")) / 60,
    )
    what = "leaving it by" if left else "back-off is"
    too_short = "It is left by too little" if left else "Back-off too short"
    sticks = HomingCause(
        "The switch is bent or sticks", f"Press and release it by hand and watch {_terminal(machine, number)}.", {}, number,
        clear=True,
    )  # fmt: skip
    if seen.lets_go is not None:
        words = f"It let go {_length(axis, seen.lets_go)} behind where it made; {what} {_length(axis, back)}."
        further = room_for(axis, seen.lets_go)
        if further:
            yield HomingCause(too_short, words, further, number, clear=True)
    else:
        words = f"{_length(axis, back)} back did not free {_terminal(machine, number)}."
        if back >= SURE_BACK:
            yield sticks
        hides = "a switch that sticks" if back >= SURE_BACK else ""
        yield HomingCause(too_short, words, room_for(axis, float(back) + 0.5), number, clear=True, hides=hides)
    hidden = filter_of(machine, axis.slot) * approach
    if number is not None and hidden > 0.05:
        words = (
            f"Its filter of {filter_of(machine, axis.slot) * 1000:g} ms hides the release for {_length(axis, hidden)}."
        )
        yield HomingCause("Filter too long", words, {Address(number, "input.filter"): Fraction(1)}, number)
    if seen.lets_go is not None or back < SURE_BACK:
        yield sticks


def room_for(axis: Axis, lets_go: float) -> dict[Address, Value]:
    """Back-off and leave that free a switch which lets go so far (mm, °) behind the place where it made; those that are enough
    stay."""
    least = Fraction(round((lets_go * 1.5 + 0.5) * 10), 10)
    return {
        Address(axis.slot, key): least
        for key in ("homing.back_off", "homing.leave")
        if axis.number(key) < least
    }  # fmt: skip


def _turned(axis: Axis) -> dict[Address, Value]:
    return {Address(axis.slot, "axis.reversed"): not axis.flag("axis.reversed")}


def _other_end(machine: Machine, axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    high = way(axis) > 0
    roles = (InputRole.LIMIT_LOW, InputRole.LIMIT_HIGH)
    met, beside = (input_of(machine, Duty(role, axis.name)) for role in (roles if high else roles[::-1]))
    chain = input_of(machine, Duty(InputRole.LIMIT_CHAIN))
    if chain is not None and met is None:
        where = _terminal(machine, chain.slot).capitalize()
        words = f"{where}, the limit chain of all axes, was made before {axis.name} moved."
        yield HomingCause("It or another axis stands on a switch of the limit chain", words, {}, chain.slot, clear=True)
        return
    far = f" after {_length(axis, seen.went)}" if seen.went is not None else ""
    words = f"Sent to {'+' if high else '−'}, it met the limit switch of the {'low' if high else 'high'} end{far}."
    direction = HomingCause("Its direction is turned round", words, _turned(axis), clear=True)
    exchange = None
    if met is not None:
        words = f"Or {_terminal(machine, met.slot)} is at the other end of the machine. Press it and watch."
        edit = exchanged(machine, met.slot, beside.slot) if beside is not None else {}
        exchange = HomingCause(f"The limit switches of {axis.name} are exchanged", words, edit, met.slot, clear=True)
    if exchange is not None and seen.directed:
        yield exchange
    else:
        yield direction
    words = f"Its home may lie at the {'low' if high else 'high'} end after all."
    yield HomingCause(
        "It looks at the wrong end", words, {Address(axis.slot, "homing.towards"): "low" if high else "high"}
    )
    if exchange is not None:
        yield direction if seen.directed else exchange


def _no_index(machine: Machine, axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    mark = input_of(machine, Duty(InputRole.INDEX, axis.name))
    within = axis.number("homing.index_within")
    words = f"It looked over {_length(axis, within)}: that must be more than one turn of what the mark sits on."
    yield HomingCause(
        "The search for the mark is too short", words, {Address(axis.slot, "homing.index_within"): within * 2}
    )
    number = mark.slot if mark is not None else None
    if mark is not None:
        late = float(mark.filter) / 1000
        lost = late * float(axis.number("homing.touch")) / 60
        words = f"A filter of {late * 1000:g} ms lets a mark shorter than {_length(axis, lost, 3)} pass unseen at touch speed."
        yield HomingCause(
            "The mark passes unseen", words, {Address(number, "input.filter"): Fraction(1, 10)} if late > 1e-4 else {}
        )
    words = f"Turn the shaft by hand and watch {_terminal(machine, number)}."
    yield HomingCause("The mark does not answer", words, {}, number)


def _apart(machine: Machine, axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    yield from _fighting(axis, seen)
    apart = _length(axis, axis.number("homing.apart"))
    own, second = home_switch(machine, axis.slot), input_of(machine, Duty(InputRole.HOME_SECOND, axis.name))
    pair = f"{_terminal(machine, own)} and {_terminal(machine, second.slot if second is not None else None)}"
    if own is not None and second is not None and not seen.touched:
        words = (
            f"Then each side is stopped by the other's. Press the first side's: {_terminal(machine, own)} must answer."
        )
        edit = exchanged(machine, own, second.slot)
        yield HomingCause(f"The wires of the two sides of {axis.name} are swapped", words, edit, own, clear=True)
    words = f"One of {pair} did not change within {apart} of the other. Press both by hand and watch."
    yield HomingCause("A switch does not answer", words, {}, second.slot if second is not None else own, clear=True)
    words = f"The beam is out of square by more than {apart}. Take the power off the drives and push it square by hand."
    yield HomingCause("The beam is racked", words)
    more = {Address(axis.slot, "homing.apart"): axis.number("homing.apart") + 1}
    yield HomingCause(
        "The switches are mounted further apart", "Only where the beam bears it.", more,
        hides="a switch that does not answer: the beam would be bent further before it shows",
    )  # fmt: skip


def _gave_up(machine: Machine, axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    """A drive that watches its motor may give up at the stop before the effort there is taken for iron."""
    if not seen.gave_up:
        return
    if by_stop(axis):
        effort = axis.number("homing.effort")
        lower = Fraction(round(effort * 200 / 3), 100)
        words = (
            f"Its drive reported trouble before {figure(100 * effort, 0)} % of the torque meant iron. A lower share is felt "
            "sooner; it must stay above what the way takes."
        )
        yield HomingCause("Its drive gives up at the stop", words, {Address(axis.slot, "homing.effort"): lower})
    yield HomingCause("Something holds it", "Its drive reported trouble on the way. Look what holds the axis.")


def _mark_moved(machine: Machine, axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    known = axis.number("homing.mark_distance")
    thing = "stop" if by_stop(axis) else "switch"
    if seen.mark is None:
        yield HomingCause(
            f"The {thing} or the mark has moved", f"The mark was not {_length(axis, known, 3)} from the {thing}."
        )
        return
    found = Fraction(round(seen.mark * 10_000), 10_000)
    off = seen.mark - float(known)
    if turns := whole_turns(axis, off):
        words = (
            f"The mark was found {_length(axis, found, 3)} from the {thing}, known was {_length(axis, known, 3)}: that is "
            f"{turns} whole turn{'s' if turns > 1 else ''} of the motor. The mark lies beside the place where the {thing} is "
            "met; turn the coupling by half a turn."
        )
        yield HomingCause("The mark of another turn was met", words)
    words = (
        f"The mark was found {_length(axis, found, 3)} from the {thing}, known was {_length(axis, known, 3)}: "
        f"{_length(axis, abs(off), 3)} {'more' if off > 0 else 'less'}."
    )
    if off < 0:
        yield HomingCause(
            f"Something lies before the {thing}", f"{words} A chip would be met too early. Clean it and home again."
        )
    else:
        yield HomingCause(f"The {thing} gave way", f"{words} Its bracket or bolt may have come loose.")
    yield HomingCause("The coupling slipped",
                "Then the mark has moved. Tighten it, prove the scale, and keep the new distance.",
                {Address(axis.slot, "homing.mark_distance"): max(Fraction(0), found)},
                hides="a chip before the stop or a loose bracket: home would move by it")  # fmt: skip


def _chain_busy(machine: Machine, axis: Axis, seen: HomingSeen) -> Iterator[HomingCause]:
    yield HomingCause("Two axes at once on one chain", f"Home {axis.name} when the other has its home.")
