"""The level of the bed: a grid of heights by a dial in the spindle, which corner to raise, and how deep a skim would go."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from PySide6.QtWidgets import QComboBox, QGridLayout

from idler.core.geometry.level import FEWEST, MOST, PROBE, LevelVerdict, can_prove, figures, verdict
from idler.core.proof.claims import level_claim
from idler.procedures.geometry.level import BY, LEAST_WANTED, MOST_WANTED, OVER, LevelRun, usual_flatness
from idler.procedures.questions import Question
from idler.procedures.safe import count_of
from idler.session.session import Session

from ...bridge import follow
from ...pictures.heightmap import HeightMap, LevelScene
from ...widgets.cards import label, tall
from ...widgets.lengthedit import LengthEdit
from ..workbench import Workbench
from .frame import Measuring


class LevelPage(Measuring, Workbench):
    picture: HeightMap
    procedure: LevelRun

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.procedure = LevelRun(session)
        self.procedure.propose()
        self._tolerance = usual_flatness(session.machine)
        column = self.lay(self, HeightMap())
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(0, 1)
        self.counts = [QComboBox(), QComboBox()]
        self._names = [label("", "soft"), label("", "soft")]
        for line, (name, counts) in enumerate(zip(self._names, self.counts, strict=True)):
            counts.addItems([str(k) for k in range(FEWEST, MOST + 1)])
            counts.activated.connect(lambda _: self._resize())
            tall(counts)
            grid.addWidget(name, line, 0)
            grid.addWidget(counts, line, 1)
        self.held = QComboBox()
        self.held.setAccessibleName("What is held in the spindle")
        self.held.activated.connect(self._take)
        tall(self.held)
        column.addWidget(self.held)
        self.tolerance = LengthEdit(session, "unevenness of the bed", low=LEAST_WANTED, high=MOST_WANTED)
        self.tolerance.taken.connect(self._take_tolerance)
        grid.addWidget(label("wanted: within", "soft"), 2, 0)
        grid.addWidget(self.tolerance, 2, 1)
        column.addLayout(grid)
        self.drop.setText("Forget the heights")
        self.drop.clicked.connect(self.procedure.drop)
        self.go.clicked.connect(lambda: self.begun(self.procedure.measure(float(self._tolerance))))
        for topic in (session.changed, session.held, session.proved):
            follow(topic, self.refresh)
        self.refresh()

    def _at_bench(self, question: Question[Any]) -> dict[str, Any] | None:
        return {"do": "read", "over": OVER, "instrument": question.instrument}

    def _resize(self) -> None:
        across, along = (FEWEST + counts.currentIndex() for counts in self.counts)
        self.procedure.propose(across, along)
        self.refresh()

    def _take(self, place: int) -> None:
        self.procedure.held = BY[place]
        self.refresh()

    def _take_tolerance(self, value: Fraction) -> None:
        self._tolerance = value
        self.procedure.settle(float(value))
        self.refresh()

    def refresh(self) -> None:
        run, axes = self.procedure, self.procedure.axes
        self.setEnabled(axes is not None)
        if axes is None:
            self.title.setText("This machine has no bed under a tool.")
            return
        if run.grid is None and not run.running:
            run.propose()
        first, second, height = axes
        reads, found, tolerance = first.reads, run.found, float(self._tolerance)
        said = verdict(found, tolerance)
        advised = said in (LevelVerdict.TILTED, LevelVerdict.UNEVEN)
        shown = run.measured if run.running or found is not None else run.grid
        self.picture.show_scene(
            LevelScene(
                first.name,
                second.name,
                shown,
                dict(run.heights) if shown == run.measured else {},
                found,
                advised,
                reads,
            )
        )
        self.title.setText(f"Bed: {said.words}")
        claim = level_claim(self._session.machine, first.slot, second.slot)
        self.mark.show_claim(self._session.machine, claim, self._session.proofs)
        told = f"{figures(found, first, second)}. {run.said(tolerance)}" if found is not None else ""
        self.words.setText(told)
        self.words.setVisible(bool(told))
        for name, axis, counts, number in zip(
            self._names, (first, second), self.counts,
            (run.grid.across, run.grid.along) if run.grid is not None else (3, 3), strict=True,
        ):  # fmt: skip
            name.setText(f"places along {axis.name}")
            counts.setAccessibleName(f"Places along {axis.name}")
            counts.setCurrentIndex(number - FEWEST)
            counts.setEnabled(not run.running)
        self.tolerance.show_length(reads, self._tolerance)
        self.beforehand.setVisible(found is None)
        words = [f"by {item.words(reads)}" for item in BY]
        if words != [self.held.itemText(k) for k in range(self.held.count())]:
            self.held.clear()
            self.held.addItems(words)
        self.held.setCurrentIndex(BY.index(run.held))
        self.held.setVisible(run.probes or run.held == PROBE)
        self.held.setEnabled(not run.running)
        least = can_prove(run.held, count_of(self._session, height.slot))
        self.beforehand.setText(
            f"With the {run.held.words(reads)} this tells {reads.length(least, 3)} between two places from none. {height.name} "
            "goes up first; then nothing but the bed may stand in its way."
            if run.grid is not None
            else "There is no grid that both travels have room for. Set the ends at Travel first."
        )
        self.drop.setVisible(bool(run.heights) and not run.running)
        self.show_readings(run.readings)
        self.go.setText("Go on" if run.goes_on else "Measure the bed")
        self.go.setEnabled(not run.running)
        self.laid_anew.emit()
