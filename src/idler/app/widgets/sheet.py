"""The one way in which a group of fields is laid out: a head, the name of each value above it, two or more side by side."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QLabel, QVBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.table import MACHINE
from idler.core.table.sheets import Group
from idler.core.values.parameter import Kind
from idler.session.session import Session

from .cards import label
from .fields import Field, field_for


class Sheet(QWidget):
    """fields: by key. Groups of which nothing is shown have no head."""

    def __init__(self, session: Session, groups: Sequence[Group], *, columns: int = 2, width: int = 120) -> None:
        """width: the least of a field, in pixels."""
        super().__init__()
        self.fields: dict[str, Field] = {}
        self._columns, self._groups = columns, groups
        self._heads: list[QLabel] = []
        self._grids: list[QGridLayout] = []
        self._shown: tuple[str, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        for group in groups:
            head = label(group.head, "head")
            head.setIndent(0)
            grid = QGridLayout()
            grid.setContentsMargins(0, 0, 0, 0)
            grid.setHorizontalSpacing(8)
            grid.setVerticalSpacing(3)
            for key, name in group.names.items():
                where = Address(None if key in MACHINE else 0, key)
                field = self.fields[key] = field_for(session, where, width=width, label=name or None)
                field.setParent(self)  # else what is shown before it is laid out would be a window
            column.addWidget(head)
            head.setVisible(bool(group.head))
            column.addLayout(grid)
            self._heads.append(head)
            self._grids.append(grid)
        column.addStretch(1)
        self.show_keys(self.fields)

    def show_keys(self, keys: Collection[str]) -> None:
        """Only the fields of these values."""
        wanted = tuple(key for key in self.fields if key in keys)
        if wanted != self._shown:
            self._shown = wanted
            self._lay_all()

    def show_columns(self, columns: int) -> None:
        """So many side by side."""
        if columns != self._columns:
            self._columns = columns
            self._lay_all()

    def _lay_all(self) -> None:
        wanted = self._shown
        for head, grid, group in zip(self._heads, self._grids, self._groups, strict=True):
            for key in group.names:
                grid.removeWidget(self.fields[key])
                self.fields[key].setVisible(key in wanted)
            shown = [self.fields[key] for key in group.names if key in wanted]
            head.setVisible(bool(shown and group.head))
            self._lay(grid, shown)

    def _lay(self, grid: QGridLayout, shown: Sequence[Field]) -> None:
        """A list of points wants the whole line."""
        for place in range(max(self._columns, grid.columnCount())):
            grid.setColumnStretch(place, int(place < self._columns))
            grid.setColumnMinimumWidth(place, int(place < self._columns))  # an empty one takes its room, too
        place = 0
        for field in shown:
            row = field.address.row
            if row.kind is Kind.TEXT and row.problem is not None:
                place += -place % self._columns
                grid.addWidget(field, place // self._columns, 0, 1, self._columns)
                place += self._columns
            else:
                grid.addWidget(field, place // self._columns, place % self._columns, Qt.AlignmentFlag.AlignBottom)
                place += 1

    def show_axis(self, slot: int) -> None:
        """The values of another axis or range."""
        for field in self.fields.values():
            if field.address.slot is not None:
                field.set_axis(slot)
