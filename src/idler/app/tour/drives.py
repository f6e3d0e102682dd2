"""The tour at Drives and Scale: what the train truly is, which way it goes, and how fast it can be trusted."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from idler.core.table.stations import Station, Tab
from idler.procedures.drives.pace import Doing
from idler.procedures.scale.onepass import PassStage

from ..qt_wait import until
from ..stations.drives.direction import DirectionStep
from ..stations.drives.station import DrivesStation
from ..stations.scale.station import ScaleStation
from .hands import PATIENCE, TourHands


def _at(page: ScaleStation, wanted: tuple[PassStage, ...]) -> bool:
    return page.procedure.stage in wanted


class DrivesSteps(TourHands):
    def _drives(self) -> None:
        window, session = self._application.window, self._application.session
        for slot in range(len(session.machine.names)):
            session.home_here(slot)
        until(lambda: all(axis.homed for axis in session.heard_axes), "home to be taken here")
        self._click(next(b for b in window.rails._step_buttons if b.text() == "10"))
        self._ask(do="zero", axis="X", instrument="rule")
        for _ in range(3):
            self._jog(0, -1)
        read = self._ask(do="read", axis="X", instrument="rule")
        self._say(
            f"X was told to go 30 mm; the rule says {abs(read['value'])} mm: something of its train is not as told"
        )
        window.open_station(Station.DRIVES)
        page = window.page(Station.DRIVES)
        assert isinstance(page, DrivesStation)
        self._type("pace.acceleration", "0.15 s")
        self._say(f"acceleration of X typed as 0.15 s to top speed; {session.count().words}")
        self._click(window.rails.rows[1].minus)
        self._click(window.rails.rows[1].minus)
        until(lambda: session.moving, "Y to start")
        self._focus("chain.pitch")
        QTest.qWait(500)
        self._shot("drives", window)
        self._rest()

    def _measure(self) -> None:
        window, session = self._application.window, self._application.session
        dialog = window.open_send()
        assert dialog is not None
        self._click(dialog.send_button)
        until(lambda: not session.count().edited, "the values to be sent")
        self._say("sent, read back and stored")
        bench = self._application.bench_window
        assert bench is not None
        bench.instruments.place.setCurrentIndex(0)
        self._click(bench.instruments.zero_button)
        until(lambda: bench.instruments.reading.text() == "zero", "the rule to be set to zero")
        for _ in range(5):
            self._jog(0, -1)
        self._click(bench.instruments.read_button)
        until(lambda: bench.instruments.reading.text() != "zero", "a reading")
        self._say(f"X was told to go 50 mm; the rule says {bench.instruments.reading.text()}")
        self._shot("bench", bench)

    def _direction(self) -> None:
        """A small move of each axis and one question: Y is reversed, turned round, and proven."""
        session, page = self._application.session, self._application.window.page(Station.DRIVES)
        self._application.window.open_station(Station.DRIVES)
        assert isinstance(page, DrivesStation)
        for slot, name in enumerate(session.machine.names):
            page.show_axis(slot)
            page.turn_to(Tab.DIRECTION)
            self._ask_direction(page, slot)
            self._say(f"proven: direction of {name}: {session.proofs[f'direction.{name}'].result}")

    def _ask_direction(self, page: DrivesStation, slot: int) -> None:
        question, name = page.direction, self._application.session.machine.names[slot]
        for _ in range(2 * PATIENCE):
            was = self._ask(do="look")["axes"][slot]["at"]
            self._click(question.go)
            until(lambda: question.step is not DirectionStep.MOVING, "the question")
            if question.step is not DirectionStep.ASK:
                continue
            went = self._ask(do="look")["axes"][slot]["at"] - was
            self._say(f"{name} was told to go to + and went {went:+.1f}; {question.title.text()}")
            if went > 0:
                self._click(question.plus)
                return
            self._click(question.minus)
            self._click(question.turn)
            self._send_and_power()

    def _shapes(self) -> None:
        """What the shapes cost and spare, with the frame's frequency typed, and the gauge of the bench."""
        window = self._application.window
        page = window.page(Station.DRIVES)
        assert isinstance(page, DrivesStation)
        page.show_axis(0)
        page.turn_to(Tab.SHAPE)
        self._type("frame.rings", "17 Hz")
        self._send_and_power()
        self._click(page.shape.run_button)
        until(lambda: page.shape.picture._scenes[0].seen is not None, "the gauge of the bench")
        for scene in page.shape.picture._scenes:
            self._say(f"{scene.label}: {', '.join(page.shape.picture.figures(scene))}")
        page.turn_to(Tab.MOTOR)
        for key, text in (
            ("motor.torque", "0 1.9, 300 1.7, 600 1.3, 900 0.95, 1200 0.68"), ("motor.inertia", "3.2"),
            ("motor.friction", "0.16"),
        ):  # fmt: skip
            self._type(key, text)
        self._send_and_power()

    def _reliable(self) -> None:
        """Hard runs of X until it loses steps; the bench's clock runs quicker meanwhile."""
        window, session = self._application.window, self._application.session
        page = window.page(Station.DRIVES)
        assert isinstance(page, DrivesStation)
        page.turn_to(Tab.RELIABLE)
        for _ in self._tries(20):
            self._click(page.reliable.search)
            until(lambda: page.reliable.run.doing is Doing.NOTHING, "the end of the runs", seconds=240)
            if page.reliable.take.isVisible():
                break
        self._say(page.reliable.title.text())
        self._click(page.reliable.take)
        self._send_and_power()
        for _ in self._tries(20):
            self._click(page.reliable.prove)
            until(lambda: page.reliable.run.doing is Doing.NOTHING, "the proof", seconds=120)
            if "pace.X" in session.proofs:
                break
        self._ask(do="pace", factor=1)
        self._say(f"proven: pace of X: {session.proofs['pace.X'].result}")
        page.turn_to(Tab.PACE)

    def _pass(self, page: ScaleStation) -> None:
        """One pass, given up where the axis was stopped on the way."""
        for stage in (PassStage.ZERO, PassStage.MOVE, PassStage.READ):
            self._click(page.go)
            wanted = stage, PassStage.START
            until(partial(_at, page, wanted), f"“{stage.key}”")
            if page.procedure.stage is PassStage.START:
                return
        self._click(page.read_button)
        until(lambda: page.reading.text(), "the reading")
        self._say(f"pass {len(page.passes) + 1} of X: told {page.length.text()}, read {page.reading.text()}")
        self._click(page.go)

    def _scale(self) -> None:
        """Passes of X with gauge blocks: the wrong screw is named and mended, and the scale proven."""
        window, session = self._application.window, self._application.session
        window.open_station(Station.SCALE)
        page = window.page(Station.SCALE)
        assert isinstance(page, ScaleStation)
        page.instrument.setCurrentIndex(page.instrument.findText("gauge blocks", Qt.MatchFlag.MatchStartsWith))
        page.length.setText("-50 mm")
        page.length.editingFinished.emit()
        self._ask(do="pace", factor=8)  # nothing is proven of its pace yet, so it goes as slowly as it may meet iron
        self._passes(page, 2)
        self._shot("scale", window)
        screw = next(k for k, button in enumerate(page.cause_buttons) if "pitch of 4 mm" in button.accessibleName())
        self._click(page.cause_buttons[screw])
        self._say(f"{page._title.text()}; {session.count().words}")
        self._send_and_power()
        self._passes(page, 4)
        self._ask(do="pace", factor=1)
        self._click(page.prove)
        until(lambda: "scale.X" in session.proofs, "the proof of the scale")
        self._say(f"{page._title.text()}: {session.proofs['scale.X'].result}")

    def _passes(self, page: ScaleStation, wanted: int) -> None:
        for _ in range(wanted * PATIENCE):
            if len(page.passes) >= wanted:
                return
            self._pass(page)
