"""Whether a machine can run a program: what lies beyond it, what is at fault in which line, where feeds are not reached."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..machine import Machine
from ..values.units import several
from ..wiring.tool import tool_of
from .choices import Chosen
from .envelope import Beyond, Envelope, envelope_of, limits_of
from .language import INCREMENTAL, KIND_BITS, Kind, Severity
from .pieces import ACCELERATION, ARC_CAUSE, CUSHION, SHORT, TOP
from .planner import worst_stretches
from .planning import Planning, Timing
from .reading import Program, read_program
from .state import Array

INCH = 25.4
DRAWN = 1e-3  # mm (°) by which places that are drawn may be rounded
STRETCHES = 20  # of moves that do not reach their feed that are listed, those that lose most time
AT_ONCE = 3  # moves behind a change of G90 and G91 in which it is looked for where a limit is left
_WHY = {
    TOP: "top speed of {}", ACCELERATION: "acceleration of {}", SHORT: "short segments, acceleration of {}",
    ARC_CAUSE: "tight arcs", CUSHION: "cushion of {}",
}  # fmt: skip


@dataclass(frozen=True)
class Problem:
    """line: of the text, from 1; 0 of the program as a whole. lines: how many it is met in, the first of them in `all`."""

    code: str
    severity: Severity
    line: int
    lines: int
    text: str
    all: tuple[int, ...] = ()


@dataclass(frozen=True)
class Unreached:
    """Moves one after the other that do not reach their feed, and what holds them. lost: seconds more than it asks."""

    first_line: int
    last_line: int
    axis: str
    why: str
    lost: float


@dataclass(frozen=True)
class Verdict:
    program: Program
    envelope: Envelope
    timing: Timing
    problems: tuple[Problem, ...]
    unreached: tuple[Unreached, ...]

    @property
    def held_back(self) -> float:
        """Share of the time of moving that goes where feeds are not reached."""
        held = float(self.timing.result[self.timing.result[:, 3] > 0, 0].sum(dtype=float))
        return held / self.timing.moving if self.timing.moving > 0 else 0.0

    @property
    def fits(self) -> bool:
        return self.envelope.inside and all(problem.severity is not Severity.REFUSES for problem in self.problems)

    def outside(self, points: Array) -> Array:
        """Which of these places (n, axes) lie beyond an end that the program goes past."""
        found: Array = np.zeros(len(points), bool)
        for item in self.envelope.beyond:
            low, high = self.envelope.limits[item.axis]
            places = points[:, self.program.machine.names.index(item.axis)]
            found |= (places < low - DRAWN) | (places > high + DRAWN)
        return found

    def as_json(self) -> dict[str, object]:
        """Places in machine coordinates, mm or °; times in s."""
        envelope, timing = self.envelope, self.timing
        return {
            "fits": self.fits,
            "lines": self.program.lines,
            "extents": {name: [round(low, 6), round(high, 6)] for name, (low, high) in envelope.extents.items()},
            "beyond": [
                {"axis": item.axis, "side": item.side, "by": round(item.by, 6), "first_line": item.first_line,
                 "lines": item.lines} for item in envelope.beyond
            ],
            "shift": None if envelope.shift is None else {name: round(way, 6) for name, way in envelope.shift.items()},
            "time_s": {"total": round(timing.total, 3), "moving": round(timing.moving, 3), "dwell": round(timing.dwell, 3),
                       "spindle": round(timing.spindle, 3)},
            "stops": self.program.stops,
            "held_back": round(self.held_back, 4),
            "feeds_not_reached": [
                {"first_line": item.first_line, "last_line": item.last_line, "axis": item.axis, "why": item.why,
                 "lost_s": round(item.lost, 3)} for item in self.unreached
            ],
            "problems": [
                {"code": item.code, "severity": item.severity.word, "line": item.line, "lines": item.lines,
                 "text": item.text} for item in self.problems
            ],
            "left_out": [
                {"word": item.word, "first_line": item.first_line, "lines": item.lines, "refuses": item.refuses}
                for item in self.program.left_out
            ],
        }  # fmt: skip


def judge(
    text: bytes | bytearray,
    machine: Machine,
    chosen: Chosen,
    keep_on: Callable[[float], bool] = lambda _share: True,
) -> Verdict | None:
    """Reads, measures and times a program. None where keep_on ended it. Raises Refusal where it is too large."""
    with Planning(machine, chosen) as planning:
        program = read_program(text, machine, chosen, lambda share: keep_on(share / 2), planning.read)
        if program is None:
            return None
        planning.read(program.sheet, program.moves, program.start)
        envelope = envelope_of(program)  # while it plans what was read last
        timing = planning.end(program, lambda share: keep_on(0.5 + share / 2))
    if timing is None:
        return None
    return Verdict(program, envelope, timing, _problems(program, envelope), _unreached(program, timing))


def _problems(program: Program, envelope: Envelope) -> tuple[Problem, ...]:
    found = [Problem("beyond", Severity.REFUSES, item.first_line, item.lines, beyond_words(program, envelope, item))
             for item in envelope.beyond]  # fmt: skip
    for word in program.left_out:
        severity = Severity.REFUSES if word.refuses else Severity.WARNING
        sense = "the program may mean something else without it" if word.refuses else "left out"
        found.append(
            Problem("left_out", severity, word.first_line, word.lines, f"“{word.word}” is not understood: {sense}")
        )
    tool = tool_of(program.machine)
    found += [
        Problem(met.fault.code, met.fault.severity, met.lines[0], met.count, tool.worded(met.text), met.lines)
        for met in program.met
    ]
    found += _unit_words(program, envelope) + _mode_words(program, envelope)
    return tuple(sorted(found, key=lambda problem: (-problem.severity, problem.line)))


def beyond_words(program: Program, envelope: Envelope, item: Beyond) -> str:
    """How far an axis is asked beyond a limit, and what would help."""
    axis = program.machine.axes[program.machine.names.index(item.axis)]
    low, high = envelope.limits[item.axis]
    bottom, top = envelope.extents[item.axis]
    by = f"{item.axis} goes {axis.reads.length(item.by)} beyond its {item.side} end, in {several(item.lines, 'line')}"
    if top - bottom > high - low:
        return f"{by}: it needs {axis.reads.length(top - bottom)} of {item.axis}, there are {axis.reads.length(high - low)}"
    shift = envelope.shift
    if shift and item.axis in shift:
        return f"{by}: move the work zero by {item.axis} {axis.reads.length(shift[item.axis], sign=True)} and it fits"
    return f"{by}: no shift of the work zero helps, for the place is one of the machine or of another work zero"


def _scaled(program: Program, envelope: Envelope, factor: float) -> bool:
    """Whether the program would stay inside with all of its lengths times a factor, about the work zero that was chosen."""
    zeros = program.chosen.shown
    for name, span in envelope.shown.items():
        if program.machine.axes[program.machine.names.index(name)].rotary:
            continue
        zero = zeros.get(name, 0.0)
        low, high = envelope.limits[name]
        if any(not low <= zero + factor * (at - zero) <= high for at in span):
            return False
    return True


def _unit_words(program: Program, envelope: Envelope) -> list[Problem]:
    inch = program.unit == 20
    other, factor = ("millimetres", 1 / INCH) if inch else ("inches", INCH)
    if not envelope.inside and _scaled(program, envelope, factor):
        return [Problem("other_unit", Severity.WARNING, 0, 0, f"Read in {other} it would fit: is the unit right?")]
    return []


def _mode_words(program: Program, envelope: Envelope) -> list[Problem]:
    """Where a limit is left within the first moves behind a change between places and ways, and would not be otherwise."""
    if not envelope.beyond:
        return []
    line = min(item.first_line for item in envelope.beyond)
    sheet = program.sheet
    row = int(np.searchsorted(program.line_numbers, line))
    if row == 0 or sheet.moves["kind"][row] & KIND_BITS > Kind.LINE:
        return []
    ways = sheet.moves["kind"][: row + 1] & INCREMENTAL
    changes = np.flatnonzero(np.diff(ways))
    if row - (int(changes[-1]) if len(changes) else -1) > AT_ONCE:
        return []
    zeros = program.chosen.shown
    for slot, name in enumerate(program.machine.names):
        low, high = limits_of(program, slot)
        begin, end, zero = float(sheet.ends[row - 1, slot]), float(sheet.ends[row, slot]), zeros.get(name, 0.0)
        if begin != end and not low <= (zero + end - begin if ways[-1] else begin + end - zero) <= high:
            return []
    words = ("ways (G91)", "places (G90)") if ways[-1] else ("places (G90)", "ways (G91)")
    return [
        Problem(
            "other_mode",
            Severity.WARNING,
            line,
            1,
            f"Its figures are read as {words[0]}; as {words[1]} it would stay inside here",
        )
    ]


def _unreached(program: Program, timing: Timing) -> tuple[Unreached, ...]:
    """Stretches of moves with one cause each."""
    parts = worst_stretches(timing.result, STRETCHES)
    lines = program.line_numbers
    names = (*program.machine.names, *"?" * 16)
    return tuple(
        Unreached(
            int(lines[first]), int(lines[last - 1]), "" if why & 0xF0 == ARC_CAUSE else names[why & 15],
            _WHY[why & 0xF0].format(names[why & 15]), lost,
        )
        for lost, first, last, why in parts
    )  # fmt: skip


def warm_up() -> None:
    """Compiles all that a judgement and its picture use, or takes it from the cache."""
    from .strokes import warm_up as warm_up_strokes

    found = judge(b"G21 G90 F100\nG0 X0 Y0 Z1\nG2 X1 I1\nG81 Z-1 R1\nG80\nG28 Z1\nM30\n", Machine(), Chosen())
    assert found is not None
    warm_up_strokes(found.program)
