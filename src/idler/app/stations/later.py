"""A station whose workbench is not built yet: one sentence on what will be proven there, and its values as plain fields."""

from __future__ import annotations

from PySide6.QtWidgets import QLabel, QVBoxLayout

from idler.core.progress import groups_at
from idler.core.stations import Station
from idler.core.table import all_rows

from ..desk import Desk
from ..values import ValuePanel
from .workbench import Workbench


class LaterStation(Workbench):
    def __init__(self, desk: Desk, station: Station) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 14, 20, 14)
        column.setSpacing(6)
        rows = [row for row in all_rows() if row.group in groups_at(station)]
        later = "Its workbench is not built yet." + (" These values can be typed and sent already." if rows else "")
        for words, role in ((station.label, "title"), (station.proves, ""), (later, "soft")):
            label = QLabel(words)
            label.setProperty("role", role)
            label.setWordWrap(True)
            column.addWidget(label)
        column.addSpacing(8)
        if rows:
            column.addWidget(ValuePanel(desk, rows))
        column.addStretch(1)
