"""The work zeros of the jobs on the table: taken from where axes stand, kept on the shelf, in no revision."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from idler.core.errors import About, IdlerError, Refusal, Sentence
from idler.core.proof.workzero import COUNT, Places, WorkSet, WorkZero, stale, taken
from idler.shelf.shelf import Shelf

from .topic import Topic

if TYPE_CHECKING:
    from .session import Session

FURTHEST = 1e6  # mm (°): no work zero lies further


class WorkZeros:
    """set: all six. A place whose home or train has changed since is stale, and counts nothing until it is taken anew."""

    def __init__(self, session: Session, shelf: Shelf, name: str) -> None:
        self.changed: Topic[()] = Topic()
        self._session, self._shelf, self._name = session, shelf, name
        self.set = WorkSet()
        self.trouble = ""  # why they could not be read
        try:
            self.set = shelf.work_zeros(name)
        except IdlerError as why:
            self.trouble = why.sentence

    def of(self, axis: str, number: int | None = None) -> float | None:
        """The machine coordinate of the one that is shown, or of another; None where there is none, or one that is stale."""
        zero = self.set.of(axis, number)
        return None if zero is None or self.is_stale(axis, number) else zero.at

    @property
    def valid(self) -> dict[int, dict[str, float]]:
        """Machine coordinates of all six, by number and axis letter, without those that are stale."""
        return self.set.valid(self._session.in_force)

    def is_stale(self, axis: str, number: int | None = None) -> bool:
        """Whether a work zero was taken with a home or a train that is another one now: its place is not known any more."""
        zero, machine = self.set.of(axis, number), self._session.in_force
        return zero is not None and axis in machine.names and stale(machine, machine.names.index(axis), zero)

    def obstacle(self, slot: int, *, at_rest: bool = True) -> str:
        """Why no work zero can be taken of an axis now, or an empty text."""
        session, name = self._session, self._session.machine.names[slot]
        if why := session.axes_obstacle:
            return why
        if why := session.homes.obstacle([slot]):
            return why
        if at_rest and session.axes[slot].moving:
            return Sentence(f"{name} is moving: the work zero is where it stands. Wait until it does.", About.MOVES)
        return ""

    def take(self, slot: int, counts: float = 0.0) -> None:
        """The work is counted from where this axis stands. counts: what it is to read there, mm (°)."""
        if why := self.obstacle(slot):
            self._session.refuse("No work zero was taken.", why)
        else:
            self.place(slot, self._session.axes[slot].position - counts)

    def place(self, slot: int, at: float, number: int | None = None) -> None:
        """At a machine coordinate that was typed or found, mm (°). Raises Refusal."""
        name = self._session.machine.names[slot]
        if why := self.obstacle(slot, at_rest=False):
            raise Refusal("work zero", name, "cannot be set", way_out=why.removesuffix("."))
        if not abs(at) <= FURTHEST:
            raise Refusal(f"work zero of {name}", f"{at:g}", "is no place of a machine", f"{FURTHEST:g} at most")
        where = self.set.shown if number is None else number
        self._keep(self.set.put(where, {name: taken(self._session.in_force, slot, at)}))

    def shift(self, slot: int, by: float) -> None:
        """The one that is shown, further by so much. Raises Refusal where it has no place."""
        name = self._session.machine.names[slot]
        at = self.of(name)
        if at is None:
            raise Refusal("work zero", name, "has no place that could be moved", way_out="take it first")
        self.place(slot, at + by)

    def clear(self, slot: int) -> None:
        self._keep(self.set.put(self.set.shown, {self._session.machine.names[slot]: None}))

    def clear_all(self, number: int) -> None:
        """No axis has a place in this one any more."""
        self._keep(self.set.put(number, dict.fromkeys(self.set.at(number))))

    def copy(self, source: int, target: int) -> None:
        self._keep(self.set.copied(source, target))

    def name(self, number: int, text: str) -> None:
        """Raises Refusal."""
        self._keep(self.set.named(number, text))

    def show(self, number: int) -> None:
        """Places are counted from this one now. Raises Refusal."""
        if not 0 <= number < COUNT:
            raise Refusal("work zero", str(number + 1), "is none of them", f"1 to {COUNT}")
        if number != self.set.shown:
            self._keep(replace(self.set, shown=number))

    @property
    def places(self) -> Places:
        return self.set.places

    def put(self, places: Places) -> None:
        """Others, as axes got other letters."""
        if places != self.set.places:
            self._keep(replace(self.set, places=places))

    def put_shown(self, zeros: dict[str, WorkZero]) -> None:
        """Other places of the one that is shown."""
        self._keep(self.set.put(self.set.shown, zeros))

    def _keep(self, zeros: WorkSet) -> None:
        self.set = zeros
        try:
            self._shelf.save_work_zeros(self._name, zeros)
        except IdlerError as why:
            self._session.refuse("The work zero is not on the disk yet.", why.sentence)
        self.changed.publish()
