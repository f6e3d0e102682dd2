"""The tour at the Trial station: a plate that does not fit and then does, a dry run, a figure on a sheet, a touch plate."""

from __future__ import annotations

from importlib.resources import as_file, files

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLineEdit

from idler.core.rules.actions import TEXT
from idler.core.table.stations import Station, Tab
from idler.core.trial.symmetry import recognised

from ..qt_wait import until
from ..stations.trial.runpage import RunPage
from ..stations.trial.station import TrialStation
from .hands import PATIENCE, TourHands

PLACE = {
    2: -40.0,
    0: -200.0,
    1: -90.0,
}  # mm: where the front left corner of the blank lies, by slot, in the order of moving
DRY_LINE = 14  # of the plate: well on its way


class TrialSteps(TourHands):
    def _trial(self) -> None:
        window, session = self._application.window, self._application.session
        before = [axis.position for axis in session.heard_axes]
        for slot, at in PLACE.items():
            self._go_to(slot, at, 1200)
            session.work.take(slot)
        window.open_station(Station.TRIAL)
        station = window.page(Station.TRIAL)
        assert isinstance(station, TrialStation)
        page = station.program
        with as_file(files("idler") / "data" / "plate.nc") as path:
            session.program.open(path)
            until(lambda: session.program.share is None and session.program.judged is not None, "the program", 120)
            self._say(f"the plate: {page.title.text()} {page.words.text()}")
            page.problems.setCurrentRow(0)
            self._shot("trial", window)
            self._click(page.shift)
            until(lambda: session.program.share is None, "the program once more", 120)
            self._say(f"moved by Y −21.5 mm: {page.title.text()}")
            session.program.shifted({})
            session.work.shift(1, -21.5)
            until(lambda: (judged := session.program.judged) is not None and judged.verdict.fits, "it to fit", 120)
            self._dry_run(station)
        self._figure(station)
        self._touch_plate(station)
        self._afterwards(station)
        self._own_actions(station)
        session.program.close()
        for slot in (2, 1, 0):  # back to where the tour was
            session.work.clear(slot)
            self._go_to(slot, before[slot], 2000)

    def _dry_run(self, station: TrialStation) -> None:
        """Above the work, without the spindle; ended by Esc when it is well on its way."""
        run = station.run
        station.turn_to(Tab.RUN)
        for _ in range(PATIENCE):
            self._begin(run)
            until(lambda: run.procedure.question is not None or not run.procedure.running, "the change of the tool", 60)
            if run.procedure.running:
                self._say(f"it asks: {run.asking.words.text()}")
                self._click(run.asking.done)
                until(lambda: run.procedure.place.line > DRY_LINE or not run.procedure.running, "the dry run", 120)
            if run.procedure.running:
                break
            self._say(f"once more: {run.procedure.words}")
        self._shot("trial-run", self._application.window)
        self._say(f"a dry run: {run.where.text()}, {run.left_words.text()}")
        QTest.keyClick(self._application.window.windowHandle(), Qt.Key.Key_Escape)
        until(run.give_up.isVisible, "that it is known where it stands", 30)
        self._say(f"Esc: {run.words.text()}")
        self._click(run.give_up)
        self._rest()

    def _begin(self, run: RunPage) -> None:
        """A dry run; what is left of one that was ended is given up before."""
        self._power()
        if run.give_up.isVisible():
            self._click(run.give_up)
        until(run.dry.isEnabled, "all that must be so")
        self._click(run.dry)

    def _figure(self, station: TrialStation) -> None:
        """The hook on a sheet, and what it shows."""
        run, session = station.run, self._application.session
        for _ in range(PATIENCE):
            for slot, at in ((2, PLACE[2]), (0, PLACE[0]), (1, PLACE[1] - 40)):
                self._go_to(slot, at, 1200)
                session.work.take(slot)
            self._ask(do="paper")
            station.turn_to(Tab.FIGURES)
            self._click(station.figures.make)
            self._begin(run)
            until(lambda: run.hooks.isVisible() or not run.procedure.running, "the question", 120)
            if run.hooks.isVisible():
                break
            self._say(f"once more: {run.procedure.words}")
        self._shot("trial-figure", self._application.window)
        lines = self._ask(do="drawn")["lines"]
        seen = recognised(np.array(max(lines, key=len)))
        self._click(run.hooks.buttons[seen.key if seen is not None else "other"])
        self._say(f"the sheet: {run.words.text()}")

    def _touch_plate(self, station: TrialStation) -> None:
        """A plate under the tool: seen to work first, then touched."""
        page = station.touch
        station.turn_to(Tab.TOUCH)
        for _ in range(PATIENCE):
            self._power()
            self._click(page.go)
            self._ask(do="press", switch="touch plate")
            until(lambda: not page.asking.done.isVisible() or page.procedure.question is None, "the plate to be seen")
            self._ask(do="release", switch="touch plate")
            until(lambda: page.procedure.question is not None or not page.procedure.running, "the next question")
            if page.procedure.running:
                self._ask(do="work", left=-20, front=-20, wide=60, deep=40, top=-8, tool=6)
                self._click(page.asking.done)
                until(lambda: not page.procedure.running, "the touch", 60)
            if self._came_to_an_end(page.procedure):
                break
        self._shot("trial-touch", self._application.window)
        self._say(f"the plate: {page.found.text()}")

    def _afterwards(self, station: TrialStation) -> None:
        """What the figure left: time, feed, and whether the switches are where they were; at night."""
        run, window = station.run, self._application.window
        station.turn_to(Tab.RUN)
        for _ in range(PATIENCE):
            self._power()
            until(run.check.isVisible, "what came of the figure")
            self._click(run.check)
            until(lambda: run.steps.result is not None and not run.steps.running, "the switches to be touched", 120)
            if self._came_to_an_end(run.steps):
                break
        window.set_night(True)
        self._shot("trial-after", window)
        window.set_night(False)
        self._say(f"afterwards: {run.words.text()}")

    def _own_actions(self, station: TrialStation) -> None:
        """Some that Idler comes with, and one of the person's own, edited in its list."""
        page, session = station.own, self._application.session
        station.turn_to(Tab.ACTIONS)
        before = session.machine[TEXT]
        for name in ("move off the switches", "park and power off", "measure tool length on a plate"):
            page.add_example(name)
        self._say(f"own actions: {page.words.text()}")
        page.add_empty()
        QTest.keyClicks(page.list.name, "round the plate")
        QTest.keyClick(page.list.name, Qt.Key.Key_Return)
        for ways in ("X 0 mm Y 0 mm", "X 90 mm", "Y 60 mm"):
            page.list.add_step("move")
            for at, (axis, place) in enumerate(zip(ways.split()[::3], ways.split()[1::3], strict=True)):
                for field, key in (("frame", "work"), (f"axis{at}", axis)):
                    chosen = page.list.editors[field]
                    assert isinstance(chosen, QComboBox)
                    chosen.setCurrentIndex(chosen.findData(key))
                    chosen.activated.emit(chosen.currentIndex())
                editor = page.list.editors[f"place{at}"]
                assert isinstance(editor, QLineEdit)
                editor.selectAll()
                QTest.keyClicks(editor, f"{place} mm")
                QTest.keyClick(editor, Qt.Key.Key_Return)
        page.list.add_step("ask")
        QTest.keyClick(page.list.steps, Qt.Key.Key_Home)
        until(lambda: page.drawn, "its way", 60)
        self._shot("trial-actions", self._application.window)
        while session.machine[TEXT] != before:
            session.undo()
