"""By keyboard alone and by ear: every control can be reached and has a name, and an axis is commissioned without a mouse."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QAccessible
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from idler.app.qt_wait import until
from idler.app.widgets.cards import Segments
from idler.core.proof.claims import Proof, direction_claim, ends_claim, state
from idler.core.table.stations import Station
from tests.app.gui import SessionCase
from tests.support import X, Z, at, wiring

FURTHEST = 400  # presses of Tab that lead once round the window


class Names(SessionCase):
    on_bench = False

    def test_every_control_has_a_name_for_a_screen_reader(self) -> None:
        nameless = []
        for station in Station:
            self.window.open_station(station)
            self.app.processEvents()
            for widget in self.window.findChildren(QWidget):
                if not widget.isVisible() or widget.focusPolicy() == Qt.FocusPolicy.NoFocus or widget.focusProxy():
                    continue
                seen = QAccessible.queryAccessibleInterface(widget)
                if type(widget).__name__ in ("QScrollArea", "QMenu") or not widget.isEnabled():
                    continue
                if not seen.text(QAccessible.Text.Name):
                    nameless.append(f"{station.label}: {type(widget).__name__} in {type(widget.parent()).__name__}")
        self.assertEqual(nameless, [])


class Walked(SessionCase):
    """From a delivered controller to a kept revision; hands only where the machine itself is touched."""

    pace = 40

    def focus(self) -> QWidget | None:
        return QApplication.focusWidget()

    def press(self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        target = self.focus() or self.window
        QTest.keyClick(target, key, modifier)
        self.app.processEvents()

    def tab_to(self, wanted: QWidget) -> None:
        """By Tab alone."""
        for _ in range(FURTHEST):
            if self.focus() is wanted:
                return
            self.press(Qt.Key.Key_Tab)
        self.fail(f"Tab does not lead to {wanted.accessibleName() or type(wanted).__name__}")

    def go_to(self, station: Station) -> None:
        train = self.window.train
        self.tab_to(train)
        for _ in Station:
            if train.here is not station:
                self.press(Qt.Key.Key_Right)
        self.assertTrue(self.window.page(station).isVisible())

    def test_an_axis_is_commissioned_by_keyboard_alone(self) -> None:
        self.go_to(Station.LINK)
        link = self.window.page(Station.LINK)
        self.tab_to(link.connect_button)  # type: ignore[attr-defined]
        self.press(Qt.Key.Key_Space)
        until(lambda: not self.session.connected, "the link to be closed")
        self.tab_to(link.address)  # type: ignore[attr-defined]
        self.press(Qt.Key.Key_Return)
        until(lambda: self.session.connected and not self.session.busy, "the link")
        self.learn("X home", 1)
        self.session.set_values(wiring())  # the others as well
        self.edit_and_send()
        self.direction()
        self.home()
        self.ends()
        self.press(Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
        QTest.keyClicks(self.focus(), "by keyboard")
        self.press(Qt.Key.Key_Return)
        until(lambda: not self.session.machine.differences(self.session.base), "the revision")

    def turn_to(self, page: QWidget, name: str) -> None:
        """To the page that is shown; the arrow keys turn to the others."""
        buttons = page.findChild(Segments).buttons
        self.tab_to(next(button for button in buttons.values() if button.isChecked()))
        for _ in buttons:
            if not buttons[name].isChecked():
                self.press(Qt.Key.Key_Right)

    def choose(self, page: QWidget, slot: int) -> None:
        """The arrow keys choose where they do not jog."""
        buttons = page._picker._group  # type: ignore[attr-defined]
        self.press(Qt.Key.Key_F6)
        self.tab_to(buttons.checkedButton())
        for _ in range(slot):
            self.press(Qt.Key.Key_Right)
        self.assertEqual(buttons.checkedId(), slot)
        self.press(Qt.Key.Key_F6)

    def use(self, button: QWidget) -> None:
        self.tab_to(button)
        self.press(Qt.Key.Key_Space)

    def learn(self, switch: str, slot: int) -> None:
        self.go_to(Station.WIRING)
        page = self.window.page(Station.WIRING)
        self.turn_to(page, "Learn")
        learn = page.learn  # type: ignore[attr-defined]
        until(lambda: learn.watching, "a look at every input")
        for what in ("press", "release"):
            self.bench.hands.ask(do=what, switch=switch)
            end = self.session.link.trace.now + 2e6
            until(lambda end=end: self.session.link.trace.now > end, "the finger")
        until(lambda: learn.touches, "the switch to be seen")
        self.use(next(button for button in learn.buttons if button.text().startswith(switch)))
        self.assertEqual(self.session.machine[at(slot, "input.role")], "home")

    def home(self) -> None:
        self.go_to(Station.HOMING)
        page = self.window.page(Station.HOMING)
        self.choose(page, Z)
        self.use(page.one)  # type: ignore[attr-defined]
        until(lambda: self.session.homes.known(Z), "home")

    def ends(self) -> None:
        self.go_to(Station.TRAVEL)
        page = self.window.page(Station.TRAVEL)
        self.choose(page, Z)
        self.use(page.prove)  # type: ignore[attr-defined]
        claim = ends_claim(self.session.machine, Z)
        until(lambda: state(self.session.machine, claim, self.session.proofs) is Proof.PROVEN, "the ends", seconds=90)

    def edit_and_send(self) -> None:
        self.go_to(Station.DRIVES)
        page = self.window.page(Station.DRIVES)
        field = page.pace.pace.fields["pace.top_speed"]  # type: ignore[attr-defined]
        self.tab_to(field.editor)
        self.press(Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
        QTest.keyClicks(field.editor, "1200")
        self.press(Qt.Key.Key_Return)
        self.assertEqual(self.session.machine[at(X, "pace.top_speed")], 1200)
        self.press(Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
        dialog = QApplication.activeWindow()
        self.assertIsNot(dialog, self.window)
        self.press(Qt.Key.Key_Return)
        until(lambda: not self.session.count().edited, "the values to be sent")

    def direction(self) -> None:
        self.window.activateWindow()  # as a window manager does when a dialog closes
        until(self.window.isActiveWindow, "the window")
        page = self.window.page(Station.DRIVES)
        self.turn_to(page, "Direction")
        self.press(Qt.Key.Key_F6)  # from here on Space and Return move the machine
        self.tab_to(self.window.rails.power)
        self.press(Qt.Key.Key_Space)
        until(lambda: self.session.powered, "power")
        before = self.bench.hands.look("X")["at"]
        run = page.direction.run  # type: ignore[attr-defined]
        self.tab_to(page.direction.go)  # type: ignore[attr-defined]
        self.press(Qt.Key.Key_Space)
        until(lambda: run.question is not None, "the question")
        moved = self.bench.hands.look("X")["at"] - before
        self.tab_to(page.direction.plus if moved > 0 else page.direction.minus)  # type: ignore[attr-defined]
        self.press(Qt.Key.Key_Space)
        claim = direction_claim(self.session.machine, X)
        until(lambda: state(self.session.machine, claim, self.session.proofs) is not Proof.ENTERED, "the proof")

    def test_the_focus_is_seen_wherever_it_is(self) -> None:
        """A control looks other with the focus than without."""
        self.window.open_station(Station.TRAVEL)
        unseen = []
        for _ in range(60):
            self.press(Qt.Key.Key_Tab)
            widget = self.focus()
            if widget is None or not widget.isVisible():
                continue
            around = widget.parentWidget() or widget
            with_focus = around.grab().toImage()
            widget.clearFocus()
            self.app.processEvents()
            if around.grab().toImage() == with_focus:
                unseen.append(widget.accessibleName() or type(widget).__name__)
            widget.setFocus(Qt.FocusReason.TabFocusReason)
        self.assertEqual(unseen, [])
