"""A program that was read against a machine: its moves, and what was found on the way."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..errors import Refusal
from ..machine import Machine
from .blocks import ROOM, read
from .choices import Chosen
from .emitting import Sheet, blank_sheet, widened
from .language import (
    FAULTS,
    KIND_BITS,
    MACHINE_PLACE,
    MARK_LINES,
    MOST_BYTES,
    OTHERWISE,
    ZERO_BITS,
    ZERO_SHIFT,
    Fault,
    Kind,
    P,
)
from .state import BLOCK, FOUND, STATE, Array
from .told import told_record

MOST_MOVES = 30_000_000
AT_ONCE = 25_000  # blocks that are read before somebody may look, or end it
BYTES_PER_MOVE = 12  # of a program of short lines; where it is less the sheet grows
MOST_AT_FIRST = 8_000_000  # moves that there is room for before any is read
UTF8_MARK = b"\xef\xbb\xbf"


@dataclass(frozen=True)
class Met:
    """A fault as it was met: in how many lines (the first of them listed), and the worst figure."""

    fault: Fault
    lines: tuple[int, ...]
    count: int
    worst: float

    @property
    def text(self) -> str:
        return self.fault.text.format(self.worst)


@dataclass(frozen=True)
class LeftOut:
    """A word or sign that is not understood. refuses: the program may mean something else without it."""

    word: str
    first_line: int
    lines: int
    refuses: bool


@dataclass(frozen=True)
class Program:
    """Moves are the first `moves` rows of the sheet. ended: by M2 or M30. start: where it is taken to begin, and `firsts`
    the first move by which it says where an axis goes. marks: see `blocks.read`."""

    machine: Machine
    chosen: Chosen
    sheet: Sheet
    moves: int
    arcs: int
    lines: int
    stops: int
    ended: bool
    unit_stated: bool
    unit: int
    start: Array
    firsts: Array
    marks: Array
    met: tuple[Met, ...]
    left_out: tuple[LeftOut, ...]

    @property
    def kinds(self) -> Array:
        return self.sheet.moves["kind"][: self.moves] & KIND_BITS

    @property
    def line_numbers(self) -> Array:
        """The line of the text in which each move stands."""
        return self.sheet.moves["line"][: self.moves]

    @property
    def rates(self) -> Array:
        """What each move is asked for, see `state.MOVE`."""
        return self.sheet.moves["rate"][: self.moves]

    @property
    def speeds(self) -> tuple[int, ...]:
        """Speeds that the spindle is told, rpm, to the left below 0."""
        told = self.sheet.moves["reference"][: self.moves][self.kinds == Kind.SPINDLE]
        return tuple(int(speed) for speed in np.unique(told) if speed and speed != OTHERWISE)

    @property
    def counted(self) -> dict[int, tuple[str, ...]]:
        """Letters of the axes that go to places counted from each work zero, by its number, ascending."""
        moves = self.sheet.moves["kind"][: self.moves]
        places = (self.kinds < Kind.DWELL) & (moves & MACHINE_PLACE == 0)
        ends = self.sheet.ends[: self.moves]
        goes = np.diff(ends, axis=0, prepend=self.start[None, :]) != 0
        named = self.firsts < self.moves  # it may name the place where an axis stands
        goes[self.firsts[named], np.flatnonzero(named)] = True
        return {
            int(number): tuple(
                self.machine.names[slot] for slot in np.flatnonzero(goes[places & (self.zeros == number)].any(axis=0))
            )
            for number in np.unique(self.zeros[places])
        }

    @property
    def tool_unknown(self) -> int | None:
        """The highest number of the tools that it takes by a length (G43) which was not given; None where there is none."""
        return next((int(met.worst) for met in self.met if met.fault is FAULTS[P.LENGTH_UNKNOWN]), None)

    @property
    def zeros(self) -> Array:
        """The work zero in force at each move."""
        return self.sheet.moves["kind"][: self.moves] >> ZERO_SHIFT & ZERO_BITS


def read_program(
    text: bytes | bytearray,
    machine: Machine,
    chosen: Chosen,
    keep_on: Callable[[float], bool] = lambda _share: True,
    reads: Callable[[Sheet, int, Array], object] = lambda _sheet, _moves, _start: None,
) -> Program | None:
    """Reads a program. keep_on: told the share that is read, now and then; where it says no, None is returned. reads: told at
    the same times the moves that are read, in the first rows of a sheet, and where it is taken to begin.

    Raises Refusal where it is larger than can be held.
    """
    if len(text) > MOST_BYTES:
        raise Refusal(
            "program", f"{len(text) / 1e9:.1f} GB", "is more than is read", f"{MOST_BYTES // 10**6} MB at most"
        )
    signs: Array = np.frombuffer(text, np.uint8)
    skipped = len(UTF8_MARK) if signs[: len(UTF8_MARK)].tobytes() == UTF8_MARK else 0
    signs = signs[skipped:]
    signs.flags.writeable = False  # compiled code knows one kind of array, whatever the text is held in
    told = told_record(machine, chosen)
    state, block, found = (np.zeros(1, kind).view(np.recarray)[0] for kind in (STATE, BLOCK, FOUND))
    state.motion, state.plane, state.feed_mode, state.length, state.returns = -1, 18 if told.lathe else 17, 94, -1, 98
    state.tolerance, state.zero = chosen.tolerance, chosen.zero
    state.level = state.depth = math.nan
    state.at = told.homes
    for name, place in chosen.stands.items():
        state.at[machine.names.index(name)] = place
    state.start = state.at
    start: Array = np.array(state.start[: len(machine.names)])
    marks = np.zeros(len(signs) // MARK_LINES + 2, np.int64)
    rows, arcs = min(len(signs) // BYTES_PER_MOVE, MOST_AT_FIRST) + ROOM + 1000, 1000
    sheet = blank_sheet(rows, len(machine.names), arcs)
    while not read(signs, len(signs), state, told, block, sheet, found, marks, AT_ONCE):
        reads(sheet, int(state.moves), start)
        if not keep_on(state.position / max(1, len(signs))):
            return None
        if state.moves + ROOM > rows:
            rows = max(state.moves * 5 // 4, state.moves + 2 * ROOM)
        if state.arcs + 1 >= arcs:
            arcs = 2 * arcs
        if rows > MOST_MOVES + 2 * ROOM:
            raise Refusal("program", f"line {state.line}", f"is where {MOST_MOVES // 10**6} million moves are reached",
                          way_out="cut it into parts")  # fmt: skip
        if rows > len(sheet.moves) or arcs > len(sheet.arcs):
            sheet = widened(sheet, rows, arcs)
    return Program(
        machine, chosen, sheet, int(state.moves), int(state.arcs), int(state.line), int(state.stops), bool(state.ended),
        bool(state.stated), int(state.unit), start,
        np.where(state.known, state.first, MOST_MOVES)[: len(machine.names)], marks + skipped, _met(found), _left_out(found),
    )  # fmt: skip


def _met(found: Array) -> tuple[Met, ...]:
    return tuple(
        Met(
            FAULTS[code],
            tuple(int(line) for line in found.lines[code] if line),
            int(found.counts[code]),
            float(found.worst[code]),
        )
        for code in FAULTS
        if found.counts[code]
    )


def _left_out(found: Array) -> tuple[LeftOut, ...]:
    """By the line in which each was met first. A miscellaneous word switches something that Idler does not do; any other
    word changes what the program means."""
    words = [
        LeftOut(f"{letter}{code / 10:g}", int(first[code]), int(count[code]), letter == "G" or code in (980, 990))
        for letter, first, count in (("G", found.g_first, found.g_count), ("M", found.m_first, found.m_count))
        for code in np.flatnonzero(count)
    ]
    signs = [
        LeftOut(_sign(int(code)), int(found.sign_first[code]), int(found.sign_count[code]), True)
        for code in np.flatnonzero(found.sign_count)
    ]
    return tuple(sorted(words + signs, key=lambda word: (word.first_line, word.word)))


def _sign(code: int) -> str:
    return chr(code) if 33 <= code < 127 else f"byte {code}"
