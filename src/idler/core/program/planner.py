"""How fast a path is gone along: every axis within its speed, acceleration and jerk, corners cut by no more than is allowed.

A run is what lies between two stops. It is made of straight pieces; arcs become chords whose rise over the arc is small.

How fast pieces and the corners between them are gone along is in `pieces`.

Limited jerk. All axes are averaged over one window w, which keeps straight what is straight, lengthens the run by w and
turns each jump of acceleration, at most 2m, into a slope of 2m/w: with w = 2m/j no jerk is exceeded. It draws a path aside by
at most |a|·w²/24. All accelerations are therefore scaled by a k ≤ 1, and w with them, so that this takes half of the
tolerance: k³ = 12·e/(|A|·(2m/j)²). What is averaged still holds what was faster a window ago: a cushion begins earlier by
the way that top speed makes in it. The smoothest shape averages once more, over w/2: a quarter more. One straight move from
rest to rest goes by the closed form of `mechanics.pace`; where stopping at every corner takes less time, that is done.
"""

from __future__ import annotations

import math

import numpy as np

from .compiled import compiled, inlined
from .emitting import Sheet
from .language import KIND_BITS, Kind
from .pieces import ACCELERATION, REACHED, SAME, TOP, Desk, add, measure, settle, solve
from .state import Array, Row

ARC_TOLERANCE = 0.01  # mm by which arcs may be drawn aside where their program wants exact stops
RISE = 0.25  # of the tolerance: of an arc over its chord
LEAST_RISE, MOST_RISE = 0.0005, 0.005  # mm
EDGE = 1e-9  # share of a move at whose ends it is not cut


@inlined
def _softness(desk: Desk, begin: Array, end: Array) -> int:
    """Bits of the axes that are inside of a cushion on a piece that crosses no edge of one."""
    bits, law = 0, desk.law
    if law.cushioned:
        for slot in range(desk.told.axes):
            middle = (begin[slot] + end[slot]) / 2
            more = desk.work.scale * law.soft_more[slot]
            if middle < law.soft_low[slot] + more or middle > law.soft_high[slot] - more:
                bits |= 1 << slot
    return bits


@inlined
def _add_line(desk: Desk, begin: Array, end: Array, rate: float, row: int, curved: bool, tolerance: float) -> None:
    """A straight move; cut where it enters a cushion or leaves it."""
    cuts, law, marks = 0, desk.law, desk.work.marks
    if law.cushioned:
        for slot in range(desk.told.axes):
            way = end[slot] - begin[slot]
            if way != 0.0:
                more = desk.work.scale * law.soft_more[slot]
                for edge in (law.soft_low[slot] + more, law.soft_high[slot] - more):
                    share = (edge - begin[slot]) / way
                    if EDGE < share < 1 - EDGE:
                        marks[cuts] = share
                        cuts += 1
    if cuts == 0:
        add(desk, begin, end, rate, row, curved, _softness(desk, begin, end), tolerance)
        return
    marks[cuts] = 1.0
    marks[: cuts + 1].sort()
    old = 0.0
    for at in range(cuts + 1):
        if marks[at] > old:
            first, last = begin + old * (end - begin), begin + marks[at] * (end - begin)
            add(desk, first, last, rate, row, curved, _softness(desk, first, last), tolerance)
            old = marks[at]


@compiled
def chords_of(radius: float, sweep: float, rise: float) -> float:
    """Into how many chords an arc is cut so that it rises over each by no more than `rise`: h = r(1 − cos(α/2))."""
    if radius <= rise:
        return max(3.0, math.ceil(abs(sweep)))
    return max(1.0, math.ceil(abs(sweep) / (2 * math.acos(1 - rise / radius))))


@compiled
def _add_arc(desk: Desk, out: Sheet, row: int, begin: Array, share_before: float, share: float) -> None:
    """An arc as chords. Corners may be cut by half of the tolerance, or by all of it where nothing is averaged."""
    arc, end = out.arcs[out.moves[row].reference], desk.work.end
    allowed = out.moves[row].tolerance if out.moves[row].tolerance > 0 else ARC_TOLERANCE
    rise = min(max(RISE * allowed, LEAST_RISE), MOST_RISE)
    chords = int(chords_of(max(arc.radius, arc.radius + arc.grows), arc.sweep, rise))
    old = begin.copy()
    for chord in range(1, chords + 1):
        gone = chord / chords
        to = begin + gone * (end - begin)
        if chord < chords:
            angle, radius = arc.begin + gone * arc.sweep, arc.radius + gone * arc.grows
            to[arc.u], to[arc.v] = arc.cu + radius * math.cos(angle), arc.cv + radius * math.sin(angle)
        _add_line(desk, old, to, out.moves[row].rate, row, True, share * allowed if chord > 1 else share_before)
        old = to


@compiled
def _average(desk: Desk, first: int, window: float, second: float, last: int) -> None:
    """Writes down that the samples of a run, from `first` on, are averaged over these windows, and its last move."""
    if desk.work.write and desk.work.step:
        at = desk.work.averages
        desk.averages[at, 0], desk.averages[at, 1] = first, desk.work.samples - first
        desk.averages[at, 2], desk.averages[at, 3], desk.averages[at, 4] = window, second, last
        desk.work.averages = at + 1


@compiled
def _begin(desk: Desk, scale: float) -> None:
    """A run begins, of which nothing is known yet."""
    work = desk.work
    work.count = work.has = 0
    work.scale, work.per_scale, work.total, work.clock = scale, 1 / scale, 0.0, 0.0
    work.sampled = work.samples
    work.corner = 0.0


@compiled
def _extend(desk: Desk, out: Sheet, first: int, last: int, begin: Array) -> None:
    """The moves first to last, both of them, are the next ones of the run."""
    work, axes = desk.work, desk.told.axes
    share = 0.5 if desk.law.limited else 1.0
    for slot in range(axes):
        work.begin[slot] = begin[slot]
    for row in range(first, last + 1):
        for slot in range(axes):
            work.end[slot] = out.ends[row, slot]
        if out.moves[row].kind & KIND_BITS == Kind.ARC:
            _add_arc(desk, out, row, work.begin, work.corner, share)
        else:
            _add_line(desk, work.begin, work.end, out.moves[row].rate, row, False, work.corner)
        for slot in range(axes):
            work.begin[slot] = work.end[slot]
        work.corner = share * out.moves[row].tolerance


@compiled
def _end(desk: Desk, out: Sheet, last: int) -> float:
    """The run ends with this move, in a stop. Returns its time in s."""
    law, work, scale = desk.law, desk.work, desk.work.scale
    if work.count:
        solve(desk, work.count)
        settle(desk, 0, work.count)
        window = scale * law.window
        second = window / 2 if law.second else 0.0
        work.total += window + second
        if work.write:
            desk.result[last, 0] += window + second
            if out.moves[last].rate > 0:
                desk.result[last, 2] += window + second
        _average(desk, work.sampled, window, second, last)
    return work.total


@compiled
def _run(desk: Desk, out: Sheet, first: int, last: int, begin: Array, scale: float) -> float:
    """Plans the moves first to last, both of them, as one run. Returns its time in s."""
    _begin(desk, scale)
    _extend(desk, out, first, last, begin)
    return _end(desk, out, last)


@compiled
def _straight(
    desk: Desk, begin: Array, end: Array, rate: float, law: Row
) -> tuple[float, float, int, float, float, float, float]:
    """(time, peak, cause, up, down, window, second window) of one straight move from rest to rest: the closed form of
    `mechanics.pace` along the path."""
    length, _ = measure(desk.told, begin, end)
    v, a, d, j, smooth, axis = math.inf, math.inf, math.inf, math.inf, False, 0
    slow = 0
    for slot in range(desk.told.axes):
        size = abs(end[slot] - begin[slot]) / length
        if size > SAME:
            if law.top[slot] < v * size:
                v, slow = law.top[slot] / size, slot
            if law.up[slot] < a * size:
                a, axis = law.up[slot] / size, slot
            d, j = min(d, law.down[slot] / size), min(j, law.jerk[slot] / size)
            smooth = smooth or law.smoothest[slot] == 1
    why = ACCELERATION | axis
    if rate <= 0 or rate > v:
        why = TOP | slow
    else:
        v = rate
    m = max(a, d)
    k, w = 1.0, 0.0
    if j < math.inf:
        k = min(1.0, math.sqrt(v * j) / m, (length / (m**3 / j**2 * (m * (1 / a + 1 / d) / 2 + 1))) ** (1 / 3))
        w = k * m / j
    s = 1 / (k * a) + 1 / (k * d)
    peak = min(v, (math.sqrt(w * w + 2 * s * length) - w) / s)
    even = max(0.0, (length - peak * peak * s / 2) / peak)
    if peak < v * REACHED:
        why = ACCELERATION | axis
    second = w / 2 if smooth else 0.0
    return peak * s + even + w + second, peak, why, k * a, k * d, w, second


@compiled
def _sample_straight(desk: Desk, begin: Array, end: Array, peak: float, up: float, down: float, seconds: float) -> None:
    """Places on a trapezoid of speed, before it is averaged."""
    work = desk.work
    length, _ = measure(desk.told, begin, end)
    at = 0.0
    while at < seconds and work.samples < len(desk.samples):
        rest = seconds - at
        if at < peak / up:
            gone = up * at * at / 2
        elif rest < peak / down:
            gone = length - down * rest * rest / 2
        else:
            gone = peak * (at - peak / up / 2)
        for slot in range(desk.told.axes):
            desk.samples[work.samples, slot] = begin[slot] + (end[slot] - begin[slot]) * gone / length
        work.samples += 1
        at += work.step


@compiled
def _scale_of(law: Row, out: Sheet, first: int, last: int) -> float:
    """k of the module's docstring for the moves first to last, both of them."""
    if not law.limited:
        return 1.0
    tolerance = math.inf
    for row in range(first, last + 1):
        allowed = out.moves[row].tolerance
        arc = out.moves[row].kind & KIND_BITS == Kind.ARC
        if arc and allowed <= 0:
            allowed = ARC_TOLERANCE
        if allowed > 0 and (row < last or arc):
            tolerance = min(tolerance, allowed)
    if tolerance == math.inf:
        return 1.0
    more = 1.25 if law.second else 1.0
    return min(1.0, (12 * tolerance / (law.norm * law.window * law.window * more)) ** (1 / 3))


@compiled
def _touches(desk: Desk, begin: Array, end: Array) -> bool:
    """Whether a straight move is touched by a cushion."""
    law = desk.law
    if law.cushioned:
        for slot in range(desk.told.axes):
            low, high = min(begin[slot], end[slot]), max(begin[slot], end[slot])
            more = law.soft_more[slot]
            if low != high and (low < law.soft_low[slot] + more or high > law.soft_high[slot] - more):
                return True
    return False


@compiled
def _alone(desk: Desk, out: Sheet, row: int, begin: Array) -> float:
    """One move from rest to rest. Returns its time."""
    if out.moves[row].kind & KIND_BITS == Kind.ARC or _touches(desk, begin, out.ends[row]):
        return _run(desk, out, row, row, begin, _scale_of(desk.law, out, row, row))
    end = out.ends[row]
    length, _ = measure(desk.told, begin, end)
    if length <= 0:
        return 0.0
    rate, result = out.moves[row].rate, desk.result
    seconds, peak, why, up, down, window, second = _straight(desk, begin, end, rate, desk.law)
    if desk.work.write:
        result[row, 0], result[row, 1] = seconds, peak
        if rate > 0:
            result[row, 2] = max(0.0, seconds - length / rate)
            if peak < REACHED * rate:
                result[row, 3] = why
        if desk.work.step:
            sampled = desk.work.samples
            _sample_straight(desk, begin, end, peak, up, down, seconds - window - second)
            _average(desk, sampled, window, second, row)
    return seconds


@compiled
def _one_by_one(desk: Desk, out: Sheet, first: int, last: int, begin: Array, most: float) -> float:
    """Moves first to last, each from rest to rest. Returns their time, or what is more than `most` of it."""
    total = 0.0
    for row in range(first, last + 1):
        total += _alone(desk, out, row, begin if row == first else out.ends[row - 1])
        if total > most:
            break
    return total


@compiled
def _clear(desk: Desk, first: int, last: int) -> None:
    """Nothing is known of the moves first to last, both of them."""
    for row in range(first, last + 1):
        for part in range(desk.result.shape[1]):
            desk.result[row, part] = 0.0


@compiled
def _stop_where_quicker(desk: Desk, out: Sheet, last: int, start: Array, blended: float) -> None:
    """A run that has been planned is made from stop to stop where that takes less time: an average over a long window holds
    many short moves up for longer than stops would."""
    work = desk.work
    first, sampled, averages = work.first, work.sampled, work.averages
    begin = start if first == 0 else out.ends[first - 1]
    work.write = 0
    alone = _one_by_one(desk, out, first, last, begin, blended)
    work.write = 1
    if alone < blended:
        _clear(desk, first, last)
        if work.step:
            work.samples, work.averages = sampled, averages - 1
        _one_by_one(desk, out, first, last, begin, math.inf)


@compiled
def _last_of_run(desk: Desk, out: Sheet, moves: int, first: int, begin: Array) -> int:
    """The last move of the run that begins at `first`: to an exact stop, to what waits, or to where axes that turn begin to
    move alone or end to."""
    last = first
    linear = out.moves[first].kind & KIND_BITS == Kind.ARC or measure(desk.told, begin, out.ends[first])[1]
    while last + 1 < moves and out.moves[last].tolerance > 0 and out.moves[last + 1].kind & KIND_BITS < Kind.DWELL:
        follows = (
            out.moves[last + 1].kind & KIND_BITS == Kind.ARC
            or measure(desk.told, out.ends[last], out.ends[last + 1])[1]
        )
        if follows != linear:
            break
        last += 1
    return last


@compiled
def plan(desk: Desk, out: Sheet, moves: int, start: Array, first: int, most: int, more: bool) -> int:
    """Plans moves from row `first` on, whole runs, until `most` rows are done or none is left. Returns the next row.

    more: rows will follow. Then the last one is left, for what comes behind it is not known; a run that it belongs to stays
    open. Where jerk is limited the tolerance of one move can slow all of its run down: that is begun anew then.
    """
    row, law, work = first, desk.law, desk.work
    known = moves - 1 if more else moves
    while row < known and row - first < most:
        if out.moves[row].kind & KIND_BITS >= Kind.DWELL:
            desk.result[row, 0] = out.moves[row].rate
            row += 1
            continue
        begin = start if row == 0 else out.ends[row - 1]
        last = _last_of_run(desk, out, moves, row, begin)
        goes_on = more and last == moves - 1
        work.write = 1
        if last == row and not work.open:
            if goes_on:
                break
            _one_by_one(desk, out, row, last, begin, math.inf)
            row = last + 1
            continue
        scale = _scale_of(law, out, row, last)
        if not work.open:
            work.first = row
            _begin(desk, scale)
        elif scale < work.scale:  # of all of it, which is known only now
            _clear(desk, work.first, row)
            _begin(desk, scale)
            _extend(desk, out, work.first, row - 1, start if work.first == 0 else out.ends[work.first - 1])
        work.open = 1 if goes_on else 0
        _extend(desk, out, row, last - work.open, begin)
        if goes_on:
            row = last
            break
        blended = _end(desk, out, last)
        if law.limited:
            _stop_where_quicker(desk, out, last, start, blended)
        row = last + 1
    return row


@compiled
def seconds_by_kind(result: Array, out: Sheet, sums: Array) -> None:
    """Adds up how long moves of each kind take, s."""
    for row in range(len(result)):
        sums[out.moves[row].kind & KIND_BITS] += result[row, 0]


@compiled
def _stretches(result: Array, found: Array) -> None:
    """Fills found with what `worst_stretches` returns."""
    begin, cause, lost, least = 0, 0, 0.0, 0
    for row in range(len(result) + 1):
        why = int(result[row, 3]) if row < len(result) else -1
        if why != cause:
            if cause > 0 and lost > found[least, 0]:
                found[least, 0], found[least, 1], found[least, 2], found[least, 3] = lost, begin, row, cause
                for at in range(len(found)):
                    if found[at, 0] < found[least, 0]:
                        least = at
            begin, cause, lost = row, why, 0.0
        if row < len(result):
            lost += result[row, 2]


def worst_stretches(result: Array, most: int) -> list[tuple[float, int, int, int]]:
    """Of the rows of `plan`: the stretches of moves one after the other that do not reach their feed for one cause, those that
    lose most time, in their order: seconds, first move, one behind the last, cause."""
    found: Array = np.zeros((most, 4))
    _stretches(result, found)
    return sorted(
        ((float(lost), int(first), int(last), int(why)) for lost, first, last, why in found if lost > 0),
        key=lambda part: part[1],
    )
