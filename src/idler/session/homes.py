"""Which axes know their home, and how far it is to be believed."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from fractions import Fraction
from typing import TYPE_CHECKING

from idler.core.errors import About, IdlerError, Sentence
from idler.core.machine import Address, Machine
from idler.core.profile.cia402 import State
from idler.core.proof.claims import Proof, Witness, pace_claim, state
from idler.core.words import listed
from idler.shelf.shelf import Shelf

if TYPE_CHECKING:
    from .session import Session

_WITHOUT_CURRENT = frozenset({State.NOT_READY, State.OFF, State.READY, State.SWITCHED_ON, State.FAULT})


class Homes:
    """in_doubt: by axis, how far it is from where it was, in mm (°). by_hand: those that were taken where the axis stood,
    by the person's word. unheld: by slot, those that had no current since they were homed. play: by slot, mm (°) of it that
    were taken up when it was found last. trouble: why what was in doubt could not be read."""

    def __init__(self, session: Session, shelf: Shelf, name: str) -> None:
        self._session, self._shelf, self._name = session, shelf, name
        self.by_hand: set[int] = set()
        self.unheld: frozenset[int] = frozenset()
        self.play: dict[int, Fraction] = {}
        self._said: frozenset[int] = frozenset()
        self.in_doubt: dict[str, float] = {}
        self.trouble = ""
        try:
            self.in_doubt = shelf.doubts(name)
        except IdlerError as why:
            self.trouble = why.sentence

    def doubt(self, off: Mapping[str, float]) -> None:
        """Keeps which are in doubt: that outlives a restart."""
        self.in_doubt = dict(off)
        self._session.keep("homes in doubt", lambda: self._shelf.save_doubts(self._name, off))

    def known(self, slot: int) -> bool:
        """Whether the controller is heard, has this axis, and knows its home."""
        axes = self._session.axes
        return slot < len(axes) and axes[slot].homed

    def sure(self, slot: int) -> bool:
        """Whether that home is still where it was found, too: nothing moved it while it had no current."""
        return self.known(slot) and slot not in self.unheld

    def look(self) -> None:
        """A motor without current stands where a hand or a weight leaves it, and the controller counts what it was told. Plain
        drives say themselves where they stand. Called again and again."""
        session = self._session
        if not session.connected:
            return
        axes = () if session.in_force.made_of_parts else session.axes
        without = {slot for slot, axis in enumerate(axes) if axis.state in _WITHOUT_CURRENT}
        unheld = frozenset(slot for slot in self.unheld | without if slot < len(axes) and axes[slot].homed)
        self._said &= unheld
        if unheld - self._said and session.powered and not session.floor.words:
            self._said = unheld
            names = listed([session.machine.names[slot] for slot in sorted(unheld)])
            they, their, them = ("it was", "its", "it") if len(unheld) == 1 else ("they were", "their", "them")
            words = f"{names} had no current since {they} homed: a hand or {their} weight may have moved {them}."
            session.tell("warn", f"{words} Home {them} again before you rely on a coordinate.")
        self.unheld = unheld

    def found(self, slot: int) -> None:
        """It was homed just now."""
        self.unheld -= {slot}

    def obstacle(self, slots: Iterable[int]) -> str:
        """Why these axes cannot go to a place now, or an empty text: without a home places mean nothing."""
        lost = [self._session.machine.names[slot] for slot in slots if not self.known(slot)]
        if not lost:
            return ""
        are, their, them = ("is", "its", "it") if len(lost) == 1 else ("are", "their", "them")
        words = f"{listed(lost)} {are} not homed yet, so that {their} places mean nothing. Home {them} first."
        return Sentence(words, About.UNHOMED)

    def lose(self, slots: Iterable[int], why: str) -> None:
        """Coordinates mean nothing any more, of those that have a home: the controller is told, and the person."""
        lost = [slot for slot in slots if self.known(slot)]
        for slot in lost:
            self._session.link.forget_home(slot)
        if lost:
            names = listed([self._session.machine.names[slot] for slot in lost])
            its, it = ("its home is", "it") if len(lost) == 1 else ("their homes are", "them")
            words = f"{names} {why}: {its} not known any more. Home {it} before you rely on a coordinate."
            self._session.tell("warn", words)

    def lost_steps(self, slot: int, why: str, witness: Witness) -> None:
        """The same of an axis that was seen to lose steps; a pace that was proven has not held then."""
        self.lose([slot], why)
        self.deny_pace(slot, why, witness)

    def deny_pace(self, slot: int, why: str, witness: Witness) -> None:
        """A pace that was proven has not held: its axis was seen elsewhere than it was counted to be."""
        session = self._session
        claim = pace_claim(session.machine, slot)
        if state(session.machine, claim, session.proofs) is Proof.PROVEN:
            session.keep_proof(claim, False, f"it {why}", witness)

    def lose_moved(self, before: Machine | None, now: Machine) -> None:
        """A coordinate of home that is another one now counts from the next homing on; soft limits that were told with it would
        hold elsewhere until then. What Idler counts itself, for plain drives, moves along at once."""
        if before is None or before.names != now.names or now.made_of_parts:
            return
        axes = min(len(now.names), len(self._session.machine.names))
        where = [Address(slot, "homing.coordinate") for slot in range(axes)]
        moved = [at.slot for at in where if at.slot is not None and before[at] != now[at]]
        self.lose(moved, "has another coordinate at home now")
