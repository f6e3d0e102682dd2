"""The tour at the router: its beam stands askew, which four marks and a trammel tell; squared by its offset, and proven."""

from __future__ import annotations

from PySide6.QtTest import QTest

from idler.core.machine import Address
from idler.core.table.stations import Tab
from idler.core.values.parameter import Value
from idler.core.values.roles import InputRole

from ..qt_wait import until
from .geometry import GeometrySteps

BED = (0, 1)  # X, and Y that carries it on two motors
SIDES = "800 mm", "600 mm"
ACROSS = "1400 mm"  # from the first side of its beam to the second
# What hangs on its inputs, as learning them would have shown: role, axis, contact at rest.
WIRED = {
    3: (InputRole.STOP, "none", "closed"), 1: (InputRole.HOME, "X", "closed"), 5: (InputRole.HOME, "Y", "closed"),
    6: (InputRole.HOME_SECOND, "Y", "open"),
}  # fmt: skip


def told() -> dict[Address, Value]:
    """What was measured and learnt of it before: its inputs, the drive of X, and that the motors of Y face each other."""
    found: dict[Address, Value] = {Address(0, "chain.microsteps"): 8, Address(1, "axis.second_reversed"): True}
    for number, (role, axis, rest) in WIRED.items():
        for key, value in (("role", role.key), ("axis", axis), ("rest", rest)):
            found[Address(number - 1, f"input.{key}")] = value
    return found


class SquareSteps(GeometrySteps):
    def square(self) -> list[str]:
        """Walks them; the names of the pictures taken."""
        session = self._application.session
        self._application.show()
        until(lambda: session.connected and session.history.found is not None, "the router to answer", 120)
        self._application.show_bench()
        session.set_values(told())
        self._send_and_power()
        self._home_the_bed()
        station = self._station()
        station.turn_to(Tab.SQUARE)
        page = station.square
        for editor, side in ((page.width_edit, SIDES[0]), (page.height_edit, SIDES[1])):
            editor.setText(side)  # nothing of its pace is proven: it goes slowly, and not all the way
            editor.editingFinished.emit()
        self._measure_with(page, 60)
        page.across.setText(ACROSS)
        page.across.editingFinished.emit()
        until(page.accept.isVisible, "the offset that mends it")
        self._shot("geometry-square", self._application.window)
        self._click(page.accept)
        self._say(page.accept.text())
        self._send_and_power()
        self._home_the_bed()
        self._measure_with(page, 60)
        self._application.close()
        return self._taken

    def _home_the_bed(self) -> None:
        session = self._application.session
        for pace in (40, 8, 2):
            self._ask(do="pace", factor=pace)
            for slot in BED:
                session.link.home((slot,))
                QTest.qWait(200)
                until(lambda: not session.moving, "the end of homing", 120)
            if all(session.homes.known(slot) for slot in BED):
                return
        until(lambda: all(session.homes.known(slot) for slot in BED), "X and Y to be homed", 1)
