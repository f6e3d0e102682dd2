"""The Link station: what is on the bus, who answers, what it held when it was found, restart."""

from __future__ import annotations

import time
from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from idler.core.controller.nodes import What
from idler.core.machine import Address
from idler.core.report.agenda import RESTART
from idler.core.words import word
from idler.link.bus.address import parse, search
from idler.link.errors import LinkError
from idler.link.events import BusNode, Identity
from idler.session.session import Session

from ...bridge import follow
from ...pictures.bus import BusPicture, BusScene, Part, hangs_of
from ...widgets.cards import card, figures, label
from .. import Host
from ..workbench import Workbench
from .parts import PartsPanel

# What a controller says of itself, in the order in which it is shown.
_FACTS = (word("name"), word("hardware"), word("software"), "serial number", word("profile"), word("values"))


class LinkStation(Workbench):
    """start_bench: called by the button that starts the bench; None where it runs already."""

    factory = Signal()
    lock = Signal()
    wire = Signal()
    parts_wanted = Signal()
    number_wanted = Signal()

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
        follow(session.changed, self._draw)
        follow(session.revised, self.refresh)
        follow(session.lock.changed, self.refresh)
        self.refresh()

    def _drawing(self) -> QFrame:
        frame, column = card((14, 10, 14, 6))
        self.bus = BusPicture()
        column.addWidget(self.bus, 1)
        below = QHBoxLayout()
        below.addStretch(1)
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
        frame, outer = card(spacing=4)
        self.answered = QStackedWidget()
        outer.addWidget(self.answered)
        facts = QWidget()
        self.answered.addWidget(facts)
        self.parts = PartsPanel(self._connect_parts)
        self.parts.number_button.clicked.connect(self.number_wanted)
        self.answered.addWidget(self.parts)
        column = QVBoxLayout(facts)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(label("Who answered", "title"))
        grid = QGridLayout()
        grid.setVerticalSpacing(2)
        grid.setColumnStretch(1, 1)
        self._facts: dict[str, QLabel] = {}
        for line, name in enumerate(_FACTS):
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
        self.parts_button = QPushButton("Parts…")
        self.parts_button.setToolTip("Which part is which, and what their makers' data sheets say.")
        self.parts_button.clicked.connect(self.parts_wanted)
        for button in (self.read_button, self.restart_button, self.take_button, self.parts_button):
            buttons.addWidget(button)
        buttons.addStretch(1)
        column.addLayout(buttons)
        return frame

    def control_of(self, key: str, address: Address | None) -> QWidget | None:
        """What restarts the controller, or connects it, once it is said where."""
        if key == RESTART:
            return self.restart_button
        return self.connect_button if self.address.text() else self.address

    def look(self) -> None:
        """Lists the ports of this computer."""
        self.ports.show()
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
        """Several answered: each is a line to choose from, with its address; of plain parts it is asked which is which."""
        try:
            address = parse(self.address.text())
        except LinkError:
            return
        if not any(node.ours for node in nodes) and any(node.what is What.DRIVE for node in nodes):
            self.parts.show_nodes(nodes, self._session.machine.names)
            self.answered.setCurrentWidget(self.parts)
            self.ports.hide()  # it is known where they are, and they need the room
            self.parts.button.setFocus()
            return
        self.ports.clear()
        for node in nodes:
            where = str(address.of_node(node.number))
            item = QListWidgetItem(f"node {node.number}   {node.name}" + ("" if node.ours else ", of another profile"))
            item.setData(Qt.ItemDataRole.UserRole, where)
            self.ports.addItem(item)

    @property
    def bus_address(self) -> str:
        """Where the bus is, as it stands here, without what is on it."""
        return self.address.text().partition("?")[0]

    def _connect_parts(self, parts: str) -> None:
        self.address.setText(str(parse(self.address.text()).of_parts(parts)))
        self._session.connect_to(self.address.text())

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
        self.parts_button.setVisible(identity is not None and bool(identity.parts))
        lock = self._session.lock
        self.lock_button.setText("Unlock…" if lock.closed else "Lock again" if lock.has_pin else "Lock…")
        if identity is not None:
            self.answered.setCurrentIndex(0)
            self.ports.show()
        if identity is None or holding is None:
            for line in self._facts.values():
                line.setText("—")
            self._found.setText(
                "Nobody yet. At first contact everything that the controller holds is kept as a revision."
            )
        else:
            facts = (
                identity.name, identity.hardware, identity.software, str(identity.serial), self._profile(identity),
                f"{len(holding.raws)} read",
            )  # fmt: skip
            for name, value in zip(_FACTS, facts, strict=True):
                self._facts[name].setText(value)
            self._found.setText(self._found_words())
        self._draw()

    @staticmethod
    def _profile(identity: Identity) -> str:
        if identity.parts:
            return f"plain parts, {len(identity.parts)} nodes"
        return "this one" if identity.is_ours else "another"

    def _found_words(self) -> str:
        found = next((revision for revision in self._session.history.all() if revision.as_found), None)
        if self._session.history.being_read:
            return "The revisions are being read…"
        if found is None:
            return "What it holds could not be kept as found."
        when = time.strftime("%-d %B %Y, %H:%M", time.localtime(found.when))
        return f"✓ Kept as found: revision {found.number}, {when}, before anything was sent."

    def _draw(self) -> None:
        session, identity = self._session, self._session.identity
        wire = "connecting…" if session.busy == "connect" else "no link"
        if identity is not None:
            wire = f"CAN bus{parse(identity.address).bit_rate_words}"
        controller = Part("controller", "not found yet")
        if identity is not None:
            where = "made of parts" if identity.parts else f"node {identity.node}"
            controller = Part(identity.name, f"{where} · axes {' '.join(identity.axes)}")
        others = tuple(Part(f"node {number}") for number in sorted(identity.others)) if identity is not None else ()
        address = identity.address if identity is not None else ""
        parts = identity.parts if identity is not None else ()
        drives = {
            name: part.node for name, part in zip(identity.axes if identity is not None else (), parts, strict=False)
        }
        hangs = hangs_of(session.machine, drives)
        self.bus.show_scene(BusScene(session.connected, wire, address, controller, others, hangs))


def make(host: Host) -> LinkStation:
    made = LinkStation(host.session, host.start_bench)
    made.factory.connect(host.open_factory)
    made.lock.connect(host.open_lock)
    made.wire.connect(host.open_wire)
    made.parts_wanted.connect(host.open_parts)
    made.number_wanted.connect(host.open_number)
    return made
