"""The turret of Fusee over the real wire: what eyes say of its stops, its lines acted and touched, and STOP in the middle."""

from __future__ import annotations

from idler.core.machine import Address
from idler.core.proof.claims import Witness
from idler.core.values.parameter import Value
from idler.core.values.roles import STOP_LINES, InputRole
from idler.procedures.actions.indexing import IndexRun
from idler.procedures.engine import Ending, Result
from idler.procedures.questions import Question
from idler.procedures.registry import Wishes
from tests.procedures.test_geometry import OnRig
from tests.support import DEADLINE

TURRET = 3  # its slot


def wired() -> dict[Address, Value]:
    """What hangs on Fusee's inputs, as it truly is."""
    told: dict[int, tuple[InputRole, str, str]] = {
        1: (InputRole.STOP, "none", "closed"), 2: (InputRole.HOME, "X", "closed"), 4: (InputRole.HOME, "Z", "closed"),
        5: (InputRole.INDEX, "C", "open"), 6: (InputRole.GUARD, "none", "closed"), 7: (InputRole.HOME, "A", "open"),
        8: (InputRole.TROUBLE, "none", "closed"),
        **{9 + bit: (role, "A", "open") for bit, role in enumerate(STOP_LINES[:3])},
    }  # fmt: skip
    found: dict[Address, Value] = {}
    for number, (role, axis, rest) in told.items():
        for key, value in (("role", role.key), ("axis", axis), ("rest", rest)):
            found[Address(number - 1, f"input.{key}")] = value
    return {**found, Address(2, "homing.turn"): 0}


class Turret(OnRig):
    rig = "fusee"

    def setUp(self) -> None:
        super().setUp()
        session = self.mill.session
        session.set_values(wired())
        self.mill.send()
        self.mill.power()
        self.assertIs(self.mill.run("home", "A").end, Ending.PROVEN)

    def eyes(self, question: Question[object]) -> str:
        self.assertEqual(question.key, "index.seen")
        return str(self.in_front or "other")

    @property
    def in_front(self) -> int:
        return next(int(axis["in_front"]) for axis in self.hands.ask(do="look")["axes"] if axis["name"] == "A")

    def index(self, *of: str) -> Result:
        return self.mill.run("index", "A", self.eyes, Wishes(of=of))

    def until(self, run: IndexRun, number: int) -> None:
        def there() -> bool:
            run.look(TURRET)
            return TURRET in run.reports and run.reports[TURRET].at == number

        self.assertTrue(self.mill.wait(there, DEADLINE), f"at stop {number}")

    def test_a_home_at_another_stop_is_named_and_mended_and_then_each_stop_is_proven(self) -> None:
        got = self.index()
        self.assertIs(got.end, Ending.NOT_PROVEN)
        self.assertIn("the stop 1 place further stood there", got.words)
        self.assertFalse(self.mill.proven("index.A"))
        self.assertEqual(dict(got.edit), {Address(TURRET, "homing.coordinate"): 57})
        self.mill.take(got)
        self.mill.send()
        self.mill.power()
        got = self.mill.run("home", "A")
        self.assertIs(got.end, Ending.PROVEN, got.words)
        got = self.index()
        self.assertIs(got.end, Ending.PROVEN, got.words)
        self.assertIs(self.mill.session.proofs["index.A"].witness, Witness.EYES)
        self.mill["A", "index.over"] = "3°"
        self.assertFalse(self.mill.proven("index.A"))

    def test_it_goes_by_number_by_acted_lines_and_by_touched_ones(self) -> None:
        self.assertEqual(self.index("stop=4").figures["stop"], 4)
        self.assertEqual(self.in_front, 5)  # its home is one stop off
        got = self.index("lines=2")
        self.assertEqual((got.end, got.figures["stop"]), (Ending.DONE, 2), got.words)
        self.assertIn("no such stop", self.index("lines=7").words)
        self.assertIn("is none of them", self.index("stop=7").words)
        self.assertIn("states 0 to 7", self.index("lines=8").words)
        run = IndexRun(self.mill.session)
        for state, number in ((3, 3), (6, 6)):
            for bit in range(3):
                self.hands.ask(do="press" if state >> bit & 1 else "release", switch=f"turret line {bit + 1}")
            self.until(run, number)

    def test_stop_ends_it_and_it_says_what_keeps_it(self) -> None:
        run = IndexRun(self.mill.session)
        self.assertEqual(run.go(TURRET, 4), "")
        self.assertTrue(self.mill.wait(lambda: self.mill.session.moving, DEADLINE))
        self.mill.stop()
        self.assertTrue(self.mill.wait(lambda: run.settled and not self.mill.session.moving, DEADLINE))
        self.assertIs(run.result.end if run.result else None, Ending.STOPPED)
        where = self.mill.session.axes[TURRET].position
        self.hands.ask(do="press", switch="turret line 1")  # what is told while it was stopped is not obeyed
        self.hands.ask(do="run", seconds=1.0)
        self.mill.wait(lambda: False, 0.1)
        self.assertAlmostEqual(self.mill.session.axes[TURRET].position, where, places=2)
        self.assertEqual(self.index("stop=1").figures["stop"], 1)
        self.mill.power(False)
        self.assertIn("The drives are off", self.index("stop=2").words)

    def test_trouble_of_its_motor_stops_all_and_its_place_is_forgotten(self) -> None:
        self.hands.ask(do="jam", axis="A")
        got = self.index("stop=4")
        self.assertIs(got.end, Ending.STOPPED, got.words)
        self.hands.ask(do="free", axis="A")
        session = self.mill.session
        self.assertTrue(self.mill.wait(lambda: not session.homes.known(TURRET) and not session.powered, DEADLINE))
        self.mill.power()
        self.assertIn("not homed", self.index("stop=1").words)
