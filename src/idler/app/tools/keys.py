"""Which keys jog which axis once the keyboard is armed, and which do what of the menu.

Kept beside the shelf, for they belong to the person, not to a machine. Only keys that type nothing and do nothing else jog;
a command takes a function key or a key with Ctrl or Alt, one that reaches the controller or ends the work only the latter.
No key can start a thing by surprise, and Esc is STOP whatever else is pressed.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from pathlib import Path

from PySide6.QtCore import QKeyCombination, QObject, Qt, Signal
from PySide6.QtGui import QKeySequence

from idler.core.errors import IdlerError, Refusal
from idler.core.machine import filedata
from idler.core.values.parameter import AXIS_LETTERS
from idler.shelf.files import Careful, read_text, write_text

from .commands import COMMANDS, Command

Way = tuple[str, int]  # letter of the axis, sign
Keys = tuple[QKeySequence, ...]
_WAYS: dict[Qt.Key, Way] = {
    Qt.Key.Key_Right: ("X", 1), Qt.Key.Key_Left: ("X", -1), Qt.Key.Key_Up: ("Y", 1), Qt.Key.Key_Down: ("Y", -1),
    Qt.Key.Key_PageUp: ("Z", 1), Qt.Key.Key_PageDown: ("Z", -1),
}  # fmt: skip
_FUNCTION = tuple(Qt.Key(Qt.Key.Key_F1.value + place) for place in range(12))
_FREE = (
    Qt.Key.Key_Right, Qt.Key.Key_Left, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown,
    Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_Insert, *_FUNCTION,
)  # fmt: skip
_WORDS = "arrows, Page Up and Down, Home, End, Insert, and F1 to F12"
_FIELDS = tuple(QKeySequence(f"Ctrl+{letter}") for letter in "ACVX")
_CHORD = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier


def key_text(key: Qt.Key) -> str:
    """The key as it is printed on it."""
    return QKeySequence(key).toString()


def keys_text(keys: Iterable[QKeySequence]) -> str:
    return QKeySequence.listToString(list(keys))


def _read_keys(text: str) -> Keys:
    return tuple(QKeySequence.listFromString(text)) if text else ()


def _first(keys: QKeySequence) -> QKeyCombination:
    combination: QKeyCombination = keys[0]  # type: ignore[index]  # the stubs of Qt do not know it
    return combination


def _problem(command: Command, keys: QKeySequence, ways: Mapping[Qt.Key, Way]) -> str:
    """What is wrong with these keys for a command, or an empty text."""
    first = _first(keys)
    key, held = first.key(), first.keyboardModifiers()
    if keys.count() != 1 or key == Qt.Key.Key_Escape:
        return "stops the machine, whatever else is pressed" if key == Qt.Key.Key_Escape else "is more than one press"
    if keys in _FIELDS:
        return "belongs to the fields"
    if held & _CHORD:
        return ""
    if key not in _FUNCTION:
        return "types or does something else; take a key with Ctrl or Alt, or one of F1 to F12"
    if not command.alone:
        return "is a single key, which must not do this; take it with Ctrl or Alt"
    if key in ways:
        return f"jogs {_way_text(ways[key])}; take it from there first"
    return ""


class Bindings(QObject):
    """One key for each way, and keys for each command; what is given to another one is taken from the first."""

    changed = Signal()

    def __init__(self, file: Path) -> None:
        super().__init__()
        self._file, self._careful = file, Careful()
        self._ways = dict(_WAYS)
        self._keys = _usual_keys()
        self.trouble = ""
        if file.exists():
            try:
                self._ways, self._keys = self._careful.read(file, lambda file: _read(read_text(file)))
            except (IdlerError, ValueError) as why:
                self.trouble = f"The keys in {file.name} cannot be used ({why}); the usual ones jog."

    # -- jogging --------------------------------------------------------------------------------------------------

    def way_of(self, key: Qt.Key) -> Way | None:
        return self._ways.get(key)

    def key_of(self, way: Way) -> Qt.Key | None:
        return next((key for key, bound in self._ways.items() if bound == way), None)

    def bind(self, way: Way, key: Qt.Key | None) -> None:
        """None: no key jogs this way any more. Raises Refusal for a key that may not; IdlerError where it cannot be kept."""
        if key is not None and (problem := _jog_problem(key, self._keys)):
            raise Refusal(f"key for {_way_text(way)}", f"“{key_text(key) or 'this key'}”", problem, _WORDS)
        ways = {bound: at for bound, at in self._ways.items() if at != way and bound != key}
        if key is not None:
            ways[key] = way
        self._keep(ways, self._keys)

    def usual_ways(self) -> None:
        """The keys for jogging that Idler comes with, but for those that a command was given since."""
        self._keep({key: way for key, way in _WAYS.items() if not _jog_problem(key, self._keys)}, self._keys)

    # -- commands -------------------------------------------------------------------------------------------------

    def keys_of(self, name: str) -> Keys:
        return self._keys[name]

    def text_of(self, name: str) -> str:
        """The first of a command's keys as it is printed, or an empty text."""
        return self._keys[name][0].toString() if self._keys[name] else ""

    def bind_command(self, name: str, keys: QKeySequence | None) -> None:
        """None: only the menu does it from now on. Raises like `bind`."""
        command = COMMANDS[name]
        if keys is not None and (problem := _problem(command, keys, self._ways)):
            raise Refusal(f"keys for “{command.words}”", f"“{keys.toString()}”", problem)
        others = {other: tuple(k for k in bound if k != keys) for other, bound in self._keys.items()}
        self._keep(self._ways, others | {name: () if keys is None else (keys,)})

    def usual_keys(self) -> None:
        """The keys of the menu that Idler comes with, but for those that jog now."""
        usual = _usual_keys()
        for name, keys in usual.items():
            usual[name] = tuple(k for k in keys if not _problem(COMMANDS[name], k, self._ways))
        self._keep(self._ways, usual)

    def _keep(self, ways: dict[Qt.Key, Way], keys: dict[str, Keys]) -> None:
        self._ways, self._keys = ways, keys
        self.changed.emit()
        usual = _usual_keys()
        lines = [f'"{key_text(key)}" = "{letter}{"+" if sign > 0 else "-"}"' for key, (letter, sign) in ways.items()]
        others = [f'{name} = "{keys_text(bound)}"' for name, bound in keys.items() if bound != usual[name]]
        if others:
            lines += ["", "# Keys of the menu that are not the usual ones.", "[menu]", *others]
        write_text(
            self._careful.place(self._file), "\n".join(["# Keys that jog while the keyboard is armed.", *lines, ""])
        )


def _usual_keys() -> dict[str, Keys]:
    return {name: _read_keys(command.keys) for name, command in COMMANDS.items()}


def _way_text(way: Way) -> str:
    return f"{way[0]}{'+' if way[1] > 0 else '−'}"


def _jog_problem(key: Qt.Key, keys: Mapping[str, Keys]) -> str:
    """What is wrong with a key for jogging, or an empty text."""
    if key not in _FREE:
        return "types or does something else"
    for name, bound in keys.items():
        if any(each.key() == key and not each.keyboardModifiers() & _CHORD for each in map(_first, bound)):
            return f"does “{COMMANDS[name].words}”"
    return ""


def _read(text: str) -> tuple[dict[Qt.Key, Way], dict[str, Keys]]:
    """Raises ValueError or IdlerError."""
    told = filedata.toml(text)
    keys, menu = _usual_keys(), told.pop("menu", {})
    if not isinstance(menu, dict):
        raise ValueError("“menu” is no table")
    for name, written in menu.items():
        if name not in COMMANDS or not isinstance(written, str):
            raise ValueError(f"“{name}” is no command")
        keys[name] = _read_keys(written)
    ways: dict[Qt.Key, Way] = {}
    for name, way in told.items():
        key = next((key for key in _FREE if key_text(key) == name), None)
        if key is None or not isinstance(way, str) or way[:-1] not in AXIS_LETTERS or way[-1:] not in ("+", "-"):
            raise ValueError(f"“{name}” is not a key that can jog, or “{way}” not a way")
        ways[key] = way[:-1], 1 if way[-1] == "+" else -1
    for name in menu:
        for each in keys[name]:
            if problem := _problem(COMMANDS[name], each, ways):
                raise ValueError(f"“{each.toString()}” for “{COMMANDS[name].words}” {problem}")
    for key in ways:
        if problem := _jog_problem(key, keys):
            raise ValueError(f"“{key_text(key)}” {problem}")
    return ways, keys
