"""Spindles on a stand: every rig's own, and random ones. Measured as a run measures them, corrected, and measured again."""

from __future__ import annotations

import random
from dataclasses import dataclass, replace
from fractions import Fraction

from idler.bench.objects.panel import Panel
from idler.bench.plant.instruments import Toolbox
from idler.bench.rigs.rig import Rig, SpindleTruth, load
from idler.bench.world import World
from idler.core.machine import Address, Machine
from idler.core.profile.codec import image
from idler.core.spindle import ranges
from idler.core.spindle.speedcurve import Curve, Miss, Sample, first_levels, fit, next_level, speeds_to_try
from idler.core.values.parameter import Value
from idler.core.values.speedpoints import points_text

LEVEL_RIGS = (("verge", 1), ("verge", 2), ("verge", 3), ("longcase", 1))  # rig, place of the belt
SETTLED = 0.02  # rpm in a look: the speed does not change any more
LOOK, LONGEST = 100, 60_000  # ticks


def wired_for_its_spindle(rig: Rig, more: dict[Address, Value] | None = None) -> Machine:
    """The machine as it was told, with outputs for the spindle where its wires are."""
    truth, values = rig.spindle, dict[Address, Value]()
    for slot, role in (
        (truth.run_output, "spindle_on"), (truth.direction_output, "direction"), (truth.level_output, "spindle_level"),
    ):  # fmt: skip
        if slot >= 0:
            values[Address(slot, "output.role")] = role
    return rig.told.with_values({**values, **(more or {})})


class SpindleStand:
    """A rig with its panel, without a wire. A person's tachometer measures."""

    def __init__(self, rig: Rig, machine: Machine, seed: int = 1) -> None:
        self.rig, self.world = rig, World(rig, seed)
        self.ctl = self.world.controller
        self.panel = Panel(self.world)
        self.panel.boot(machine.names)
        self.tell(machine)
        self._tools = Toolbox(seed)
        self.world.run(50)

    def tell(self, machine: Machine) -> None:
        self.machine = machine
        raws = image(machine)
        self.panel.configure(raws, raws)

    def ask(self, run: int, *, level: float = 0, speed: float = 0) -> None:
        """As the command on the wire: level in %, speed in rpm."""
        self.panel.command(run, round(10 * level), 0, 0, round(speed))

    def steady(self) -> float:
        """Runs until the speed does not change; what a tachometer says then."""
        before, ticks = float("inf"), 0
        while abs(before - float(self.world.spindle["speed"])) > SETTLED and ticks < LONGEST:
            before = float(self.world.spindle["speed"])
            self.world.run(LOOK)
            ticks += LOOK
        return self._tools.tachometer(float(self.world.spindle["speed"]))

    def _sample(self, level: float, rising: bool) -> Sample:
        self.ask(1 if level else 0, level=level)
        return Sample(level, rising, self.steady())

    def measure(self) -> Curve | None:
        """The sweep of the Spindle station."""
        samples = [self._sample(level, True) for level in first_levels()]
        samples += [self._sample(level, False) for level in reversed(first_levels())]
        for _ in range(8):
            closer = next_level(samples)
            if closer is None:
                break
            self._sample(max(0.1, closer - 2), True)
            samples.append(self._sample(closer, True))
        self.ask(0)
        return fit(samples)

    def check(self, slot: int, count: int = 12) -> list[Miss]:
        """Commands speeds over a range, upwards and downwards; how far off the spindle truly is each time."""
        found, missed = ranges(self.machine)[slot], []
        speeds = speeds_to_try(found, count=count)
        for speed in (*speeds, *reversed(speeds)):
            self.ask(1, speed=speed)
            self.steady()
            missed.append(Miss(speed, float(self.world.spindle["speed"]) - speed))
        self.ask(0)
        return missed


@dataclass(frozen=True)
class Corrected:
    """The worst miss of a range, in shares of what is allowed (1 % or 5 rpm), before its curve was measured and after."""

    before: float
    after: float


def correct(rig: Rig, slot: int, seed: int = 1) -> Corrected:
    """Measures a range, takes its points and proves them."""
    machine = wired_for_its_spindle(rig, {Address(None, "spindle.engaged"): slot + 1})
    stand = SpindleStand(rig, machine, seed)
    before = max(miss.share for miss in stand.check(slot))
    curve = stand.measure()
    assert curve is not None, (rig.name, slot)
    found = ranges(machine)[slot]
    low = max(Fraction(str(found.low)), Fraction(int(curve.speeds[0]) + 1))
    stand.tell(
        machine.with_values(
            {
                Address(slot, "range.points"): points_text(curve.points),
                Address(slot, "range.high"): Fraction(int(min(found.high, curve.points[-1][1]))),
                Address(slot, "range.low"): low,
            }
        )
    )
    return Corrected(before, max(miss.share for miss in stand.check(slot)))


def shipped(name: str, place: int) -> tuple[Rig, int]:
    """A rig with its belt on a place, and the slot of its range."""
    rig = load(name)
    return replace(rig, spindle=replace(rig.spindle, belt=place)), place - 1


def random_spindle(seed: int) -> tuple[Rig, int]:
    """Verge with another spindle drive: dead band, end, bend, wave, play and motor drawn by lot; its top is told wrong."""
    dice = random.Random(seed)
    rig = load("verge")
    top = dice.choice((1400, 2800, 6000, 12_000, 24_000))
    truth: SpindleTruth = replace(
        rig.spindle, top=top * dice.uniform(0.93, 1.05), dead=dice.uniform(0, 0.12), full=dice.uniform(0.88, 1.0),
        bend=dice.uniform(-0.15, 0.2), wave=dice.uniform(-0.012, 0.012), slack=dice.uniform(0, 0.0014), ratios=(1.0,), belt=1,
        gain=top * dice.uniform(0.5, 3), brake=top * dice.uniform(0.5, 3), run_up=dice.uniform(0.05, 0.5),
    )  # fmt: skip
    values = {
        Address(None, "spindle.ranges"): 1, Address(None, "spindle.engaged"): 1, Address(0, "range.ratio"): Fraction(1),
        Address(0, "range.low"): Fraction(round(top * dice.uniform(0.1, 0.3))), Address(0, "range.high"): Fraction(top),
    }  # fmt: skip
    return replace(rig, spindle=truth, told=rig.told.with_values(values)), 0
