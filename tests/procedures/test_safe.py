"""Going to a place: from the side where it stood, or by so much; of an endless axis a turn beside is the same place."""

from __future__ import annotations

import itertools
import unittest
from types import SimpleNamespace
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from idler.core.machine import Machine
from idler.link.events import AxisState
from idler.procedures.engine import Trouble
from idler.procedures.safe import go_to
from tests.support import at


class Table:
    """An endless axis that goes where it is told, or beside it."""

    def __init__(self, stands: float, *errors: float) -> None:
        self.machine = self.in_force = Machine(("C",), {at(0, "axis.kind"): "endless"})
        self.truly, self.errors, self.moves = stands, list(errors), list[float]()
        self.loop = SimpleNamespace(now=itertools.count().__next__)  # s, one more with each look

    @property
    def axes(self) -> tuple[AxisState, ...]:
        return (AxisState(position=self.truly % 360),)

    def move(self, _slot: int, distance: float, _speed: float) -> Any:
        self.moves.append(distance)
        self.truly += distance + (self.errors.pop(0) if self.errors else 0.0)
        return lambda: True

    def go(self, place: float, by: float | None = None) -> None:
        for ready in go_to(self, self, 0, place, 100.0, by=by):  # type: ignore[arg-type]
            assert ready() or ready()


class Going(unittest.TestCase):
    @given(st.floats(0, 359), st.sampled_from((0.0, 90.0, 180.0, 270.0)))
    def test_it_comes_from_the_side_where_it_stood_and_a_turn_beside_is_the_same_place(
        self, stands: float, place: float
    ) -> None:
        table = Table(stands)
        table.go(place)
        self.assertAlmostEqual((table.truly - place + 180) % 360, 180, 2)
        self.assertTrue(all(way == place - stands for way in table.moves))

    def test_a_hair_below_zero_is_zero(self) -> None:
        table = Table(359.9999)
        table.go(0.0)
        self.assertEqual(table.moves, [])

    def test_by_so_much_is_not_shortened(self) -> None:
        for by in (270.0, 360.0, -720.0):
            table = Table(10.0)
            table.go(10.0 + by, by=by)
            self.assertEqual(table.moves, [by])

    def test_what_stays_beside_is_said_and_not_moved_again(self) -> None:
        table = Table(90.0, 3.0)
        with self.assertRaises(Trouble) as caught:
            table.go(180.0)
        self.assertIn("was sent to 180", caught.exception.result.words)
        self.assertEqual(len(table.moves), 1)


if __name__ == "__main__":
    unittest.main()
