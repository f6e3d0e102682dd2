"""Own actions: which there are, what each would do, how often it ran and why; their text, checked before it is taken."""

from __future__ import annotations

from concurrent.futures import Future, ThreadPoolExecutor
from functools import partial

import numpy as np
from PySide6.QtCore import QSignalBlocker, Qt, QTimer
from PySide6.QtGui import QFontDatabase, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QMenu, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from idler.core.actions.edits import unused_name, with_one, without
from idler.core.actions.examples import EXAMPLES
from idler.core.actions.steps import Action
from idler.core.actions.text import NOTHING, one_line, problem, read, write
from idler.core.errors import Refusal
from idler.core.rules.actions import TEXT, actions_of, problems
from idler.core.rules.actionway import ActionWay, way_of
from idler.procedures.actions.action import ActionRun
from idler.procedures.engine import Ending, Result
from idler.session.session import Session

from ...bridge import follow
from ...pictures.programpath import ProgramPicture
from ...widgets.asking import Asking
from ...widgets.cards import Segments, card, label, tall
from ...widgets.machinebutton import MachineButton
from ..workbench import Workbench
from .scene import path_scene, shades_of
from .steplist import StepList

LEFT = 380
LEAST = 130  # pixels of the picture
LOOK_MS = 30


class ActionsPage(Workbench):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.procedure = ActionRun(session)
        self._chosen_name = ""  # of the action that is to be chosen
        self._shown: str | None = None  # the text of the machine that stands in the editor
        self._beside = ThreadPoolExecutor(1, "way")
        self._asked: object = None  # of which action, from where, the way is shown
        self._made: Future[ActionWay | None] | None = None
        self._looks = QTimer(self)
        self._looks.setInterval(LOOK_MS)
        self._looks.timeout.connect(self._look)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        row.addWidget(self._left())
        row.addWidget(self._right(), 1)
        for topic in (session.changed, session.held, session.acts.changed, self.procedure.changed):
            follow(topic, self.refresh)
        follow(self.procedure.ended, self._ended)
        self.refresh()

    def _left(self) -> QWidget:
        frame, column = card((14, 8, 14, 10), 6)
        frame.setFixedWidth(LEFT)
        head = QHBoxLayout()
        head.addWidget(label("Actions", "heading"), 1)
        self.new, self.remove = QPushButton("New action"), QPushButton("Remove it")
        menu = QMenu(self.new)
        menu.addAction("An empty one", self.add_empty)
        menu.addSeparator()
        for name in EXAMPLES:
            menu.addAction(name, partial(self.add_example, name))
        self.new.setMenu(menu)
        self.remove.clicked.connect(self._remove)
        for button in (self.new, self.remove):
            tall(button)
            head.addWidget(button)
        column.addLayout(head)
        self.names = QListWidget()
        self.names.setAccessibleName("Own actions")
        self.names.currentRowChanged.connect(lambda _: self._show_chosen())
        column.addWidget(self.names, 1)
        self.names.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column.addWidget(label("The way of the one that is chosen", "heading"))
        self.picture = ProgramPicture()
        self.picture.setAccessibleName("The way of the action")
        self.picture.setMinimumHeight(LEAST)
        column.addWidget(self.picture, 2)
        self.way_words = label("", "soft", wrap=True)
        column.addWidget(self.way_words)
        self.asking = Asking(self._session, self.procedure, lambda _: None)
        column.addWidget(self.asking)
        self.go = MachineButton(self._session, "Run it")
        self.go.setProperty("role", "main")
        self.go.clicked.connect(self._go)
        tall(self.go)
        column.addWidget(self.go)
        return frame

    def _right(self) -> QWidget:
        frame, column = card((14, 8, 14, 10), 6)
        self.list = StepList()
        self.list.edited.connect(self._edit)
        self.list.refused.connect(lambda words: self._session.tell("warn", words))
        self.rehearsal = QListWidget()
        self.rehearsal.setAccessibleName("What the action would do")
        self.rehearsal.setSelectionMode(QListWidget.SelectionMode.NoSelection)
        self.rehearsal.setWordWrap(True)
        self.rehearsal.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.forms = Segments(
            {"Its steps": self.list, "What it would do": self.rehearsal, "The text of all": self._as_text()}
        )
        column.addWidget(self.forms, 1)
        self.words = label("", "warn", wrap=True)
        column.addWidget(self.words)
        return frame

    def _as_text(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.text = QPlainTextEdit()
        self.text.setAccessibleName("Text of the own actions")
        self.text.setFont(QFontDatabase.systemFont(QFontDatabase.SystemFont.FixedFont))
        self.text.setTabChangesFocus(True)
        self.text.textChanged.connect(self._judge)
        column.addWidget(self.text, 1)
        buttons = QHBoxLayout()
        self.take = QPushButton("Take this text")
        self.take.clicked.connect(self._take)
        self.back = QPushButton("Drop what was typed")
        self.back.clicked.connect(self._drop)
        for button in (self.take, self.back):
            tall(button)
            buttons.addWidget(button)
        buttons.addStretch(1)
        column.addLayout(buttons)
        return page

    # -- doing ------------------------------------------------------------------------------------------------------

    @property
    def _typed(self) -> str:
        """As it is kept; raises Refusal where it makes no sense."""
        return one_line(read(self.text.toPlainText()))

    def _take(self) -> None:
        text = self.text.toPlainText()
        if not problem(text):
            self._shown = self._typed
            self._session.edit(TEXT, self._typed)
            self.text.document().setModified(False)
            self.refresh()

    def _edit(self, actions: tuple[Action, ...], name: str) -> None:
        """What was changed in the list; name: of the action that is chosen then."""
        try:
            self._session.edit(TEXT, one_line(actions))
        except Refusal as why:
            self._session.tell("warn", why.sentence)
        self._chosen_name = name
        self.refresh()

    def add_empty(self) -> None:
        found = actions_of(self._session.machine)
        name = unused_name(found)
        self._edit(with_one(found, Action(name, ())), name)
        self.forms.turn_to("Its steps")
        self.list.name.setFocus()
        self.list.name.selectAll()

    def _remove(self) -> None:
        if (name := self._chosen) is not None:
            self._edit(without(actions_of(self._session.machine), name), "")

    def _drop(self) -> None:
        self._shown = None
        self.text.document().setModified(False)
        self.refresh()

    def add_example(self, name: str) -> None:
        """One that is of use on most machines; one of its name that is there gives way, which can be taken back."""
        (action,) = read(EXAMPLES[name])
        self._edit(with_one(actions_of(self._session.machine), action), action.name)

    def start(self, name: str, why: str) -> None:
        """By its button or its key."""
        if words := self.procedure.start(name, why):
            self._session.tell("warn", words)

    def _go(self) -> None:
        if self.procedure.running:
            self._session.stop()
        elif (name := self._chosen) is not None:
            self.start(name, "its button")

    def _ended(self, result: Result) -> None:
        self._session.tell("plain" if result.end is Ending.DONE else "warn", result.words)

    # -- showing ----------------------------------------------------------------------------------------------------

    @property
    def _chosen(self) -> str | None:
        found = actions_of(self._session.machine)
        row = self.names.currentRow()
        return found[row].name if 0 <= row < len(found) else None

    def _judge(self) -> None:
        """What is wrong with what is typed; else what is wrong on this machine with what was taken."""
        typed = self.text.document().isModified()
        why = problem(self.text.toPlainText()) if typed else ""
        wrong = [f"{why}."] if why else [] if typed else problems(self._session.machine)
        self.words.setText("\n".join(wrong[:3]))
        self.words.setVisible(bool(wrong))
        self.take.setEnabled(typed and not why)
        self.back.setEnabled(typed)
        self.list.setEnabled(not typed)  # what is typed in the text would be taken over what is done in the list
        self.new.setEnabled(not typed)
        self.remove.setEnabled(not typed and self._chosen is not None)

    def _show_chosen(self) -> None:
        self.rehearsal.clear()
        if (name := self._chosen) is not None:
            self.rehearsal.addItems(self.procedure.rehearsed(name))
        self.go.setEnabled(self.procedure.running or name is not None)
        machine = self._session.machine
        self.list.show_action(machine, next((each for each in actions_of(machine) if each.name == name), None))
        self._show_way(name)

    def _show_way(self, name: str | None) -> None:
        if not self.isVisible():
            return
        asked = self.procedure.way_from_here(name) if name is not None else None
        if asked is None:
            self._asked, self._made = None, None
            self._draw(None, "")
        elif asked != self._asked:
            self._asked, self._made = asked, self._beside.submit(way_of, *asked)
            self._looks.start()

    def _look(self) -> None:
        """Whether the way that was asked for last is worked out: beside the window, for the first one takes its time."""
        if self._made is None or self._made.done():
            self._looks.stop()
        if self._made is not None and self._made.done():
            self._draw(self._made.result(), "It moves nothing.")

    @property
    def drawn(self) -> bool:
        """Whether the way that was asked for last is worked out."""
        return not self._looks.isActive()

    def _draw(self, way: ActionWay | None, otherwise: str) -> None:
        shades = shades_of(way, "order") if way is not None else np.zeros(0, np.uint8)
        self.picture.show_scene(path_scene(self._session, way, shades, (0, len(shades))))
        self.way_words.setText(otherwise if way is None else way.words)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._show_way(self._chosen)  # what the machine is may have changed meanwhile, and where its axes stand

    def refresh(self) -> None:
        session = self._session
        found, kept = actions_of(session.machine), str(session.machine[TEXT])
        if self._shown != kept and not self.text.document().isModified():
            self._shown = kept
            self.text.setPlainText("" if kept == NOTHING else write(found))
            self.text.document().setModified(False)
        rows = [self._row(each) for each in found]
        if rows != [self.names.item(row).text() for row in range(self.names.count())]:
            before = max(0, self.names.currentRow())
            with QSignalBlocker(self.names):
                self.names.clear()
                self.names.addItems(rows)
                self.names.setCurrentRow(min(before, len(rows) - 1))
        if self._chosen_name:
            names = [each.name for each in found]
            self.names.setCurrentRow(names.index(self._chosen_name) if self._chosen_name in names else 0)
            self._chosen_name = ""
            if found:
                self.names.scrollToItem(self.names.item(self.names.currentRow()))
        self._show_chosen()
        self.asking.setVisible(self.procedure.running or bool(self.asking.words.text()))
        self.go.setText("Stop it" if self.procedure.running else "Run it")
        self._judge()
        self.laid_anew.emit()

    def _row(self, action: Action) -> str:
        on = f"on {action.event.words}" if action.event.words else ""
        words = action.name, on, action.key, _times(self._session.acts.count(action.name))
        return " · ".join(word for word in words if word)


def _times(count: int) -> str:
    return "" if not count else "ran once" if count == 1 else f"ran {count} times"
