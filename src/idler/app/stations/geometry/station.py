"""The page of the Geometry station: what a dial and a rule tell of the machine itself."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout

from idler.session.session import Session

from ...widgets.cards import Segments
from .. import Host
from ..workbench import Workbench
from .bladepage import BladePage
from .comebackpage import ComebackPage
from .levelpage import LevelPage
from .playpage import PlayPage
from .squarepage import SquarePage


class GeometryStation(Workbench):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.play, self.comeback = PlayPage(session), ComebackPage(session)
        self.square, self.blade, self.level = SquarePage(session), BladePage(session), LevelPage(session)
        pages = {"Play": self.play, "Comes back": self.comeback, "Square": self.square, "By a square": self.blade,
                 "Level": self.level}  # fmt: skip
        self.pages = Segments(dict(pages))
        for page in pages.values():
            page.laid_anew.connect(self.laid_anew)
        self.pages.turned.connect(lambda _: self.laid_anew.emit())
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 6, 12, 6)
        column.addWidget(self.pages)

    def turn_to(self, name: str) -> None:
        self.pages.turn_to(name)

    @property
    def axis(self) -> int | None:
        """That which is measured on the page in front; None where it takes more than one."""
        page = (self.play, self.comeback, None, None, None)[self.pages.place]
        return page.slot if page is not None else None


def make(host: Host) -> GeometryStation:
    return GeometryStation(host.session)
