"""Which of the plain parts on a bus is which axis, and which are the terminals."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from idler.core.controller.parts import proposed, roles_of, written
from idler.core.errors import Refusal
from idler.link.events import BusNode

from ...widgets.cards import label

LEFT_OUT = "left out"


class PartsPanel(QWidget):
    """connect: called with the parts as they stand in an address. axes: letters of the draft, which are proposed in order."""

    def __init__(self, connect: Callable[[str], None]) -> None:
        super().__init__()
        self._connect = connect
        self._axes: tuple[str, ...] = ()
        self.roles: dict[int, QComboBox] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(label("Plain parts answered. Which is which?", "title"))
        column.addWidget(
            label(
                "Take a guess: Drives, Direction moves an axis a little. Where another one moved, their drives change places.",
                "soft", wrap=True,
            )
        )  # fmt: skip
        listed = QWidget()
        self._grid = QGridLayout(listed)
        self._grid.setContentsMargins(0, 0, 6, 0)
        self._grid.setColumnStretch(1, 1)
        self._grid.setVerticalSpacing(4)
        self._list = QScrollArea()
        self._list.setWidget(listed)
        self._list.setWidgetResizable(True)
        self._list.setFrameShape(QFrame.Shape.NoFrame)
        self._list.setProperty("role", "clear")
        column.addWidget(self._list, 1)
        self.trouble = label("", wrap=True)
        column.addWidget(self.trouble)
        line = QHBoxLayout()
        self.button = QPushButton("Connect these")
        self.button.setProperty("role", "main")
        self.button.clicked.connect(self._take)
        line.addWidget(self.button)
        self.number_button = QPushButton("Give a node its number…")
        self.number_button.setToolTip("For one that has none yet, and where two would have the same.")
        line.addWidget(self.number_button)
        line.addStretch(1)
        column.addLayout(line)

    def show_nodes(self, nodes: tuple[BusNode, ...], axes: tuple[str, ...]) -> None:
        """A line for each; drives get the letters of the draft in their order."""
        while (item := self._grid.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.hide()
                old.deleteLater()
        self.roles.clear()
        self._axes = axes
        self._say("")
        guess = proposed([(node.number, node.what) for node in nodes], axes)
        for line, node in enumerate(nodes):
            name = label(f"{node.name}, {node.what.words}")
            role = QComboBox()
            role.addItems([LEFT_OUT, *roles_of(node.what)])
            role.setCurrentText(guess.get(node.number, LEFT_OUT))
            role.setAccessibleName(f"Role of node {node.number}")
            role.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
            self._grid.addWidget(label(f"{node.number}", "soft"), line, 0, Qt.AlignmentFlag.AlignRight)
            self._grid.addWidget(name, line, 1)
            self._grid.addWidget(role, line, 2)
            self.roles[node.number] = role
        self._grid.setRowStretch(len(nodes), 1)
        self.button.setEnabled(bool(guess))

    def _say(self, words: str) -> None:
        self.trouble.setText(words)
        self.trouble.setVisible(bool(words))

    def _take(self) -> None:
        chosen = {node: role.currentText() for node, role in self.roles.items() if role.currentText() != LEFT_OUT}
        try:
            self._connect(str(written(chosen, self._axes)))
        except Refusal as why:
            self._say(why.sentence)
