"""What every part of the tour does with its hands: click, type, jog, send, look and take a picture."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit, QWidget

from idler.core.errors import IdlerError
from idler.core.table.stations import Station
from idler.procedures.engine import Ending, Procedure

from ..qt_wait import TooLong, until
from ..run import Application
from ..widgets.fields import QuantityField

PATIENCE = 5  # times that a person would try the same again


class TourHands:
    def __init__(self, shots: Path, root: Path, rig: str = "verge") -> None:
        self._shots = shots
        self._application = Application(root, demo=True, rig=rig)
        self._taken: list[str] = []

    def _tries(self, pace: float) -> Iterator[None]:
        """Some tries, each with the bench's clock half as fast as before: a computer that pauses loses a machine that runs
        ahead of it."""
        for number in range(PATIENCE):
            self._ask(do="pace", factor=max(1.0, pace / 2**number))
            yield

    def _say(self, words: str) -> None:
        print(f"tour: {words}", flush=True)

    def _shot(self, name: str, widget: QWidget) -> None:
        QTest.qWait(150)  # lets the picture of this state be painted
        path = self._shots / f"{name}.png"
        if not widget.grab().save(str(path)):
            raise IdlerError(f"{path}: the picture cannot be written.")
        self._taken.append(name)

    def _field(self, key: str) -> QuantityField:
        page = self._application.window.page(Station.DRIVES)
        for field in page.findChildren(QuantityField):
            if field.address.key == key and field.isVisible():
                return field
        raise IdlerError(f"tour: no field for {key} is to be seen.")

    def _type(self, key: str, text: str) -> None:
        editor = self._focus(key)
        editor.selectAll()
        QTest.keyClicks(editor, text)
        QTest.keyClick(editor, Qt.Key.Key_Return)

    def _focus(self, key: str) -> QLineEdit:
        window = self._application.window
        window.activateWindow()
        until(window.isActiveWindow, "the window to be the active one")
        editor = self._field(key).editor
        editor.setFocus()
        return editor

    def _click(self, button: QWidget) -> None:
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)

    def _rest(self) -> None:
        until(lambda: not self._application.session.moving, "the axes to come to rest")

    def _ask(self, **request: object) -> dict[str, Any]:
        answers: list[dict[str, Any]] = []
        window = self._application.bench_window
        assert window is not None
        window.hands.ask(answers.append, **request)
        until(lambda: answers, "the bench's answer")
        return answers[0]

    def _jog(self, slot: int, sign: int) -> None:
        rail = self._application.window.rails.rows[slot]
        before = self._application.session.heard_axes[slot].position
        if self._application.window.rails.folded:
            self._click(self._application.window.rails.choices[slot])
        self._click(rail.plus if sign > 0 else rail.minus)
        until(lambda: abs(self._application.session.heard_axes[slot].position - before) > 1e-3, "the axis to start")
        self._rest()

    def _send(self) -> None:
        session = self._application.session
        for _ in range(PATIENCE):  # what cannot be sent just now can be in a moment
            until(lambda: not session.send_obstacle(), "that values can be sent")
            if (dialog := self._application.window.open_send()) is not None:
                break
            QTest.qWait(300)
        else:
            raise IdlerError(f"tour: nothing is sent: {session.send_obstacle()}")
        self._click(dialog.send_button)
        until(lambda: not session.count().edited, "the values to be sent")

    def _send_and_power(self) -> None:
        """Sends what was edited; the drives have power afterwards."""
        self._send()
        self._power()

    def _power(self) -> None:
        session = self._application.session
        for _ in range(PATIENCE):
            until(lambda: session.connected and not session.busy, "the link", 60)
            if session.powered:
                return
            self._click(self._application.window.rails.power)
            with contextlib.suppress(TooLong):
                until(lambda: session.powered, "power", 10)
        raise IdlerError(f"tour: the drives get no power: {session.motion_obstacle()}")

    def _go_to(self, slot: int, at: float, speed: float) -> None:
        """To a place in machine coordinates, mm, at mm/min; begun again where a computer that paused has ended it."""
        session = self._application.session

        def there() -> bool:
            return abs(session.heard_axes[slot].position - at) < 0.1

        for _ in range(PATIENCE):
            self._power()
            session.link.jog_step(slot, at - session.heard_axes[slot].position, speed)
            with contextlib.suppress(TooLong):
                until(lambda: session.moving or there(), "the axis to start", 10)
            self._rest()
            if there():
                return
        raise IdlerError(f"tour: {session.machine.names[slot]} does not come to {at:g} mm.")

    def _came_to_an_end(self, run: Procedure) -> bool:
        """Whether it ended as it should have; what a computer that paused has ended is begun again by a person."""
        if run.result is not None and run.result.end not in (Ending.FAILED, Ending.STOPPED):
            return True
        self._say(f"once more: {run.words}")
        return False
