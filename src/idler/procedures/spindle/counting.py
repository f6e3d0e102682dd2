"""The counts of an encoder while whole turns are made by hand."""

from __future__ import annotations

from typing import Protocol

from idler.core.spindle.way import hand_verdict
from idler.session.session import Session

from ..at_rest import HEARD_BY, Stopwatch
from ..engine import Ending, Procedure, Result, Run, Steps, Trouble
from ..questions import done


class Counts(Protocol):
    """What counts turns: how many were asked for last, for whoever shows it."""

    turns: int


STANDS = 1.5  # s of the controller's clock without a count: nobody touches what still runs down
LONGEST = 300.0  # s, after which it is said that it does not come to rest


def _standing(run: Procedure, session: Session, words: str) -> Steps:
    """Over when the encoder has counted nothing for a while, however late its counts are heard."""
    still, whole, last = Stopwatch(session), Stopwatch(session), session.panel.counts
    since = session.loop.now()

    def stands() -> bool:
        nonlocal last, since
        still.look()
        if session.panel.counts != last:
            last, since = session.panel.counts, session.loop.now()
            still.begin()
        if whole.look() > LONGEST:
            raise Trouble("The spindle does not come to rest: its encoder counts on while nothing turns it.")
        return still.seconds > STANDS and session.loop.now() - since > HEARD_BY

    run.say(words)
    yield stands


def count_by_hand(run: Procedure, counts: Counts, session: Session, turns: int, before: str = "") -> Run:
    """Begins at the place where the spindle stands, once it does. before: words that the first question begins with."""
    yield from _standing(run, session, "The spindle runs down. Do not touch it before it stands.")
    while True:
        counts.turns, start = turns, session.panel.counts
        times = "once" if turns == 1 else f"{turns} times"
        words = f"{before}Now turn it {times} to the right, to the same mark; then say so."
        run.say(words)
        yield from run.ask(done("encoder.turned", words))
        yield from _standing(run, session, "Let it stand at the mark.")
        verdict = hand_verdict(session.machine, session.panel.counts - start, turns)
        if not verdict.again:
            return Result(Ending.DONE if verdict.counted else Ending.FAILED, verdict.words, edit=dict(verdict.edit))
        turns, before = verdict.again, f"{verdict.words.removesuffix('.')}. "
