"""What the menu of the machine can do: the words of each command and the keys that it comes with."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Command:
    """keys: as Qt writes them, several divided by "; ". alone: one function key by itself may do it."""

    name: str
    words: str
    keys: str = ""
    alone: bool = True


@dataclass(frozen=True)
class Group:
    """Commands between two lines of the menu; with a title they are a menu of their own."""

    commands: tuple[Command, ...]
    title: str = ""


GROUPS = (
    Group((
        Command("undo", "Undo", "Ctrl+Z", alone=False),
        Command("redo", "Redo", "Ctrl+Shift+Z; Ctrl+Y", alone=False),
    )),
    Group((
        Command("machines", "Machines…", "Ctrl+O"),
        Command("send", "Send to the controller…", "Ctrl+Return", alone=False),
        Command("keep", "Keep revision…", "Ctrl+S"),
        Command("revisions", "Revisions", "Ctrl+H"),
        Command("incidents", "Incidents"),
        Command("diagram", "Wiring diagram…"),
        Command("report", "Report…", "Ctrl+P"),
        Command("import", "Import…", alone=False),
        Command("export", "Export…"),
        Command("names", "Name, kind and unit…"),
        Command("jogging", "Jogging and its keys…"),
        Command("keys", "Keys of this menu…"),
        Command("lock", "Lock or unlock the set-up…"),
        Command("start", "Start-up…"),
    )),
    Group((
        Command("wire", "On the wire", "Ctrl+T"),
        Command("log", "Log"),
        Command("problem", "Report of a problem…"),
    )),
    Group((
        Command("bench", "Start the bench", alone=False),
        Command("look", "Show the machine itself", "Ctrl+B"),
    ), "Bench"),
    Group((
        Command("arm", "Jog with the keyboard: arm or disarm", "F6"),
        Command("night", "Paper or night", "Ctrl+N"),
    )),
    Group((Command("leave", "Leave Idler", "Ctrl+Q", alone=False),)),
)  # fmt: skip
COMMANDS = {command.name: command for group in GROUPS for command in group.commands}
