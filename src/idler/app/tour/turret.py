"""The tour's last steps, at the lathe: its turret finds home, goes to what its lines ask for, and each stop is looked at."""

from __future__ import annotations

from PySide6.QtWidgets import QPushButton

from idler.core.machine import Address
from idler.core.table.stations import Station, Tab
from idler.core.values.parameter import Value
from idler.core.values.roles import STOP_LINES, InputRole

from ..qt_wait import until
from ..stations.trial.station import TrialStation
from .hands import TourHands

TURRET = 3  # its axis
# What hangs on its inputs, as learning them would have shown: role, axis, contact at rest.
WIRED = {
    1: (InputRole.STOP, "none", "closed"), 2: (InputRole.HOME, "X", "closed"), 4: (InputRole.HOME, "Z", "closed"),
    5: (InputRole.INDEX, "C", "open"), 6: (InputRole.GUARD, "none", "closed"), 7: (InputRole.HOME, "A", "open"),
    8: (InputRole.TROUBLE, "none", "closed"),
    **{9 + bit: (role, "A", "open") for bit, role in enumerate(STOP_LINES[:3])},
}  # fmt: skip


def wired() -> dict[Address, Value]:
    found: dict[Address, Value] = {}
    for number, (role, axis, rest) in WIRED.items():
        for key, value in (("role", role.key), ("axis", axis), ("rest", rest)):
            found[Address(number - 1, f"input.{key}")] = value
    return {**found, Address(2, "homing.turn"): 0}  # its spindle is not homed


class TurretSteps(TourHands):
    def turret(self) -> list[str]:
        """Walks them; the names of the pictures taken."""
        window, session = self._application.window, self._application.session
        self._application.show()
        until(lambda: session.connected and session.history.found is not None, "the lathe to answer", 120)
        self._application.show_bench()
        session.set_values(wired())
        self._send_and_power()
        self._ask(do="pace", factor=8)
        session.link.home((TURRET,))
        until(lambda: session.homes.known(TURRET) and not session.moving, "the turret's home", 60)
        window.open_station(Station.TRIAL)
        station = window.page(Station.TRIAL)
        assert isinstance(station, TrialStation)
        station.turn_to(Tab.INDEX_STOPS)
        page = station.index
        for button, state in zip(page.bits, (True, True, False), strict=False):
            button.setChecked(state)
        self._click(page.act)
        until(lambda: not page.procedure.running, "the lines acted", 60)
        self._say(page.procedure.words)
        until(lambda: "stands at stop 3" in page.state.text(), "what the controller says")
        self._pass_by()
        until(lambda: "came past and did nothing" in page.state.text(), "what came past on its lines", 30)
        self._shot("trial-turret", window)
        self._click(page.prove)
        for _ in range(6):
            until(lambda: page.procedure.question is not None, "a question", 60)
            asked = page.procedure.question
            seen = next(each for each in self._ask(do="look")["axes"] if each["name"] == "A")["in_front"]
            answers = page.asking.choices.findChildren(QPushButton)
            self._click(next(each for each in answers if each.text().startswith(str(seen))))
            until(lambda: page.procedure.question is not asked, "the answer")  # noqa: B023
        until(lambda: not page.procedure.running, "the end of it", 60)
        self._say(page.procedure.words)
        self._application.close()
        return self._taken

    def _pass_by(self) -> None:
        """A line that is on for less than the settling time: it is seen to do nothing."""
        self._ask(do="pace", factor=0)
        for do in ("press", "release"):
            self._ask(do=do, switch="turret line 3")
            self._ask(do="run", seconds=0.008)
        self._ask(do="run", seconds=0.1)
        self._ask(do="pace", factor=8)
