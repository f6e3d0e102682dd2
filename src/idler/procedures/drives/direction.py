"""The direction of an axis: a small move to +, and one question about what was seen."""

from __future__ import annotations

from idler.core.machine import Address
from idler.core.mechanics.axis_directions import sense, small_move
from idler.core.proof.claims import Proof, Witness, direction_claim, input_claim, state
from idler.core.values.parameter import Value
from idler.core.values.roles import InputRole
from idler.core.wiring import Duty, input_of
from idler.core.wiring.signals import Hand, SignalsVerdict, stood_still

from ..at_rest import AtRest
from ..engine import Ending, Procedure, Result, Run, Steps, Wait
from ..questions import choice

APART = "apart"  # the answer where two motors of one beam turn against each other
EXCHANGED = "exchanged"  # what became of it where the drives of two axes changed places
EXCHANGING = "Their drives change places then: Idler powers off and connects anew."
_NOT_SO = {"nothing": "nothing was seen to move", APART: "its two sides went apart", "other": "something else moved"}
SETTLED = 0.25  # s at rest before anything is asked


class DirectionRun(Procedure):
    """seen: the last answer, of the axis in slot. hand: what one felt where nothing moved. moved: the axis that moved in its
    place."""

    what = "the small move of an axis"
    slot = 0
    seen = moved = ""
    hand = Hand.STIFF

    def look_at(self, slot: int) -> str:
        """Moves it a little and asks what was seen; a sentence where it cannot begin."""
        if why := self._session.motion_obstacle(direction_claim(self._session.machine, slot).rests):
            return why
        self.slot, self.seen, self.moved, self.hand = slot, "", "", Hand.STIFF
        self.what = f"the small move of {self._session.machine.names[slot]}"
        self.begin(self._looking(slot), "Esc stops it.")
        return ""

    def _looking(self, slot: int) -> Run:
        session = self._session
        yield self._at_rest(self.jog(slot, small_move(session.machine, slot), self.touch_speed(slot)))
        right, name = sense(session.machine, slot), session.machine.names[slot]
        seen = yield from self.ask(
            choice(
                "direction.seen",
                f"{name} was told to go to +{f', {right.seen_from}' if right.seen_from else ''}. {right.question}",
                {
                    "plus": right.plus,
                    "minus": right.minus,
                    **(
                        {APART: "its two sides apart"} if session.machine.axis(slot).whole("axis.second_output") else {}
                    ),
                    "nothing": "nothing moved",
                    "other": "something else moved",
                },
                name,
            ),
            free=True,
        )
        assert seen is not None
        self.seen = seen
        words = f"{right.thing} was seen to go {right.plus}" if seen == "plus" else _NOT_SO.get(seen, "")
        self.keep_proof(
            direction_claim(session.machine, slot), seen == "plus", words or f"it went {right.minus}", Witness.EYES
        )
        if seen == "plus":
            return Result(Ending.PROVEN, f"{name}: {words}.")
        if seen == "other":
            return (yield from self._which(slot))
        if seen == "nothing" and not session.machine.made_of_parts:
            yield from self._feel(slot)
        return Result(Ending.NOT_PROVEN, self.words_of(seen, slot), edit=self.mended(slot, seen))

    def _feel(self, slot: int) -> Steps:
        """A motor that holds has power, and sees no steps; one that gives way has none."""
        name, thing = self._session.machine.names[slot], sense(self._session.machine, slot).thing
        words = f"Leave the drives on, and push {thing} along {name} with a hand: does its motor hold?"
        felt = yield from self.ask(
            choice("direction.hand", words, {each.key: each.words for each in Hand}, name), free=True
        )
        self.hand = next(each for each in Hand if each.key == felt)
        if self.hand is Hand.LOOSE:
            self._session.homes.lose([slot], "may stand elsewhere, for a hand has pushed")

    def _unmoved(self, slot: int) -> SignalsVerdict:
        machine, proofs = self._session.machine, self._session.proofs
        item = input_of(machine, Duty(InputRole.STOP))
        stop = item is not None and state(machine, input_claim(machine, item), proofs) is Proof.PROVEN
        others = [state(machine, direction_claim(machine, each.slot), proofs) for each in machine.axes]
        return stood_still(machine, slot, self.hand, stop_proven=stop, others_go=Proof.PROVEN in others)

    def _which(self, slot: int) -> Run:
        """Of plain drives it is only a matter of words which is which: the two change places, and both are looked at anew. Else
        their outputs are proposed to be exchanged."""
        session, names = self._session, self._session.machine.names
        name, parts = names[slot], session.machine.made_of_parts
        others = {other: other for other in names if other != name}
        moved = yield from self.ask(
            choice(
                "direction.which",
                f"Which axis moved in place of {name}?{f' {EXCHANGING}' if parts else ''}",
                {**others, "none": "none of these"}, name,
            ),
            free=True,
        )  # fmt: skip
        if moved not in others:
            return Result(Ending.NOT_PROVEN, self.words_of("other", slot))
        self.moved = str(moved)
        if not parts:
            return Result(Ending.NOT_PROVEN, self.words_of("other", slot), edit=self.mended(slot, "other"))
        session.link.power(False)  # the session would stop this very run first
        yield lambda: not session.powered
        self.seen = EXCHANGED
        session.exchange_drives(name, self.moved)
        return Result(Ending.NOT_PROVEN, self.words_of(EXCHANGED, slot))

    def mended(self, slot: int, seen: str) -> dict[Address, Value]:
        """The values that mend what was seen to be wrong: its direction turned round, or that of its second motor; its output
        exchanged with that of the axis that moved; or the signals of which its drive sees nothing."""
        if seen == "other" and self.moved and not self._session.machine.made_of_parts:
            machine = self._session.machine
            here, there = (Address(each, "axis.output") for each in (slot, machine.names.index(self.moved)))
            return {here: machine[there], there: machine[here]}
        if seen == "nothing" and not self._session.machine.made_of_parts:
            return self._unmoved(slot).edit
        key = {"minus": "axis.reversed", APART: "axis.second_reversed"}.get(seen, "")
        return {Address(slot, key): not self._session.machine[Address(slot, key)]} if key else {}

    def _at_rest(self, rest: AtRest) -> Wait:
        """Over when it has come to rest for a moment, or has not moved for a longer one: that is an answer too."""

        def ready() -> bool:
            rest.look()
            return rest.seconds > (SETTLED if rest.started else 4 * SETTLED)

        return ready

    def words_of(self, seen: str, slot: int) -> str:
        """What follows from what was seen."""
        machine = self._session.machine
        name, right = machine.names[slot], sense(machine, slot)
        if seen == "minus":
            return f"It went {right.minus}. Turn it round, send, and look again."
        if seen == APART:
            return (
                f"The two motors of {name} turned against each other. Turn the second one round, send, and look again."
            )
        if seen == "nothing" and machine.made_of_parts:
            return f"{name}: look whether its motor is plugged in at its drive, and whether that has the power for it."
        if seen == "nothing":
            return self._unmoved(slot).words
        if seen == EXCHANGED:
            return f"The drives of {name} and {self.moved} have changed places. Power, and look at both again."
        if machine.made_of_parts:
            return (
                "Another motor hangs on this drive. Change the plugs, or say at the Link station which drive is which."
            )
        if self.moved:
            return (
                f"The motor of {self.moved} hangs on the output that {name} was told to have. Exchange their outputs, or their "
                "plugs, and look at both again."
            )
        return "Another motor hangs on this output. Change the plugs, or the drive output of the axis."
