"""Where the keyboard is: what contains the focus is told that it came, and that it went."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Protocol, runtime_checkable

from PySide6.QtWidgets import QApplication, QWidget


@runtime_checkable
class Attentive(Protocol):
    """A widget that is to know when the focus is on it, or on something in it."""

    def focus_within(self, on: bool) -> None: ...


def attend(app: QApplication) -> None:
    """Once for an application. One listener for all: a filter on each editor would run for every picture of it."""
    app.focusChanged.connect(_moved)


def _moved(old: QWidget | None, new: QWidget | None) -> None:
    left, entered = list(_around(old)), list(_around(new))
    for widget in left:
        if widget not in entered:
            widget.focus_within(False)
    for widget in entered:
        if widget not in left:
            widget.focus_within(True)


def _around(widget: QWidget | None) -> Iterator[Attentive]:
    while widget is not None:
        if isinstance(widget, Attentive):
            yield widget
        widget = widget.parentWidget()
