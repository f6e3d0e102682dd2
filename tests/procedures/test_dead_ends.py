"""Where somebody who only does what is next would have stood still, or been told something that is not so."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from idler.core.proof.claims import Proof, Witness, direction_claim, spindle_way_claim
from idler.core.report.agenda import CONNECT, WAYS
from idler.procedures.engine import Ending, Result
from idler.procedures.registry import Wishes, wishes_of
from tests.procedures.test_geometry import OnRig
from tests.support import DEADLINE, X, Y, Z, at, wiring


class OnVerge(OnRig):
    def tell(self) -> None:
        self.mill.session.set_values({**wiring(), at(X, "chain.pitch"): Fraction(4)})
        self.mill.send()
        self.mill.power()

    def test_an_axis_on_its_switch_goes_off_it_before_it_is_homed_where_it_may(self) -> None:
        self.tell()
        self.assertFalse(self.mill.axes[X].home_made)
        self.mill.run("move", "X", wishes=Wishes(length="165.5 mm"))
        self.assertTrue(self.mill.axes[X].home_made)
        got = self.mill.run("home", "X", self.person)
        self.assertIn("pressed already", got.words)  # which way it goes is not proven: nobody is asked
        self.mill.session.prove(direction_claim(self.mill.machine, X), True, "as if it had been seen", Witness.EYES)
        got = self.mill.run("home", "X", {"home.clear": "no"})
        self.assertIn("pressed already", got.words)
        got = self.mill.run("home", "X", self.person)
        self.assertIs(got.end, Ending.PROVEN, got.words)
        self.assertEqual(self.person.asked, ["home.clear"])
        self.assertEqual(self.hands.look("X")["struck"], 0)

    def heard(self, wishes: Wishes) -> Result:
        """Again where this computer paused for so long that the controller let the spindle go."""
        for _ in range(6):
            got = self.mill.run("study", "", self.person, wishes)
            if got.end is not Ending.DONE:
                break
        return got

    def test_what_an_input_picks_up_from_the_spindle_is_heard_and_filtered(self) -> None:
        """Verge's cable of X lies beside that of its spindle."""
        self.tell()
        told = wishes_of(WAYS["quiet"].procedure, Wishes())
        self.assertEqual((told.word, told.wishes.spindle), ("study", True))
        got = self.mill.run("study", "", self.person, told.wishes)
        self.assertIs(got.end, Ending.DONE, "that it is told to turn does not say that it does")
        self.mill.session.prove(spindle_way_claim(self.mill.machine), True, "as if it had been seen", Witness.EYES)
        got = self.heard(told.wishes)
        self.assertIs(got.end, Ending.NOT_PROVEN, got.words)
        self.assertIn("X home switch, input 2, picked up", got.words)
        self.assertIn(at(1, "input.filter"), got.edit)
        self.mill.take(got)
        self.mill.send()
        got = self.heard(told.wishes)
        self.assertIs(got.end, Ending.PROVEN, got.words)
        self.assertIs(self.mill.proofs["quiet"], Proof.PROVEN)

    def test_a_pass_that_meets_its_switch_is_void_and_the_next_one_goes_the_other_way(self) -> None:
        self.tell()
        self.mill.run("move", "X", wishes=Wishes(length="140 mm"))
        got = self.mill.run("scale", "X", self.person, Wishes(length="60 mm"))
        self.assertIs(got.end, Ending.PROVEN, got.words)
        self.assertEqual([each.commanded for each in self.mill.session.passes["X"]], [10.0, -60.0])  # carefully first
        self.assertLess(self.hands.look("X")["struck"], 1.2)  # mm/s: seen late it meets iron, and no faster than it may

    def test_a_contact_that_rests_the_other_way_is_not_proven_by_pressing_it_twice(self) -> None:
        self.tell()
        self.mill.session.set_values({at(1, "input.rest"): "open"})
        self.mill.send()
        got = self.mill.run("touch", "", self.person)
        self.assertIs(got.end, Ending.NOT_PROVEN, got.words)
        self.assertEqual(self.mill.machine[at(1, "input.rest")], "closed", got.words)
        self.mill.send()
        got = self.mill.run("touch", "", self.person)
        self.assertIs(got.end, Ending.PROVEN, got.words)
        self.assertTrue(self.mill.proven("wiring.home.X"))

    def test_a_link_that_was_lost_is_made_again(self) -> None:
        self.hands.ask(do="cut")
        self.assertTrue(self.mill.loop.until(lambda: not self.mill.session.connected, DEADLINE))
        self.hands.ask(do="mend")
        step, got = next(self.mill.work_through(self.person))
        self.assertEqual((step.key, got.end), (CONNECT, Ending.DONE))
        self.assertTrue(self.mill.session.connected)


class OnLongcase(OnRig):
    rig = "longcase"

    def test_two_motors_that_turn_against_each_other_are_no_direction(self) -> None:
        self.mill.power()
        self.person.look_first()
        got = self.mill.run("direction", "Y", self.person)
        self.assertIs(got.end, Ending.NOT_PROVEN, got.words)
        self.assertEqual(list(got.edit), [at(Y, "axis.second_reversed")], got.words)
        self.mill.take(got)
        self.mill.send()
        self.mill.power()
        self.person.look_first()
        got = self.mill.run("direction", "Y", self.person)
        self.assertIs(got.end, Ending.PROVEN, got.words)


class Stalled(OnRig):
    """The column of Verge is 27 mm shorter than was told: Z goes into iron within its soft limits, and its driver gives up, at
    whose trouble output nobody listens."""

    pace = 30

    @staticmethod
    def otherwise(data: dict[str, Any]) -> None:
        data["motor"]["Z"]["travel"] -= 27
        next(wire for wire in data["wire"] if wire["name"] == "Z home")["at"] -= 27

    def test_a_driver_that_has_given_up_is_told_and_its_home_is_lost(self) -> None:
        session = self.mill.session
        session.set_values({**wiring(), at(8, "input.role"): "none"})
        self.mill.send()
        session.prove(direction_claim(self.mill.machine, Z), True, "as if it had been seen", Witness.EYES)
        for _ in range(4):  # a computer that pauses loses the link, which ends the run before its time
            self.mill.power()
            self.assertIs((got := self.mill.run("home", "Z", self.person)).end, Ending.PROVEN, got.words)
            got = self.mill.run("ends", "Z", self.person)
            if got.end is not Ending.STOPPED:
                break
            self.assertTrue(self.mill.wait(lambda: session.connected and not session.busy, DEADLINE))
        self.assertIs(got.end, Ending.FAILED, got.words)
        self.assertIn("its driver has given up", got.words)
        self.assertTrue(self.mill.wait(lambda: not session.powered and not session.homes.known(Z)))
        self.mill.power()
        self.assertIs((got := self.mill.run("home", "Z", self.person)).end, Ending.PROVEN, got.words)
