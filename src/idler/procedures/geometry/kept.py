"""Whether all axes keep their steps: many moves of all at once at the pace as it is, between touches of their switches."""

from __future__ import annotations

from collections.abc import Generator

from idler.core.geometry.kept import Kept, figures, kept, sentence, shares, way_of
from idler.core.proof.claims import Proof, Witness, ends_claim, kept_claim, pace_claim, state
from idler.core.words import listed
from idler.session.session import Session

from ..at_rest import AtRest
from ..engine import ARRIVED, Result, Run, Steps, Trouble, Wait
from ..witness import WitnessRun

TOUCHES = 2  # of each switch, before and after
MOVES = 30  # of all axes at once
LEAST = 0.1  # mm or °: a shorter move is left out
ASTRAY = 0.5  # mm or °: an axis that ends so far beside its place was stopped on its way


class KeptRun(WitnessRun):
    """found: of the last run, axis by axis. done: how many of its moves are made."""

    what = "many moves of all axes"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.found: tuple[Kept, ...] = ()
        self.done = 0

    @property
    def slots(self) -> tuple[int, ...]:
        """The axes whose switch can tell lost steps. Others stand still: their pace is not known to lose none."""
        axes = self._session.machine.axes
        return tuple(axis.slot for axis in axes if axis.whole("axis.output") and not self.fine_obstacle(axis.slot))

    def obstacle(self) -> str:
        """Why it cannot be tried now, or an empty text."""
        session, machine = self._session, self._session.machine
        if not self.slots:
            return "No axis has a home switch that could tell lost steps. Wire and learn one."
        claim = kept_claim(machine)
        if why := session.motion_obstacle(claim.rests) or session.proof_obstacle(claim):
            return why
        if why := session.homes.obstacle(self.slots):
            return why
        for what, make in (("pace", pace_claim), ("ends", ends_claim)):
            open_ = [
                machine.names[slot] for slot in self.slots
                if not (what == "ends" and machine.axis(slot).rotary)
                and state(machine, make(machine, slot), session.proofs) is not Proof.PROVEN
            ]  # fmt: skip
            if open_:
                return f"{listed(open_)}: the {what} must be proven first, for it goes fast over the whole travel."
        small = [
            machine.names[slot] for slot in self.slots if way_of(machine.axis(slot))[0] >= way_of(machine.axis(slot))[1]
        ]
        if small:
            return f"{listed(small)}: too little travel between the soft limits. Set them at Travel first."
        return ""

    def try_it(self, moves: int = MOVES) -> str:
        """A sentence where it cannot begin."""
        if why := self.obstacle():
            return why
        self.found, self.done = (), 0
        self.begin(self._trying(moves), "The switches are touched first.")
        return ""

    def _trying(self, moves: int) -> Run:
        session, machine = self._session, self._session.machine
        slots, before, began = self.slots, dict[int, list[float]](), dict[int, float]()
        self._unsure = dict.fromkeys(slots, 0.0)
        for slot in slots:
            before[slot] = yield from self._touches(slot, "")
            began[slot] = session.axes[slot].position
        for number in range(1, moves + 1):
            self.say(f"Move {number} of {moves}, all axes at once. Esc stops it.")
            yield from self._all_to(slots, shares(number, len(slots)))
            self.done = number
        found = []
        for slot in slots:
            yield from self.to(
                slot, began[slot], self.approach_speed(slot)
            )  # what turns has its switch once in each turn
            after = yield from self._touches(slot, " again")
            shifts = [self._shift(slot, place, before[slot][0]) for place in (*before[slot], *after)]
            ranges = [max(half) - min(half) for half in (shifts[:TOUCHES], shifts[TOUCHES:])]
            shift = (sum(shifts[TOUCHES:]) - sum(shifts[:TOUCHES])) / TOUCHES
            found.append(kept(machine, slot, shift, max(ranges) + 2 * self._unsure[slot]))
            if not found[-1].held:
                session.homes.lost_steps(slot, "lost steps", Witness.SWITCH)
        self.found = tuple(found)
        held = all(each.held for each in found)
        words = f"{moves} moves of {listed([machine.names[slot] for slot in slots])} at once; {figures(machine, self.found)}"
        if untried := [axis.name for axis in machine.axes if axis.whole("axis.output") and axis.slot not in slots]:
            words += f"; {listed(untried)} cannot tell it"
        self.keep_proof(kept_claim(machine), held, words, Witness.SWITCH)
        session.tell("found" if held else "warn", sentence(self.found))
        return Result.of(
            held,
            f"{sentence(self.found)} {figures(machine, self.found)}.",
            {},
            **{each.name: each.shift for each in found},
        )

    def _touches(self, slot: int, again: str) -> Generator[Wait, None, list[float]]:
        """Where its switch is found, so often."""
        places = []
        for _ in range(TOUCHES):
            self.say(f"The switch of {self._session.machine.names[slot]} is touched{again}. Esc stops it.")
            yield from self.witness(slot)
            places.append(self.place)
            self._unsure[slot] = max(self._unsure[slot], self.within)
        return places

    def _shift(self, slot: int, place: float, since: float) -> float:
        """How far a place is from another one, mm (°)."""
        self.place = place
        return self.shift_since(slot, since)

    def _all_to(self, slots: tuple[int, ...], places: tuple[float, ...]) -> Steps:
        """Every axis to a share of its way, together; over when all of them rest."""
        machine = self._session.machine
        asked: list[tuple[str, AtRest]] = []
        for slot, share in zip(slots, places, strict=True):
            axis = machine.axis(slot)
            low, high = way_of(axis)
            distance = low + (high - low) * share - self._session.axes[slot].position
            if abs(distance) < LEAST:
                continue
            rest = self.jog(slot, distance, float(axis.number("pace.top_speed")))
            yield lambda: self._taken  # what comes next is not counted as its begin
            asked.append((axis.name, rest))

        def over() -> bool:
            for name, rest in asked:
                rest.look()
                if rest.stuck:
                    raise Trouble(f"{name} did not start.")
            return all(rest.started and rest.seconds > ARRIVED for _, rest in asked)

        yield over
        for slot, share in zip(slots, places, strict=True):
            low, high = way_of(machine.axis(slot))
            place, stands = low + (high - low) * share, self._session.axes[slot].position
            if abs(stands - place) > ASTRAY:
                reads = machine.axis(slot).reads
                raise Trouble(
                    f"{machine.names[slot]} was sent to {reads.length(place)} and stands at {reads.length(stands)}."
                )
