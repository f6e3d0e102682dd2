"""The language that is spoken. Without a translation nothing here does anything.

What was translated lies under the person's own data; the variable IDLER_LANGUAGE names another language than the one that was
chosen there, or "en".
"""

from __future__ import annotations

import os
import sys
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from importlib.resources.abc import Traversable

    from .loading import Translation

ENGLISH = "en"
_VARIABLE = "IDLER_LANGUAGE"
_now: list[Translation] = []


def home() -> Path:
    """Where the translations of this person lie."""
    kept = os.environ.get("XDG_DATA_HOME") or "~/.local/share"
    return Path(kept).expanduser() / "idler" / "languages"


def chosen() -> str:
    """The language that is asked for."""
    with suppress(OSError):
        return os.environ.get(_VARIABLE) or (home() / "spoken").read_text("utf-8").strip() or ENGLISH
    return ENGLISH


def choose(language: str) -> None:
    """From the next start. Raises OSError."""
    home().mkdir(parents=True, exist_ok=True)
    (home() / "spoken").write_text(language + "\n", "utf-8")


def speak() -> None:
    """What is loaded from now on speaks the language that is asked for; English where it cannot be read."""
    if (language := chosen()) != ENGLISH and not _now:
        from .loading import Speaker, load

        if (found := load(home() / language)) is not None:
            _now.append(found)
            sys.meta_path.insert(0, Speaker(found))


def now() -> Translation | None:
    """What is spoken; None for English."""
    return _now[0] if _now else None


def data(name: str) -> Traversable:
    """A file of Idler's data, as the translation has it."""
    from importlib import resources

    if (there := now()) is not None and (own := there.folder / name).exists():
        return own
    return resources.files("idler") / "data" / name
