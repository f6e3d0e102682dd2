"""A machine from a file of any kind: what it would change and what is wrong with it, before anything is taken."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from idler.core.errors import IdlerError
from idler.core.exchange.imported import Imported
from idler.core.machine.changes import axes_changed, differences
from idler.core.machine.finding import Severity
from idler.core.rules.findings import findings
from idler.session.session import Session
from idler.shelf.exchange import FORMATS, WRITTEN, read_machine, write_machine

from .dialogs import PlainDialog, change_table

MOST = 6
_ALL = "Machines (" + " ".join(f"*{ending}" for ending in FORMATS) + ")"


class ImportDialog(PlainDialog):
    """Taken into the draft as one step of undo; nothing is sent."""

    def __init__(self, parent: QWidget, session: Session, name: str, found: Imported) -> None:
        super().__init__(parent, f"Import from {name}")
        self.resize(620, 520)
        self._session, self._found = session, found
        changes = differences(session.machine, found.machine)
        self.say(axes_changed(session.machine, found.machine) or f"{len(changes)} values are other than on the screen.")
        self.column.addWidget(change_table(changes), 1)
        for note in found.notes:
            self.say(note)
        wrong = [item for item in findings(found.machine) if item.severity is not Severity.NOTE]
        if wrong:
            more = f" and {len(wrong) - MOST} more" if len(wrong) > MOST else ""
            self.say("To settle with these values: " + " ".join(item.text for item in wrong[:MOST]) + more, "warn")
        obstacle = session.take_obstacle(found.machine)
        if obstacle:
            self.say(obstacle, "warn")
        self.take_button = self.buttons("Take into the draft")
        self.take_button.setEnabled(not obstacle and found.machine != session.machine)
        self.take_button.clicked.connect(self._take)

    def _take(self) -> None:
        self._session.take_machine(self._found.machine, "imported values")
        self.accept()


def ask_import(parent: QWidget, session: Session) -> ImportDialog | None:
    """The dialog for a file that was chosen; a file that cannot be read is told and changes nothing."""
    name, _ = QFileDialog.getOpenFileName(parent, "Import", "", _ALL)
    return import_file(parent, session, Path(name)) if name else None


def import_file(parent: QWidget, session: Session, path: Path) -> ImportDialog | None:
    try:
        return ImportDialog(parent, session, path.name, read_machine(path))
    except IdlerError as why:
        session.tell("warn", why.sentence)
        return None


def ask_export(parent: QWidget, session: Session) -> None:
    kinds = ";;".join(f"{kind.label} (*{ending})" for ending, kind in WRITTEN.items())
    name, chosen = QFileDialog.getSaveFileName(parent, "Export", f"{session.name}.toml", kinds)
    if name:
        path = Path(name)
        if path.suffix not in FORMATS:
            path = path.with_name(path.name + next(ending for ending in WRITTEN if ending in chosen))
        export_file(session, path)


def export_file(session: Session, path: Path) -> None:
    try:
        write_machine(
            path, session.machine, template=session.file_text, node=session.identity.node if session.identity else 1
        )
    except IdlerError as why:
        session.refuse("Nothing was exported.", why.sentence)
        return
    session.tell("plain", f"The machine as it is on the screen is in {path}.")
