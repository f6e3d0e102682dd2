"""What one row of the table of parameters is: its kind, unit, range, place on the wire and help.

A row that contradicts itself fails when it is made, and so at import.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import Enum
from fractions import Fraction
from functools import cached_property
from typing import NamedTuple, TypeAlias

from ..errors import Refusal
from .quantity import NotANumber, factor, parse, split
from .stage import Stage, parse_stages, stages_text
from .units import Dimension, Unit, convert, exact_text, figure, with_unit

Value: TypeAlias = Fraction | int | bool | str | tuple[Stage, ...]


class Kind(Enum):
    """What a value is, as in "… is not a whole number"."""

    QUANTITY = "a number with a unit"  # Fraction, in the unit of its dimension
    WHOLE = "a whole number"  # int
    CHOICE = "one of its choices"  # str: the key of a Choice
    FLAG = "true or false"  # bool
    TEXT = "a text"  # str
    STAGES = "a list of stages"  # tuple of Stage


class Scope(Enum):
    """What a row belongs to: the machine as a whole, or each of its axes, inputs, outputs or speed ranges."""

    MACHINE = "machine"
    AXIS = "axis"
    INPUT = "input"
    OUTPUT = "output"
    RANGE = "range"  # of the spindle


AXIS_LETTERS = "XYZABCUVW"


class WireType(Enum):
    """Data types of CiA 301 (7.4.7): number in an object dictionary, bits, signed."""

    I8 = (0x02, 8, True)
    I16 = (0x03, 16, True)
    I32 = (0x04, 32, True)
    U8 = (0x05, 8, False)
    U16 = (0x06, 16, False)
    U32 = (0x07, 32, False)
    STRING = (0x09, 0, False)  # visible: ASCII
    UNICODE = (0x0B, 0, False)  # UTF-16
    DOMAIN = (0x0F, 0, False)  # bytes

    @property
    def code(self) -> int:
        return self.value[0]

    @property
    def bits(self) -> int:
        return self.value[1]

    @property
    def signed(self) -> bool:
        return self.value[2]

    @property
    def lowest(self) -> int:
        return -(1 << (self.bits - 1)) if self.signed else 0

    @property
    def highest(self) -> int:
        return (1 << (self.bits - (1 if self.signed else 0))) - 1


@dataclass(frozen=True)
class Wire:
    """Where a value lies in the controller. For a value of an axis or terminal, index is that of the first one."""

    index: int
    sub: int
    type: WireType
    resolution: Fraction = Fraction(1)  # of the table's unit, for one step of the raw value
    on: int = 1  # the raw value of a flag that is on


class Choice(NamedTuple):
    key: str
    label: str
    raw: int


class Apart(Enum):
    """Why a value is in no claim: nothing that was seen becomes untrue by it."""

    NAME = "name"  # what something is called
    SCREEN = "screen"  # how something is shown or asked for
    FACT = "fact"  # what the controller says of itself
    COUNT = "count"  # which claims there are
    TURN = "turn"  # which of several is in use now: each has its own claim
    ESTIMATE = "estimate"  # what is only reckoned with, or warned by
    PLACE = "place"  # where to go: it is looked at before each move
    UPKEEP = "upkeep"  # what keeps the machine in order, and is proven by nobody


@dataclass(frozen=True)
class Parameter:
    """One value of a machine, or of each of its axes, inputs or outputs.

    key      "group.name", as in the file
    low/high inclusive bounds in the table's unit (QUANTITY, WHOLE); the longest text (TEXT, STAGES) is `high`
    inverse  the unit in which the reciprocal may be typed ("8 /in" for a lead)
    used_when  the row and those choices of it that put this value to use; None: always
    apart    why no claim rests on this value, where none ever does
    given    a fact of the controller: read, shown and kept, but never edited or sent
    problem  of a TEXT with a meaning of its own: what is wrong with it, or an empty text
    brief    of a TEXT that is too long to be shown: what is shown of it
    scope    set by the table
    """

    key: str
    label: str
    kind: Kind
    default: Value
    wire: Wire
    what: str
    find: str
    dimension: Dimension = Dimension.PURE
    low: Fraction = Fraction(0)
    high: Fraction = Fraction(0)
    choices: tuple[Choice, ...] = ()
    inverse: bool = False
    restart: bool = False
    given: bool = False
    scope: Scope = Scope.MACHINE
    used_when: tuple[str, ...] | None = None
    problem: Callable[[str], str] | None = None
    brief: Callable[[str], str] | None = None
    apart: Apart | None = None

    def __post_init__(self) -> None:
        problem = self._contradiction()
        if problem:
            raise ValueError(f"table row {self.key}: {problem}")

    def _contradiction(self) -> str:
        if self.key.count(".") != 1 or self.key != self.key.lower():
            return "key is not group.name in lower case"
        if not (self.label and self.what and self.find):
            return "label or help is missing"
        if self.kind is Kind.CHOICE:
            raws = [choice.raw for choice in self.choices]
            if len(raws) < 2 or len(set(raws)) != len(raws) or self.default not in [c.key for c in self.choices]:
                return "choices are too few, share a raw value, or lack the default"
            if not all(self.wire.type.lowest <= raw <= self.wire.type.highest for raw in raws):
                return "a choice does not fit the wire"
        elif self.choices:
            return "choices on a row that is no choice"
        if self.kind in (Kind.QUANTITY, Kind.WHOLE):
            if not self.low <= Fraction(self.default) <= self.high:  # type: ignore[arg-type]
                return "default is out of its range"
            for bound in (self.low, self.high):
                if not self.wire.type.lowest <= bound / self.wire.resolution <= self.wire.type.highest:
                    return f"bound {bound} does not fit the wire"
        if (not self.wire.type.bits) != (self.kind in (Kind.TEXT, Kind.STAGES)):
            return "text needs a string on the wire, and only text does"
        if self.kind is Kind.TEXT and not 0 < len(str(self.default)) <= self.high:
            return "default text is empty or too long"
        if self.problem is not None and (self.kind is not Kind.TEXT or self.problem(str(self.default))):
            return "its check suits no text, or refuses the default"
        return ""

    @cached_property
    def group(self) -> str:
        return self.key.partition(".")[0]

    @property
    def name(self) -> str:
        return self.key.partition(".")[2]

    def unit(self, rotary: bool = False) -> Unit:
        return self.dimension.unit(rotary)

    def choice(self, key: str) -> Choice:
        return next(choice for choice in self.choices if choice.key == key)

    # -- text to value ------------------------------------------------------------------------------------------

    def read(
        self, text: str, *, rotary: bool = False, bare: Unit | None = None, part: str = "", inch: bool = False
    ) -> Value:
        """The value that a text means, checked against the bounds; inch: refusals are in inches. Raises Refusal."""
        part = part or self.label
        value: Value
        match self.kind:
            case Kind.QUANTITY:
                value = self._read_quantity(text, rotary, bare, part)
            case Kind.WHOLE:
                value = int(parse(text, self.unit(rotary), part=part, whole=True, sample=self._sample))
            case Kind.CHOICE:
                value = self._read_choice(text, part)
            case Kind.FLAG:
                word = text.strip().lower()
                if word not in ("on", "off", "yes", "no", "true", "false"):
                    raise Refusal(part, f"“{text[:40]}”", "is neither on nor off", way_out="write on or off")
                value = word in ("on", "yes", "true")
            case Kind.TEXT:
                value = text.strip()
            case Kind.STAGES:
                value = parse_stages(text, part)
        self.check(value, rotary=rotary, part=part, inch=inch)
        return value

    def _read_quantity(self, text: str, rotary: bool, bare: Unit | None, part: str) -> Fraction:
        unit = self.unit(rotary)
        if self.inverse and (turns := _turns_per(text, unit)) is not None:
            if not turns:
                raise Refusal(part, text.strip(), "would be an endless lead", way_out="give a number above zero")
            return 1 / turns
        return parse(text, unit, bare=bare, part=part, sample=self._sample)

    @property
    def _sample(self) -> Fraction:
        """A number that can be taken, for advice."""
        usual = self.default if isinstance(self.default, Fraction | int) else 0
        return Fraction(usual) or min(Fraction(12), self.high)

    def _read_choice(self, text: str, part: str) -> str:
        word = text.strip().lower()
        for choice in self.choices:
            if word in (choice.key, choice.label.lower()):
                return choice.key
        known = ", ".join(choice.key for choice in self.choices)
        raise Refusal(part, f"“{text[:40]}”", "is not one of its choices", way_out=f"take one of: {known}")

    def check(self, value: Value, *, rotary: bool = False, part: str = "", inch: bool = False) -> None:
        """Raises Refusal where the value is out of bounds or not of the row's kind; inch: as the screen says it."""
        part = part or self.label
        match self.kind, value:
            case (Kind.QUANTITY, Fraction()) | (Kind.WHOLE, int()):
                assert isinstance(value, Fraction | int)
                if not self.low <= value <= self.high:
                    table, unit = self.unit(rotary), self.dimension.screen_unit(rotary, inch)
                    given, low, high = (
                        with_unit(_short(convert(Fraction(bound), table, unit)), unit)
                        for bound in (value, self.low, self.high)
                    )
                    problem = "is too small" if value < self.low else "is too large"
                    raise Refusal(part, given, problem, f"from {low} to {high} can be stored")
            case Kind.CHOICE, str():
                if value not in [choice.key for choice in self.choices]:
                    self._read_choice(value, part)
            case Kind.TEXT, str():
                if not value or len(value.encode()) > self.high or not value.isprintable():
                    problem = "is empty" if not value else "is too long or holds signs that cannot be printed"
                    raise Refusal(part, f"“{value[:40]}”", problem, f"1 to {self.high} bytes of text")
                if self.problem is not None and (why := self.problem(value)):
                    raise Refusal(part, f"“{value[:40]}”", why)
            case Kind.STAGES, tuple():
                if len(text := stages_text(value)) > self.high:
                    raise Refusal(
                        part, f"“{text[:40]}…”", "is too long to be stored", f"at most {self.high} characters",
                        "join stages into one ratio",
                    )  # fmt: skip
            case Kind.FLAG, bool():
                pass
            case _:
                raise Refusal(part, f"“{value}”", f"is not {self.kind.value}")

    # -- value to text ------------------------------------------------------------------------------------------

    def write(self, value: Value, *, rotary: bool = False) -> str:
        """Text that reads back as exactly this value."""
        match self.kind:
            case Kind.QUANTITY:
                assert isinstance(value, Fraction)
                return exact_text(value, self.unit(rotary), inverse=self.inverse)
            case Kind.FLAG:
                return "on" if value else "off"
            case Kind.STAGES:
                assert isinstance(value, tuple)
                return stages_text(value)
            case _:
                return str(value)

    def show(self, value: Value, *, rotary: bool = False, inch: bool = False, unit: bool = True) -> str:
        """Text for a person: rounded to what is of use, with the unit of the screen."""
        match self.kind:
            case Kind.QUANTITY:
                assert isinstance(value, Fraction)
                shown_in = self.dimension.screen_unit(rotary, inch)
                text = figure(convert(value, self.unit(rotary), shown_in), shown_in.decimals, trim=True)
                return with_unit(text, shown_in) if unit else text
            case Kind.CHOICE:
                return self.choice(str(value)).label
            case Kind.STAGES:
                return self.write(value) or "none"
            case Kind.TEXT if self.brief is not None:
                return self.brief(str(value))
            case _:
                return self.write(value, rotary=rotary)


def _short(value: Fraction) -> str:
    if abs(value) >= 10**12:
        try:
            return f"{float(value):.3g}"
        except OverflowError:
            digits = len(str(abs(int(value)))) - 1
            return f"{'-' if value < 0 else ''}1e{digits}"
    return figure(value, 6, trim=True)


def _turns_per(text: str, unit: Unit) -> Fraction | None:
    """Turns (or threads) in one `unit`, of "8 /in", "8 tpi" or "10 turns per inch"; None for any other text."""
    try:
        number, given = split(text)
    except NotANumber:
        return None
    if given == unit.symbol:
        return None  # a plain length, as it stands in most files
    for counted in ("1", "turn"):
        scale = factor(given, Unit(f"/{unit.symbol}", f"{counted}/{unit.spelling}", unit.decimals))
        if scale is not None:
            return number * scale
    return None
