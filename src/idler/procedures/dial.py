"""What every procedure asks of a dial: a reading within its reach; on the bench its hands set it to zero."""

from __future__ import annotations

from collections.abc import Generator
from fractions import Fraction

from idler.core.errors import Refusal
from idler.core.geometry.play import FOLLOWS, follows
from idler.core.mechanics.scale import Instrument, fitting
from idler.core.values.measures import Measures
from idler.core.values.quantity import parse
from idler.core.values.units import Dimension
from idler.session.session import Session

from .engine import Procedure, Trouble, Wait
from .questions import reading
from .safe import go_to

DIALS = tuple(item for item in fitting(False) if item.lag)


def dial_value(typed: str, dial: Instrument, reads: Measures, part: str) -> Fraction:
    """What a dial says, in mm. Raises Refusal."""
    value = parse(typed, Dimension.TRAVEL.unit(False), bare=reads.unit(), part=part, sample=Fraction(3, 100))
    if abs(value) > dial.reach:
        reach = reads.length(dial.reach, trim=True)
        raise Refusal(part, reads.length(value, trim=True), "is beyond the reach of the dial", f"-{reach} to {reach}")
    return value


def see_it_follow(
    run: Procedure, session: Session, slot: int, dial: Instrument, at: float, key: str
) -> Generator[Wait, None, None]:
    """A dial that touches nothing, or another part, would say that nothing ever moves. Raises Trouble."""
    axis = session.machine.axis(slot)
    yield from go_to(run, session, slot, at - FOLLOWS)
    said = yield from run.ask(
        reading(
            key, f"{axis.name} went {axis.reads.length(FOLLOWS, trim=True)} to \u2212, to see that the dial "
            "follows. What does it say, with its sign?",
            lambda typed: dial_value(typed, dial, axis.reads, f"dial at {axis.name}"),
            axis=axis.name, instrument=dial.key, unit=axis.reads.name,
        )
    )  # fmt: skip
    if why := follows(float(said or 0)):
        raise Trouble(f"The dial says {axis.reads.length(float(said or 0))}: {why}. Nothing was measured with it.")


def set_to_zero(session: Session, **where: str) -> Generator[Wait, None, None]:
    """On the bench its hands set the dial to zero here; at a real machine the person has done it."""
    hands, answered = session.bench_hands, list[object]()
    if hands is not None:
        hands.ask(answered.append, do="zero", **where)
        yield lambda: bool(answered)
