"""The page of the Geometry station: what a dial and a rule tell of the machine itself."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout

from idler.session.session import Session

from ...widgets.cards import Segments
from .. import Host
from ..workbench import Workbench
from .levelpage import LevelPage
from .playpage import PlayPage
from .squarepage import SquarePage


class GeometryStation(Workbench):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.play, self.square, self.level = PlayPage(session), SquarePage(session), LevelPage(session)
        self.pages = Segments({"Play": self.play, "Square": self.square, "Level": self.level})
        for page in (self.play, self.square, self.level):
            page.laid_anew.connect(self.laid_anew)
        self.pages.turned.connect(lambda _: self.laid_anew.emit())
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 6, 12, 6)
        column.addWidget(self.pages)

    def turn_to(self, name: str) -> None:
        self.pages.turn_to(name)

    @property
    def axis(self) -> int | None:
        return self.play.slot if self.pages.place == 0 else None


def make(host: Host) -> GeometryStation:
    return GeometryStation(host.session)
