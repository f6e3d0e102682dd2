"""The tour at the Spindle: the curve measured, taken and proven; the times; a guard that ends it; the oil of a shift."""

from __future__ import annotations

from fractions import Fraction

from idler.core.machine import Address
from idler.core.table.stations import Station, Tab
from idler.procedures.spindle.stops import StopRun

from ..qt_wait import until
from ..stations.spindle.station import SpindleStation
from .hands import PATIENCE, TourHands

MAGNET = 7  # the input, from 0, at which the spindle's magnet is wired


class SpindleSteps(TourHands):
    def _spindle(self) -> None:
        window, session = self._application.window, self._application.session
        session.set_values({Address(MAGNET, "input.role"): "pulse", Address(MAGNET, "input.rest"): "open"})
        self._send_and_power()
        window.open_station(Station.SPINDLE)
        page = window.page(Station.SPINDLE)
        assert isinstance(page, SpindleStation)
        self._turn_by_hand(page)
        for _ in self._tries(8):
            self._click(page.curve.measure)
            until(lambda: not page.run.running, "the end of the sweep", 180)
            if 2 in page.run.curves:
                break
        self._say(page.curve.words.text())
        self._click(page.curve.take)
        self._send_and_power()
        for _ in self._tries(8):
            self._click(page.curve.check)
            until(lambda: not page.run.running, "the speeds to be tried", 120)
            if 2 in page.run.misses:
                break
        self._shot("spindle", window)
        self._say(page.curve.words.text())
        self._times(page)
        self._ladder(page)
        page.turn_to(Tab.OIL)
        session.set_values({Address(None, "oil.of"): "either", Address(None, "oil.every"): Fraction(25)})
        self._say(page.oil.words.text())
        self._send_and_power()
        self._ask(do="pace", factor=1)

    def _turn_by_hand(self, page: SpindleStation) -> None:
        """What the magnet tells of a turn is counted before any speed is read by it."""
        page.turn_to(Tab.WAY)
        self._click(page.way.begin)
        until(lambda: page.way.encoder.question is not None, "to be asked for turns by hand", 60)
        self._ask(do="spin", turns=page.way.encoder.turns)
        self._click(page.way.begin)
        until(lambda: not page.way.encoder.running, "the count", 60)
        self._say(page.way.counted.text())
        page.turn_to(Tab.CURVE)

    def _times(self, page: SpindleStation) -> None:
        page.turn_to(Tab.TIMES)
        for _ in self._tries(8):
            self._click(page.times.measure)
            until(lambda: not page.run.running, "the times", 120)
            if not page.times.take.isVisible():
                break
            self._click(page.times.take)
            self._send_and_power()
        self._say(page.times.words.text())

    def _ladder(self, page: SpindleStation) -> None:
        page.turn_to(Tab.LADDER)
        run: StopRun = page.stops
        for _ in range(PATIENCE):
            self._click(page.interlocks.buttons["guard"])
            until(lambda: "Open the guard" in run.words or not run.running, "the spindle to turn", 60)
            self._ask(do="press", switch="guard")
            until(lambda: "Close the guard" in run.words or not run.running, "standstill", 60)
            if run.running:
                break
            self._ask(do="release", switch="guard")
        until(lambda: not page.interlocks.why.text().startswith("The spindle may"), "the ladder to say why")
        self._say(page.interlocks.why.text())
        self._ask(do="release", switch="guard")
        until(lambda: not run.running, "the end of the trial", 60)
        self._say(run.words)
