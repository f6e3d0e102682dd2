"""Whether a motor takes torque, looked at in the beginning of each motion."""

from __future__ import annotations

import unittest
from types import SimpleNamespace
from typing import Any

from idler.session.current import NOTHING, STANDS, CurrentWatch
from tests.support import X, at, verge


class Watched(unittest.TestCase):
    def setUp(self) -> None:
        self.machine, self.moving, self.read, self.dead = verge(), True, [(0.0, 0.3)], list[int]()
        link = SimpleNamespace(efforts=lambda slot, since: [share for _, share in self.read] if slot == X else [],
                               effort_places=lambda slot, since: self.read if slot == X else [])  # fmt: skip
        self.session: Any = SimpleNamespace(
            powered=True, machine=self.machine, in_force=self.machine, link=link, loop=SimpleNamespace(now=lambda: 1.0),
            tell=lambda *_: None, give_up=lambda slot, _words: self.dead.append(slot),
        )  # fmt: skip
        self.watch = CurrentWatch(self.session)
        self.look(self.read)  # its torque is seen once
        self.assertTrue(self.watch.seen(X))

    def look(self, read: list[tuple[float, float]], *, moving: bool = True) -> list[int]:
        """read: places with the shares of torque of this motion; who was told to be dead until now."""
        self.read = read
        self.session.axes = [SimpleNamespace(moving=moving and slot == X) for slot in range(len(self.machine.axes))]
        self.watch.look()
        return self.dead

    def test_one_that_goes_without_torque_is_dead_and_said_to_be_once(self) -> None:
        self.look([], moving=False)
        gone = [(float(n), 0.0) for n in range(NOTHING)]
        self.assertEqual(self.look(gone[:-1]), [])
        self.assertEqual(self.look(gone), [X])
        self.assertEqual(self.look([*gone, (9.0, 0.0)]), [X])

    def test_one_that_has_torque_or_stands_in_a_path_or_tells_its_place_itself_is_not(self) -> None:
        self.look([], moving=False)
        self.assertEqual(self.look([(0.0, 0.0)] * 2 * NOTHING), [], "it stands, and others of its path go")
        self.assertEqual(self.look([(0.0, 0.0)] * NOTHING + [(1.0, 0.2)]), [])
        self.assertEqual(
            self.look([(float(n), 0.0) for n in range(NOTHING)]), [], "the beginning is judged, and no end"
        )
        self.look([], moving=False)
        standing = [(0.0, 0.0)] * STANDS
        self.assertEqual(self.look(standing), [])
        self.assertEqual(self.look([*standing, (9.0, 0.0)]), [], "it is not asked about any more")
        self.look([], moving=False)
        self.session.in_force = self.machine.with_values({at(X, "loop.measured"): True})
        self.assertEqual(self.look([(float(n), 0.0) for n in range(NOTHING)]), [])
