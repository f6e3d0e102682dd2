"""The one button of what is next: each step leads to its own page, its own axis, and the button that does it."""

from __future__ import annotations

from PySide6.QtWidgets import QPushButton

from idler.app.qt_wait import until
from tests.app.gui import SessionCase
from tests.support import at, wiring

# By the begin of a step's key: what stands on its button; {axis} where it is of one.
DONE_BY = {
    "wiring.stop": "Prove", "wiring.home": "Touch round", "direction": "Move {axis}", "scale": "Take up the play",
    "home.all": "Home all", "home": "Home {axis}", "ends": "Prove both ends of {axis}", "overtravel": "Home {axis}",
    "pace": "Prove the pace as it is", "repeat": "Repeat", "spindle.stop": "Prove", "spindle.esc": "Prove",
    "spindle.pulses": "Begin", "speed": "Prove the speeds",
    "times": "Measure the times", "play": "Measure the play", "return": "Come back",
    "kept": "Move them all", "square.XZ": "Lay the square", "square.YZ": "Lay the square",
    "square": "Go to the corners", "level": "Measure the bed", "runout": "Turn it round",
    "figure": "Take it to the run",
}  # fmt: skip


class OfEach(SessionCase):
    on_bench = False

    def test_a_step_gives_the_focus_to_what_does_it(self) -> None:
        self.session.set_values({**wiring(), at(7, "input.role"): "pulse"})
        steps = [step for step in self.session.agenda.steps if step.procedure]
        self.assertGreater(len(steps), 40)
        met = set()
        for step in steps:
            kind = next((begin for begin in DONE_BY if step.key.startswith(begin)), "")
            if not kind:
                continue
            with self.subTest(step.key):
                met.add(kind)
                self.window.go_to(step)
                page = self.window.page(step.station)
                control = page.control_of(step.key, step.control)
                if kind in ("speed", "times") and isinstance(control, QPushButton) and control.isCheckable():
                    self.assertTrue(control.text().startswith(step.key[-1]))  # the belt is moved first
                    control.click()
                    self.window.go_to(step)
                    control = page.control_of(step.key, step.control)
                assert isinstance(control, QPushButton)
                self.assertTrue(control.isVisible() and control.isEnabled())
                until(lambda control=control: self.app.focusWidget() is control, "the focus on it")  # type: ignore[misc]
                self.assertIn(DONE_BY[kind].format(axis=step.axis), control.text())
                if step.axis and page.axis is not None:
                    self.assertEqual(self.session.machine.names[page.axis], step.axis)
        self.assertEqual(met, set(DONE_BY))
