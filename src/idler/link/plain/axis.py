"""One axis as one plain drive (CiA 402-2): its state, its motion, and what makes sure that it stops.

A drive that hears Idler (1016h) and stops when it does not (6007h) is told a speed and let run. Any other one, and any whose
unit of speed was not seen to be true yet, goes on a leash: its target is never further ahead than LEASH seconds of the way,
and is moved on while it is held.
"""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from enum import Enum
from fractions import Fraction
from typing import NamedTuple

from idler.core.profile import cia402 as c
from idler.core.profile.homing import PHASE_SHIFT, RESULT_SHIFT, HomingResult, Phase
from idler.core.profile.partunits import Measure, PartUnits, Told

from ..errors import NotAllowedNow
from ..events import AxisState
from .leashed import LeashedHoming, Plan
from .mapped import Taken, give_back
from .part import NMT_STOP, Object, Part
from .safety import Watch, expect, make_safe
from .stopframe import listen

LEASH = 0.25  # s
RENEWED = 0.05  # s between two targets
JUMP = 0.2  # mm (°) beyond what it can have gone
USUAL, QUICK = 0.02, 0.006  # s between two rounds of looks; while an edge is looked for
LOOKED_AT: tuple[Object, ...] = ((c.STATUS, 0), (c.POSITION, 0), (c.DIGITAL_INPUTS, 0))
REST = 0.06  # s without a change of place, and it stands
SPEED_SEEN, FEWEST = 0.3, 5  # s over which a speed is looked at, and places that are needed for one
SETTLES = 0.1  # s after which what a drive was told shows in what it says
STUCK = 3.0  # s at rest, and it is not on its way any more
AGAIN, DEAF = 0.02, 0.25  # s after which STOP is said again, and after which the node is stopped
OVERDUE = 1.0  # s beyond its ramp in which what was let go of has not come to rest, and is stopped
FRESH = 0.1  # s: an older look does not say that it still goes on
EARLY = 0.02  # s by which no honest drive is further than planned
TRUE_WITHIN = 0.15  # share by which a speed that is seen may differ from the one that was asked for
AHEAD = 0.5  # of its leash, by which it may be further than is planned; more, and it is faster than it was asked to be
_ATTAINED, _HOMING_ERROR = 0x1000, 0x2000  # bits of the statusword in homing mode
_NEW = c.ENABLE | c.NEW_SETPOINT | c.AT_ONCE
_LIMITS = c.INPUT_LOW | c.INPUT_HIGH


class Way(Enum):
    """What the axis is doing by Idler's word."""

    NOTHING = 0
    RUNS = 1  # at a speed, until it is let go
    LEASHED = 2  # held, on a leash
    GOES = 3  # to a place
    HOMES = 4
    ENDS = 5  # it was told to end, and has not come to rest yet


class Seen(NamedTuple):
    """A place in the drive's units: when it was asked for, and when the answer came."""

    asked: float
    came: float
    raw: int


def place_between(track: Sequence[Seen], since: float, now: float, told: float = 0.0) -> tuple[int, float]:
    """Where the drive was in the middle between two moments, by the places that were seen about then, and by how much it may
    have been elsewhere, in its units: as far as it goes in half of the time between them, and in half of the time that the
    answer took. track: at least one. told: units per s that it was asked for; one that is waited for goes by fits and
    starts, faster than was seen."""
    middle = (since + now) / 2
    seen = [((place.asked + place.came) / 2, place) for place in track]
    after = next((n for n, (at, _) in enumerate(seen) if at >= middle), len(seen) - 1)
    (first_at, first), (last_at, last) = seen[max(0, after - 1)], seen[after]
    speed = (last.raw - first.raw) / (last_at - first_at) if last_at > first_at else 0.0
    answered = max(first.came - first.asked, last.came - last.asked)
    return round(last.raw + speed * (middle - last_at)), max(abs(speed), told) * (now - since + answered) / 2 + 1


@dataclass
class Homing:
    """What was seen of a drive's own homing; times of time.monotonic, infinite while it has not come to that.

    A drive may keep saying of the last homing that it was attained until it has taken up the new one.
    """

    started: float = float("inf")  # since when it is known to have been told
    taken_up: bool = False  # whether it moved, or said that home is not attained, since then
    attained: float = float("inf")  # since when it says that it is


class Axis:
    """units: of now; told: what the drive says of them. coordinate: of home, mm (°)."""

    def __init__(self, part: Part, slot: int, name: str) -> None:
        self.part, self.slot, self.name = part, slot, name
        self.told = Told()
        self.units = PartUnits(Fraction(1), Fraction(1))
        self.coordinate = 0.0
        self.rotary = False
        self.limits: tuple[float, float] | None = None  # soft limits, mm (°), where they are on
        self.deceleration = 100.0  # mm/s² (°/s²) of Idler's own reckoning
        self.top = 0.0  # mm/min (°/min), as the machine is told; 0: not told
        self.search = 0.0  # mm (°) that a homing may go
        self.homes_at = 0.0  # mm/min (°/min), the faster of its two speeds
        self.wired = 0  # bits of 60FDh that terminals say of this axis, and other drives
        self.others = 0  # bits of its own that are wired to something else
        self.watch = Watch()
        self._deaf = ""  # what was seen of it when Idler was silent
        self.state = AxisState()
        self.way = Way.NOTHING
        self.trusted = False  # whether its unit of speed was seen to be true
        self.latched, self.latches = 0.0, 0  # place at the last edge of its home switch, and how many there were
        self.latched_raw = 0  # the same in the drive's units
        self.latched_within = 0.0  # mm (°) by which it may lie elsewhere: nobody looks at all moments
        self.leashed: LeashedHoming | None = None  # a homing of Idler's own
        self.heard: Taken | None = None  # by what it hears STOP in one frame with the others
        self.homed = False
        self.ran_on = False  # it was let go of, did not come to rest, was stopped, and nobody was told yet
        self.limit_met = False  # a limit switch at a terminal has stopped it, and nobody was told yet
        self.untrue = ""  # what was seen to be wrong about its speed
        self.found: dict[str, float] = {}  # places of the last homing
        self._zero = 0  # the drive's position at home
        self._counted = False  # whether that was found since it started
        self._raw = 0
        self._mode = 0
        self._asked_speed = 0.0  # mm/s, signed
        self._goal: float | None = None
        self._sought = False
        self._told_at = self._began_at = self._moved_at = self._looked_at = self._ended_at = 0.0
        self._again: Callable[[], None] = lambda: None
        self._hard = False
        self._goes_to = self._began_place = 0.0
        self._ran_ahead = False  # whether it was further than planned in this motion
        self.own_bits = 0
        self._track: deque[Seen] = deque(maxlen=64)
        self._seen_with = 0.0, 0.0  # when its own switches were asked for and came, the last time
        self._switches_at = 0.0  # when its own switches were asked for, the last time that they were seen
        self.switches_since = 0.0  # and the time before that
        self._result = HomingResult.NONE
        self._home_from, self._jumped = 0.0, 0
        self._homing = Homing()
        part.watch(LOOKED_AT, [(c.POSITION, 0), (c.DIGITAL_INPUTS, 0)], [(c.POSITION, 0)])
        part.seen = self._seen

    # -- what is seen of it ---------------------------------------------------------------------------------------

    def see(self, where: Object, data: bytes, asked: float) -> None:
        """What was answered just now to what was asked then (time.monotonic)."""
        self._seen(where, data, asked, time.monotonic())

    def _seen(self, where: Object, data: bytes, asked: float, now: float) -> None:
        if where == (c.STATUS, 0):
            self._take_status(int.from_bytes(data, "little"), asked, now)
        elif where == (c.POSITION, 0):
            self._take_position(int.from_bytes(data, "little", signed=True), asked, now)
        elif where == (c.DIGITAL_INPUTS, 0):
            self._take_inputs(int.from_bytes(data, "little"), asked, now)

    def _take_position(self, raw: int, asked: float, now: float) -> None:
        """asked, now: it was there at some moment between them."""
        if raw != self._raw or not self._track:
            self._moved_at = now
        if self.way is Way.HOMES and asked > self._homing.started and raw != self._raw:
            self._homing.taken_up = True
        if self.way is Way.HOMES and self._track:
            self._note_jump(raw - self._raw, now - self._track[-1].asked)
        self._raw, self._looked_at = raw, max(self._looked_at, asked)
        self._track.append(Seen(asked, now, raw))
        while len(self._track) > FEWEST and now - self._track[1].came > SPEED_SEEN:
            self._track.popleft()
        standing = self._stands
        moving = not standing or self.way not in (Way.NOTHING, Way.ENDS) or self.leashed is not None
        status = self.state.status & ~c.MOVING | (c.MOVING if moving else 0)
        speed = (
            0.0 if standing else self._speed_between(self._track[max(0, len(self._track) - FEWEST)], self._track[-1])
        )
        self.state = replace(self.state, position=self.place_of(raw), velocity=60 * speed, status=status)
        self._judge_speed(now)

    @property
    def _stands(self) -> bool:
        """Whether its place was seen to be the same for a while; what was not looked at since may have moved."""
        return self._looked_at - self._moved_at > REST

    def _note_jump(self, counts: int, span: float) -> None:
        """While a drive homes it begins to count anew, at a moment of its own: further than it can have gone since the last
        look it has not gone."""
        if abs(counts) > abs(float(self.units.place)) * (JUMP + 2 * self.homes_at / 60 * span):
            self._jumped += counts
            self._track.clear()  # there is no way from there to here

    @property
    def _place_before(self) -> float:
        """Where it stands in the coordinates before the homing."""
        return self.place_of(self._raw - self._jumped)

    def _speed_between(self, first: Seen, last: Seen) -> float:
        """mm/s (°/s), signed."""
        span = (last.asked + last.came - first.asked - first.came) / 2
        return (last.raw - first.raw) / float(self.units.place) / span if span > 0 else 0.0

    def place_of(self, raw: int) -> float:
        """Before home was found for the first time, from where the drive counts."""
        return (raw - self._zero) / float(self.units.place) + (self.coordinate if self._counted else 0.0)

    def raw_of(self, place: float) -> int:
        at = place - (self.coordinate if self._counted else 0.0)
        return self.units.to_part(Measure.PLACE, Fraction(at)) + self._zero

    def _take_status(self, status: int, asked: float, now: float) -> None:
        powered, rests = c.State.of(status).powered, self._stands and asked - self._told_at > SETTLES
        if self.way is Way.HOMES:
            self._look_at_homing(status, asked, now)
        elif (
            self.way is Way.GOES
            and rests
            and (
                not powered
                or (status & c.TARGET_REACHED and self._goes_to == self._goal)
                or self._looked_at - self._moved_at > STUCK
            )
        ) or (self.way is Way.ENDS and rests):
            self.way = Way.NOTHING
        elif not powered and self.way in (Way.RUNS, Way.LEASHED):
            self.way = Way.ENDS
        shown = status & ~(c.HOMED | c.MOVING | c.TARGET_REACHED)
        shown |= (c.HOMED if self.homed else 0) | self.state.status & c.MOVING
        rests = self.way is Way.NOTHING and self.leashed is None
        self.state = replace(self.state, status=shown | (c.TARGET_REACHED if rests else 0))

    def _take_inputs(self, inputs: int, asked: float, now: float) -> None:
        """Its switches at the drive: the ends are named by the drive's direction. They were so at some moment between asked
        and now."""
        bits = inputs & (c.INPUT_LOW | c.INPUT_HIGH | c.INPUT_HOME)
        if self.units.place < 0:
            bits = bits & c.INPUT_HOME | (bits & c.INPUT_LOW) << 1 | (bits & c.INPUT_HIGH) >> 1
        self.own_bits = bits
        self.switches_since, self._switches_at = self._switches_at, asked
        before, self._seen_with = self._seen_with, (asked, now)
        last = list(self._track)[-2:]
        together = [place[:2] for place in last] == [before, self._seen_with]  # each place came with its switches
        self._show_inputs((self.switches_since, now), (last[0].raw, last[1].raw) if together else None)

    def _show_inputs(self, between: tuple[float, float] | None = None, places: tuple[int, int] | None = None) -> None:
        """between: the moments between which a switch has changed, where one may have; places: of the drive at both, where
        they were seen together with the switch."""
        bits = self.own_bits & ~self.others | self.wired
        if between is not None and (bits ^ self.state.inputs) & c.INPUT_HOME:
            self.edge(*between, places)
            if bits & c.INPUT_HOME and self.way is Way.HOMES:
                before = self.place_of(self.latched_raw - self._jumped)
                self.found.setdefault("first", before)
                self.found["touch"] = before
        phase = Phase.APPROACH if self.way is Way.HOMES else self.leashed.phase if self.leashed else Phase.NONE
        shown = bits | phase.raw << PHASE_SHIFT | self._result.raw << RESULT_SHIFT
        self.state = replace(self.state, inputs=shown)

    def edge(self, since: float, now: float, places: tuple[int, int] | None = None) -> None:
        """Its home switch, or the touch probe, has changed between these moments: its place is latched, and a search for it
        ends. places: between which it has, where they are known."""
        told = 0.0 if self._stands else abs(self._asked_speed * float(self.units.place))
        if places is not None:
            raw, within = round(sum(places) / 2), abs(places[1] - places[0]) / 2 + 1
        else:
            raw, within = place_between(self._track, since, now, told) if self._track else (self._raw, 0.0)
        self.latched, self.latches, self.latched_raw = self.place_of(raw), self.latches + 1, raw
        self.latched_within = within / abs(float(self.units.place))
        if self.seeks:
            self._end_gently()

    @property
    def seeks(self) -> bool:
        return self._sought and self.way is Way.GOES

    def take_wired(self, bits: int, since: float, now: float) -> None:
        """Switches of this axis at terminals, as they became between these moments. A limit there stops it by Idler's word;
        one at the drive, by the drive's own."""
        met = bits & ~self.wired & _LIMITS
        if bits != self.wired:
            self.wired = bits
            self._show_inputs((since, now))
        if met and (self.on_its_way or self.leashed is not None):
            self.limit_met = True
            self.stop()

    def _open_way(self, way: float) -> None:
        """Raises NotAllowedNow where a made limit switch forbids it."""
        limit = c.INPUT_HIGH if way > 0 else c.INPUT_LOW
        if way and self.state.inputs & limit:
            end = "high" if way > 0 else "low"
            raise NotAllowedNow(
                f"{self.name} stands on its limit switch at the {end} end: only the way off it is open."
            )

    def _planned(self, now: float) -> float:
        """Where it would be by now if it had been at its speed from the first moment on: no honest drive is further."""
        return self._began_place + self._asked_speed * (now - self._began_at)

    def _judge_speed(self, now: float) -> None:
        """Whether the drive goes as fast as it was asked to: its unit of speed may be another one than it says.

        On a leash one that is too fast runs ahead of what is planned, and is held by its end: as fast as it was asked to be
        over a while it then is, too, and only what never was ahead is believed. A computer that was busy for a moment reads
        late, and a place that is old is never further ahead than it was.
        """
        asked = abs(self._asked_speed)
        if self.way not in (Way.LEASHED, Way.GOES, Way.RUNS) or not asked:
            return
        count = 1 / abs(float(self.units.place))
        last = self._track[-1]
        ahead = (self.place_of(last.raw) - self._planned(last.came)) * (1 if self._asked_speed > 0 else -1)
        if ahead > AHEAD * LEASH * asked + 4 * count:
            self.untrue = (
                f"{self.name} went faster than it was asked to: its unit of speed is not what was believed "
                f"({self.told.speed.words}). It was stopped."
            )
            self.stop()
            return
        self._ran_ahead |= ahead > EARLY * asked + 4 * count
        first = self._track[0]
        longest, shortest = last.came - first.asked, last.asked - first.came
        even = now - self._began_at > SPEED_SEEN + asked / self.deceleration + SETTLES
        if even and len(self._track) >= FEWEST and shortest > SPEED_SEEN / 2 and self.way is Way.LEASHED:
            gone = abs(last.raw - first.raw) * count
            low, high = gone / longest, gone / shortest
            alike = low > (1 - TRUE_WITHIN) * asked and high < (1 + TRUE_WITHIN) * asked
            self.trusted = alike and not self._ran_ahead

    # -- what it is told ------------------------------------------------------------------------------------------

    def control(self, word: int) -> None:
        """The controlword, without waiting for an answer."""
        self.part.say((c.CONTROL, 0), word, 2)

    def stop(self) -> None:
        """Quick stop; waits for nothing."""
        self.control(c.QUICK_STOP)
        if self.way is Way.HOMES or self.leashed is not None:
            self._homing_ends(HomingResult.STOPPED)
        self._ends(lambda: self.control(c.QUICK_STOP), hard=True)

    def let_go(self) -> None:
        """Ends what is held, with the usual deceleration."""
        if self.way in (Way.RUNS, Way.LEASHED):
            self._end_gently()

    def _end_gently(self) -> None:
        if self._mode == c.MODE_VELOCITY:
            self._ends(lambda: self.part.say((c.TARGET_VELOCITY, 0), 0, 4), hard=False)
            self.part.say((c.TARGET_VELOCITY, 0), 0, 4)
            return
        speed = self._speed_between(self._track[0], self._track[-1]) if len(self._track) > 1 else 0.0
        late = min(self.part.takes, LEASH)  # it went on since it was seen there
        runs_on = speed * abs(speed) / (2 * self.deceleration) + speed * (late + 2 * self.part.period)
        end = self.state.position + runs_on
        if self.way is Way.LEASHED:  # it is told no further than it was already
            end = min(end, self._goes_to) if self._asked_speed > 0 else max(end, self._goes_to)
        target = self.raw_of(self._inside(end))
        self._ends(lambda: self._set_point(target), hard=False)
        self._set_point(target)

    def _ends(self, again: Callable[[], None], *, hard: bool) -> None:
        now = time.monotonic()
        self.way, self._goal, self._told_at = Way.ENDS, None, now
        self._again, self._hard, self._ended_at = again, hard, now

    def insist(self, now: float) -> None:
        """Says again what ends motion while it is seen to go on: a frame may be lost. What does not hear STOP is stopped with
        its node."""
        if self.way is not Way.ENDS or self._stands:
            return
        fresh = bool(self._track) and now - self._track[-1].came < FRESH
        if self._hard and fresh and now - self._ended_at > DEAF and self.state.state is c.State.ENABLED:
            self._ended_at = now
            self.part.manage(NMT_STOP)
        patience = OVERDUE + 8 * self.part.takes  # a round of looks, and once more
        if not self._hard and now - self._ended_at > patience + abs(self._asked_speed) / self.deceleration:
            self.ran_on = True
            self.stop()
        elif now - self._told_at > max(AGAIN if self._hard else SETTLES, 2 * self.part.takes):
            # no faster than it answers
            self._told_at = now
            self._again()

    # -- before it moves ------------------------------------------------------------------------------------------

    def make_safe(self, own_node: int, silence: float) -> None:
        """Finds out how it stops when Idler falls silent, and tells it to. What was tried since it started is not tried again.
        Raises NotAllowedNow."""
        watch = make_safe(self.part, self.name, own_node, silence)
        self.watch = Watch(words=self._deaf) if self._deaf else watch.as_tried(self.watch)

    def hear_stop(self, identifier: int) -> None:
        """Has it hear STOP in the frame that is for all drives, where it can."""
        if self.heard is None:
            self.heard = listen(self.part, identifier)

    def hear_no_more(self) -> None:
        """What it took for that is given back; waits for nothing."""
        if self.heard is not None:
            give_back(self.part, self.heard)
            self.heard = None

    @property
    def enabled(self) -> bool:
        return self.state.state is c.State.ENABLED

    def silence_was_seen(self, stopped: bool) -> None:
        """Whether it noticed that Idler was silent."""
        if stopped:
            self.watch = replace(self.watch, seen=True)
        else:
            how = "the guarding (100Ch)" if self.watch.guarded else "the heartbeat (1016h)"
            self._deaf = f"it takes {how} and did not stop without it"
            self.watch = Watch(words=self._deaf)

    def expect(self, own_node: int, silence: float) -> None:
        """How long it goes on without hearing Idler."""
        expect(self.part, self.watch, own_node, silence)

    def ready(self, mode: int) -> None:
        """Raises NotAllowedNow where it has no power, or does not take the mode."""
        state = self.state.state
        if not state.powered:
            raise NotAllowedNow(f"{self.name} cannot move: the drives are off. Power the drives first.")
        if self._mode == mode:
            return
        supported = self.part.read_if_there((c.MODES_KNOWN, 0))
        if supported is not None and not supported >> mode - 1 & 1:
            raise NotAllowedNow(f"{self.name}: {self.part.called} does not know this kind of motion (6502h).")
        if mode == c.MODE_VELOCITY:
            self.part.write((c.TARGET_VELOCITY, 0), 0)
        self.part.write((c.MODE, 0), mode, f"mode of {self.name}")
        shown = self.part.read_if_there((c.MODE_SHOWN, 0), signed=True)
        deadline = time.monotonic() + 0.5
        while shown not in (None, mode):
            if time.monotonic() > deadline:
                raise NotAllowedNow(f"{self.name}: {self.part.called} does not take up this kind of motion.")
            shown = self.part.read((c.MODE_SHOWN, 0), signed=True)
        self._mode = mode

    def forget(self) -> None:
        """It has started anew: nothing of what it was told holds any more."""
        self._mode, self.way, self.homed, self.watch, self.leashed = 0, Way.NOTHING, False, Watch(), None
        self._zero, self._counted, self._result, self._deaf = 0, False, HomingResult.NONE, ""
        self.heard = None
        self._track.clear()

    def rested(self) -> None:
        """What ended its motion is over, and is not said again; its mode is not known any more."""
        if self.way is Way.ENDS:
            self.way, self._hard = Way.NOTHING, False
        self._mode = 0

    # -- motion ---------------------------------------------------------------------------------------------------

    def hold(self, velocity: float, begin: Callable[[], None]) -> None:
        """Moves at mm/min (°/min) until it is let go. begin: the last look before motion; raises Overtaken."""
        self._open_way(velocity)
        leashed = self.watch.leashed or not self.trusted
        speed = self._capped(velocity) / 60
        # Within soft limits it is sent to the end, which the drive itself keeps, however late it is looked at.
        end = self.limits[speed > 0] if self.limits is not None and self.homed else None
        self.ready(c.MODE_VELOCITY if not leashed and end is None else c.MODE_POSITION)
        if self._mode == c.MODE_POSITION:
            self._at_most(abs(speed))
        begin()
        self._begin(speed, Way.LEASHED if leashed else Way.RUNS)
        if leashed:
            self._tighten(time.monotonic())
        elif end is not None:
            self._set_point(self.raw_of(end))
        else:
            self.control(c.ENABLE)
            self.part.say((c.TARGET_VELOCITY, 0), self._speed_raw(speed), 4)

    def go(self, distance: float, speed: float, begin: Callable[[], None], *, seek: bool) -> None:
        """Moves by mm (°) at mm/min (°/min); distances add up while it goes."""
        self._open_way(distance)
        self.ready(c.MODE_POSITION)
        wanted = self._capped(speed) / 60
        self._at_most(wanted)
        from_place = self._goal if self.way is Way.GOES and self._goal is not None else self.state.position
        goal = self._inside(from_place + distance)
        begin()
        self._begin(wanted if goal >= self.state.position else -wanted, Way.GOES)
        self._goal, self._sought = goal, seek
        self.part.period = QUICK if seek else USUAL
        self._tighten(time.monotonic())

    def _capped(self, velocity: float) -> float:
        if not self.top:
            return velocity
        return max(-self.top, min(self.top, velocity))

    def _inside(self, place: float) -> float:
        if self.limits is None or not self.homed:
            return place
        return min(max(place, self.limits[0]), self.limits[1])

    def _begin(self, speed: float, way: Way) -> None:
        now = time.monotonic()
        late = now - self._track[-1].asked if self._track else 0.0
        self._began_place = (
            self.state.position + self.state.velocity / 60 * late
        )  # what goes already is further than was seen
        self._asked_speed, self.way, self._sought = speed, way, False
        self._goal = None
        self._began_at = self._moved_at = self._looked_at = now
        self._ran_ahead = False
        self._track.clear()
        status = self.state.status & ~c.TARGET_REACHED | c.MOVING
        self.state = replace(self.state, status=status)

    def _speed_raw(self, speed: float) -> int:
        raw = self.units.to_part(Measure.SPEED, Fraction(speed))
        return -raw if self.units.place < 0 else raw

    def _at_most(self, speed: float) -> None:
        raw = max(1, self.units.to_part(Measure.SPEED, Fraction(abs(speed))))
        self.part.write((c.PROFILE_SPEED, 0), raw, f"jog speed of {self.name}")

    def _tighten(self, now: float) -> None:
        """Tells the next target: LEASH seconds ahead, or the goal where that is nearer, or where it need not be leashed."""
        if self.way is Way.LEASHED:
            target = self._inside(self._leash_end(now))
        elif self._goal is None:
            return
        elif self.watch.leashed or not self.trusted or self.leashed is not None:
            end = self._leash_end(now)
            target = min(end, self._goal) if self._asked_speed > 0 else max(end, self._goal)
        else:
            target = self._goal
        self._told_at, self._goes_to = now, target
        self._set_point(self.raw_of(target))

    def _leash_end(self, now: float) -> float:
        """LEASH seconds ahead of where it is, or of where it is planned to be, whichever is nearer."""
        ends = [place + self._asked_speed * LEASH for place in (self.state.position, self._planned(now))]
        return min(ends) if self._asked_speed > 0 else max(ends)

    def _set_point(self, raw: int) -> None:
        """A new target that counts at once (CiA 402-2, profile position mode: the rising edge of bit 4)."""
        self.control(c.ENABLE)
        self.part.say((c.TARGET_POSITION, 0), raw, 4)
        self.control(_NEW)

    def keep_on(self, now: float) -> None:
        """Moves the target on, ends what comes to a soft limit, and leads a homing on, or gives it up where it goes too far."""
        if self.leashed is not None:
            self.leashed.step()
            if self.leashed.result is not None:
                self._homing_ends(self.leashed.result)
        due = now - self._told_at > RENEWED and not self.part.behind  # what answers slowly is told no faster
        if self.way is Way.LEASHED and due:
            self._tighten(now)
        elif self.way is Way.GOES and self._goal is not None and due:
            if self._goes_to != self._goal:
                self._tighten(now)
        elif self.way is Way.RUNS and self.limits is not None and self.homed:
            speed = self._asked_speed
            room = (self.limits[1] - self.state.position) if speed > 0 else (self.state.position - self.limits[0])
            if room <= speed * speed / (2 * self.deceleration) + abs(speed) * 2 * self.part.period:
                self.let_go()
        elif self.way is Way.HOMES and self.search and abs(self._place_before - self._home_from) > self.search:
            self.stop()  # which goes on to be said until it stands
            self._result = HomingResult.NOT_FOUND
            self._show_inputs()

    # -- homing ---------------------------------------------------------------------------------------------------

    def home(self, method: int, begin: Callable[[], None], word: Callable[[int], None]) -> None:
        """Begins one of the drive's own ways. begin: raises Overtaken; word: one controlword, answered."""
        self.ready(c.MODE_HOMING)
        if self.part.has((0x607C, 0)):
            self.part.write((0x607C, 0), 0, f"home offset of {self.name}")
        self.part.put((0x6098, 0), method, f"homing method of {self.name}", signed=True)
        begin()
        self.found.clear()
        self._result, self.homed = HomingResult.NONE, False
        self._begin(0.0, Way.HOMES)
        self._home_from, self._jumped = self.state.position, 0
        self.part.period = QUICK
        self._homing = Homing()
        word(c.ENABLE)
        word(c.ENABLE | c.NEW_SETPOINT)
        self._homing.started = time.monotonic()
        self._show_inputs()

    def _look_at_homing(self, status: int, asked: float, now: float) -> None:
        """CiA 402-2, homing mode: attained and target reached together, or an error. Home is found where it is said so after
        the drive has taken this homing up, and its place was asked for after that: it may count anew at that moment."""
        homing, state = self._homing, c.State.of(status)
        if now - self._began_at < 0.1:
            return
        if not state.powered or state is c.State.QUICK_STOP:
            self._homing_ends(HomingResult.STOPPED)
            return
        if asked < homing.started:
            return
        homing.taken_up |= not status & (_ATTAINED | _HOMING_ERROR)
        if not homing.taken_up:
            if self._stands and now - homing.started > STUCK:
                self._homing_ends(HomingResult.NOT_FOUND)
            return
        if status & _HOMING_ERROR:
            self._homing_ends(HomingResult.NOT_FOUND)
        elif not (status & _ATTAINED and status & c.TARGET_REACHED):
            homing.attained = float("inf")
        else:
            homing.attained = min(homing.attained, now)
            if self._stands and self._track and self._track[-1].asked > homing.attained:
                self.count_from(0)
                self._homing_ends(HomingResult.FOUND)
                self.part.say((c.CONTROL, 0), c.ENABLE, 2)

    def _homing_ends(self, result: HomingResult) -> None:
        self._result, self.part.period, self.leashed = result, USUAL, None
        self._ends(lambda: None, hard=False)
        status = self.state.status | (c.HOMED if self.homed else 0)
        if self._stands:
            status &= ~c.MOVING
        self.state = replace(self.state, status=status)
        self._show_inputs()

    def home_leashed(self, plan: Plan, begin: Callable[[], None]) -> None:
        """Begins Idler's own way, on a leash. begin: raises Overtaken."""
        self.ready(c.MODE_POSITION)
        begin()
        self.found.clear()
        self._result, self.homed = HomingResult.NONE, False
        self.leashed = LeashedHoming(self, plan)
        self._show_inputs()

    @property
    def runs_on(self) -> bool:
        """Whether STOP was said to it, and it is not seen to stand yet."""
        return self.way is Way.ENDS and self._hard and not self._stands

    @property
    def on_switch(self) -> bool:
        return bool(self.state.inputs & c.INPUT_HOME)

    @property
    def on_its_way(self) -> bool:
        return self.way is not Way.NOTHING

    def set_off(self, distance: float, speed: float, *, seek: bool) -> None:
        """One move of a homing of Idler's own, mm (°) and mm/min (°/min); waits for nothing."""
        wanted = self._capped(speed) / 60
        self.part.say((c.PROFILE_SPEED, 0), max(1, self.units.to_part(Measure.SPEED, Fraction(wanted))), 4)
        self._begin(wanted if distance >= 0 else -wanted, Way.GOES)
        self._goal, self._sought = self.state.position + distance, seek
        self.part.period = QUICK if seek else USUAL
        self._tighten(time.monotonic())

    def count_from(self, raw: int) -> None:
        """This place, in the drive's units, is home."""
        self._zero, self.homed, self._counted = raw, True, True
        self.state = replace(self.state, position=self.place_of(self._raw), status=self.state.status | c.HOMED)

    def home_here(self) -> None:
        """Where it stands is home; the drive is not told, for only Idler counts from there."""
        self._result = HomingResult.NONE
        self.count_from(self._raw)
        self._show_inputs()

    def forget_home(self) -> None:
        self.homed = False
        self.state = replace(self.state, status=self.state.status & ~c.HOMED)
