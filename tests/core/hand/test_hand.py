"""A hand device: no motion without the dead man whatever is done in whatever order, and the end of it when he lets go."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from idler.core.errors import Refusal
from idler.core.hand.assignment import (
    Assigned,
    Control,
    DeviceProfile,
    Does,
    Sort,
    control_from,
    profile_from,
    profile_table,
)
from idler.core.hand.hand import Act, Feed, Hand, LetGo, Speed, Spindle, Steps, Stop, Unheld

DEAD, STOP, ACT = (Control(Sort.BUTTON, code) for code in (288, 289, 290))
WHEEL, STICK, SPIN, KNOB = (
    Control(*each) for each in ((Sort.WHEEL, 8), (Sort.STICK, 0), (Sort.STICK, 1), (Sort.WHEEL, 7))
)
PENDANT = DeviceProfile(1, 2, "Pendant", {
    DEAD: Assigned(Does.DEAD_MAN), STOP: Assigned(Does.STOP), WHEEL: Assigned(Does.STEP, "X"),
    STICK: Assigned(Does.SPEED, "Y"), ACT: Assigned(Does.ACTION, "park"), SPIN: Assigned(Does.SPINDLE),
    KNOB: Assigned(Does.SPINDLE),
})  # fmt: skip
controls = st.builds(Control, st.sampled_from(Sort), st.integers(0, 4))
events = st.lists(
    st.tuples(
        st.sampled_from((DEAD, DEAD, STOP, WHEEL, STICK, SPIN, KNOB, ACT, None)),
        st.sampled_from((-1.0, -0.4, 0.0, 0.05, 1.0, 1.0)),
    ),
    max_size=60,
)  # fmt: skip


ENDS = (Speed("Y", 0.0), Spindle(to=0.0))


@st.composite
def profiles(draw: st.DrawFn) -> DeviceProfile:
    made = DeviceProfile(draw(st.integers(0, 65535)), draw(st.integers(0, 65535)), "x")
    for control in draw(st.lists(controls, max_size=6)):
        does = draw(st.sampled_from([does for does in Does if control.sort in does.sorts]))
        made = made.with_one(control, Assigned(does, draw(st.sampled_from(("", "X", "park it")))))
    return made


class Moving(unittest.TestCase):
    @given(events)
    def test_no_motion_without_the_dead_man_nor_after_a_stop_and_its_end_when_he_lets_go(
        self, done: list[tuple[Control | None, float]]
    ) -> None:
        hand, held, stopped = Hand(PENDANT), False, False
        for control, value in done:
            if control is None:  # it is unplugged, and plugged in again
                found, held_now = hand.gone(), False
            else:
                found = hand.take(control, value)
                held_now = value > 0 if control == DEAD else held
            moves = [each for each in found if isinstance(each, Steps | Act | Speed | Spindle) and each not in ENDS]
            self.assertFalse(moves and (not held or stopped), "moved without the dead man")
            if held and not held_now and not stopped:
                self.assertIn(LetGo(), found)
            held = held_now
            stopped = held and (stopped or Stop() in found)
            self.assertEqual(hand.held, held and not stopped)
        self.assertEqual(hand.gone(), [LetGo()])

    def test_stop_needs_no_dead_man_and_what_is_turned_without_him_is_said(self) -> None:
        hand = Hand(PENDANT)
        self.assertEqual(hand.take(STOP, 1), [Stop()])
        self.assertEqual(hand.take(WHEEL, -3), [Unheld(WHEEL)])
        hand.take(DEAD, 1)
        self.assertEqual(hand.take(WHEEL, -3), [Steps("X", -3)])
        self.assertEqual(hand.take(STICK, 0.05), [])
        self.assertEqual(hand.take(STICK, 1), [Speed("Y", 1.0)])
        self.assertEqual(hand.take(STICK, 0.0), [Speed("Y", 0.0)])
        self.assertEqual(hand.take(DEAD, 0), [LetGo()])
        self.assertEqual(Hand(DeviceProfile(1, 2)).take(WHEEL, 1), [], "nothing is assigned at first")

    def test_after_a_stop_the_dead_man_is_let_go_of_first(self) -> None:
        """A stick that is away from its middle trembles: it moved the axis again at once."""
        for stops in (lambda hand: hand.take(STOP, 1), lambda hand: hand.stop()):
            hand = Hand(PENDANT)
            hand.take(DEAD, 1)
            self.assertEqual(hand.take(STICK, 1), [Speed("Y", 1.0)])
            stops(hand)
            self.assertEqual((hand.held, hand.stopped), (False, True))
            self.assertEqual(hand.take(STICK, 0.99), [Unheld(STICK)])
            self.assertEqual(hand.take(DEAD, 1), [], "a button that says again that it is down was not let go of")
            self.assertEqual(hand.take(WHEEL, 1), [Unheld(WHEEL)])
            hand.take(DEAD, 0)
            hand.take(DEAD, 1)
            self.assertEqual(hand.take(STICK, 1), [Speed("Y", 1.0)])

    def test_the_spindle_turns_by_a_stick_or_by_the_detents_of_a_knob_while_he_is_held(self) -> None:
        hand = Hand(PENDANT)
        self.assertEqual((hand.take(SPIN, 1), hand.take(KNOB, 1)), ([Unheld(SPIN)], [Unheld(KNOB)]))
        hand.take(DEAD, 1)
        self.assertEqual((hand.take(SPIN, -1), hand.take(SPIN, 0)), ([Spindle(to=-1.0)], [Spindle(to=0.0)]))
        self.assertEqual(hand.take(KNOB, 2), [Spindle(by=0.1)])
        self.assertEqual(hand.take(DEAD, 0), [LetGo()])

    def test_the_feed_of_a_program_is_turned_without_a_dead_man(self) -> None:
        knob = PENDANT.with_one(WHEEL, Assigned(Does.FEED)).with_one(STICK, Assigned(Does.FEED))
        self.assertEqual(Hand(knob).take(WHEEL, 2), [Feed(by=0.1)])
        self.assertEqual(Hand(knob).take(STICK, 0.0), [Feed(to=0.5)])


class Kept(unittest.TestCase):
    @given(profiles())
    def test_a_profile_is_read_back_whole(self, profile: DeviceProfile) -> None:
        self.assertEqual(profile_from(profile_table(profile)), profile)

    @given(st.floats(-1, 1), st.floats(0, 0.9), st.floats(0.1, 5))
    def test_a_stick_rises_from_its_dead_zone_to_its_end(self, way: float, zone: float, curve: float) -> None:
        profile = DeviceProfile(1, 2, dead_zone=zone, curve=curve)
        share = profile.share(way)
        self.assertEqual(profile.share(-way), -share)
        self.assertEqual(share == 0 or abs(way) > zone, True)
        self.assertLessEqual(abs(share), 1)
        self.assertEqual(abs(profile.share(1)), 1)
        self.assertGreaterEqual(abs(profile.share(min(1.0, abs(way) + 0.1))), abs(share) - 1e-12)

    def test_what_does_not_suit_is_refused(self) -> None:
        for does, control in ((Does.DEAD_MAN, WHEEL), (Does.STEP, STICK), (Does.SPEED, DEAD)):
            with self.assertRaises(Refusal):
                PENDANT.with_one(control, Assigned(does))
        for text in ("wheel", "lever 3", "wheel x", ""):
            with self.assertRaises(Refusal):
                control_from(text)


if __name__ == "__main__":
    unittest.main()
