"""The header: machine and standing, link and state in words, Send, Keep revision, STOP."""

from __future__ import annotations

from functools import partial
from math import ceil

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFontMetrics, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QPushButton, QWidget

from idler.core.travel import open_ends
from idler.core.words import capital
from idler.link.events import Progress
from idler.session.motion_words import motion_words
from idler.session.session import Session

from .. import growth, theme
from ..bridge import follow
from ..pictures.gears import wheel
from ..pictures.picture import Picture
from ..widgets.cards import tall

NARROWEST = 200  # the state in words, pixels
LISTED = 14  # values of one standing in the list; the others are counted


class _Mark(Picture):
    """Idler's mark: a small wheel between two."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(40, 30)

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        p.setPen(QPen(theme.color("on_header"), 1.2))
        p.drawPath(wheel(8, 17, 6.5, 9, 2.4))
        p.drawPath(wheel(31, 17, 6.5, 9, 2.4))
        p.setBrush(theme.color("pale_brass") if not theme.is_night() else theme.color("brass"))
        p.drawPath(wheel(19.5, 13, 4.6, 7, 2.2))


class _LinkWords(Picture):
    """Link and state in words, with a mark whose shape tells them apart: ring, dot, square, bar."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(30)
        self._words, self._shape, self._wanted = "", "ring", 0

    def show_state(self, words: str, shape: str) -> None:
        if (words, shape) != (self._words, self._shape):
            self._words, self._shape = words, shape
            self.setAccessibleName(words)
            self.setToolTip(words)
            self._wanted = min(372, QFontMetrics(theme.text_font(13)).horizontalAdvance(words) + 52)
            self.fit()
            self.update()

    def fit(self, lacking: int = 0) -> None:
        """As wide as its words, less the pixels in force that the others lack: the tooltip has all of them."""
        growth.fix(self, width=max(NARROWEST, self._wanted - ceil(lacking / growth.factor())))

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        fault = self._shape == "bar"
        p.setPen(QPen(theme.color("vermilion" if fault else "header_line"), 1.5))
        p.drawRoundedRect(QRectF(0.75, 0.75, self.wide - 1.5, self.high - 1.5), 14, 14)
        middle = QPointF(18, self.high / 2)
        p.setPen(QPen(theme.color("on_header"), 1.6))
        if self._shape == "dot":
            p.setBrush(theme.color("on_header"))
            p.drawEllipse(middle, 4, 4)
        elif self._shape == "ring":
            p.drawEllipse(middle, 4, 4)
        elif self._shape == "arrow":
            p.setBrush(theme.color("on_header"))
            p.drawPolygon([middle + QPointF(-4, -5), middle + QPointF(5, 0), middle + QPointF(-4, 5)])
        else:
            p.setBrush(theme.color("on_header"))
            p.drawRect(QRectF(middle.x() - 4, middle.y() - 4, 8, 8))
        p.setPen(theme.color("on_header"))
        p.setFont(theme.text_font(13))
        room = int(self.wide) - 44
        words = p.fontMetrics().elidedText(self._words, Qt.TextElideMode.ElideRight, room)
        p.drawText(QRectF(32, 0, room, self.high), Qt.AlignmentFlag.AlignVCenter, words)


class Header(QWidget):
    stop = Signal()
    send = Signal()
    keep = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("header")
        self._session = session
        self.setFixedHeight(46)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.machine = QPushButton()
        self.machine.setObjectName("machine")
        self.machine.setAccessibleName("Menu of the machine")
        self.menu = QMenu(self.machine)
        self.machine.setMenu(self.menu)
        self._open = QLabel()
        self._open.setProperty("role", "loud")
        self._open.setFixedHeight(30)
        self._standing = QPushButton()
        self._standing.setProperty("role", "standing")
        self._standing.setAccessibleName("Standing of the values")
        self._standing.clicked.connect(self._list_values)
        self._state = _LinkWords()
        self.send_button = QPushButton("Send")
        self.keep_button = QPushButton("Keep revision")
        self.stop_button = QPushButton("STOP  Esc")
        self.stop_button.setObjectName("stop")
        self.stop_button.setFixedSize(136, 40)
        self.stop_button.setToolTip(
            "Stops all motion and the spindle. It is not an emergency stop: it asks the controller, and a controller\n"
            "that does not listen does not stop. Keep the emergency stop of the machine within reach."
        )
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 0, 8, 0)
        row.setSpacing(8)
        left: tuple[QWidget, ...] = (_Mark(), self.machine, self._open, self._standing)
        right: tuple[QWidget, ...] = (self._state, self.send_button, self.keep_button, self.stop_button)
        for widget in left:
            row.addWidget(widget)
        row.addStretch(1)
        for widget in right:
            row.addWidget(widget)
        for button in (self.send_button, self.keep_button):
            tall(button)
        self.send_button.clicked.connect(self.send)
        self.keep_button.clicked.connect(self.keep)
        self.stop_button.pressed.connect(self.stop)
        self._revision = ""
        self._words: tuple[str, ...] = ("",)  # the standing, from its longest words to its shortest
        follow(session.progressed, self._show_progress)
        follow(session.changed, self.refresh)
        follow(session.held, self.refresh)
        follow(session.lock.changed, self.refresh)
        self.refresh()

    def show_revision(self, words: str) -> None:
        self._revision = words
        self.refresh()

    def _show_progress(self, progress: Progress | None) -> None:
        if progress is None:
            self.refresh()
        else:
            self._words = (progress.words,)
            self._lay()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._lay()

    def _list_values(self) -> None:
        """The values that are not the same everywhere; one that is chosen gets the focus of the margin."""
        count, machine = self._session.count(), self._session.machine
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for title, listed in (
            ("Edited here, not sent", count.edited), ("Wait for a restart of the controller", count.waiting),
            ("In force, in no revision", count.in_force),
        ):  # fmt: skip
            if listed:
                menu.addSection(f"{title}: {len(listed)}")
            for address in listed[:LISTED]:
                words = f"{capital(machine.part(address))}: {machine.show(address)}"
                menu.addAction(words, partial(self._session.set_focus, address))
            if len(listed) > LISTED:
                menu.addAction(f"and {len(listed) - LISTED} more, at Sign-off under Compare").setEnabled(False)
        if menu.isEmpty():
            menu.addAction(capital(count.words)).setEnabled(False)
        menu.popup(self._standing.mapToGlobal(self._standing.rect().bottomLeft()))

    def refresh(self) -> None:
        count = self._session.count()
        open_axes = open_ends(self._session.machine)
        self._open.setText(f"soft limits off: {' '.join(open_axes)}")
        self._open.setVisible(bool(open_axes))
        locked = ["set-up locked"] if self._session.lock.closed else []
        revision = [self._revision] if self._revision else []
        if self._session.connected:
            long, short = [count.words], [count.short]
        else:
            unkept = len(self._session.machine.differences(self._session.base))
            long = short = [f"{unkept} edited since" if unkept else "no edits"]
        said = ([*locked, *revision, *long], [*locked, *revision, *short], [*locked, *short])
        self._words = tuple(" · ".join(parts) for parts in said)
        number = len(count.edited)
        self.send_button.setText(f"Send {number}…" if number else "Send…" if count.to_send else "Send")
        self.send_button.setEnabled(self._session.connected and count.to_send)
        self._lay()

    def _lay(self) -> None:
        """Other words want other room: what stands beside them moves at once, and not at the next turn of the loop.

        The machine's long name gives way first, then the standing's words get shorter, and the state's are cut last.
        """
        layout, machine = self.layout(), self._session.machine
        assert layout is not None
        self._state.fit()
        for name, words in ((machine.title, self._words[0]), *((machine.short_title, each) for each in self._words)):
            self.machine.setText(f"{name}  ▾")
            self._standing.setText(words)
            layout.activate()
            if layout.minimumSize().width() <= self.width():
                break
        else:
            self._state.fit(layout.minimumSize().width() - self.width())
            layout.activate()
        self._standing.setToolTip(self._words[0])

    def show_motion(self) -> None:
        """Called at the picture's pace."""
        session = self._session
        if not session.connected:
            self._show_state({"connect": "connecting…"}.get(session.busy, "no controller"), "ring")
            return
        fault = session.in_fault
        if session.floor.words and not fault:  # what is wrong goes before what runs
            self._show_state(f"{session.floor.words} · {session.floor.time_words} · Esc ends it", "arrow")
            return
        name = f"node {session.identity.node}" if session.identity else "controller"
        words = motion_words(session)
        shape = "bar" if fault else "arrow" if session.moving else "dot" if session.powered else "ring"
        homed = [axis.homed for axis in session.axes]
        home = (
            "" if fault else ", not homed" if not any(homed) else ", not all homed" if not all(homed)
            else ", home unsure" if session.homes.unheld else ", homed"
        )  # fmt: skip
        self._show_state(f"{name} · {words}{home}", shape)

    def _show_state(self, words: str, shape: str) -> None:
        before = self._state.width()
        self._state.show_state(words, shape)
        if self._state.width() != before:
            self._lay()
