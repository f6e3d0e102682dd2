"""The state machine and the commands of one drive, without a wire."""

from __future__ import annotations

import unittest
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from idler.bench.objects.drive import Drive
from idler.bench.objects.told import Told
from idler.bench.rigs.rig import load
from idler.bench.world import World
from idler.core.profile import cia402 as c
from idler.core.profile.cia402 import State
from idler.core.profile.codec import image
from tests.support import X, verge

RIG = load("verge")


def told(**changes: int) -> Told:
    """What Verge's controller was told of X, by index and sub-index of the first axis."""
    raws = {
        (0x6000 + (p.index - 0x6000) % 0x800 if p.index >= 0x6000 else p.index, p.sub): raw
        for p, raw in image(verge()).items()
        if isinstance(raw, int) and (0x6000 <= p.index < 0x6800 or 0x4000 <= p.index < 0x4100)
    }
    return Told({**raws, **{(int(k[1:5], 16), int(k[6:])): v for k, v in changes.items()}})


class DriveCase(unittest.TestCase):
    def setUp(self) -> None:
        self.world = World(RIG)
        self.drive = Drive(self.world, X)
        self.tell()

    def tell(self, ceiling: float = 120_000, delay: int = 0, **changes: int) -> None:
        self.drive.configure(told(**changes), ceiling, delay)

    @property
    def ax(self):
        return self.world.firmware[X]

    def enable(self) -> None:
        for word in (c.SHUTDOWN, c.SWITCH_ON, c.ENABLE):
            self.drive.control(word)

    def step(self, distance: float, *, speed: float = 3000) -> None:
        self.drive.target_position = c.raw_position(distance)
        self.drive.profile_speed = c.raw_speed(speed)
        self.drive.control(c.ENABLE)
        self.drive.control(c.ENABLE | c.NEW_SETPOINT | c.RELATIVE | c.AT_ONCE)

    def rest(self) -> None:
        for _ in range(60_000):
            self.world.run(5)
            if not self.ax["moving"] and self.ax["mode"] == 0:
                return
        raise AssertionError("the axis did not come to rest")


class States(DriveCase):
    def test_the_way_up_and_down(self) -> None:
        seen = [self.drive.state]
        for word in (c.SHUTDOWN, c.SWITCH_ON, c.ENABLE, c.SWITCH_ON, c.SHUTDOWN, c.DISABLE_VOLTAGE):
            self.drive.control(word)
            seen.append(self.drive.state)
        up = [State.OFF, State.READY, State.SWITCHED_ON, State.ENABLED]
        self.assertEqual(seen, [*up, State.SWITCHED_ON, State.READY, State.OFF])

    def test_no_shortcut_from_off(self) -> None:
        self.drive.control(c.ENABLE)
        self.assertIs(self.drive.state, State.OFF)

    @given(
        st.lists(st.sampled_from((c.SHUTDOWN, c.SWITCH_ON, c.ENABLE, c.QUICK_STOP, c.DISABLE_VOLTAGE, c.FAULT_RESET)))
    )
    def test_whatever_is_commanded_the_statusword_tells_the_state(self, words: list[int]) -> None:
        self.setUp()
        for word in words:
            self.drive.control(word)
            self.assertIs(State.of(self.drive.status), self.drive.state)
            self.assertEqual(
                bool(self.ax["powered"]), self.drive.state in (State.SWITCHED_ON, State.ENABLED, State.QUICK_STOP)
            )

    def test_quick_stop_holds_until_enabled_again(self) -> None:
        self.enable()
        self.step(50)
        self.world.run(300)
        self.drive.control(c.QUICK_STOP)
        self.assertIs(self.drive.state, State.QUICK_STOP)
        self.rest()
        stopped = self.drive.position
        self.drive.control(c.ENABLE)
        self.world.run(500)
        self.assertEqual(self.drive.position, stopped)  # what was on its way is forgotten
        self.step(1)
        self.rest()
        self.assertAlmostEqual(c.position_from(self.drive.position - stopped), 1, delta=0.004)

    def test_a_fault_takes_power_and_home_and_is_reset_on_purpose(self) -> None:
        self.enable()
        self.ax["homed"] = 1
        self.step(-50)
        self.world.run(300)
        moved = bool(self.ax["moving"])
        self.drive.fault(0xFF01)
        self.assertIs(self.drive.state, State.FAULT)
        self.assertTrue(moved)
        self.assertFalse(self.ax["powered"] or self.ax["homed"] or self.ax["moving"])
        self.drive.control(c.FAULT_RESET)
        self.assertIs(self.drive.state, State.FAULT)  # the button is still in
        self.drive.clear_stop()
        self.drive.control(0)
        self.drive.control(c.FAULT_RESET)
        self.assertIs(self.drive.state, State.OFF)

    def test_a_fault_at_rest_keeps_home(self) -> None:
        self.enable()
        self.ax["homed"] = 1
        self.drive.fault(0xFF01)
        self.assertTrue(self.ax["homed"])

    def test_the_first_motion_waits_for_the_drive_to_wake(self) -> None:
        self.tell(delay=200)
        self.enable()
        self.step(1)
        self.world.run(199)
        self.assertEqual(self.drive.position, 0)
        self.rest()
        self.assertEqual(c.position_from(self.drive.position), 1)


class Commands(DriveCase):
    def setUp(self) -> None:
        super().setUp()
        self.enable()

    def test_the_setpoint_is_taken_once(self) -> None:
        self.step(2)
        self.assertTrue(self.drive.status & c.SETPOINT_TAKEN)
        self.drive.control(c.ENABLE | c.NEW_SETPOINT | c.RELATIVE)  # no new edge
        self.rest()
        self.drive.control(c.ENABLE)
        self.assertFalse(self.drive.status & c.SETPOINT_TAKEN)
        self.assertEqual(c.position_from(self.drive.position), 2)

    def test_an_absolute_target(self) -> None:
        self.step(3)
        self.rest()
        self.drive.target_position = c.raw_position(1.5)
        self.drive.control(c.ENABLE)
        self.drive.control(c.ENABLE | c.NEW_SETPOINT)
        self.rest()
        self.assertAlmostEqual(c.position_from(self.drive.position), 1.5, delta=0.0016)

    def test_halt_brakes_with_the_usual_deceleration(self) -> None:
        self.drive.set_mode(c.MODE_VELOCITY)
        self.drive.set_velocity(c.raw_speed(3000))
        self.drive.control(c.ENABLE)
        self.world.run(500)
        before = self.drive.position
        self.drive.control(c.ENABLE | c.HALT)
        self.world.run(300)
        self.assertAlmostEqual(c.position_from(self.drive.position - before), 50 * 50 / 250 / 2, delta=0.1)

    def test_the_mode_changes_only_at_rest(self) -> None:
        self.step(20)
        self.world.run(100)
        self.assertFalse(self.drive.set_mode(c.MODE_VELOCITY))
        self.assertFalse(self.drive.set_mode(99))
        self.rest()
        self.assertTrue(self.drive.set_mode(c.MODE_VELOCITY))

    def test_speed_is_bounded_by_value_motor_and_step_rate(self) -> None:
        for ceiling, changes, top in (
            (120_000, {}, 3000),
            (120_000, {"i6080_0": 300}, 1500),
            (8_000, {}, 1500),
        ):
            self.tell(ceiling=ceiling, **changes)
            self.assertAlmostEqual(float(self.ax["speed_limit"]) / 320 * 60, top)

    def test_counts_or_direction_that_change_lose_home(self) -> None:
        for changes in ({"i6092_1": 40_000}, {"i607E_0": 0xC0}):
            self.tell()
            self.ax["homed"] = 1
            self.tell()
            self.assertTrue(self.ax["homed"])
            self.tell(**changes)
            self.assertFalse(self.ax["homed"], changes)

    def test_reversed_sends_the_steps_the_other_way(self) -> None:
        ends = []
        for polarity in (0, 0xC0):
            self.setUp()
            self.tell(i607E_0=polarity)
            self.step(10)
            self.rest()
            ends.append(float(self.world.plant[X]["carriage"]) - 150)
            self.assertEqual(c.position_from(self.drive.position), 10)
        self.assertAlmostEqual(ends[0], -ends[1], delta=0.05)

    def test_a_step_beyond_the_end_is_shortened_or_refused(self) -> None:
        self.ax["homed"] = 1
        self.step(5)  # from 0, the highest coordinate
        self.world.run(500)
        self.assertEqual(self.drive.position, 0)
        self.assertTrue(self.drive.status & c.INTERNAL_LIMIT)
        self.step(-5)
        self.rest()
        self.assertFalse(self.drive.status & c.INTERNAL_LIMIT)
        self.tell(i4002_4=1)
        self.step(8)
        self.world.run(500)
        self.assertEqual(c.position_from(self.drive.position), -5)
        self.assertTrue(self.drive.status & c.INTERNAL_LIMIT)

    def test_home_here(self) -> None:
        self.step(3)
        self.rest()
        self.drive.set_mode(c.MODE_HOMING)
        self.tell(o6098_0=37)
        self.drive.home_coordinate = c.raw_position(2)
        self.drive.control(c.ENABLE)
        self.drive.control(c.ENABLE | c.NEW_SETPOINT)
        self.assertEqual(c.position_from(self.drive.position), 2)
        self.assertTrue(self.drive.status & c.HOMED)

    def test_events_tell_the_first_step_and_the_first_slower_one(self) -> None:
        self.step(10)
        events = []
        for _ in range(700):
            events += list(self.world.run(1))
        self.assertEqual([int(e["kind"]) for e in events], [1, 2])
        ticks = [int(e["tick"]) for e in events]
        self.assertTrue(all(a < b for a, b in pairwise(ticks)))
