"""The play of an axis: a dial against the moved part, one place reached from both sides, at both ends and in the middle."""

from __future__ import annotations

from collections.abc import Generator
from dataclasses import replace

from idler.core.geometry.play import (
    BACKLASH,
    PLACES,
    TURN_ROUND,
    USUAL_RADIUS,
    DialReading,
    PlayAt,
    PlayVerdict,
    edit,
    figures,
    places,
    plays,
    sentence,
    verdict,
)
from idler.core.machine import Address
from idler.core.mechanics.scale import Instrument
from idler.core.proof.claims import Witness, play_claim, value_texts
from idler.core.values.parameter import Value
from idler.session.session import Session

from ..engine import Result, Run, Wait
from ..questions import done, reading
from ..safe import count_of, go_to
from .dial import DIALS, Held, KeptReading, ReadingsRun, ask_radius, by_radius, see_it_follow, set_to_zero

TIMES = 3  # readings from each side
TOLERANCE = 0.02  # mm (°) that may be left, where nothing else is wanted


class PlayRun(ReadingsRun):
    """readings: by the name of the axis; they are kept until the play is measured anew, or they are dropped."""

    what = "play by a dial"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.dial: Instrument = DIALS[0]
        self.readings: dict[str, list[DialReading]] = {}
        self.radius: dict[str, float] = {}  # mm: where the dial stands on an axis that turns
        self._told: dict[str, float] = {}  # what was taken up while they were read
        self._rests: dict[str, dict[str, str]] = {}  # the values with which they were read
        self._slot = 0

    def found(self, slot: int) -> list[PlayAt]:
        """The play that is left, place by place."""
        name = self._session.machine.names[slot]
        found = plays(self.readings.get(name, []), self.held(slot).by_axis, count_of(self._session, slot))
        if not self._session.machine.axis(slot).rotary:
            return found
        return [replace(each, standard=by_radius(each.standard, each.play)) for each in found]

    def held(self, slot: int) -> Held:
        """The dial as it stands against this axis."""
        axis = self._session.machine.axis(slot)
        return Held(self.dial, axis, self.radius.get(axis.name, USUAL_RADIUS) if axis.rotary else None)

    def told(self, slot: int) -> float:
        """What the controller takes up, in mm, as it was while the readings were taken."""
        now = float(self._session.in_force.axis(slot).number(BACKLASH))
        return self._told.get(self._session.machine.names[slot], now)

    def said(self, slot: int, tolerance: float) -> PlayVerdict:
        """What the readings come to."""
        takes_up = not self._session.machine.made_of_parts
        return verdict(self.found(slot), self.told(slot), tolerance, takes_up=takes_up)

    def proposed(self, slot: int, tolerance: float) -> dict[Address, Value]:
        """The backlash to be taken up, where that would help."""
        if self.said(slot, tolerance) is not PlayVerdict.TAKE_UP:
            return {}
        return edit(self._session.machine, slot, self.found(slot), self.told(slot))

    def kept(self, slot: int) -> list[KeptReading]:
        """The readings, each of which can be forgotten: its place is measured again then, with one zero."""
        axis = self._session.machine.axis(slot)
        mine = self.readings.get(axis.name, [])
        return [
            KeptReading(
                f"{axis.reads.length(each.at, 1, trim=True)} from {'below' if each.way > 0 else 'above'}: "
                f"{axis.reads.length(each.value, 3)}", self.dropping(mine, number, axis.name),
            )
            for number, each in enumerate(mine)
        ]  # fmt: skip

    def forget(self, slot: int) -> None:
        """Forgets all readings of an axis."""
        self.readings.pop(self._session.machine.names[slot], None)
        self.changed.publish()

    def obstacle(self, slot: int) -> str:
        """Why it cannot be measured now, or an empty text."""
        session, axis = self._session, self._session.machine.axis(slot)
        claim = play_claim(session.machine, slot)
        if why := session.motion_obstacle(claim.rests) or session.proof_obstacle(claim):
            return why
        if why := session.homes.obstacle([slot]):
            return why
        if not places(axis):
            return f"{axis.name} has too little travel between its soft limits. Set them at Travel first."
        return ""

    def measure(self, slot: int, tolerance: float = TOLERANCE, times: int = TIMES) -> str:
        """All places that are not measured yet, so often from each side; a sentence where it cannot begin."""
        if why := self.obstacle(slot):
            return why
        self._slot = slot
        name, now = self._session.machine.names[slot], float(self._session.in_force.axis(slot).number(BACKLASH))
        rests = value_texts(self._session.machine, play_claim(self._session.machine, slot).rests)
        if self._rests.get(name) != rests or len(self._whole(slot, times)) == PLACES:
            self.anew(name)
            self.readings[name] = []  # complete ones, or of another machine
            self.radius.pop(name, None)
        self._told[name], self._rests[name] = now, rests
        self.begin(self._measuring(tolerance, times), f"{name} goes to the first place.")
        return ""

    def settle(self, slot: int, tolerance: float) -> None:
        """Keeps what the readings prove."""
        session, found = self._session, self.found(slot)
        if len(found) == PLACES:
            held = self.said(slot, tolerance) is PlayVerdict.PROVEN
            reads = session.machine.axis(slot).reads
            words = f"{figures(found, reads)}; wanted {reads.length(tolerance, 3, trim=True)}"
            words += self.again_words(session.machine.names[slot])
            self.keep_proof(play_claim(session.machine, slot), held, words, Witness.INSTRUMENT)

    def _measuring(self, tolerance: float, times: int) -> Run:
        slot, axis = self._slot, self._session.machine.axis(self._slot)
        kept, whole = self.readings.setdefault(axis.name, []), self._whole(slot, times)
        kept[:] = [each for each in kept if each.at in whole]
        if axis.rotary and axis.name not in self.radius:
            self.radius[axis.name] = yield from ask_radius(self, axis, self.dial, "play.radius")
            self.changed.publish()
        for number, at in enumerate(places(axis), start=1):
            if at not in whole:
                yield from self._place(number, at, times, kept)
        found, told = self.found(slot), self.told(slot)
        said = self.said(slot, tolerance)
        self.settle(slot, tolerance)
        done = sentence(axis, found, told, tolerance, takes_up=not self._session.machine.made_of_parts)
        words = f"{axis.name}: {said.words}. {figures(found, axis.reads)}. {done}"
        return Result.of(
            said is PlayVerdict.PROVEN, words, self.proposed(slot, tolerance),
            **{f"play_{k}": each.play for k, each in enumerate(found, start=1)},
            uncertainty=max(each.expanded for each in found),
        )  # fmt: skip

    def _whole(self, slot: int, times: int) -> set[float]:
        """The places that were read so often from both sides with one zero of the dial."""
        read = [each.at for each in self.readings.get(self._session.machine.names[slot], [])]
        return {at for at in read if read.count(at) >= 2 * times}

    def _place(self, number: int, at: float, times: int, kept: list[DialReading]) -> Generator[Wait, None, None]:
        """One place, from both sides in turns. Its readings hang on one zero of the dial: they are kept all or none."""
        session, axis = self._session, self._session.machine.axis(self._slot)
        where = axis.reads.length(at, 1, trim=True)
        yield from self._come(at, -1)  # as it goes on where it is seen whether the dial follows
        held = self.held(self._slot)
        part = f"the part that {axis.name} moves"
        if held.radius is not None:
            part = f"an arm on {axis.name}, square to it and {held.reads.length(held.radius, 1, trim=True)} from the middle"
        yield from self.ask(
            done(
                "play.zero", f"Place {number} of {PLACES}, {where}: hold the {self.dial.words(held.reads)} against {part}, "
                f"and set it to zero. + is the way to + of {axis.name}.",
                axis.name, instrument=self.dial.key,
            )
        )  # fmt: skip
        yield from set_to_zero(self._session, **held.at_bench)
        yield from see_it_follow(self, session, held, at, "play.follows")
        here: list[DialReading] = []
        for turn in range(times):
            for way in (1, -1):
                yield from self._come(at, way)
                from_ = "below" if way > 0 else "above"
                value = yield from self.ask(
                    reading(
                        "play.reading", f"{axis.name} came to {where} from {from_}, {turn + 1} of {times}. "
                        "What does the dial say, with its sign?", held.value,
                        axis=axis.name, instrument=self.dial.key, unit=held.reads.name,
                    )
                )  # fmt: skip
                here.append(DialReading(at, way, held.moved(float(value or 0))))
                kept.append(here[-1])
                self.changed.publish()
        session.tell("plain", f"{axis.name}: place {number} of {PLACES} is measured.")

    def _come(self, at: float, way: int) -> Generator[Wait, None, None]:
        self.say(f"{self._session.machine.names[self._slot]} turns round. Esc stops it.")
        yield from go_to(self, self._session, self._slot, at - way * TURN_ROUND)
        yield from go_to(self, self._session, self._slot, at)
