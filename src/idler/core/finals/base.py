"""What a final element is to the rest: its values, its travel for one turn, and the slips that hide in it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import Enum
from fractions import Fraction
from typing import NamedTuple, Protocol

from ..values.measures import Measures
from ..values.parameter import Parameter
from ..values.units import figure

MM_PER_INCH = Fraction(254, 10)
TEETH = (10, 12, 14, 15, 16, 18, 20, 22, 24, 25, 26, 28, 30, 32, 34, 36, 40, 42, 44, 48, 50, 60, 72, 80)


class Values(Protocol):
    """An axis, as far as its final element looks at it."""

    @property
    def reads(self) -> Measures: ...

    @property
    def rotary(self) -> bool: ...

    def number(self, key: str) -> Fraction: ...

    def whole(self, key: str) -> int: ...


class Motion(Enum):
    """What it makes of the turning of its shaft; words: as a sentence ends that says so."""

    LINE = "moves along a line"
    TURN = "turns"
    EITHER = "does either"


class Drawn(NamedTuple):
    """travel: mm (°) for one turn of the last shaft, which is behind a reduction of its own (a worm's)."""

    travel: Fraction
    reduction: Fraction
    derivation: str


class Otherwise(NamedTuple):
    """One value that could be otherwise than told. ratio: true travel by told travel. weight: how common that is."""

    key: str
    true: Fraction | int
    words: str
    ratio: Fraction
    weight: float


@dataclass(frozen=True)
class FinalElement:
    """rows: its values, each in use only with it. size: the key of the one that its travel hangs on most. words: its name in a
    sentence."""

    key: str
    raw: int
    motion: Motion
    rows: tuple[Parameter, ...]
    size: str
    drawn: Callable[[Values], Drawn]
    slips: Callable[[Values], Iterator[Otherwise]]
    words: str = ""

    @property
    def name(self) -> str:
        return self.words or self.key


def shown(axis: Values, size: Fraction) -> str:
    """A size in the unit of the screen, without needless zeros or a unit, for a derivation."""
    return figure(axis.reads.shown(size), 6, trim=True)


def as_made(axis: Values, size: Fraction) -> str:
    """A size in mm as its maker's list names it: a round one in mm, whatever unit the screen has."""
    round_ = (size * 4).denominator == 1
    return f"{float(size):g} mm" if round_ else axis.reads.length(size, 4, trim=True)


def other_sizes(axis: Values, key: str, others: tuple[Fraction, ...], words: str, weight: float) -> Iterator[Otherwise]:
    told = axis.number(key)
    for true in others:
        if true != told:
            sizes = (as_made(axis, size) for size in (true, told))
            yield Otherwise(key, true, words.format(*sizes), true / told, weight)


def in_inches(
    axis: Values, key: str, usual: tuple[Fraction, Fraction], others: tuple[Fraction, ...], words: str
) -> Iterator[Otherwise]:
    """A figure in inches that was told as one in millimetres, or the other way round, where it makes a size within the usual
    ones, and one that is none of the others."""
    told = axis.number(key)
    for factor in (MM_PER_INCH, 1 / MM_PER_INCH):
        true = told * factor
        if usual[0] <= true <= usual[1] and true not in others:
            sizes = (as_made(axis, size) for size in (true, told))
            yield Otherwise(key, true, f"{words.format(*sizes)}: its unit was another one", factor, 2.0)


def other_teeth(axis: Values, key: str, others: tuple[int, ...], words: str, *, inverse: bool) -> Iterator[Otherwise]:
    told = axis.whole(key)
    for true in others:
        if true != told:
            ratio = Fraction(told, true) if inverse else Fraction(true, told)
            yield Otherwise(key, true, words.format(true, told), ratio, 1.0)
