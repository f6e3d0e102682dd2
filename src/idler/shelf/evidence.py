"""Proofs on disk: one TOML file for each machine, beside its revisions, newest proof of each claim."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from idler.core import filedata
from idler.core.proofs import Evidence

from .files import read_text, understood, write_text


def read(path: Path) -> dict[str, Evidence]:
    """Proofs by claim. Raises IdlerError where the file cannot be understood; a file that is not there holds none."""
    if not path.exists():
        return {}
    with understood("proofs", path, "The file is kept beside; prove again."):
        proofs = filedata.toml(read_text(path)).get("proof", {})
        return {
            str(claim): Evidence(
                str(claim), float(item["when"]), bool(item["passed"]), str(item["result"]),
                {str(key): str(text) for key, text in item["rests"].items()},
            )
            for claim, item in proofs.items()
        }  # fmt: skip


def write(path: Path, proofs: Mapping[str, Evidence]) -> None:
    """On the disk when this returns."""
    import tomli_w

    kept = {
        claim: {"when": item.when, "passed": item.passed, "result": item.result, "rests": dict(item.rests)}
        for claim, item in sorted(proofs.items())
    }
    write_text(path, tomli_w.dumps({"proof": kept}))
