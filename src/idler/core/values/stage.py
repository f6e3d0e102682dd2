"""One stage of gears or belts between motor and final element, and how it is written."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from fractions import Fraction

from ..errors import Refusal
from .quantity import NotANumber, decimal

_NUMBER = r"(\d{1,9}(?:[.,]\d{1,9})?)"
_STAGE = re.compile(
    rf"\s*{_NUMBER}\s*(?:to|:|/|→)\s*{_NUMBER}\s*(teeth|t|turns)?\s*(?:,?\s*(belt|gears|reversing))?\s*",
    re.IGNORECASE | re.ASCII,
)
FEWEST_TEETH = 8  # of a wheel that is cut: two whole numbers from here on are teeth where nothing is said
_AS = re.compile(r"^(.*?)\s+(?:as|=)\s+(.*)$", re.IGNORECASE)
_AND = re.compile(r"\s*;\s*|\s+and\s+", re.IGNORECASE)
_HELP = (
    "write teeth as “20 to 40 teeth” (driver to driven; add “, belt” where no gears turn each other round) or a reduction "
    "as “3 : 1” or “20 : 40 turns” (turns in to turns out; add “, reversing” where the shafts turn opposite ways)"
)
MOST_STAGES = 8
MOST_TEETH = 999_999


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
        turns = " turns" if _could_be_teeth(self.first, self.second) else ""
        return f"{first} : {second}{turns}" + (", reversing" if self.reverses else "")

    @property
    def words(self) -> str:
        """What it does: "20 teeth drive 40: halves the speed"."""
        first, second = (_plain(value) for value in (self.first, self.second))
        parts = f"{first} teeth drive {second}" if self.by_teeth else f"{first} turns in make {second} out"
        return f"{parts}: {_effect(self.reduction)}"

    @classmethod
    def parse(cls, text: str, part: str = "stage", *, turns: bool = False) -> Stage:
        """Reads "20 to 40 teeth", "20:40" or "3 : 1". Raises Refusal.

        turns: two bare numbers are always turns, as they were kept before 20:40 came to mean teeth.
        """
        found = _STAGE.fullmatch(text)
        if found is None:
            raise Refusal(part, f"“{text.strip()[:40]}”", "is not a stage", way_out=_HELP)
        try:
            first, second = decimal(found[1]), decimal(found[2])
        except NotANumber as why:
            raise Refusal(part, f"“{text.strip()[:40]}”", str(why), way_out=why.way_out) from None
        said, how = (found[3] or "").lower(), (found[4] or "").lower()
        if not said and not turns and how != "reversing" and _could_be_teeth(first, second):
            said = "teeth"
        by_teeth = said in ("teeth", "t")
        if by_teeth and not first.denominator == second.denominator == 1:
            raise Refusal(part, f"“{text.strip()[:40]}”", "has a part of a tooth", way_out=_HELP)
        if not first or not second:
            raise Refusal(part, f"“{text.strip()}”", "has a wheel without teeth or turns", way_out=_HELP)
        if how in (("reversing",) if by_teeth else ("belt", "gears")):
            raise Refusal(part, f"“{text.strip()[:40]}”", f"says {how} of {said or 'turns'}", way_out=_HELP)
        return cls(by_teeth, first, second, how != "belt" if by_teeth else how == "reversing")


def _could_be_teeth(*numbers: Fraction) -> bool:
    return all(number.denominator == 1 and FEWEST_TEETH <= number <= MOST_TEETH for number in numbers)


def _effect(reduction: Fraction) -> str:
    if reduction == 1:
        return "the same speed"
    slower = reduction > 1
    times = _plain_short(reduction if slower else 1 / reduction)
    if times == "2":
        return "halves the speed" if slower else "doubles the speed"
    return f"{times} times slower" if slower else f"{times} times faster"


def _plain_short(value: Fraction) -> str:
    return f"{float(value):.6g}"


def _plain(value: Fraction) -> str:
    """Stages are typed as decimals of at most nine places, so a decimal always ends."""
    return str(value.numerator) if value.denominator == 1 else f"{float(value):.9f}".rstrip("0")


def parse_stages(text: str, part: str = "stages", *, turns: bool = False) -> tuple[Stage, ...]:
    """Several stages with semicolons or "and" between them; empty text is no stage. Raises Refusal.

    turns: as in Stage.parse.

    "12 : 1 as 4 : 1 and 3 : 1" gives the stages and says what they must come to.
    """
    if found := _AS.match(text):
        total, stages = Stage.parse(found[1], part, turns=turns), parse_stages(found[2], part, turns=turns)
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
    return tuple(Stage.parse(piece, part, turns=turns) for piece in pieces)


def _plain_ratio(value: Fraction | int) -> str:
    ratio = Fraction(value)
    return f"{ratio.numerator} : {ratio.denominator}"


def stages_text(stages: tuple[Stage, ...]) -> str:
    return "; ".join(str(stage) for stage in stages)
