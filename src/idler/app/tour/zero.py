"""The tour at Homing and at Travel: rehearsed, failed, run; then the ends and the parking place."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtTest import QTest

from idler.core.machine import Address
from idler.core.profile.homing import HomingResult
from idler.core.table.stations import Station

from ..qt_wait import until
from ..stations.homing.station import HomingStation
from ..stations.travel.station import TravelStation
from .hands import PATIENCE, TourHands


class ZeroSteps(TourHands):
    def _homing(self) -> None:
        """All axes home in their turns, first from wherever they stand, then from known places, as rehearsed."""
        window, session = self._application.window, self._application.session
        window.open_station(Station.HOMING)
        page = window.page(Station.HOMING)
        assert isinstance(page, HomingStation)
        seconds = max(row.begin + row.legs[-1].end for row in page.line._rows)
        self._say(f"homing rehearsed: {seconds:.1f} s in all")
        page.show_axis(1)
        self._shot("homing-rehearsed", window)
        self._failed_homing(page)
        self._ask(do="pace", factor=8)
        self._home_all(page)
        page.show_axis(3)
        for _ in range(PATIENCE):
            if page.outcome.fix.isVisible():
                break
            self._click(page.one)
            until(lambda: page.run.records and not page.run.running, "the end of homing", seconds=90)
            QTest.qWait(500)
        self._say(f"A: {page.outcome.fix.text()}")
        self._click(page.outcome.fix)
        self._send_and_power()
        for _ in range(PATIENCE):
            self._ask(do="pace", factor=1)
            for slot, times in ((0, 5), (1, 3), (2, 4)):
                for _ in range(times):
                    self._jog(slot, -1)
            page.show_axis(1)
            if self._home_all(page):
                break
        for slot, record in page.run.records.items():
            self._say(f"{session.machine.names[slot]}: {record.result.words}")

    def _failed_homing(self, page: HomingStation) -> None:
        """Y with a back-off that is too short: what was seen, its likely causes, and the edit that mends it."""
        session = self._application.session
        back_off = Address(1, "homing.back_off")
        session.set_values({back_off: Fraction(1, 10)})
        self._send_and_power()
        for _ in range(PATIENCE):
            self._click(page.one)
            until(lambda: page.run.records and not page.run.running, "the end of homing", seconds=90)
            if page.run.records[1].result is HomingResult.STILL_PRESSED:
                break
        until(lambda: page.run.records[1].found, "what the controller measured")
        self._shot("homing-failed", self._application.window)
        self._click(page.outcome.fix)
        self._say(f"{page.title.text()}; mended: {page.outcome.fix.text()}")
        self._click(page.outcome.clear)
        until(lambda: not session.heard_axes[1].home_made, "Y to move clear")
        self._rest()
        self._send_and_power()

    def _travel(self) -> None:
        """The low end of X taken where it stands, both ends of Z proven, and the parking place."""
        window, session = self._application.window, self._application.session
        window.open_station(Station.TRAVEL)
        page = window.page(Station.TRAVEL)
        assert isinstance(page, TravelStation)
        places = {(slot, "travel.parks"): True for slot in (0, 1, 2)} | {(0, "travel.park"): Fraction(-154)}
        session.set_values({Address(*at): value for at, value in places.items()}, "parking place")
        self._send_and_power()
        page.show_axis(2)
        for _ in self._tries(8):
            self._click(page.prove)
            until(lambda: not page.run.running, "the ends of Z", seconds=90)
            if "ends.Z" in session.proofs:
                break
        self._say(f"proven: ends of Z: {session.proofs['ends.Z'].result}")
        self._click(page.park)
        until(lambda: not page.run.running, "the parking place", seconds=60)
        self._ask(do="pace", factor=1)
        page.show_axis(0)
        for slot in (0, 1):
            session.work.take(slot)
        self._jog(0, -1)
        self._jog(1, -1)
        self._shot("travel", window)

    def _home_all(self, page: HomingStation) -> bool:
        """True where the first attempt found them all."""
        for attempt in range(PATIENCE):
            self._click(page.all)
            until(lambda: page.run.records and not page.run.running, "the end of homing", seconds=90)
            if all(axis.homed for axis in self._application.session.heard_axes):
                return attempt == 0
            failed = [record.result.words for record in page.run.records.values()]
            self._say(f"not all homed: {', '.join(failed)}; {self._application.window.notice.words}")
        return False
