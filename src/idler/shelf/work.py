"""Work zeros on disk, by axis letter: of the job on the table, not of the machine, so no revision holds them."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from pathlib import Path

from idler.core.errors import IdlerError

from .files import read_text, write_text


def read(path: Path) -> dict[str, float]:
    """Machine coordinates of the work zeros in mm (°). Raises IdlerError where the file cannot be understood."""
    if not path.exists():
        return {}
    try:
        return {str(axis): float(at) for axis, at in tomllib.loads(read_text(path)).get("work", {}).items()}
    except (tomllib.TOMLDecodeError, TypeError, ValueError, AttributeError) as why:
        raise IdlerError(f"The work zeros in {path} cannot be read ({why}). The file is kept beside.") from None


def write(path: Path, zeros: Mapping[str, float]) -> None:
    """On the disk when this returns."""
    import tomlkit

    document = tomlkit.document()
    document.add(tomlkit.comment("Machine coordinates of the work zero, in mm or degrees."))
    document.add("work", {axis: round(at, 4) for axis, at in sorted(zeros.items())})
    write_text(path, tomlkit.dumps(document))
