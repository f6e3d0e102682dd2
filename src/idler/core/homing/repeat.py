"""Repeatability of a home: how far apart the places lie at which the same switch was touched again and again."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..machine import Address, Machine
from ..mechanics.chain import Chain
from ..mechanics.pulses import EDGE, surer_reversals
from ..mechanics.reliable import shift_allowed
from ..values.parameter import Value
from . import filter_of

FEWEST = 4
SLOW_TOUCH = Fraction(60)  # mm/min (°/min): a switch that scatters at this speed scatters by itself
WANTED = 0.01  # mm or °: standard deviation that is good enough for most work
COUNTS = 2  # that a switch may be met beside its place each time, although nothing was lost
TURNS = 10, 60  # times to and fro, at least and at most, before a last touch: what each loses adds up
TURN = 1.0  # mm (°) of each
TICK = 0.001  # s: how often a controller of this profile looks at its switches


@dataclass(frozen=True)
class Scatter:
    """deviations: of each touch from the coordinate at the switch, in mm (°). turned: of one before which the axis went to and
    fro so many `turns` more; None where there was none."""

    deviations: tuple[float, ...]
    turned: float | None = None
    turns: int = 0

    @property
    def mean(self) -> float:
        return sum(self.deviations) / len(self.deviations)

    @property
    def standard(self) -> float:
        """Standard deviation with n − 1 (GUM, 4.2.2); 0 for a single touch."""
        n = len(self.deviations)
        return math.sqrt(sum((d - self.mean) ** 2 for d in self.deviations) / (n - 1)) if n > 1 else 0.0

    @property
    def range(self) -> float:
        return max(self.deviations) - min(self.deviations)

    @property
    def good(self) -> bool:
        return len(self.deviations) >= FEWEST and self.standard <= WANTED


def lost(machine: Machine, slot: int, scatter: Scatter) -> bool:
    """Whether the switch was met elsewhere each time, and not only now here, now there: steps are lost between the touches.

    Each touch counts from the one before, so that nothing but scatter, a tick and the last counts can lie between them, and
    play that is taken up otherwise at the next one.
    """
    if not scatter.deviations:
        return False
    play = float(machine.axis(slot).number("play.backlash"))
    return abs(scatter.mean) > _allowed(machine, slot, scatter) + play or lost_by_turns(machine, slot, scatter) != 0


def lost_by_turns(machine: Machine, slot: int, scatter: Scatter) -> float:
    """What is lost each time that the axis goes to and fro, in mm (°); 0 where nothing is.

    The switch is touched on the same way as before, so that its play stands where it stood, whatever it is: what more it is
    beside its place than at the other touches was lost in the turns between.
    """
    if scatter.turned is None or not scatter.deviations:
        return 0.0
    off = scatter.turned - scatter.mean
    return off / scatter.turns if abs(off) > _allowed(machine, slot, scatter) else 0.0


def turns_to_tell(machine: Machine, slot: int, scatter: Scatter) -> int:
    """Times to and fro after which a count that is lost each time stands out of this scatter."""
    least, most = TURNS
    count = float(Chain.of(machine.axis(slot)).resolution)
    return min(most, max(least, math.ceil(2 * _allowed(machine, slot, scatter) / count)))


def _allowed(machine: Machine, slot: int, scatter: Scatter) -> float:
    """mm (°) that two means of touches may lie apart, although nothing was lost and the play is the same."""
    axis, allowed = machine.axis(slot), shift_allowed(machine, slot)
    latched = not machine.made_of_parts  # else a place is only looked at now and then
    if latched and len(scatter.deviations) >= FEWEST:
        counts = COUNTS / float(Chain.of(axis).counts_per_unit)
        allowed = min(allowed, scatter.range + counts + float(axis.number("homing.touch")) / 60 * TICK)
    return allowed


def expected(machine: Machine, slot: int) -> float:
    """What touch speed and controller alone would scatter, in mm (°): one tick and one count, each evenly spread."""
    axis = machine.axis(slot)
    tick = float(axis.number("homing.touch")) / 60 * TICK
    count = float(Chain.of(axis).resolution)
    return math.hypot(tick, count) / math.sqrt(12)


def advice(
    machine: Machine, slot: int, scatter: Scatter, edges: Collection[bool] = ()
) -> tuple[str, dict[Address, Value]]:
    """What the scatter says, and what would narrow it: a touch speed, where speed is what spreads it; or what makes surer where
    it turns round, where steps are lost there. edges: with which of the step line (inverted or not) they were lost before."""
    axis = machine.axis(slot)
    alone = expected(machine, slot)
    if each := lost_by_turns(machine, slot, scatter):
        words = (
            f"After {scatter.turns} times to and fro the switch was met {axis.reads.length(abs(scatter.turns * each), 3)} "
            "further from its place: steps are lost where it turns round."
        )
        edit = surer_reversals(machine, edges)
        if (not machine[EDGE]) in edges:
            return (
                f"{words} So it was with the other edge of the steps: look for what slips, a coupling or a pulley.",
                edit,
            )
        why = "The setup time of the direction is too short, or the drive counts the other edge (Wiring, Signals)."
        return f"{words} {why}", edit
    if lost(machine, slot, scatter):
        off = axis.reads.length(abs(scatter.mean), 3)
        return f"The switch was met {off} from its place each time: steps are lost between the touches.", {}
    if scatter.good:
        return "Good enough for most work.", {}
    touch, where = axis.number("homing.touch"), Address(slot, "homing.touch")
    if touch > SLOW_TOUCH:  # before the switch is blamed
        return (
            f"It was touched at {axis.reads.speed(touch, 0)}: touch it at {axis.reads.speed(SLOW_TOUCH)} first, and look "
            "again.",
            {where: SLOW_TOUCH},
        )
    if scatter.standard < 3 * alone:
        return "The touch speed alone spreads it so far: touch more slowly.", {where: touch / 2}
    late = filter_of(machine, slot) * 1000
    return (
        f"Touch speed and filter ({late:g} ms) explain only ± {axis.reads.length(alone, 4)}: look at the switch itself, "
        "its lever, its bracket, "
        "and the play of the axis.",
        {},
    )


def starts(times: int) -> Sequence[float]:
    """Distances in mm (°) from the switch from which it is approached: spread evenly between 6 and 20, in no order."""
    golden = (math.sqrt(5) - 1) / 2
    return [6.0 + 14.0 * ((k * golden) % 1.0) for k in range(1, times + 1)]
