"""Towards something that closes the wire of the touch probe; it must have been seen to work before anything moves."""

from __future__ import annotations

from collections.abc import Generator
from dataclasses import dataclass

from idler.core.profile import cia402 as c
from idler.core.profile.cia402 import position_from
from idler.core.profile.codec import Place
from idler.core.table import axis_index
from idler.core.values.roles import InputRole
from idler.core.wiring import Duty, input_of
from idler.session.session import Session

from .at_rest import HEARD_BY
from .engine import Procedure, Steps, Trouble, Wait
from .questions import done

AGAIN = 1.5  # times the way back: how far the slow touch looks
SCATTER = 0.1  # mm: touches that scatter more are no place


def touched(session: Session) -> bool:
    """Whether the touch probe is made now."""
    item = input_of(session.machine, Duty(InputRole.PROBE))
    return item is not None and item.made(session.panel.is_closed(item.slot))


@dataclass(frozen=True)
class Touched:
    """The sentences about what is touched: how it is tried, what is looked at where that is not seen, what is done once it was
    seen, and whether all is ready then."""

    tried: str
    look_at: str
    seen: str
    ready: str


PLATE = Touched(
    "Hold the plate to the tool, then take it away: its input must be seen to change.", "plate, clip and wire",
    "It was seen. Take the plate away, and put it where it is to be touched.",
    "The plate lies where it is to be touched, and hands are away?",
)  # fmt: skip


def seen_to_work(run: Procedure, session: Session, what: Touched = PLATE) -> Steps:
    """Nothing moves before the terminal was seen to change while a hand made it."""
    yield from run.ask(done("touch.plate", what.tried, by_world=True), unless=lambda: touched(session))
    if not touched(session):
        raise Trouble(
            f"The input did not change: nothing would stop the tool. Look at {what.look_at}. Nothing was moved."
        )
    run.say(what.seen)
    yield lambda: not touched(session)
    yield from run.ask(done("touch.ready", what.ready))
    if touched(session):
        raise Trouble("It is touched already. Nothing was moved.")


def seek(run: Procedure, slot: int, distance: float, speed: float) -> Generator[Wait, None, float | None]:
    """mm, at mm/min; the machine coordinate where something was touched, or None where nothing was."""
    count, latched = Place(axis_index(c.LATCHES, slot), 0), Place(axis_index(c.LATCHED, slot), 0)
    yield run.read(count)
    before = run.raw(count)
    yield run.move(slot, distance, speed, seek=True)
    yield run.read(count, latched)
    return None if run.raw(count) == before else position_from(run.raw(latched))


@dataclass(frozen=True)
class Touching:
    """How something is touched: mm/min to it at first and then slowly, mm back between, and how many slow touches."""

    fast: float
    slow: float
    back: float
    times: int


def touches(
    run: Procedure, session: Session, slot: int, way: int, reach: float, how: Touching
) -> Generator[Wait, None, list[float]]:
    """Fast, back, and slowly again, so many times: where the slow ones met it. reach: how far away it may be, mm. Ends `back`
    from it. Raises Trouble where nothing is met."""
    axis = session.machine.axis(slot)
    run.say(f"{axis.name} goes to the touch, {axis.reads.length(reach, trim=True)} at most. Esc stops it.")
    if (yield from seek(run, slot, way * reach, how.fast)) is None:
        raise Trouble(f"Nothing was touched within {axis.reads.length(reach, trim=True)} along {axis.name}.")
    places: list[float] = []
    for _ in range(how.times):
        yield from away(run, session, slot, -way * how.back, how.fast)
        met = yield from seek(run, slot, way * AGAIN * how.back, how.slow)
        if met is None:
            raise Trouble(f"{axis.name}: touched once, and not again. Look whether what it touches lies firm.")
        places.append(met)
    yield from away(run, session, slot, -way * how.back, how.fast)
    spread = max(places) - min(places)
    if spread > SCATTER:
        raise Trouble(
            f"{axis.name}: its touches scatter by {axis.reads.length(spread)}. Look whether what it touches lies firm."
        )
    return places


def away(run: Procedure, session: Session, slot: int, distance: float, speed: float) -> Steps:
    """Back from what was touched, mm at mm/min; it must let go, and that may be heard later than that it stands."""
    yield run.move(slot, distance, speed)
    late = session.loop.now() + HEARD_BY
    yield lambda: not touched(session) or session.loop.now() > late
    if touched(session):
        back = session.machine.axis(slot).reads.length(abs(distance), trim=True)
        raise Trouble(f"It still says that it is touched, {back} back. Look at its wire.")


def clear_way(run: Procedure, session: Session, slot: int, distance: float, speed: float) -> Steps:
    """A way on which nothing may be touched, mm at mm/min."""
    if (yield from seek(run, slot, distance, speed)) is not None:
        name = session.machine.names[slot]
        raise Trouble(f"Something was touched on the way along {name}, where nothing should be. It stands there.")
