"""Whether an axis comes back to one place: from near and far, slowly and fast, by a dial against the part that it moves; or its
motor alone, by the encoder on it."""

from __future__ import annotations

from collections.abc import Generator
from dataclasses import replace
from fractions import Fraction

from idler.core.geometry.comeback import (
    NEAR,
    SLOW,
    Approach,
    Arrival,
    Comeback,
    ComebackVerdict,
    comeback,
    figures,
    order,
    place,
    sentence,
    verdict,
)
from idler.core.geometry.play import TURN_ROUND, USUAL_RADIUS
from idler.core.machine import Axis
from idler.core.mechanics.scale import Instrument
from idler.core.proof.claims import Claim, Witness, comeback_claim, value_texts
from idler.session.session import Session

from ..engine import Result, Run, Steps, Trouble, Wait
from ..questions import done, reading
from ..safe import count_of, go_to, is_held_back, safe_speed
from .dial import (
    DIALS,
    Held,
    KeptReading,
    ReadingsRun,
    ask_radius,
    by_radius,
    moved_meanwhile,
    see_it_follow,
    set_to_zero,
)

ROUNDS = 3  # of four arrivals each
WANTED = Fraction(2, 100)  # ± mm (°), where nothing else is wanted
ENCODER = Instrument("encoder", "encoder of its motor", 0.0, float("inf"))  # its division is a count of the axis
BY = (DIALS[0], ENCODER)
HEARD = 5.0  # s within which an encoder is heard
FRESH = 2  # readings of the encoder after the axis has come to rest: the first may have been asked for before


class ComebackRun(ReadingsRun):
    """arrivals: by the name of the axis, and by which of all arrivals it is. They hang on one zero of the dial: where some are
    missing, the first that is left is made again before, and must be what it was. held may be changed while it does not run."""

    what = "coming back"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.held: Instrument = BY[0]
        self.arrivals: dict[str, dict[int, Arrival]] = {}
        self.radius: dict[str, float] = {}  # mm: where the dial stands on an axis that turns
        self._by: dict[str, Instrument] = {}  # what they were read with
        self._rests: dict[str, dict[str, str]] = {}  # the values with which they were read
        self._slot = 0
        self._rounds = ROUNDS

    def dial(self, slot: int) -> Held:
        """The dial as it stands against this axis."""
        axis = self._session.machine.axis(slot)
        return Held(BY[0], axis, self.radius.get(axis.name, USUAL_RADIUS) if axis.rotary else None)

    def instrument(self, slot: int) -> Instrument:
        """What is held now, in the axis's own unit."""
        return self._in_its_unit(slot, self.held)

    def _in_its_unit(self, slot: int, held: Instrument) -> Instrument:
        return replace(held, resolution=count_of(self._session, slot)) if held == ENCODER else self.dial(slot).by_axis

    def found(self, slot: int) -> Comeback | None:
        axis = self._session.machine.axis(slot)
        arrivals, by = self.arrivals.get(axis.name, {}), self._by.get(axis.name, self.held)
        if len(arrivals) < len(order(self._rounds)):
            return None
        found = comeback(list(arrivals.values()), self._in_its_unit(slot, by))
        if found is None or by == ENCODER:
            return replace(found, motor=True) if found is not None else None
        return replace(found, one=by_radius(found.one, found.half)) if axis.rotary else found

    def sees_motor(self, slot: int) -> bool:
        """Whether an encoder tells where the motor is."""
        machine = self._session.machine
        return machine.made_of_parts or machine.axis(slot).flag("loop.measured")

    def forget(self, slot: int) -> None:
        """Forgets what was read at an axis."""
        self.arrivals.pop(self._session.machine.names[slot], None)
        self.changed.publish()

    def readings(self, slot: int) -> list[KeptReading]:
        """The arrivals, each of which can be made again."""
        axis = self._session.machine.axis(slot)
        kept = self.arrivals.get(axis.name, {})
        return [
            KeptReading(
                f"{number + 1}, {each.approach.words}: {axis.reads.length(each.value, 3)}",
                self.dropping(kept, number, axis.name),
            )
            for number, each in sorted(kept.items())
        ]

    def goes_on(self, slot: int) -> bool:
        """Whether only the arrivals that are missing are made next."""
        axis = self._session.machine.axis(slot)
        kept, rests = self.arrivals.get(axis.name, {}), value_texts(self._session.machine, self._claim(slot).rests)
        same = self._by.get(axis.name) == self.held and self._rests.get(axis.name) == rests
        return 0 < len(kept) < len(order(self._rounds)) and same

    def _claim(self, slot: int) -> Claim:
        return comeback_claim(self._session.machine, slot)

    def obstacle(self, slot: int) -> str:
        """Why it cannot be measured now, or an empty text."""
        session, axis = self._session, self._session.machine.axis(slot)
        claim = self._claim(slot)
        if self.held == ENCODER and not self.sees_motor(slot):
            return f"{axis.name} has no encoder at its motor: nobody but a dial sees where it is."
        if why := session.motion_obstacle(claim.rests) or session.proof_obstacle(claim):
            return why
        if why := session.homes.obstacle([slot]):
            return why
        if is_held_back(session, slot):
            return f"{axis.name}: its pace and its ends must be proven first, for it comes back at its top speed, too."
        if place(axis) is None:
            return f"{axis.name} has too little travel between its soft limits. Set them at Travel first."
        return ""

    def measure(self, slot: int, tolerance: float, rounds: int = ROUNDS) -> str:
        """So many rounds of four arrivals, or those of them that are missing; a sentence where it cannot begin."""
        if why := self.obstacle(slot):
            return why
        name = self._session.machine.names[slot]
        self._slot, self._rounds = slot, rounds
        if not self.goes_on(slot):
            self.anew(name)
            self.arrivals[name], self._by[name] = {}, self.held
            self.radius.pop(name, None)
            self._rests[name] = value_texts(self._session.machine, self._claim(slot).rests)
        self.begin(self._measuring(tolerance), f"{name} goes to its place.")
        return ""

    def settle(self, slot: int, tolerance: float) -> None:
        """Keeps what the readings prove."""
        machine, found = self._session.machine, self.found(slot)
        claim, axis = self._claim(slot), machine.axis(slot)
        if found is None or self.running or self._rests.get(axis.name) != value_texts(machine, claim.rests):
            return
        self._settle(axis, found, tolerance)

    def _settle(self, axis: Axis, found: Comeback, tolerance: float) -> None:
        """What a motor's encoder says proves nothing of the part; it may show that it cannot hold."""
        said = verdict(found, tolerance)
        if said is ComebackVerdict.MOTOR:
            return
        words = f"{figures(found, axis)}; wanted ± {axis.reads.length(tolerance, 3, trim=True)}{self.again_words(axis.name)}"
        witness = Witness.SENSOR if found.motor else Witness.INSTRUMENT
        self.keep_proof(self._claim(axis.slot), said is ComebackVerdict.PROVEN, words, witness)

    def _measuring(self, tolerance: float) -> Run:
        axis = self._session.machine.axis(self._slot)
        by_encoder = self._by[axis.name] == ENCODER
        try:
            if by_encoder:
                self._session.watch_lag(axis.slot)
            yield from self._arriving(axis, by_encoder)
        finally:
            if by_encoder:
                self._session.watch_lag()
        found = self.found(axis.slot)
        assert found is not None
        self._settle(axis, found, tolerance)
        said_so = verdict(found, tolerance)
        return Result.of(
            said_so is ComebackVerdict.PROVEN,
            f"{axis.name}: {said_so.words}. {figures(found, axis)}. {sentence(found, axis, tolerance)}",
            half=found.half, uncertainty=found.expanded, scatter=found.scatter, drift=found.drift.value, far=found.far.value,
            fast=found.fast.value,
        )  # fmt: skip

    def _arriving(self, axis: Axis, by_encoder: bool) -> Steps:
        """All arrivals that are missing; before them one that was made, where there is any."""
        there = place(axis)
        assert there is not None
        at, far = there
        kept, kinds = self.arrivals[axis.name], order(self._rounds)
        read = self._by_encoder if by_encoder else self._by_dial
        yield from go_to(self, self._session, axis.slot, at - NEAR)
        yield from go_to(self, self._session, axis.slot, at)
        if not by_encoder:
            yield from self._hold(axis, at, far)
        if kept:
            number = min(kept)
            yield from self._arrive(kinds[number], at, far)
            again = yield from read(axis, at, f"An arrival that was made before: {kinds[number].words}")
            self._compare(axis, kept[number].value, again)
        for number, kind in enumerate(kinds):
            if number in kept:
                continue
            yield from self._arrive(kind, at, far)
            value = yield from read(axis, at, f"Arrival {number + 1} of {len(kinds)}, from {kind.words}")
            turn = 1 + max((each.turn for each in kept.values()), default=-1)
            kept[number] = Arrival(kind, value, turn)
            self.changed.publish()

    def _compare(self, axis: Axis, before: float, now: float) -> None:
        """Raises Trouble where an arrival is not what it was: the others hang on another zero."""
        if moved_meanwhile(before, now, self._in_its_unit(axis.slot, self._by[axis.name])):
            told = f"{axis.reads.length(before, 3)} before and {axis.reads.length(now, 3)} now"
            self.forget(axis.slot)
            raise Trouble(
                f"The same arrival of {axis.name} read {told}: the dial was moved, or the axis has wandered. All of them are "
                "made anew next time."
            )

    def _hold(self, axis: Axis, at: float, far: float) -> Steps:
        """The dial stands against the part, at zero, and was seen to follow; as it did, where readings hang on it."""
        if self.arrivals[axis.name]:
            words = f"The dial still stands against the part that {axis.name} moves, its zero untouched?"
            yield from self.ask(done("return.on", words, axis.name, instrument=self.held.key))
            return
        where = axis.reads.length(at, 1, trim=True)
        yield from go_to(
            self, self._session, axis.slot, at + TURN_ROUND
        )  # from above, as it goes on to be seen to follow
        yield from go_to(self, self._session, axis.slot, at)
        part = f"the part that {axis.name} moves"
        if axis.rotary:
            self.radius[axis.name] = yield from ask_radius(self, axis, BY[0], "return.radius")
            out = self.dial(axis.slot).reads.length(self.radius[axis.name], 1, trim=True)
            part = f"an arm on {axis.name}, square to it and {out} from the middle"
        dial = self.dial(axis.slot)
        yield from self.ask(
            done(
                "return.zero", f"{axis.name} stands at {where}: hold the {dial.dial.words(dial.reads)} against {part}, "
                f"and set it to zero. + is the way to + of {axis.name}. The part goes "
                f"{axis.reads.length(far, 0)} away from the dial and comes back to it.", axis.name, instrument=dial.dial.key,
            )
        )  # fmt: skip
        yield from set_to_zero(self._session, **dial.at_bench)
        yield from see_it_follow(self, self._session, dial, at, "return.follows")

    def _arrive(self, kind: Approach, at: float, far: float) -> Generator[Wait, None, None]:
        """Away at the fast speed, and back at the one that is tried; always from below, so that play drops out."""
        axis = self._session.machine.axis(self._slot)
        fast = safe_speed(self._session, axis.slot)
        self.say(f"{axis.name} goes away and comes back from {kind.words}. Esc stops it.")
        yield from go_to(self, self._session, axis.slot, at - (far if kind.far else NEAR))
        yield from go_to(self, self._session, axis.slot, at, fast if kind.fast else fast * SLOW)

    def _by_dial(self, axis: Axis, at: float, what: str) -> Generator[Wait, None, float]:
        """What the dial says, mm (°)."""
        dial = self.dial(axis.slot)
        said = yield from self.ask(
            reading(
                "return.reading", f"{what}: {axis.name} stands at {axis.reads.length(at, 1, trim=True)}. What does the dial "
                "say, with its sign?",
                dial.value, axis=axis.name, instrument=dial.dial.key, unit=dial.reads.name,
            )
        )  # fmt: skip
        return dial.moved(float(said or 0))

    def _by_encoder(self, axis: Axis, at: float, _what: str) -> Generator[Wait, None, float]:
        """How far beside its place the motor stands, mm (°), as its encoder has it once the axis rests."""
        session, slot = self._session, axis.slot
        if session.machine.made_of_parts:
            return session.axes[slot].position - at  # what a drive tells is what its encoder says
        heard = [when for when, _ in session.lags.get(slot, ())]
        since, late = heard[-1] if heard else float("-inf"), session.loop.now() + HEARD

        def fresh() -> list[float]:
            return [lag for when, lag in session.lags.get(slot, ()) if when > since]

        yield lambda: len(fresh()) >= FRESH or session.loop.now() > late
        if len(fresh()) < FRESH:
            raise Trouble(f"The following error of {axis.name} is not heard. Nothing was measured.")
        return session.axes[slot].position - fresh()[-1] - at
