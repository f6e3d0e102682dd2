"""What is next, at the head of the margin: one thing to do, why, and the way to it; or why it is left out."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt, QTimer, Signal
from PySide6.QtWidgets import QApplication, QFrame, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget
from shiboken6 import isValid

from idler.core.errors import Refusal
from idler.core.report.agenda import Step
from idler.core.wiring.tool import station_label
from idler.session.session import Session

from ..bridge import follow
from ..widgets.cards import label, tall


class NextStrip(QFrame):
    """wanted: the step that the person asks to be taken to."""

    wanted = Signal(object)  # Step

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("next")
        self._session = session
        self.step: Step | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 10, 16, 8)
        column.setSpacing(4)
        self.text = label("", "heading", wrap=True)
        self.why = label("", "small", wrap=True)
        column.addWidget(self.text)
        column.addWidget(self.why)
        self.reason = QLineEdit()
        self.reason.setPlaceholderText("why it is left out, then Return")
        self.reason.setAccessibleName("Why this step is left out")
        self.reason.returnPressed.connect(self._leave_out)
        self.reason.hide()
        column.addWidget(self.reason)
        row = QHBoxLayout()
        self.go = QPushButton("Go there")
        self.go.clicked.connect(self._go)
        tall(self.go)
        self.out = QPushButton("Leave it out…")
        self.out.setProperty("role", "quiet")
        self.out.clicked.connect(self._ask_why)
        row.addWidget(self.go, 1)
        row.addWidget(self.out)
        column.addLayout(row)
        self._had_focus: QWidget | None = None
        self._counts = False
        self._leading = QTimer(self)
        self._leading.setSingleShot(True)
        self._leading.timeout.connect(self._lead_on)
        for topic in (session.changed, session.held, session.proved, session.agenda.changed):
            follow(topic, self.refresh)
        follow(session.proved, self._remember_focus)
        follow(session.leading.changed, self._count)
        follow(session.leading.goes, self._lead_to)
        self.refresh()

    def _remember_focus(self) -> None:
        self._had_focus = QApplication.focusWidget()
        self._leading.start(0)

    def _lead_on(self) -> None:
        """Where a proof took away what had the focus, such as the button of its question, Return leads on to the next."""
        had, self._had_focus = self._had_focus, None
        if had is None or not isValid(had) or (had.isVisible() and had.isEnabled()):
            return
        if self.go.isVisible():
            self.go.setFocus(Qt.FocusReason.OtherFocusReason)

    def _count(self) -> None:
        """Until it goes on by itself; whatever is pressed meanwhile ends that."""
        left, app = self._session.leading.left, QApplication.instance()
        assert app is not None
        self.go.setText(f"Goes there in {left} s" if left else "Go there")
        if left and not self._counts:
            app.installEventFilter(self)
        elif not left:
            app.removeEventFilter(self)
        self._counts = bool(left)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.KeyPress, QEvent.Type.MouseButtonPress, QEvent.Type.Wheel):
            self._session.leading.stay()
        return super().eventFilter(watched, event)

    def _lead_to(self, step: Step) -> None:
        if QApplication.activeModalWidget() is None:  # which would lie before what is opened
            self.wanted.emit(step)

    def _go(self) -> None:
        if self.step is not None:  # it may have been done between press and release
            self.wanted.emit(self.step)

    def _ask_why(self) -> None:
        self.reason.setVisible(self.reason.isHidden())
        if not self.reason.isHidden():
            self.reason.setFocus()

    def _leave_out(self) -> None:
        if self.step is None:
            return
        try:
            self._session.agenda.skip(self.step.key, self.reason.text())
        except Refusal as why:
            self._session.tell("warn", why.sentence)
            return
        self.reason.clear()
        self.reason.hide()

    def refresh(self) -> None:
        step = self._session.agenda.next
        if step is not None and self.step is not None and step.key != self.step.key:
            self.reason.clear()
            self.reason.hide()
        self.step = step
        if step is None:
            self.text.setText("Nothing is left to do")
            self.why.setText("All that can be proven is proven, or left out with its reason.")
        else:
            self.text.setText(f"Next: {step.text}")
            needs = f" Needs: {', '.join(step.needs)}." if step.needs else ""
            shown = (
                f"{station_label(self._session.machine, step.station)} · about {step.minutes:g} min.{needs}"
                if step.procedure
                else step.why
            )
            self.why.setText(shown)
            self.why.setToolTip(step.why)
        for button in (self.go, self.out):
            button.setVisible(step is not None)
