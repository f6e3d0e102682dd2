"""The inputs and outputs of a controller that is made of parts: those of its terminals (CiA 401), then three of each drive.

Edges are seen as often as the parts are asked, some ten milliseconds apart, and no shorter pulse is seen at all.
"""

from __future__ import annotations

import time
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from idler.core.machine import Address, Machine
from idler.core.profile.cia402 import INPUT_HIGH, INPUT_HOME, INPUT_LOW
from idler.core.profile.edges import MOST_EDGES, EdgeBlock
from idler.core.profile.terminals import LEVEL_OUTPUTS
from idler.core.table import MOST_INPUTS, MOST_OUTPUTS
from idler.core.values.roles import InputRole, OutputRole
from idler.core.wiring import home_switch, inputs, outputs

from ..errors import NotAllowedNow, WriteRefused
from .axis import QUICK, USUAL, Axis
from .part import Object, Part

AT_DRIVE: Object = (0x60FD, 0)
EDGES_KEPT = 4096
MOST_TOLD = 10  # times that an output is told the same, where what is read of it is something else
_ENDS = ((INPUT_LOW, "-"), (INPUT_HIGH, "+"), (INPUT_HOME, "h"))  # short: what is printed beside a screw is short, too


class Width(NamedTuple):
    """How many inputs or outputs one object holds, and its objects: what inputs are, which of them it turns round, which it
    filters; what outputs are to be, and what those do when the link is lost (CiA 401)."""

    bits: int
    read: int
    turned: int
    filtered: int
    write: int
    safe_mode: int
    safe_level: int


# The first that a part has: of most it is the only one.
WIDTHS = (
    Width(8, 0x6000, 0x6002, 0x6003, 0x6200, 0x6206, 0x6207), Width(16, 0x6100, 0x6102, 0x6103, 0x6300, 0x6306, 0x6307),
    Width(32, 0x6120, 0x6122, 0x6123, 0x6320, 0x6326, 0x6327),
)  # fmt: skip
LEVEL, LEVEL_SAFE_MODE, LEVEL_SAFE = 0x6411, 0x6443, 0x6444  # outputs that give a level, 16 bits with a sign
FULL = 0x7FFF  # of a level: 10 V, or whatever is the most that the part gives
_INPUTS = {width.read for width in WIDTHS}
_BY_READ = {width.read: width for width in WIDTHS}
_BY_WRITE = {width.write: width for width in WIDTHS}


@dataclass(frozen=True)
class Screw:
    """Where an input or output is: an object of a part, and its bit."""

    part: Part
    where: Object
    bit: int
    name: str

    @property
    def filter(self) -> Object | None:
        """Where it is said whether its input is filtered (6003h), and it has that."""
        width = _BY_READ.get(self.where[0])
        where = (width.filtered, self.where[1]) if width is not None else None
        return where if where is not None and self.part.has(where) else None

    @property
    def level(self) -> bool:
        """Whether it gives a level rather than on or off."""
        return self.where[0] == LEVEL


class Given(NamedTuple):
    """What outputs are told: the spindle's way (-1, 0, 1) and level, and the output that is tried (from 1; 0: none) with its
    level; levels in ‰. rpm: what a drive of its own is told of its motor, without its way."""

    run: int = 0
    level: float = 0.0
    tried: int = 0
    tried_level: int = 0
    rpm: float = 0.0


class _Told(NamedTuple):
    raw: int
    at: float  # time.monotonic
    times: int = 1


class Terminals:
    """closed, energised: a bit for each, in the order of `ins` and `outs`."""

    def __init__(self, parts: Sequence[Part], axes: Sequence[Axis]) -> None:
        self.parts, self._axes = parts, axes
        self.ins: list[Screw] = []
        self.outs: list[Screw] = []
        self.closed = self.energised = 0
        self._heard = 0  # inputs that were heard, a bit for each
        self._groups: dict[tuple[int, Object], int] = {}
        self._turned: dict[
            tuple[int, Object], int
        ] = {}  # inputs that the part turns round before it says what they are
        self._told: dict[tuple[int, Object], _Told] = {}  # what outputs were told last
        self._asked: dict[tuple[int, Object], float] = {}  # when each of them was asked for last
        self._edges: list[tuple[int, int, int]] = []
        self._first, self._next = 0, 0  # numbers of the first edge that is kept, and of the one that is asked for next
        self.began = time.monotonic()  # of the clock of the edges
        self._machine: Machine | None = None
        self._safe: set[int] = set()
        self._probed = False
        self._axes_bits: dict[int, int] = {}

    def find(self) -> None:
        """Asks each part how many it has."""
        for part in self.parts:
            looked_at, of = [], f"{part.node}." if len(self.parts) > 1 else ""
            for kind, screws, letter, most in (
                ("read", self.ins, "I", MOST_INPUTS),
                ("write", self.outs, "Q", MOST_OUTPUTS),
            ):
                for width in WIDTHS:
                    index = getattr(width, kind)
                    groups = part.read_if_there((index, 0)) or 0
                    there = [s for s in range(1, groups + 1) if part.read_if_there((index, s)) is not None]
                    for sub in there:
                        numbers = range((sub - 1) * width.bits + 1, sub * width.bits + 1)
                        new = [
                            Screw(part, (index, sub), n, f"{of}{letter}{number}") for n, number in enumerate(numbers)
                        ]
                        screws += new[: max(0, most - len(screws))]
                        looked_at.append((index, sub))
                    if there:
                        break
            for sub in range(1, 1 + (part.read_if_there((LEVEL, 0)) or 0)):
                if part.read_if_there((LEVEL, sub)) is not None and len(self.outs) < MOST_OUTPUTS:
                    self.outs.append(Screw(part, (LEVEL, sub), 0, f"{of}A{sub}"))
                    looked_at.append((LEVEL, sub))
            self._see_turned(part, looked_at)
            part.watch(looked_at, [where for where in looked_at if where[0] in _INPUTS])
            part.seen = lambda where, data, asked, now, part=part: self._seen(part, where, data, asked, now)  # type: ignore[misc]
        for axis in self._axes:
            if axis.part.has(AT_DRIVE) and len(self.ins) + len(_ENDS) <= MOST_INPUTS:
                self.ins += [Screw(axis.part, AT_DRIVE, bit, f"{axis.name}{end}") for bit, end in _ENDS]

    def _see_turned(self, part: Part, read: Iterable[Object]) -> None:
        """A polarity (6002h) that is changed in the part, by whatever program, must not turn a contact round for Idler: what is
        said of inputs here is the level at the screw."""
        for where in read:
            if where[0] in _INPUTS:
                self._turned[part.node, where] = part.read_if_there((_BY_READ[where[0]].turned, where[1])) or 0

    def _seen(self, part: Part, where: Object, data: bytes, asked: float, now: float) -> None:
        raw, key = int.from_bytes(data, "little"), (part.node, where)
        self._groups[key] = raw
        if where[0] in _INPUTS:
            self._groups[key] ^= self._turned.get(key, 0)
            since = self._asked.get((part.node, where), 0.0)
            self._asked[part.node, where] = asked
            self._look(since, now)
        else:
            self.energised = self._bits(self.outs)
            told = self._told.get(key)
            if told is not None and asked > told.at and raw != told.raw and told.times < MOST_TOLD:
                self._say(part, where, told.raw, now, told.times + 1)  # a frame was lost, or the part rounds

    def _bits(self, screws: Sequence[Screw]) -> int:
        held = [self._groups.get((s.part.node, s.where), 0) for s in screws]
        return sum(1 << n for n, s in enumerate(screws) if (held[n] != 0 if s.level else held[n] >> s.bit & 1))

    @property
    def levels(self) -> tuple[int, ...]:
        """‰ of the first outputs that give one, as they were read last."""
        raws = [self._groups.get((s.part.node, s.where), 0) for s in self.outs if s.level]
        found = [round(1000 * (raw - (raw >> 15 << 16)) / FULL) for raw in raws]
        return tuple((found + [0] * LEVEL_OUTPUTS)[:LEVEL_OUTPUTS])

    def look_at_drives(self, now: float) -> None:
        """Takes the switches that hang on drives."""
        for axis in self._axes:
            if axis.own_bits != self._axes_bits.get(axis.slot, -1):
                self._axes_bits[axis.slot] = axis.own_bits
                self._look(axis.switches_since, now)

    def _look(self, since: float, now: float) -> None:
        """What changed since the last look is an edge; what is heard for the first time is none. since: when it was asked for
        last."""
        drives = {axis.part.node: axis for axis in self._axes}
        closed = heard = 0
        for n, screw in enumerate(self.ins):
            if screw.where == AT_DRIVE:
                axis = drives[screw.part.node]
                made, told = axis.own_bits & screw.bit, axis.slot in self._axes_bits
            else:
                key = screw.part.node, screw.where
                made, told = self._groups.get(key, 0) >> screw.bit & 1, key in self._groups
            closed |= bool(made) << n
            heard |= told << n
        changed = (closed ^ self.closed) & self._heard
        self._heard |= heard
        if changed:
            time_us = round(1e6 * (now - self.began))
            self._edges += [(time_us, n, closed >> n & 1) for n in range(len(self.ins)) if changed >> n & 1]
            if len(self._edges) > EDGES_KEPT:
                self._first += len(self._edges) - EDGES_KEPT
                del self._edges[:-EDGES_KEPT]
        if closed != self.closed:
            self.closed = closed
            self._tell_axes(since, now)

    # -- edges ----------------------------------------------------------------------------------------------------

    def edges_from(self, number: int) -> None:
        self._next = max(number, self._first)

    def edges(self) -> EdgeBlock:
        """The next of them."""
        at = max(0, self._next - self._first)
        taken = self._edges[at : at + MOST_EDGES]
        first = self._first + at
        self._next = first + len(taken)
        times, slots, levels = np.array(taken, np.int64).reshape(-1, 3).T
        now = round(1e6 * (time.monotonic() - self.began))
        return EdgeBlock(first, now, times, slots.astype(np.uint8), levels.astype(np.uint8))

    # -- what they are for ----------------------------------------------------------------------------------------

    def configure(self, machine: Machine) -> None:
        """Takes the roles that Idler keeps."""
        self._machine = machine
        self._tell_axes(self.began, time.monotonic())

    def _tell_axes(self, since: float, now: float) -> None:
        """Which switches of each axis are made at terminals, as they became between these moments."""
        if self._machine is None:
            return
        bits: dict[str, int] = dict.fromkeys((axis.name for axis in self._axes), 0)
        others: dict[str, int] = dict(bits)  # bits of a drive that are none of its own axis
        owners = {axis.part.node: axis.name for axis in self._axes}
        for item in inputs(self._machine):
            if item.slot >= len(self.ins):
                continue
            bit, screw = _BITS.get(item.role, 0), self.ins[item.slot]
            if screw.where == AT_DRIVE and item.role is not InputRole.NONE:
                if item.duty.axis == owners[screw.part.node] and bit == screw.bit:
                    continue  # the drive says it itself
                others[owners[screw.part.node]] |= screw.bit
            if bit and item.made(bool(self.closed >> item.slot & 1)) and item.duty.axis in bits:
                bits[item.duty.axis] |= bit
        probed = self.made(InputRole.PROBE)
        for axis in self._axes:
            axis.others = others[axis.name]
            axis.take_wired(bits[axis.name], since, now)
            if probed != self._probed:
                axis.edge(since, now)
        self._probed = probed

    def home_at_drive(self, axis: Axis) -> bool:
        """Whether the home switch of an axis is where its own drive looks for it. One that no input is said to be may be."""
        number = home_switch(self._machine, axis.slot) if self._machine is not None else None
        if number is None or number >= len(self.ins):
            return True
        screw = self.ins[number]
        return screw.where == AT_DRIVE and screw.part is axis.part and screw.bit == INPUT_HOME

    def look_often(self, often: bool) -> None:
        """Whether an edge is looked for."""
        for part in self.parts:
            part.period = QUICK if often else USUAL

    def made(self, role: InputRole) -> bool:
        """Whether an input of this role is made."""
        machine = self._machine
        return machine is not None and any(
            item.role is role and item.made(bool(self.closed >> item.slot & 1)) for item in inputs(machine)
        )

    # -- outputs --------------------------------------------------------------------------------------------------

    def may_switch(self, own_node: int, silence: float) -> None:
        """Makes sure that every output goes off when Idler falls silent. Raises NotAllowedNow where it does not."""
        for part in self.parts:
            if part.node in self._safe or not any(screw.part is part for screw in self.outs):
                continue
            try:
                for screw in self.outs:
                    if screw.part is part and screw.level:
                        part.put((LEVEL_SAFE_MODE, screw.where[1]), 1)
                        part.put((LEVEL_SAFE, screw.where[1]), 0)
                    elif screw.part is part and screw.bit == 0:
                        width = _BY_WRITE[screw.where[0]]
                        for index, safe in ((width.safe_mode, (1 << width.bits) - 1), (width.safe_level, 0)):
                            part.put((index, screw.where[1]), safe)
                subs = range(1, 1 + part.read((0x1016, 0)))
                free = next((s for s in subs if (h := part.read((0x1016, s))) == 0 or h >> 16 & 0x7F == own_node), 0)
                if not free:
                    raise WriteRefused("all places of its 1016h are taken.")
                part.put((0x1016, free), own_node << 16 | round(1000 * silence))
            except WriteRefused as why:
                raise NotAllowedNow(
                    f"No output of {part.called} is switched: it would stay on when Idler falls silent. {why.sentence}"
                ) from None
            self._safe.add(part.node)

    def waited_for(self, own_node: int) -> bool:
        """Whether one of them waits for the heartbeat of this number still: what another Idler switched before may be on, and
        would stay so, for this one is heard in its place."""
        for part in self.parts:
            places = part.read_if_there((0x1016, 0)) or 0
            if any((part.read_if_there((0x1016, s)) or 0) >> 16 & 0x7F == own_node for s in range(1, 1 + places)):
                return True
        return False

    def forget(self, node: int) -> None:
        """It has started anew."""
        self._safe.discard(node)
        part = next((part for part in self.parts if part.node == node), None)
        if part is not None:
            self._see_turned(part, [where for of, where in list(self._turned) if of == node])
        self._told = {key: told for key, told in self._told.items() if key[0] != node}

    def switch(self, given: Given, *, powered: bool) -> None:
        """Tells every output what follows from what is given; waits for nothing. Levels go out before what switches on."""
        wanted, levels = self._wanted(given, powered=powered), self._levels(given)
        groups: dict[tuple[int, Object], int] = {}
        for n, screw in enumerate(self.outs):
            key = screw.part.node, screw.where
            if screw.level:
                self._say(screw.part, screw.where, round(levels.get(n, 0.0) / 1000 * FULL) & 0xFFFF, time.monotonic())
                continue
            groups[key] = groups.get(key, 0) | (wanted >> n & 1) << screw.bit
        for (node, where), raw in groups.items():
            part = next(part for part in self.parts if part.node == node)
            self._say(part, where, raw, time.monotonic())

    def _say(self, part: Part, where: Object, raw: int, now: float, times: int = 1) -> None:
        self._told[part.node, where] = _Told(raw, now, times)
        part.say(where, raw, 2 if where[0] == LEVEL else _BY_WRITE[where[0]].bits // 8)

    def _levels(self, given: Given) -> dict[int, float]:
        """‰ by the number of the output."""
        if self._machine is None:
            return {}
        told = {out.slot: given.level for out in outputs(self._machine) if out.role is OutputRole.SPINDLE_LEVEL}
        return told | ({given.tried - 1: float(given.tried_level)} if given.tried else {})

    def _wanted(self, given: Given, *, powered: bool) -> int:
        if self._machine is None:
            return 0
        ways: Mapping[OutputRole, bool] = {
            OutputRole.SPINDLE_ON: given.run != 0, OutputRole.TURN_RIGHT: given.run > 0, OutputRole.TURN_LEFT: given.run < 0,
            OutputRole.DIRECTION: given.run < 0, OutputRole.DRIVES_ON: powered,
        }  # fmt: skip
        bits = 0
        for out in outputs(self._machine)[: len(self.outs)]:
            on = ways.get(out.role, False) or given.tried == out.slot + 1
            inverted = bool(self._machine[Address(out.slot, "output.inverted")])
            bits |= (on != inverted) << out.slot
        return bits


_BITS = {
    InputRole.HOME: INPUT_HOME, InputRole.LIMIT_LOW: INPUT_LOW, InputRole.LIMIT_HIGH: INPUT_HIGH,
    InputRole.HOME_LIMIT: INPUT_HOME,
}  # fmt: skip
