"""One stage of gears or belts between motor and final element, and how it is written."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from fractions import Fraction

from .errors import Refusal

_TEETH = re.compile(
    r"^\s*(\d{1,6})\s*(?:to|:|/|→)\s*(\d{1,6})\s*(?:teeth|t)\s*(?:,?\s*(belt|gears))?\s*$", re.IGNORECASE
)
_RATIO = re.compile(
    r"^\s*(\d{1,9}(?:[.,]\d{1,9})?)\s*(?::|to)\s*(\d{1,9}(?:[.,]\d{1,9})?)\s*(,?\s*reversing)?\s*$", re.IGNORECASE
)
_AS = re.compile(r"^(.*?)\s+(?:as|=)\s+(.*)$", re.IGNORECASE)
_AND = re.compile(r"\s*;\s*|\s+and\s+", re.IGNORECASE)
_HELP = (
    "write teeth as “20 to 40 teeth” (driver to driven; add “, belt” where no gears turn each other round) or a reduction "
    "as “3 : 1” (turns in to turns out; add “, reversing” where the shafts turn opposite ways)"
)
MOST_STAGES = 8


@dataclass(frozen=True)
class Stage:
    """By teeth: driver and driven wheel, meshing or with a belt. By ratio: turns in and turns out.

    reverses: the shafts turn opposite ways, as two meshing wheels do and a belt does not.

    reduction = turns in per turn out; a driver of 20 teeth on a driven wheel of 40 reduces 2 : 1.
    """

    by_teeth: bool
    first: Fraction
    second: Fraction
    reverses: bool = False

    @property
    def reduction(self) -> Fraction:
        return self.second / self.first if self.by_teeth else self.first / self.second

    def __str__(self) -> str:
        first, second = (_plain(value) for value in (self.first, self.second))
        if self.by_teeth:
            return f"{first} to {second} teeth" + ("" if self.reverses else ", belt")
        return f"{first} : {second}" + (", reversing" if self.reverses else "")

    @classmethod
    def parse(cls, text: str, part: str = "stage") -> Stage:
        """Reads "20 to 40 teeth" or "3 : 1". Raises Refusal."""
        if found := _TEETH.match(text):
            stage = cls(True, Fraction(found[1]), Fraction(found[2]), (found[3] or "gears").lower() == "gears")
        elif found := _RATIO.match(text):
            stage = cls(
                False, Fraction(found[1].replace(",", ".")), Fraction(found[2].replace(",", ".")), bool(found[3])
            )
        else:
            raise Refusal(part, f"“{text.strip()[:40]}”", "is not a stage", way_out=_HELP)
        if not stage.first or not stage.second:
            raise Refusal(part, f"“{text.strip()}”", "has a wheel without teeth or turns", way_out=_HELP)
        return stage


def _plain(value: Fraction) -> str:
    """Stages are typed as decimals of at most nine places, so a decimal always ends."""
    return str(value.numerator) if value.denominator == 1 else f"{float(value):.9f}".rstrip("0")


def parse_stages(text: str, part: str = "stages") -> tuple[Stage, ...]:
    """Several stages with semicolons or "and" between them; empty text is no stage. Raises Refusal.

    "12 : 1 as 4 : 1 and 3 : 1" gives the stages and says what they must come to.
    """
    if found := _AS.match(text):
        total, stages = Stage.parse(found[1], part), parse_stages(found[2], part)
        made = math.prod(stage.reduction for stage in stages)
        if made != total.reduction:
            raise Refusal(
                part, f"“{text.strip()[:60]}”", f"does not add up: the stages come to {_plain_ratio(made)}",
                way_out=f"mend one of them, or write {_plain_ratio(made)}",
            )  # fmt: skip
        return stages
    pieces = [piece for piece in _AND.split(text) if piece.strip()]
    if len(pieces) > MOST_STAGES:
        raise Refusal(part, f"{len(pieces)} stages", "are more than can be stored", f"at most {MOST_STAGES}")
    return tuple(Stage.parse(piece, part) for piece in pieces)


def _plain_ratio(value: Fraction | int) -> str:
    ratio = Fraction(value)
    return f"{ratio.numerator} : {ratio.denominator}"


def stages_text(stages: tuple[Stage, ...]) -> str:
    return "; ".join(str(stage) for stage in stages)
