"""The counts of an encoder while whole turns are made by hand."""

from __future__ import annotations

from typing import Protocol

from idler.core.spindle.way import hand_verdict
from idler.session.session import Session

from ..engine import Ending, Procedure, Result, Run
from ..questions import done


class Counts(Protocol):
    """What counts turns: how many were asked for last, for whoever shows it."""

    turns: int


def count_by_hand(run: Procedure, counts: Counts, session: Session, turns: int, before: str = "") -> Run:
    """Begins at the place where the spindle stands. before: words that the first question begins with."""
    while True:
        counts.turns, start = turns, session.panel.counts
        times = "once" if turns == 1 else f"{turns} times"
        words = f"{before}Now turn it {times} to the right, to the same mark; then say so."
        run.say(words)
        yield from run.ask(done("encoder.turned", words))
        verdict = hand_verdict(session.machine, session.panel.counts - start, turns)
        if not verdict.again:
            return Result(Ending.DONE if verdict.counted else Ending.FAILED, verdict.words, edit=dict(verdict.edit))
        turns, before = verdict.again, f"{verdict.words.removesuffix('.')}. "
