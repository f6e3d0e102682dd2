"""Work zeros on disk, by axis letter: of the job on the table, not of the machine, so no revision holds them.

The first one stands under "work" and "rests", the others under "work_2" and "rests_2" and so on.
"""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from idler.core.machine import filedata
from idler.core.proof.workzero import COUNT, WorkSet, WorkZero

from .files import read_text, understood, write_text


def _key(word: str, number: int) -> str:
    return f"{word}_{number + 1}" if number else word


def read(path: Path) -> WorkSet:
    """Work zeros with what they rest on. Raises IdlerError where the file cannot be understood."""
    if not path.exists():
        return WorkSet()
    with understood("work zeros", path, "The file is kept beside."):
        kept = filedata.toml(read_text(path))
        found = WorkSet()
        for number in range(COUNT):
            found = found.put(number, _read(kept.get(_key("work", number), {}), kept.get(_key("rests", number), {})))
        for number, name in kept.get("names", {}).items():
            found = found.named(int(number) - 1, str(name))
        return WorkSet(found.places, found.names, min(max(int(kept.get("shown", 1)), 1), COUNT) - 1)


def _read(places: Mapping[str, Any], rests: Mapping[str, Any]) -> dict[str, WorkZero]:
    return {
        str(axis): WorkZero(float(at), {str(key): str(text) for key, text in rests.get(axis, {}).items()})
        for axis, at in places.items()
    }


def write(path: Path, zeros: WorkSet) -> None:
    """On the disk when this returns."""
    import tomlkit

    document = tomlkit.document()
    document.add(tomlkit.comment("Machine coordinates of the work zeros, in mm or degrees, and what each rests on."))
    document.add("shown", zeros.shown + 1)
    if zeros.names:
        document.add("names", {str(number + 1): name for number, name in sorted(zeros.names.items())})
    for number in range(COUNT):
        kept = sorted(zeros.at(number).items())
        if kept or not number:
            document.add(_key("work", number), {axis: round(zero.at, 4) for axis, zero in kept})
            document.add(_key("rests", number), {axis: dict(zero.rests) for axis, zero in kept})
    write_text(path, tomlkit.dumps(document))
