"""Which programs were opened last, and what Idler opens by itself when it starts."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from idler.core.machine import filedata

from .files import read_text, understood, write_text

MOST = 8  # that are remembered
NOTHING, LAST = "nothing", "last"


@dataclass(frozen=True)
class Opened:
    """recent: files, the last one first. opens: NOTHING, LAST, or the path of a program."""

    recent: tuple[str, ...] = ()
    opens: str = NOTHING

    def with_one(self, path: Path) -> Opened:
        """One more that was opened."""
        name = str(path.absolute())
        return replace(self, recent=(name, *(old for old in self.recent if old != name))[:MOST])

    @property
    def first(self) -> Path | None:
        """What is opened at the start."""
        if self.opens == LAST:
            return Path(self.recent[0]) if self.recent else None
        return Path(self.opens) if self.opens != NOTHING else None


def read(path: Path) -> Opened:
    """Raises IdlerError where the file cannot be understood."""
    if not path.exists():
        return Opened()
    with understood("list of programs", path, "The file is kept beside."):
        kept = filedata.toml(read_text(path))
        return Opened(tuple(str(name) for name in kept.get("recent", [])), str(kept.get("opens", NOTHING)))


def write(path: Path, opened: Opened) -> None:
    """On the disk when this returns."""
    import tomlkit

    write_text(path, tomlkit.dumps({"opens": opened.opens, "recent": list(opened.recent)}))
