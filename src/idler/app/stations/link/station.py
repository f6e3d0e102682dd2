"""The Link station: what is on the bus, who answers, what it held when it was found, restart."""

from __future__ import annotations

import time
from collections.abc import Callable

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QPaintEvent, QPen
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
)

from idler.link.bus.address import parse, search
from idler.link.errors import LinkError
from idler.link.events import BusNode
from idler.session.session import Session

from ... import theme
from ...bridge import follow
from ...pictures.machine import MachinePicture, scene_of
from ...pictures.picture import Picture
from ...widgets.cards import card, figures, label
from .. import Host
from ..workbench import Workbench


class BusPicture(Picture):
    """Computer, wire and controller; the wire is whole while the link is alive."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setFixedHeight(76)
        follow(session.held, self.update)

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        alive = self._session.connected
        identity = self._session.identity
        width = self.wide
        boxes = (
            (QRectF(2, 10, 128, 56), "this computer", "Idler"),
            (QRectF(width - 232, 3, 230, 70), identity.name if identity else "controller", self._controller_words()),
        )
        y = 38.0
        p.setPen(QPen(theme.color("petrol" if alive else "soft"), 2.4 if alive else 1.6,
                      Qt.PenStyle.SolidLine if alive else Qt.PenStyle.DashLine))  # fmt: skip
        start, end = boxes[0][0].right(), boxes[1][0].left()
        p.drawLine(int(start), int(y - 4), int(end), int(y - 4))
        p.drawLine(int(start), int(y + 4), int(end), int(y + 4))
        p.setPen(theme.color("soft"))
        p.setFont(theme.text_font(12))
        words = self._bus_words() if alive else "connecting…" if self._session.busy == "connect" else "no link"
        p.drawText(QRectF(start, y - 26, end - start, 18), Qt.AlignmentFlag.AlignCenter, words)
        if identity:
            p.drawText(QRectF(start, y + 8, end - start, 18), Qt.AlignmentFlag.AlignCenter, identity.address)
        for box, title, words in boxes:
            p.setPen(QPen(theme.color("ink"), 1.4))
            p.setBrush(theme.color("pale_petrol" if alive else "paper"))
            p.drawRoundedRect(box, 4, 4)
            p.setFont(theme.text_font(13, bold=True))
            p.drawText(
                box.adjusted(10, 8, -10, -box.height() / 2),
                Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
                title,
            )
            p.setFont(theme.text_font(12))
            p.setPen(theme.color("soft"))
            p.drawText(
                box.adjusted(10, box.height() / 2, -8, -8),
                Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
                words,
            )

    def _bus_words(self) -> str:
        identity = self._session.identity
        rate = parse(identity.address).bit_rate_words if identity else ""
        others = sorted(identity.others) if identity else []
        beside = f", beside node{'s' if len(others) > 1 else ''} {', '.join(map(str, others))}" if others else ""
        return f"CAN bus{rate}{beside}"

    def _controller_words(self) -> str:
        identity = self._session.identity
        if identity is None:
            return "not found yet"
        return f"node {identity.node} · axes {' '.join(identity.axes)}"


class LinkStation(Workbench):
    """start_bench: called by the button that starts the bench; None where it runs already."""

    factory = Signal()
    lock = Signal()
    wire = Signal()

    def __init__(self, session: Session, start_bench: Callable[[], None]) -> None:
        super().__init__()
        self._session = session
        self._start_bench = start_bench
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 8, 14, 8)
        row.setSpacing(12)
        row.addWidget(self._drawing(), 3)
        row.addLayout(self._side(), 2)
        follow(session.held, self.refresh)
        follow(session.several, self.show_nodes)
        follow(session.changed, self.show_motion)
        follow(session.revised, self.refresh)
        follow(session.lock.changed, self.refresh)
        self.refresh()

    def _drawing(self) -> QFrame:
        frame, column = card((14, 10, 14, 6))
        column.addWidget(BusPicture(self._session))
        self._machine = MachinePicture(still=True)
        column.addWidget(self._machine, 1)
        self._machine_words = label("", "small", wrap=True)
        below = QHBoxLayout()
        below.addWidget(self._machine_words, 1)
        self.factory_button, self.lock_button = QPushButton("Factory values…"), QPushButton()
        self.factory_button.setToolTip("Puts the controller back as it was delivered; as found is kept.")
        self.factory_button.clicked.connect(self.factory)
        self.lock_button.clicked.connect(self.lock)
        for button in (self.factory_button, self.lock_button):
            below.addWidget(button)
        column.addLayout(below)
        return frame

    def _take_port(self, item: QListWidgetItem) -> None:
        self.address.setText(item.data(Qt.ItemDataRole.UserRole) or self.address.text())

    def _side(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(10)
        where, inner = card()
        inner.addWidget(label("Where to connect", "title"))
        self.ports = QListWidget()
        self.ports.setFixedHeight(52)
        self.ports.setAccessibleName("Ports found")
        self.ports.itemClicked.connect(self._take_port)
        inner.addWidget(self.ports)
        line = QHBoxLayout()
        self.address = QLineEdit()
        self.address.setPlaceholderText("/dev/ttyACM0, can0 or slcan://HOST:PORT")
        self.address.setAccessibleName("Address of the controller")
        self.address.returnPressed.connect(self._connect)
        line.addWidget(self.address, 1)
        self.connect_button = QPushButton("Connect")
        self.connect_button.setProperty("role", "main")
        self.connect_button.clicked.connect(self._connect)
        line.addWidget(self.connect_button)
        inner.addLayout(line)
        buttons = QHBoxLayout()
        look = QPushButton("Look for ports")
        look.clicked.connect(self.look)
        self.bench_button = QPushButton("Start the bench")
        self.bench_button.setToolTip("A simulated plate mill with its controller, for trying everything out.")
        self.bench_button.clicked.connect(self._start_bench)
        buttons.addWidget(look)
        buttons.addWidget(self.bench_button)
        wire = QPushButton("On the wire…")
        wire.setToolTip("Every frame in words, one object by hand, a recording.")
        wire.clicked.connect(self.wire)
        buttons.addWidget(wire)
        buttons.addStretch(1)
        inner.addLayout(buttons)
        column.addWidget(where)
        column.addWidget(self._who(), 1)
        return column

    def _who(self) -> QFrame:
        frame, column = card(spacing=4)
        column.addWidget(label("Who answered", "title"))
        grid = QGridLayout()
        grid.setVerticalSpacing(2)
        grid.setColumnStretch(1, 1)
        self._facts: dict[str, QLabel] = {}
        for line, name in enumerate(("name", "hardware", "software", "serial number", "profile", "values")):
            value = figures()
            value.setAlignment(Qt.AlignmentFlag.AlignRight)
            grid.addWidget(label(name, "soft"), line, 0)
            grid.addWidget(value, line, 1)
            self._facts[name] = value
        column.addLayout(grid)
        self._found = label("", wrap=True)
        column.addWidget(self._found)
        column.addStretch(1)
        buttons = QHBoxLayout()
        self.read_button = QPushButton("Read again")
        self.read_button.clicked.connect(self._session.read_all)
        self.restart_button = QPushButton("Restart controller")
        self.restart_button.clicked.connect(self._session.restart)
        self.take_button = QPushButton("Take its values")
        self.take_button.setToolTip("Puts every value that the controller holds into your draft. One step of undo.")
        self.take_button.clicked.connect(self._session.take_over_controller)
        for button in (self.read_button, self.restart_button, self.take_button):
            buttons.addWidget(button)
        buttons.addStretch(1)
        column.addLayout(buttons)
        return frame

    def look(self) -> None:
        """Lists the ports of this computer."""
        self.ports.clear()
        for found in search():
            item = QListWidgetItem(f"{found.address}   {found.what}")
            item.setData(Qt.ItemDataRole.UserRole, found.address)
            self.ports.addItem(item)
        if not self.ports.count():
            self.ports.addItem(QListWidgetItem("No adapter is plugged in. Plug one in, or start the bench."))

    def show_bench(self, address: str) -> None:
        """The bench runs: it stands first among the ports."""
        if not self.ports.count() or self.ports.item(0).data(Qt.ItemDataRole.UserRole) is None:
            self.ports.clear()
        item = QListWidgetItem(f"{address}   the bench of this Idler")
        item.setData(Qt.ItemDataRole.UserRole, address)
        self.ports.insertItem(0, item)
        self.address.setText(address)
        self.bench_button.setEnabled(False)

    def show_nodes(self, nodes: tuple[BusNode, ...]) -> None:
        """Several answered: each is a line to choose from, with its address."""
        try:
            address = parse(self.address.text())
        except LinkError:
            return
        self.ports.clear()
        for node in nodes:
            where = str(address.of_node(node.number))
            item = QListWidgetItem(f"node {node.number}   {node.name}" + ("" if node.ours else ", of another profile"))
            item.setData(Qt.ItemDataRole.UserRole, where)
            self.ports.addItem(item)

    def _connect(self) -> None:
        if self._session.connected:
            self._session.disconnect()
        else:
            self._session.connect_to(self.address.text())

    def refresh(self) -> None:
        identity, holding = self._session.identity, self._session.holding
        self.connect_button.setText("Disconnect" if self._session.connected else "Connect")
        for button in (self.read_button, self.restart_button, self.take_button, self.factory_button):
            button.setEnabled(self._session.connected)
        lock = self._session.lock
        self.lock_button.setText("Unlock…" if lock.closed else "Lock again" if lock.has_pin else "Lock…")
        if identity is None or holding is None:
            for line in self._facts.values():
                line.setText("—")
            self._found.setText(
                "Nobody yet. At first contact everything that the controller holds is kept as a revision."
            )
        else:
            facts = {
                "name": identity.name, "hardware": identity.hardware, "software": identity.software,
                "serial number": str(identity.serial), "values": f"{len(holding.raws)} read",
                "profile": "this one" if identity.is_ours else "another",
            }  # fmt: skip
            for name, value in facts.items():
                self._facts[name].setText(value)
            self._found.setText(self._found_words())
        self.show_motion()

    def _found_words(self) -> str:
        found = next((revision for revision in self._session.history.all() if revision.as_found), None)
        if self._session.history.being_read:
            return "The revisions are being read…"
        if found is None:
            return "What it holds could not be kept as found."
        when = time.strftime("%-d %B %Y, %H:%M", time.localtime(found.when))
        return f"✓ Kept as found: revision {found.number}, {when}, before anything was sent."

    def show_motion(self) -> None:
        axes = self._session.heard_axes
        names = self._session.machine.names
        positions = {name: state.position for name, state in zip(names, axes, strict=False)}
        known = bool(axes) and all(state.homed for state in axes[:3])
        self._machine.show_scene(scene_of(self._session.machine, positions, known))
        words = "" if known else "Not homed: the drawing shows each axis in the middle of its travel. "
        self._machine_words.setText(words + "Solid lines are hard stops, dashed lines soft limits.")


def make(host: Host) -> LinkStation:
    made = LinkStation(host.session, host.start_bench)
    made.factory.connect(host.open_factory)
    made.lock.connect(host.open_lock)
    made.wire.connect(host.open_wire)
    return made
