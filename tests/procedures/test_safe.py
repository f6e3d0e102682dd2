"""Going to a place: an endless axis by the shorter way, once more where it was heard late, or a sentence."""

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
    """An endless axis that goes where it is told, or beside it. heard: by how much another place is heard at first."""

    def __init__(self, stands: float, *errors: float, heard: float = 0.0) -> None:
        self.machine = self.in_force = Machine(("C",), {at(0, "axis.kind"): "endless"})
        self.truly, self.heard, self.errors, self.moves = stands, heard, list(errors), list[float]()
        self.loop = SimpleNamespace(now=itertools.count().__next__)  # s, one more with each look

    @property
    def axes(self) -> tuple[AxisState, ...]:
        return (AxisState(position=(self.truly + self.heard) % 360),)

    def move(self, _slot: int, distance: float, _speed: float) -> Any:
        self.moves.append(distance)
        self.truly += distance + (self.errors.pop(0) if self.errors else 0.0)
        self.heard = 0.0
        return lambda: True

    def go(self, place: float) -> None:
        for ready in go_to(self, self, 0, place, 100.0):  # type: ignore[arg-type]
            assert ready() or ready()


class Going(unittest.TestCase):
    @given(st.floats(0, 359), st.sampled_from((0.0, 90.0, 180.0, 270.0)))
    def test_by_the_shorter_way_and_a_turn_beside_is_the_same_place(self, stands: float, place: float) -> None:
        table = Table(stands)
        table.go(place)
        self.assertAlmostEqual((table.truly - place + 180) % 360, 180, 6)
        self.assertTrue(all(abs(way) <= 180 + 1e-9 for way in table.moves))

    def test_a_hair_below_zero_is_zero(self) -> None:
        table = Table(359.9999)
        table.go(0.0)
        self.assertEqual(table.moves, [])

    def test_what_was_heard_late_is_mended_and_what_stays_beside_is_said(self) -> None:
        late = Table(90.0, heard=-5.0)
        late.go(180.0)
        self.assertEqual(late.moves, [95.0, -5.0])
        with self.assertRaises(Trouble) as caught:
            Table(90.0, 3.0, 3.0).go(180.0)
        self.assertIn("was sent to 180", caught.exception.result.words)


if __name__ == "__main__":
    unittest.main()
