"""Reports from the screen: the machine's folder, and the wiring sheet for the cabinet."""

from __future__ import annotations

import time
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QScrollArea, QWidget

from idler.core.errors import IdlerError
from idler.core.report import report
from idler.core.wiring.diagram import diagram
from idler.session.session import Session
from idler.shelf.report import write_report

from ..pictures.diagram import DiagramPicture
from .dialogs import PlainDialog

_KINDS = "PDF, A4 (*.pdf);;PDF, Letter (*.pdf);;Page (*.html)"


def ask_report(parent: QWidget, session: Session, *, wiring_only: bool = False) -> None:
    name = f"{session.name}-wiring.pdf" if wiring_only else f"{session.name}.pdf"
    chosen, kind = QFileDialog.getSaveFileName(parent, "Report", name, _KINDS)
    if chosen:
        save_report(session, Path(chosen), "Letter" if kind == _KINDS.split(";;")[1] else "A4", wiring_only=wiring_only)


def save_report(session: Session, path: Path, paper: str = "A4", *, wiring_only: bool = False) -> None:
    """The report of what is on the screen; where it cannot be written, that is told."""
    newest = next(iter(session.history.whole()), None)
    words = f"Revision {newest.number}, {newest.note}" if newest is not None else "No revision is kept yet"
    edited = len(session.machine.differences(session.base))
    words += f", with {edited} values edited since" if edited else ""
    try:
        found = report(session.machine, session.proofs, session.work.set, session.agenda.skips)
        write_report(path, found, words, time.time(), paper, wiring_only=wiring_only)
    except IdlerError as why:
        session.refuse("The report was not written.", why.sentence)
        return
    session.tell("plain", f"The report is in {path}.")


class DiagramDialog(PlainDialog):
    """The wiring as it is on the screen, to be printed and hung in the cabinet."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent, "Wiring diagram")
        self.resize(1000, 640)
        self.picture = DiagramPicture()
        self.picture.show_diagram(diagram(session.machine))
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(self.picture)
        self.column.addWidget(area, 1)
        self.save_button = self.buttons("Save the sheet…")
        self.save_button.clicked.connect(lambda: ask_report(self, session, wiring_only=True))
