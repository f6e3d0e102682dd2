"""Right is right, as a person sees it while the spindle turns; and an encoder that is turned by hand."""

from __future__ import annotations

from idler.core.proof.claims import Witness, spindle_way_claim
from idler.core.spindle import Meter, meters
from idler.core.spindle.way import WAYS, way_verdict
from idler.link.events import Asked
from idler.session.session import Session

from ..engine import Ending, Procedure, Result, Run, Trouble
from ..seen import which_way
from .counting import TURNS, count_by_hand
from .run import NEVER_TURNS, Turning

LONGEST = 30.0  # s that it turns while nobody answers


class WayRun(Turning):
    """It turns for as long as a finger holds it, or, without one, until it was answered what was seen."""

    what = "the way of the spindle"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._rpm = 0.0  # the encoder's highest, right is +
        self._turned = False  # whether the controller has told it to turn
        session.hands_off.subscribe(self.let_go)

    def look_at(self, way: int) -> str:
        """Turns it right (1) or left (-1) and asks what was seen; a sentence where it cannot begin."""
        rests = spindle_way_claim(self._session.machine).rests
        if self.running:
            self.stop("It is tried again.")
        if (
            why := self.speedless
            or self._session.unsent(rests)
            or self._session.spindle_obstacle()
            or self._session.floor.obstacle(self)
        ):
            return why
        self._rpm, self._turned = 0.0, False
        self.begin(self._looking(way), "It turns slowly.")
        return ""

    def let_go(self) -> None:
        """The finger is lifted: the spindle is not told to turn any more; the question stands."""
        self._turned = self._turned or self._told_to_turn
        self.rest()

    @property
    def slow(self) -> int:
        """The speed at which it is looked at, in rpm."""
        found = self.engaged()
        return round(max(found.low, found.high / 10))

    def _look(self) -> None:
        measured = self._session.panel.speed
        if self.asked.run and abs(measured) > abs(self._rpm):
            self._rpm = measured
        super()._look()

    def _looking(self, way: int) -> Run:
        session, slow, began = self._session, self.slow, self._session.loop.now()
        self.turn(Asked(run=way, speed=slow))
        with self._within(NEVER_TURNS, "The controller did not start the spindle.") as check:

            def turns() -> bool:
                check()
                if self.asked == Asked() and not self._turned:
                    raise Trouble("It was let go before it turned.", Ending.STOPPED)
                return self._turned or self._told_to_turn

            yield turns

        def unseen() -> bool:
            """Never an answer; but what nobody looks at does not turn for ever."""
            if session.loop.now() - began > LONGEST:
                self.rest()
            return self._ended_meanwhile()

        seen = yield from self.ask(which_way(), unless=unseen, free=True)
        self.rest()
        found = {words: number for number, words in WAYS.items()}[str(seen)]
        verdict = way_verdict(session.machine, way, found, self._rpm, slow)
        if verdict.held:
            self.keep_proof(spindle_way_claim(session.machine), True, verdict.words, Witness.EYES)
        return Result.of(verdict.held, verdict.words, dict(verdict.edit))


class EncoderRun(Procedure):
    """What is counted, of an encoder or of pulses, while whole turns are made by hand. turns: how many were asked for last."""

    what = "the turns by hand"
    moves = False
    turns = 1

    @property
    def kind(self) -> Meter:
        """The pulses of an input, where the machine has nothing better; else an encoder, told already or not."""
        return Meter.PULSE if meters(self._session.machine)[0] is Meter.PULSE else Meter.ENCODER

    def count(self, turns: int = 0) -> str:
        """Begins at the place where the spindle stands; a sentence where it cannot. turns: 0 for as many as are usual."""
        turns = turns or TURNS[self.kind]
        if not self._session.connected:
            return "No controller is connected."
        self.begin(count_by_hand(self, self, self._session, self.kind, turns), "")
        return ""
