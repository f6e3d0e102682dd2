"""Whether all axes keep their steps when they go together: where their switches are found again."""

from __future__ import annotations

from idler.core.geometry.kept import figures, sentence
from idler.core.proof.claims import kept_claim
from idler.procedures.geometry.kept import MOVES, KeptRun
from idler.session.session import Session

from ...bridge import follow
from ...pictures.shifts import ShiftPicture, ShiftScene
from ..workbench import Workbench
from .frame import Measuring


class KeptPage(Measuring, Workbench):
    picture: ShiftPicture
    procedure: KeptRun

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.procedure = KeptRun(session)
        self.lay(self, ShiftPicture())
        self.drop.hide()
        self.go.setText("Move them all")
        self.go.clicked.connect(lambda: self.begun(self.procedure.try_it()))
        self.beforehand.setText(
            f"{MOVES} moves of all axes at once, over the whole travel and at top speed; every home switch is touched before "
            "and after. Pace and ends of each must be proven. Nothing may be in the way."
        )
        for topic in (session.changed, session.held, session.proved):
            follow(topic, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        run, machine = self.procedure, self._session.machine
        slots, found = run.slots, run.found
        axes = [machine.axis(slot) for slot in slots]
        names, reads = tuple(axis.name for axis in axes), tuple(axis.reads for axis in axes)
        self.picture.show_scene(ShiftScene(names, found, reads, run.done, MOVES) if names else None)
        lost = any(not each.held for each in found)
        self.title.setText("Steps: " + ("lost" if lost else "kept" if found else "not tried yet"))
        self.mark.show_claim(machine, kept_claim(machine), self._session.proofs)
        self.words.setText(f"{sentence(found)} {figures(machine, found)}." if found else "")
        self.words.setVisible(bool(found))
        self.beforehand.setVisible(not found)
        self.go.setEnabled(bool(slots) and not run.running)
        self.laid_anew.emit()
