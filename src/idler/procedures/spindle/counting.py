"""What measures the speed of the spindle, counted while whole turns are made by hand."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from idler.core.proof.claims import Witness, meter_claim, spindle_claims
from idler.core.spindle import Meter
from idler.core.spindle.encoder import SURE_TURNS
from idler.core.spindle.way import hand_verdict, pulses_verdict
from idler.session.session import Session

from ..at_rest import HEARD_BY, Stopwatch
from ..engine import Ending, Procedure, Result, Run, Steps, Trouble
from ..questions import done
from .meter import SpeedMeter

# Turns that are asked for at first: in one alone, a magnet that stands at its switch would be counted twice or not at all.
TURNS = {Meter.ENCODER: 1, Meter.PULSE: SURE_TURNS}
STANDS = 1.5  # s of the controller's clock without a count: nobody touches what still runs down
LONGEST = 300.0  # s, after which it is said that it does not come to rest


class Counts(Protocol):
    """What counts turns: how many were asked for last, for whoever shows it."""

    turns: int


def _counter(session: Session, kind: Meter) -> Callable[[], int]:
    if kind is Meter.ENCODER:
        return lambda: session.panel.counts
    meter, since = SpeedMeter(session, kind), session.trace.now
    return lambda: len(meter.pulses(since))


def _standing(run: Procedure, session: Session, counted: Callable[[], int], words: str) -> Steps:
    """Over when nothing was counted for a while, however late it is heard."""
    still, whole, last = Stopwatch(session), Stopwatch(session), counted()
    since = session.loop.now()

    def stands() -> bool:
        nonlocal last, since
        still.look()
        if (now := counted()) != last:
            last, since = now, session.loop.now()
            still.begin()
        if whole.look() > LONGEST:
            raise Trouble("The spindle does not come to rest: it is counted on while nothing turns it.")
        return still.seconds > STANDS and session.loop.now() - since > HEARD_BY

    run.say(words)
    yield stands


def count_by_hand(run: Procedure, counts: Counts, session: Session, kind: Meter, turns: int) -> Run:
    """Begins at the place where the spindle stands, once it does. kind: of an encoder, or of pulses."""
    counted = _counter(session, kind)
    yield from _standing(run, session, counted, "The spindle runs down. Do not touch it before it stands.")
    before = ""
    while True:
        counts.turns, start = turns, counted()
        times = "once" if turns == 1 else f"{turns} times"
        words = f"{before}Now turn it {times} to the right, to the same mark; then say so."
        run.say(words)
        yield from run.ask(done("encoder.turned", words))
        yield from _standing(run, session, counted, "Let it stand at the mark.")
        judge = hand_verdict if kind is Meter.ENCODER else pulses_verdict
        verdict = judge(session.machine, counted() - start, turns)
        if not verdict.again:
            break
        turns, before = verdict.again, f"{verdict.words.removesuffix('.')}. "
    claim = meter_claim(session.machine, kind)
    if claim is not None and claim.key in {each.key for each in spindle_claims(session.machine)}:
        right = verdict.counted is not None and not verdict.edit
        run.keep_proof(claim, right, verdict.words.removesuffix("."), Witness.EYES)  # that saw the same mark again
        end = Ending.PROVEN if right else Ending.NOT_PROVEN
    else:
        end = Ending.DONE
    return Result(end if verdict.counted else Ending.FAILED, verdict.words, edit=dict(verdict.edit))
