"""Whether there is a screen to open a window on, before Qt is asked: where there is none it ends the program with an abort."""

from __future__ import annotations

import os
import re
import socket
from collections.abc import Mapping
from pathlib import Path

from idler.core.errors import IdlerError

NEEDS_NOTHING = ("offscreen", "minimal", "vnc", "linuxfb", "eglfs", "minimalegl", "vkkhrdisplay")


def plugins() -> set[str]:
    """Names of the platforms that this Qt can open windows on."""
    from PySide6.QtCore import QLibraryInfo

    folder = Path(QLibraryInfo.path(QLibraryInfo.LibraryPath.PluginsPath)) / "platforms"
    return {found.stem.removeprefix("libq") for found in folder.glob("libq*.so")}


def require_display(environment: Mapping[str, str] = os.environ, known: set[str] | None = None) -> None:
    """Raises IdlerError where no window can be opened."""
    there = plugins() if known is None else known
    asked = [name.partition(":")[0] for name in environment.get("QT_QPA_PLATFORM", "").split(";") if name]
    if asked and not any(name in there or name in NEEDS_NOTHING or name.startswith("wayland") for name in asked):
        raise IdlerError(
            f"QT_QPA_PLATFORM asks for {asked[0][:20]}, which this Qt does not have: {', '.join(sorted(there))}."
        )
    wanted = asked or ["xcb", "wayland"]
    if any(name in NEEDS_NOTHING for name in wanted):
        return
    x = "xcb" in wanted and "xcb" in there and _x_answers(environment.get("DISPLAY", ""))
    way = any(name.startswith("wayland") for name in wanted) and any(name.startswith("wayland") for name in there)
    if x or (way and _wayland_answers(environment)):
        return
    raise IdlerError(
        "There is no screen to open a window on: neither DISPLAY nor WAYLAND_DISPLAY leads to one that this Qt can use. Start "
        "it in a desktop session, over ssh with -X, or use the words of the command line: ./idler --help."
    )


def _x_answers(display: str) -> bool:
    """Whether an X server listens where DISPLAY says ("HOST:NUMBER.SCREEN")."""
    found = re.fullmatch(r"(?:unix|([^:]*)):(\d{1,5})(?:\.\d+)?", display)
    if found is None:
        return False
    number = found[2]
    if found[1]:
        return _connects(socket.AF_INET, (found[1], 6000 + int(number)))
    return any(_connects(socket.AF_UNIX, f"{begin}/tmp/.X11-unix/X{number}") for begin in ("\0", ""))


def _wayland_answers(environment: Mapping[str, str]) -> bool:
    name = environment.get("WAYLAND_DISPLAY", "")
    if not name:
        return False
    return _connects(socket.AF_UNIX, str(Path(environment.get("XDG_RUNTIME_DIR", "/run")) / name))


def _connects(family: socket.AddressFamily, where: str | tuple[str, int]) -> bool:
    with socket.socket(family, socket.SOCK_STREAM) as line:
        line.settimeout(2)
        try:
            line.connect(where)
        except (OSError, ValueError):
            return False
        return True
