"""Proofs on disk: one TOML file for each machine, beside its revisions, newest proof of each claim."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from idler.core.machine import filedata
from idler.core.proof.claims import Evidence, Witness

from .files import read_text, understood, write_text


def read(path: Path) -> dict[str, Evidence]:
    """Proofs by claim. Raises IdlerError where the file cannot be understood; a file that is not there holds none."""
    if not path.exists():
        return {}
    with understood("proofs", path, "The file is kept beside; prove again."):
        proofs = filedata.toml(read_text(path)).get("proof", {})
        return {
            str(claim): Evidence(
                str(claim), float(item["when"]), bool(item["passed"]), str(item["result"]), _witness(str(claim), item),
                {str(key): str(text) for key, text in item["rests"].items()}, int(item.get("controller", 0)),
            )
            for claim, item in proofs.items()
        }  # fmt: skip


# Whoever bore out a claim before witnesses were kept, by the first word of its key.
_ONCE = {
    "wiring": Witness.TOUCH, "direction": Witness.EYES, "scale": Witness.INSTRUMENT, "spindle": Witness.EYES,
    "speed": Witness.SENSOR, "times": Witness.SENSOR,
}  # fmt: skip


def _witness(claim: str, item: Mapping[str, Any]) -> Witness:
    said = item.get("witness")
    if said is None:
        return _ONCE.get(claim.partition(".")[0], Witness.SWITCH)
    return {witness.key: witness for witness in Witness}[said]


def write(path: Path, proofs: Mapping[str, Evidence]) -> None:
    """On the disk when this returns."""
    import tomli_w

    kept = {
        claim: {
            "when": item.when,
            "passed": item.passed,
            "result": item.result,
            "witness": item.witness.key,
            "rests": dict(item.rests),
            **({"controller": item.controller} if item.controller else {}),
        }
        for claim, item in sorted(proofs.items())
    }
    write_text(path, tomli_w.dumps({"proof": kept}))
