"""A node of the bus gets its number, or another one."""

from __future__ import annotations

from PySide6.QtWidgets import QFormLayout, QLineEdit, QWidget

from idler.core.errors import Refusal
from idler.core.profile.pdo import HIGHEST_NODE
from idler.session.numbering import NumberGiving
from idler.session.session import Session

from ..bridge import follow
from .dialogs import PlainDialog


class NumberDialog(PlainDialog):
    """address: where the bus is, as it stands at the Link station."""

    def __init__(self, parent: QWidget, session: Session, address: str) -> None:
        super().__init__(parent, "Give a node its number")
        self.setMinimumWidth(560)
        self._giving = NumberGiving(session)
        self.say(
            "Each node of a bus has a number of its own. One that has none yet is found by its serial number. Nothing may move "
            "meanwhile, and nobody else may use this bus."
        )
        form = QFormLayout()
        self.address, self.node, self.number = QLineEdit(address), QLineEdit(), QLineEdit()
        self.node.setPlaceholderText("empty: one that has none yet")
        self.number.setPlaceholderText(f"1 to {HIGHEST_NODE}")
        for words, field in (
            ("Where the bus is", self.address), ("Number that it has now", self.node), ("Number that it gets", self.number),
        ):  # fmt: skip
            field.setAccessibleName(words)
            form.addRow(words, field)
        self.column.addLayout(form)
        self.outcome = self.trouble_line()
        self.main_button = self.buttons("Give it")
        self.main_button.clicked.connect(self._give)
        follow(self._giving.ended, self._ended)
        (self.number if address else self.address).setFocus()

    def _give(self) -> None:
        try:
            node = _number(self.node.text(), "number that it has now", empty=0)
            number = _number(self.number.text(), "number that it gets")
        except Refusal as refusal:
            self.outcome.setText(refusal.sentence)
            return
        why = self._giving.give(self.address.text(), number, node)
        self.outcome.setText(why or "Looking for it…")
        self.main_button.setEnabled(bool(why))

    def _ended(self, words: str, given: bool) -> None:
        self.outcome.setText(words)
        self.main_button.setEnabled(True)
        if given:
            self.node.clear()
            self.number.clear()


def _number(text: str, part: str, empty: int | None = None) -> int:
    """Raises Refusal for what is no number."""
    if not text.strip() and empty is not None:
        return empty
    if not text.strip().isdecimal():
        raise Refusal(part, f"“{text[:20]}”", "is no whole number", f"1 to {HIGHEST_NODE}")
    return int(text)
