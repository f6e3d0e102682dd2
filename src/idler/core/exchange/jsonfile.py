"""JSON: the machine file's own structure, values with their units as text, checked by the same schema."""

from __future__ import annotations

import json

from ..machine import Machine, filedata
from ..machine import file as machinefile
from ..machine.filedata import Unreadable
from .imported import Imported, ImportRefusal, not_given


def json_text(machine: Machine) -> str:
    return json.dumps(machinefile.plain_of(machine), indent=2, ensure_ascii=False) + "\n"


def read_json(text: str) -> Imported:
    """Raises ImportRefusal, or FileRefusal for the first value that cannot be taken."""
    try:
        found = filedata.json(text)
    except Unreadable as why:
        raise ImportRefusal(why.sentence) from None
    if not isinstance(found, dict):
        raise ImportRefusal("the file holds no object with “schema” and “axis”.")
    machine = machinefile.machine_of(found)
    return Imported(machine, not_given(machine))
