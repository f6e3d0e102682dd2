"""Whether an axis comes back to one place: from near and far, slowly and fast, by a dial against the part that it moves."""

from __future__ import annotations

from collections.abc import Generator
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
from idler.core.machine import Axis
from idler.core.mechanics.scale import Instrument
from idler.core.proof.claims import Witness, comeback_claim, value_texts
from idler.session.session import Session

from .dial import DIALS, Held, see_it_follow, set_to_zero
from .engine import Procedure, Result, Run, Wait
from .questions import done, reading
from .safe import go_to, safe_speed

ROUNDS = 3  # of four arrivals each
WANTED = Fraction(2, 100)  # ± mm, where nothing else is wanted


class ComebackRun(Procedure):
    """arrivals: by the name of the axis, of the last run that was begun; they hang on one zero of the dial."""

    what = "coming back, by a dial"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.dial: Instrument = DIALS[0]
        self.arrivals: dict[str, list[Arrival]] = {}
        self._rests: dict[str, dict[str, str]] = {}  # the values with which they were read
        self._slot = 0

    def found(self, slot: int) -> Comeback | None:
        return comeback(self.arrivals.get(self._session.machine.names[slot], []), self.dial)

    def forget(self, slot: int) -> None:
        """Forgets what was read at an axis."""
        self.arrivals.pop(self._session.machine.names[slot], None)
        self.changed.publish()

    def obstacle(self, slot: int) -> str:
        """Why it cannot be measured now, or an empty text."""
        session, axis = self._session, self._session.machine.axis(slot)
        if axis.rotary:
            return f"{axis.name} turns: whether it comes back is not measured here yet."
        claim = comeback_claim(session.machine, slot)
        if why := session.motion_obstacle(claim.rests) or session.proof_obstacle(claim):
            return why
        if not session.homed(slot):
            return f"{axis.name} is not homed yet: its places are not known. Home it first."
        if place(axis) is None:
            return f"{axis.name} has too little travel between its soft limits. Set them at Travel first."
        return ""

    def measure(self, slot: int, tolerance: float, rounds: int = ROUNDS) -> str:
        """So many rounds of four arrivals; a sentence where it cannot begin."""
        if why := self.obstacle(slot):
            return why
        name = self._session.machine.names[slot]
        self._slot, self.arrivals[name] = slot, []
        self._rests[name] = value_texts(self._session.machine, comeback_claim(self._session.machine, slot).rests)
        self.begin(self._measuring(tolerance, rounds), f"{name} goes to its place.")
        return ""

    def settle(self, slot: int, tolerance: float) -> None:
        """Keeps what the readings prove."""
        machine, found = self._session.machine, self.found(slot)
        claim, axis = comeback_claim(machine, slot), machine.axis(slot)
        if found is None or self.running or self._rests.get(axis.name) != value_texts(machine, claim.rests):
            return
        self._settle(axis, found, tolerance)

    def _settle(self, axis: Axis, found: Comeback, tolerance: float) -> None:
        held = verdict(found, tolerance) is ComebackVerdict.PROVEN
        words = f"{figures(found, axis)}; wanted ± {axis.reads.length(tolerance, 3, trim=True)}"
        self.keep_proof(comeback_claim(self._session.machine, axis.slot), held, words, Witness.INSTRUMENT)

    def _measuring(self, tolerance: float, rounds: int) -> Run:
        session, axis = self._session, self._session.machine.axis(self._slot)
        there = place(axis)
        assert there is not None
        at, far = there
        fast = safe_speed(session, axis.slot)
        where = axis.reads.length(at, 1, trim=True)
        yield from go_to(self, session, axis.slot, at - NEAR)
        yield from go_to(self, session, axis.slot, at)
        yield from self.ask(
            done(
                "return.zero", f"{axis.name} stands at {where}: hold the {self.dial.words(axis.reads)} against the part that "
                f"it moves, and set it to zero. + is the way to + of {axis.name}. The part goes "
                f"{axis.reads.length(far, 0)} away from the dial and comes back to it.", axis.name, instrument=self.dial.key,
            )
        )  # fmt: skip
        held = Held(self.dial, axis)
        yield from set_to_zero(session, **held.at_bench)
        yield from see_it_follow(self, session, held, at, "return.follows")
        kept, kinds = self.arrivals[axis.name], order(rounds)
        for number, kind in enumerate(kinds, start=1):
            yield from self._arrive(kind, at, far if kind.far else NEAR, fast if kind.fast else fast * SLOW)
            said = yield from self.ask(
                reading(
                    "return.reading", f"Arrival {number} of {len(kinds)}: {axis.name} came to {where} from {kind.words}. What "
                    "does the dial say, with its sign?",
                    held.value, axis=axis.name, instrument=self.dial.key, unit=axis.reads.name,
                )
            )  # fmt: skip
            kept.append(Arrival(kind, float(said or 0)))
            self.changed.publish()
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

    def _arrive(self, kind: Approach, at: float, way: float, speed: float) -> Generator[Wait, None, None]:
        """Away at the fast speed, and back at the one that is tried; always from below, so that play drops out."""
        axis = self._session.machine.axis(self._slot)
        self.say(f"{axis.name} goes away and comes back from {kind.words}. Esc stops it.")
        yield from go_to(self, self._session, axis.slot, at - way)
        yield from go_to(self, self._session, axis.slot, at, speed)
