"""A report of a problem: one file with everything that somebody else needs to understand it."""

from __future__ import annotations

import io
import json
import tempfile
import zipfile
from pathlib import Path

from idler import __version__
from idler.core.exchange.flight import flight_csv
from idler.core.incident.diagnosis import account
from idler.core.machine import file as machinefile
from idler.core.profile.flight import unpack_flight
from idler.link.bus.wire import write_capture
from idler.session.session import Session
from idler.shelf.files import write_bytes

_WHAT = """A report of a problem from Idler {version}.

machine.toml      the machine as it is on the screen
controller.toml   what the controller held when it was last read
log.txt           what Idler said and did
wire.log          the last frames on the wire, as can-utils write them
incident.json     what stopped the machine, what came first, what followed, likely causes
flight.csv        the flight record of the incident: 200 samples a second
"""


def problem_report(path: Path, session: Session, log: str, incident: str = "") -> None:
    """Writes the file as a whole. incident: one of `session.incidents.names()`, or none. Raises IdlerError."""
    parts: dict[str, str] = {
        "README.txt": _WHAT.format(version=__version__),
        "machine.toml": machinefile.write(session.machine),
        "log.txt": log,
        "wire.log": _capture(session),
    }
    if session.connected:
        parts["controller.toml"] = machinefile.write(session.in_controller)
    if incident:
        kept = session.incidents.load(incident)
        record = unpack_flight(kept.flight)
        found = account(kept.machine, record, kept.incident.axis)
        told = {
            "when": incident, "code": f"{record.code:04X}h",
            "first": found.first.words if found.first else None,
            "followed": [{"at": item.at, "words": item.words} for item in found.followed],
            "causes": [{"cause": cause.words, "evidence": cause.evidence} for cause in found.causes],
        }  # fmt: skip
        parts["incident.json"] = json.dumps(told, indent=2, ensure_ascii=False)
        parts["flight.csv"] = flight_csv(kept.machine, record)
    whole = io.BytesIO()
    with zipfile.ZipFile(whole, "w", zipfile.ZIP_DEFLATED) as made:
        for name, text in parts.items():
            made.writestr(name, text)
    write_bytes(path, whole.getvalue())


def _capture(session: Session) -> str:
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "wire.log"
        write_capture(file, session.frames.since(0))
        return file.read_text("ascii")
