"""Homes in doubt on disk, by axis letter: found elsewhere than before, and nobody has said why. They outlive a restart."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from idler.core.machine import filedata

from .files import read_text, understood, write_text


def read(path: Path) -> dict[str, float]:
    """By how much each was found elsewhere, in mm (°). Raises IdlerError where the file cannot be understood."""
    if not path.exists():
        return {}
    with understood("homes in doubt", path, "The file is kept beside."):
        return {str(axis): float(off) for axis, off in filedata.toml(read_text(path)).get("off", {}).items()}


def write(path: Path, off: Mapping[str, float]) -> None:
    """On the disk when this returns."""
    import tomlkit

    document = tomlkit.document()
    document.add(
        tomlkit.comment("Homes that were found elsewhere, by how much in mm or degrees, until a person says why.")
    )
    document.add("off", {axis: round(by, 4) for axis, by in sorted(off.items())})
    write_text(path, tomlkit.dumps(document))
