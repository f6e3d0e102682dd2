"""The tour: walks the real interface through the example, as a person would, and writes one picture for each main view.

Nothing is pretended: widgets are clicked and typed into, the bench runs as its own process, and each step says what was seen.
"""

from __future__ import annotations

import sys
import tempfile
from fractions import Fraction
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton, QWidget

from idler.core.errors import IdlerError
from idler.core.findings import Finding, Severity
from idler.core.machine import Address
from idler.core.proofs import Proof, state, wiring_claims
from idler.core.stations import Station
from idler.core.wiring import missing

from .desk import Desk
from .fields import QuantityField
from .patience import TooLong, until
from .run import Session, application
from .stations.drives.direction import Step
from .stations.drives.hardrun import Doing
from .stations.drives.station import DrivesStation
from .stations.homing.station import HomingStation
from .stations.scale.procedure import Stage
from .stations.scale.station import ScaleStation
from .stations.travel.station import TravelStation
from .stations.wiring.station import WiringStation
from .stations.wiring.study import ALL


def errors(desk: Desk) -> list[Finding]:
    """What must still be settled."""
    return [item for item in desk.findings() if item.severity is Severity.ERROR]


PATIENCE = 5  # times that a person would try the same again


class Tour:
    def __init__(self, shots: Path, root: Path) -> None:
        self._shots = shots
        self._session = Session(root, demo=True)
        self._taken: list[str] = []

    def walk(self) -> list[str]:
        """Walks all steps; the names of the pictures taken."""
        for step in (
            self._link,
            self._wiring,
            self._filter,
            self._prove,
            self._drives,
            self._measure,
            self._scale,
            self._direction,
            self._shapes,
            self._reliable,
            self._homing,
            self._travel,
            self._stop,
            self._keep,
            self._night,
        ):
            step()
        self._session.close()
        return self._taken

    # -- tools ----------------------------------------------------------------------------------------------------

    def _say(self, words: str) -> None:
        print(f"tour: {words}", flush=True)

    def _shot(self, name: str, widget: QWidget) -> None:
        QTest.qWait(50)  # lets the picture of this state be painted
        path = self._shots / f"{name}.png"
        if not widget.grab().save(str(path)):
            raise IdlerError(f"{path}: the picture cannot be written.")
        self._taken.append(name)

    def _field(self, key: str) -> QuantityField:
        page = self._session.window.page(Station.DRIVES)
        for field in page.findChildren(QuantityField):
            if field.address.key == key and field.isVisible():
                return field
        raise IdlerError(f"tour: no field for {key} is to be seen.")

    def _type(self, key: str, text: str) -> None:
        editor = self._focus(key)
        editor.selectAll()
        QTest.keyClicks(editor, text)
        QTest.keyClick(editor, Qt.Key.Key_Return)

    def _focus(self, key: str) -> QWidget:
        window = self._session.window
        window.activateWindow()
        until(window.isActiveWindow, "the window to be the active one")
        editor = self._field(key).editor
        editor.setFocus()
        return editor

    def _click(self, button: QWidget) -> None:
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)

    def _rest(self) -> None:
        until(lambda: not self._session.desk.moving, "the axes to come to rest")

    def _ask(self, **request: object) -> dict:
        answers: list[dict] = []
        window = self._session.bench_window
        assert window is not None
        window.hands.ask(answers.append, **request)
        until(lambda: answers, "the bench's answer")
        return answers[0]

    def _jog(self, slot: int, sign: int) -> None:
        rail = self._session.window.rails.rows[slot]
        before = self._session.desk.link.axes[slot].position
        self._click(rail.plus if sign > 0 else rail.minus)
        until(lambda: abs(self._session.desk.link.axes[slot].position - before) > 1e-3, "the axis to start")
        self._rest()

    # -- steps ----------------------------------------------------------------------------------------------------

    def _link(self) -> None:
        window, desk = self._session.window, self._session.desk
        self._session.show()
        until(lambda: desk.connected and desk.found_kept is not None, "the bench to answer", 120)
        identity = desk.identity
        assert identity is not None
        self._say(f"{identity.name} answers at {identity.address}, serial number {identity.serial}; kept as found")
        self._shot("link", window)

    def _touch(self, switch: str, seconds: float = 0.4) -> None:
        """A finger on a switch of the rig, for as long as the controller's clock says."""
        trace = self._session.desk.link.trace
        self._ask(do="press", switch=switch)
        end = trace.now + seconds * 1e6
        until(lambda: trace.now > end, "the finger to stay")
        self._ask(do="release", switch=switch)

    def _wiring_page(self) -> WiringStation:
        page = self._session.window.page(Station.WIRING)
        assert isinstance(page, WiringStation)
        return page

    def _choose_output(self, name: str, role: str) -> None:
        """A role for an output, chosen from its menu."""
        page = self._wiring_page()
        row = next(row for row in page.outputs.rows if row.screw.name == name)
        menu = row.role.editor.menu()
        menu.aboutToShow.emit()
        next(action for action in menu.actions() if action.text() == role).trigger()

    def _send(self) -> None:
        desk = self._session.desk
        dialog = self._session.window.open_send()
        assert dialog is not None
        self._click(dialog.send_button)
        until(lambda: not desk.count().edited, "the values to be sent")

    def _wiring(self) -> None:
        """An unwired controller: every terminal is found by touching the machine."""
        window, desk = self._session.window, self._session.desk
        self._session.show_bench()
        assert self._session.bench_window is not None
        until(lambda: self._session.bench_window.axis.count() == 4, "the bench window to see the machine")
        window.open_station(Station.WIRING)
        page = self._wiring_page()
        until(lambda: desk.link.trace.now, "the first look at the inputs")
        self._say(f"{len(errors(desk))} errors while nothing is wired")
        self._click(page.segments["Learn"])
        for duty in missing(desk.machine):
            switch = duty.label.replace(" switch", "").replace(" mark", "")
            until(lambda duty=duty: duty.label in page.learn.ask.text(), "to be asked for it")
            self._touch(switch)
            until(lambda: page.learn.touches, f"{switch} to be seen")
            if duty.axis == "X":
                self._shot("wiring-learn", window)
            self._click(page.learn.buttons[0])
        for switch, role in (("touch plate", "Touch probe"),):
            self._touch(switch)
            until(lambda: page.learn.touches, f"{switch} to be seen")
            more = next(b for b in page.learn.buttons if b.menu() is not None)
            next(action for action in more.menu().actions() if action.text() == role).trigger()
        self._click(page.segments["Outputs"])
        for name, role in (("A", "Spindle on"), ("B", "Spindle direction"), ("E", "Coolant"), ("F", "Way oil")):
            self._choose_output(name, role)
        level = next(b for b in window.margin.findChildren(QPushButton) if b.text() == "Take output V")
        self._click(level)
        self._say(f"{len(errors(desk))} errors left; {desk.count().words}")
        if errors(desk):
            raise IdlerError(f"tour: {errors(desk)[0].text}")
        self._send()

    def _filter(self) -> None:
        """What the spindle's cable does to its neighbours, and the filter that forgives it."""
        window, page = self._session.window, self._wiring_page()
        self._click(page.segments["Filter"])
        page.study.choose(1)
        page.study.spindle.setChecked(True)
        for _ in range(
            PATIENCE
        ):  # where this computer pauses for too long the controller stops the spindle, and rightly
            self._click(page.study.record)
            until(lambda: not page.study.recording, "the record", 60)
            if page.study.studies and page.study.studies[1].seconds > 9:
                break
        self._shot("wiring-filter", window)
        self._say(page.study._words.text())
        page.study.choose(ALL)
        self._click(page.study.take_all)
        self._send()

    def _prove(self) -> None:
        """The stop first, then the guard, then every switch."""
        self._click(self._session.window.rails.power)
        until(lambda: self._session.desk.powered, "the drives to be powered")
        self._say("drives powered")
        self._click(self._wiring_page().segments["Prove"])
        self._prove_stop()
        self._prove_guard()
        self._prove_switches()
        self._try_output()

    def _prove_stop(self) -> None:
        window, desk, page = self._session.window, self._session.desk, self._wiring_page()
        self._click(page.prove.begin_buttons["wiring.stop"])
        until(lambda: "Press the emergency stop" in page.prove.step.text(), "to be asked for the stop")
        self._ask(do="press", switch="emergency stop")
        until(
            lambda: "Release the stop" in page.prove.step.text() and window.incident.isVisible(), "the stop to be seen"
        )
        self._shot("stopped", window)
        self._ask(do="release", switch="emergency stop")
        until(lambda: page.prove.power.isVisible(), "to be asked for power")
        self._click(page.prove.power)
        until(lambda: "wiring.stop" in desk.proofs, "the proof of the stop")

    def _prove_guard(self) -> None:
        desk, page = self._session.desk, self._wiring_page()
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
        until(lambda: "wiring.guard" in desk.proofs, "the proof of the guard")

    def _prove_switches(self) -> None:
        window, desk, page = self._session.window, self._session.desk, self._wiring_page()
        self._click(page.prove.round_button)
        for name in ("home.X", "home.Y", "home.Z", "home.A", "index.A", "probe"):
            switch = {"probe": "touch plate"}.get(name) or " ".join(reversed(name.split(".")))
            for _ in range(PATIENCE):
                self._touch(switch)
                end = desk.link.trace.now + 300_000
                until(lambda: f"wiring.{name}" in desk.proofs or desk.link.trace.now > end, "the switch")  # noqa: B023
                if f"wiring.{name}" in desk.proofs:
                    break
        claims = wiring_claims(desk.machine)
        until(lambda: all(state(desk.machine, claim, desk.proofs) is Proof.PROVEN for claim in claims), "every proof")
        window.incident.finish()
        self._shot("wiring-prove", window)
        for claim in wiring_claims(desk.machine):
            self._say(f"proven: {claim.label}: {desk.proofs[claim.key].result}")

    def _try_output(self) -> None:
        window, desk, page = self._session.window, self._session.desk, self._wiring_page()
        self._click(page.segments["Outputs"])
        self._ask(do="press", switch="X home")
        QTest.mousePress(page.outputs.rows[4].button, Qt.MouseButton.LeftButton)
        until(lambda: desk.link.panel.is_energised(4), "the coolant to be on")
        QTest.qWait(600)
        self._shot("wiring", window)
        QTest.mouseRelease(page.outputs.rows[4].button, Qt.MouseButton.LeftButton)
        until(lambda: not desk.link.panel.is_energised(4), "the coolant to be off")
        self._ask(do="release", switch="X home")

    def _drives(self) -> None:
        window, desk = self._session.window, self._session.desk
        for slot in range(len(desk.machine.names)):
            desk.link.home_here(slot)
        until(lambda: all(axis.homed for axis in desk.link.axes), "home to be taken here")
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
        self._say(f"acceleration of X typed as 0.15 s to top speed; {desk.count().words}")
        self._click(window.rails.rows[1].minus)
        self._click(window.rails.rows[1].minus)
        until(lambda: desk.moving, "Y to start")
        self._focus("chain.pitch")
        QTest.qWait(500)
        self._shot("drives", window)
        self._rest()

    def _measure(self) -> None:
        window, desk = self._session.window, self._session.desk
        dialog = window.open_send()
        assert dialog is not None
        self._shot("send", dialog)
        self._click(dialog.send_button)
        until(lambda: not desk.count().edited, "the values to be sent")
        self._say("sent, read back and stored")
        bench = self._session.bench_window
        assert bench is not None
        bench.axis.setCurrentIndex(0)
        self._click(bench.zero_button)
        until(lambda: bench.reading.text() == "zero", "the rule to be set to zero")
        for _ in range(5):
            self._jog(0, -1)
        self._click(bench.read_button)
        until(lambda: bench.reading.text() != "zero", "a reading")
        self._say(f"X was told to go 50 mm; the rule says {bench.reading.text()}")
        self._shot("bench", bench)

    def _send_and_power(self) -> None:
        """Sends what was edited; the drives have power afterwards."""
        self._send()
        if not self._session.desk.powered:
            self._click(self._session.window.rails.power)
            until(lambda: self._session.desk.powered, "power")

    def _direction(self) -> None:
        """A small move of Y and one question: it is reversed, turned round, and proven."""
        window, desk = self._session.window, self._session.desk
        window.open_station(Station.DRIVES)
        page = window.page(Station.DRIVES)
        assert isinstance(page, DrivesStation)
        page.show_axis(1)
        page.turn_to("Direction")
        question = page.direction
        for _ in range(2 * PATIENCE):
            was = self._ask(do="look")["axes"][1]["at"]
            self._click(question.go)
            until(lambda: question.step is not Step.MOVING, "the question")
            if question.step is not Step.ASK:
                continue
            went = self._ask(do="look")["axes"][1]["at"] - was
            self._say(f"Y was told to go 2 mm to + and went {went:+.1f} mm; {question.title.text()}")
            if went > 0:
                self._shot("direction", window)
                self._click(question.plus)
                break
            self._click(question.minus)
            self._click(question.turn)
            self._send_and_power()
        self._say(f"proven: direction of Y: {desk.proofs['direction.Y'].result}")

    def _shapes(self) -> None:
        """What the shapes cost and spare, with the frame's frequency typed, and the gauge of the bench."""
        window = self._session.window
        page = window.page(Station.DRIVES)
        assert isinstance(page, DrivesStation)
        page.show_axis(0)
        page.turn_to("Shape")
        self._type("frame.rings", "17 Hz")
        self._send_and_power()
        self._click(page.shape.run_button)
        until(lambda: page.shape.picture._scenes[0].seen is not None, "the gauge of the bench")
        for scene in page.shape.picture._scenes:
            self._say(f"{scene.label}: {', '.join(page.shape.picture.figures(scene))}")
        self._shot("shape", window)
        page.turn_to("Motor")
        for key, text in (
            ("motor.torque", "0 1.9, 300 1.7, 600 1.3, 900 0.95, 1200 0.68"), ("motor.inertia", "3.2"),
            ("motor.friction", "0.16"),
        ):  # fmt: skip
            self._type(key, text)
        self._send_and_power()
        self._shot("motor", window)

    def _reliable(self) -> None:
        """Hard runs of X until it loses steps; the bench's clock runs quicker meanwhile."""
        window, desk = self._session.window, self._session.desk
        page = window.page(Station.DRIVES)
        assert isinstance(page, DrivesStation)
        page.turn_to("Reliable")
        self._ask(do="pace", factor=20)
        for _ in range(PATIENCE):
            self._click(page.reliable.find)
            until(lambda: page.reliable.run.doing is Doing.NOTHING, "the end of the runs", seconds=240)
            if page.reliable.take.isVisible():
                break
        self._say(page.reliable.title.text())
        self._shot("reliable", window)
        self._click(page.reliable.take)
        self._send_and_power()
        for _ in range(PATIENCE):
            self._click(page.reliable.prove)
            until(lambda: page.reliable.run.doing is Doing.NOTHING, "the proof", seconds=120)
            if "pace.X" in desk.proofs:
                break
        self._ask(do="pace", factor=1)
        self._say(f"proven: pace of X: {desk.proofs['pace.X'].result}")
        page.turn_to("Pace")

    def _homing(self) -> None:
        """All axes home in their turns, first from wherever they stand, then from known places, as rehearsed."""
        window, desk = self._session.window, self._session.desk
        window.open_station(Station.HOMING)
        page = window.page(Station.HOMING)
        assert isinstance(page, HomingStation)
        seconds = max(row.begin + row.legs[-1].end for row in page.line._rows)
        self._say(f"homing rehearsed: {seconds:.1f} s in all")
        self._ask(do="pace", factor=8)
        self._home_all(page)
        self._ask(do="pace", factor=1)
        for slot, times in ((0, 5), (1, 3), (2, 4)):
            for _ in range(times):
                self._jog(slot, -1)
        page.show_axis(1)
        self._home_all(page)
        self._shot("homing", window)
        for slot, record in page.run.records.items():
            self._say(f"{desk.machine.names[slot]}: {record.result.words}")

    def _travel(self) -> None:
        """The low end of X taken where it stands, both ends of Z proven, and the parking place."""
        window, desk = self._session.window, self._session.desk
        window.open_station(Station.TRAVEL)
        page = window.page(Station.TRAVEL)
        assert isinstance(page, TravelStation)
        places = {(slot, "travel.parks"): True for slot in (0, 1, 2)} | {(0, "travel.park"): Fraction(-154)}
        desk.set_values({Address(*at): value for at, value in places.items()}, "parking place")
        self._send_and_power()
        self._ask(do="pace", factor=8)
        page.show_axis(2)
        for _ in range(PATIENCE):
            self._click(page.prove)
            until(lambda: not page.run.running, "the ends of Z", seconds=90)
            if "ends.Z" in desk.proofs:
                break
        self._say(f"proven: ends of Z: {desk.proofs['ends.Z'].result}")
        self._click(page.park)
        until(lambda: not page.run.running, "the parking place", seconds=60)
        self._ask(do="pace", factor=1)
        page.show_axis(0)
        self._shot("travel", window)

    def _home_all(self, page: HomingStation) -> None:
        for _ in range(PATIENCE):
            self._click(page.all)
            until(lambda: page.run.records and not page.run.running, "the end of homing", seconds=90)
            if all(axis.homed for axis in self._session.desk.link.axes):
                return

    def _pass(self, page: ScaleStation) -> None:
        """One pass, given up where the axis was stopped on the way."""
        for stage in (Stage.ZERO, Stage.MOVE, Stage.READ):
            self._click(page.go)
            until(lambda stage=stage: page.procedure.stage in (stage, Stage.START), f"“{stage.value}”")
            if page.procedure.stage is Stage.START:
                return
        self._click(page.read_button)
        until(lambda: page.reading.text(), "the reading")
        self._say(f"pass {len(page.passes) + 1} of X: told -50 mm, read {page.reading.text()}")
        self._click(page.go)

    def _scale(self) -> None:
        """Passes of X with gauge blocks: the wrong screw is named and mended, and the scale proven."""
        window, desk = self._session.window, self._session.desk
        window.open_station(Station.SCALE)
        page = window.page(Station.SCALE)
        assert isinstance(page, ScaleStation)
        page.instrument.setCurrentIndex(page.instrument.findText("gauge blocks", Qt.MatchFlag.MatchStartsWith))
        page.length.setText("-50 mm")
        page.length.editingFinished.emit()
        self._passes(page, 2)
        self._shot("scale-cause", window)
        screw = next(k for k, button in enumerate(page.cause_buttons) if "pitch of 4 mm" in button.accessibleName())
        self._click(page.cause_buttons[screw])
        self._say(f"{page._title.text()}; {desk.count().words}")
        self._send_and_power()
        self._passes(page, 4)
        self._click(page.prove)
        until(lambda: "scale.X" in desk.proofs, "the proof of the scale")
        self._shot("scale", window)
        self._say(f"{page._title.text()}: {desk.proofs['scale.X'].result}")

    def _passes(self, page: ScaleStation, wanted: int) -> None:
        for _ in range(wanted * PATIENCE):
            if len(page.passes) >= wanted:
                return
            self._pass(page)

    def _stop(self) -> None:
        window, desk = self._session.window, self._session.desk
        self._click(next(b for b in window.rails._step_buttons if b.text() == "hold"))
        minus = window.rails.rows[0].minus
        QTest.mousePress(minus, Qt.MouseButton.LeftButton)
        until(lambda: desk.link.axes[0].velocity < -300, "X to run")
        QTest.keyClick(window, Qt.Key.Key_Escape)
        self._rest()
        QTest.mouseRelease(minus, Qt.MouseButton.LeftButton)
        self._say(f"Esc stopped X; {desk.motion_words()}")

    def _keep(self) -> None:
        window, desk = self._session.window, self._session.desk
        dialog = window.open_keep()
        QTest.keyClicks(dialog.note, "Measured the screw of X, turned Y round, found the pace of X")
        self._click(dialog.keep_button)
        until(lambda: not desk.machine.differences(desk.base), "the revision to be kept")
        newest = desk.revisions()[0]
        self._say(f"kept as revision {newest.number}: {newest.note}")
        listing = window.open_revisions()
        self._shot("revisions", listing)
        listing.reject()

    def _night(self) -> None:
        window = self._session.window
        window.open_station(Station.DRIVES)
        window.page(Station.DRIVES).show_axis(3)  # type: ignore[attr-defined]
        window.set_night(True)
        self._focus("chain.wheel_teeth")
        self._shot("drives-night", window)
        window.set_night(False)


def tour(shots: Path) -> int:
    """Runs the tour on a fresh shelf of its own. Exit code 1 where a step was not seen."""
    application()
    shots.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as root:
        walked = Tour(shots, Path(root))
        try:
            taken = walked.walk()
        except (TooLong, IdlerError) as why:
            print(f"tour: stopped: {why}", file=sys.stderr)
            walked._session.close()
            return 1
    print(f"tour: {len(taken)} pictures in {shots}: {', '.join(taken)}")
    return 0
