"""Figures that a pen draws or a cutter cuts: which, how large and where; each is a program, and checked as any other."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QWidget

from idler.core.errors import IdlerError, Refusal
from idler.core.trial.figures import FIELDS, KINDS, Figure, checked, obstacle, read_field, shown_field, usual
from idler.core.words import capital
from idler.session.session import Session

from ...bridge import follow
from ...pictures.figuresketch import FigureSketch
from ...widgets.cards import card, label, tall
from ..workbench import Workbench
from .wishes import WishGrid

RIGHT = 336


class FiguresPage(Workbench):
    def __init__(self, session: Session, then: Callable[[], None]) -> None:
        """then: called when a figure was made the program in hand."""
        super().__init__()
        self._session, self._then = session, then
        self._wishes: dict[str, float] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        left, drawn = card((12, 8, 12, 8), 6)
        self.picture = FigureSketch()
        drawn.addWidget(self.picture, 1)
        row.addWidget(left, 1)
        row.addWidget(self._right())
        follow(session.changed, self.refresh)
        self.refresh()

    def _right(self) -> QWidget:
        frame, column = card((14, 8, 14, 10), 6)
        frame.setFixedWidth(RIGHT)
        self.kind = QComboBox()
        for key, kind in KINDS.items():
            self.kind.addItem(capital(kind.words), key)
        self.kind.setAccessibleName("Figure")
        self.kind.activated.connect(lambda _: self.refresh())
        self.shows = label("", "soft", wrap=True)
        self.wishes = WishGrid({key: asked.words for key, asked in FIELDS.items()})
        self.wishes.taken.connect(self._take)
        self.make = QPushButton("Take it to the run")
        self.make.setProperty("role", "main")
        self.make.clicked.connect(self._make)
        self.from_bed = QPushButton("Area and depth from the bed's map")
        self.from_bed.clicked.connect(self._from_bed)
        self.hint = label("", "soft", wrap=True)
        for widget in (self.kind, self.from_bed, self.make):
            tall(widget)
        for shown in (self.kind, self.shows, self.wishes, self.from_bed, self.hint):
            column.addWidget(shown)
        column.addStretch(1)
        column.addWidget(self.make)
        return frame

    def control_for(self, kind: str) -> QWidget:
        """Chooses a figure; what takes it to the run."""
        self.kind.setCurrentIndex(self.kind.findData(kind))
        self.refresh()
        return self.make

    @property
    def figure(self) -> Figure:
        """As it is asked for now. Raises Refusal."""
        kind = self.kind.currentData()
        return checked(kind, {key: value for key, value in self._wishes.items() if key in KINDS[kind].fields})

    def _take(self, key: str, typed: str) -> None:
        try:
            self._wishes[key] = read_field(self._session.machine, FIELDS[key], typed)
        except Refusal as why:
            self._session.tell("warn", why.sentence)
        self.refresh()

    def _from_bed(self) -> None:
        cutter = self._wishes.get("cutter", usual("cutter"))
        try:
            wishes, hint = self._session.program.skim_wishes(cutter)
        except Refusal as why:
            self._session.tell("warn", why.sentence)
            return
        self._wishes |= wishes
        self.hint.setText(hint)
        self.refresh()

    def _make(self) -> None:
        try:
            self._session.program.open_figure(self.figure)
        except IdlerError as why:
            self._session.tell("warn", why.sentence)
            return
        self._then()

    def refresh(self) -> None:
        kind, machine = KINDS[self.kind.currentData()], self._session.machine
        self.shows.setText(f"It shows {kind.shows}.")
        levels = "step" in kind.fields
        self.from_bed.setVisible(levels)
        self.hint.setVisible(levels and bool(self.hint.text()))
        texts = {key: shown_field(machine, asked, self._wishes.get(key, usual(key))) for key, asked in FIELDS.items()}
        self.wishes.show_texts(texts, [key for key in kind.fields if not (kind.round and key == "height")])
        try:
            self.picture.show_scene(self.figure)
            why = obstacle(machine)
            self.make.setEnabled(not why)
            if why:
                self.shows.setText(why)
        except Refusal as why:
            self.shows.setText(why.sentence)
            self.make.setEnabled(False)
        self.laid_anew.emit()
