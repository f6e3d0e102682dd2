"""Straight pieces of a run, between two stops: how fast each may be entered and left, and where it is at a time.

Corner. Between two pieces with directions p and q (per unit of path) the speed v is kept and the velocity turns evenly from
v·p to v·q in the time T: the acceleration is v·(q − p)/T, the way is a parabola that leaves the first piece and enters the
second one v·T/2 beside the corner, and passes the corner itself in a distance of e = v·T·|q − p|/8. So that no axis
exceeds its acceleration A,  T = v·κ  with  κ = max |q − p|/A, and with a tolerance e and pieces of length L on both sides
    v² ≤ 8e/(|q − p|·κ),   v² ≤ L/κ  (a corner takes no more than half of each piece).
Piece. Between its corners ℓ = L − v₀²κ₀/2 − v₁²κ₁/2 is left for speeding up at a and down at d, so that
    v₁²(1 + aκ₁) ≤ v₀²(1 − aκ₀) + 2aL   and   v₀²(1 + dκ₀) ≤ v₁²(1 − dκ₁) + 2dL,
the first gone through forwards, the second backwards: what the second takes away from v₀ never breaks the first, for it
leaves v₀ ≥ v₁, and a piece can always be gone along evenly (v²κ ≤ L on both sides).
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from ..table import MOST_AXES
from .compiled import compiled, inlined
from .state import Array, Row

AHEAD = 1 << 16  # pieces that are looked ahead over at most; the first half of them is settled then
REACHED = 0.99  # share of a feed from which on it counts as reached
SAME = 1e-12  # directions that differ by less are one and the same
# Why a feed is not reached; in the high bits, with the slot of the axis in the low ones
TOP, ACCELERATION, SHORT, ARC_CAUSE, CUSHION = 16, 32, 48, 64, 80

LAW = np.dtype(
    [
        ("top", "f8", MOST_AXES), ("up", "f8", MOST_AXES), ("down", "f8", MOST_AXES), ("both", "f8", MOST_AXES),
        ("per_top", "f8", MOST_AXES), ("per_up", "f8", MOST_AXES), ("per_down", "f8", MOST_AXES),  # one over each of them
        ("per_both", "f8", MOST_AXES),
        ("jerk", "f8", MOST_AXES),  # infinite where it is not limited
        ("smoothest", "i8", MOST_AXES), ("limited", "i8"),
        ("window", "f8"), ("second", "f8"), ("norm", "f8"),
        ("weight", "f8", MOST_AXES),  # mm of an axis's unit, of what lies beside a corner
        ("cushioned", "i8"), ("soft_low", "f8", MOST_AXES), ("soft_high", "f8", MOST_AXES), ("soft_speed", "f8", MOST_AXES),
        ("soft_more", "f8", MOST_AXES),  # before a cushion in which an average would still hold what was faster
    ]
)  # fmt: skip
PIECE = np.dtype(
    [
        ("length", "f8"), ("cap", "f8"), ("wanted", "f8"), ("up", "f8"), ("down", "f8"), ("kappa", "f8"), ("most", "f8"),
        ("square", "f8"), ("row", "i8"), ("why", "i8"),
        ("per_up", "f8"), ("per_down", "f8"), ("least", "f8"),  # one over up and down; seconds that it takes at its feed
    ]
)  # fmt: skip
WORK = np.dtype(
    [
        ("count", "i8"), ("has", "i8"), ("length", "f8"), ("cap", "f8"), ("direction", "f8", MOST_AXES),
        ("scale", "f8"), ("per_scale", "f8"), ("total", "f8"), ("write", "i8"),
        ("step", "f8"), ("clock", "f8"), ("samples", "i8"), ("sampled", "i8"),
        # s between samples (0 none), of this run; how many there are, and how many there were before it
        ("corner", "f8"), ("open", "i8"),  # tolerance of the corner that comes next; whether the run goes on
        ("first", "i8"),  # its first move
        ("begin", "f8", MOST_AXES), ("end", "f8", MOST_AXES),  # of the move that is added
        ("averages", "i8"),  # runs whose windows are written down
        ("marks", "f8", 2 * MOST_AXES + 1),  # shares at which a move is cut
    ]
)  # fmt: skip


class Desk(NamedTuple):
    """What a planning works with.

    result    rows by moves: seconds, fastest in mm/s (°/s), seconds more than the feed asks, why it was not reached
    ways      (pieces, 3, axes) begin, direction, direction of the one before; kept where samples are wanted only
    samples   (samples, axes) places at equal times, before they are averaged
    averages  rows by runs: first sample, samples, window in s, second window in s, last move
    """

    told: Row
    law: Row
    pieces: Array
    ways: Array
    work: Row
    result: Array
    samples: Array
    averages: Array


@inlined
def measure(told: Row, begin: Array, end: Array) -> tuple[float, bool]:
    """Length of a straight way, and whether it is that of linear axes (see emitting.straight_length)."""
    square, turned = 0.0, 0.0
    for slot in range(told.axes):
        if told.rotary[slot]:
            part = (end[slot] - begin[slot]) * (told.radius[slot] * math.pi / 180 if told.radius[slot] else 1.0)
            turned += part * part
        else:
            square += (end[slot] - begin[slot]) ** 2
    return (math.sqrt(square), True) if square else (math.sqrt(turned), False)


@compiled
def _place(desk: Desk, at: int, until: float, v0: float, v1: float, v: float, seconds: float, to: Array) -> None:
    """Where a piece is `until` s after its begin, by its closed form: half of a corner, up, even, down, half of a corner.

    In a corner C, x s from its middle, it is at C + v·(p·x + (q − p)·(x + T/2)²/2T.
    """
    piece, following, way = desk.pieces[at], desk.pieces[at + 1], desk.ways[at]
    bend, last = v0 * piece.kappa, v1 * following.kappa
    up, down = (v - v0) / piece.up, (v - v1) / piece.down
    if until < bend / 2:
        part = (until + bend / 2) ** 2 / (2 * bend)
        for slot in range(len(to)):
            to[slot] = way[0, slot] + v0 * (way[2, slot] * until + (way[1, slot] - way[2, slot]) * part)
        return
    if last > 0 and until > seconds - last / 2:
        x = until - seconds
        part = (x + last / 2) ** 2 / (2 * last)
        after = desk.ways[at + 1]
        for slot in range(len(to)):
            to[slot] = after[0, slot] + v1 * (way[1, slot] * x + (after[1, slot] - way[1, slot]) * part)
        return
    gone, left = v0 * bend / 2, until - bend / 2
    if left < up:
        gone += v0 * left + piece.up * left * left / 2
    elif left < seconds - bend / 2 - last / 2 - down:
        gone += (v0 + v) / 2 * up + v * (left - up)
    else:
        rest = max(0.0, seconds - last / 2 - until)
        gone = piece.length - v1 * last / 2 - v1 * rest - piece.down * rest * rest / 2
    for slot in range(len(to)):
        to[slot] = way[0, slot] + way[1, slot] * gone


@compiled
def _sample(desk: Desk, row: int, v0: float, v1: float, v: float, seconds: float) -> None:
    work = desk.work
    while work.samples < len(desk.samples):
        at = (work.samples - work.sampled) * work.step
        if at >= work.clock + seconds:
            break
        _place(desk, row, max(0.0, at - work.clock), v0, v1, v, seconds, desk.samples[work.samples])
        work.samples += 1
    work.clock += seconds


@compiled
def settle(desk: Desk, first: int, last: int) -> None:
    """Writes down the times of pieces whose speeds are known."""
    pieces, work, result = desk.pieces, desk.work, desk.result
    v1 = math.sqrt(pieces[first].square)
    for at in range(first, last):
        piece, following = pieces[at], pieces[at + 1]
        per_a, per_d, cap, v0 = piece.per_up, piece.per_down, piece.cap, v1
        before, after = piece.square, following.square
        left = max(0.0, piece.length - before * piece.kappa / 2 - after * following.kappa / 2)
        peak = min(cap * cap, (2 * left + before * per_a + after * per_d) / (per_a + per_d))
        peak = max(peak, before, after)
        v1 = math.sqrt(after)
        v = cap if peak == cap * cap else math.sqrt(peak)
        even = max(0.0, left - ((peak - before) * per_a + (peak - after) * per_d) / 2)
        seconds = (v - v0) * per_a + (v - v1) * per_d + even / v + (v0 * piece.kappa + v1 * following.kappa) / 2
        work.total += seconds
        if work.write:
            row = piece.row
            result[row, 0] += seconds
            result[row, 1] = max(result[row, 1], v)
            if piece.wanted > 0:
                result[row, 2] += max(0.0, seconds - piece.least)
                if v < REACHED * piece.wanted:
                    why = piece.why
                    result[row, 3] = why if v >= REACHED * cap or why >= SHORT else ACCELERATION | why & 15
            if work.step:
                _sample(desk, at, v0, v1, v, seconds)


@compiled
def solve(desk: Desk, count: int) -> None:
    """Speeds at the ends of the pieces; the end of the last one is a stop."""
    pieces = desk.pieces
    pieces[count].square = pieces[count].kappa = 0.0
    for at in range(count - 1):
        piece, following = pieces[at], pieces[at + 1]
        a = piece.up
        reach = (piece.square * (1 - a * piece.kappa) + 2 * a * piece.length) / (1 + a * following.kappa)
        following.square = min(following.most, reach)
    for at in range(count - 1, 0, -1):
        piece, following = pieces[at], pieces[at + 1]
        d = piece.down
        brake = (following.square * (1 - d * following.kappa) + 2 * d * piece.length) / (1 + d * piece.kappa)
        piece.square = min(piece.square, brake)


@inlined
def add(desk: Desk, begin: Array, end: Array, rate: float, row: int, curved: bool, soft: int, tolerance: float) -> None:
    """One more straight piece; `tolerance` is that of the corner before it, `soft` has a bit for each axis in its cushion."""
    told, law, work = desk.told, desk.law, desk.work
    length, _ = measure(told, begin, end)
    if length <= 0.0:
        return
    if work.count == AHEAD:
        solve(desk, AHEAD)
        settle(desk, 0, AHEAD // 2)
        for at in range(AHEAD // 2, AHEAD):
            desk.pieces[at - AHEAD // 2] = desk.pieces[at]
            if work.step:
                desk.ways[at - AHEAD // 2] = desk.ways[at]
        work.count = AHEAD - AHEAD // 2
    piece = desk.pieces[work.count]
    # One over the ceilings that the axes leave along the path: the largest one counts.
    per_cap, per_up, per_down = 0.0, 0.0, 0.0
    top_axis = slow_axis = 0
    kappa, beside = 0.0, 0.0
    cushioned = False
    per_length = 1 / length
    for slot in range(told.axes):
        part = (end[slot] - begin[slot]) * per_length
        if work.has:
            turn = abs(part - work.direction[slot])
            turn = turn if turn > SAME else 0.0
            kappa = max(kappa, turn * law.per_both[slot])
            beside += (turn * law.weight[slot]) ** 2
        if work.step:
            ways = desk.ways[work.count]
            ways[0, slot], ways[1, slot], ways[2, slot] = begin[slot], part, work.direction[slot]
        work.direction[slot] = part
        size = abs(part)
        slowly, lazily = size * law.per_top[slot], size * law.per_up[slot]
        softly = soft >> slot & 1 == 1 and law.soft_speed[slot] < law.top[slot]
        if softly:
            slowly = size / law.soft_speed[slot]
        if slowly > per_cap:
            per_cap, top_axis, cushioned = slowly, slot, softly
        if lazily > per_up:
            per_up, slow_axis = lazily, slot
        per_down = max(per_down, size * law.per_down[slot])
    cap = 1 / per_cap
    if 0 < rate <= cap:
        cap, why = rate, ACCELERATION | slow_axis
    else:
        why = (CUSHION if cushioned else TOP) | top_axis
    kappa *= work.per_scale
    most = 0.0
    if work.has:
        most = min(cap, work.cap) ** 2
        if kappa > 0:
            shorter = min(length, work.length)
            if shorter < most * kappa:
                most = shorter / kappa
                if why & 0xF0 == ACCELERATION:
                    why = SHORT | slow_axis
            if beside > 0:
                bend = math.sqrt(beside) * kappa
                if 8 * tolerance < most * bend:
                    most = 8 * tolerance / bend
    piece.length, piece.cap, piece.wanted, piece.row = length, cap, rate, row
    piece.least = length / rate if rate > 0 else 0.0
    piece.per_up, piece.per_down = per_up * work.per_scale, per_down * work.per_scale
    piece.up, piece.down = 1 / piece.per_up, 1 / piece.per_down
    piece.kappa, piece.most, piece.why, piece.square = kappa, most, ARC_CAUSE if curved else why, 0.0
    work.has, work.length, work.cap = 1, length, cap
    work.count += 1


def desk_for(told: Row, law: Row, moves: int, samples: Array | None = None, step: float = 0.0) -> Desk:
    """samples: (samples, axes), where places are wanted every `step` s."""
    work = np.zeros(1, WORK).view(np.recarray)[0]
    work.step = step
    pieces: Array = np.zeros(AHEAD + 2, PIECE).view(np.recarray)
    if samples is None:
        samples = np.zeros((0, int(told.axes)))
    ways: Array = np.zeros((AHEAD + 2 if step else 0, 3, int(told.axes)))
    return Desk(
        told, law, pieces, ways, work, np.zeros((moves, 4), np.float32), samples,
        np.zeros((moves + 1 if step else 0, 5)),
    )  # fmt: skip
