"""What a person types: a number, and the unit behind it. A grammar of our own; nothing else reads such a text.

    quantity = [sign] number [unit]
    number   = decimal [exponent] | decimal "/" digits | digits digits "/" digits       1.5, 1e3, 127/35, 1 1/4
    unit     = [factor] [("/" | "per") factor]                                          mm, in/min, mm/s², per in
    factor   = word ["²" | "³" | "^2" | "**3" …]                                        a word of the registry

Numbers have a point or a comma before their decimals and, between thousands, spaces. A comma before exactly three
digits means both, so it is refused unless a zero stands before it (0,125).
"""

from __future__ import annotations

import re
from fractions import Fraction

from ..errors import Refusal
from . import units
from .units import ONE, Unit

LONGEST_TEXT = 60
_DECIMAL = r"(?:[0-9]+(?:[.,][0-9]*)?|[.,][0-9]+)"
_QUANTITY = re.compile(
    rf"""\s*(?P<sign>[-+−]?)\s*
    (?:(?P<whole>[0-9]+)\s+(?P<part>[0-9]+/[0-9]+)        # 1 1/4
     |(?P<over>{_DECIMAL})/(?P<under>[0-9]+)              # 1/4, 127/35
     |(?P<plain>{_DECIMAL})(?P<exponent>[eE][-+]?[0-9]{{1,3}})?)
    \s*(?P<unit>[^0-9\s].*?)?\s*""",
    re.VERBOSE,
)
_FACTOR = r"([^\W\d_]\w*)(\*\*[1-3])?"
_UNIT = re.compile(rf"(?:{_FACTOR})?(?:/{_FACTOR})?")
_SPELLINGS = (
    ("kg·cm²", "kgcm2"),
    ("N·m", "Nm"),
    ("²", "**2"),
    ("³", "**3"),
    ("^", "**"),
    ("°", "deg"),
    ("º", "deg"),
    ("µ", "u"),
    ("μ", "u"),
    ('"', "inch"),
    ("”", "inch"),
    ("″", "inch"),
    ("%", "percent"),
)
# A space between thousands, as figure() writes it; not the one of a mixed number such as 1 125/1000.
_THOUSANDS = re.compile(r"(?<=\d)[ \u00a0\u202f](?=\d{3}(?![\d/]))")
_EITHER = re.compile(r"(?!0+,)([0-9]+),([0-9]{3})")


class NotANumber(ValueError):
    """The text holds no number; the message is a phrase that follows the text. way_out: what to write instead, or ""."""

    def __init__(self, phrase: str, way_out: str = "") -> None:
        super().__init__(phrase)
        self.way_out = way_out


def decimal(text: str) -> Fraction:
    """A number with a point or a comma: "1.5", "1,5". Raises NotANumber where the comma may stand between thousands."""
    if found := _EITHER.fullmatch(text):
        ways = f"write {found[1]}.{found[2]} or {found[1]}{found[2]}"
        raise NotANumber("can be read in two ways, with decimals or with thousands", ways)
    return Fraction(text.replace(",", "."))


def split(text: str) -> tuple[Fraction, str]:
    """A number and the unit behind it ("" where none is given). Raises NotANumber."""
    if len(text) > LONGEST_TEXT:
        raise NotANumber(f"is longer than {LONGEST_TEXT} characters")
    found = _QUANTITY.fullmatch(_THOUSANDS.sub("", text))
    if found is None:
        if text.strip().lower().lstrip("+-").split(" ")[0] in ("nan", "inf", "infinity"):
            raise NotANumber("is not a finite number")
        raise NotANumber("is not a number with a unit")
    try:
        if found["whole"]:
            number = Fraction(found["whole"]) + Fraction(found["part"])
        elif found["over"]:
            number = decimal(found["over"]) / Fraction(found["under"])
        else:
            number = decimal(found["plain"]) * Fraction("1" + (found["exponent"] or ""))
    except ZeroDivisionError:
        raise NotANumber("divides by zero") from None
    return (-number if found["sign"] in ("-", "−") else number), found["unit"] or ""


def _spelled(unit: str) -> str | None:
    """A unit as typed, spelled for pint; None where it is none."""
    for written, spelled in _SPELLINGS:
        unit = unit.replace(written, spelled)
    found = _UNIT.fullmatch(re.sub(r"\s*(?:/|\bper\b)\s*", "/", unit.strip()))
    if found is None or not found[0]:
        return None
    over, power, under, below = found.groups(default="")
    over, under = (units.word(text) if text else "1" for text in (over, under))
    return f"{over}{power}/{under}{below}" if over and under else None


def factor(unit: str, target: Unit) -> Fraction | None:
    """How many `target` one `unit` (as typed) is, or None."""
    spelled = _spelled(unit)
    return None if spelled is None else units.factor(spelled, target.spelling or "dimensionless")


def parse(
    text: str,
    target: Unit,
    *,
    bare: Unit | None = None,
    part: str = "value",
    whole: bool = False,
    sample: Fraction = Fraction(25, 2),
) -> Fraction:
    """What was typed, in `target`. A bare number is in `bare` (default: target). Raises Refusal.

    whole: it is to be a whole number, and no share of something is taken for one.
    sample: a value that can be taken, in `target`, for the advice.
    """
    shown = bare or target
    written = units.figure(units.convert(sample, target, shown), shown.decimals, trim=True)
    example = f"for example {written} {shown.symbol}".rstrip()
    given = f"“{text.strip()[:40]}”"
    try:
        number, unit = split(text)
    except NotANumber as why:
        raise Refusal(part, given, str(why), way_out=why.way_out or example) from None
    if unit:
        scale = None if whole and target is ONE else factor(unit, target)
        if scale is None:
            name = "inches" if shown is units.INCH else shown.symbol  # “in” would be read as the word before it
            wanted = f"is not in {name} or a unit of the same kind" if target.symbol else "takes no unit"
            raise Refusal(part, given, wanted, way_out=example)
        number *= scale
    elif bare is not None and bare != target:
        number = units.convert(number, bare, target)
    if whole and number.denominator != 1:
        raise Refusal(part, given, "is not a whole number", way_out=example)
    return number
