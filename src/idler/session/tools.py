"""Lengths of tools and radii of axes that turn, as programs are read with them; kept on the shelf, in no revision."""

from __future__ import annotations

from typing import TYPE_CHECKING

from idler.core.errors import IdlerError, Refusal
from idler.core.program.tools import ToolSet, measured_rests, stale
from idler.shelf.shelf import Shelf

from .topic import Topic

if TYPE_CHECKING:
    from .session import Session


class Tools:
    """set: all of them. trouble: why they could not be read."""

    def __init__(self, session: Session, shelf: Shelf, name: str) -> None:
        self.changed: Topic[()] = Topic()
        self._session, self._shelf, self._name = session, shelf, name
        self.set, self.trouble = ToolSet(), ""
        try:
            self.set = shelf.tools(name)
        except IdlerError as why:
            self.trouble = why.sentence

    @property
    def lengths(self) -> dict[int, float]:
        """mm, by number, of those that are not stale."""
        return self.set.lengths(self._session.in_force)

    @property
    def radii(self) -> dict[str, float]:
        return self.set.rims(self._session.in_force)

    def is_stale(self, number: int) -> bool:
        """Whether a length was measured with a scale of Z that is another one now."""
        return number in self.set.tools and stale(self._session.in_force, self.set.tools[number])

    def put(self, number: int, length: float) -> None:
        """A length that was typed, mm. Raises Refusal."""
        self._keep(self.set.put(number, length))

    def touched(self, number: int, at: float) -> float:
        """A tool whose tip touched the level of the work zero's Z at this machine coordinate, mm. Returns its length. Raises
        Refusal where Z has no work zero."""
        zero = self._session.work.of("Z")
        if zero is None:
            raise Refusal(
                f"length of tool {number}", "Z", "has no work zero to be measured from",
                way_out="take one with the tool that lengths are told against",
            )  # fmt: skip
        self._keep(self.set.put(number, at - zero, measured_rests(self._session.in_force)))
        return at - zero

    def name(self, number: int, text: str) -> None:
        """Raises Refusal."""
        self._keep(self.set.named(number, text))

    def remove(self, number: int) -> None:
        self._keep(self.set.without(number))

    def turning(self, axis: str, radius: float) -> None:
        """Feeds of an axis are meant at this radius, mm; 0: in degrees. Raises Refusal."""
        self._keep(self.set.turning(self._session.machine, axis, radius))

    def _keep(self, tools: ToolSet) -> None:
        if tools == self.set:
            return
        self.set = tools
        try:
            self._shelf.save_tools(self._name, tools)
        except IdlerError as why:
            self._session.refuse("The tools are not on the disk yet.", why.sentence)
        self.changed.publish()
