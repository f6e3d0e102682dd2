"""Towards something that closes the wire of the touch probe; it must have been seen to work before anything moves."""

from __future__ import annotations

from collections.abc import Generator

from idler.core.profile import cia402 as c
from idler.core.profile.cia402 import position_from
from idler.core.profile.codec import Place
from idler.core.table import axis_index
from idler.core.values.roles import InputRole
from idler.core.wiring import Duty, input_of
from idler.session.session import Session

from .engine import Procedure, Steps, Trouble, Wait
from .questions import done


def touched(session: Session) -> bool:
    """Whether the touch probe is made now."""
    item = input_of(session.machine, Duty(InputRole.PROBE))
    return item is not None and item.made(session.panel.is_closed(item.slot))


def seen_to_work(run: Procedure, session: Session) -> Steps:
    """Nothing moves before the terminal was seen to change while the plate was held to the tool."""
    text = "Hold the plate to the tool, then take it away: its input must be seen to change."
    yield from run.ask(done("touch.plate", text, by_world=True), unless=lambda: touched(session))
    if not touched(session):
        raise Trouble(
            "The input did not change: nothing would stop the tool. Look at plate, clip and wire. Nothing was moved."
        )
    run.say("It was seen. Take the plate away, and put it where it is to be touched.")
    yield lambda: not touched(session)
    yield from run.ask(done("touch.ready", "The plate lies where it is to be touched, and hands are away?"))
    if touched(session):
        raise Trouble("The plate is touched already. Nothing was moved.")


def seek(run: Procedure, slot: int, distance: float, speed: float) -> Generator[Wait, None, float | None]:
    """mm, at mm/min; the machine coordinate where something was touched, or None where nothing was."""
    count, latched = Place(axis_index(c.LATCHES, slot), 0), Place(axis_index(c.LATCHED, slot), 0)
    yield run.read(count)
    before = run.raw(count)
    yield run.move(slot, distance, speed, seek=True)
    yield run.read(count, latched)
    return None if run.raw(count) == before else position_from(run.raw(latched))
