"""Run in a process that speaks the made-up language: all that the stations show, and an axis proven by keys alone.

Its name keeps it from being run with the other tests.
"""

from __future__ import annotations

import os
import unittest
from collections.abc import Iterator
from pathlib import Path

from PySide6.QtWidgets import QAbstractButton, QComboBox, QLabel, QWidget

from idler.core.table.stations import Station
from idler.procedures.engine import Ending
from tests.app.gui import SessionCase
from tests.app.seen import painted, pictures_of
from tests.procedures.test_geometry import OnRig
from tests.support import wiring
from tests.wording.foreign import plain


def shown(window: QWidget) -> Iterator[str]:
    """Texts, tips and choices of what is to be seen."""
    for widget in window.findChildren(QWidget):
        if widget.isVisible():
            yield widget.toolTip()
            if isinstance(widget, QLabel | QAbstractButton):
                yield widget.text()
            if isinstance(widget, QComboBox):
                yield from (widget.itemText(number) for number in range(widget.count()))
    for picture in pictures_of(window):
        yield from (words for _, words, _ in painted(picture).texts)


class Window(SessionCase):
    on_bench = False

    def test_stations(self) -> None:
        """What is shown, a line each, into the file that the environment names."""
        texts = set()
        for station in Station:
            self.window.open_station(station)
            self.app.processEvents()
            texts |= set(shown(self.window))
        words = {text.replace("\n", " ") for text in texts if any(letter.isalpha() for letter in text)}
        Path(os.environ["SHOWN"]).write_text("\n".join(sorted(words)), "utf-8")


class Proven(OnRig):
    def test_an_axis(self) -> None:
        self.mill.session.set_values(wiring())
        self.mill.send()
        self.mill.power()
        self.person.look_first()
        for word in ("direction", "home"):
            got = self.mill.run(word, "X", self.person)
            self.assertIs(got.end, Ending.PROVEN, got.words)
            self.assertFalse(plain(got.words), got.words)


if __name__ == "__main__":
    unittest.main()
