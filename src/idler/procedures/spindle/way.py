"""Right is right, as a person sees it while the spindle turns; and an encoder that is turned by hand."""

from __future__ import annotations

from collections.abc import Generator
from dataclasses import replace

from idler.core.proof.claims import Proof, Witness, meter_claim, spindle_way_claim, state, value_texts
from idler.core.spindle import Meter, meters
from idler.core.spindle.way import WAYS, Look, look_speeds, ways_of, ways_verdict
from idler.link.events import Asked
from idler.session.session import Session

from ..engine import Ending, Procedure, Result, Run, Steps, Trouble, Wait
from ..questions import done
from ..seen import which_way
from .counting import TURNS, count_by_hand
from .meter import SpeedMeter
from .run import ASK_AGAIN, NEVER_TURNS, Turning

LONGEST = 30.0  # s that it turns while nobody answers


class WayRun(Turning):
    """It turns for as long as a finger holds it, or, without one, until it was answered what was seen."""

    what = "the way of the spindle"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._looks: dict[int, Look] = {}  # by the way that was asked for
        self._rests: dict[str, str] = {}  # the values with which they did
        self._rpm = 0.0  # the encoder's highest, right is +
        self._turned = False  # whether the controller has told it to turn
        session.hands_off.subscribe(self.let_go)

    @property
    def left(self) -> tuple[int, ...]:
        """The ways that nobody has seen it turn yet, as it is told now."""
        machine = self._session.machine
        if self._rests != self._rests_now:
            return ways_of(machine)
        return tuple(way for way in ways_of(machine) if way not in self._looks or not self._looks[way].seen)

    def look_at(self, way: int = 0) -> str:
        """Turns it right (1) or left (-1) under a finger, else each way that it can, one after the other, and asks what was
        seen; a sentence where it cannot begin."""
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
        looked = self._held_at(way) if way else self._looking_at(ways_of(self._session.machine))
        self.begin(looked, "It turns slowly.")
        return ""

    def let_go(self) -> None:
        """The finger is lifted: the spindle is not told to turn any more; the question stands."""
        self._turned = self._turned or self._told_to_turn
        self.rest()

    def _look(self) -> None:
        measured = self._session.panel.speed
        if self.asked.run and abs(measured) > abs(self._rpm):
            self._rpm = measured
        super()._look()

    def _looking_at(self, ways: tuple[int, ...]) -> Run:
        before = None
        for way in ways:
            if before is not None and before.seen:  # what was seen to stand need not come to rest
                yield from self._stands()
            before = yield from self._looking(way)
            self._keep_look(way, before)
        return self._judged()

    def _held_at(self, way: int) -> Run:
        """As long as a finger holds it, slowly; where that turned nothing, it goes faster under the next finger."""
        slow, *faster = look_speeds(self._session.machine, self.engaged())
        known = self._looks.get(way) if self._rests == self._rests_now else None
        rpm = faster[0] if faster and known is not None and not known.seen else slow
        look = yield from self._looking_once(way, rpm)
        self._keep_look(way, look)
        result = self._judged()
        if look.seen or rpm != slow or not faster:
            return result
        hint = f"A low level may not turn it: hold it once more, and it is asked for {faster[0]} rpm."
        return replace(result, words=f"{result.words} {hint}")

    @property
    def _rests_now(self) -> dict[str, str]:
        return value_texts(self._session.machine, spindle_way_claim(self._session.machine).rests)

    def _keep_look(self, way: int, look: Look) -> None:
        if self._rests != self._rests_now or not self.left:
            self._looks, self._rests = {}, self._rests_now
        self._looks[way] = look

    def _judged(self) -> Result:
        verdict = ways_verdict(self._session.machine, self._looks)
        if verdict.unseen:
            return Result(Ending.DONE, verdict.words)
        self.keep_proof(spindle_way_claim(self._session.machine), verdict.held, verdict.words, Witness.EYES)
        return Result.of(verdict.held, verdict.words, dict(verdict.edit))

    def _stands(self) -> Steps:
        """It is not asked for the other way before it stands: by eyes, or by what measures it where a hand has counted with
        that. A meter that is not there says that it stands, too."""
        yield lambda: not self._told_to_turn
        machine = self._session.machine
        kind = meters(machine)[0]
        claim = meter_claim(machine, kind)
        if claim is None or state(machine, claim, self._session.proofs) is not Proof.PROVEN:
            yield from self.ask(done("spindle.stands", "Wait until the spindle stands; then it turns the other way."))
            return
        self.meter = SpeedMeter(self._session, kind)
        yield from self._settle("")

    def _looking(self, way: int) -> Generator[Wait, None, Look]:
        """What was seen of one way: slowly, and faster where nothing was seen to turn."""
        slow, *faster = look_speeds(self._session.machine, self.engaged())
        look = yield from self._looking_once(way, slow)
        for rpm in () if look.seen else faster:
            words = (
                f"A low level may not turn it: with your answer it is asked for {rpm} rpm, for {slow} turned nothing."
            )
            yield from self.ask(done("spindle.faster", words))
            look = yield from self._looking_once(way, rpm)
        return look

    def _looking_once(self, way: int, rpm: int) -> Generator[Wait, None, Look]:
        session, began = self._session, self._session.loop.now()
        self._rpm, self._turned = 0.0, False
        self.turn(Asked(run=way, speed=rpm))
        with self._within(NEVER_TURNS, "The controller did not start the spindle.") as check:
            told = began

            def turns() -> bool:
                nonlocal told
                check()
                if self.asked == Asked() and not self._turned:
                    raise Trouble("It was let go before it turned.", Ending.STOPPED)
                if self.asked != Asked() and not self._told_to_turn and session.loop.now() - told > ASK_AGAIN:
                    told = session.loop.now()
                    self.turn(self.asked)
                return self._turned or self._told_to_turn

            yield turns

        def unseen() -> bool:
            """Never an answer; but what nobody looks at does not turn for ever."""
            if session.loop.now() - began > LONGEST:
                self.rest()
            return self._ended_meanwhile()

        seen = yield from self.ask(which_way(), unless=unseen, free=True)
        self.rest()
        return Look({words: number for number, words in WAYS.items()}[str(seen)], self._rpm, rpm)


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
