"""What a person leaves out of the work on purpose, with his reasons, on disk: by the keys of the steps."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from idler.core.machine import filedata

from .files import read_text, understood, write_text


def read(path: Path) -> dict[str, str]:
    """Raises IdlerError where the file cannot be understood."""
    if not path.exists():
        return {}
    with understood("what is skipped", path, "The file is kept beside."):
        return {str(key): str(reason) for key, reason in filedata.toml(read_text(path)).get("skipped", {}).items()}


def write(path: Path, reasons: Mapping[str, str]) -> None:
    """On the disk when this returns."""
    import tomlkit

    document = tomlkit.document()
    document.add(tomlkit.comment("Steps that are left out on purpose, and why. They are printed in the report."))
    document.add("skipped", dict(sorted(reasons.items())))
    write_text(path, tomlkit.dumps(document))
