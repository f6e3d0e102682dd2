"""JSON: the machine file's own structure, values with their units as text, checked by the same schema."""

from __future__ import annotations

import json
from typing import Any

from .. import machinefile
from ..machine import Machine
from .imported import Imported, ImportRefusal


def json_text(machine: Machine) -> str:
    return json.dumps(machinefile.plain_of(machine), indent=2, ensure_ascii=False) + "\n"


def read_json(text: str) -> Imported:
    """Raises ImportRefusal, or FileRefusal for the first value that cannot be taken."""
    try:
        plain = json.loads(text, object_pairs_hook=_once)
    except json.JSONDecodeError as why:
        raise ImportRefusal(f"line {why.lineno}: this is not JSON ({why.msg.lower()}).") from None
    except RecursionError:
        raise ImportRefusal("the file is nested too deeply to be a machine.") from None
    if not isinstance(plain, dict):
        raise ImportRefusal("the file holds no object with “schema” and “axis”.")
    return Imported(machinefile.machine_of(plain))


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for key, value in pairs:
        if key in found:
            raise ImportRefusal(f"“{key[:40]}” stands twice in one object; which of the two is meant cannot be known.")
        found[key] = value
    return found
