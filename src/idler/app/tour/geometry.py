"""The part of the tour about the machine itself: the play of Y, which is worn in its middle."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from idler.core.table.stations import Station

from ..qt_wait import until
from ..stations.geometry.station import GeometryStation
from .hands import TourHands


class GeometrySteps(TourHands):
    def _play(self) -> None:
        """The play of Y at three places by the bench's dial, and what is proposed for it."""
        window = self._application.window
        window.open_station(Station.GEOMETRY)
        station = window.page(Station.GEOMETRY)
        assert isinstance(station, GeometryStation)
        page = station.play
        run, asking = page.procedure, page.asking
        page.show_axis(1)
        self._ask(do="pace", factor=30)
        self._click(page.go)
        while run.running:
            until(lambda: run.question is not None or not run.running, "the dial to be asked for", seconds=90)
            if run.question is None:
                break
            if asking.done.isVisible():
                self._click(asking.done)
                continue
            self._click(asking.from_bench)
            until(lambda: asking.reading.text(), "what the dial says")
            QTest.keyClick(asking.reading, Qt.Key.Key_Return)
        self._ask(do="pace", factor=1)
        result = run.result
        assert result is not None
        self._say(result.words)
        self._shot("geometry", window)
