"""Which keys jog which axis once the keyboard is armed; kept beside the shelf, for they belong to the person, not to a machine.

Only keys that type nothing and do nothing else can be bound, so that no key can start a thing by surprise.
"""

from __future__ import annotations

import tomllib
from pathlib import Path

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QKeySequence

from idler.core.errors import IdlerError, Refusal
from idler.core.parameter import AXIS_LETTERS
from idler.shelf.files import read_text, write_text

Way = tuple[str, int]  # letter of the axis, sign
_USUAL: dict[Qt.Key, Way] = {
    Qt.Key.Key_Right: ("X", 1), Qt.Key.Key_Left: ("X", -1), Qt.Key.Key_Up: ("Y", 1), Qt.Key.Key_Down: ("Y", -1),
    Qt.Key.Key_PageUp: ("Z", 1), Qt.Key.Key_PageDown: ("Z", -1),
}  # fmt: skip
_FREE = (
    Qt.Key.Key_Right, Qt.Key.Key_Left, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown,
    Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_Insert,
    Qt.Key.Key_F1, Qt.Key.Key_F2, Qt.Key.Key_F3, Qt.Key.Key_F4, Qt.Key.Key_F5, Qt.Key.Key_F7, Qt.Key.Key_F8,
    Qt.Key.Key_F9, Qt.Key.Key_F10, Qt.Key.Key_F11, Qt.Key.Key_F12,
)  # fmt: skip
_WORDS = "arrows, Page Up and Down, Home, End, Insert, and F1 to F12 without F6"


def key_text(key: Qt.Key) -> str:
    """The key as it is printed on it."""
    return QKeySequence(key).toString()


class Bindings(QObject):
    """One key for each way; a key that is given to another way is taken from the first."""

    changed = Signal()

    def __init__(self, file: Path) -> None:
        super().__init__()
        self._file = file
        self._ways = dict(_USUAL)
        self.trouble = ""
        if file.exists():
            try:
                self._ways = _read(read_text(file))
            except (IdlerError, tomllib.TOMLDecodeError, ValueError) as why:
                self.trouble = f"The keys in {file.name} cannot be used ({why}); the usual ones jog."

    def way_of(self, key: Qt.Key) -> Way | None:
        return self._ways.get(key)

    def key_of(self, way: Way) -> Qt.Key | None:
        return next((key for key, bound in self._ways.items() if bound == way), None)

    def bind(self, way: Way, key: Qt.Key | None) -> None:
        """None: no key jogs this way any more. Raises Refusal for a key that may not; IdlerError where it cannot be kept."""
        part = f"key for {way[0]}{'+' if way[1] > 0 else '−'}"
        if key is not None and key not in _FREE:
            raise Refusal(part, f"“{key_text(key) or 'this key'}”", "types or does something else", _WORDS)
        ways = {bound: at for bound, at in self._ways.items() if at != way and bound != key}
        if key is not None:
            ways[key] = way
        self._keep(ways)

    def usual(self) -> None:
        """The bindings that Idler comes with."""
        self._keep(dict(_USUAL))

    def _keep(self, ways: dict[Qt.Key, Way]) -> None:
        self._ways = ways
        self.changed.emit()
        lines = [f'"{key_text(key)}" = "{letter}{"+" if sign > 0 else "-"}"' for key, (letter, sign) in ways.items()]
        write_text(self._file, "\n".join(["# Keys that jog while the keyboard is armed.", *lines, ""]))


def _read(text: str) -> dict[Qt.Key, Way]:
    ways: dict[Qt.Key, Way] = {}
    for name, way in tomllib.loads(text).items():
        key = next((key for key in _FREE if key_text(key) == name), None)
        if key is None or not isinstance(way, str) or way[:-1] not in AXIS_LETTERS or way[-1:] not in ("+", "-"):
            raise ValueError(f"“{name}” is not a key that can jog, or “{way}” not a way")
        ways[key] = way[:-1], 1 if way[-1] == "+" else -1
    return ways
