"""What takes an edit that a measurement came to: while it is seen, the margin says what the edit would change."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QPushButton

from idler.core.machine import Address
from idler.core.values.parameter import Value
from idler.session.session import Session


class OfferButton(QPushButton):
    def __init__(self, session: Session) -> None:
        super().__init__("")
        self._session = session
        self._edit: Mapping[Address, Value] = {}

    def show_edit(self, edit: Mapping[Address, Value]) -> None:
        """Hidden where there is none."""
        self._edit = edit
        self.setVisible(bool(edit))
        if self.isVisible():
            self._session.offer(edit)

    def showEvent(self, event: QShowEvent) -> None:
        self._session.offer(self._edit)
        super().showEvent(event)

    def hideEvent(self, event: QHideEvent) -> None:
        self._session.offer({})
        super().hideEvent(event)
