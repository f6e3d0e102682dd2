"""Any two compared: the draft, the controller, a revision, another machine of the shelf. Single values can be taken over."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from idler.core.errors import IdlerError
from idler.core.machine import Machine
from idler.core.report.compare import ComparedLine, ComparedPart, compared, proofs_between, taken_over
from idler.core.values.units import several
from idler.session.session import Session
from idler.shelf.dates import day

from ...widgets.cards import label

DRAFT, CONTROLLER, IN_FORCE, HEARD = "draft", "controller", "force", "heard"
MACHINE = "machine "
MOST_REVISIONS, MOST_PROOFS = 30, 4
COLUMN = 150  # wide; a longer value is whole in its tip


class ComparePage(QWidget):
    """The first side is the draft unless something else is chosen.

    Values go from any side into the draft, and from the draft into the controller or into the draft of another machine.
    """

    send = Signal(object)  # a Machine: what the controller holds, with the values that were chosen

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._parts: list[ComparedPart] = []
        self._machines: tuple[Machine, Machine] | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(6)
        self.first, self.second = QComboBox(), QComboBox()
        for box, words in ((self.first, "First side"), (self.second, "Second side")):
            row = QHBoxLayout()
            row.addWidget(label(words.split()[0].lower(), "soft"))
            box.setAccessibleName(words)
            box.activated.connect(lambda _: self._compare())
            row.addWidget(box, 1)
            column.addLayout(row)
        self.words = label("", "", wrap=True)
        column.addWidget(self.words)
        self.table = QTreeWidget()
        self.table.setColumnCount(3)
        self.table.setHeaderLabels(["value", "first", "second"])
        self.table.setSelectionMode(QTreeWidget.SelectionMode.ExtendedSelection)
        self.table.setAccessibleName("Values of both sides, by part")
        header = self.table.header()
        header.setStretchLastSection(False)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for place in (1, 2):
            header.setSectionResizeMode(place, QHeaderView.ResizeMode.Fixed)
            header.resizeSection(place, COLUMN)
            self.table.headerItem().setTextAlignment(place, Qt.AlignmentFlag.AlignRight)
        self.table.itemSelectionChanged.connect(self._show_take)
        column.addWidget(self.table, 1)
        below = QHBoxLayout()
        self.everything = QCheckBox("what is the same too")
        self.everything.clicked.connect(lambda _: self._compare())
        self.take = QPushButton()
        self.take.setProperty("role", "main")
        self.take.clicked.connect(self._take)
        self.give = QPushButton()
        self.give.clicked.connect(self._give)
        below.addWidget(self.everything)
        below.addStretch(1)
        below.addWidget(self.give)
        below.addWidget(self.take)
        column.addLayout(below)

    # -- sides ----------------------------------------------------------------------------------------------------

    def _sides(self) -> dict[str, tuple[str, Callable[[], Machine]]]:
        """What can be a side: words and how to get at it, by a key that stays the same."""
        session = self._session
        found: dict[str, tuple[str, Callable[[], Machine]]] = {
            DRAFT: ("on the screen (draft)", lambda: session.machine)
        }
        if session.connected:
            found[CONTROLLER] = ("in the controller", lambda: session.in_controller)
            if session.holding is not None and session.holding.waiting:
                found[IN_FORCE] = ("in force until it restarts", lambda: session.in_force)
        if (before := session.controller.before) is not None:
            found[HEARD] = ("as Idler last knew the controller", lambda: before)
        for revision in session.history.all()[:MOST_REVISIONS]:
            kept = day(revision.when)
            name = "as found" if revision.as_found else f"revision {revision.number}"
            found[f"revision {revision.commit}{revision.path}"] = (
                f"{name}, {kept}: {revision.note[:40]}", partial(session.history.at, revision),
            )  # fmt: skip
        for name in session.history.others():
            found[f"{MACHINE}{name}"] = (f"machine {name}, with its draft", partial(session.history.other, name))
        return found

    def refresh(self) -> None:
        sides = self._sides()
        usual = (DRAFT, CONTROLLER if CONTROLLER in sides else next((key for key in sides if key != DRAFT), DRAFT))
        for box, first in zip((self.first, self.second), usual, strict=True):
            before = box.currentData()
            if [box.itemData(k) for k in range(box.count())] != list(sides):
                box.clear()
                for key, (words, _) in sides.items():
                    box.addItem(words, key)
            box.setCurrentIndex(max(0, box.findData(before if before in sides else first)))
        self._compare()

    def choose(self, first: str, second: str) -> None:
        """The first side of each list whose key or words hold a text."""
        for box, key in ((self.first, first), (self.second, second)):
            box.setCurrentIndex(next(k for k in range(box.count()) if key in f"{box.itemData(k)} {box.itemText(k)}"))
        self._compare()

    # -- the table ------------------------------------------------------------------------------------------------

    def _compare(self) -> None:
        sides = self._sides()
        self.table.clear()
        self._machines = None
        try:
            first, second = (sides[box.currentData()][1]() for box in (self.first, self.second))
        except (IdlerError, KeyError) as why:
            self.words.setText(f"This side cannot be read. {why}")
            self._show_take()
            return
        self._machines = first, second
        self._parts = compared(first, second, everything=self.everything.isChecked())
        for part in self._parts:
            name = part.name if not part.differing else f"{part.name}, {part.differing}"
            top = QTreeWidgetItem([name, *("only here" if part.only == side else "" for side in ("first", "second"))])
            top.setFlags(Qt.ItemFlag.ItemIsEnabled)
            self.table.addTopLevelItem(top)
            for line in part.lines:
                item = QTreeWidgetItem([line.label, line.first_text, line.second_text])
                item.setData(0, Qt.ItemDataRole.UserRole, line)
                for place in (1, 2):
                    item.setTextAlignment(place, Qt.AlignmentFlag.AlignRight)
                    item.setToolTip(place, item.text(place))
                    font = item.font(place)
                    font.setBold(line.differs)
                    item.setFont(place, font)
                top.addChild(item)
            top.setExpanded(True)
        count = sum(part.differing for part in self._parts)
        parts = sum(bool(part.differing) for part in self._parts)
        touched = [claim.label for claim in proofs_between(first, second)]
        listed = ", ".join(touched[:MOST_PROOFS]) + (
            f" and {len(touched) - MOST_PROOFS} more" if touched[MOST_PROOFS:] else ""
        )
        proofs = f" What is proven for one is not for the other: {listed}." if touched else ""
        self.words.setToolTip(", ".join(touched))
        self.words.setText(
            f"{count} {'value differs' if count == 1 else 'values differ'} in {several(parts, 'part')}."
            f"{proofs}" if count else "They are the same."
        )  # fmt: skip
        self._show_take()

    def _chosen(self) -> tuple[ComparedLine, ...]:
        lines = (item.data(0, Qt.ItemDataRole.UserRole) for item in self.table.selectedItems())
        return tuple(line for line in lines if line is not None and line.differs)

    def _show_take(self) -> None:
        sides = self.first.currentData(), self.second.currentData()
        into = DRAFT in sides and sides[0] != sides[1]
        chosen = len(self._chosen())
        self.take.setVisible(into)
        self.take.setEnabled(bool(chosen))
        self.take.setText(f"Take {chosen} into the draft" if chosen else "Choose values to take")
        other = self._other()
        self.give.setVisible(into and bool(chosen) and (other == CONTROLLER or other.startswith(MACHINE)))
        self.give.setText(
            f"Send {chosen} to the controller…" if other == CONTROLLER else f"Put {chosen} into its draft"
        )

    def _other(self) -> str:
        """The side that is not the draft."""
        first, second = self.first.currentData() or "", self.second.currentData() or ""
        return second if first == DRAFT else first

    def _give(self) -> None:
        """From the draft to the other side: into the controller as a send of its own, or into another machine's draft."""
        if self._machines is None:
            return
        draft_first = self.first.currentData() == DRAFT
        theirs = self._machines[1 if draft_first else 0]
        values = taken_over(theirs, self._session.machine, self._chosen(), from_first=draft_first)
        if not values:
            self._session.tell("warn", "Nothing was given: the other side has no such parts, or says these itself.")
        elif (other := self._other()) == CONTROLLER:
            self.send.emit(theirs.with_values(values))
        else:
            name = other.removeprefix(MACHINE)
            try:
                self._session.history.give(name, values)
            except IdlerError as why:
                self._session.refuse("Nothing was given.", why.sentence)
                return
            self._session.tell("plain", f"{len(values)} put into the draft of {name}; it shows them when it is opened.")
            self._compare()

    def _take(self) -> None:
        if self._machines is None:
            return
        first, second = self._machines
        draft_first = self.first.currentData() == DRAFT
        source = second if draft_first else first
        values = taken_over(self._session.machine, source, self._chosen(), from_first=not draft_first)
        if not values:
            self._session.tell(
                "warn", "Nothing was taken: the draft has no such parts, or the controller says these itself."
            )
            return
        try:
            self._session.set_values(values, "values taken over")
        except IdlerError as why:
            self._session.tell("warn", why.sentence)
            return
        self._session.tell("plain", f"{len(values)} taken into the draft. Undo takes you back; nothing was sent.")
        self._compare()
