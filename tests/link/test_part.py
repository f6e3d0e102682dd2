"""What a plain part owes: it is asked no faster than it answers, and one that was not asked owes nothing."""

from __future__ import annotations

import struct
import unittest
from unittest import mock

from idler.core.profile import cia402 as c
from idler.link.plain import part as parts
from idler.link.plain.part import LONGEST_LOOK, UNANSWERED, Part

STATUS, PLACE = (c.STATUS, 0), (c.POSITION, 0)


class Asked(unittest.TestCase):
    def setUp(self) -> None:
        self.now = 50.0
        clock = mock.patch.object(parts.time, "monotonic", lambda: self.now)
        clock.start()
        self.addCleanup(clock.stop)
        self.sent: list[tuple[int, int]] = []  # objects that were asked for
        line = mock.Mock()
        line.send = lambda _, data: self.sent.append((int.from_bytes(data[1:3], "little"), data[3]))
        self.part = Part(line, 5, "node 5", lambda _: None, 1.0)
        self.seen: list[
            tuple[tuple[int, int], float]
        ] = []  # what was answered, and when it is said to have been asked for
        self.part.seen = lambda where, _data, asked, _now: self.seen.append((where, asked))
        self.part.watch((STATUS, PLACE))

    def look(self, seconds: float = 0.0) -> None:
        self.now += seconds
        self.part.look_on(self.now)

    def answers(self, where: tuple[int, int]) -> None:
        self.part.answer(struct.pack("<BHBI", 0x43, *where, 0), self.now)

    def test_each_answer_to_what_it_was_only_told_is_nobodys(self) -> None:
        """Told twice, it answers twice: the second must not be taken for the answer to what is asked then."""
        handed: list[bytes] = []
        self.part._line.answer = lambda _, data: handed.append(data)  # type: ignore[method-assign]
        self.part.say((0x1A01, 0), 0, 1)
        self.part.say((0x1A01, 0), 2, 1)
        taken = struct.pack("<BHBI", 0x60, 0x1A01, 0, 0)
        for _ in range(2):
            self.part.answer(taken, self.now)
        self.assertEqual(handed, [])
        self.assertFalse(self.part.behind)
        self.part.answer(taken, self.now)
        self.assertEqual(handed, [taken])

    def test_a_computer_that_was_held_up_accuses_nobody(self) -> None:
        self.assertEqual(self.part.unheard, 0)
        self.now += 10
        self.assertEqual(self.part.unheard, 0)

    def test_who_was_asked_owes_an_answer_until_it_comes(self) -> None:
        self.look()
        self.now += 0.4
        self.assertAlmostEqual(self.part.unheard, 0.4)
        self.answers(STATUS)
        self.assertAlmostEqual(self.part.unheard, 0.0)

    def test_one_that_is_slow_is_not_asked_again_and_again(self) -> None:
        for _ in range(1000):
            self.look(0.01)
        self.assertLess(len(self.sent), 10 / LONGEST_LOOK + 10)

    def test_a_late_answer_is_of_the_time_when_it_was_asked_for_first(self) -> None:
        self.look()
        first = self.now
        self.look(UNANSWERED + 0.01)
        self.assertEqual(self.sent, [STATUS, STATUS])
        self.now += 0.01
        self.answers(STATUS)
        self.assertEqual(self.seen, [(STATUS, first)])

    def test_a_look_that_was_lost_makes_the_later_ones_no_older(self) -> None:
        """It answers in turn: what was asked before something that it has answered is done with."""
        self.look()
        self.look(UNANSWERED + 0.01)  # the first was lost
        for _ in range(4):
            for where in (STATUS, PLACE):
                self.now += 0.005
                self.answers(where)
                self.look(0.05)
        for where, asked in self.seen[-2:]:
            self.assertLess(self.now - asked, 0.2, where)
