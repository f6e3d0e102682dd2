"""The wiring diagram: the controller's strip in the middle, what each terminal is wired to at its sides, by role and kind.

Drawn as plain shapes in one unit (1000 wide), for the screen and the report alike. Contacts as IEC 60617 has them: a make
contact stands open, a break contact stands closed across its stop.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from textwrap import wrap

from ..machine import Address, Machine
from ..values.roles import InputKind, InputRole, Load, OutputKind, OutputRole
from . import Input, Output, inputs, outputs

WIDTH = 1000.0
ROW, TOP = 34.0, 46.0
STRIP = (344.0, 656.0)  # the controller's left and right edge; each half has room for the longest name and kind
COMMON_LEFT, COMMON_RIGHT = 244.0, 756.0
DEVICE = 254.0, 322.0  # a contact's ends at the left; mirrored at the right
_INSET = 10.0  # of what is written in the strip
_HALF = (STRIP[1] - STRIP[0]) / 2 - 1.5 * _INSET
_LETTERS = 140  # of a line below
_SIDE = COMMON_LEFT - 14 - 4  # room for what a wire is for


@dataclass(frozen=True)
class Stroke:
    """A polyline. dashed: a mechanical link, or a wire that is not needed."""

    points: tuple[tuple[float, float], ...]
    width: float = 1.4
    dashed: bool = False


@dataclass(frozen=True)
class Box:
    x: float
    y: float
    width: float
    height: float
    filled: bool = False


@dataclass(frozen=True)
class Ring:
    x: float
    y: float
    radius: float
    filled: bool = False


@dataclass(frozen=True)
class Words:
    """anchor: "start", "middle" or "end". y is the base line. fit: the room that there is; wider text is squeezed."""

    x: float
    y: float
    text: str
    anchor: str = "start"
    bold: bool = False
    small: bool = False
    fit: float = WIDTH

    @property
    def tight(self) -> bool:
        """Whether it may not fit, by the widest letters of a usual font; for what cannot measure it."""
        letter, wide = (6.6, 10.5) if self.small else (9.2, 14.5)
        return sum(wide if mark in _WIDE else letter for mark in self.text) > self.fit


_WIDE = frozenset("MWmw@%—")


Shape = Stroke | Box | Ring | Words


@dataclass(frozen=True)
class Diagram:
    height: float
    shapes: tuple[Shape, ...]


def diagram(machine: Machine) -> Diagram:
    """Terminals with a role, in their order; free ones are told in a line below."""
    left = [item for item in inputs(machine) if item.role is not InputRole.NONE]
    right = [item for item in outputs(machine) if item.role is not OutputRole.NONE]
    rows = max(len(left), len(right), 1)
    bottom = TOP + ROW * rows
    shapes: list[Shape] = [
        Box(STRIP[0], TOP - 24, STRIP[1] - STRIP[0], ROW * rows + 30), Words(500, TOP - 30, "controller", "middle", bold=True),
        Words(10, TOP - 30, "inputs", bold=True), Words(WIDTH - 10, TOP - 30, "outputs", "end", bold=True),
    ]  # fmt: skip
    for row, item in enumerate(left):
        shapes += _input(machine, item, TOP + ROW * row)
    for row, out in enumerate(right):
        shapes += _output(out, TOP + ROW * row)
    if left:
        supplies = dict.fromkeys(_kind(machine, item).common for item in left)
        shapes += _rail(COMMON_LEFT, len(left), " or ".join(supplies))
    if right:
        shapes += _rail(COMMON_RIGHT, len(right), "supply of the load")
    free = [f"input {item.name}" for item in inputs(machine) if item.role is InputRole.NONE]
    free += [f"output {out.name}" for out in outputs(machine) if out.role is OutputRole.NONE]
    for line in (lines := wrap(f"Free: {', '.join(free)}.", _LETTERS) if free else []):
        bottom += 16
        shapes.append(Words(10, bottom + 8, line, small=True))
    return Diagram(bottom + (20 if lines else 36), tuple(shapes))


def _kind(machine: Machine, item: Input) -> InputKind:
    return next(kind for kind in InputKind if kind.key == machine[Address(item.slot, "input.kind")])


def _rail(x: float, rows: int, words: str) -> Iterator[Shape]:
    """The common wire of one side, with what it carries."""
    yield Stroke(((x, TOP - 12), (x, TOP + ROW * (rows - 1) + 8)), 2.2)
    yield Words(x, TOP - 18, words, "middle", small=True)


def _input(machine: Machine, item: Input, y: float) -> Iterator[Shape]:
    yield Words(COMMON_LEFT - 14, y - 1, item.duty.label, "end", bold=item.role is InputRole.STOP, fit=_SIDE)
    yield Words(COMMON_LEFT - 14, y + 12, f"{'closed' if item.closed_at_rest else 'open'} at rest", "end", small=True)
    yield Stroke(((COMMON_LEFT, y), (DEVICE[0], y)))
    if item.marks_turns or item.role in (InputRole.PULSE, InputRole.INDEX, InputRole.TROUBLE, InputRole.READY):
        yield from _sensor(y)
    else:
        yield from _contact(y, item.closed_at_rest)
    if item.role is InputRole.STOP:
        yield from _mushroom(y)
    yield Stroke(((DEVICE[1], y), (STRIP[0], y)))
    yield from _terminal(STRIP[0], y)
    yield Words(STRIP[0] + _INSET, y + 2, item.name, bold=True, fit=_HALF)
    yield Words(STRIP[0] + _INSET, y + 14, _kind(machine, item).label, small=True, fit=_HALF)


def _contact(y: float, closed: bool) -> Iterator[Shape]:
    """A contact as it stands at rest (IEC 60617-7, make contact and break contact)."""
    first, last = DEVICE
    middle = (first + last) / 2
    yield Stroke(((first, y), (middle - 16, y)))
    yield Stroke(((middle + 16, y), (last, y)))
    if closed:
        yield Stroke(((middle + 16, y), (middle + 16, y - 9)))
        yield Stroke(((middle - 16, y), (middle + 19, y - 7)), 1.8)
    else:
        yield Stroke(((middle - 16, y), (middle + 14, y - 11)), 1.8)


def _sensor(y: float) -> Iterator[Shape]:
    """A device with electronics of its own: a square with a diamond."""
    first, last = DEVICE
    middle = (first + last) / 2
    yield Stroke(((first, y), (middle - 12, y)))
    yield Stroke(((middle + 12, y), (last, y)))
    yield Box(middle - 12, y - 12, 24, 24)
    yield Stroke(((middle, y - 7), (middle + 7, y), (middle, y + 7), (middle - 7, y), (middle, y - 7)))


def _mushroom(y: float) -> Iterator[Shape]:
    """The head of an emergency stop over its contact."""
    middle = (DEVICE[0] + DEVICE[1]) / 2
    yield Stroke(((middle, y - 4), (middle, y - 14)), dashed=True)
    head = ((-9, -13), (-6, -17), (6, -17), (9, -13), (-9, -13))
    yield Stroke(tuple((middle + dx, y + dy) for dx, dy in head), 1.8)


def _terminal(x: float, y: float) -> Iterator[Shape]:
    yield Ring(x, y, 3.6, filled=True)


def _output(out: Output, y: float) -> Iterator[Shape]:
    first, last = WIDTH - DEVICE[1], WIDTH - DEVICE[0]
    middle = (first + last) / 2
    yield from _terminal(STRIP[1], y)
    yield Words(STRIP[1] - _INSET, y + 2, out.name, "end", bold=True, fit=_HALF)
    yield Words(STRIP[1] - _INSET, y + 14, out.kind.label, "end", small=True, fit=_HALF)
    yield Stroke(((STRIP[1], y), (first, y)))
    yield from _load(out, first, middle, last, y)
    level = out.kind.level or out.load == Load.SIGNAL.key
    yield Stroke(((last, y), (COMMON_RIGHT, y)), dashed=level)
    yield Words(COMMON_RIGHT + 14, y - 1, out.label, fit=_SIDE)
    power = f"{float(out.volts):g} V, {float(out.amps):g} A" if out.volts else _own(out)
    if power:
        yield Words(COMMON_RIGHT + 14, y + 12, power, small=True, fit=_SIDE)


def _own(out: Output) -> str:
    if out.kind is OutputKind.VOLTAGE:
        return "0 to 10 V"
    return f"at most {float(out.most_volts):g} V, {float(out.most_amps):g} A"


def _load(out: Output, first: float, middle: float, last: float, y: float) -> Iterator[Shape]:
    """A coil as a box with a stroke, a lamp as a ring with a cross, an input of a device as an arrow into a box."""
    yield Stroke(((first, y), (middle - 14, y)))
    yield Stroke(((middle + 14, y), (last, y)))
    if out.load == Load.LAMP.key:
        yield Ring(middle, y, 11)
        yield Stroke(((middle - 8, y - 8), (middle + 8, y + 8)))
        yield Stroke(((middle - 8, y + 8), (middle + 8, y - 8)))
        yield Stroke(((middle - 14, y), (middle - 11, y)))
        yield Stroke(((middle + 11, y), (middle + 14, y)))
        return
    yield Box(middle - 14, y - 10, 28, 20)
    if out.load in (Load.COIL.key, Load.COIL_AC.key):
        yield Stroke(((middle - 6, y + 10), (middle + 6, y - 10)))
    elif out.load == Load.SIGNAL.key or out.kind.level:
        yield Stroke(((middle - 8, y), (middle + 6, y)))
        yield Stroke(((middle + 1, y - 4), (middle + 6, y), (middle + 1, y + 4)))
    else:
        yield Words(middle, y + 5, "?", "middle")
