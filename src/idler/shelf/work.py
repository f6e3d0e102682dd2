"""Work zeros on disk, by axis letter: of the job on the table, not of the machine, so no revision holds them."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from idler.core.machine import filedata
from idler.core.proof.workzero import WorkZero

from .files import read_text, understood, write_text


def read(path: Path) -> dict[str, WorkZero]:
    """Work zeros with what they rest on. Raises IdlerError where the file cannot be understood."""
    if not path.exists():
        return {}
    with understood("work zeros", path, "The file is kept beside."):
        kept = filedata.toml(read_text(path))
        rests = kept.get("rests", {})
        return {
            str(axis): WorkZero(float(at), {str(key): str(text) for key, text in rests.get(axis, {}).items()})
            for axis, at in kept.get("work", {}).items()
        }


def write(path: Path, zeros: Mapping[str, WorkZero]) -> None:
    """On the disk when this returns."""
    import tomlkit

    document = tomlkit.document()
    document.add(tomlkit.comment("Machine coordinates of the work zero, in mm or degrees, and what each rests on."))
    document.add("work", {axis: round(zero.at, 4) for axis, zero in sorted(zeros.items())})
    document.add("rests", {axis: dict(zero.rests) for axis, zero in sorted(zeros.items())})
    write_text(path, tomlkit.dumps(document))
