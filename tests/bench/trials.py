"""Random machines with one axis, homed by random valid set-ups and driven to their ends, as fast as the bench can."""

from __future__ import annotations

import random
from dataclasses import dataclass, replace
from fractions import Fraction

from idler.bench.objects.drive import Drive
from idler.bench.objects.panel import Panel
from idler.bench.objects.told import Told
from idler.bench.rigs.rig import MotorTruth, Rig, WireTruth, load
from idler.bench.world import World
from idler.core.homing import way
from idler.core.machine import Address, Machine
from idler.core.machine.finding import Severity
from idler.core.profile import cia402 as c
from idler.core.profile.codec import Place, Raw, image
from idler.core.profile.homing import HomingResult
from idler.core.rules.findings import findings
from idler.core.values.parameter import Value

CHUNK = 20  # ticks between two looks
LONGEST = 1_000_000  # ticks of any motion here
ROUNDS = (Severity.ERROR, Severity.WARNING)


def told_to(raws: dict[Place, Raw], slot: int) -> Told:
    """What one drive is told of an image, by the index of the first axis and sub-index."""
    found = {}
    for place, raw in raws.items():
        if not isinstance(raw, int):
            continue
        if place.index >= 0x6000 and (place.index - 0x6000) // 0x800 == slot:
            found[0x6000 + (place.index - 0x6000) % 0x800, place.sub] = raw
        elif 0x4000 <= place.index < 0x4800 and (place.index - 0x4000) // 0x100 == slot:
            found[0x4000 + (place.index - 0x4000) % 0x100, place.sub] = raw
    return Told(found)


class Stand:
    """A rig whose controller was told a machine, with power, without a wire."""

    def __init__(self, rig: Rig, told: Machine, rate: float = 200_000.0, seed: int = 1) -> None:
        self.world = World(rig, seed)
        self.machine = told
        self.drives = [Drive(self.world, slot) for slot in range(len(told.names))]
        self.panel = Panel(self.world)
        self.panel.boot(told.names)
        raws = image(told)
        self.panel.configure(raws, raws)
        for drive in self.drives:
            drive.configure(told_to(raws, drive.slot), rate, 0)
            for word in (c.SHUTDOWN, c.SWITCH_ON, c.ENABLE):
                drive.control(word)
        self.world.run(400)

    def rest(self, slot: int = 0, chunk: int = CHUNK) -> None:
        """Runs until the axis neither moves nor homes; farthest says how far it went meanwhile, in counts."""
        ax = self.world.firmware[slot]
        self.farthest = (int(ax["steps"]), int(ax["steps"]))
        for _ in range(LONGEST // chunk):
            self.world.run(chunk)
            steps = int(ax["steps"])
            self.farthest = (min(self.farthest[0], steps), max(self.farthest[1], steps))
            if not ax["moving"] and not ax["homing"] and not ax["fresh"]:
                return

    def home(self, slot: int = 0) -> HomingResult:
        drive = self.drives[slot]
        drive.set_mode(c.MODE_HOMING)
        for word in (c.ENABLE, c.ENABLE | c.NEW_SETPOINT, c.ENABLE):
            drive.control(word)
        self.rest(slot)
        raw = int(self.world.firmware[slot]["home_result"])
        return next(result for result in HomingResult if result.raw == raw)

    def step(self, distance: float, speed: float, slot: int = 0, chunk: int = CHUNK) -> None:
        """A move by a distance in mm (°) at mm/min (°/min)."""
        drive = self.drives[slot]
        drive.set_mode(c.MODE_POSITION)
        drive.target_position, drive.profile_speed = c.raw_position(distance), c.raw_speed(speed)
        drive.control(c.ENABLE)
        drive.control(c.ENABLE | c.NEW_SETPOINT | c.RELATIVE | c.AT_ONCE)
        self.rest(slot, chunk)

    def hold(self, speed: float, ticks: int, slot: int = 0) -> None:
        """A jog held for some milliseconds, then let go."""
        drive = self.drives[slot]
        drive.set_mode(c.MODE_VELOCITY)
        drive.control(c.ENABLE)
        drive.set_velocity(c.raw_speed(speed))
        self.world.run(ticks)
        drive.set_velocity(0)
        self.rest(slot, 1)

    def position(self, slot: int = 0) -> float:
        return c.position_from(self.drives[slot].position)

    def carriage(self, motor: int = 0) -> float:
        return float(self.world.plant[motor]["carriage"])


@dataclass(frozen=True)
class Setup:
    """A random machine: what it is, what it was told, and at which place of its travel its switch (or stop) is met."""

    rig: Rig
    told: Machine
    met: float
    dice: random.Random


def random_setup(seed: int) -> Setup:
    """One axis of random build, told the truth about it, with a homing that has no finding."""
    for attempt in range(1000):
        made = _draw(random.Random(f"{seed} {attempt}"))
        mine = [
            item
            for item in findings(made.told)
            if item.where.slot == 0 and item.where.key.startswith(("homing", "travel"))
        ]
        if not any(item.severity in ROUNDS for item in mine):
            return made
    raise AssertionError("no valid set-up was found")


def _draw(dice: random.Random) -> Setup:
    lead, travel = dice.choice((2.0, 4.0, 5.0, 10.0)), float(dice.randrange(40, 400))
    micro, high = dice.choice((4, 8, 16, 32)), dice.random() < 0.5
    stop = dice.random() < 0.25
    room, play = dice.uniform(1.0, 8.0), dice.choice((0.0, 0.01, 0.05))
    met = (travel if high else 0.0) if stop else (travel - room if high else room)
    rest = dice.choice(("closed", "open"))
    motor = MotorTruth(
        "X", lead, dice.choice((1.0, -1.0)), 200, micro, travel, dice.uniform(0.2, 0.8) * travel, play, 3e-4,
        dice.uniform(0.05, 0.25), 1e-3, 0.0, dice.uniform(1.5, 2.5), 900.0, False, "work", False, 0.0, 0.03, -1, 0.0,
    )  # fmt: skip
    wire = WireTruth(0, "X home", "carriage", 0, met, 1.0 if high else -1.0, dice.uniform(0.1, 0.6), 1.0, rest == "closed",
                     dice.choice((0.0, 0.3, 0.8)), 0.0, 0.1, 0.5, 0.0)  # fmt: skip
    away = -1 if high else 1
    coordinate = Fraction(dice.choice((0, 0, 2, -30, 100)))
    low_stop = coordinate - Fraction(met)  # coordinate of the low hard stop
    near, far = sorted((coordinate + away, coordinate + away * (Fraction(met if high else travel - met) - 1)))
    approach = dice.randrange(200, 1500)
    values: dict[str, Value] = {
        "axis.output": 1, "axis.reversed": motor.direction < 0, "chain.microsteps": micro, "chain.pitch": Fraction(lead),
        "homing.towards": "high" if high else "low", "homing.method": "stop" if stop else "switch",
        "homing.approach": Fraction(approach), "homing.touch": Fraction(dice.randrange(20, min(240, approach // 2))),
        "homing.acceleration": Fraction(dice.randrange(60, 400)), "homing.back_off": Fraction(dice.randrange(2, 6)),
        "homing.leave": Fraction(dice.randrange(1, 4)), "homing.search": Fraction(round(travel * 1.2)),
        "homing.coordinate": coordinate, "travel.stop_low": low_stop, "travel.stop_high": low_stop + Fraction(travel),
        "travel.low": near, "travel.high": far, "travel.limits_on": True, "pace.top_speed": Fraction(3000),
        "travel.cushion": Fraction(dice.choice((0, 0, 3, 8))), "travel.cushion_speed": Fraction(dice.randrange(100, 900)),
        "pace.shape": dice.choice(("constant", "limited", "smoothest")), "pace.jerk": Fraction(dice.randrange(2000, 20000)),
        "pace.acceleration": Fraction(dice.randrange(80, 500)), "pace.deceleration": Fraction(dice.randrange(80, 500)),
    }  # fmt: skip
    base = load("verge")
    told = Machine.shaped(base.told.shape._replace(names=("X",))).with_values({
        **{Address(0, key): value for key, value in values.items()},
        Address(0, "input.role"): "home", Address(0, "input.axis"): "X", Address(0, "input.rest"): rest,
        Address(0, "input.filter"): Fraction(dice.choice(("0.3", "1", "3"))), Address(0, "input.terminal"): "1",
    })  # fmt: skip
    return Setup(replace(base, motors=(motor,), wires=(wire,), told=told), told, met, dice)


@dataclass(frozen=True)
class Homed:
    """Of one set-up homed twice, from two places. speeds in mm/s, lengths in mm.

    struck     the fastest that it ever met iron, as a mean over 20 ms
    touch      what it was told, and the one count more that may lie in those 20 ms
    """

    found: bool
    struck: float
    touch: float
    apart: float
    allowed: float


def home_twice(seed: int) -> Homed:
    made = random_setup(seed)
    stand = Stand(made.rig, made.told, seed=seed)
    axis = made.told.axis(0)
    zeros, found = [], True
    for _ in range(2):
        found = found and stand.home() is HomingResult.FOUND
        zeros.append(stand.carriage() - stand.position())
        span = float(axis.number("travel.high") - axis.number("travel.low"))
        stand.step(-way(axis) * made.dice.uniform(0.1, 0.8) * span, 1200)
    touch = float(axis.number("homing.touch")) / 60
    wire, motor = made.rig.wires[0], made.rig.motors[0]
    bounce = 0.0 if axis.choice("homing.method") == "stop" else wire.bounce / 1000
    count = motor.lead / motor.full_steps / motor.microsteps
    # two ticks and the bounce at touch speed, a count each way; a stepper's own give under its friction
    give = motor.lead / 200 * 0.3
    return Homed(found, float(stand.world.plant[0]["struck"]), 1.05 * touch + count / 0.02, abs(zeros[0] - zeros[1]),
                 touch * (0.002 + bounce) + 2 * count + give)  # fmt: skip


def beyond_an_end(seed: int, times: int) -> float:
    """How many counts an axis was ever past its end when it was sent there from random places at random speeds."""
    made = random_setup(seed)
    stand = Stand(made.rig, made.told, seed=seed)
    stand.home()
    axis, dice, ax = made.told.axis(0), made.dice, stand.world.firmware[0]
    low, high = (float(axis.number(key)) for key in ("travel.low", "travel.high"))
    per_unit, worst = float(ax["counts_per_unit"]), 0.0
    for _ in range(times):
        up, speed = dice.random() < 0.5, dice.uniform(50, 3000)
        stand.step(dice.uniform(low, high) - stand.position(), 3000)
        if dice.random() < 0.5:
            stand.step((1 if up else -1) * dice.uniform(1, 2 * (high - low)), speed, chunk=1)
        else:
            stand.hold(speed if up else -speed, dice.randrange(200, 4000))
        worst = max(worst, stand.farthest[1] - high * per_unit, low * per_unit - stand.farthest[0])
    return worst
