"""What became of a homing: a sentence, and of one that failed its trace, the likely causes and what would help."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from idler.core.homing.outcome import Doubt, HomingCause
from idler.core.machine import Address
from idler.core.values.measures import MILLIMETRES, Measures
from idler.core.values.parameter import Value
from idler.core.wiring import inputs
from idler.session.session import Session

from ...pictures.beam import BeamPicture
from ...pictures.runtrace import RunTrace, RunTraceScene
from ...pictures.scatter import ScatterPicture
from ...widgets.cards import label, tall
from ...widgets.edits import edit_words
from ...widgets.machinebutton import MachineButton

MOST_CAUSES, MOST_ANSWERS = 3, 3


class OutcomeView(QWidget):
    """mend carries the values of an edit; clear asks to move clear of the switch."""

    mend = Signal(object)
    clear_asked = Signal()
    answered = Signal(str)  # key of an answer to a doubt

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._edit: dict[Address, Value] = {}
        self._watched: int | None = None
        self._changes, self._level = 0, False
        sides = QHBoxLayout(self)
        sides.setContentsMargins(0, 0, 4, 0)
        sides.setSpacing(12)
        self._side, column = QWidget(), QVBoxLayout()
        pictures = QVBoxLayout(self._side)
        pictures.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        sides.addWidget(self._side, 1)
        sides.addLayout(column, 1)
        self.words = label("", "small", wrap=True)
        self.trace = RunTrace()
        self.scatter = ScatterPicture()
        self._causes = [(label("", "heading", wrap=True), label("", "small", wrap=True)) for _ in range(MOST_CAUSES)]
        self.others = [QPushButton() for _ in range(MOST_CAUSES)]  # edits of causes that are not the likeliest
        self._other_edits: list[dict[Address, Value]] = [{} for _ in range(MOST_CAUSES)]
        self.answers = [QPushButton() for _ in range(MOST_ANSWERS)]
        self._keys = [""] * MOST_ANSWERS
        self.beam = BeamPicture()
        for picture in (self.trace, self.scatter, self.beam):
            pictures.addWidget(picture)
        pictures.addStretch(1)
        column.addWidget(self.words)
        for place, (title, words) in enumerate(self._causes):
            column.addWidget(title)
            column.addWidget(words)
            button = self.others[place]
            button.clicked.connect(lambda _=False, place=place: self.mend.emit(self._other_edits[place]))
            column.addWidget(button)
        for place, button in enumerate(self.answers):
            tall(button)
            button.clicked.connect(lambda _=False, place=place: self.answered.emit(self._keys[place]))
            column.addWidget(button)
        self.live = label("", "soft", wrap=True)
        self.fix, self.clear, self.watch = QPushButton(), MachineButton(session, "Move clear"), QPushButton()
        self.fix.setProperty("role", "main")
        self.fix.clicked.connect(lambda: self.mend.emit(self._edit))
        self.clear.clicked.connect(self.clear_asked)
        self.watch.clicked.connect(self._begin_watching)
        column.addWidget(self.live)
        column.addWidget(self.fix)
        row = QHBoxLayout()
        row.addWidget(self.clear)
        row.addWidget(self.watch)
        row.addStretch(1)
        column.addLayout(row)
        column.addStretch(1)

    def show_words(
        self,
        words: str,
        edit: dict[Address, Value] | None = None,
        sides: float | None = None,
        reads: Measures = MILLIMETRES,
    ) -> None:
        """A sentence, and an edit that it proposes; nothing failed. sides: how far the two switches of a beam lie apart."""
        self.words.setText(words)
        self._show((), None)
        self.beam.show_sides(sides, reads)
        self._offer(edit or {})

    def show_doubt(self, found: Doubt, said: str, then: str) -> None:
        """A home that was found elsewhere, and the question why. said: the key of the answer that was given."""
        self.words.setText(f"{found.words}{then}")
        self._show((), None)
        self._offer({})
        for place, button in enumerate(self.answers):
            there = place < len(found.answers)
            button.setVisible(there)
            if there:
                self._keys[place], words = found.answers[place]
                button.setText(f"{'✓ ' if self._keys[place] == said else ''}{words}")

    def show_failure(
        self, found: Sequence[HomingCause], trace: RunTraceScene | None, on_a_switch: bool = False
    ) -> None:
        """The main button belongs to the likeliest cause; an edit that would hide a fault is never that, and says what."""
        self.words.setText("Most likely first:" if found else "")
        self._show(found, trace)
        main = found[0] if found else None
        now = self._session.machine
        self._offer(dict(main.edit) if main is not None and not main.hides and main.mends(now) else {})
        for place, (cause, button) in enumerate(zip(found, self.others, strict=False)):
            if not cause.mends(now) or (place == 0 and not cause.hides):
                continue
            self._other_edits[place] = dict(cause.edit)
            button.setText(edit_words(now, self._other_edits[place]))
            button.setToolTip(f"Would hide {cause.hides}." if cause.hides else "")
            button.show()
            if cause.hides:
                self._causes[place][1].setText(f"{cause.words} It would hide {cause.hides}.")
        if on_a_switch:
            self.clear.show()

    def _show(self, found: Sequence[HomingCause], trace: RunTraceScene | None) -> None:
        for button in (*self.answers, *self.others):
            button.hide()
        self.beam.show_sides(None, MILLIMETRES)
        self.words.setVisible(bool(self.words.text()))
        self.trace.show_scene(trace)
        for place, (title, words) in enumerate(self._causes):
            there = place < len(found)
            title.setText(found[place].title if there else "")
            words.setText(found[place].words if there else "")
            title.setVisible(there)
            words.setVisible(there)
        self.clear.setVisible(any(cause.clear for cause in found))
        number = next((cause.watch for cause in found if cause.watch is not None), None)
        if number != self._watched:
            self._watched = number
            self.live.setText("")
        self.watch.setVisible(number is not None)
        if number is not None:
            self.watch.setText(f"Watch terminal {inputs(self._session.machine)[number].name}")
        self.live.setVisible(bool(self.live.text()))

    def _offer(self, edit: dict[Address, Value]) -> None:
        self._side.setVisible(not all(picture.isHidden() for picture in (self.trace, self.scatter, self.beam)))
        self._edit = edit
        self.fix.setVisible(bool(edit))
        if edit:
            self.fix.setText(edit_words(self._session.machine, edit))

    # -- a terminal that is tried by hand -----------------------------------------------------------------------------

    def _begin_watching(self) -> None:
        self._changes, self._level = 0, self._made
        self.live.setText("Press it by hand.")
        self.live.show()
        self.show_motion()

    @property
    def explains(self) -> bool:
        """Whether it says why something went wrong, which wants the room."""
        return any(not title.isHidden() for title, _ in self._causes) or not self.answers[0].isHidden()

    @property
    def watching(self) -> bool:
        """Whether a person was asked to try a terminal."""
        return self._watched is not None and bool(self.live.text())

    @property
    def _made(self) -> bool:
        if self._watched is None or not self._session.connected:
            return False
        return inputs(self._session.machine)[self._watched].made(self._session.panel.is_closed(self._watched))

    def show_motion(self) -> None:
        """Called at the picture's pace."""
        if not self.watching or self._watched is None:
            return
        made = self._made
        self._changes += made != self._level
        self._level = made
        terminal = inputs(self._session.machine)[self._watched].name
        words = f"Terminal {terminal} is {'made' if made else 'clear'} now; it changed {self._changes} times since you watch."
        if words != self.live.text():
            self.live.setText(words)
