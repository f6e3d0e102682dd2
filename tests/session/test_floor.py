"""The one thing that runs: who asks is told what it is, and for how long still."""

from __future__ import annotations

import unittest

from idler.session.floor import Floor


class Running(unittest.TestCase):
    def setUp(self) -> None:
        self.now = 100.0
        self.floor, self.owner = Floor(lambda: self.now), object()

    def test_what_is_left_is_said_while_it_is_known_and_then_what_is_gone(self) -> None:
        self.floor.take(self.owner, "the homing of X", 75.0)
        self.assertEqual(self.floor.time_words, "1 min 15 s left")
        self.now += 40
        self.floor.take(self.owner, "the homing of X", 75.0)  # after a question it goes on, and does not begin anew
        self.assertEqual(self.floor.time_words, "35 s left")
        self.now += 40
        self.assertEqual(self.floor.time_words, "for 1 min 20 s")

    def test_of_something_whose_time_nobody_knows(self) -> None:
        self.floor.take(self.owner, "the touch round")
        self.now += 7
        self.assertEqual(self.floor.time_words, "for 7 s")
        self.floor.leave(self.owner)
        self.assertEqual(self.floor.time_words, "")

    def test_another_one_is_refused_and_begins_anew_afterwards(self) -> None:
        self.floor.take(self.owner, "the homing of X", 10.0)
        other = object()
        self.assertIn("The homing of X is running", self.floor.obstacle(other))
        self.floor.leave(other)  # whose it is not
        self.assertEqual(self.floor.words, "the homing of X")
        self.now += 5
        self.floor.leave(self.owner)
        self.floor.take(other, "a move", 10.0)
        self.assertEqual(self.floor.time_words, "10 s left")
