"""Likely mistakes: a known slip of the pen or of a switch that explains a wrong scale, before anybody fudges a factor.

For each slip the ratio of true to told travel is exact. Against the measured ratio r with its standard uncertainty u each has
the likelihood of a normal distribution around its own ratio, widened by how well made parts are; the honest machine is one of
the candidates. Priors say how common a slip is. Bayes' rule gives what is left.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction
from types import MappingProxyType

from ..finals import FINALS
from ..finals.base import MM_PER_INCH, TEETH
from ..machine import Address, Axis
from ..values.parameter import Value
from ..values.stage import Stage

MADE = 0.0004  # how well pitches and teeth are made, relative: one standard deviation
HONEST = 0.97  # of the machines that are near 1
WORTH_SAYING = 0.02
FITS = 2.0  # deviations within which a cause explains a figure
MOST = 5  # causes that are told: several slips of the same ratio cannot be told apart by measuring
MICROSTEPS = (1, 2, 4, 5, 8, 10, 16, 20, 25, 32, 40, 50, 64, 100, 128, 256)
_WHOLE_RATIOS = (2, 3, 4, 5, 6, 7, 8, 9, 10, 12, 15, 16, 20, 25, 30, 40, 50, 60, 80, 90, 100)
RATIOS = (Fraction(3, 2), Fraction(5, 2), *map(Fraction, _WHOLE_RATIOS))
MISSED = 0.01  # of its way: less too short is what a worn or cheap part may be
UNLISTED = 0.2  # of the mistakes: a part that nobody listed
ALONE = 0.89  # the most that is said of one cause while another explains the figure as well


@dataclass(frozen=True)
class Slip:
    """One thing that could be otherwise than told. ratio: true travel by told travel. weight: how common it is."""

    key: str
    words: str
    ratio: float
    weight: float
    edit: tuple[tuple[Address, Value], ...]


@dataclass(frozen=True)
class ScaleCause:
    slip: Slip
    probability: float

    @property
    def share(self) -> str:
        """Its probability in words."""
        return f"{self.probability * 100:.0f} %" if self.probability >= 0.005 else "less than 1 %"

    @property
    def listed(self) -> bool:
        """Whether it is a slip that is known, which an edit would mend."""
        return bool(self.slip.edit)


def slips(axis: Axis) -> Iterator[Slip]:
    """Every slip that this axis could hide."""
    yield from _motor(axis)
    yield from _lines(axis)
    yield from _stages(axis)
    yield from _final(axis)


def _slip(axis: Axis, key: str, value: Value, words: str, ratio: Fraction, weight: float) -> Slip:
    return Slip(key, words, float(ratio), weight, ((Address(axis.slot, key), value),))


def _motor(axis: Axis) -> Iterator[Slip]:
    if axis.choice("chain.motor") != "stepper":
        return
    told = axis.whole("chain.microsteps")
    for true in MICROSTEPS:
        if true != told:
            octaves = abs(math.log2(true / told))
            near = 10.0 if octaves == 1 else 4.0 if octaves == int(octaves) else 1.0
            words = f"its drive is set to {true} microsteps, not {told}"
            yield _slip(axis, "chain.microsteps", true, words, Fraction(told, true), near)
    steps = axis.whole("chain.full_steps")
    if steps in (200, 400):
        other = 600 - steps
        words = f"its motor has {other} full steps, not {steps}"
        yield _slip(axis, "chain.full_steps", other, words, Fraction(steps, other), 1.5)


def _lines(axis: Axis) -> Iterator[Slip]:
    """Counts of an encoder are four to a line: one was told for the other."""
    if axis.choice("chain.motor") != "counts":
        return
    told = axis.whole("chain.motor_counts")
    for true, words in (
        (4 * told, "lines of the encoder were told for counts"),
        (Fraction(told, 4), "counts were told for lines"),
    ):
        if Fraction(true).denominator == 1:
            words = f"{words}: a turn has {int(true)} counts, not {told}"
            yield _slip(axis, "chain.motor_counts", int(true), words, Fraction(told) / true, 3.0)


def _stages(axis: Axis) -> Iterator[Slip]:
    stages = axis.stages
    for place, stage in enumerate(stages):

        def put(first: Fraction, second: Fraction, place: int = place, stage: Stage = stage) -> tuple[Stage, ...]:
            return (*stages[:place], Stage(stage.by_teeth, first, second, stage.reverses), *stages[place + 1 :])

        first, second, number = stage.first, stage.second, place + 1
        if first != second:
            words = f"stage {number} sits the other way round, {Stage(stage.by_teeth, second, first, stage.reverses)}"
            yield _slip(axis, "chain.stages", put(second, first), words, stage.reduction**2, 2.0)
        without = (*stages[:place], *stages[place + 1 :])
        if stage.reduction != 1:
            words = f"there is no stage {number}, {stage}"
            yield _slip(axis, "chain.stages", without, words, stage.reduction, 1.0)
        for true in RATIOS if not stage.by_teeth else ():
            if true != stage.reduction:
                other = Stage(False, true, Fraction(1), stage.reverses)
                edit = (*stages[:place], other, *stages[place + 1 :])
                words = f"stage {number} is {other}, not {stage}"
                yield _slip(axis, "chain.stages", edit, words, stage.reduction / true, _miscount(true, stage.reduction))
        for teeth in map(Fraction, TEETH if stage.by_teeth else ()):
            if teeth != first:
                words = f"the driver of stage {number} has {teeth} teeth, not {first}"
                yield _slip(axis, "chain.stages", put(teeth, second), words, teeth / first, _miscount(teeth, first))
            if teeth != second:
                words = f"the driven wheel of stage {number} has {teeth} teeth, not {second}"
                yield _slip(axis, "chain.stages", put(first, teeth), words, second / teeth, _miscount(teeth, second))


def _miscount(true: Fraction, told: Fraction) -> float:
    """How common: a wheel is more often the next size than half or twice as large."""
    return 1.2 if abs(true / told - 1) < Fraction(26, 100) else 0.3


def _final(axis: Axis) -> Iterator[Slip]:
    for other in FINALS[axis.choice("chain.final")].slips(axis):
        yield _slip(axis, *other)


def _signals(ratio: float, pulse: Fraction | None, longer: Mapping[Address, Value]) -> Iterator[Slip]:
    """A driver that takes only part of the step pulses explains any way that is too short; the shorter the pulse, the
    likelier."""
    if pulse is None or ratio >= 1 - 3 * MADE or not longer:
        return
    words = f"its driver misses step pulses: they last {float(pulse):g} µs, and some drivers need longer ones"
    weight = 4.0 if pulse < 2 else 1.5 if pulse < Fraction(5, 2) else 0.2
    yield Slip("signals.pulse_width", words, ratio, weight, tuple(longer.items()))


def _diameter(axis: Axis, cross: bool) -> Iterator[Slip]:
    """X of a lathe is read as a diameter on its rail, and moves by the radius: one was read for the other. No edit mends it."""
    if cross:
        yield Slip("reading", "a radius was read where the diameter was told", 0.5, 3.0, ())
        yield Slip("reading", "a diameter was read where the way of the slide was told", 2.0, 3.0, ())


def _inches(axis: Axis) -> Iterator[Slip]:
    """An instrument says inches, or millimetres, and its figure was taken for the unit of the screen. No edit mends it."""
    if axis.rotary:
        return
    if axis.reads.inch:
        words = "the instrument says millimetres, and its figure was taken for inches"
        yield Slip("reading", words, float(MM_PER_INCH), 3.0, ())
    else:
        words = "the instrument says inches, and its figure was taken for millimetres"
        yield Slip("reading", words, float(1 / MM_PER_INCH), 3.0, ())


def causes(
    axis: Axis,
    ratio: float,
    uncertainty: float,
    pulse: Fraction | None = None,
    longer: Mapping[Address, Value] = MappingProxyType({}),
    *,
    cross: bool = False,
) -> list[ScaleCause]:
    """What explains a measured ratio of true to told travel, most probable first; empty where nothing needs explaining.

    uncertainty: standard, relative. pulse: of the steps, in µs, where signals are to be weighed too, and longer: what makes
    them longer. cross: it is the cross slide of a lathe. What is honestly made, only not perfectly, takes part as a candidate,
    and so does a part that nobody listed, whose ratio may be any from 1/20 to 20 (evenly by its logarithm). A way that is far
    too short and that no slip explains is rather one of missed pulses: longer ones show it, and a factor would hide it.
    """
    lost = list(_signals(ratio, pulse, longer))
    listed = [*slips(axis), *lost, *_diameter(axis, cross), *_inches(axis)]
    total = sum(slip.weight for slip in listed) or 1.0
    wide = math.hypot(uncertainty, MADE)
    honest = HONEST * _normal(ratio, 1.0, wide)
    odd = (1 - HONEST) * UNLISTED / (2 * math.log(20.0)) / max(ratio, 1e-9)
    share_of_slips = (1 - HONEST) * (1 - UNLISTED)
    shares = [
        (
            slip,
            share_of_slips * slip.weight / total * _missed_half(ratio, wide) + (1 - HONEST) * _missed_some(ratio)
            if slip in lost
            else share_of_slips * slip.weight / total * _at(slip, ratio, wide),
        )
        for slip in listed
    ]
    sum_of_all = honest + odd + sum(share for _, share in shares)
    found = [ScaleCause(slip, share / sum_of_all) for slip, share in shares if share / sum_of_all >= WORTH_SAYING]
    found = sorted(found, key=lambda cause: -cause.probability)[:MOST]
    fitting = sum(abs(ratio - slip.ratio) < FITS * wide * slip.ratio for slip in listed)
    if found and fitting > 1 and found[0].probability > ALONE:
        found[0] = ScaleCause(found[0].slip, ALONE)
    if found or odd / sum_of_all >= WORTH_SAYING:
        found.append(ScaleCause(Slip("", "a part that nobody listed", ratio, 0.0, ()), odd / sum_of_all))
    return found


def _at(slip: Slip, ratio: float, wide: float) -> float:
    """The likelihood of a slip whose ratio is known."""
    return _normal(ratio, slip.ratio, wide * slip.ratio)


def _missed_half(ratio: float, wide: float) -> float:
    """The likelihood of every second pulse missed."""
    return _normal(ratio, 0.5, wide * 0.5) / 2


def _missed_some(ratio: float) -> float:
    """The same of any share of them that no inaccuracy of a part comes to: evenly, and in all as common as a part that nobody
    listed."""
    return UNLISTED if ratio < 1 - MISSED else 0.0


def _normal(x: float, mean: float, deviation: float) -> float:
    z = (x - mean) / deviation
    return math.exp(-z * z / 2) / (deviation * math.sqrt(2 * math.pi)) if abs(z) < 30 else 0.0
