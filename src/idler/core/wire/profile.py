"""The controller profile as a document: every object with its type, unit, range and meaning, from the table."""

from __future__ import annotations

from ..parameter import Kind, Parameter
from ..table import AXIS_ROWS, MACHINE_ROWS
from ..units import figure
from .codec import DERIVED


def profile_text() -> str:
    """Markdown, for docs/controller-profile.md."""
    lines = [
        "# Controller profile",
        "",
        "Made from the table of parameters by `./idler describe profile`; do not edit by hand.",
        "",
        "CiA 301 communication, CiA 402 drives. Axis n (1 to 8) has its CiA 402 objects 800h × (n − 1) higher than shown,",
        "its own objects 100h × (n − 1) higher. A position unit is 0.1 µm or 0.0001°, a velocity unit 0.001 mm/min or",
        "°/min, an acceleration unit 0.001 mm/s² or °/s², a unit of jerk 0.001 mm/s³ or °/s³.",
        "",
    ]
    for title, rows in (("The machine", MACHINE_ROWS), ("Each axis", AXIS_ROWS)):
        lines += [f"## {title}", "", "| object | type | value | unit of one step | range | default | restart | meaning |",
                  "|---|---|---|---|---|---|---|---|"]  # fmt: skip
        lines += [_row(row) for row in rows] + [""]
    lines += ["## Objects that follow from others", "", "| object | meaning |", "|---|---|"]
    lines += [f"| {item.index:04X}h:{item.sub:02X} | {item.label} |" for item in DERIVED]
    lines += ["", "2001h:00 lists, in hexadecimal, the objects whose stored value waits for a restart.", ""]
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
        default, "yes" if row.restart else "", row.what,
    )  # fmt: skip
    return "| " + " | ".join(cells) + " |"
