"""Made-up input for whatever the core has, by the types that it asks for: the same for the same seed, on every computer."""

from __future__ import annotations

import collections.abc as abc
import dataclasses
import enum
import inspect
import random
import types
import typing
from collections.abc import Callable, Mapping
from fractions import Fraction
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idler.core.controller.standing import ControllerImage
from idler.core.machine import Address, Axis, Machine, Shape
from idler.core.machine import file as machinefile
from idler.core.mechanics.chain import Chain
from idler.core.mechanics.pace import Pace, VelocityShape
from idler.core.mechanics.scale import INSTRUMENTS, Instrument
from idler.core.mechanics.torque import Muscle
from idler.core.profile import cia402 as c
from idler.core.profile.codec import Place, Raw, image
from idler.core.profile.flight import Flag, FlightRecord, pack_flight, sample_type, unpack_flight
from idler.core.profile.objects import Entry, entries
from idler.core.proof.claims import STOPS, Claim, Evidence, Witness, claims, evidence
from idler.core.spindle import Range, ranges
from idler.core.spindle.registers import TYPES, Register
from idler.core.spindle.speedcurve import Curve
from idler.core.table import AXIS, TABLE
from idler.core.values.parameter import Kind, Parameter, Value
from idler.core.values.roles import InputRole
from idler.core.values.stage import Stage
from idler.core.wiring import Input, Output, inputs, outputs
from idler.core.wiring.filterstudy import Study
from idler.shelf.examples import examples
from tests.support import at, wired

EXAMPLES = {name: machinefile.read(text).machine for name, text in sorted(examples().items())}
EXAMPLES["wired"] = wired()
_LIMITS = {at(1, "input.role"): "limit_high", at(2, "input.role"): "limit_low"}
_WATCHED = {at(slot, "loop.measured"): True for slot in range(4)}
_NARROW = {at(slot, "loop.window"): Fraction(1, 100) for slot in range(2)}
EXAMPLES["limits"] = wired().with_values({**_LIMITS, **_WATCHED, **_NARROW})
MACHINES = 40
CHANGED = 0.06  # of the values of a machine
_TEXTS = (
    "", "5", "1.5 mm", "1/4 in", "-20", "600 mm/min", "20 %", "3 mm 2 mm", "10 1 0.1", "5 0.5", "4 63.3, 50 3010, 97 5948",
    "0 1.9, 300 1.7, 900 0.95", "48:12", "stage 20:60", "X", "Y2", "none", "travel.low", "homing", "a word too many", "µs",
)  # fmt: skip
_FLOATS = (0.0, 1.0, -1.0, 0.001, 0.05, 0.5, 2.5, 12.0, -3.75, 60.0, 100.0, 360.0, 1024.0, 5000.0, -250.0)
_WHOLE = (0, 1, 2, 3, 5, 8, 60, 127, 128, 255, 1000, 4096, 0x6041, 65535, -1, -40)


class Beyond(Exception):
    """Nothing can be made up for this type."""


def value_of(row: Parameter, dice: random.Random) -> Value:
    """Any value that the table allows, on the steps of the wire; its bounds and its default more often than others."""
    match row.kind:
        case Kind.QUANTITY | Kind.WHOLE:
            step = row.wire.resolution if row.kind is Kind.QUANTITY else Fraction(1)
            near = [row.low, row.high, Fraction(row.default) if isinstance(row.default, int | Fraction) else row.low]
            width = Fraction(dice.choice((10, 100, 10_000)))
            raw = dice.choice([*near, *(near[2] + width * Fraction(dice.randint(-100, 100), 100) for _ in range(4))])
            held = min(max(round(raw / step) * step, row.low), row.high)
            return held if row.kind is Kind.QUANTITY else int(held)
        case Kind.CHOICE:
            return dice.choice(row.choices).key
        case Kind.FLAG:
            return dice.random() < 0.5
        case Kind.STAGES:
            made = (Fraction(dice.choice((10, 12, 20, 30, 48))) for _ in range(20))
            return tuple(Stage(dice.random() < 0.5, next(made), next(made)) for _ in range(dice.randint(0, 3)))
    return row.default


def _machine(dice: random.Random) -> Machine:
    """One of the examples with some values changed; a row that is new changes none of the others."""
    name, seed = dice.choice(list(EXAMPLES)), dice.randint(0, 10**9)
    base, values = EXAMPLES[name], dict[Address, Value]()
    for address in base.addresses():
        own = random.Random(f"{seed} {address.slot} {address.key}")
        if own.random() < CHANGED and not address.row.given:
            values[address] = value_of(address.row, own)
    return base.with_values(values)


@cache
def machine(number: int) -> Machine:
    """One of MACHINES."""
    return _machine(random.Random(number))


_CODES = {
    InputRole.STOP: c.STOP_PRESSED, InputRole.GUARD: c.GUARD_OPENED, InputRole.TROUBLE: c.DRIVE_TROUBLE,
    **{role: c.LIMIT_MET for role in InputRole if role.limits},
}  # fmt: skip
_SAMPLES = 120


def flight(of: Machine, dice: random.Random) -> FlightRecord:
    """Axes that go evenly, gain speed or stand, until an input, a drive or nobody stops them at the moment."""
    wired, axes = inputs(of), len(of.names)
    moment, samples, times = dice.choice((20, 60, 100)), np.zeros(_SAMPLES, sample_type(axes)), np.arange(_SAMPLES)
    samples["closed"] = sum(1 << item.slot for item in wired if item.closed_at_rest)
    item, length = dice.choice(wired), dice.choice((1, 3, _SAMPLES))
    others = {each.slot: each for each in (item, *dice.sample(wired, dice.choice((0, 0, 1, 4))))}
    for other in others.values():
        samples["closed"][moment + (other is not item and dice.randint(0, 3)) :][:length] ^= np.uint32(1 << other.slot)
    for slot in range(axes):
        speed, gains = dice.choice((0, 600_000, -1_500_000, 4_000_000)), dice.choice((0.0, 0.0, 0.1))
        going = times < moment + dice.choice((0, 0, 4))
        rise = np.clip(1 - gains * (moment - times) / 10, 0.1, 1)
        samples["velocity"][:, slot] = np.where(going, speed * rise, 0)
        samples["position"][:, slot] = np.cumsum(samples["velocity"][:, slot] // 12_000) + dice.choice(
            (0, 40_000, -900_000)
        )
        grows = np.clip((times - moment + 3) * dice.choice((0, 2, 40, 300)), 0, 30_000)
        samples["lag"][:, slot] = dice.choice((0, 8, 60)) + grows * (np.sign(speed) or 1)
        flags = (
            Flag.POWERED | dice.choice((Flag(0), Flag.HOMED)) | dice.choice((Flag(0), Flag.LOW, Flag.HIGH, Flag.HOMING))
        )
        moving = int(flags | (Flag.MOVING if speed else Flag(0)))
        after = int(flags & ~dice.choice((Flag(0), Flag.POWERED, Flag.HOMED, Flag.POWERED | Flag.HOMED)))
        samples["flags"][:, slot] = np.where(going, moving, after)
    samples["energised"], samples["conditions"] = (
        dice.getrandbits(8),
        np.where(times < moment, 8, dice.choice((0, 8, 1))),
    )
    samples["spindle"] = np.where(times < moment, dice.choice((0, 1200, -3000)), 0)
    codes = (c.LAGGED, c.LAGGED, c.DRIVE_TROUBLE, c.LINK_CUT, c.RESTARTED, c.CLIENT_LOST, 0x5300)
    code = _CODES[item.role] if item.role in _CODES and dice.random() < 0.7 else dice.choice(codes)
    number, held = dice.choice(((None, None), (item.slot, 900), (item.slot, 250_000), (item.slot, None)))
    return unpack_flight(pack_flight(samples, moment, code, number, held))


def proofs(of: Machine, dice: random.Random) -> dict[str, Evidence]:
    """Of a machine: some proven, some failed, some stale."""
    kept = {}
    for claim in claims(of):
        if dice.random() < 0.6:
            kept[claim.key] = evidence(of, claim, 1e9, dice.random() < 0.8, "it did", dice.choice(list(Witness)))
            if dice.random() < 0.2:
                kept[claim.key] = dataclasses.replace(kept[claim.key], rests={"X pitch": "4 mm"})
    return kept


@cache
def _hints(of: Any) -> dict[str, Any]:
    return typing.get_type_hints(of, localns={"np": np, "NDArray": NDArray})


def _addresses(of: Machine) -> list[Address]:
    return list(of.addresses())


class MadeUp:
    """Arguments of one call; what is asked for by several of them is of one machine."""

    def __init__(self, seed: str) -> None:
        self.dice = random.Random(seed)
        self._machine: Machine | None = None
        self._row: Parameter | None = None
        self._deep = 0
        self._length = self.dice.choice((0, 1, 2, 3, 5, 8))  # of every list of one call

    @property
    def machine(self) -> Machine:
        if self._machine is None:
            self._machine = machine(self.dice.randrange(MACHINES))
        return self._machine

    @property
    def slot(self) -> int:
        return self.dice.randrange(len(self.machine.names))

    def _axis(self) -> Axis:
        return self.machine.axis(self.slot)

    def _address(self) -> Address:
        return self.dice.choice(self.machine.once(_addresses))

    def _above(self) -> float:
        """A figure above zero."""
        return self.dice.choice((0.003, 0.2, 1.5, 7.0, 33.3, 120.0, 950.0, 6000.0)) * self.dice.uniform(0.5, 2)

    def _parameter(self) -> Parameter:
        self._row = self._address().row
        return self._row

    def _value(self) -> Value:
        return value_of(self._row or self._parameter(), self.dice)

    def _register(self) -> Register:
        kind, table = self.dice.choice(list(TYPES)), self.dice.choice(("holding", "input"))
        return Register(self.dice.randrange(200), kind, table, self._above(), {"right": 1, "stop": 0})

    def _curve(self) -> Curve:
        levels = sorted(self.dice.sample(range(5, 95), 4 + self._length))
        speeds = sorted(self._above() for _ in levels)
        return Curve((*levels,), (*speeds,), levels[0] - 3.0, levels[-1] + 2.0, speeds[-1] * 1.1, self._above() / 10)

    def _pace(self) -> Pace:
        return Pace(
            self._above(), self._above(), self._above(), self.dice.choice(list(VelocityShape)), self._above() * 10
        )

    def _muscle(self) -> Muscle:
        return Muscle(((0.0, 1.9), (300.0, 1.7), (900.0, 0.95)), self._above(), self._above() / 1e4, 0.1)

    def _study(self) -> Study:
        widths = sorted(int(80 * self._above()) for _ in range(self._length))
        return Study(tuple(widths), 1, self._above())

    def _array(self, name: str) -> np.ndarray[Any, Any]:
        if name == "samples":
            return flight(self.machine, self.dice).samples
        steps = [self.dice.choice((40, 900, 5_000, 60_000)) for _ in range(self._length)]
        return np.cumsum(steps) if name == "times" else np.array([self._whole(name) for _ in steps])

    def _whole(self, name: str) -> int:
        if name in ("slot", "axis"):
            return self.slot
        if name in ("closed", "rest", "level", "levels", "way", "sign"):
            return self.dice.choice((0, 1) if name != "way" else (-1, 1))
        return self.dice.choice(
            _WHOLE[:7] if name in ("turns", "places", "most", "node", "number", "count") else _WHOLE
        )

    def _text(self, name: str) -> str:
        if name in ("name", "axis"):
            return self.dice.choice(self.machine.names)
        if name == "key":
            return self.dice.choice(list(AXIS))
        if name == "way":
            return self.dice.choice(list(STOPS))
        if name == "end":
            return self.dice.choice(("low", "high"))
        return self.dice.choice(_TEXTS)

    def _places(self) -> dict[Place, Raw]:
        raws = image(self.machine)
        return {**raws, **dict.fromkeys(self.dice.sample(sorted(raws), 3), 1)}

    def of(self, kind: Any, name: str = "") -> Any:
        """Raises Beyond."""
        special: dict[Any, Callable[[], Any]] = {
            Machine: lambda: self.machine, Axis: self._axis, Address: self._address,
            Shape: lambda: self.machine.shape, Parameter: self._parameter, Value: self._value,
            Input: lambda: self.dice.choice(inputs(self.machine)), Output: lambda: self.dice.choice(outputs(self.machine)),
            Claim: lambda: self.dice.choice(claims(self.machine)), FlightRecord: lambda: flight(self.machine, self.dice),
            ControllerImage: lambda: ControllerImage(self.machine.shape, image(self.machine)),
            Place: lambda: self.dice.choice(list(image(self.machine))),
            Entry: lambda: self.dice.choice(entries(self.machine.shape)),
            Range: lambda: self.dice.choice(ranges(self.machine)), Instrument: lambda: self.dice.choice(INSTRUMENTS),
            Chain: lambda: Chain.of(self._axis()), Register: self._register, Curve: self._curve, Pace: self._pace,
            Muscle: self._muscle, Study: self._study, int: lambda: self._whole(name), str: lambda: self._text(name),
            float: lambda: self._above() if self.dice.random() < 0.7 else self.dice.choice(_FLOATS),
            bool: lambda: self.dice.random() < 0.5, bytes: self._bytes, type(None): lambda: None,
            Fraction: lambda: Fraction(self.dice.choice(_FLOATS)).limit_denominator(1000),
        }  # fmt: skip
        if kind in special:
            return special[kind]()
        origin, inner = typing.get_origin(kind), typing.get_args(kind)
        if origin in (typing.Union, types.UnionType):
            return self.of(self.dice.choice(inner), name)
        if origin is tuple:
            return (
                tuple(self.of(each, name) for each in inner)
                if Ellipsis not in inner
                else tuple(self._some(inner[0], name))
            )
        if origin in (abc.Sequence, abc.Iterable, abc.Collection, list):
            return self._some(inner[0], name)
        if origin is np.ndarray or kind is np.ndarray:
            return self._array(name)
        if origin in (dict, abc.Mapping):
            return self._mapping(inner)
        if isinstance(kind, type) and issubclass(kind, enum.Enum):
            return self.dice.choice(list(kind))
        if dataclasses.is_dataclass(kind) or hasattr(kind, "_fields"):
            return self._made(kind)
        raise Beyond(str(kind))

    def _bytes(self) -> bytes:
        return bytes(self.dice.choice((0, 1, 2, 0x40, 0x43, 0x60, 0x80, 0xFF)) for _ in range(8))

    def _some(self, kind: Any, name: str) -> list[Any]:
        made = [self.of(kind, name) for _ in range(self._length)]
        return sorted(made) if name in ("times", "widths") else made

    def _mapping(self, inner: tuple[Any, ...]) -> Mapping[Any, Any]:
        if inner[1] is Evidence:
            return proofs(self.machine, self.dice)
        if inner[0] is Place:
            return self._places()
        if inner[0] is Address:
            return {where: value_of(where.row, self.dice) for where in (self._address() for _ in range(3))}
        if inner[1] is Parameter:
            return self.dice.choice(list(TABLE.values()))
        return {self.of(inner[0]): self.of(inner[1]) for _ in range(3)}

    def _made(self, kind: Any) -> Any:
        self._deep += 1
        if self._deep > 12:
            raise Beyond(str(kind))
        hints = _hints(kind)
        names = (
            kind._fields if hasattr(kind, "_fields") else [each.name for each in dataclasses.fields(kind) if each.init]
        )
        made = kind(**{each: self.of(hints[each], each) for each in names})
        self._deep -= 1
        return made

    def arguments(self, called: Callable[..., Any]) -> dict[str, Any]:
        """For whatever has hints for all that it takes. Raises Beyond."""
        hints, taken = _hints(called), inspect.signature(called).parameters
        return {name: self.of(hints[name], name) for name in taken if name in hints}


def shown(found: Any, deep: int = 0) -> str:
    """A result as text that is the same on every computer: floats to nine figures, sets in order."""
    if isinstance(found, enum.Enum):
        return str(found.name)
    if isinstance(found, bool | int | str | Fraction | bytes | type(None)):
        return f"{found}"
    if isinstance(found, float | np.floating):
        return f"{float(found):.9g}"
    if isinstance(found, Machine):
        return shown({f"{a.slot} {a.key}": value for a, value in sorted(found.changed.items(), key=str)}, deep)
    if isinstance(found, np.ndarray):
        return shown(found.tolist(), deep)
    if isinstance(found, Mapping):
        return "{" + ", ".join(f"{shown(key)}: {shown(each, deep + 1)}" for key, each in found.items()) + "}"
    if isinstance(found, frozenset | set):
        return "{" + ", ".join(sorted(shown(each) for each in found)) + "}"
    if isinstance(found, list | tuple | types.GeneratorType | abc.Iterator) and not hasattr(found, "_fields"):
        return "[" + ", ".join(shown(each, deep + 1) for each, _ in zip(found, range(400), strict=False)) + "]"
    if isinstance(found, Parameter):
        return found.key
    if dataclasses.is_dataclass(found) and deep < 6:
        parts = (shown(getattr(found, each.name), deep + 1) for each in dataclasses.fields(found))
        return f"{type(found).__name__}({', '.join(parts)})"
    if hasattr(found, "_fields"):
        return f"{type(found).__name__}({', '.join(shown(each, deep + 1) for each in found)})"
    return type(found).__name__
