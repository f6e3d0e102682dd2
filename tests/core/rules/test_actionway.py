"""The way of an own action: where it goes, what of it is not known, and where it leaves the travel."""

from __future__ import annotations

import unittest
from itertools import pairwise

import numpy as np

from idler.core.actions.rehearsal import MOST_LINES, rehearse
from idler.core.actions.text import one_line, read
from idler.core.machine import Machine
from idler.core.rules.actions import actions_of
from idler.core.rules.actionway import ActionWay, way_of
from tests.core.program.machines import mill
from tests.support import at

STANDS = {"X": 100.0, "Y": 50.0, "Z": 0.0, "A": 0.0}


class Ways(unittest.TestCase):
    def way(
        self, text: str, stands: dict[str, float] | None = None, zeros: dict[str, float] | None = None
    ) -> ActionWay:
        machine: Machine = mill().with_values({at(None, "actions.text"): one_line(read(text))})
        found = way_of(machine, actions_of(machine)[0], STANDS if stands is None else stands, zeros or {})
        assert found is not None
        return found

    def places(self, found: ActionWay) -> list[list[float]]:
        places = np.round(found.strokes.points[:, :3], 3).tolist()
        return [place for before, place in pairwise([None, *places]) if place != before]

    def test_its_axes_go_one_after_the_other_from_where_they_stand(self) -> None:
        found = self.way('action "a" { move machine X 120 mm Y 60 mm; move by X -5 mm; probe Z -10 mm at 60 mm/min; }')
        corners = [[100, 50, 0], [120, 50, 0], [120, 60, 0], [115, 60, 0], [115, 60, -10]]
        self.assertEqual(self.places(found), corners)
        self.assertEqual((found.unknown, found.words), ((), ""))

    def test_of_a_branch_its_first_side_and_what_it_calls(self) -> None:
        found = self.way(
            'action "a" { ask "so?" { call "b"; } else { move machine X 1 mm; } move work X 3 mm; }'
            ' action "b" { move machine X 110 mm; call "a"; }', zeros={"X": 20.0},
        )  # fmt: skip
        self.assertEqual([place[0] for place in self.places(found)], [100, 110, 23])

    def test_where_nobody_knows_from_where_no_way_is_drawn(self) -> None:
        found = self.way(
            'action "a" { move by X 5 mm; move work Y 5 mm; move machine Z -5 mm; move machine Z -9 mm; }', {}
        )
        self.assertEqual(found.unknown, ("X", "Y"))
        self.assertIn("X and Y", found.words)
        self.assertEqual([place[2] for place in self.places(found)], [-5, -9])

    def test_calls_that_multiply_are_followed_so_far_only(self) -> None:
        chain = pairwise("abcdefghij")  # 9⁹ calls, more than anybody waits for
        text = " ".join(f'action "{name}" {{' + f' call "{following}";' * 9 + " }" for name, following in chain)
        machine = mill().with_values({at(None, "actions.text"): one_line(read(text + ' action "j" { say "so"; }'))})
        first = actions_of(machine)[0]
        self.assertIsNone(way_of(machine, first, STANDS, {}))
        self.assertEqual(len(rehearse(first, actions_of(machine))), MOST_LINES)

    def test_beyond_an_end_is_said_and_what_moves_nothing_has_no_way(self) -> None:
        found = self.way('action "a" { move by X 900 mm; }')
        self.assertIn("beyond its high end", found.words)
        machine = mill().with_values({at(None, "actions.text"): 'action "s" { say "hello"; }'})
        self.assertIsNone(way_of(machine, actions_of(machine)[0], STANDS, {}))


if __name__ == "__main__":
    unittest.main()
