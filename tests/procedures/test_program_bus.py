"""A program on a machine whose spindle is told over its drive's own bus: it turns while the tool cuts, or the path ends."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from unittest import mock

from idler.core.actions.text import one_line, read
from idler.core.proof.claims import Witness, curve_claim, spindle_way_claim
from idler.core.spindle import told_range
from idler.link import pathoutputs
from idler.link.events import Asked
from idler.procedures.actions import performing
from idler.procedures.engine import Ending
from idler.procedures.registry import Wishes
from idler.procedures.trial.program import ProgramRun, Way
from idler.procedures.trial.zero import take_zero
from tests.link.test_modbus import paper
from tests.procedures.test_geometry import OnRig
from tests.support import at

CUTS = "G21 G90 G94\nS900 M3\nG1 Z-8 F60\nM5\nG1 Z0\nM30\n"


class OnBus(OnRig):
    """The lathe Fusee: its drive turns when its bus says so, while an output holds its enable terminal."""

    rig = "fusee"

    def setUp(self) -> None:
        super().setUp()
        machine, session = self.mill.machine, self.mill.session
        told = {at(0, "output.role"): "spindle_on"}
        for axis in machine.axes:
            if axis.name in "XZ":  # home is where it stands, in the middle
                here = axis.number("homing.coordinate")
                ends = {"low": here - 10, "high": here + 2}
                told |= {at(axis.slot, f"travel.{end}"): place for end, place in ends.items()}
                told |= {at(axis.slot, "travel.limits_on"): True}
        session.set_values(told)
        self.mill.send()
        session.bus.keep(paper(self.bench.ready["drive"]))
        session.bus.open()
        self.addCleanup(session.bus.leave)
        self.assertTrue(self.mill.wait(lambda: session.bus.answers, 20))
        self.mill.power()
        for axis in machine.axes:
            session.link.home_here(axis.slot)
        self.assertTrue(self.mill.wait(lambda: all(session.homes.known(axis.slot) for axis in machine.axes), 20))
        take_zero(session, "here")
        machine = self.mill.machine
        for claim in (spindle_way_claim(machine), curve_claim(machine, told_range(machine))):
            session.prove(claim, True, "as if it had been seen", Witness.EYES)

    def begin(self, text: str) -> ProgramRun:
        self.hands.ask(do="pace", factor=4)
        self.addCleanup(lambda: self.hands.ask(do="pace", factor=40))
        file = Path(self.mill.session.folder) / "part.nc"
        file.write_text(text)
        run = ProgramRun(self.mill.session)
        self.assertEqual(run.run_file(file, Way(dry=False)), "")
        return run

    def test_it_turns_while_the_tool_cuts_and_stands_afterwards(self) -> None:
        run = self.begin(CUTS)
        z = self.mill.machine.names.index("Z")
        stood = self.at(z)
        self.assertTrue(self.mill.wait(lambda: self.at(z) < stood - 1 or not run.running, 60), run.words)
        self.assertTrue(run.running, run.words)
        self.assertAlmostEqual(abs(self.hands.ask(do="look")["spindle"]), 900, delta=90)
        self.assertTrue(self.mill.wait(lambda: not run.running, 120))
        self.assertIs(run.result.end if run.result else None, Ending.DONE, run.words)
        self.assertTrue(self.mill.wait(lambda: abs(self.hands.ask(do="look")["spindle"]) < 5, 30))

    def test_a_drive_that_does_not_answer_any_more_ends_the_path(self) -> None:
        run = self.begin(CUTS)
        z = self.mill.machine.names.index("Z")
        stood = self.at(z)
        self.assertTrue(self.mill.wait(lambda: self.at(z) < stood - 1 or not run.running, 60), run.words)
        self.assertTrue(run.running, run.words)
        self.hands.ask(do="trip")
        self.assertTrue(self.mill.wait(lambda: not run.running, 30))
        self.assertIs(run.result.end if run.result else None, Ending.STOPPED)
        self.assertIn("spindle", run.words)
        self.assertGreater(self.at(z), stood - 7.5)

    def test_stop_before_it_is_at_speed_leaves_it_standing(self) -> None:
        session = self.mill.session
        honest = session.bus.turns

        def turns(asked: Asked, wanted: Callable[[], bool]) -> bool:
            """Never at its speed; and STOP comes as it is asked."""
            found = honest(asked, wanted)
            if asked.run and not stopped:
                stopped.append(True)
                session.loop.call(session.stop)
            return found and not asked.run

        stopped: list[bool] = []
        with mock.patch.object(session.bus, "turns", turns):
            run = self.begin(CUTS)
            self.assertTrue(self.mill.wait(lambda: not run.running, 30))
            self.assertTrue(self.mill.wait(lambda: session.link.path.along.over, 20))
        self.assertIs(run.result.end if run.result else None, Ending.STOPPED)
        self.assertEqual(session.bus._said, Asked())
        self.assertTrue(self.mill.wait(lambda: abs(self.hands.ask(do="look")["spindle"]) < 5, 30))

    def test_one_that_never_comes_to_its_speed_is_refused_and_let_go_of(self) -> None:
        session = self.mill.session
        z = self.mill.machine.names.index("Z")
        stood = self.at(z)
        never = mock.patch.object(session.bus, "turns", lambda asked, _wanted: not asked.run)
        with never, mock.patch.object(pathoutputs, "UP_TO_SPEED", 0.5):
            run = self.begin(CUTS)
            self.assertTrue(self.mill.wait(lambda: not run.running, 30))
        self.assertIs(run.result.end if run.result else None, Ending.FAILED)
        self.assertIn("asked to turn and does not: its drive says", run.words)
        self.assertAlmostEqual(self.at(z), stood, delta=0.01)
        self.assertTrue(self.mill.wait(lambda: not self.hands.ask(do="look")["outputs"][0], 10), "its enable output")

    def test_an_own_action_goes_on_only_when_it_is_at_speed(self) -> None:
        self.mill["actions.text"] = one_line(read('action "turn" { spindle right 900 rpm; move by Z -1 mm; }'))
        z = self.mill.machine.names.index("Z")
        stood = self.at(z)
        never = mock.patch.object(self.mill.session.bus, "turns", lambda *_: False)
        with never, mock.patch.object(performing, "UP_TO_SPEED", 1.0):
            got = self.mill.run("action", wishes=Wishes(file="turn"))
        self.assertIn("come to its speed", got.words)
        self.assertAlmostEqual(self.at(z), stood, delta=0.01)
        got = self.mill.run("action", wishes=Wishes(file="turn"))
        self.assertIs(got.end, Ending.DONE, got.words)
        self.assertAlmostEqual(self.at(z), stood - 1, delta=0.01)
