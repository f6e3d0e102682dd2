"""Next in the window, by somebody who knows nothing else: presses what it leads to, answers what is asked from what is seen at
the bench, takes what is proposed, and comes to the sign-off."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton, QWidget

from idler.app.qt_wait import TooLong, until
from idler.app.stations.trial.station import TrialStation
from idler.app.widgets.machinebutton import HoldButton
from idler.core.machine import Machine
from idler.core.proof.claims import Proof, claims, state
from idler.core.report.agenda import HOMED, KEEP, POWERED, RESTART, SEND, Step
from idler.procedures.engine import Procedure
from idler.session.loop import Loop
from idler.session.session import Session
from tests.app.gui import SessionCase
from tests.led import PROGRAMS, drawing
from tests.person import Person
from tests.support import X, at

TRIES = 6  # of one step; a scale is measured pass by pass
LONGEST = 60.0  # s that one press may lead to
LEFT = (  # what is walked without a window, or lasts too long here
    "direction.A", "scale.Y", "scale.Z", "scale.A", "home.A", "ends.Y", "ends.Z", "ends.A", "overtravel", "pace", "repeat",
    "kept", "play", "return", "runout", "square", "level", "speed.2", "speed.3", "times", "spindle.link",
    "spindle.stop", "spindle.guard", "spindle.ready", "spindle.esc", "trial.Y", "trial.Z",
)  # fmt: skip


class AtWindow:
    """The machine, as a person finds it who sits at the window."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.procedure: Procedure | None = None

    @property
    def machine(self) -> Machine:
        return self.session.machine

    @property
    def loop(self) -> Loop:
        return self.session.loop

    def wait(self, condition: Callable[[], object], seconds: float) -> bool:
        try:
            until(condition, "it", seconds)
        except TooLong:
            return False
        return True


class Walk(SessionCase):
    pace = 150
    fresh = True
    longest = LONGEST

    def setUp(self) -> None:
        super().setUp()
        self.strip = self.window.margin.next
        self.beside = AtWindow(self.session)
        self.person = Person(self.beside, self.bench.hands)  # type: ignore[arg-type]
        self.story: list[str] = []

    def test_to_the_sign_off_by_what_it_leads_to(self) -> None:
        tries: Counter[str] = Counter()
        while (step := self.session.agenda.next) is not None and step.key != KEEP:
            if step.key.startswith(LEFT):
                self.session.agenda.skip(step.key, "not on this walk")
                continue
            tries[step.key] += step.key not in (SEND, RESTART)
            self.assertLessEqual(tries[step.key], TRIES, "\n".join(self.story))
            self.do(step)
        machine, skipped = self.session.machine, set(self.session.agenda.skips)
        self.assertEqual([key for key in skipped if not key.startswith(LEFT)], [])
        self.assertLessEqual(
            {"wiring.stop", "wiring.guard", "direction.Y", "scale.X", "home.all", "ends.X", "spindle.way", "quiet", "speed.1",
             "figure.XY", "trial.X"},
            {each.key for each in claims(machine) if state(machine, each, self.session.proofs) is Proof.PROVEN},
        )  # fmt: skip
        self.assertEqual(machine[at(X, "chain.pitch")], 4)
        self.click(self.strip.go)
        self.assertIs(self.app.focusWidget(), self.window.header.keep_button)

    def do(self, step: Step) -> None:
        """One step: to where it leads, a press on what has the focus then, and whatever is asked after it."""
        if POWERED in step.needs and not self.session.powered:
            self.power()
        if HOMED in step.needs:
            homed = [
                axis for axis in self.session.machine.axes if axis.whole("axis.output") and axis.whole("homing.turn")
            ]
            if lost := [axis.slot for axis in homed if not self.session.homes.known(axis.slot)]:
                self.home(*lost)
        self.person.way = step.key.rpartition(".")[2]
        self.person.look_first()
        until(lambda: self.strip.step == self.session.agenda.next, "what is next")
        self.click(self.strip.go)
        until(lambda: self.app.focusWidget() is not None, f"the focus for {step.key}")
        focus = self.app.focusWidget()
        assert isinstance(focus, QWidget)
        self.story.append(f"{step.key}: {focus.text() if isinstance(focus, QPushButton) else type(focus).__name__}")
        if step.key in (SEND, RESTART):
            if step.key == SEND:
                self.assertIs(focus, self.window.header.send_button)
            bring = self.session.send if step.key == SEND else self.session.restart
            self.again(bring, lambda: self.session.agenda.next != step, "what was edited to be in force")
        elif not step.procedure:
            self.settle(step)
        elif step.key == "trial.X" and self.session.program.opened is None:
            self.open_a_program(focus)
        else:
            self.assertIsInstance(focus, QPushButton, self.story[-1])
            self.press(focus, step)

    def settle(self, step: Step) -> None:
        told = dict(step.edit) or drawing(self.rig)
        self.assertNotEqual({where: self.session.machine[where] for where in told}, told, self.story)
        self.session.set_values(told)

    def open_a_program(self, focus: QWidget) -> None:
        self.assertEqual(focus.accessibleName(), "Open a program")
        path = self.root / "program.nc"
        path.write_text(PROGRAMS["mill"], "utf-8")
        self.session.program.open(path)
        until(lambda: self.session.program.judged is not None, "the program to be read")

    def press(self, focus: QWidget, step: Step) -> None:
        """Until it has ended, with every question answered."""
        if isinstance(focus, QPushButton) and focus.text().startswith("Take it where"):  # the pen stands on the paper
            self.person.to_the_middle()
            self.rest()
            self.bench.hands.ask(do="paper")
        if focus is self.strip.go:  # it leads to what begins by itself
            self.assertEqual(step.procedure, "learn", self.story)
        elif isinstance(focus, HoldButton):
            QTest.mousePress(focus, Qt.MouseButton.LeftButton)
        else:
            self.click(focus)
        until(lambda: self.has_begun(focus, step), f"what it does: {self.story[-1]}")
        if (run := self.runs()) is None:
            return
        self.beside.procedure = run
        while run.running:
            self.answer(run)
        QTest.mouseRelease(focus, Qt.MouseButton.LeftButton)
        self.rest()
        assert run.result is not None
        self.story.append(f"    {run.result.end.value}: {run.result.words}")
        self.session.set_values(dict(run.result.edit))

    def has_begun(self, focus: QWidget, step: Step) -> bool:
        """Whether a press has done something: begun a run, settled the step, turned the page, or taken the work zero."""
        program = self.session.program
        if program.opened is not None and program.judged is None:  # it is being read
            return False
        if self.runs() is not None or self.session.agenda.next != step or not focus.isVisible():
            return True
        page = self.window.page(self.window._station)
        return isinstance(page, TrialStation) and focus is page.zeros.take and page.run.missing is None

    def answer(self, run: Procedure) -> None:
        """What it asks now, or its end."""
        until(lambda: not run.running or run.question is not None, run.words, self.longest)
        if (asked := run.question) is None:
            return
        answer = self.person(asked)
        if answer is not None and run.question is asked:
            run.answer(answer)
        until(lambda: run.question is not asked, asked.text, LONGEST)

    def runs(self) -> Procedure | None:
        """What runs now on the page that is shown."""

        def owned() -> Iterator[object]:
            page = self.window.page(self.window._station)
            for widget in (page, *page.findChildren(QWidget)):
                yield from vars(widget).values()

        return next((each for each in owned() if isinstance(each, Procedure) and each.running), None)
