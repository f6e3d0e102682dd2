"""The path of a program over the envelope as a drawing in a file (SVG 1.1): from above and from the front, to scale."""

from __future__ import annotations

import numpy as np

from .envelope import limits_of
from .state import Array
from .strokes import strokes_of
from .verdict import Verdict

WIDE, GAP, MARGIN = 900.0, 40.0, 24.0  # of the page: its width, between its drawings, around them
FINEST = 0.15  # of the page: what moves less is left out
STYLE = (
    "text{font:13px sans-serif;fill:#56636B}.limits{fill:#FBF9F4;stroke:#0E6470;stroke-width:1.5}"
    ".feed{fill:none;stroke:#4A4DA6;stroke-width:1.2}.rapid{fill:none;stroke:#56636B;stroke-width:.8;stroke-dasharray:6 5}"
    ".beyond{fill:none;stroke:#C2341A;stroke-width:1.6}"
)


def svg_text(found: Verdict) -> str:
    """Draws the pairs (X, Y) and (X, Z), or a lathe's (Z, X); rapids dashed, what lies beyond an end apart."""
    names = found.program.machine.names
    pairs = [pair for pair in (("X", "Y"), ("X", "Z")) if set(pair) <= set(names)]
    if "Y" not in names:
        pairs = [("Z", "X")] if {"X", "Z"} <= set(names) else []
    strokes = strokes_of(found.program)
    outside = found.outside(strokes.points[1:])
    spans = {name: _span(found, name) for pair in pairs for name in pair}
    scale = (WIDE - 2 * MARGIN) / max((spans[a][1] - spans[a][0] for a, _ in pairs), default=1.0)
    parts: list[str] = []
    y = MARGIN
    for across, up in pairs:
        (left, _), (bottom, top) = spans[across], spans[up]
        high = (top - bottom) * scale
        parts.append(f'<text x="{MARGIN:g}" y="{y + 12:.1f}">{across} to the right, {up} up, mm</text>')
        y += 20
        a, b = names.index(across), names.index(up)
        places = np.column_stack(
            (MARGIN + (strokes.points[:, a] - left) * scale, y + high - (strokes.points[:, b] - bottom) * scale)
        )
        (x0, x1), (y0, y1) = (
            limits if np.isfinite(limits := found.envelope.limits.get(name, spans[name])).all() else spans[name]
            for name in (across, up)
        )
        parts.append(
            f'<rect class="limits" x="{MARGIN + (x0 - left) * scale:.1f}" y="{y + high - (y1 - bottom) * scale:.1f}" '
            f'width="{(x1 - x0) * scale:.1f}" height="{(y1 - y0) * scale:.1f}"/>'
        )
        kinds = np.where(outside, 2, np.where(strokes.rapid, 0, 1))
        parts += [
            f'<path class="{name}" d="{_path(places, kinds == kind)}"/>'
            for kind, name in enumerate(("rapid", "feed", "beyond"))
            if (kinds == kind).any()
        ]
        y += high + GAP
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{WIDE:g}" height="{y:.0f}" viewBox="0 0 {WIDE:g} {y:.0f}">'
        f"<style>{STYLE}</style>" + "".join(parts) + "</svg>\n"
    )


def _span(found: Verdict, name: str) -> tuple[float, float]:
    """Of what is drawn along an axis: its ends, and how far the program goes."""
    slot = found.program.machine.names.index(name)
    marks = [
        mark for mark in (*limits_of(found.program, slot), *found.envelope.extents.get(name, ())) if np.isfinite(mark)
    ]
    return (min(marks), max(marks)) if marks and max(marks) > min(marks) else (-50.0, 50.0)


def _path(places: Array, chosen: Array) -> str:
    """The strokes that are chosen, as one path; those that hardly move are joined to the next."""
    words: list[str] = []
    last: Array | None = None
    open_at = -1
    for at in np.flatnonzero(chosen).tolist():
        end = places[at + 1]
        if open_at != at:
            begin = places[at]
            words.append(f"M{begin[0]:.1f} {begin[1]:.1f}")
            last = begin
        follows = at + 1 < len(chosen) and bool(chosen[at + 1])
        if last is None or not follows or abs(end - last).max() >= FINEST:
            words.append(f"L{end[0]:.1f} {end[1]:.1f}")
            last = end
        open_at = at + 1
    return "".join(words)
