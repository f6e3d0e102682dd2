"""The trial of the signals: many reversals, then many powerings, each between two touches of the home switch.

Every move after power goes the same way, so that steps which come too early add up; the way back is sought.
"""

from __future__ import annotations

from collections.abc import Generator

from idler.core.homing import way
from idler.core.proof.claims import home_witness, pace_claim
from idler.core.wiring.signals import POWERINGS, REVERSALS, SignalsVerdict, judge_signals
from idler.session.session import Session
from idler.session.topic import Topic

from ..engine import Ending, Result, Run, Wait
from ..witness import WitnessRun

STEP = 0.5  # mm or ° of one reversal, or after one powering


class SignalsRun(WitnessRun):
    what = "the trial of the signals"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.judged: Topic[SignalsVerdict] = Topic()
        self.slot = 0

    def begin_with(self, slot: int) -> str:
        """A sentence where it cannot begin."""
        session = self._session
        why = session.motion_obstacle(pace_claim(session.machine, slot).rests) or self.fine_obstacle(slot)
        if not why:
            self.slot = slot
            self.begin(self._trying(slot), "It begins at the switch.")
        return why

    def _trying(self, slot: int) -> Run:
        axis = self._session.machine.axis(slot)
        away, speed = -way(axis), self.touch_speed(slot)
        yield from self.witness(slot)
        for number in range(REVERSALS // 2):
            self.say(f"Reversal {2 * number + 1} of {REVERSALS}. Esc stops it.")
            yield self.move(slot, away * STEP, speed)
            yield self.move(slot, -away * STEP, speed)
        first = yield from self._shift(slot)
        for number in range(POWERINGS):
            self.say(f"Powering {number + 1} of {POWERINGS}. Esc stops it.")
            yield self._power(False)
            yield self._power(True)
            yield self.move(slot, away * STEP, speed)
        second = yield from self._shift(slot)
        verdict = judge_signals(self._session.machine, slot, first, second)
        if not verdict.good:
            self._session.homes.lost_steps(slot, "lost steps", home_witness(axis))
        self.judged.publish(verdict)
        return Result(Ending.DONE if verdict.good else Ending.NOT_PROVEN, verdict.words, edit=verdict.edit)

    def _power(self, on: bool) -> Wait:
        """Over when the drives have power, or have none."""
        self._session.power_asked += on
        self._session.link.power(on)
        return lambda: self._session.powered is on and all(axis.state.powered is on for axis in self._session.axes)

    def _shift(self, slot: int) -> Generator[Wait, None, float]:
        before = self.place
        yield from self.witness(slot)
        return self.shift_since(slot, before)
