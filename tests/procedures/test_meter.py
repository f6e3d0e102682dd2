"""When a speed is steady: not while nothing has happened yet, and not on its way."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path
from types import SimpleNamespace
from typing import cast

from hypothesis import given
from hypothesis import strategies as st

from idler.core.spindle import Meter
from idler.core.spindle.runup import SpeedTrace
from idler.library import new_machine, open_machine
from idler.procedures.engine import Ending
from idler.procedures.spindle.meter import BEGUN_BY, SOONEST, SpeedMeter
from idler.procedures.spindle.run import SpindleRun
from idler.session.session import Session

LOOK = 0.02  # s between two looks


class ByEncoder(unittest.TestCase):
    def steady(self, speeds: dict[float, float], seconds: float = 12.0) -> tuple[float, float]:
        """When a speed is called steady, in s after it was told, and which. speeds: rpm from a moment on."""
        link = SimpleNamespace(panel=SimpleNamespace(speed=speeds[0.0]), trace=SimpleNamespace(now=1_000_000))
        meter = SpeedMeter(cast(Session, SimpleNamespace(link=link)), Meter.ENCODER)
        meter.begin(1_000_000)
        for n in range(round(seconds / LOOK)):
            now = n * LOOK
            link.trace.now = 1_000_000 + round(1e6 * now)
            link.panel.speed = next(rpm for at, rpm in sorted(speeds.items(), reverse=True) if now >= at)
            meter.look()
            if (found := meter.steady) is not None:
                return now, found
        self.fail("it never became steady")

    @given(st.floats(0.05, 3.0))
    def test_a_drive_that_takes_a_moment_is_not_measured_at_the_speed_before(self, late: float) -> None:
        at, rpm = self.steady({0.0: 1000.0, late: 2000.0})
        self.assertAlmostEqual(rpm, 2000, delta=3.1)
        self.assertGreater(at, max(SOONEST - LOOK, late))

    def test_one_that_stays_as_it_was_is_believed_in_the_end(self) -> None:
        at, rpm = self.steady({0.0: 0.0})
        self.assertEqual(rpm, 0)
        self.assertAlmostEqual(at, BEGUN_BY, delta=2 * LOOK)

    def test_a_slow_ramp_is_no_steady_speed(self) -> None:
        ramp = {n * LOOK: 1000 + 100 * n * LOOK for n in range(400)}  # 100 rpm/s for 8 s
        at, rpm = self.steady(ramp, 14)
        self.assertGreater(at, 8.0)
        self.assertAlmostEqual(rpm, max(ramp.values()), delta=5)


class Timed(unittest.TestCase):
    def test_times_that_were_not_measured_are_not_said_to_be(self) -> None:
        """A record that was begun anew on the way knows nothing of the beginning."""
        with tempfile.TemporaryDirectory() as folder:
            new_machine("mill", "verge", shelf=Path(folder))
            with open_machine("mill", Path(folder)) as mill:
                run = SpindleRun(mill.session)
                times = tuple(k / 10 for k in range(60))
                down = SpeedTrace(times, tuple(max(0.0, 6000 - 3000 * t) for t in times))
                run.traces[2] = {"up, right": SpeedTrace(times, (6000.0,) * len(times)), "down, right": down}
                got = run._timed(2)
                self.assertIs(got.end, Ending.FAILED)
                self.assertIn("The time to speed was not measured", got.words)
                self.assertEqual((got.edit, set(got.figures)), ({}, {"down"}))
                run.traces[2]["up, right"] = SpeedTrace(times, tuple(min(6000.0, 3000 * t) for t in times))
                self.assertIsNot(run._timed(2).end, Ending.FAILED)
