"""The page of a run: what must be so before it, how it goes, and what came of it."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from functools import partial
from typing import Any

import numpy as np
from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from idler.core.trial.starting import Need, missing_of, obstacle_of
from idler.core.words import duration, word
from idler.link.along import Along
from idler.procedures.engine import Ending, Procedure, Result
from idler.procedures.questions import Question
from idler.procedures.trial.aftertrial import StepsAfter
from idler.procedures.trial.figure import FigureRun
from idler.procedures.trial.program import Way
from idler.session.programs import Judged
from idler.shelf.programs import lines_of

from ...bridge import follow
from ...pictures.hooks import HookChoice
from ...pictures.programpath import ProgramPicture
from ...widgets.asking import Asking
from ...widgets.cards import card, label, scrolled, tall
from ...widgets.lengthedit import LengthEdit
from ...widgets.lineview import LineView
from ...widgets.machinebutton import MachineButton
from .. import Host
from ..workbench import Workbench
from .scene import approached, path_scene, shades_until

RIGHT = 336
MOST_RAISED = Fraction(1000)
RAISED = Fraction(20)  # mm that a dry run goes higher, unless something else is wished
AGAIN = 0.2  # share of a second between two drawings of what is done


class RunPage(Workbench):
    def __init__(self, host: Host, turn_to: Callable[[str], None]) -> None:
        """turn_to: another page of this station."""
        super().__init__()
        self._host, self._session, self._turn_to = host, host.session, turn_to
        session = self._session
        self.procedure = FigureRun(session)
        self.steps = StepsAfter(session, self.procedure)
        self._raised = RAISED
        self._shown: tuple[Judged | None, int] | None = None
        self._drawn_at = 0.0
        self._missing: Need | None = None  # what is first to be brought about
        self._read: Judged | None = None  # whose text is shown
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        left, column = card((12, 6, 12, 8), 6)
        self.picture = ProgramPicture()
        self.picture.setAccessibleName("The path, and the tool on it")
        column.addWidget(self.picture, 1)
        column.addLayout(self._progress())
        self.asking = Asking(session, self.procedure, self._at_bench)
        self.touching = Asking(session, self.steps, lambda _: None)
        self.hooks = HookChoice()
        for key, button in self.hooks.buttons.items():
            button.clicked.connect(partial(self._seen, key))
        for widget in (self.asking, self.touching, self.hooks):
            column.addWidget(widget)
        row.addWidget(left, 1)
        row.addWidget(self._right())
        for topic in (
            session.changed, session.held, session.proved, session.work.changed, session.program.changed,
            session.floor.changed, self.procedure.changed, self.steps.changed,
        ):  # fmt: skip
            follow(topic, self.refresh)
        follow(self.procedure.ended, self._ended)
        follow(self.steps.ended, self._ended)
        self.refresh()

    # -- laying it out ----------------------------------------------------------------------------------------------

    def _progress(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.setFixedWidth(150)
        self.bar.setAccessibleName("How much of it is done")
        self.where = label("", "bold")
        self.left_words = label("", "soft")
        row.addWidget(self.bar)
        row.addWidget(self.where)
        row.addWidget(self.left_words)
        row.addStretch(1)
        return row

    def _right(self) -> QWidget:
        session = self._session
        frame, outer = card((14, 8, 14, 10), 6)
        frame.setFixedWidth(RIGHT)
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        self.title, self.words = label("", "title", wrap=True), label("", "", wrap=True)
        self.needs = QWidget()
        self._needs = QVBoxLayout(self.needs)
        self._needs.setContentsMargins(0, 0, 0, 0)
        self._needs.setSpacing(2)
        self.go_there = QPushButton("Go there")
        self.go_there.clicked.connect(self._go_there)
        self.text = LineView("Lines of the program that runs")
        self.text.setMinimumHeight(120)
        for widget in (self.title, self.words, self.needs, self.go_there):
            column.addWidget(widget)
        column.addWidget(self.text, 1)
        self._rest = QWidget()
        column.addWidget(self._rest, 1)
        outer.addWidget(scrolled(page, whole=True), 1)
        outer.addLayout(self._rates())
        self.dry = MachineButton(session, "Dry run")
        self.dry.setProperty("role", "main")
        self.dry.clicked.connect(lambda: self._start(dry=True))
        self.real = MachineButton(session, "Run it")
        self.real.clicked.connect(lambda: self._start(dry=False))
        self.hold = QPushButton("Pause")
        self.hold.setProperty("role", "main")
        self.hold.clicked.connect(self._hold)
        self.again = MachineButton(session, "Go on")
        self.again.clicked.connect(self._go_on)
        self.give_up = QPushButton("Give it up")
        self.give_up.clicked.connect(self.procedure.give_up)
        self.check = MachineButton(session, "Were steps lost?")
        self.check.clicked.connect(lambda: self._begun(self.steps.check()))
        self.mend = QPushButton("Take what mends it")
        self.mend.clicked.connect(self._mend)
        outer.addWidget(self.mend)
        outer.addWidget(self.check)
        row = QHBoxLayout()
        for button in (self.dry, self.real, self.hold, self.again, self.give_up):
            row.addWidget(button, 1)
        outer.addLayout(row)
        for button in (
            self.dry, self.real, self.hold, self.again, self.give_up, self.check, self.mend, self.go_there,
        ):  # fmt: skip
            tall(button)
        return frame

    def _rates(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(2)
        self.feed, self.feed_words = self._slider("Feed in per cent"), label("", "bold")
        self.rapid, self.rapid_words = self._slider("Rapids in per cent"), label("", "bold")
        for row, (name, slider, words) in enumerate(
            ((word("feed"), self.feed, self.feed_words), (word("rapids"), self.rapid, self.rapid_words))
        ):
            words.setFixedWidth(48)
            words.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            grid.addWidget(label(name, "soft"), row, 0)
            grid.addWidget(slider, row, 1)
            grid.addWidget(words, row, 2)
        self.single = QCheckBox("single block")
        self.single.toggled.connect(self._single)
        self.raised = LengthEdit(self._session, "height that a dry run goes higher", low=Fraction(0), high=MOST_RAISED)
        self.raised.taken.connect(self._raise)
        line = QHBoxLayout()
        line.addWidget(self.single)
        line.addStretch(1)
        line.addWidget(label("dry, higher by", "soft"))
        line.addWidget(self.raised)
        grid.addLayout(line, 2, 0, 1, 3)
        return grid

    def _slider(self, name: str) -> QSlider:
        made = QSlider(Qt.Orientation.Horizontal)
        made.setRange(0, 100)
        made.setValue(100)
        made.setPageStep(10)
        made.setMinimumHeight(30)
        made.setAccessibleName(name)
        made.valueChanged.connect(self._tell_rates)
        return made

    @property
    def missing(self) -> Need | None:
        """What is first to be brought about."""
        return missing_of(self.procedure.needs(dry=True))

    def next_for(self, *, drawing: bool) -> QPushButton | None:
        """What the hand goes to: what a run came to, what is first to be brought about, or the run itself. drawing: whether
        it is a figure that is wanted, and not that steps are kept."""
        self.refresh()
        came_to = self.mend if drawing else self.check
        order = (came_to, self.again, self.go_there, *((self.dry,) if drawing else (self.real, self.dry)))
        return next((button for button in order if not button.isHidden() and button.isEnabled()), None)

    # -- doing ------------------------------------------------------------------------------------------------------

    def _begun(self, why: str) -> None:
        if why:
            self._session.tell("warn", why)

    def _start(self, *, dry: bool) -> None:
        self._begun(self.procedure.start(Way(dry, float(self._raised) if dry else 0.0, self.single.isChecked())))

    def _hold(self) -> None:
        if self.procedure.paused or self._session.link.path.along is Along.HELD:
            self.procedure.go_on()
        else:
            self.procedure.pause()

    def _go_on(self) -> None:
        self._begun(self.procedure.go_on_from())

    def _single(self, on: bool) -> None:
        if self.procedure.running:
            self.procedure.set_single(on)

    def _raise(self, value: Fraction) -> None:
        self._raised = value
        self.refresh()

    def _tell_rates(self) -> None:
        self.procedure.set_rates(self.feed.value() / 100, self.rapid.value() / 100)

    def _seen(self, key: str) -> None:
        if self.procedure.question is not None:
            self.procedure.answer(key)

    def _mend(self) -> None:
        result = self.procedure.result
        if result is not None and result.edit:
            self._session.mend(result.edit, "what the figure showed")

    def _go_there(self) -> None:
        if self._missing is not None and self._missing.page:
            self._turn_to(self._missing.page)
        elif self._missing is not None:
            self._host.open_station(self._missing.station)

    def _ended(self, result: Result) -> None:
        if result.end is Ending.FAILED:
            self._session.tell("warn", result.words)

    def _at_bench(self, question: Question[Any]) -> dict[str, Any] | None:
        if question.key == "figure.size":
            return {"do": "across", "along": question.axis, "instrument": question.instrument}
        return None

    # -- showing ----------------------------------------------------------------------------------------------------

    @property
    def _doing(self) -> Procedure | None:
        """What runs now of the two."""
        return next((each for each in (self.procedure, self.steps) if each.running), None)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        if self.isVisible():  # what must be so is looked at in many places
            self._refresh()

    def _refresh(self) -> None:
        run, program = self.procedure, self._session.program
        runs, judged = self._doing, program.judged
        dry = run.needs(dry=True)
        needs = run.needs(dry=False) if self._spins else dry
        known = run.made is not None or run.interrupted is not None  # what came of a run wants the room
        open_ = tuple(need for need in needs if not need.met or need.key == "other_zero")
        self._show_needs(() if runs is not None else open_ if known else needs)
        why = obstacle_of(dry)
        left = run.interrupted is not None and runs is None
        self.title.setText(self._title(why))
        self.words.setText(self._words(why))
        self.words.setVisible(bool(self.words.text()))
        missing = self._missing = missing_of(dry)
        self.go_there.setVisible(runs is None and missing is not None)
        for button in (self.dry, self.real):
            button.setVisible(runs is None and not left)
        self.dry.setText("Draw it" if program.figure is not None else "Dry run")
        self.dry.setEnabled(not why and program.share is None)
        self.real.setEnabled(not obstacle_of(needs) and program.share is None)
        self.real.setVisible(runs is None and not left and self._spins)
        goes = run.running and run.question is None
        self.hold.setVisible(goes)
        self._show_text(run.judged if goes else None)
        self.again.setVisible(left)
        self.give_up.setVisible(left)
        self.check.setVisible(runs is None and run.made is not None and judged is not None)
        self.mend.setVisible(runs is None and run.result is not None and bool(run.result.edit))
        question = run.question
        hooks = question is not None and question.key == "figure.seen"
        self.hooks.setVisible(hooks)
        if hooks and question is not None:
            self.hooks.show_words({way.key: way.text for way in question.choices})
        self.asking.setVisible(run.running or runs is None)
        self.touching.setVisible(self.steps.running)
        self.raised.show_length(self._session.machine.reads, self._raised)
        self.raised.setEnabled(runs is None)
        for slider, rate in ((self.feed, run.feed), (self.rapid, run.rapid)):
            with QSignalBlocker(slider):  # a hand device may have turned it
                slider.setValue(round(100 * rate))
        self.feed_words.setText(f"{100 * run.feed:.0f} %")
        self.rapid_words.setText(f"{100 * run.rapid:.0f} %")
        self.picture.show_spots(run.worst_at if run.made is not None and runs is None else {})
        self._show_motion_words()
        self._draw()
        self.laid_anew.emit()

    @property
    def _spins(self) -> bool:
        judged = self._session.program.judged
        return judged is not None and bool(judged.verdict.program.speeds)

    def _title(self, why: str) -> str:
        run, program = self.procedure, self._session.program
        if self.steps.running:
            return "Whether steps were lost"
        if run.running and run.question is not None:
            return "It waits for you"
        if run.running:
            return "It stands" if self._stands else "It runs"
        if run.interrupted is not None:
            return "Interrupted"
        name = program.opened.name if program.opened is not None else ""
        if program.figure is not None:
            name = f"the figure “{program.figure.kind}”"
        return f"Ready: {name}" if not why else "Not ready yet" if name else "Nothing to run"

    def _words(self, why: str) -> str:
        run = self.procedure
        if self.steps.running or run.running:
            return ""
        if run.interrupted is not None:
            left = run.interrupted
            beside = "beside its path; it is to be started anew" if left.beside else "on its path"
            return f"It was ended in line {left.line}, and stands {beside}."
        newest = self.steps.result if self.steps.result is not None and self.steps.shifts else run.result
        if newest is not None and newest.end not in (Ending.FAILED, Ending.STOPPED) and run.made is not None:
            made = run.made_words
            return newest.words if made in newest.words else f"{newest.words} {made}"
        return why

    @property
    def _stands(self) -> bool:
        return self.procedure.paused or self._session.link.path.along is Along.HELD

    def _show_needs(self, needs: tuple[Need, ...]) -> None:
        while item := self._needs.takeAt(0):
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        self.needs.setVisible(bool(needs))
        for need in needs:
            words: QLabel = label(f"{'●' if need.met else '▲'}  {need.words}", "" if need.met else "warn", wrap=True)
            words.setToolTip(need.why)
            words.setAccessibleName(f"{need.words}: {'yes' if need.met else need.why}")
            self._needs.addWidget(words)

    def _show_text(self, judged: Judged | None) -> None:
        """The text while it runs; the line that is done now is kept in sight."""
        self.text.setVisible(judged is not None)
        self._rest.setVisible(judged is None)
        if judged is not self._read:
            self._read = judged
            if judged is not None:
                marks, text = judged.verdict.program.marks, judged.text
                self.text.show_text(
                    judged.verdict.program.lines, lambda first, count: lines_of(text, marks, first, count), frozenset()
                )

    def show_motion(self) -> None:
        session = self._session
        axes = session.axes
        known = bool(axes) and all(axis.homed for axis in axes[:1])
        names = session.machine.names
        self.picture.show_tool(
            {name: axis.position for name, axis in zip(names, axes, strict=False) if axis.homed} if known else None
        )
        if self.procedure.running:
            self._show_motion_words()
            now = session.loop.now()
            if now - self._drawn_at > AGAIN:
                self._drawn_at = now
                self._draw()

    def _show_motion_words(self) -> None:
        run = self.procedure
        active = run.running and run.track is not None and not self._session.link.path.along.over
        for widget in (self.bar, self.where, self.left_words):
            widget.setVisible(active)
        if not active:
            return
        place = run.place
        self.bar.setValue(round(1000 * run.done_share))
        self.where.setText(f"line {place.line}")
        if place.line and place.line != self.text.line and self.text.isVisible():
            self.text.go_to(place.line)
        stands = " · stands" if self._stands else f" · goes at {100 * place.rate:.0f} %"
        self.left_words.setText(
            f"{100 * run.done_share:.0f} % · {duration(run.seconds_left)} left{stands}{run.lag_words}"
        )
        self.hold.setText("Go on" if self._stands else "Pause")

    def _draw(self) -> None:
        judged = self.procedure.judged if self.procedure.running else self._session.program.judged
        row = self._row()
        if self._shown == (judged, row) and judged is not None:
            return
        self._shown = judged, row
        if judged is None:
            self.picture.show_scene(path_scene(self._session, None, np.zeros(0, np.uint8), (0, 0)))
            return
        first = 0 if self.procedure.running else approached(judged)
        self.picture.show_scene(
            path_scene(self._session, judged, shades_until(judged, row), (first, len(judged.strokes.rows)))
        )

    def _row(self) -> int:
        """The move that is gone along now, or 0."""
        run = self.procedure
        if not run.running or run.track is None:
            return 0
        place = run.place
        leg = run.track.legs[min(place.leg, len(run.track.legs) - 1)]
        return int(leg.rows[min(int(place.at), len(leg.rows) - 1)])
