"""What the words of a block mean: modal state, and the moves that follow from it."""

from __future__ import annotations

import math

from .arcs import centre_of, sweep_of
from .compiled import compiled, inlined
from .cycles import drill, pecks_of
from .emitting import Sheet, put, put_arc, put_at, put_spindle, put_straight, straight_length
from .language import AXIS_LETTERS, MACHINE_PLACE, MARK_LINES, MOST_PECKS, Kind, P
from .modes import INCH, check_speed, g_words, has, m_words, rpm, signed_speed, zeroed
from .scanner import read_block, strange, tell
from .state import Array, Row

A, B, C, D, F, H, I, J, K, L, N, O, Q, R, S, T, U, V, W, X, Y, Z = (  # noqa: E741 - letters of words
    ord(letter) - 65 for letter in "ABCDFHIJKLNOQRSTUVWXYZ"
)
PP = ord("P") - 65
AXES = tuple(letter - 65 for letter in AXIS_LETTERS)
MOTION_WORDS = sum(1 << letter for letter in AXES)
CARRIED = sum(1 << letter for letter in (D, H, I, J, K, L, PP, Q, R))  # letters that mean something beside others only
ARC_FITS = 0.01  # mm by which the end of an arc may lie beside it; what a post-processor rounds away
LONG_DWELL = 60.0  # s
MOST_HOLES = 1000  # of one block (L)
ROOM = 4 * (MOST_PECKS + MOST_HOLES) + 64  # moves that a block makes at most


@inlined
def lifted(told: Row, place: float) -> float:
    """A place of the machine that Z is told, where all of the program goes higher: as much higher as Z goes."""
    return min(place + told.raised, max(place, told.ceiling)) if told.raised > 0 else place


@compiled
def take_target(block: Row, state: Row, told: Row, target: Array, machine: bool, found: Row) -> int:
    """Where the letters of axes of this block lead, into `target`; the others stay. Returns how many axes it names."""
    named, goes = 0, 0
    if block.seen & MOTION_WORDS & ~told.letters:
        tell(found, P.NO_AXIS, state.line, 0.0)
    scale = INCH if state.unit == 20 else 1.0
    for slot in range(told.axes):
        letter = told.letter[slot]
        here = state.at[slot]
        if not has(block, letter):
            target[slot] = here
            continue
        named += 1
        value = block.values[letter]
        if not told.rotary[slot]:
            value *= scale
        if letter == X and told.x_diameter:
            value /= 2
        if state.incremental and not machine:
            value += here
        elif not machine:
            value += told.zeros[state.zero, slot] + (state.offset if slot == told.z else 0.0)
        elif slot == told.z:
            value = lifted(told, value)
        target[slot] = value
        if not state.known[slot]:
            state.known[slot], state.first[slot], state.fresh = 1, state.moves, 1
        if value != here:
            goes |= 1 << slot
    state.goes = goes
    return named


@compiled
def used_letters(block: Row, once: int, cycle: bool, arc: bool, state: Row, found: Row) -> None:
    """Tells of letters that say nothing in this block."""
    if block.seen & CARRIED == 0:
        return
    g64 = g43 = False
    for at in range(block.gs):
        g64 = g64 or block.g[at] == 640
        g43 = g43 or block.g[at] == 430
    for letter in (D, H, I, J, K, L, PP, Q, R):
        if not has(block, letter):
            continue
        if letter == PP:
            good = once == 4 or g64 or cycle
        elif letter == H:
            good = g43
        elif letter in (Q, L):
            good = cycle
        elif letter == R:
            good = cycle or arc
        elif letter == D:
            good = False
        else:
            good = arc
        if not good:
            strange(found, letter + 65, state.line)


@compiled
def feed_rate(state: Row, told: Row, target: Array, goes: int, found: Row, length: float) -> float:
    """mm/s (°/s) along the path of this move; 0 where no feed was given, which is told. goes: bits of the axes that move.
    length: of a feed for a move (G93)."""
    if state.feed <= 0:
        tell(found, P.NO_FEED, state.line, 0.0)
        return 0.0
    if state.feed_mode == 93:
        return length * state.feed / 60
    turning, linear = -1, goes & ~told.turning != 0
    if not linear:
        for slot in range(told.axes):
            if goes >> slot & 1:
                turning = slot
    feed = state.feed
    if linear or (turning >= 0 and told.radius[turning]):
        feed = zeroed(feed, state.unit)
    elif turning >= 0:
        tell(found, P.ROTARY_FEED, state.line, 0.0)
    if state.feed_mode == 95:
        diameter = 0.0
        if told.x >= 0:
            centre = told.zeros[state.zero, told.x]
            diameter = abs(state.at[told.x] - centre) + abs(target[told.x] - centre)
        turns = rpm(state, told, diameter)
        if turns <= 0:
            tell(found, P.NO_TURNS, state.line, 0.0)
        return feed * turns / 60
    return feed / 60


@compiled
def check_cut(state: Row, told: Row, found: Row) -> None:
    """A cutting move wants a spindle that turns."""
    if told.spindle and state.spindle == 0:
        tell(found, P.SPINDLE_OFF, state.line, 0.0)


@compiled
def check_rapid(state: Row, told: Row, target: Array, found: Row) -> None:
    """A rapid into the work: one that goes down, or aside, below the zero of Z."""
    z = told.z
    if z < 0 or told.lathe or not state.known[z]:
        return
    height = target[z] - told.zeros[state.zero, z] - state.offset
    if height >= -1e-9:
        return
    aside = False
    for slot in range(told.axes):
        if slot != z and target[slot] != state.at[slot]:
            aside = True
    if aside or target[z] < state.at[z]:
        tell(found, P.RAPID_LOW, state.line, height)


@compiled
def arc_move(block: Row, state: Row, told: Row, target: Array, out: Sheet, found: Row) -> None:
    """A circle or a helix (G2, G3) in the plane that is chosen."""
    if state.plane == 18:
        u, v, iu, iv = told.z, told.x, K, I
    elif state.plane == 19:
        u, v, iu, iv = told.y, told.z, J, K
    else:
        u, v, iu, iv = told.x, told.y, I, J
    if u < 0 or v < 0:
        tell(found, P.ARC_PLANE, state.line, 0.0)
        return
    du, dv = target[u] - state.at[u], target[v] - state.at[v]
    clockwise = state.motion == 2
    full = du == 0.0 and dv == 0.0
    if has(block, R):
        radius = zeroed(block.values[R], state.unit)
        if full or radius == 0:
            tell(found, P.ARC_CENTRE, state.line, 0.0)
            return
        centre_u, centre_v, short = centre_of(du, dv, radius, clockwise == (radius < 0))
        if short > ARC_FITS:
            tell(found, P.ARC_RADIUS, state.line, short)
    elif has(block, iu) or has(block, iv):
        centre_u = zeroed(block.values[iu], state.unit) if has(block, iu) else 0.0
        centre_v = zeroed(block.values[iv], state.unit) if has(block, iv) else 0.0
        if centre_u == 0 and centre_v == 0:
            tell(found, P.ARC_CENTRE, state.line, 0.0)
            return
    else:
        tell(found, P.ARC_CENTRE, state.line, 0.0)
        return
    radius = math.hypot(centre_u, centre_v)
    last = math.hypot(du - centre_u, dv - centre_v)
    if abs(last - radius) > ARC_FITS:
        tell(found, P.ARC_ENDS, state.line, abs(last - radius))
    begin, end = math.atan2(-centre_v, -centre_u), math.atan2(dv - centre_v, du - centre_u)
    sweep = sweep_of(begin, end, clockwise, full)
    rise = 0.0
    for slot in range(told.axes):
        if slot != u and slot != v and not told.rotary[slot]:
            rise += (target[slot] - state.at[slot]) ** 2
    length = math.hypot(abs(sweep) * radius, math.sqrt(rise))
    rate = feed_rate(state, told, target, state.goes, found, length)
    if full and state.feed > 0 and state.feed_mode == 94:
        rate = zeroed(state.feed, state.unit) / 60
    check_cut(state, told, found)
    put_arc(
        out,
        state,
        target,
        u,
        v,
        state.at[u] + centre_u,
        state.at[v] + centre_v,
        radius,
        begin,
        sweep,
        last - radius,
        rate,
    )


@compiled
def cycle_move(block: Row, state: Row, told: Row, target: Array, named: int, out: Sheet, found: Row) -> None:
    """A drilling cycle: what it was told is kept, and a hole is made where the block names a place."""
    z = told.z
    if z < 0:
        tell(found, P.NO_AXIS, state.line, 0.0)
        return
    before = state.at[z]
    base = told.zeros[state.zero, z] + state.offset
    if has(block, R):
        level = zeroed(block.values[R], state.unit)
        state.level = state.initial + level if state.incremental else level + base
    if has(block, Z):
        depth = zeroed(block.values[Z], state.unit)
        state.depth = state.level + depth if state.incremental else depth + base
    if has(block, Q):
        state.peck = abs(zeroed(block.values[Q], state.unit))
    if has(block, PP):
        state.dwell = block.values[PP]
    if math.isnan(state.level):
        tell(found, P.NO_LEVEL, state.line, 0.0)
        return
    if math.isnan(state.depth):
        tell(found, P.NO_DEPTH, state.line, 0.0)
        return
    if not named and not has(block, R):
        return
    target[z] = before
    across = target.copy()
    times = int(block.values[L]) if has(block, L) else 1
    times = min(max(times, 0), MOST_HOLES)
    if times * pecks_of(state) > MOST_PECKS:
        tell(found, P.PECKS, state.line, times * pecks_of(state))
        return
    step = target - state.at
    length = abs(state.level - state.depth)
    deep = across.copy()
    deep[z] = state.depth
    goes = 0
    for slot in range(told.axes):
        if deep[slot] != state.at[slot]:
            goes |= 1 << slot
    rate = feed_rate(state, told, deep, goes, found, length)
    check_cut(state, told, found)
    for again in range(times):
        if again and not state.incremental:
            break
        if again:
            across += step
        across[z] = state.at[z]
        drill(out, state, told, across, rate)


@compiled
def home_move(block: Row, state: Row, told: Row, target: Array, out: Sheet, found: Row) -> None:
    """G28: by the place that the block names to the parking place, or to home where there is none, of the axes it names."""
    put_straight(out, state, told, target, True, 0.0, False)
    home = state.at.copy()
    for slot in range(told.axes):
        if has(block, told.letter[slot]):
            home[slot] = lifted(told, told.homes[slot]) if slot == told.z else told.homes[slot]
            if not told.parks[slot]:
                tell(found, P.UNKNOWN_HOME, state.line, 0.0)
    put_straight(out, state, told, home, True, 0.0, True)


@inlined
def go_straight(state: Row, told: Row, target: Array, machine: bool, out: Sheet, found: Row) -> None:
    """A rapid or a cut along a straight line (G0, G1)."""
    place = MACHINE_PLACE if machine else 0
    if state.motion == 0:
        if not machine:
            check_rapid(state, told, target, found)
        if state.goes or state.fresh:
            put_at(out, state, target, Kind.RAPID | place, 0.0)
    else:
        length = straight_length(told, state.at, target) if state.feed_mode == 93 else 0.0
        rate = feed_rate(state, told, target, state.goes, found, length)
        check_cut(state, told, found)
        put_at(out, state, target, Kind.LINE | place, rate)


@inlined
def run_block(block: Row, state: Row, told: Row, out: Sheet, found: Row) -> int:
    """Does what a block says, in the order of the standard: feed and speed, switching, dwell, modes, motion, stop."""
    before = state.motion
    once = g_words(block, state, told, found) if block.gs else 0
    cycling = state.motion >= 80
    if has(block, F):
        state.feed = block.values[F]
    elif state.feed_mode == 93:
        state.feed = 0.0
    if has(block, S):
        other = block.values[S] != state.speed
        state.speed = block.values[S]
        check_speed(state, told, found)
        if other and state.spindle and told.spindle and not told.cutter and not state.surface:
            put_spindle(out, state, 0.0, signed_speed(state, told))
    if has(block, T):
        state.tool = int(block.values[T])
    after = m_words(block, state, told, out, found) if block.ms else 0
    if cycling and before < 80 and told.z >= 0:
        state.initial = state.at[told.z]
        state.level = state.depth = math.nan
        state.peck = state.dwell = 0.0
    target = state.target
    machine = once == 53
    if once == 4:
        seconds = block.values[PP] if has(block, PP) else 0.0
        if not has(block, PP):
            tell(found, P.NO_FIGURE, state.line, 0.0)
        if seconds > LONG_DWELL:
            tell(found, P.LONG_DWELL, state.line, seconds)
        if seconds > 0:
            put(out, state, Kind.DWELL, seconds)
        used_letters(block, once, False, False, state, found)
        return after
    named = take_target(block, state, told, target, machine, found)
    arc = (state.motion == 2 or state.motion == 3) and once == 0
    used_letters(block, once, cycling and once == 0, arc, state, found)
    centre = arc and (has(block, I) or has(block, J) or has(block, K) or has(block, R))
    if named and not state.stated and not state.moved:
        tell(found, P.UNIT_UNSTATED, state.line, 0.0)
    if named or centre:
        state.moved = 1
    if once == 28:
        home_move(block, state, told, target, out, found)
    elif cycling:
        if machine:
            tell(found, P.MACHINE_ARC, state.line, 0.0)
        else:
            cycle_move(block, state, told, target, named, out, found)
    elif arc and (named or centre):
        arc_move(block, state, told, target, out, found)
    elif named and state.motion < 0:
        tell(found, P.NO_MOTION, state.line, 0.0)
    elif named and machine and state.motion > 1:
        tell(found, P.MACHINE_ARC, state.line, 0.0)
    elif named:
        go_straight(state, told, target, machine, out, found)
    return after


@inlined
def is_plain(block: Row, state: Row) -> bool:
    """Whether a block says nothing but places along a straight line; in a long program nearly all do."""
    straight = state.motion == 0 or state.motion == 1
    return straight and block.gs == 0 and block.ms == 0 and block.seen & ~MOTION_WORDS == 0 and state.feed_mode != 93


@inlined
def run_plain(block: Row, state: Row, told: Row, out: Sheet, found: Row) -> None:
    """What `run_block` comes to for such a block."""
    target = state.target
    if take_target(block, state, told, target, False, found):
        if not state.stated and not state.moved:
            tell(found, P.UNIT_UNSTATED, state.line, 0.0)
        state.moved = 1
        go_straight(state, told, target, False, out, found)


@inlined
def finish(after: int, state: Row, told: Row, out: Sheet) -> None:
    """What comes behind the motion of a block: the spindle off, a stop, the end.

    At a stop (M0, M1) the spindle stands, as ISO 6983-1 has it, and turns again as it did when the program goes on.
    """
    if after & 4 or after & 2:
        if state.spindle and told.spindle:
            put_spindle(out, state, told.run_down, 0.0)
        state.spindle = 0
    if after & 1:
        turns = state.spindle and told.spindle
        if turns:
            put_spindle(out, state, told.run_down, 0.0)
        put(out, state, Kind.STOP, 0.0)
        state.stops += 1
        if turns:
            put_spindle(out, state, told.run_up, signed_speed(state, told))
    if after & 2:
        state.ended = 1


@compiled
def read(
    text: Array, end: int, state: Row, told: Row, block: Row, out: Sheet, found: Row, marks: Array, most_blocks: int
) -> bool:
    """Reads on until the text or the program ends (True), or no room is left or so many blocks were read (False).

    marks: of the text, where every MARK_LINES lines begin.
    """
    blocks = 0
    room = len(out.moves)
    while blocks < most_blocks:
        if state.moves + ROOM > room or state.arcs + 1 >= len(out.arcs):
            return False
        if state.ended or not read_block(text, end, state, block, found):
            if state.ended and state.position < end:
                rest = state.position
                while rest < end and (text[rest] <= 32 or text[rest] == 37):
                    rest += 1
                if rest < end:
                    tell(found, P.AFTER_END, state.line + 1, 0.0)
            return True
        state.blocks += 1
        blocks += 1
        if state.line % MARK_LINES == 0:
            marks[state.line // MARK_LINES] = state.position  # where the next line begins
        if is_plain(block, state):
            run_plain(block, state, told, out, found)
        else:
            finish(run_block(block, state, told, out, found), state, told, out)
    return False
