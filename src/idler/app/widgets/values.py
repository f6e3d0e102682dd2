"""Values of the table as plain fields, for what has no picture yet: one axis at a time, and the machine's own."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.values.parameter import Parameter, Scope
from idler.session.session import Session

from ..bridge import follow
from .cards import AxisPicker
from .fields import Field, field_for

FIELD_WIDTH = 204


class ValuePanel(QWidget):
    """Fields for rows of the table in a grid. Rows of axes get a picker of the axis above them."""

    def __init__(self, session: Session, rows: Iterable[Parameter], *, columns: int = 4) -> None:
        super().__init__()
        listed = list(rows)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(10)
        self._fields: list[Field] = []
        self._picker: AxisPicker | None = None
        if any(row.scope is Scope.AXIS for row in listed):
            self._picker = AxisPicker(session.machine.names)
            self._picker.chosen.connect(self.show_axis)
            column.addWidget(self._picker, alignment=Qt.AlignmentFlag.AlignLeft)
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(6)
        for place, row in enumerate(listed):
            field = field_for(session, Address(0 if row.scope is Scope.AXIS else None, row.key), width=FIELD_WIDTH)
            field.setFixedWidth(FIELD_WIDTH)
            grid.addWidget(field, place // columns, place % columns, Qt.AlignmentFlag.AlignBottom)
            self._fields.append(field)
        grid.setColumnStretch(columns, 1)
        column.addLayout(grid)
        column.addStretch(1)
        self._session = session
        follow(session.changed, self._follow)
        self.show_axis(0)

    def _follow(self) -> None:
        """Other axes: the first is shown."""
        names = self._session.machine.names
        if self._picker is not None and self._names != names:
            self._picker.show_names(names)
            self.show_axis(0)

    def show_axis(self, slot: int) -> None:
        self._names = self._session.machine.names
        if self._picker is not None:
            self._picker.choose(slot)
        for field in self._fields:
            if field.address.slot is not None:
                field.set_axis(slot)
