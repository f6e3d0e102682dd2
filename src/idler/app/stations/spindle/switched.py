"""Try: coolant, mist, way oil and whatever else the outputs switch, each for as long as it is held."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QGridLayout, QPushButton, QWidget

from idler.core.spindle.interlocks import try_obstacle
from idler.core.values.roles import OutputRole
from idler.core.wiring import Output, outputs
from idler.core.words import capital
from idler.link.events import Asked
from idler.procedures.dead_man import DeadMan
from idler.session.session import Session

from ...widgets.cards import label, scrolled, tall, turn_over
from ...widgets.machinebutton import HoldButton
from .pages import Page


def switched(listed: tuple[Output, ...]) -> list[Output]:
    """Outputs that switch something beside spindle and drives."""
    return [
        out for out in listed
        if out.role not in (OutputRole.NONE, OutputRole.DRIVES_ON, OutputRole.HEALTHY) and not out.role.of_spindle
    ]  # fmt: skip


class SwitchedPage(Page):
    def __init__(self, session: Session, dead_man: DeadMan) -> None:
        super().__init__(session)
        self._dead_man = dead_man
        self.column.addWidget(label("Hold, and see what it does", "title"))
        self._place = scrolled(QWidget())
        self.column.addWidget(self._place, 1)
        self._shown: list[tuple[str, str]] | None = None
        self.buttons: dict[str, QPushButton] = {}

    def refresh(self) -> None:
        listed = switched(outputs(self._session.machine))
        shown = [(out.name, out.role.key) for out in listed]
        if shown == self._shown:
            return
        self._shown, self.buttons = shown, {}
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 4, 0)
        grid.setColumnStretch(0, 1)
        for row, out in enumerate(listed):
            grid.addWidget(label(f"{capital(out.label)}, output {out.name}"), row, 0)
            held = partial(self._press, out.slot)
            button = HoldButton(self._session, "hold to try", held, self._dead_man.let_go)
            tall(button)
            button.setAccessibleName(f"Hold to try {out.label}")
            grid.addWidget(button, row, 1)
            self.buttons[out.role.key] = button
        if not listed:
            grid.addWidget(
                label("No output switches coolant, mist or oil. Give it a role at the Wiring station.", wrap=True)
            )
        grid.setRowStretch(len(listed) + 1, 1)
        turn_over(self._place, page)

    def _press(self, slot: int) -> None:
        machine, panel = self._session.machine, self._session.panel
        why = "" if self._session.connected else "No controller is connected: nothing can be tried."
        why = why or try_obstacle(machine, slot, panel.conditions, powered=self._session.powered)
        if why:
            self.say(why)
        else:
            self._dead_man.hold(Asked(tried=slot + 1))
