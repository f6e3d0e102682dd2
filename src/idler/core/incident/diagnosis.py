"""What the flight record tells of a stop: what came first, what only followed, and the likely causes with their evidence."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction

from ..machine import Address, Axis, Machine
from ..machine.finding import Finding, Severity
from ..mechanics.chain import Chain
from ..mechanics.drivers import counts_at, other_counts
from ..mechanics.pulses import longer_pulses
from ..profile.cia402 import (
    CLIENT_LOST,
    DRIVE_TROUBLE,
    GUARD_OPENED,
    LAGGED,
    LIMIT_MET,
    LINK_CUT,
    RESTARTED,
    STOP_PRESSED,
)
from ..profile.flight import Flag, FlightRecord
from ..table import POSITION_STEP, SPEED_STEP
from ..table.stations import Station, Tab
from ..values.parameter import Value
from ..values.roles import InputRole
from ..values.units import figure
from ..wiring import Input, inputs
from ..words import capital
from .happenings import Happening, happenings, together

SHORT = 0.02  # s: what is over sooner was no finger and no switch
LOST_TOGETHER = 3  # inputs that open in one sample: their common wire
BEFORE = 0.05  # s over which motion before the stop is judged
EVENLY = 0.05  # relative: less than that a speed, or the growth of an error, is even
LONG = 0.2  # s that an axis must have gone evenly, so that the counts of its encoder are many
UNLATCHED = 1.0  # s: sooner nobody turns an emergency stop loose that was just pressed
STANDS = 0.1  # of what it is told: an axis that goes no further stands
SAME_STEP = 0.06  # share by which what is read from a record may lie beside a step of a driver's switches
LATELY = 0.015  # s over which the growth of a following error is judged: the window may be a short one

_UNHEARD = {
    CLIENT_LOST: "Idler was not heard any more", LINK_CUT: "the controller was not heard any more",
    RESTARTED: "the controller restarted by itself",
}  # fmt: skip
_ROLES = {
    STOP_PRESSED: (InputRole.STOP,), GUARD_OPENED: (InputRole.GUARD,), DRIVE_TROUBLE: (InputRole.TROUBLE,),
    LIMIT_MET: tuple(role for role in InputRole if role.limits),
}  # fmt: skip


@dataclass(frozen=True)
class StopCause:
    """words: what it would be. evidence: what in the record speaks for it. step: what to do, at a station's page. edit: the
    values that would mend it, where they follow from the record."""

    words: str
    evidence: str
    step: str
    station: Station
    page: str = ""
    weight: float = 0.5
    edit: tuple[tuple[Address, Value], ...] = ()


@dataclass(frozen=True)
class Account:
    """first is None where the record shows nothing that stops a machine. causes: the likeliest first."""

    first: Happening | None
    followed: tuple[Happening, ...]
    causes: tuple[StopCause, ...]


FINE = 0.005  # s between two samples of a controller that keeps its own record


def resolution(record: FlightRecord) -> str:
    """How coarse a record is that no controller made; "" for one that a controller did."""
    if record.period <= FINE:
        return ""
    return f"As Idler heard it, every {1000 * record.period:.0f} ms: what lasted less may not be in it."


LIKELY = "What stopped it, likely:"


def likely_words(found: Account) -> str:
    """The likeliest cause with its evidence, for whoever has no picture of it; "" where none is known."""
    return f"{LIKELY} {found.causes[0].words} {found.causes[0].evidence}" if found.causes else ""


def account(machine: Machine, record: FlightRecord, axis: int | None = None) -> Account:
    """axis: the slot that the controller named, where it named one."""
    listed = together(happenings(machine, record))
    first = _first(machine, record, listed, axis)
    if first is None:
        return Account(None, tuple(listed), ())
    followed = tuple(item for item in listed if item is not first and (item.at, item.rank) >= (first.at, first.rank))
    seen = _Seen(machine, record, first, axis if axis is not None else first.axis, listed)
    causes = sorted((cause for rule in _RULES for cause in rule(seen)), key=lambda cause: -cause.weight)
    return Account(first, followed, tuple(causes))


def _first(machine: Machine, record: FlightRecord, listed: list[Happening], axis: int | None) -> Happening | None:
    """What the emergency message speaks of: the last such change up to the stop."""
    if record.code in _UNHEARD:
        return Happening(0.0, _UNHEARD[record.code])
    roles, wired = _ROLES.get(record.code, ()), inputs(machine)

    def fits(item: Happening) -> bool:
        if record.code == LAGGED:
            return item.axis is not None and item.rank == 1 and axis in (None, item.axis)
        return item.input is not None and wired[item.input].role in roles and _made(machine, record, item)

    near = [item for item in listed if fits(item) and item.at <= record.period]
    if near:
        return near[-1]
    return _between(machine, record)


def _between(machine: Machine, record: FlightRecord) -> Happening | None:
    """What came and went between two samples: the controller says which input it was, and for how long."""
    if record.input is None or record.input >= machine.inputs:
        return None
    item = inputs(machine)[record.input]
    held = f" for {milliseconds(record.held)} ms" if record.held is not None else ""
    return Happening(
        0.0, f"input {item.name}, {item.duty.label}: {item.says(not item.closed_at_rest)}{held}", item.slot
    )


def milliseconds(seconds: float) -> str:
    """ "1.2", "450": as exactly as it is of use."""
    return figure(1000 * seconds, 1 if seconds < 0.01 else 0, trim=True)


def _made(machine: Machine, record: FlightRecord, item: Happening) -> bool:
    assert item.input is not None
    return inputs(machine)[item.input].made(_closed(record, item.input, record.moment + round(item.at / record.period)))


def _closed(record: FlightRecord, slot: int, sample: int) -> bool:
    return bool(int(record.samples["closed"][sample]) >> slot & 1)


# -- why -------------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class _Seen:
    machine: Machine
    record: FlightRecord
    first: Happening
    axis: int | None
    listed: list[Happening]

    @property
    def code(self) -> int:
        return self.record.code

    @property
    def input(self) -> Input | None:
        return inputs(self.machine)[self.first.input] if self.first.input is not None else None

    @property
    def sample(self) -> int:
        return self.record.moment + round(self.first.at / self.record.period)

    @property
    def held(self) -> float | None:
        """How long the first input stayed as it came, in s; None where it stayed so to the end of the record.

        The controller's own figure goes before what the samples show."""
        if self.record.input is not None and self.record.input == self.first.input:
            return self.record.held
        back = [item.at for item in self.listed if item.input == self.first.input and item.at > self.first.at]
        return back[0] - self.first.at if self.first.input is not None and back else None

    @property
    def opened_together(self) -> list[str]:
        """Names of the inputs that opened in the same sample as the first one."""
        found = []
        for item in inputs(self.machine):
            near = [e for e in self.listed if e.input == item.slot and abs(e.at - self.first.at) <= self.record.period]
            if near and not _closed(self.record, item.slot, self.sample) and item.closed_at_rest:
                found.append(item.name)
        return found

    @property
    def spindle(self) -> int:
        """Its speed at the stop, in rpm."""
        return abs(int(self.record.samples["spindle"][self.sample]))

    @property
    def name(self) -> str:
        return self.machine.names[self.axis] if self.axis is not None else ""

    def velocity(self, before: float = 0.0) -> float:
        """Of the axis, so many seconds before the first sign of the stop, in mm/min (°/min)."""
        k = max(0, self.sample - 1 - round(before / self.record.period))
        return float(self.record.samples["velocity"][k, self.axis]) * float(SPEED_STEP)

    @property
    def position(self) -> float:
        return float(self.record.samples["position"][self.sample, self.axis]) * float(POSITION_STEP)

    def lag(self, before: float = 0.0) -> float:
        k = max(0, self.sample - round(before / self.record.period))
        return float(self.record.samples["lag"][k, self.axis]) / 1000

    def flag(self, flag: Flag) -> bool:
        return bool(int(self.record.samples["flags"][max(0, self.sample - 1), self.axis]) & flag)

    def flag_now(self, flag: Flag) -> bool:
        """As `flag`, with the first sign of the stop in it."""
        return bool(int(self.record.samples["flags"][self.sample, self.axis]) & flag)

    @property
    def speed_words(self) -> str:
        assert self.axis is not None
        return f"{self.name} went {self.machine.axis(self.axis).reads.speed(abs(self.velocity()))}"


def _common_wire(seen: _Seen) -> Iterator[StopCause]:
    names = seen.opened_together
    if len(names) >= LOST_TOGETHER:
        yield StopCause(
            "The inputs have lost their supply or their common wire.",
            f"The inputs {', '.join(names)} opened within {seen.record.period * 1000:.0f} ms of each other.",
            "Look at the terminals", Station.WIRING, "Learn", 0.95,
        )  # fmt: skip


def _noise(seen: _Seen) -> Iterator[StopCause]:
    item, held = seen.input, seen.held
    if item is None or held is None or held > SHORT:
        return
    running = f" while the spindle turned at {seen.spindle} rpm" if seen.spindle else ""
    yield StopCause(
        f"Electrical noise or a loose wire at input {item.name}, and not the {item.duty.role.label} itself.",
        f"It was {item.says(not item.closed_at_rest)} for {milliseconds(held)} ms only{running}; "
        f"its filter is {figure(item.filter, 2, trim=True)} ms.",
        "Study its filter", Station.WIRING, Tab.FILTER, 0.9 if seen.spindle else 0.8,
    )  # fmt: skip


def _limit(seen: _Seen) -> Iterator[StopCause]:
    if seen.code != LIMIT_MET or seen.axis is None:
        return
    axis, high = seen.machine.axis(seen.axis), seen.flag_now(Flag.HIGH)
    towards = seen.velocity() > 0 if high else seen.velocity() < 0
    end, speed = "high" if high else "low", seen.speed_words
    if not seen.velocity():
        yield StopCause(
            f"Somebody pressed the switch, or its wire broke: {seen.name} stood.",
            f"{seen.name} stood when the switch was made.",
            "Look at the terminal", Station.WIRING, "Learn", 0.7,
        )  # fmt: skip
        return
    if not towards:
        yield StopCause(
            f"The limit switches of {seen.name} are exchanged, or its direction is turned round.",
            f"{speed} away from its {end} end when that end's switch was made.",
            "Prove the direction", Station.DRIVES, "", 0.85,
        )  # fmt: skip
        return
    if not axis.flag("travel.limits_on"):
        yield StopCause(
            f"Nothing but the switch ends the travel of {seen.name}: its soft limits are off.",
            f"{speed} towards its {end} end; soft limits are off.", "Set the ends", Station.TRAVEL, "", 0.85,
        )  # fmt: skip
    elif not seen.flag(Flag.HOMED):
        yield StopCause(
            f"{seen.name} was not homed, so its soft limits did not hold.",
            f"{speed} towards its {end} end without a home.", "Home it", Station.HOMING, "", 0.85,
        )  # fmt: skip
    else:
        limit = float(axis.number(f"travel.{end}"))
        yield StopCause(
            f"The soft limit of {seen.name} lies beyond its switch, or steps were lost on the way there.",
            f"The switch was met at {axis.reads.length(seen.position, 2)}; the soft limit is {axis.reads.length(limit, 2)}.",
            "Set the end", Station.TRAVEL, "", 0.8,
        )  # fmt: skip


def _stop(seen: _Seen) -> Iterator[StopCause]:
    item = seen.input
    if seen.code not in (STOP_PRESSED, GUARD_OPENED) or item is None:
        return
    what = "pressed" if seen.code == STOP_PRESSED else "opened"
    held = "until the record ends" if seen.held is None else f"for {figure(seen.held, 2)} s"
    yield StopCause(
        f"Somebody {what} the {item.duty.label}.", f"Input {item.name} stayed {item.says(not item.closed_at_rest)} {held}.",
        "Prove it again", Station.WIRING, Tab.PROVE, 0.6,
    )  # fmt: skip
    if seen.code == STOP_PRESSED and item.closed_at_rest and seen.held is not None and seen.held < UNLATCHED:
        yield StopCause(
            f"A wire that is loose at input {item.name}: it opens, and closes again by itself.",
            f"It was closed again after {figure(seen.held, 2)} s. An emergency stop latches (ISO 13850), and no hand "
            "releases it so soon.", "Look at the terminal", Station.WIRING, "Learn", 0.7,
        )  # fmt: skip
    if item.closed_at_rest and seen.held is None:
        yield StopCause(
            f"A broken wire at input {item.name}.", "A contact that is closed at rest opens then too, and stays open.",
            "Look at the terminal", Station.WIRING, "Learn", 0.3,
        )  # fmt: skip


def _overload(seen: _Seen) -> Iterator[StopCause]:
    """Drive trouble or lag of one axis: blocked, asked for too much, or judged too narrowly."""
    if seen.code not in (DRIVE_TROUBLE, LAGGED) or seen.axis is None:
        return
    axis = seen.machine.axis(seen.axis)
    if seen.code == LAGGED and _narrow(seen):
        allowed, load = axis.number("loop.window"), _usual_lag(seen)
        wider = Fraction(math.ceil(3 * max(load, abs(seen.lag())) * 100), 100)
        yield StopCause(
            f"The following error allowed on {seen.name} is narrow: {axis.reads.length(allowed, 3, trim=True)}.",
            f"It was {axis.reads.length(abs(seen.lag()), 3)} behind, and a motor under its usual load lies behind by up to "
            f"{axis.reads.length(load, 3)}. {axis.reads.length(wider, 2)} would do.",
            "Look at its motor", Station.DRIVES, "", 0.9,
        )  # fmt: skip
        return
    if seen.code == LAGGED and (follows := _follows(seen)) is not None:
        yield StopCause(
            f"The encoder of {seen.name} counts {follows:.2f} of what {seen.name} is told to go: its driver makes another "
            "number of steps for a turn than was told, or the encoder has another number of counts.",
            f"{seen.speed_words} evenly, and it fell behind evenly.", "Look at its train", Station.DRIVES, "", 0.95,
            _counts_that_follow(axis, follows),
        )  # fmt: skip
        yield from _missed(seen, follows)
        return
    now, then = seen.velocity(), seen.velocity(BEFORE)
    gained = abs(seen.lag() - seen.lag(LATELY)) / LATELY * 60
    if axis.flag("loop.measured") and gained > 0.8 * max(abs(now), 1e-9) > 0:
        yield StopCause(
            f"Something holds {seen.name}: the motor stood while steps went on.",
            f"{seen.speed_words}, and it fell behind by {axis.reads.length(abs(seen.lag() - seen.lag(LATELY)), 3)} in "
            f"{1000 * LATELY:.0f} ms.", "Look at the axis, then its pace", Station.DRIVES, "", 0.85,
        )  # fmt: skip
    if abs(now) > 1.02 * abs(then):
        yield StopCause(
            f"{seen.name} was asked for more acceleration than its motor can give.",
            f"{seen.speed_words} and was still gaining speed.", "Lower its acceleration", Station.DRIVES, "", 0.75,
        )  # fmt: skip
    elif now:
        yield StopCause(
            f"{seen.name} met something, or its motor has too little torque at that speed.",
            f"{seen.speed_words} evenly.", "Look at its pace", Station.DRIVES, "", 0.6,
        )  # fmt: skip
    else:
        yield StopCause(
            f"The drive of {seen.name} itself: its supply, its heat, or the wire of its trouble output.",
            f"{seen.name} stood.", "Look at the terminal", Station.WIRING, "Learn", 0.6,
        )  # fmt: skip
    if seen.code == LAGGED and gained <= 0.2 * abs(now):
        yield StopCause(
            f"The following error allowed on {seen.name} is narrow for this speed.",
            f"It was {axis.reads.length(abs(seen.lag(BEFORE)), 3)} behind already {1000 * BEFORE:.0f} ms before; "
            f"{axis.reads.length(axis.number('loop.window'), 3, trim=True)} are allowed.",
            "Look at its motor", Station.DRIVES, "", 0.7,
        )  # fmt: skip


def _follows(seen: _Seen) -> float | None:
    """How far the encoder goes for each mm (°) that the axis is told, over all that it went evenly before the stop; None where
    it follows, stands, falls behind by something that is not even, or did not go evenly for long enough."""
    import numpy as np  # only where there is a record, which is made of it

    last = max(0, seen.sample - 1)
    speeds = np.abs(seen.record.samples["velocity"][: last + 1, seen.axis].astype(float))
    other = np.flatnonzero(np.abs(speeds - speeds[-1]) > EVENLY * speeds[-1])
    first = int(other[-1]) + 1 if len(other) else 0
    middle, period = (first + last) // 2, seen.record.period
    if not speeds[-1] or (last - first) * period < LONG:
        return None
    lags = seen.record.samples["lag"][[first, middle, last], seen.axis].astype(float) / 1000
    way = seen.velocity() / 60 * period
    early, late = (lags[1] - lags[0]) / (way * (middle - first)), (lags[2] - lags[1]) / (way * (last - middle))
    share = 1 - (lags[2] - lags[0]) / (way * (last - first))
    even = abs(late - early) < 4 * EVENLY * max(abs(late), abs(early))
    return float(share) if even and share > STANDS and abs(share - 1) > 2 * EVENLY else None


def _missed(seen: _Seen, follows: float) -> Iterator[StopCause]:
    """Pulses that a driver does not see, where longer ones can be told: likelier than its switches where no step of these
    fits."""
    assert seen.axis is not None
    longer = longer_pulses(seen.machine)
    if follows < 1 and longer:
        fits = _counts_that_follow(seen.machine.axis(seen.axis), follows)
        yield StopCause(
            f"The driver of {seen.name} sees only {follows:.2f} of the step pulses: they are too short for it.",
            f"{seen.speed_words} evenly, and it fell behind evenly.", "Look at the signals", Station.WIRING, Tab.SIGNALS,
            0.3 if fits else 0.97, tuple(longer.items()),
        )  # fmt: skip


def _counts_that_follow(axis: Axis, follows: float) -> tuple[tuple[Address, Value], ...]:
    """The counts for a turn with which the axis would go as far as it is told, where what it follows by is a step of the
    switches of a driver. A record tells no more than some hundredths: what lies between such steps is measured, not guessed."""
    where, counts = counts_at(axis), other_counts(axis, follows)
    if counts is None or abs(follows * counts / axis.whole(where.key) - 1) > SAME_STEP:
        return ()
    return ((where, counts),)


def suspected(machine: Machine, found: Account) -> Finding | None:
    """What the likeliest cause would mend by an edit, as a finding of the machine as it was then."""
    if not found.causes or not found.causes[0].edit:
        return None
    cause = found.causes[0]
    (where, value), *_ = cause.edit
    shown = where.row.show(value)
    text = f"{cause.words} {capital(where.row.label)} {shown} would make it follow; look at its driver."
    return Finding("driver_counts", Severity.ERROR, where, machine.part(where), text, cause.edit, f"Take {shown}")


def _usual_lag(seen: _Seen) -> float:
    """Half a full step of a motor of 200: what the rotor lies behind its field under a usual load, in mm (°)."""
    assert seen.axis is not None
    return float(Chain.of(seen.machine.axis(seen.axis)).travel_per_turn) / 400


def _narrow(seen: _Seen) -> bool:
    """Whether the window was met by a lag that any motor has."""
    assert seen.axis is not None
    window = float(seen.machine.axis(seen.axis).number("loop.window"))
    return window <= _usual_lag(seen)


def _unheard(seen: _Seen) -> Iterator[StopCause]:
    if seen.code == RESTARTED:
        yield StopCause(
            "A dip of the controller's supply, or a controller that reset itself.",
            "It came back by itself; what Idler had heard until then is shown.", "Look at the link", Station.LINK, "", 0.7,
        )  # fmt: skip
    if seen.code in (CLIENT_LOST, LINK_CUT):
        yield StopCause(
            "The cable between computer and controller, or a computer that paused.",
            "No input changed, no drive reported anything; only Idler's heartbeat was missing.",
            "Look at the link", Station.LINK, "", 0.7,
        )  # fmt: skip


_RULES: tuple[Callable[[_Seen], Iterator[StopCause]], ...] = (_common_wire, _noise, _limit, _stop, _overload, _unheard)
