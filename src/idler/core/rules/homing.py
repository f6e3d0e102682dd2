"""What is wrong with a homing before anything moves: confusions of the three signs, and settings that cannot end well."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from ..homing import by_index, by_stop, met_at, moves, stops_of, two_sides, way
from ..machine import Address, Axis, Machine
from ..machine.finding import Finding, Severity, at_axis
from ..mechanics.chain import Chain

TOUCH_SHARE = 10  # the approach is so many times as fast as a good touch
SUREST_EFFORT = Fraction(9, 10)  # above it a motor slips before iron is told from effort
IRON_SPEED = Fraction(300)  # mm/min: a hard stop met faster than this is struck, not touched
BEHIND = 3  # mm of iron's way behind a switch, where nobody has told more
STOP_GIVE = 0.5  # mm by which a home may be told beyond a stop that was measured with a rule
EDGE_OF_A_TURN = Fraction(1, 20)  # of a turn: closer to its ends a mark may be met a turn too early or too late
FELT_WITHIN = Fraction(1, 100)  # s: how late a controller of this profile feels iron


def homing_rules(machine: Machine, axis: Axis) -> Iterator[Finding]:
    """Findings of one axis whose homing is in use."""
    if not axis.whole("homing.turn") or not axis.whole("axis.output"):
        return
    if not axis.rotary:
        yield from _signs(machine, axis)
    if moves(axis):
        yield from _speeds(machine, axis)
        yield from _ways(machine, axis)
        yield from _reach(machine, axis)
        yield from _mark(machine, axis)
    if by_stop(axis):
        yield from _iron(machine, axis)


def _signs(machine: Machine, axis: Axis) -> Iterator[Finding]:
    """A coordinate at the wrong end of the travel, or of the way between the stops: a move to zero would drive past the end."""
    high, stops = way(axis) > 0, stops_of(axis)
    low_end, high_end, home = (float(axis.number(key)) for key in ("travel.low", "travel.high", "homing.coordinate"))
    if stops is not None and moves(axis):
        met, (low, iron) = met_at(axis), (float(stop) for stop in stops)
        where, other = ("high", "low") if high else ("low", "high")
        between = f"its hard stops lie from {axis.reads.range(low, iron)}"
        inside = min(Fraction(BEHIND), (stops[1] - stops[0]) / 4)  # of a short travel it is still at its end
        near = Fraction(round((stops[1] - inside if high else stops[0] + inside) * 1000), 1000)
        if not by_stop(axis) and not low - STOP_GIVE <= met <= iron + STOP_GIVE:
            text = (
                f"{axis.name} is said to find its home at {axis.reads.length(met, trim=True)}, and {between}: there it "
                f"cannot be. At its {where} end, "
                f"with these stops, its coordinate is near {axis.reads.length(iron if high else low, trim=True)}."
            )
            yield at_axis(machine, axis, "homing.coordinate", "signs_confused", Severity.ERROR, text, near)
            return
        if (met < (low + iron) / 2) == high:
            text = (
                f"{axis.name} homes towards {'+' if high else '−'}, and the coordinate there, "
                f"{axis.reads.length(met, trim=True)}, is nearer to its "
                f"{other} end: {between}. One of the three is the wrong way round, and a move to zero may end in iron."
            )
            yield at_axis(machine, axis, "homing.coordinate", "signs_confused", Severity.ERROR, text, near)
            return
    if moves(axis) and low_end < high_end and (home < (low_end + high_end) / 2) == high:
        where = "high" if high else "low"
        text = (
            f"{axis.name} homes at its {where} end, and its coordinate there is {axis.reads.length(home, trim=True)}, at "
            "the other end of the travel "
            f"from {axis.reads.range(low_end, high_end)}: a move to zero would drive "
            f"{'down past' if high else 'up past'} the end. "
            f"With home at the {where} end the travel is {'negative' if high else 'positive'} from there."
        )
        yield at_axis(machine, axis, "homing.coordinate", "signs_confused", Severity.ERROR, text)


def _ways(machine: Machine, axis: Axis) -> Iterator[Finding]:
    """Nothing to go back or to leave by: the switch is still made when it should be free."""
    if by_stop(axis):
        return
    for key, what in (
        ("homing.back_off", "does not go back from its switch before it touches it again"),
        ("homing.leave", "stays on its switch when it has found it"),
    ):
        if not axis.number(key):
            text = (
                f"{axis.name} {what}: the switch cannot be seen to let go. {axis.reads.length(2, trim=True)} suit most."
            )
            yield at_axis(machine, axis, key, "switch_not_left", Severity.ERROR, text, Fraction(2))


def _mark(machine: Machine, axis: Axis) -> Iterator[Finding]:
    """An index mark that lies where its switch makes: from one homing to the next it is met now, or a whole turn later."""
    known, turn = axis.number("homing.mark_distance"), Chain.of(axis).travel_per_turn
    if not by_index(axis) or not known or not turn:
        return
    beyond = known % turn
    if min(beyond, turn - beyond) < EDGE_OF_A_TURN * turn:
        text = (
            f"The index mark of {axis.name} lies {axis.reads.length(known, 3, trim=True)} from where home is touched, "
            "and a turn is "
            f"{axis.reads.length(turn, 3, trim=True)}: a little more or less, and the mark of the next turn is taken. "
            "Loosen the "
            "coupling, turn the motor by half a turn, tighten it, and home again."
        )
        yield at_axis(machine, axis, "homing.mark_distance", "mark_at_the_edge", Severity.WARNING, text)


def _speeds(machine: Machine, axis: Axis) -> Iterator[Finding]:
    approach, touch = axis.number("homing.approach"), axis.number("homing.touch")
    for key, value in (("homing.approach", approach), ("homing.touch", touch)):
        if not value:
            label = Address(axis.slot, key).row.label
            text = f"{axis.name} has no {label}: it would never find its {'stop' if by_stop(axis) else 'switch'}."
            yield at_axis(machine, axis, key, "homing_stands_still", Severity.ERROR, text)
    if touch >= approach > 0 and not by_stop(axis):
        text = (
            f"{axis.name} touches its switch as fast as it approaches it; a tenth of that finds it again more surely."
        )
        slower = approach / TOUCH_SHARE
        yield at_axis(machine, axis, "homing.touch", "touch_not_slower", Severity.WARNING, text, slower)


def _reach(machine: Machine, axis: Axis) -> Iterator[Finding]:
    """A search that ends before the travel does, and a squaring that bends the beam further than it may be."""
    stops, search = stops_of(axis), axis.number("homing.search")
    if stops is not None and search < (span := stops[1] - stops[0]):
        text = (
            f"{axis.name} looks for its home over {axis.reads.length(search, 1, trim=True)}, and "
            f"{axis.reads.length(span, 1, trim=True)} lie "
            "between its hard stops: from the other end it would give up on the way."
        )
        more = Fraction(round(span * Fraction(11, 10)))
        yield at_axis(machine, axis, "homing.search", "search_too_short", Severity.WARNING, text, more)
    if two_sides(machine, axis) and abs(axis.number("homing.squaring")) > axis.number("homing.apart"):
        text = (
            f"The sides of {axis.name} may differ by {axis.reads.length(axis.number('homing.apart'), 2, trim=True)}, and its "
            f"squaring offset is {axis.reads.length(axis.number('homing.squaring'), 2, trim=True)}: the beam would be "
            "bent too far."
        )
        yield at_axis(machine, axis, "homing.squaring", "squared_too_far", Severity.ERROR, text)


def _iron_speed(axis: Axis) -> Fraction:
    """The fastest touch of iron, in mm/min (°/min): a stepper must not go a full step before it is felt, for then it slips."""
    if axis.choice("chain.motor") != "stepper":
        return IRON_SPEED
    step = axis.whole("chain.microsteps") / Chain.of(axis).counts_per_unit
    return min(IRON_SPEED, step / FELT_WITHIN * 60)


def _iron(machine: Machine, axis: Axis) -> Iterator[Finding]:
    """A hard stop that is struck, or never told from a motor that slips."""
    touch, effort = axis.number("homing.touch"), axis.number("homing.effort")
    most = _iron_speed(axis)
    if touch > most:
        text = (
            f"{axis.name} meets its hard stop at {axis.reads.speed(touch)}. Above {axis.reads.speed(most)} it strikes it, or "
            "its motor slips before iron is felt."
        )
        slower = Fraction(int(most))
        yield at_axis(machine, axis, "homing.touch", "stop_is_struck", Severity.WARNING, text, slower)
    if effort > SUREST_EFFORT:
        text = f"{axis.name} calls it iron from {float(effort):.0%} of its torque on: the motor may slip before that is felt."
        yield at_axis(machine, axis, "homing.effort", "effort_too_high", Severity.WARNING, text, SUREST_EFFORT)
    if by_index(axis) and not axis.number("homing.mark_distance"):
        text = (
            f"{axis.name} refines its hard stop by an index mark whose distance is not known: a turn too early or too late "
            "would not be noticed. Home it once and keep the distance."
        )
        yield at_axis(machine, axis, "homing.mark_distance", "mark_not_known", Severity.WARNING, text)
