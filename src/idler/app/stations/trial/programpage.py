"""The page of the Trial station: a program over the envelope, whether it fits, how long it takes, which line is at fault."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from idler.core.program.choices import MOST_TOLERANCE
from idler.core.program.language import Severity
from idler.session.programs import Judged
from idler.session.session import Session
from idler.shelf.opened import LAST, NOTHING
from idler.shelf.programs import lines_of

from ...bridge import follow
from ...pictures.feedline import FeedPicture, FeedScene
from ...pictures.programpath import USUAL, ProgramPicture
from ...widgets.cards import card, emptied, label, tall
from ...widgets.lengthedit import LengthEdit
from ...widgets.lineview import LineView
from ..workbench import Workbench
from .scene import COLOURS, path_scene, shades_of, strokes_between

if TYPE_CHECKING:
    from idler.core.program.strokes import Feeds
    from idler.core.program.verdict import Verdict

RIGHT = 336
KINDS = "Programs (*.nc *.iso *.txt);;All files (*)"


class ProgramPage(Workbench):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self._program = session, session.program
        self._shown: Judged | None = None
        self._feeds: Feeds | None = None
        self._part = (0.0, 1.0)
        self._planes: list[str] = []
        self.setAcceptDrops(True)
        self.picture, self.feeds = ProgramPicture(), FeedPicture()
        self.picture.setAccessibleName("Path of the program")
        self.text = LineView("Text of the program")
        self.problems = QListWidget()
        self.problems.setAccessibleName("Problems of the program")
        self.problems.setWordWrap(True)
        self.problems.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(self._top())
        row = QHBoxLayout()
        row.setSpacing(8)
        left, drawn = card((8, 6, 8, 6), 4)
        drawn.addWidget(self.picture, 4)
        drawn.addWidget(self.feeds, 1)
        row.addWidget(left, 1)
        row.addWidget(self._right())
        column.addLayout(row, 1)
        self.picture.taken.connect(self._take_stroke)
        self.picture.turned.connect(self._show_plane)
        self.feeds.brushed.connect(self._brush)
        self.text.taken.connect(self._show_line)
        self.problems.currentItemChanged.connect(self._take_problem)
        self.problems.itemClicked.connect(lambda item: self._take_problem(item, None))
        follow(self._program.changed, self.refresh)
        follow(session.changed, self._draw)
        follow(session.work.changed, self._draw)
        self.refresh()

    def _top(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self.choose = QPushButton("Open…")
        self.choose.setProperty("role", "main")
        self.choose.setAccessibleName("Open a program")
        self.choose.clicked.connect(self._choose)
        self.recent = QPushButton("Recent")
        self.recent.setMenu(QMenu(self.recent))
        self.recent.menu().aboutToShow.connect(self._fill_recent)
        self.close_it = QPushButton("Put away")
        self.close_it.clicked.connect(self._program.close)
        self.name = label("", "soft")
        self.progress = QProgressBar()
        self.progress.setRange(0, 100)
        self.progress.setAccessibleName("How much of the program is read")
        self.end = QPushButton("End the reading")
        self.end.clicked.connect(self._program.cancel)
        self.tolerance = LengthEdit(
            self._session, "how far corners may be cut", low=Fraction(0), high=Fraction(MOST_TOLERANCE)
        )
        self.tolerance.taken.connect(self._take_tolerance)
        self.plane = QComboBox()
        self.plane.setAccessibleName("Planes that are drawn")
        self.plane.activated.connect(lambda at: self.picture.turn_to(at - 1 if at else None))
        self.colour = QComboBox()
        self.colour.addItems(list(COLOURS.values()))
        self.colour.setAccessibleName("Coloured by")
        self.colour.activated.connect(lambda _: self._draw())
        for widget in (self.choose, self.recent, self.close_it, self.end, self.colour):
            tall(widget)
        row.addWidget(self.choose)
        row.addWidget(self.recent)
        row.addWidget(self.close_it)
        row.addWidget(self.name)
        row.addWidget(self.progress)
        row.addWidget(self.end)
        row.addStretch(1)
        row.addWidget(self.plane)
        row.addWidget(self.colour)
        row.addWidget(label("corners cut by", "soft"))
        row.addWidget(self.tolerance)
        return row

    def _right(self) -> QWidget:
        frame, column = card((14, 8, 14, 10), 6)
        frame.setFixedWidth(RIGHT)
        self.title, self.words = label("", "title", wrap=True), label("", "", wrap=True)
        self.extents = QWidget()
        self._spans = QGridLayout(self.extents)
        self._spans.setContentsMargins(0, 0, 0, 0)
        self._spans.setVerticalSpacing(1)
        self.shift = QPushButton("")
        self.back = QPushButton("Back to the work zero as it is")
        self.shift.clicked.connect(self._shift)
        self.back.clicked.connect(lambda: self._program.shifted({}))
        for button in (self.shift, self.back):
            tall(button)
        for widget in (self.title, self.words, self.extents, self.shift, self.back):
            column.addWidget(widget)
        column.addWidget(self.problems, 300)
        column.addWidget(self.text, 200)
        column.addStretch(1)  # where there is no program
        return frame

    # -- opening --------------------------------------------------------------------------------------------------

    def _choose(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Open a program", "", KINDS)
        if name:
            self._program.open(Path(name))

    def _fill_recent(self) -> None:
        """Programs that were opened, and what is opened when Idler starts."""
        program, menu = self._program, self.recent.menu()
        kept = program.remembered
        menu.clear()
        for name in kept.recent:
            menu.addAction(Path(name).name, partial(program.open, Path(name))).setToolTip(name)
        menu.addSeparator()
        start = menu.addMenu("When Idler starts, open")
        choices = [("nothing", NOTHING), ("the last one", LAST)]
        if program.opened is not None:
            choices.append((f"always {program.opened.name}", str(program.opened.absolute())))
        for words, opens in choices:
            action = start.addAction(words, partial(self._start_with, opens))
            action.setCheckable(True)
            action.setChecked(kept.opens == opens)

    def _start_with(self, opens: str) -> None:
        self._program.remember(replace(self._program.remembered, opens=opens))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        files = [url.toLocalFile() for url in event.mimeData().urls() if url.isLocalFile()]
        if files:
            self._program.open(Path(files[0]))
            event.acceptProposedAction()

    def _take_tolerance(self, value: Fraction) -> None:
        self._program.tolerance = float(value)

    def _shift(self) -> None:
        judged = self._program.judged
        if judged is not None and judged.verdict.envelope.shift:
            before = self._program.shift
            way = judged.verdict.envelope.shift
            self._program.shifted({name: before.get(name, 0.0) + way.get(name, 0.0) for name in {*before, *way}})

    # -- showing --------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        program = self._program
        reading = program.share is not None
        self.name.setText(program.opened.name if program.opened is not None else "")
        self.close_it.setVisible(program.opened is not None)
        self.progress.setVisible(reading)
        self.end.setVisible(reading)
        if program.share is not None:
            self.progress.setValue(round(100 * program.share))
        self.tolerance.show_length(self._session.machine.reads, Fraction(program.tolerance).limit_denominator(10**6))
        if program.judged is not self._shown or (program.judged is None and not reading):
            self._shown = program.judged
            self._show_verdict()
            self.laid_anew.emit()

    def _show_verdict(self) -> None:
        judged, program = self._shown, self._program
        self._part = (0.0, 1.0)
        self.problems.clear()
        found = judged.verdict if judged is not None else None
        for widget in (self.problems, self.text, self.extents, self.feeds):
            widget.setVisible(found is not None)
        moved = bool(program.shift)
        self.back.setVisible(moved)
        self.shift.setVisible(found is not None and bool(found.envelope.shift))
        if judged is None or found is None:
            self.title.setText("No program" if not program.trouble else "It cannot be read")
            self.words.setText(program.trouble or "Open a program, or drop its file here: Idler says whether this machine can "
                               "run it, how long it takes and which line is at fault. Nothing moves.")  # fmt: skip
            self._feeds = None
            self.text.show_text(0, lambda _first, _count: [], frozenset())
            self._draw()
            return
        from idler.core.program.saying import headline, shift_words, time_words  # compiled, and slow to load

        self.title.setText(headline(found, moved=moved))
        self.words.setText(time_words(found))
        self.shift.setText(f"Look at it moved by {shift_words(found)}")
        self._show_spans(found)
        marked: set[int] = set()
        for problem in found.problems:
            where = f"line {problem.line}: " if problem.line else ""
            item = QListWidgetItem(f"{problem.severity.word} · {where}{problem.text}.")
            item.setData(Qt.ItemDataRole.UserRole, problem.line)
            self.problems.addItem(item)
            if problem.severity is Severity.REFUSES:
                marked.update((problem.line, *problem.all))
        for part in sorted(found.unreached, key=lambda part: -part.lost):
            item = QListWidgetItem(
                f"feed · lines {part.first_line} to {part.last_line}: {part.why}, {part.lost:.1f} s more."
            )
            item.setData(Qt.ItemDataRole.UserRole, part.first_line)
            self.problems.addItem(item)
        for saving in judged.faster:
            self.problems.addItem(QListWidgetItem(f"faster · {saving.words}."))
        if not self.problems.count():
            self.problems.addItem(QListWidgetItem("Nothing was found."))
        marks, text = found.program.marks, judged.text
        self.text.show_text(
            found.program.lines, lambda first, count: lines_of(text, marks, first, count), frozenset(marked)
        )
        self._feeds = judged.feeds
        self._draw()

    def _show_spans(self, found: Verdict) -> None:
        from idler.core.program.saying import extents

        emptied(self._spans)
        for row, (name, low, high, ends) in enumerate(extents(found)):
            for column, (words, role) in enumerate(((name, "bold"), (low, ""), (f"to {high}", ""), (ends, "soft"))):
                shown = label(words, role)
                shown.setAlignment(Qt.AlignmentFlag.AlignLeft if column in (0, 3) else Qt.AlignmentFlag.AlignRight)
                self._spans.addWidget(shown, row, column)
        self._spans.setColumnStretch(3, 1)

    def _draw(self) -> None:
        judged = self._shown
        shades, part = np.zeros(0, np.uint8), (0, 0)
        if judged is not None:
            shades = shades_of(judged, list(COLOURS)[self.colour.currentIndex()])
            part = strokes_between(judged, *self._part)
        scene = path_scene(self._session, judged, shades, part)
        self.picture.show_scene(scene)
        names = [view.short for view in scene.views]
        if names != self._planes:
            self._planes = names
            self.plane.clear()
            self.plane.addItems(
                [" and ".join([*names[:1], *(name.removeprefix("from ") for name in names[1:USUAL])]), *names]
            )
        self.plane.setVisible(len(names) > 1)
        self._show_plane()
        if self._feeds is not None:
            self.feeds.show_scene(FeedScene(self._feeds, self._part, self._session.machine.reads))

    def _show_plane(self) -> None:
        self.plane.setCurrentIndex(0 if self.picture.alone is None else self.picture.alone + 1)

    def _brush(self, low: float, high: float) -> None:
        self._part = (low, high)
        self._draw()

    # -- one line -------------------------------------------------------------------------------------------------

    def _take_problem(self, item: QListWidgetItem | None, _before: QListWidgetItem | None) -> None:
        line = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        if line:
            self._show_line(int(line))

    def _take_stroke(self, stroke: int) -> None:
        judged = self._shown
        if judged is not None:
            self._show_line(int(judged.verdict.program.line_numbers[judged.strokes.rows[stroke]]))

    def _show_line(self, line: int) -> None:
        """A line in its text and in the picture."""
        judged = self._shown
        if judged is None:
            return
        self.text.go_to(line)
        program, rows = judged.verdict.program, judged.strokes.rows
        lines = program.line_numbers
        first, last = np.searchsorted(lines, [line, line + 1])
        begin, end = int(np.searchsorted(rows, first)), int(np.searchsorted(rows, last))
        self.picture.mark((begin, end) if end > begin else None)
