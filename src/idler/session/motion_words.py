"""Drives, motion and fault of a session in words, for the header of a window or the line of a terminal."""

from __future__ import annotations

from fractions import Fraction
from typing import TYPE_CHECKING

from idler.core.profile.cia402 import State
from idler.core.profile.terminals import Condition
from idler.core.values.units import figure

if TYPE_CHECKING:
    from .session import Session

UNHEARD = 0.5  # s without a word of the controller: what it said before is not true any more
STILL = 30.0  # rpm: slower than this a spindle is not called running down


def motion_words(session: Session) -> str:
    """Drives, motion, and fault in words, for the header."""
    axes = session.link.axes
    if not axes:
        return "no controller"
    if (silence := session.link.silence) > UNHEARD:
        return f"not heard for {silence:.1f} s"
    if words := session.link.node_words:
        return f"controller {words}"
    runs_down = _run_down_words(session)
    tail = f", {runs_down}" if runs_down else ""
    if any(axis.stop_pressed for axis in axes):
        return f"emergency stop pressed{tail}"
    named = list(zip(session.link_names, axes, strict=False))
    faulted = [name for name, axis in named if axis.state in (State.FAULT, State.FAULT_REACTION)]
    if faulted:
        current = [name for name, axis in named if axis.state.powered]
        others = f", {' '.join(current)} powered" if current else ", drives off"
        fault = "fault over" if session.cause_gone else "fault"
        return f"{fault} of {' '.join(faulted)}{others}{tail}" if current else f"{fault}{others}{tail}"
    drives = "drives powered" if session.powered else "drives off"
    if session.link.panel.conditions & Condition.SPINDLE:
        drives = f"spindle on, {drives}"
    elif runs_down:
        drives = f"{runs_down}, {drives}"
    if session.moving:
        return f"{drives}, moving"
    if any(axis.state is State.QUICK_STOP for axis in axes):
        return f"{drives}, stopped"
    return f"{drives}, at rest"


def _run_down_words(session: Session) -> str:
    """Of a spindle that is told to stop and turns on, by its encoder or by the time that it is told to need."""
    panel = session.link.panel
    if panel.conditions & Condition.SPINDLE:
        return ""
    if abs(panel.speed) > STILL:
        return f"spindle runs down, {figure(Fraction(abs(panel.speed)), 0)} rpm"
    return "spindle runs down" if panel.conditions & Condition.RUNNING_DOWN else ""
