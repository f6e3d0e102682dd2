"""What belongs to the person at this computer and to no machine: what Idler opens with.

DIR/settings.toml
"""

from __future__ import annotations

from dataclasses import asdict, dataclass, fields
from pathlib import Path

from idler.core.errors import IdlerError
from idler.core.machine import filedata
from idler.core.table.stations import Station

from .files import read_text, understood, write_text


@dataclass(frozen=True)
class Settings:
    """opens: a machine by name, or empty for the last one. station: by its key. connects: to the last address at start.
    sounds: whether a question, an end and a stop are heard. leads: whether the window goes on to what is next by itself."""

    last: str = ""
    opens: str = ""
    station: str = Station.LINK.key
    connects: bool = False
    address: str = ""
    sounds: bool = False
    leads: bool = False

    def first_of(self, names: list[str]) -> str:
        """Which of the machines is opened. names is not empty."""
        return next((name for name in (self.opens, self.last) if name in names), names[0])

    @property
    def first_station(self) -> Station:
        return next((station for station in Station if station.key == self.station), Station.LINK)


def read(path: Path) -> Settings:
    """The usual ones where there is no file. Raises IdlerError where it cannot be understood."""
    if not path.exists():
        return Settings()
    with understood("settings", path, "The usual ones are used."):
        kept = filedata.toml(read_text(path))
    known = {item.name: type(item.default) for item in fields(Settings)}
    wrong = [key for key, value in kept.items() if key not in known or type(value) is not known[key]]
    if wrong:
        raise IdlerError(f"The settings in {path} cannot be used: {', '.join(wrong)}. The usual ones are used.")
    return Settings(**kept)


def write(path: Path, settings: Settings) -> None:
    """On the disk when this returns."""
    import tomlkit

    write_text(path, tomlkit.dumps(asdict(settings)))
