"""Makers' data sheets of the parts that are connected: what is kept of them, taken from a file or from the part itself."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from idler.core.controller.makers import beyond_sheets, differences
from idler.core.controller.parts import PartCondition, PartFacts
from idler.core.errors import IdlerError
from idler.core.machine import Machine
from idler.core.machine.finding import Finding
from idler.core.profile.makersheet import MakersSheet
from idler.shelf import sheets

from .topic import Topic

if TYPE_CHECKING:
    from .session import Session


class Sheets:
    """of: sheets by node, of those parts that have one."""

    def __init__(self, session: Session, root: Path) -> None:
        self.changed: Topic[()] = Topic()
        self.now: Topic[int, PartCondition] = Topic()  # how a part is at this moment, by its node
        self.of: dict[int, MakersSheet] = {}
        self._session, self._root = session, root
        self._known: tuple[PartFacts, ...] = ()

    @property
    def parts(self) -> tuple[PartFacts, ...]:
        holding = self._session.holding
        return holding.parts if holding is not None else ()

    def look(self) -> None:
        """Finds what is kept for the parts that are connected now."""
        if self.parts == self._known:
            return
        self._known, self.of = self.parts, {}
        for part in self.parts:
            try:
                found = sheets.sheet_of(self._root, part.identity)
            except IdlerError as why:
                self._session.tell("warn", why.sentence)
                continue
            if found is not None:
                self.of[part.identity.node] = found
        self.changed.publish()

    def take_file(self, node: int, path: Path) -> None:
        """Raises FileTrouble, Refusal."""
        self._take(node, sheets.sheet_from(path)[0])

    def ask(self, node: int) -> None:
        """Asks a part for the one that it may keep of itself."""
        self._session.link.ask_for_sheet(node)

    def ask_now(self, node: int) -> None:
        """Asks a part how it is, where nothing moves; that comes as `now`."""
        if not self._session.moving and not self._session.busy:
            self._session.link.ask_for_condition(node)

    def said(self, node: int, condition: PartCondition) -> None:
        """How a part is came."""
        self.now.publish(node, condition)

    def told(self, node: int, text: str) -> None:
        """What a part keeps of itself came."""
        try:
            self._take(node, text)
        except IdlerError as why:
            self._session.refuse(f"Node {node} keeps a data sheet of itself.", why.sentence)

    def _take(self, node: int, text: str) -> None:
        for part in self.parts:
            if part.identity.node == node:
                found = sheets.keep_sheet(self._root, part.identity, text)
                alike = (each.identity for each in self.parts)
                self.of |= {
                    each.node: found
                    for each in alike
                    if (each.vendor, each.product) == (part.identity.vendor, part.identity.product)
                }
        self.changed.publish()

    def differences(self, part: PartFacts) -> list[str]:
        sheet = self.of.get(part.identity.node)
        return differences(part, sheet) if sheet is not None else []

    def findings(self, machine: Machine) -> list[Finding]:
        parts = {part.slot: part for part in self.parts if part.slot is not None}
        return beyond_sheets(
            machine, parts, {slot: self.of[p.identity.node] for slot, p in parts.items() if p.identity.node in self.of}
        )
