"""What an input is at rest: learnt from what was heard of it, and never from what was not heard yet."""

from __future__ import annotations

from unittest import mock

import numpy as np

from idler.core.machine import Address
from idler.core.profile.edges import EdgeBlock
from idler.core.values.roles import InputRole
from idler.core.wiring import Duty
from idler.link.trace import Trace
from idler.procedures.wiring.learn import LearnRun
from tests.procedures.test_engine import EngineCase

INPUTS, STOP = 12, 0
AT_REST = 1 << STOP  # the stop's contact is closed, all others are open


class Rest(EngineCase):
    """A controller's trace, fed by hand."""

    def setUp(self) -> None:
        super().setUp()
        self.trace, self.edges = Trace(), 0
        self.enterContext(mock.patch.object(type(self.session), "connected", True))
        self.enterContext(mock.patch.object(type(self.session), "trace", self.trace))
        self.learning = LearnRun(self.session)
        self.addCleanup(self.learning.stop, "")

    def heard(self, ms: int, *edges: tuple[int, int], lost: int = 0) -> None:
        """One block that was read at `ms`; edges: input and level, at that time."""
        slots, levels = zip(*edges, strict=True) if edges else ((), ())
        self.edges += lost
        times = np.full(len(edges), ms * 1000, np.int64)
        block = EdgeBlock(self.edges, ms * 1000, times, np.array(slots, int), np.array(levels, int))
        self.trace.take(block, AT_REST)
        self.edges += len(edges)
        self.learning._seen()

    def learnt(self) -> object:
        touch = self.learning.touches[0]
        return touch.input, touch.closed

    def test_nothing_is_known_of_an_input_before_the_first_block(self) -> None:
        self.trace.begin(INPUTS)
        self.assertEqual(len(self.trace.since(0).levels), 0)
        self.learning.learn()
        self.assertFalse(self.learning.watching)
        self.heard(1000)
        self.assertTrue(self.learning.watching)
        self.heard(1500, (STOP, 0))
        self.heard(2000)
        self.assertEqual(self.learnt(), (STOP, True))

    def test_after_lost_edges_it_looks_at_every_input_anew(self) -> None:
        self.trace.begin(INPUTS)
        self.learning.learn()
        self.heard(1000)
        self.heard(1400, (STOP, 0))
        self.heard(1410, lost=5)  # its way back was among them
        self.heard(2000, (STOP, 1))
        self.heard(3000, (STOP, 0))
        self.heard(3500)
        self.assertEqual(self.learnt(), (STOP, True))
        self.learning.give(Duty(InputRole.STOP))
        self.assertEqual(self.session.machine[Address(STOP, "input.rest")], "closed")
