"""Which way a spindle turned, and what turning it by hand says, as pure sums."""

from __future__ import annotations

import unittest
from fractions import Fraction

from idler.core.machine import Address, Machine
from idler.core.spindle import ranges
from idler.core.spindle.way import Look, hand_verdict, look_speeds, turned_round, way_verdict, ways_verdict
from idler.core.values.parameter import Value
from tests.support import verge

COUNTS, BACKWARDS = Address(None, "spindle.counts"), Address(None, "spindle.counts_reversed")


def with_roles(**roles: str) -> Machine:
    """Verge with these roles at its outputs, by number; no other output is of the spindle."""
    none: dict[Address, Value] = {Address(slot, "output.role"): "none" for slot in range(verge().outputs)}
    return verge().with_values({**none, **{Address(int(n[1:]), "output.role"): role for n, role in roles.items()}})


class Seen(unittest.TestCase):
    def test_it_is_held_only_where_eyes_and_encoder_agree_with_what_was_asked(self) -> None:
        for counts, asked, seen, measured, held in (
            (0, 1, 1, 0, True), (0, -1, -1, 0, True), (0, 1, -1, 0, False), (0, 1, 0, 0, False),
            (4096, 1, 1, 300, True), (4096, 1, 1, -300, False), (4096, -1, -1, -300, True), (4096, -1, -1, 300, False),
            (4096, 1, -1, 300, False), (4096, 1, 1, 0, False),
        ):  # fmt: skip
            machine = verge().with_values({COUNTS: counts})
            found = way_verdict(machine, asked, seen, measured, 300)
            self.assertIs(found.held, held, (counts, asked, seen, measured))
            self.assertFalse(found.held and found.edit)

    def test_what_should_change_its_way_and_does_not_is_told_from_wires_that_are_exchanged(self) -> None:
        both, one = with_roles(o0="spindle_on", o1="direction"), with_roles(o2="turn_right")
        for machine, seen, held, edits, says in (
            (both, {1: 1, -1: -1}, True, 0, "it did"), (both, {1: -1, -1: 1}, False, 1, "wrong way"),
            (both, {1: 1, -1: 1}, False, 0, "does nothing"), (both, {1: -1, -1: -1}, False, 0, "does nothing"),
            (both, {1: 1, -1: 0}, False, 0, "the output that turns it left"),
            (both, {1: 0, -1: -1}, False, 2, "at each other's terminals"), (both, {1: 0, -1: 0}, False, 0, "Nothing was seen"),
            (both, {1: 0}, False, 0, "Nothing was seen"), (both, {1: 1}, False, 0, "See it turn left, too"),
            (one, {1: 1}, True, 0, "it did"),
        ):  # fmt: skip
            with self.subTest(seen=seen):
                found = ways_verdict(machine, {asked: Look(way, 0.0, 300.0) for asked, way in seen.items()})
                self.assertEqual((found.held, len(found.edit)), (held, edits))
                self.assertIn(says, found.words)
                self.assertIs(found.unseen, "See it" in says)

    def test_it_is_looked_at_slowly_first_and_faster_where_its_speed_can_be_told(self) -> None:
        leveled = with_roles(o0="spindle_on", o8="spindle_level")
        for machine, speeds in (
            (leveled, (150, 333)),
            (leveled.with_values({Address(None, "spindle.kind"): "relay"}), (150,)),
        ):
            self.assertEqual(look_speeds(machine, ranges(machine)[0]), speeds)
        slow = leveled.with_values({Address(0, "range.low"): Fraction(400)})
        self.assertEqual(look_speeds(slow, ranges(slow)[0]), (400,))

    def test_what_is_wrong_is_proposed_to_be_turned_round(self) -> None:
        machine = with_roles(o1="direction")
        self.assertEqual(way_verdict(machine, 1, -1, 0, 300).edit, {Address(1, "output.inverted"): True})
        counted = verge().with_values({COUNTS: 4096})
        self.assertEqual(way_verdict(counted, 1, 1, -300, 300).edit, {BACKWARDS: True})
        self.assertIn("4 times", way_verdict(counted, 1, 1, 1200, 300).words)

    def test_relays_are_swapped_and_what_has_neither_needs_its_wires_swapped(self) -> None:
        relays = with_roles(o2="turn_right", o3="turn_left")
        edit = turned_round(relays)
        self.assertEqual(edit, {Address(2, "output.role"): "turn_left", Address(3, "output.role"): "turn_right"})
        self.assertEqual(turned_round(relays.with_values(edit)), {where: relays[where] for where in edit})
        alone = with_roles(o2="turn_right")
        found = way_verdict(alone, 1, -1, 0, 300)
        self.assertEqual((found.held, dict(found.edit)), (False, {}))
        self.assertIn("swap two wires", found.words)


class ByHand(unittest.TestCase):
    def test_counts_and_sign_are_proposed_where_they_are_others(self) -> None:
        machine = verge().with_values({COUNTS: 0})
        self.assertEqual(hand_verdict(machine, 1440, 1).edit, {COUNTS: 1440})
        self.assertEqual(hand_verdict(machine, -1440, 1).edit, {COUNTS: 1440, BACKWARDS: True})
        told = machine.with_values({COUNTS: 1440, BACKWARDS: True})
        self.assertEqual(hand_verdict(told, 1440, 1).edit, {})
        self.assertEqual(hand_verdict(told, -1440, 1).edit, {BACKWARDS: False})

    def test_nothing_is_proposed_where_two_fit_or_nothing_was_counted(self) -> None:
        machine = verge()
        self.assertEqual((hand_verdict(machine, 2024, 1).again, hand_verdict(machine, 2024, 1).edit), (5, {}))
        self.assertEqual((hand_verdict(machine, 3, 1).counted, hand_verdict(machine, 3, 1).again), (None, 0))
