"""The part of the tour about the machine itself: the play of Y, which is worn in its middle, and the bed, which lies askew."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from idler.core.table.stations import Station, Tab

from ..qt_wait import until
from ..stations.geometry.frame import Measuring
from ..stations.geometry.station import GeometryStation
from .hands import TourHands

Z = 2
LOWERED = 30.0  # mm: until the dial in the spindle stands on the bed


class GeometrySteps(TourHands):
    def _station(self) -> GeometryStation:
        window = self._application.window
        window.open_station(Station.GEOMETRY)
        station = window.page(Station.GEOMETRY)
        assert isinstance(station, GeometryStation)
        return station

    def _play(self) -> None:
        """The play of Y at three places by the bench's dial, and what is proposed for it."""
        page = self._station().play
        page.show_axis(1)
        self._measure_with(page)
        self._shot("geometry-play", self._application.window)

    def _level(self) -> None:
        """The bed over a grid by a dial in the spindle, and which corner is to be raised."""
        station = self._station()
        station.turn_to(Tab.LEVEL)
        session = self._application.session
        until(lambda: all(session.homes.known(slot) for slot in range(3)), "X, Y and Z to be homed")
        before = [axis.position for axis in session.axes]
        self._measure_with(station.level)
        self._shot("geometry-level", self._application.window)
        for slot in (Z, 1, 0):  # back to where the tour was
            session.link.jog_step(slot, before[slot] - session.axes[slot].position, 2000)
            until(lambda slot=slot: abs(session.axes[slot].position - before[slot]) < 0.1, "the way back")  # type: ignore[misc]
            self._rest()

    def _measure_with(self, page: Measuring, pace: float = 8) -> None:
        """Answers all that is asked, by the bench's instruments."""
        run = page.procedure
        for _ in self._tries(pace):
            self._answer_all(page)
            if self._came_to_an_end(run):
                break
            until(lambda: bool(self._application.session.axes), "the controller", 30)
        self._ask(do="pace", factor=1)
        result = run.result
        assert result is not None
        self._say(result.words)

    def _answer_all(self, page: Measuring) -> None:
        run, asking = page.procedure, page.asking
        self._click(page.go)
        while run.running:
            until(lambda: run.question is not None or not run.running, "the dial to be asked for", seconds=90)
            if run.question is None:
                break
            if run.question.key == "level.zero":
                self._lower()
            if asking.done.isVisible():
                self._click(asking.done)
                continue
            self._click(asking.from_bench)
            until(lambda: asking.reading.text(), "what the dial says")
            QTest.keyClick(asking.reading, Qt.Key.Key_Return)

    def _lower(self) -> None:
        session = self._application.session
        session.link.jog_step(Z, -LOWERED, 600)
        until(lambda: session.axes[Z].position < 1 - LOWERED, "the dial to be lowered", seconds=60)
        self._rest()
