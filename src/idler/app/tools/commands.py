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
        Command("find", "Find…", "Ctrl+K"),
        Command("help", "Help", "F1"),
    )),
    Group((
        Command("machines", "Machines…", "Ctrl+O"),
        Command("names", "Name, kind and unit…"),
        Command("lock", "Lock or unlock the set-up…"),
        Command("start", "Start-up…"),
        Command("bench", "Start the bench", alone=False),
        Command("look", "Show the machine itself", "Ctrl+B"),
    ), "Machine"),
    Group((
        Command("send", "Send to the controller…", "Ctrl+Return", alone=False),
        Command("keep", "Keep revision…", "Ctrl+S"),
        Command("revisions", "Revisions", "Ctrl+H"),
        Command("incidents", "Incidents"),
    ), "Keep"),
    Group((
        Command("import", "Import…", alone=False),
        Command("export", "Export…"),
        Command("report", "Report…", "Ctrl+P"),
        Command("diagram", "Wiring diagram…"),
    ), "Exchange"),
    Group((
        Command("jogging", "Jogging and its keys…"),
        Command("keys", "Keys of this menu…"),
        Command("hand", "Hand device…"),
        Command("arm", "Jog with the keyboard: arm or disarm", "F6"),
        Command("wire", "On the wire", "Ctrl+T"),
        Command("parts", "Parts and their data sheets…"),
        Command("number", "Give a node its number…"),
        Command("log", "Log"),
        Command("problem", "Report of a problem…"),
    ), "Tools"),
    Group((
        Command("night", "Dark colours for a dim workshop", "Ctrl+N"),
        Command("large", "Text as large as the window allows"),
        Command("sounds", "Sounds for a question, an end and a stop"),
        Command("leads", "After a proof, go on to what is next"),
    ), "View"),
    Group((Command("leave", "Leave Idler", "Ctrl+Q", alone=False),)),
)  # fmt: skip
COMMANDS = {command.name: command for group in GROUPS for command in group.commands}
