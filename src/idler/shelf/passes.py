"""Measured passes of the scale on disk, by axis letter: what was measured is not measured again after a restart."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from idler.core.machine import filedata
from idler.core.mechanics.scale import INSTRUMENTS, Pass

from .files import read_text, understood, write_text

_INSTRUMENTS = {item.key: item for item in INSTRUMENTS}
_NUMBERS = ("commanded", "measured", "counts_per_unit", "play")


def read(path: Path) -> dict[str, list[Pass]]:
    """Raises IdlerError where the file cannot be understood; a file that is not there holds none."""
    if not path.exists():
        return {}
    with understood("passes", path, "The file is kept beside."):
        axes = filedata.toml(read_text(path)).get("passes", {})
        return {str(axis): [_pass(item) for item in listed] for axis, listed in axes.items()}


def _pass(item: Mapping[str, Any]) -> Pass:
    numbers = {name: float(item[name]) for name in _NUMBERS}
    return Pass(
        instrument=_INSTRUMENTS[item["instrument"]], speed=float(item.get("speed", 0.0)),
        signals=str(item.get("signals", "")), start=float(item["start"]) if "start" in item else None, **numbers,
    )  # fmt: skip


def write(path: Path, passes: Mapping[str, Sequence[Pass]]) -> None:
    """On the disk when this returns."""
    import tomli_w

    kept = {
        axis: [
            {
                **{name: getattr(item, name) for name in _NUMBERS},
                "speed": item.speed,
                "signals": item.signals,
                "instrument": item.instrument.key,
                **({} if item.start is None else {"start": item.start}),
            }
            for item in listed
        ]
        for axis, listed in sorted(passes.items())
        if listed
    }
    write_text(path, tomli_w.dumps({"passes": kept}))
