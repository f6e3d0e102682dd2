"""Incidents as they are kept with a machine: what the controller said, its flight record, and the machine as it was.

DIR/incidents/NAME/2026-11-23T10-15-30.json; one file each, none is ever changed.
"""

from __future__ import annotations

import base64
import json
import time
from dataclasses import dataclass
from pathlib import Path

from idler.core.incident import Incident
from idler.core.machine import Machine, filedata
from idler.core.machine import file as machinefile

from .files import read_text, understood, write_text


@dataclass(frozen=True)
class KeptIncident:
    """when: seconds since 1970. flight: the record as it stood on the wire. machine: what was in force."""

    when: float
    incident: Incident
    machine: Machine
    flight: bytes


class IncidentFolder:
    """Of one machine of the shelf. Raises IdlerError where a file cannot be read or written."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def keep(self, kept: KeptIncident) -> str:
        """Its name; on the disk when this returns."""
        what = kept.incident
        data = {
            "when": kept.when, "code": what.code, "axis": what.axis, "input": what.input, "homed": what.homed,
            "machine": machinefile.write(kept.machine), "flight": base64.b64encode(kept.flight).decode(),
        }  # fmt: skip
        path = self._path(kept.when)
        write_text(path, json.dumps(data, indent=1, ensure_ascii=False))
        return path.stem

    def _path(self, when: float) -> Path:
        stamp = time.strftime("%Y-%m-%dT%H-%M-%S", time.localtime(when))
        path, number = self._folder / f"{stamp}.json", 1
        while path.exists():
            number += 1
            path = self._folder / f"{stamp}-{number}.json"
        return path

    def names(self) -> list[str]:
        """Newest first; each is a day with a time."""
        return sorted((path.stem for path in self._folder.glob("*.json")), reverse=True)

    def load(self, name: str) -> KeptIncident:
        path = self._folder / f"{name}.json"
        with understood("incident", path, "The file stays as it is."):
            data = filedata.json(read_text(path))
            what = Incident(int(data["code"]), data["axis"], data["input"], tuple(data["homed"]))
            machine = machinefile.read(str(data["machine"])).machine
            return KeptIncident(float(data["when"]), what, machine, base64.b64decode(data["flight"], validate=True))
