"""What every procedure asks of a dial: a reading within its reach; on the bench its hands set it to zero."""

from __future__ import annotations

from collections.abc import Generator
from fractions import Fraction

from idler.core.errors import Refusal
from idler.core.mechanics.scale import Instrument, fitting
from idler.core.values.measures import Measures
from idler.core.values.quantity import parse
from idler.core.values.units import Dimension
from idler.session.session import Session

from .engine import Wait

DIALS = tuple(item for item in fitting(False) if item.lag)


def dial_value(typed: str, dial: Instrument, reads: Measures, part: str) -> Fraction:
    """What a dial says, in mm. Raises Refusal."""
    value = parse(typed, Dimension.TRAVEL.unit(False), bare=reads.unit(), part=part, sample=Fraction(3, 100))
    if abs(value) > dial.reach:
        reach = reads.length(dial.reach, trim=True)
        raise Refusal(part, reads.length(value, trim=True), "is beyond the reach of the dial", f"-{reach} to {reach}")
    return value


def set_to_zero(session: Session, **where: str) -> Generator[Wait, None, None]:
    """On the bench its hands set the dial to zero here; at a real machine the person has done it."""
    hands, answered = session.bench_hands, list[object]()
    if hands is not None:
        hands.ask(answered.append, do="zero", **where)
        yield lambda: bool(answered)
