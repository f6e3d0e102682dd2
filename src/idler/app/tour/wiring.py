"""The tour at Wiring: every terminal is found by touching the machine, filtered, and proven."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from idler.core.errors import IdlerError
from idler.core.proof.claims import Proof, state, wiring_claims
from idler.core.rules.findings import Finding, Severity
from idler.core.table.stations import Station
from idler.core.wiring import Duty, missing
from idler.session.session import Session

from ..qt_wait import until
from ..stations.wiring.station import WiringStation
from ..stations.wiring.study import ALL
from .hands import PATIENCE, TourHands


def errors(session: Session) -> list[Finding]:
    """What must still be settled."""
    return [item for item in session.findings() if item.severity is Severity.ERROR]


def _asks_for(page: WiringStation, duty: Duty) -> bool:
    return duty.label in page.learn.ask.text()


class WiringSteps(TourHands):
    def _touch(self, switch: str, seconds: float = 0.4) -> None:
        """A finger on a switch of the rig, for as long as the controller's clock says."""
        trace = self._application.session.trace
        self._ask(do="press", switch=switch)
        end = trace.now + seconds * 1e6
        until(lambda: trace.now > end, "the finger to stay")
        self._ask(do="release", switch=switch)

    def _wiring_page(self) -> WiringStation:
        page = self._application.window.page(Station.WIRING)
        assert isinstance(page, WiringStation)
        return page

    def _choose_output(self, name: str, role: str) -> None:
        """A role for an output, chosen from its menu."""
        page = self._wiring_page()
        row = next(row for row in page.outputs.rows if row.screw.name == name)
        menu = row.role.editor.menu()
        menu.aboutToShow.emit()
        next(action for action in menu.actions() if action.text() == role).trigger()

    def _wiring(self) -> None:
        """An unwired controller: every terminal is found by touching the machine."""
        window, session = self._application.window, self._application.session
        self._application.show_bench()
        bench = self._application.bench_window
        assert bench is not None
        until(lambda: bench.instruments.place.count() > 4, "the bench window to see the machine")
        window.open_station(Station.WIRING)
        page = self._wiring_page()
        until(lambda: session.trace.now, "the first look at the inputs")
        self._say(f"{len(errors(session))} errors while nothing is wired")
        self._click(page.segments.buttons["Learn"])
        for duty in missing(session.machine):
            switch = duty.label.replace(" switch", "").replace(" mark", "")
            until(partial(_asks_for, page, duty), "to be asked for it")
            until(lambda: page.learn.watching, "a look at every input")
            self._touch(switch)
            until(lambda: page.learn.touches, f"{switch} to be seen")
            self._click(page.learn.buttons[0])
        for switch, role in (("touch plate", "Touch probe"),):
            until(lambda: page.learn.watching, "a look at every input")
            self._touch(switch)
            until(lambda: page.learn.touches, f"{switch} to be seen")
            more = next(b for b in page.learn.buttons if b.menu() is not None)
            next(action for action in more.menu().actions() if action.text() == role).trigger()
        self._click(page.segments.buttons["Outputs"])
        for name, role in (("A", "Spindle on"), ("B", "Spindle direction"), ("E", "Coolant"), ("F", "Way oil")):
            self._choose_output(name, role)
        level = next(b for b in window.margin.findChildren(QPushButton) if b.text() == "Take output V")
        self._click(level)
        self._say(f"{len(errors(session))} errors left; {session.count().words}")
        if errors(session):
            raise IdlerError(f"tour: {errors(session)[0].text}")
        self._send()

    def _filter(self) -> None:
        """What the spindle's cable does to its neighbours, and the filter that forgives it."""
        page = self._wiring_page()
        self._click(page.segments.buttons["Filter"])
        page.study.choose(1)
        page.study.spindle.setChecked(True)
        asking, run = page.study.asking, page.study.run
        # where this computer pauses for too long the controller stops the spindle, and rightly
        for _ in range(PATIENCE):
            self._click(page.study.record)
            while page.study.recording:
                until(lambda: run.question is not None or not page.study.recording, "the record", 60)
                if (asked := run.question) is not None:  # whether it stands, and how it turns then
                    self._click(asking.done if asked.key == "spindle.stands" else asking.answers["right"])
            if page.study.studies and page.study.studies[1].seconds > 9:
                break
        self._say(page.study._words.text())
        page.study.choose(ALL)
        self._click(page.study.take_all)
        self._send()

    def _prove(self) -> None:
        """The stop first, then the guard, then every switch."""
        self._click(self._application.window.rails.power)
        until(lambda: self._application.session.powered, "the drives to be powered")
        self._say("drives powered")
        self._click(self._wiring_page().segments.buttons["Prove"])
        self._prove_stop()
        self._prove_guard()
        self._prove_switches()
        self._try_output()

    def _prove_stop(self) -> None:
        window, session, page = self._application.window, self._application.session, self._wiring_page()
        self._click(page.prove.begin_buttons["wiring.stop"])
        until(lambda: "Press the emergency stop" in page.prove.step.text(), "to be asked for the stop")
        self._ask(do="press", switch="emergency stop")
        until(page.prove.push.isVisible, "to be asked for a push")
        self._click(page.prove.push)
        until(
            lambda: "Release the stop" in page.prove.step.text() and window.incident.isVisible(), "the stop to be seen"
        )
        self._ask(do="release", switch="emergency stop")
        until(lambda: page.prove.power.isVisible(), "to be asked for power")
        self._click(page.prove.power)
        until(lambda: "wiring.stop" in session.proofs, "the proof of the stop")

    def _prove_guard(self) -> None:
        session, page = self._application.session, self._wiring_page()
        self._click(page.prove.begin_buttons["wiring.guard"])
        until(lambda: page.prove.run.isVisible(), "to be asked for the spindle")
        for _ in range(PATIENCE):
            self._click(page.prove.run)
            until(lambda: "Open the guard" in page.prove.step.text(), "to be asked for the guard")
            self._ask(do="press", switch="guard")
            until(lambda: "lose" in page.prove.step.text(), "the spindle to stop")
            if "must not start" in page.prove.step.text():
                break
            self._ask(do="release", switch="guard")
            until(lambda: page.prove.run.isVisible(), "to be asked for the spindle again")
        self._ask(do="release", switch="guard")
        until(lambda: "wiring.guard" in session.proofs, "the proof of the guard")

    def _prove_switches(self) -> None:
        window, session, page = self._application.window, self._application.session, self._wiring_page()
        self._click(page.prove.round_button)
        self._say(page.prove.step.text())
        for name in ("home.X", "home.Y", "home.Z", "home.A", "probe", "index.A"):  # as they are asked for
            switch = {"probe": "touch plate"}.get(name) or " ".join(reversed(name.split(".")))
            for _ in range(PATIENCE):
                self._touch(switch)
                end = session.trace.now + 300_000
                until(lambda: f"wiring.{name}" in session.proofs or session.trace.now > end, "the switch")  # noqa: B023
                if f"wiring.{name}" in session.proofs:
                    break
        claims = wiring_claims(session.machine)
        until(
            lambda: all(state(session.machine, claim, session.proofs) is Proof.PROVEN for claim in claims),
            "every proof",
        )
        window.incident.finish()
        for claim in wiring_claims(session.machine):
            self._say(f"proven: {claim.label}: {session.proofs[claim.key].result}")

    def _try_output(self) -> None:
        window, session, page = self._application.window, self._application.session, self._wiring_page()
        self._click(page.segments.buttons["Outputs"])
        self._ask(do="press", switch="X home")
        QTest.mousePress(page.outputs.rows[4].button, Qt.MouseButton.LeftButton)
        until(lambda: session.panel.is_energised(4), "the coolant to be on")
        QTest.qWait(600)
        self._shot("wiring", window)
        QTest.mouseRelease(page.outputs.rows[4].button, Qt.MouseButton.LeftButton)
        until(lambda: not session.panel.is_energised(4), "the coolant to be off")
        self._ask(do="release", switch="X home")
