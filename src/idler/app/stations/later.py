"""A station whose workbench is not built yet says in one sentence what will be proven there, and nothing else."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from idler.core.stations import Station


class LaterStation(QWidget):
    def __init__(self, station: Station) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        title = QLabel(station.label)
        title.setProperty("role", "title")
        words = QLabel(station.proves)
        words.setWordWrap(True)
        words.setMaximumWidth(560)
        later = QLabel(
            "This station is not built yet. Its values are in the machine file and are sent with the others."
        )
        later.setProperty("role", "soft")
        later.setWordWrap(True)
        later.setMaximumWidth(560)
        for widget in (title, words, later):
            column.addWidget(widget, alignment=Qt.AlignmentFlag.AlignLeft)
        column.addStretch(1)
