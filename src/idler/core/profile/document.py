"""The controller profile as a document: every object with its type, unit, range and meaning, from the table."""

from __future__ import annotations

from ..table import TABLE
from ..values.parameter import Kind, Parameter, Scope
from ..values.units import figure
from .codec import DERIVED
from .homing import HomingResult, Phase

_HEADS = (
    "| object | type | value | unit of one step | range | default | restart | meaning |",
    "|---|---|---|---|---|---|---|---|",
)
_EDGES = (
    "## Edges",
    "",
    "2002h:02 is a block of edges of the inputs, from the one that 2002h:01 names, which then moves on: number of the first",
    "edge (32 bits), time of the first and of now (64 bits each, µs), then 32 bits for each edge: level in bit 0 (1 closed),",
    "input from 0 in bits 1 to 7 (127: only time passes), µs since the edge before it in bits 8 to 31.",
    "",
    "2002h:03 tells without a block whether that edge is there already (bit 31), the lowest bits of its number (27 to 30, so",
    "that one who reads is not misled by another), and the time of now in ms (0 to 26).",
)


_SEEKING = (
    "## Seeking a switch",
    "",
    "Bit 11 of the controlword 6040h, set with a new setpoint in profile position mode, lets the move end (with the",
    "deceleration of a stop, 6085h) at the next edge of the axis's home switch or index mark. 60BAh holds the position at",
    "that edge, and 60D5h counts such edges.",
    "",
    "## Limits",
    "",
    "Bits 0 and 1 of 60FDh tell the limit switch of the low and of the high end. A limit chain of all axes (role 18) counts",
    "as the switch of the end that an axis was going to when it was made; of an axis that stood then both bits are set: it",
    "goes no faster than its touch speed (6099h:02), and not at all while another axis is known to have made the chain.",
    "",
    "## Homing",
    "",
    "60FDh tells the phase of a homing in bits 20 to 23 and how the last one ended in bits 24 to 27:",
    "",
    *(f"- phase {phase.raw}: {phase.words}" for phase in Phase),
    *(f"- ended {result.raw}: {result.words}" for result in HomingResult),
    "",
    "4008h holds where the switch was met on the approach (1) and on the touch (2), in the coordinates before, and how far the",
    "index mark was from it (3); how far the switch of the second motor's side lay further to + (5), the usual effort on the",
    "approach in ‰ (6), and how far the axis ran on after its switch (7). 1 written to 4008h:04 forgets the home. 6098h below",
    "zero is a hard stop, felt by 6077h: -1 to the high end, -2 to the low end, -3 and -4 the same with the index mark.",
)


_TURNING = (
    "2006h asks for the spindle: way (1), level in ‰ (2) or a speed in rpm (5), which goes before a level. It is",
    "started only by a command that is new; stop, guard, fault, a drive that is not ready and a lost range end it",
    "until then. 2007h tells encoder counts (1), speed in 0.1 rpm (2), the range engaged (3), strokes of the way oil",
    "(4), seconds towards the next (5), and the clock in ms when the spindle was last told something else (6).",
    "2008h:01 is the record of its speed since then: two words (ms between two speeds, and how many), then each speed",
    "in 0.1 rpm as I32.",
)


_FLIGHT = (
    "200Ah records the machine 200 times a second. Something that stops it lets one second more be recorded and then",
    "holds the last five: 200Ah:01 is 0 while it records, 1 in that second, 2 while the record is held. 200Ah:03 is the",
    "record, a zlib stream (RFC 1950) of six words (ms between two samples, their number, the number of axes, the sample at",
    "which the stop was seen, its emergency code, 0) and the samples: inputs closed (32 bits), outputs energised (16),",
    "conditions of 2004h:03 (16), spindle in rpm (I16), then of all axes the positions (I32), the velocities (I32), the",
    "following errors in 0.001 mm or ° (I16) and the flags (U8: powered, moving, homed, stopping, low limit, high limit,",
    "homing, held by a soft limit). 1 written to 200Ah:02 lets it go.",
)


def profile_text() -> str:
    """Markdown, for docs/controller-profile.md."""
    lines = [
        "# Controller profile",
        "",
        "Made from the table of parameters by `./idler describe profile`; do not edit by hand.",
        "",
        "CiA 301 communication, CiA 402 drives. Axis n (1 to 8) has its CiA 402 objects 800h × (n − 1) higher than shown,",
        "its own objects 100h × (n − 1) higher. Input, output and speed range n lie n − 1 higher.",
        "A position unit is 0.1 µm or 0.0001°, a velocity unit 0.001 mm/min or °/min,",
        "an acceleration unit 0.001 mm/s² or °/s², a unit of jerk 0.001 mm/s³ or °/s³.",
        "",
    ]
    titles = {
        Scope.MACHINE: "The machine",
        Scope.AXIS: "Each axis",
        Scope.INPUT: "Each input",
        Scope.OUTPUT: "Each output",
        Scope.RANGE: "Each speed range of the spindle",
    }
    for scope, rows in TABLE.items():
        lines += [f"## {titles[scope]}", "", *_HEADS]
        lines += [_row(row) for row in rows.values()] + [""]
    lines += ["## Objects that follow from others", "", "| object | meaning |", "|---|---|"]
    lines += [f"| {item.index:04X}h:{item.sub:02X} | {item.label} |" for item in DERIVED]
    lines += [
        "",
        "200Bh:01 gives the values of all axes in use at once, as a zlib stream (RFC 1950) of a concise device configuration",
        "as CiA 302-3 has it for 1F22h. 200Bh:02 gives alike the values that are in force instead of those that wait for a",
        "restart; it has no entry where none waits. Both are read as a block (CiA 301, 7.2.4.3.9).",
        "",
        "2009h:00 is the number of values that are other than those that a restart would bring back: 0 where everything is",
        "stored.",
        "",
        *_EDGES,
        "",
        *_SEEKING,
        "",
        *_TURNING,
        "",
        "## Flight record",
        "",
        *_FLIGHT,
        "",
    ]
    return "\n".join(lines)


def _row(row: Parameter) -> str:
    unit = row.unit().symbol
    step = f"{figure(row.wire.resolution, 6, trim=True)} {unit}".strip() if row.kind is Kind.QUANTITY else ""
    if row.choices:
        span = ", ".join(f"{choice.raw} {choice.label}" for choice in row.choices)
    elif row.kind is Kind.FLAG:
        span = f"0 off, {row.wire.on} on"
    elif row.low != row.high:
        span = f"{figure(row.low, 6, trim=True)} … {figure(row.high, 6, trim=True)} {unit}".strip()
    else:
        span = ""
    default = row.show(row.default)
    cells = (
        f"{row.wire.index:04X}h:{row.wire.sub:02X}", row.wire.type.name, f"{row.label} (`{row.key}`)", step, span,
        default, "yes" if row.restart else "read only" if row.given else "", row.what,
    )  # fmt: skip
    return "| " + " | ".join(cells) + " |"
