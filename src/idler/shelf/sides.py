"""What a person may name on the command line or choose on the screen as one side of a comparison."""

from __future__ import annotations

import re
from pathlib import Path

from idler.core.errors import IdlerError
from idler.core.exchange.imported import Imported
from idler.core.machine import Machine

from .exchange import FORMATS, read_machine
from .shelf import Shelf

HELP = "the path of a machine file, NAME, NAME@NUMBER for a revision, or NAME@draft"


def machine_of(shelf: Shelf, text: str) -> Machine:
    """The machine that is meant. Raises IdlerError with what may be written."""
    return with_text(shelf, text).machine


def with_text(shelf: Shelf, text: str) -> Imported:
    """The machine that is meant, with the text of its file where it has one. Raises IdlerError."""
    if Path(text).suffix in FORMATS or "/" in text:
        return read_machine(Path(text))
    name, _, which = text.partition("@")
    if name not in shelf.names():
        known = ", ".join(shelf.names()) or "no machine yet"
        raise IdlerError(f"Machine {name}: is not on the shelf {shelf.root}. There: {known}. Write {HELP}.")
    kept = shelf.load(name)
    if not which:
        return Imported(kept.machine, (), kept.text)
    if which == "draft":
        return Imported(shelf.draft(name, kept.machine)[0], (), kept.text)
    if not re.fullmatch(r"\d{1,6}", which):
        raise IdlerError(f"Machine {text}: “{which}” is no revision. Write {HELP}.")
    revisions = shelf.revisions(name)
    for revision in revisions:
        if revision.number == int(which):
            return Imported(shelf.at(revision), (), shelf.history.text(revision))
    raise IdlerError(f"Machine {name}: has no revision {which}. It has {len(revisions)}.")
