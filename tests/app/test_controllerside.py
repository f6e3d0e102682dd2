"""A send that was interrupted, and a controller that was changed by somebody else, in the window."""

from __future__ import annotations

import contextlib
from dataclasses import replace
from fractions import Fraction

from idler.app.qt_wait import until
from idler.core.machine import Machine
from idler.core.table.stations import Station
from idler.link.errors import LinkError
from idler.link.plan import plan
from idler.link.talk import Talk
from idler.link.thread import Link
from tests.app.gui import SessionCase
from tests.support import X, Y, at, verge

PITCH, JERK = at(X, "chain.pitch"), at(Y, "pace.jerk")


class ControllerSide(SessionCase):
    def press(self, words: str) -> None:
        self.click(next(button for button in self.window.offers.buttons if button.text() == words))

    def interrupt(self) -> None:
        """A send whose plug is pulled before its fifth frame."""
        self.session.set_values({PITCH: Fraction(4), JERK: Fraction(1000), at(X, "axis.reversed"): True})
        self.bench.hands.ask(do="fault", kind="cut", after=4)
        self.session.send()
        until(lambda: not self.session.connected, "the loss")
        self.bench.hands.ask(do="mend")
        until(lambda: self.window.offers.words, "what became of the send")
        self.assertIn("A send was interrupted", self.window.offers.words)
        self.assertIn("values are new in the controller; old: ", self.window.offers.words)
        self.assertEqual(self.value("chain.pitch"), 4)

    def test_an_interrupted_send_is_put_back(self) -> None:
        before = self.session.holding.raws
        self.interrupt()
        self.assertNotEqual(self.session.holding.raws, before)
        self.press("Put the old values back")
        until(lambda: not self.window.offers.words, "the end of it")
        self.assertEqual((self.session.holding.raws, self.session.holding.unstored), (before, 0))
        self.assertEqual(self.value("chain.pitch"), 4)

    def test_an_interrupted_send_outlives_the_application_and_is_finished(self) -> None:
        self.interrupt()
        self.application.close()
        self.open()
        until(lambda: self.window.offers.words, "what became of the send")
        self.press("Finish sending")
        until(lambda: not self.window.offers.words and not self.session.count().to_send, "the end of it")
        self.assertEqual(self.session.holding.unstored, 0)
        self.assertIsNone(self.session.controller._kept.begun())

    def change_elsewhere(self) -> None:
        self.session.link.disconnect()
        until(lambda: not self.session.connected, "to be alone")
        with Talk(self.bench.link) as talk:
            made = plan(verge().with_values({PITCH: Fraction(8)}), talk.found.holding)
            talk.do(lambda link: Link.send(link, made))
        self.connect()
        until(lambda: self.window.offers.words, "what was changed")

    def send_elsewhere(self, machine: Machine) -> None:
        """From a second computer on the same bus, whose questions cross those of this one; a person there would try again."""
        for _ in range(4):
            with contextlib.suppress(LinkError), Talk(self.bench.link) as talk:
                made = plan(machine, talk.found.holding)
                talk.do(lambda link, made=made: Link.send(link, made))
                return
        raise AssertionError("the other computer could not send")

    def test_a_controller_that_was_changed_by_somebody_else(self) -> None:
        self.change_elsewhere()
        self.assertIn("X pitch of the screw 5 mm → 8 mm", self.window.offers.words)
        self.assertEqual(self.value("chain.pitch"), 5)
        self.press("Compare")
        page = self.window.page(Station.SIGN_OFF).compare
        self.assertEqual([line.label for part in page._parts for line in part.lines], ["pitch of the screw"])
        self.press("Take its values into the draft")
        self.assertEqual(self.value("chain.pitch"), 8)
        self.assertEqual(self.window.offers.words, "")
        self.application.close()
        self.open()
        self.assertEqual(self.window.offers.words, "")

    def test_a_second_computer_changes_it_while_this_one_is_connected(self) -> None:
        self.send_elsewhere(verge().with_values({PITCH: Fraction(8)}))
        until(lambda: "X pitch of the screw 5 mm → 8 mm" in self.window.offers.words, "what was changed")
        self.assertTrue(self.session.count().to_send)
        self.session.set_values({JERK: Fraction(1000)})
        self.session.link._changes.wanted = False  # what comes now is not seen before the send
        self.send_elsewhere(verge().with_values({at(Y, "chain.pitch"): Fraction(8)}))
        failed: list[str] = []
        self.session.failed.subscribe(failed.append)
        self.session.send()
        until(lambda: failed == ["send"], "the refusal")
        self.assertIn("changed by somebody else", self.session.refusal)
        until(lambda: "Y pitch of the screw 5 mm → 8 mm" in self.window.offers.words, "that it is shown")
        self.session.power(True)
        until(lambda: self.session.powered, "power, with the other computer gone")

    def test_a_change_by_somebody_else_is_seen_beside_an_interrupted_send(self) -> None:
        self.interrupt()
        self.session.link.disconnect()
        until(lambda: not self.session.connected, "to be alone")
        with Talk(self.bench.link) as talk:
            old = self.session.controller._kept.begun().old
            made = plan(verge().with_values({at(Y, "chain.pitch"): Fraction(8)}), talk.found.holding)
            talk.do(lambda link: link.send(replace(made, wanted={**made.wanted, **old})))
        self.connect()
        until(lambda: self.window.offers.words, "what was changed")
        self.assertIn("Y pitch of the screw 5 mm → 8 mm", self.window.offers.words)
        self.assertNotIn("X pitch", self.window.offers.words)

    def test_values_that_nobody_stored_are_offered_to_be(self) -> None:
        ended: list[str] = []
        self.session.done.subscribe(ended.append)
        self.session.link.try_values({at_place(): 1_000_000})
        until(lambda: "try" in ended, "the value")
        self.application.close()
        self.open()
        until(lambda: self.window.offers.words, "what is not stored")
        self.press("Leave it so")
        self.assertIn("has not stored 1 of its values", self.window.offers.words)
        self.press("Store them")
        until(lambda: not self.window.offers.words, "the storing")
        self.assertEqual(self.session.holding.unstored, 0)


def at_place():
    from idler.core.profile.codec import place

    return place(JERK)
