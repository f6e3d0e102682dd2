"""What the link tells, and how it reads a controller's words."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from idler.core.errors import IdlerError, Refusal
from idler.core.profile import cia402 as c
from idler.core.profile.cia402 import State
from idler.core.profile.objects import PRODUCT
from idler.core.profile.pdo import PdoMap
from idler.link.errors import LinkError, LinkLost, NobodyAnswers, NotAllowedNow, Overtaken, WriteRefused
from idler.link.events import AxisState, Identity, Progress


class Axes(unittest.TestCase):
    def test_a_statusword_in_words(self) -> None:
        axis = AxisState(0x0237 | c.HOMED | c.MOVING, 12.5, -600.0, c.INPUT_HOME)
        self.assertIs(axis.state, State.ENABLED)
        self.assertTrue(axis.homed and axis.moving and axis.home_made)
        self.assertFalse(axis.at_limit or axis.stop_pressed)
        self.assertTrue(AxisState(0, inputs=c.INPUT_STOP).stop_pressed)
        self.assertEqual([AxisState(0, inputs=bits).limit_made for bits in (0, 1, 2)], ["", "low", "high"])

    @given(st.integers(0, 0xFFFF))
    def test_every_word_is_some_state(self, word: int) -> None:
        self.assertIn(State.of(word), State)

    @given(st.integers(-(2**31), 2**31 - 1))
    def test_raw_positions_and_speeds_come_back(self, raw: int) -> None:
        self.assertEqual(c.raw_position(c.position_from(raw)), raw)
        self.assertEqual(c.raw_speed(c.speed_from(raw)), raw)


class Words(unittest.TestCase):
    def test_errors_are_one_family_with_sentences(self) -> None:
        for kind in (LinkLost, NobodyAnswers, NotAllowedNow, Overtaken, WriteRefused):
            self.assertTrue(issubclass(kind, LinkError) and issubclass(kind, IdlerError))
            self.assertEqual(kind("A sentence.").sentence, "A sentence.")

    def test_a_refusal_names_part_value_bound_and_way_out(self) -> None:
        why = Refusal("X top speed", "9 mm/min", "is too small", "from 10 mm/min", "type more")
        self.assertEqual(why.sentence, "X top speed: 9 mm/min is too small. From 10 mm/min. Type more.")
        self.assertEqual(Refusal("X", "", "is empty").sentence, "X: is empty.")

    def test_progress_and_identity(self) -> None:
        self.assertEqual(Progress("restart", 1, 2).words, "restarting the controller, 1 of 2")
        ours = Identity("can0", 5, "a", "b", "c", 0, PRODUCT, 1, 7, ("X",), PdoMap.usual(5, 1), 126)
        self.assertTrue(ours.is_ours)
        self.assertFalse(Identity("can0", 5, "a", "b", "c", 0, 1, 1, 7, ("X",), ours.map, 126).is_ours)
