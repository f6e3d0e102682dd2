"""Torque prints on disk, by axis letter, the newest last: each is laid over the one before, a year later too."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from idler.core.machine import filedata
from idler.core.mechanics.torqueprint import TorquePrint

from .files import read_text, understood, write_text

MOST = 24  # of an axis
NOTHING = -1.0  # where nothing was read
_NUMBERS = ("when", "speed", "low", "high")


def read(path: Path) -> dict[str, list[TorquePrint]]:
    """Raises IdlerError where the file cannot be understood; a file that is not there holds none."""
    if not path.exists():
        return {}
    with understood("torque prints", path, "The file is kept beside."):
        axes = filedata.toml(read_text(path)).get("prints", {})
        return {str(axis): [_print(item) for item in listed] for axis, listed in axes.items()}


def _print(item: Mapping[str, Any]) -> TorquePrint:
    numbers = {name: float(item[name]) for name in _NUMBERS}
    up, down = (tuple(None if float(each) < 0 else float(each) for each in item[way]) for way in ("up", "down"))
    if len(up) != len(down) or not up:
        raise ValueError("both ways have as many places")
    return TorquePrint(up=up, down=down, **numbers)


def write(path: Path, prints: Mapping[str, Sequence[TorquePrint]]) -> None:
    """On the disk when this returns."""
    import tomli_w

    kept = {
        axis: [
            {
                **{name: getattr(item, name) for name in _NUMBERS},
                **{way: [NOTHING if each is None else each for each in getattr(item, way)] for way in ("up", "down")},
            }
            for item in listed[-MOST:]
        ]
        for axis, listed in sorted(prints.items())
        if listed
    }
    write_text(path, tomli_w.dumps({"prints": kept}))
