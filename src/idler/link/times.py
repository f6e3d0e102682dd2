"""How long the link waits for what, in one place."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Times:
    """All in seconds. The first three are told to the controller as well (1016h), which ends things by itself."""

    hold: float = 0.09  # a held jog goes on for so long while Idler is not heard
    terminals: float = 0.25  # held outputs and the spindle
    motion: float = 0.4  # any other motion, which has an end of its own
    confirm: float = 0.25  # a held jog goes on for so long while the window does not confirm it
    part: float = 0.3  # a part of several that was asked while anything moves may owe its answer for so long
    silence: float = 1.5  # without a heartbeat of the controller, and the link is lost
    answer: float = 1.5  # for one SDO
    others: float = 0.1  # for one more node to answer, when one has
    search: tuple[float, ...] = (0.25, 0.5, 1.0)  # for an answer, each time it is asked who is there
    return_: float = 15.0  # for a controller to come back from a restart
    power: float = 2.0  # for all drives to follow
    report: float = 0.2  # until a controller has certainly reported what it does


usual = Times()  # what a link waits that is told nothing else
