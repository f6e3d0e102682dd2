"""A station whose workbench is not built yet: one sentence on what will be proven there."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout

from idler.core.table.stations import Station

from ..widgets.cards import label
from .workbench import Workbench


class UnbuiltStation(Workbench):
    def __init__(self, station: Station) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 14, 20, 14)
        column.setSpacing(6)
        for words, role in (
            (station.label, "title"),
            (station.proves, ""),
            ("Its workbench is not built yet.", "soft"),
        ):
            column.addWidget(label(words, role, wrap=True))
        column.addStretch(1)
