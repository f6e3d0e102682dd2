"""The menu of the axes: add, rename, order, copy, remove. Each is one step of undo; nothing is sent by it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QMenu, QPushButton

from idler.core.errors import Refusal
from idler.core.machine import Machine, axes
from idler.core.proof.belongings import Letters
from idler.core.table import MOST_AXES
from idler.session.session import Session


class AxisMenu(QPushButton):
    """Made anew each time that it is opened, for what it offers follows the machine."""

    chose = Signal(int)  # the axis that is to be shown now

    def __init__(self, session: Session) -> None:
        super().__init__("Axis")
        self._session = session
        self._slot = 0
        self.setProperty("role", "quiet")
        self.setAccessibleName("What to do with the axes")
        menu = QMenu(self)
        menu.aboutToShow.connect(self._fill)
        self.setMenu(menu)

    def show_axis(self, slot: int) -> None:
        self._slot = slot

    def _fill(self) -> None:
        menu, machine, slot = self.menu(), self._session.machine, self._slot
        menu.clear()
        name, last = machine.names[slot], len(machine.names) - 1
        free = axes.free_letters(machine)
        add = menu.addMenu("Add an axis")
        add.setEnabled(bool(free) and last + 1 < MOST_AXES)
        for letter in free:
            kind = "rotary" if letter in axes.ROTARY else "linear"
            add.addAction(f"{letter}, {kind}", partial(self.add, letter))
        rename = menu.addMenu(f"Rename {name}")
        for letter in free:
            rename.addAction(letter, partial(self.rename, letter))
        for words, to, possible in (
            ("Earlier in the order", slot - 1, slot > 0),
            ("Later in the order", slot + 1, slot < last),
        ):
            menu.addAction(words, partial(self.move_to, to)).setEnabled(possible)
        menu.addSeparator()
        for source, other in enumerate(machine.names):
            if source != slot:
                copy = menu.addMenu(f"Copy from {other}")
                copy.addAction("everything", partial(self.copy, source, axes.GROUPS))
                copy.addSeparator()
                for group, words in axes.GROUPS.items():
                    copy.addAction(words, partial(self.copy, source, [group]))
                copy.addSeparator()
                for words in dict.fromkeys(axes.OWN.values()):
                    keys = [key for key, said in axes.OWN.items() if said == words]
                    copy.addAction(words, partial(self.copy, source, (), keys))
        menu.addSeparator()
        menu.addAction(f"Remove {name}", self.remove).setEnabled(last > 0)

    def _reshape(self, work: Callable[[], Machine], words: str, slot: int, letters: Letters | None = None) -> None:
        try:
            made = work()
        except Refusal as why:
            self._session.tell("warn", why.sentence)
            return
        self._session.reshape(made, words, letters)
        self.chose.emit(slot)

    def add(self, letter: str) -> None:
        machine = self._session.machine
        self._reshape(lambda: axes.add(machine, letter), f"axis {letter} added", len(machine.names), {letter: None})

    def rename(self, letter: str) -> None:
        machine, slot = self._session.machine, self._slot
        before = machine.names[slot]
        words = f"axis {before} renamed to {letter}"
        self._reshape(lambda: axes.rename(machine, slot, letter), words, slot, {letter: None, before: letter})

    def move_to(self, to: int) -> None:
        machine, slot = self._session.machine, self._slot
        self._reshape(lambda: axes.move(machine, slot, to), f"axis {machine.names[slot]} in another place", to)

    def remove(self) -> None:
        machine, slot = self._session.machine, self._slot
        name = machine.names[slot]
        self._reshape(lambda: axes.remove(machine, slot), f"axis {name} removed", max(0, slot - 1))
        self._session.tell("plain", f"{name} was removed with its values. Undo brings it back.")

    def copy(self, source: int, groups: Iterable[str], own: Iterable[str] = ()) -> None:
        """Values of another axis, by groups of the table; own: those that are of each axis, by key."""
        machine, slot = self._session.machine, self._slot
        names = machine.names[source], machine.names[slot]
        try:
            values = axes.copied(machine, source, slot, groups, own)
        except Refusal as why:
            self._session.tell("warn", why.sentence)
            return
        if values:
            self._session.set_values(values, f"{names[1]} as {names[0]}")
        count = "Nothing differs" if not values else f"{len(values)} value{'s' if len(values) > 1 else ''} taken"
        left = axes.left_out(machine, source, slot, groups)
        kept = f" Its own stayed: {', '.join(left)}." if left else ""
        self._session.tell("plain", f"{names[1]} from {names[0]}: {count}.{kept}")
