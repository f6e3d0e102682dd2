"""Inputs with their filters, outputs with their interlocks, and what drivers make of bad signals: firmware and rig together."""

from __future__ import annotations

import unittest
from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from idler.bench.rigs.rig import load
from idler.bench.state import AT_VELOCITY
from idler.bench.world import World
from idler.core.values.roles import InputRole, OutputRole

RIG = load("verge")
COUNTS = 400.0  # per mm: what Verge's X truly needs
STOP, X_HOME, GUARD, Z_TROUBLE, LOOSE_END = 0, 1, 3, 8, 10
RUN, LEVEL = 0, 8


class WorldCase(unittest.TestCase):
    def setUp(self) -> None:
        self.world = World(RIG, seed=5)
        self.ctl = self.world.controller
        self.ctl["pulse_width"], self.ctl["direction_setup"] = 2.5, 5
        self.world.run(10)

    def role(self, slot: int, role: InputRole, *, axis: int = -1, rest: int = 1, filter_us: int = 200) -> None:
        self.world.set_input(slot, role.raw, axis, rest, filter_us)

    def press(self, slot: int, held: bool = True, ticks: int = 30) -> None:
        self.world.wires[slot]["held"] = held
        self.world.run(ticks)

    def power(self, axis: int = 0, speed: float = 20.0) -> None:
        """An axis that runs to minus."""
        self.world.firmware["powered"][: self.world.axes] = 1
        self.world.firmware["output"][:4] = range(4)
        ax = self.world.firmware[axis]
        for name, value in (
            ("counts_per_unit", COUNTS), ("step_ceiling", 120e3), ("acceleration", 250 * COUNTS),
            ("deceleration", 250 * COUNTS), ("stop_deceleration", 600 * COUNTS), ("speed_limit", 50 * COUNTS),
            ("target_velocity", -speed * COUNTS), ("move_speed", speed * COUNTS), ("mode", AT_VELOCITY), ("fresh", 1),
        ):  # fmt: skip
            ax[name] = value
        self.world.run(400)

    def spindle(self, level: int = 600) -> None:
        self.world.outputs[RUN]["role"] = OutputRole.SPINDLE_ON.raw
        self.world.outputs[LEVEL]["role"], self.world.outputs[LEVEL]["level_kind"] = OutputRole.SPINDLE_LEVEL.raw, 1
        self.ctl["engaged_told"], self.ctl["wanted"], self.ctl["asked_level"] = 3, 1, level

    def edges(self) -> list[tuple[int, int, int]]:
        _, found = self.world.edges_from(0, 100_000)
        return [(int(e["time"]), int(e["input"]), int(e["closed"])) for e in found]


class FilterOfFirmware(WorldCase):
    """Pulses of chosen widths on a wire, through the whole stepping code, to a role."""

    def pulse(self, slot: int, *edges: int) -> None:
        """Edges so many µs from now."""
        wire = self.world.wires[slot]
        for place, after in enumerate(edges):
            wire["pending"][place] = self.world.now_us + after
        wire["waiting"] = len(edges)
        self.world.run(max(edges) // 1000 + 2)

    @given(
        st.integers(1, 30_000),
        st.lists(st.tuples(st.integers(0, 999), st.integers(1, 60_000)), min_size=1, max_size=6),
        st.sampled_from([(STOP, 1), (LOOSE_END, 0)]),
    )
    def test_a_pulse_shorter_than_the_filter_never_reaches_the_role_and_a_longer_one_always_does(
        self, filter_us: int, pulses: list[tuple[int, int]], wire: tuple[int, int]
    ) -> None:
        slot, rest = wire
        self.setUp()
        self.role(slot, InputRole.STOP, rest=rest, filter_us=filter_us)
        for start, width in pulses:
            self.world.run(filter_us // 1000 + 2)  # long enough at rest before each
            self.ctl["stop_hit"] = 0
            self.pulse(slot, start, start + width)
            self.assertEqual(bool(self.ctl["stop_hit"]), width >= filter_us, (filter_us, start, width))
            self.world.run(filter_us // 1000 + 2)
            self.assertFalse(self.ctl["stop"])

    @given(st.lists(st.integers(1, 4999), min_size=2, max_size=20).filter(lambda gaps: len(gaps) % 2 == 0))
    def test_edges_that_never_rest_for_so_long_change_nothing(self, gaps: list[int]) -> None:
        self.setUp()
        self.role(STOP, InputRole.STOP, filter_us=5000)
        self.pulse(STOP, *(sum(gaps[: k + 1]) for k in range(len(gaps))))
        self.assertFalse(self.ctl["stop_hit"])
        self.assertTrue(self.world.inputs[STOP]["level"])


class Wires(WorldCase):
    def test_a_contact_bounces_and_ends_where_it_should(self) -> None:
        counts = []
        for _ in range(40):
            before = len(self.edges())
            self.press(STOP)
            mine = [closed for _, slot, closed in self.edges()[before:] if slot == STOP]
            self.assertEqual((mine[0], mine[-1]), (0, 0))
            self.assertTrue(all(a != b for a, b in pairwise(mine)))
            counts.append(len(mine))
            self.press(STOP, False)
        self.assertGreater(max(counts), 3)
        self.assertEqual(self.world.wires[STOP]["level"], 1)

    def test_edges_are_written_down_in_order_of_time_and_to_the_microsecond(self) -> None:
        self.spindle(1000)
        self.world.run(4000)
        times = [time for time, _, _ in self.edges()]
        self.assertEqual(times, sorted(times))
        self.assertGreater(len({time % 1000 for time in times}), 50)

    def test_noise_goes_with_the_spindle_and_its_widths_scatter_up_to_a_longest(self) -> None:
        self.world.run(5000)
        self.assertEqual(self.edges(), [])
        self.spindle(1000)
        self.world.run(20_000)
        mine = [(time, closed) for time, slot, closed in self.edges() if slot == X_HOME]
        widths = [b - a for (a, low), (b, _) in pairwise(mine) if not low]
        self.assertAlmostEqual(len(widths) / 19.3, 45, delta=8)
        self.assertLessEqual(max(widths), 740)
        self.assertGreater(max(widths), 600)
        self.assertAlmostEqual(float(np.mean(widths)), 158, delta=25)

    def test_a_short_pulse_is_written_down_whoever_looks_when(self) -> None:
        self.spindle(1000)
        self.world.run(20_000)
        mine = [(time, closed) for time, slot, closed in self.edges() if slot == X_HOME]
        self.assertLess(min(b - a for (a, low), (b, _) in pairwise(mine) if not low), 100)

    def test_a_broken_wire_is_open_and_a_loose_one_chatters(self) -> None:
        self.world.wires[GUARD]["broken"] = 1
        self.world.run(20)
        self.press(GUARD, False)
        self.assertEqual(self.world.inputs[GUARD]["level"], 0)
        self.world.wires[STOP]["loose_rate"] = 30.0
        self.world.run(3000)
        self.assertGreater(sum(slot == STOP for _, slot, _ in self.edges()), 40)

    def test_the_same_seed_makes_the_same_edges(self) -> None:
        runs = []
        for seed in (5, 5, 6):
            self.world = World(RIG, seed=seed)
            self.ctl = self.world.controller
            self.spindle(1000)
            self.world.run(3000)
            runs.append(self.edges())
        self.assertEqual(runs[0], runs[1])
        self.assertNotEqual(runs[0], runs[2])

    def test_old_edges_leave_the_ring_and_the_rest_stay_in_order(self) -> None:
        self.world.wires["loose_rate"] = 400.0
        self.world.run(60_000)
        first, found = self.world.edges_from(0, 1_000_000)
        self.assertEqual(first + len(found), int(self.ctl["written"]))
        self.assertEqual(len(found), len(self.world.edges))
        self.assertTrue(bool((np.diff(found["time"]) >= 0).all()))


class StopGuardTrouble(WorldCase):
    def test_the_stop_takes_power_within_its_filter_and_a_tick(self) -> None:
        self.role(STOP, InputRole.STOP)
        self.power()
        self.spindle()
        self.world.run(300)
        self.assertTrue(self.world.firmware[0]["moving"])
        self.world.wires[STOP]["held"] = 1
        before = len(self.edges())
        ticks = 0
        while self.world.firmware[0]["powered"]:
            self.world.run(1)
            ticks += 1
            self.assertLess(ticks, 10)
        first = next(time for time, slot, _ in self.edges()[before:] if slot == STOP)
        self.assertLessEqual(self.world.now_us - first, 200 + 3000)  # filter, bounce, a tick
        self.assertFalse(self.world.powered or self.world.moving)
        self.world.run(1)
        self.assertEqual((int(self.ctl["run"]), int(self.world.outputs[RUN]["energised"])), (0, 0))

    def test_without_a_role_the_stop_is_only_a_contact(self) -> None:
        self.power()
        self.press(STOP)
        self.assertTrue(self.world.firmware[0]["moving"])

    def test_the_guard_stops_the_spindle_only_and_closing_does_not_start_it(self) -> None:
        self.role(GUARD, InputRole.GUARD)
        self.power(speed=5)
        self.spindle()
        self.world.run(2000)
        self.assertGreater(float(self.world.spindle["speed"]), 3000)
        self.press(GUARD)
        self.assertEqual(int(self.ctl["run"]), 0)
        self.assertTrue(self.world.firmware[0]["moving"])
        self.press(GUARD, False, ticks=8000)
        self.assertEqual((int(self.ctl["run"]), float(self.world.spindle["speed"])), (0, 0.0))

    def test_a_motor_that_gives_up_stops_its_axis_and_the_others(self) -> None:
        self.role(Z_TROUBLE, InputRole.TROUBLE, axis=2)
        self.power(0, 10)
        self.power(2, 10)
        self.world.plant[2]["jammed"] = 1
        for _ in range(5000):
            self.world.run(1)
            if self.ctl["trouble_hit"]:
                break
        self.assertEqual(int(self.ctl["trouble_hit"]), 1 << 2)
        self.world.run(1)
        self.assertFalse(self.world.firmware[2]["powered"])
        self.assertTrue(self.world.firmware[0]["powered"])
        self.world.run(500)
        self.assertFalse(self.world.firmware[0]["moving"])

    def test_trouble_of_no_axis_is_of_all(self) -> None:
        self.role(LOOSE_END, InputRole.TROUBLE, rest=0)
        self.power()
        self.press(LOOSE_END)
        self.assertFalse(self.world.powered)


class Trying(WorldCase):
    def try_output(self, slot: int, role: OutputRole, **conditions: int) -> bool:
        self.world.outputs[slot]["role"] = role.raw
        for name, value in conditions.items():
            self.ctl[name] = value
        self.ctl["refused"], self.ctl["tried"] = 0, slot
        self.world.run(1)
        return bool(self.world.outputs[slot]["energised"])

    def test_each_role_can_be_tried_when_nothing_forbids_it(self) -> None:
        for role in OutputRole:
            if role is not OutputRole.SPINDLE_LEVEL:
                self.assertTrue(self.try_output(4, role), role)

    def test_the_firmware_keeps_to_the_interlocks_by_itself(self) -> None:
        self.role(STOP, InputRole.STOP)
        self.press(STOP)
        for role in (OutputRole.NONE, OutputRole.DRIVES_ON, OutputRole.SPINDLE_ON, OutputRole.TURN_LEFT):
            self.assertFalse(self.try_output(4, role), role)
            self.assertTrue(self.ctl["refused"])
            self.assertEqual(int(self.ctl["tried"]), -1)
        self.assertTrue(self.try_output(4, OutputRole.COOLANT))
        self.press(STOP, False)
        self.assertFalse(self.try_output(4, OutputRole.DIRECTION, run=1, run_range=3, wanted=1, engaged_told=3))

    def test_an_inverted_output_is_energised_at_rest(self) -> None:
        self.world.outputs[4]["role"], self.world.outputs[4]["inverted"] = OutputRole.COOLANT.raw, 1
        self.world.run(1)
        self.assertTrue(self.world.outputs[4]["energised"])
        self.assertFalse(self.try_output(4, OutputRole.COOLANT))

    def test_drives_on_and_healthy_follow_the_machine(self) -> None:
        self.role(STOP, InputRole.STOP)
        for slot, role in ((2, OutputRole.DRIVES_ON), (3, OutputRole.HEALTHY)):
            self.world.outputs[slot]["role"] = role.raw
        self.world.run(1)
        self.assertEqual([int(self.world.outputs[slot]["energised"]) for slot in (2, 3)], [0, 1])
        self.power()
        self.assertEqual([int(self.world.outputs[slot]["energised"]) for slot in (2, 3)], [1, 1])
        self.press(STOP)
        self.assertEqual([int(self.world.outputs[slot]["energised"]) for slot in (2, 3)], [0, 0])


class Signals(WorldCase):
    """The rig's drivers want pulses of 2 µs, 4 µs of direction setup, and 150 ms to wake."""

    def travelled(self, ticks: int = 2000, back_and_forth: int = 0) -> float:
        """How far the carriage really went against what the firmware counted, in steps."""
        ax, plant = self.world.firmware[0], self.world.plant[0]
        plant["backlash"] = 0.0
        self.power(speed=10)
        for turn in range(back_and_forth):
            ax["target_velocity"], ax["fresh"] = (1 if turn % 2 == 0 else -1) * 10 * COUNTS, 1
            self.world.run(500)
        ax["target_velocity"], ax["fresh"] = 0.0, 1
        self.world.run(ticks)
        return (float(plant["carriage"]) - 150.0) * COUNTS - float(ax["steps"])

    def awake(self) -> None:
        self.world.firmware["powered"][: self.world.axes] = 1
        self.world.firmware["output"][:4] = range(4)
        self.world.run(200)

    def test_with_good_signals_every_step_arrives(self) -> None:
        self.awake()
        self.assertAlmostEqual(self.travelled(back_and_forth=6), 0, delta=1)

    def test_a_pulse_too_short_loses_steps_and_half_as_long_loses_all(self) -> None:
        for width, lost in ((1.5, 0.5), (1.0, 1.0)):
            self.setUp()
            self.ctl["pulse_width"] = width
            self.awake()
            missing = self.travelled()
            self.assertAlmostEqual(missing / -float(self.world.firmware[0]["steps"]), lost, delta=0.01)

    def test_each_reversal_with_too_short_a_setup_takes_a_step_the_old_way(self) -> None:
        for name, value in (("direction_setup", 2.0), ("step_inverted", 1)):
            self.setUp()
            self.ctl[name] = value
            self.awake()
            self.assertAlmostEqual(
                abs(self.travelled(back_and_forth=8)), 8, delta=1
            )  # one of two edges is late: it adds up

    def test_too_short_a_delay_after_power_loses_the_first_steps(self) -> None:
        ax = self.world.firmware[0]
        ax["wait_ticks"] = 0
        self.power(speed=10)
        early = (float(self.world.plant[0]["carriage"]) - 150.0) * COUNTS - float(ax["steps"])
        self.assertGreater(early, 500)  # steps to minus that were made and not taken

    def test_an_enable_line_turned_round_leaves_the_motor_without_current(self) -> None:
        self.ctl["enable_inverted"] = 1
        self.awake()
        self.assertFalse(self.world.plant[0]["on"])
        self.power()
        self.assertAlmostEqual(float(self.world.plant[0]["carriage"]), 150.0, delta=0.02)
