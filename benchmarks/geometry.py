"""How often the truth lies within what is said, of everything that the Geometry station measures, over random machines.

How wide the ± is stands against twice the scatter of what is found about the truth, over all machines, which is what the
instruments force: 1 were as narrow as can be.

The machines are drawn by their seed; what the dial, the tape and the trammel say comes from the bench's instruments, with
their divisions, their lag and the hand that reads them, and not from the core that judges it.
"""

from __future__ import annotations

import math
import random
from dataclasses import replace

from idler.bench.plant.instruments import KNOWN, Toolbox, read
from idler.bench.rigs.rig import BedTruth
from idler.core.geometry import blade, comeback, level, play, runout, square, tailstock
from idler.core.geometry.blade import Laying
from idler.core.geometry.comeback import Arrival
from idler.core.geometry.level import Bed, Grid
from idler.core.geometry.play import DialReading
from idler.core.geometry.square import Rectangle, SquareVerdict
from idler.core.mechanics.scale import COVERAGE
from idler.procedures.geometry.comeback import ROUNDS as RETURNS
from idler.procedures.geometry.level import HOW
from idler.procedures.geometry.play import TIMES
from idler.procedures.geometry.square import TIMES as DIAGONALS

MACHINES = 200
COUNT = 0.0025
DIAL = KNOWN["dial"]
WANTED = 0.3  # mm per m


def _play(seed: int) -> tuple[float, float]:
    """How far what is found lies beside the truth, and its ±."""
    dice = random.Random(seed)
    left, zero, lag = dice.uniform(0, 0.12), dice.uniform(-1, 1), dice.uniform(0, DIAL.lag)
    told = [
        DialReading(0.0, way, read(DIAL, zero - way * (left + lag) / 2 + dice.uniform(-0.5, 0.5) * COUNT, dice))
        for _ in range(TIMES)
        for way in (1, -1)
    ]
    found = play.plays(told, DIAL, COUNT)[0]
    return found.play - left, found.expanded


def _measured(place: Rectangle, angle: float, dice: random.Random, seed: int, name: str) -> square.Squareness | None:
    """The rectangle marked and measured on a machine whose axes are askew by so many mm per m."""
    box = Toolbox(seed)
    for number, (x, y) in enumerate(place.corners, start=1):
        lean = angle / 1000
        box.mark(str(number), (x + y * math.sin(lean), y * math.cos(lean)))
    told = [[box.between(name, *ends) for _ in range(DIAGONALS)] for ends in (("1", "3"), ("2", "4"))]
    return square.squareness(place, told[0], told[1], KNOWN[name])


def _square(seed: int) -> tuple[float, float]:
    dice = random.Random(seed)
    place = Rectangle(0, 0, dice.uniform(150, 1000), dice.uniform(150, 1000))
    angle, name = dice.uniform(-3, 3), dice.choice(["tape", "trammel"])
    found = _measured(place, angle, dice, seed, name)
    assert found is not None
    return found.angle - angle, found.expanded


def _gantry(seed: int) -> bool:
    """Out of square, corrected by what is proposed, and within what is wanted at the second measuring."""
    dice = random.Random(seed)
    side = dice.uniform(0.6, 0.95)
    place = Rectangle(0, 0, 1200 * side, 850 * side)
    angle, across = dice.choice([-1, 1]) * dice.uniform(0.5, 3), dice.choice([-1, 1]) * dice.uniform(900, 1600)
    first = _measured(place, angle, dice, 2 * seed, "trammel")
    assert first is not None and square.verdict(first, WANTED) is SquareVerdict.OFF
    offset = -math.sin(first.angle / 1000) * across  # what `square.squaring` sets, where nothing was set before
    again = _measured(replace(place), angle + 1000 * offset / across, dice, 2 * seed + 1, "trammel")
    return square.verdict(again, WANTED) is SquareVerdict.PROVEN


def _blade(seed: int) -> tuple[float, float]:
    """A square with an error of its own, laid by hand, read on axes that lean."""
    dice, box = random.Random(seed), Toolbox(seed)
    lean, length = dice.uniform(-2e-3, 2e-3), dice.uniform(80, 400)
    layings = []
    for turned in (False, True):
        box.lay(turned, (0.0, 0.0))
        ends = []
        for leg, way in (("stock", -1 if turned else 1), ("blade", 1)):
            far = (way * length, 0.0) if leg == "stock" else (length * math.sin(lean), length * math.cos(lean))
            told = [read(DIAL, box.leg(leg, tool) - dice.uniform(0, DIAL.lag), dice) for tool in ((0.0, 0.0), far)]
            ends.append((told[1] - told[0], way * length))
        layings.append(Laying(ends[0][0], ends[1][0], ends[0][1], ends[1][1]))
    found = blade.by_blade(layings, DIAL, COUNT)
    assert found is not None
    return found.square.angle - 1000 * lean, found.square.expanded


def _bed(seed: int) -> tuple[Bed, Bed]:
    """A bed that lies askew and has waves: as it is read, and as it is."""
    dice = random.Random(seed)
    truth = BedTruth(dice.uniform(-1, 1), dice.uniform(-1, 1), dice.uniform(0, 0.2), dice.uniform(200, 900))
    grid = Grid(
        0.0, 0.0, dice.uniform(150, 1200), dice.uniform(150, 800), dice.choice([3, 4, 5]), dice.choice([3, 4, 5])
    )
    heights = [truth.height(*place) for place in grid.places]
    told = [read(DIAL, height + dice.uniform(-0.5, 0.5) * COUNT, dice) for height in heights]
    return level.bed(grid, told, DIAL, COUNT), level.bed(grid, heights, DIAL, COUNT)


def _slope(seed: int) -> tuple[float, float]:
    found, true = _bed(seed)
    return found.along_first - true.along_first, found.slopes_expanded[0]


def _two_places(seed: int) -> tuple[float, float]:
    found, true = _bed(seed)
    return (found.heights[-1] - found.heights[0]) - (true.heights[-1] - true.heights[0]), found.expanded


def _probed(seed: int) -> tuple[float, float]:
    """Two places of a bed that a probe touches, whose touches scatter by what is not told."""
    dice = random.Random(seed)
    scatter, grid = dice.uniform(0.0005, 0.01), Grid(0.0, 0.0, 300.0, 200.0)
    truth = BedTruth(dice.uniform(-1, 1), dice.uniform(-1, 1), dice.uniform(0, 0.2), dice.uniform(200, 900))
    heights = [truth.height(*place) for place in grid.places]
    touches = [
        [round((height + dice.gauss(0, scatter)) / COUNT) * COUNT for _ in range(HOW.times)] for height in heights
    ]
    told = [sum(each) / len(each) for each in touches]
    found = level.bed(grid, told, level.PROBE, COUNT, level.scatter_of(touches))
    return (told[-1] - told[0]) - (heights[-1] - heights[0]), found.expanded


def _runout(seed: int) -> tuple[float, float]:
    dice = random.Random(seed)
    off, at = dice.uniform(0.01, 0.2), dice.uniform(0, 2 * math.pi)
    told = [
        read(DIAL, off * math.cos(math.radians(angle) - at) - dice.uniform(0, DIAL.lag), dice)
        for angle in runout.ANGLES
    ]
    found = runout.runout(told, DIAL)
    return found.total - 2 * off, found.expanded


def _tail(seed: int) -> tuple[float, float]:
    dice, box = random.Random(seed), Toolbox(seed)
    off, centres = dice.uniform(-0.2, 0.2), dice.uniform(100, 600)
    length = dice.uniform(0.3, 0.9) * centres
    head, tail = (box.diameter(2 * off * at / centres) for at in (0.0, length))
    found = tailstock.tailstock(head, tail, length, centres)
    return found.off - off, found.expanded


def _drift(seed: int) -> tuple[float, float]:
    dice = random.Random(seed)
    drift, far, fast = (dice.uniform(-0.1, 0.1) for _ in range(3))
    kinds = comeback.order(RETURNS)
    told = [
        Arrival(kind, read(DIAL, drift * t / (len(kinds) - 1) + far * kind.far + fast * kind.fast, dice), t)
        for t, kind in enumerate(kinds)
    ]
    found = comeback.comeback(told, DIAL)
    assert found is not None
    return found.drift.value - drift, COVERAGE * found.drift.standard


MEASURED = (
    ("play by a dial", _play, "mm"), ("right angle by diagonals", _square, "mm per m"),
    ("right angle by a square", _blade, "mm per m"), ("slope of the bed", _slope, "mm per mm"),
    ("difference of two places of the bed", _two_places, "mm"), ("the same by a touch probe", _probed, "mm"),
    ("runout of a bar", _runout, "mm"),
    ("centre of the tailstock", _tail, "mm"), ("drift of the arrivals", _drift, "mm"),
)  # fmt: skip


def run() -> list[tuple[str, str, str]]:
    rows = []
    for what, one, unit in MEASURED:
        told = [one(seed) for seed in range(MACHINES)]
        held = sum(abs(off) <= sure for off, sure in told)
        widest = max(sure for _, sure in told)
        wide = 1 / (COVERAGE * math.sqrt(sum((off / sure) ** 2 for off, sure in told) / len(told)))
        rows.append(
            (
                f"{what}, seeds 0 to {MACHINES - 1}: the truth within what is said",
                "95 of 100; ± at most 1.5 ×",
                f"{held} of {MACHINES}; ± at most {widest:.2g} {unit}, {wide:.2f} × what the readings scatter",
            )
        )
    mended = sum(_gantry(seed) for seed in range(100))
    rows.append(
        (f"gantries out of square, within {WANTED:g} mm per m at the second measuring, of 100", "95", f"{mended}")
    )
    return rows
