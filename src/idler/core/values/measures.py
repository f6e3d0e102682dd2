"""How the screen writes what is measured along one axis: in mm, in inches where the machine asks for them, or in degrees.

Values stay in the table's units; only their texts are of the screen. A figure and its unit always come together.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from fractions import Fraction

from .units import INCH, Dimension, Unit, convert, figure, with_unit

MORE = 1  # decimals of an inch beside those of a millimetre


@dataclass(frozen=True)
class Measures:
    """Of an axis, or with rotary False of the machine as a whole. Arguments are in mm (°), per min, per s², per s³."""

    rotary: bool = False
    inch: bool = False

    def unit(self, dimension: Dimension = Dimension.TRAVEL) -> Unit:
        return dimension.screen_unit(self.rotary, self.inch)

    @property
    def symbol(self) -> str:
        """Of lengths: mm, in or °."""
        return self.unit().symbol

    @property
    def name(self) -> str:
        """Of one unit of length, as in "counts per inch"."""
        return "degree" if self.rotary else "inch" if self.inch else "mm"

    @property
    def scale(self) -> float:
        """How many of the screen's units one of the table's is; rates scale alike."""
        return float(self.shown(Fraction(1)))

    def shown(self, value: Fraction) -> Fraction:
        """A length in the screen's unit, exactly."""
        return convert(value, Dimension.TRAVEL.unit(self.rotary), self.unit())

    def length(self, value: float | Fraction, decimals: int = 3, *, trim: bool = False, sign: bool = False) -> str:
        return self._text(Dimension.TRAVEL, value, decimals, trim, sign)

    def speed(self, value: float | Fraction, decimals: int = 0, *, trim: bool = False) -> str:
        return self._text(Dimension.SPEED, value, decimals, trim)

    def acceleration(self, value: float | Fraction, decimals: int = 0, *, trim: bool = False) -> str:
        return self._text(Dimension.ACCELERATION, value, decimals, trim)

    def jerk(self, value: float | Fraction, decimals: int = 0, *, trim: bool = False) -> str:
        return self._text(Dimension.JERK, value, decimals, trim)

    def range(self, low: float | Fraction, high: float | Fraction, decimals: int = 3) -> str:
        """ "-300 to 0 mm": both figures, and the unit that they share."""
        unit = self.unit()
        first = self._figure(low, decimals, True)
        return f"{first}{unit.symbol if self.rotary else ''} to {with_unit(self._figure(high, decimals, True), unit)}"

    def tidy(self, value: Fraction, *, most: bool = False) -> Fraction:
        """A length near this one that is round on the screen, in mm (°). most: not above it."""
        if self.unit() is not INCH or not value:
            return value
        inches = self.shown(value)
        step = Fraction(10) ** (math.floor(math.log10(abs(float(inches)))))
        count = inches / step
        return (Fraction(math.floor(count)) if most else Fraction(round(count))) * step / self.shown(Fraction(1))

    def per_unit(self, counts: float | Fraction) -> Fraction:
        """So many for one of the table's units, as so many for one of the screen's."""
        return Fraction(counts) / self.shown(Fraction(1))

    def _figure(self, value: float | Fraction, decimals: int, trim: bool) -> str:
        return figure(float(value) * self.scale, decimals + MORE * (self.inch and not self.rotary), trim=trim)

    def _text(
        self, dimension: Dimension, value: float | Fraction, decimals: int, trim: bool, sign: bool = False
    ) -> str:
        text = self._figure(value, decimals, trim)
        plus = "+" if sign and float(value) >= 0 else ""
        return with_unit(plus + text, self.unit(dimension))

    def said(self, text: str) -> str:
        """A text of help with its figures in mm as the screen writes them, to two leading figures."""
        if not self.inch:
            return text

        def written(found: re.Match[str]) -> str:
            figures = [f"{float(figure) / 25.4:.2g}" for figure in found.groups() if figure]
            return f"{' to '.join(figures)} in"

        return _IN_MM.sub(written, text)


_IN_MM = re.compile(r"(\d+(?:\.\d+)?)(?: to (\d+(?:\.\d+)?))? mm\b(?!/)")
MILLIMETRES = Measures()
