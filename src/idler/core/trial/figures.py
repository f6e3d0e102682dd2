"""Figures as programs (ISO 6983-1): drawn with a pen, or cut, and each of them shows something at one look.

Places are counted from the work zero; X and Y along the bed, Z up from the surface that the pen touches.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from fractions import Fraction

from ..errors import Refusal
from ..machine import Machine
from ..proof.claims import flat_pair, has_height
from ..values.quantity import parse
from ..values.units import MM, MM_MIN, PERCENT, RPM, Dimension, convert, with_unit
from ..values.units import figure as figure_text
from ..words import word

UNITS = {"mm": MM, "mm/min": MM_MIN, "%": PERCENT, "rpm": RPM}
Point = tuple[float, float]
SMALLEST, LARGEST = 1.0, 100_000.0  # mm of a side
CROSS = 0.1  # of the shorter side: the arms of a cross
RUNGS = 5  # of a ladder of feeds
CORNERS = (150.0, 120.0, 90.0, 60.0, 30.0)  # degrees that the corners of a corner test have between their sides
MOST_LINES = 200_000  # of one figure
# The hook, in shares of width and height: no turning and no mirror makes it fall upon itself.
HOOK: tuple[Point, ...] = ((0, 0), (1, 0), (1, 0.5), (0.6, 0.5), (0.6, 1), (0.25, 1))


@dataclass(frozen=True)
class Field:
    """One thing that a figure is asked for. unit: "mm", "mm/min", "%", "rpm" or empty."""

    key: str
    words: str
    unit: str
    low: Fraction
    high: Fraction


def _field(key: str, words: str, unit: str, low: float, high: float) -> Field:
    return Field(key, words, unit, Fraction(str(low)), Fraction(str(high)))


FIELDS = {
    each.key: each
    for each in (
        _field("width", "along X", "mm", SMALLEST, LARGEST), _field("height", "along Y", "mm", SMALLEST, LARGEST),
        _field("x", "from the work zero, X", "mm", -LARGEST, LARGEST),
        _field("y", "from the work zero, Y", "mm", -LARGEST, LARGEST),
        _field("depth", "below the work zero of Z", "mm", 0, 100),
        _field("clear", "height between lines", "mm", 0.1, 1000),
        _field("feed", "feed", "mm/min", 1, 200_000), _field("plunge", "feed down", "mm/min", 1, 200_000),
        _field("rpm", "spindle, 0 for a pen", "rpm", 0, 200_000),
        _field("cutter", "cutter, across", "mm", 0.1, 500), _field("overlap", "overlap of the passes", "%", 0, 95),
        _field("step", "depth of one pass", "mm", 0.01, 100),
    )
}  # fmt: skip
_USUAL = {
    "width": 60.0, "height": 40.0, "x": 0.0, "y": 0.0, "depth": 0.0, "clear": 5.0, "feed": 1200.0, "plunge": 300.0, "rpm": 0.0,
    "cutter": 20.0, "overlap": 25.0, "step": 0.3,
}  # fmt: skip
_PEN = ("width", "height", "x", "y", "depth", "clear", "feed", "plunge", "rpm")


PROVING = "hook"  # the figure whose paper shows whether axes are mirrored or exchanged


@dataclass(frozen=True)
class Figure:
    """kind: a key of KINDS. wishes: by the keys of FIELDS, in their units; what is not there is usual."""

    kind: str
    wishes: dict[str, float] = field(default_factory=dict)

    def value(self, key: str) -> float:
        return self.wishes.get(key, _USUAL[key])

    @property
    def at(self) -> Point:
        return self.value("x"), self.value("y")

    @property
    def size(self) -> Point:
        """Width and height, mm; what is round is as high as it is wide."""
        return self.value("width"), self.value("width" if KINDS[self.kind].round else "height")


@dataclass(frozen=True)
class Kind:
    """words: what it is. shows: what is seen by it. lines: the open lines that are drawn, with their feeds in shares."""

    words: str
    shows: str
    lines: Callable[[Figure], Iterator[tuple[list[Point], float]]]
    fields: tuple[str, ...] = _PEN
    round: bool = False


def _placed(figure: Figure, points: list[Point]) -> list[Point]:
    """Shares of width and height as places."""
    (x, y), (width, height) = figure.at, figure.size
    return [(x + width * u, y + height * v) for u, v in points]


def _hook(figure: Figure) -> Iterator[tuple[list[Point], float]]:
    yield _placed(figure, list(HOOK)), 1.0


def _square(figure: Figure) -> Iterator[tuple[list[Point], float]]:
    yield _placed(figure, [(0, 0), (1, 0), (1, 1), (0, 1), (0, 0)]), 1.0


def _diagonals(figure: Figure) -> Iterator[tuple[list[Point], float]]:
    yield _placed(figure, [(0, 0), (1, 1)]), 1.0
    yield _placed(figure, [(1, 0), (0, 1)]), 1.0


def _crosses(figure: Figure) -> Iterator[tuple[list[Point], float]]:
    arm = CROSS * min(figure.size)
    for x, y in _placed(figure, [(0, 0), (1, 0), (1, 1), (0, 1)]):
        yield [(x - arm, y), (x + arm, y)], 1.0
        yield [(x, y - arm), (x, y + arm)], 1.0


def _corners(figure: Figure) -> Iterator[tuple[list[Point], float]]:
    """A saw whose teeth grow sharper: how round each corner gets says what the tolerance and the pace make of it."""
    wide, high = figure.size
    steps = [high * math.tan(math.radians(angle / 2)) for angle in CORNERS]
    scale = wide / (2 * sum(steps))
    x, y = figure.at
    points = [(x, y)]
    for step in steps:
        for top in (high, 0.0):
            x += step * scale
            points.append((x, figure.at[1] + top))
    yield points, 1.0


def _ladder(figure: Figure) -> Iterator[tuple[list[Point], float]]:
    """Rungs, each faster than the one below: the last one has the whole feed."""
    for rung in range(RUNGS):
        share = rung / (RUNGS - 1)
        yield _placed(figure, [(0, share), (1, share)]), (rung + 1) / RUNGS


def _skim(figure: Figure) -> Iterator[tuple[list[Point], float]]:
    """To and fro along X, the cutter's edge at the edge of the area."""
    (x, y), (wide, high) = figure.at, figure.size
    half = figure.value("cutter") / 2
    if wide < 2 * half or high < 2 * half:
        raise Refusal("area", f"{wide:g} × {high:g} mm", "is smaller than the cutter", f"{2 * half:g} mm")
    across = high - 2 * half
    count = max(1, math.ceil(across / (2 * half * (1 - figure.value("overlap") / 100)) - 1e-9))
    if count * math.ceil(figure.value("depth") / figure.value("step")) > MOST_LINES:
        raise Refusal(
            "skim", f"{count} passes", "are more than can be meant", way_out="take a larger cutter, or deeper passes"
        )
    points: list[Point] = []
    for number in range(count + 1 if across > 0 else 1):
        at = y + half + across * number / count
        ends = [(x + half, at), (x + wide - half, at)]
        points += ends if number % 2 == 0 else ends[::-1]
    yield points, 1.0


def _no_lines(_: Figure) -> Iterator[tuple[list[Point], float]]:
    yield from ()


KINDS: dict[str, Kind] = {
    "hook": Kind(word("hook"), "whether an axis is mirrored, or two are swapped", _hook),
    "square": Kind(word("square"), "whether its sides are as long as they should be", _square),
    "circle": Kind("circle, both ways round", "play as flats, another scale as an oval", _no_lines, round=True),
    "diagonals": Kind(word("diagonals"), "whether they are of one length: the right angle", _diagonals),
    "crosses": Kind("crosses at four corners", "places that a rule can be laid to", _crosses),
    "corners": Kind("corners, ever sharper", "how round they get at this feed", _corners),
    "ladder": Kind("ladder of feeds", "from which feed on a line is not what it was", _ladder),
    "skim": Kind("skim the bed", "a bed that lies true to the axes", _skim, (*_PEN, "cutter", "overlap", "step")),
}


def checked(kind: str, wishes: dict[str, float]) -> Figure:
    """Raises Refusal for a figure that is none, or a wish out of bounds."""
    if kind not in KINDS:
        raise Refusal("figure", f"“{kind}”", "is not known", ", ".join(KINDS))
    for key, value in wishes.items():
        asked = FIELDS.get(key)
        if asked is None or key not in KINDS[kind].fields:
            raise Refusal("figure", f"“{key}”", f"is nothing that “{kind}” is asked for", ", ".join(KINDS[kind].fields))
        _bounded(asked, Fraction(value))
    figure = Figure(kind, dict(wishes))
    if kind == "skim" and figure.value("depth") <= 0:
        return Figure(kind, {**wishes, "depth": figure.value("step")})
    return figure


def obstacle(machine: Machine) -> str:
    """Why figures cannot be made on a machine, or an empty text."""
    if flat_pair(machine) is None or not has_height(machine):
        return "Figures lie in X and Y on a bed, and Z lifts the pen: this machine has no such axes."
    return ""


def usual(key: str) -> float:
    """What a figure is unless something else is wished."""
    return _USUAL[key]


_DIMENSIONS = {"mm": Dimension.TRAVEL, "mm/min": Dimension.SPEED, "%": Dimension.SHARE, "rpm": Dimension.ROTATION}


def shown_field(machine: Machine, asked: Field, value: float) -> str:
    """As the screen writes it, in the machine's units."""
    dimension = _DIMENSIONS[asked.unit]
    shown = machine.reads.unit(dimension)
    return with_unit(figure_text(convert(Fraction(value).limit_denominator(10**6), UNITS[asked.unit], shown), shown.decimals,
                            trim=True), shown)  # fmt: skip


def read_field(machine: Machine, asked: Field, typed: str) -> float:
    """What was typed, in the field's unit. Raises Refusal."""
    value = parse(typed, UNITS[asked.unit], bare=machine.reads.unit(_DIMENSIONS[asked.unit]), part=asked.words)
    return float(_bounded(asked, value))


def _bounded(asked: Field, value: Fraction) -> Fraction:
    """Raises Refusal."""
    if not asked.low <= value <= asked.high:
        bounds = f"{float(asked.low):g} to {float(asked.high):g} {asked.unit}".rstrip()
        raise Refusal(asked.words, f"{float(value):g} {asked.unit}".rstrip(), "is out of bounds", bounds)
    return value


def outline(figure: Figure) -> list[list[Point]]:
    """Its lines as a picture of it, mm from the work zero. Raises Refusal."""
    if not KINDS[figure.kind].round:
        return [points for points, _ in KINDS[figure.kind].lines(figure)]
    (x, y), radius = figure.at, figure.size[0] / 2
    turns = [2 * math.pi * part / 96 for part in range(97)]
    return [[(x + radius * (1 + math.cos(turn)), y + radius * (1 + math.sin(turn))) for turn in turns]]


def read_wishes(texts: Iterable[str]) -> dict[str, float]:
    """From texts as width=80 or feed=1200, in the units of the fields or with one of their own. Raises Refusal."""
    found: dict[str, float] = {}
    for text in texts:
        key, equals, value = text.partition("=")
        asked = FIELDS.get(key.strip())
        if asked is None or not equals:
            raise Refusal("figure", f"“{text[:40]}”", "is nothing that a figure is asked for", ", ".join(FIELDS))
        found[asked.key] = float(parse(value, UNITS[asked.unit], part=asked.words))
    return found


def program_of(figure: Figure) -> str:
    """The program that makes it, in mm. Raises Refusal."""
    made = "\n".join(_lines(figure))
    return made + "\n"


def _number(value: float) -> str:
    return f"{value:.4f}".rstrip("0").rstrip(".") if value else "0"


def _lines(figure: Figure) -> Iterator[str]:
    kind, feed = KINDS[figure.kind], figure.value("feed")
    clear, rpm = figure.value("clear"), figure.value("rpm")
    (x, y), (wide, high) = figure.at, figure.size
    yield f"({kind.words}, {_number(wide)} by {_number(high)} mm)"
    yield "G21 G90 G17 G94 G40 G49"
    yield f"G0 Z{_number(clear)}"
    if rpm:
        yield f"S{_number(rpm)} M3"
    for depth in _depths(figure):
        if kind.round:
            yield from _circle(figure, depth)
            continue
        for points, share in kind.lines(figure):
            yield f"G0 X{_number(points[0][0])} Y{_number(points[0][1])}"
            yield f"G1 Z{_number(-depth)} F{_number(figure.value('plunge'))}"
            yield f"F{_number(feed * share)}"
            for u, v in points[1:]:
                yield f"G1 X{_number(u)} Y{_number(v)}"
            yield f"G0 Z{_number(clear)}"
    if rpm:
        yield "M5"
    yield f"G0 X{_number(x)} Y{_number(y)}"
    yield "M30"


def _depths(figure: Figure) -> list[float]:
    """How deep each round goes."""
    depth = figure.value("depth")
    if "step" not in KINDS[figure.kind].fields or depth <= 0:
        return [depth]
    count = math.ceil(depth / figure.value("step") - 1e-9)
    return [depth * (number + 1) / count for number in range(count)]


def _circle(figure: Figure, depth: float) -> Iterator[str]:
    """Both ways round, one upon the other: where they differ there is play."""
    (x, y), radius = figure.at, figure.size[0] / 2
    yield f"G0 X{_number(x + 2 * radius)} Y{_number(y + radius)}"
    yield f"G1 Z{_number(-depth)} F{_number(figure.value('plunge'))}"
    yield f"F{_number(figure.value('feed'))}"
    for round_ in ("G3", "G2"):
        yield f"{round_} X{_number(x + 2 * radius)} Y{_number(y + radius)} I{_number(-radius)} J0"
    yield f"G0 Z{_number(figure.value('clear'))}"
