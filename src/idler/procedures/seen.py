"""What eyes say of what cuts, asked alike wherever it is on: which way a spindle turns, whether a torch burns."""

from __future__ import annotations

from idler.core.wiring.tool import Tool

from .engine import Trouble
from .questions import Question, choice


def which_way() -> Question[str]:
    text = "Look from the motor along the spindle towards the work. Which way does it turn?"
    return choice("spindle.way", text, {"right": "to the right", "left": "to the left", "nothing": "nothing turns"})


def is_it_on(tool: Tool) -> Question[str]:
    return choice("cutter.on", f"Does it {tool.work}?", {"yes": f"Yes, it {tool.works}", "no": "No"})


def not_on(tool: Tool) -> Trouble:
    """It was told to be, and is not."""
    if tool.turns:
        return Trouble("It was told to turn and does not. Look at its drive, its output and its level.")
    return Trouble(f"It was switched on and does not {tool.work}. Look at its supply and at its output.")
