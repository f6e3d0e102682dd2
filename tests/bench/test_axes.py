"""What the firmware does with its axes: outputs, two motors, play, a measured position, an endless turn, latched positions."""

from __future__ import annotations

import math
import unittest
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

from idler.bench.firmware.trajectory import TAKEN_UP
from idler.bench.objects.drive import Drive
from idler.bench.rigs.rig import Rig, load
from idler.bench.state import TICK
from idler.bench.world import World
from idler.core.geometry import sides
from idler.core.geometry.square import Rectangle
from idler.core.machine import Address, Machine
from idler.core.mechanics.pace import Pace, VelocityShape
from idler.core.mechanics.scale import INSTRUMENTS
from idler.core.profile import cia402 as c
from idler.core.profile.codec import image
from idler.core.values.parameter import Value
from tests.bench.trials import told_to


class AxesCase(unittest.TestCase):
    """Drives of a rig told by a machine, with power, without a wire."""

    def start(self, rig: str | Rig, values: dict[tuple[int, str], Value] | None = None) -> Machine:
        made = rig if isinstance(rig, Rig) else load(rig)
        told = made.told.with_values({Address(*at): value for at, value in (values or {}).items()})
        self.world = World(made)
        ctl = self.world.controller
        ctl["pulse_width"], ctl["direction_setup"] = 5.0, 10.0
        self.drives = [Drive(self.world, slot) for slot in range(len(told.names))]
        raws = image(told)
        for drive in self.drives:
            drive.configure(told_to(raws, drive.slot), 200_000.0, 0)
            for word in (c.SHUTDOWN, c.SWITCH_ON, c.ENABLE):
                drive.control(word)
        self.world.run(400)
        return told

    def step(self, slot: int, distance: float, speed: float = 600) -> None:
        drive = self.drives[slot]
        drive.target_position, drive.profile_speed = c.raw_position(distance), c.raw_speed(speed)
        drive.control(c.ENABLE)
        drive.control(c.ENABLE | c.NEW_SETPOINT | c.RELATIVE | c.AT_ONCE)
        self.world.run(5)
        for _ in range(60_000):
            self.world.run(5)
            if not self.world.firmware[slot]["moving"]:
                break
        self.world.run(60)

    def at(self, motor: int) -> float:
        return float(self.world.plant[motor]["carriage"])


class Truths(AxesCase):
    """What a machine is besides what it was told: warmth that moves it, ways that turn it."""

    def test_a_screw_that_has_run_warm_moves_its_carriage_and_cools_again(self) -> None:
        rig = load("verge")
        warm = replace(rig.motors[2], grows=0.04, warms=20.0, backlash=0.0)
        self.start(replace(rig, motors=(*rig.motors[:2], warm, *rig.motors[3:])))
        cold = self.at(2)
        for _ in range(12):  # 24 moves of 4 s: near to warm
            self.step(2, 20.0, 300)
            self.step(2, -20.0, 300)
        moved = self.at(2) - cold
        self.assertAlmostEqual(moved, 0.04 * float(self.world.plant[2]["warmth"]), delta=0.003)
        self.assertGreater(moved, 0.035)
        self.world.run(60_000)  # three times its lag
        self.assertAlmostEqual(self.at(2) - cold, moved * math.exp(-3), delta=0.003)

    def test_a_screw_that_does_not_grow_stays_where_it_is(self) -> None:
        self.start("verge")
        cold = self.at(2)
        self.step(2, 20.0, 300)
        self.step(2, -20.0, 300)
        self.assertAlmostEqual(self.at(2), cold, delta=0.003)

    def test_ways_that_turn_what_goes_along_them_show_in_the_sides_along_them(self) -> None:
        """A rectangle of 1000 by 800 on ways that turn by 2 mm per m in each m of Y: 1.6 mm over its far side."""
        self.start(replace(load("verge"), yaw=2.0, lean=0.0))
        corners = []
        for x, y in ((0.0, 0.0), (1000.0, 0.0), (1000.0, 800.0), (0.0, 800.0)):
            self.world.plant["carriage"][:2] = x, y
            corners.append(self.world.tool_over_bed())
        read = {
            name: math.dist(corners[one], corners[other])
            for name, (one, other) in {"near": (0, 1), "far": (3, 2), "left": (0, 3), "right": (1, 2)}.items()
        }
        self.assertAlmostEqual(read["right"] - read["left"], 1.6, delta=0.01)
        self.assertAlmostEqual(read["far"] - read["near"], 0.0, delta=0.01)
        trammel = next(item for item in INSTRUMENTS if item.key == "trammel")
        found = sides.sides(Rectangle(0, 0, 1000, 800), read, trammel)
        assert found is not None
        axes = (load("verge").told.axis(0), load("verge").told.axis(1))
        self.assertIn("the ways of Y turn what goes along them by 1.60 mm per m", sides.sentence(axes, found))


class Outputs(AxesCase):
    def test_an_axis_turns_the_motor_of_its_output_and_no_other(self) -> None:
        self.start("verge", {(0, "axis.output"): 3, (2, "axis.output"): 1})
        before = [self.at(motor) for motor in range(4)]
        self.step(0, 5.0)
        moved = [abs(self.at(motor) - was) > 1 for motor, was in enumerate(before)]
        self.assertEqual(moved, [False, False, True, False])

    def test_an_axis_without_hardware_only_counts(self) -> None:
        self.start("verge", {(0, "axis.output"): 0})
        before = [self.at(motor) for motor in range(4)]
        self.step(0, 5.0)
        self.assertAlmostEqual(c.position_from(self.drives[0].position), 5.0, places=2)
        for motor, was in enumerate(before):
            self.assertAlmostEqual(self.at(motor), was, delta=0.05)

    def test_motors_that_face_each_other_rack_the_beam_until_one_is_reversed(self) -> None:
        self.start("longcase")
        began = self.at(1)
        self.step(1, 8.0)
        self.assertGreater(abs(self.at(1) - self.at(2)), 0.4)
        self.assertLess(abs(self.at(1) - began), 4.0)  # they fight, and lose their steps
        self.start("longcase", {(1, "axis.second_reversed"): True})
        first, second = self.at(1), self.at(2)
        self.step(1, 8.0)
        self.assertLess(abs(self.at(1) - self.at(2)), 0.1)
        self.assertAlmostEqual(self.at(1) - first, 8.0, delta=0.15)
        self.assertAlmostEqual(self.at(2) - second, 8.0, delta=0.15)

    def test_an_endless_axis_begins_again_and_goes_the_nearer_way(self) -> None:
        self.start("fusee")
        self.step(2, 350.0, 20_000)
        self.step(2, 20.0, 20_000)
        self.assertAlmostEqual(c.position_from(self.drives[2].position), 10.0, places=1)
        drive = self.drives[2]
        drive.target_position = c.raw_position(350.0)
        drive.control(c.ENABLE)
        drive.control(c.ENABLE | c.NEW_SETPOINT | c.AT_ONCE)
        self.world.run(5000)
        ax = self.world.firmware[2]
        self.assertAlmostEqual(float(ax["steps"]) / float(ax["counts_per_unit"]), 350.0, places=1)


class Play(AxesCase):
    def test_taking_up_the_play_leaves_none_of_it(self) -> None:
        for backlash, lost in ((Fraction(0), 0.03), (Fraction(3, 100), 0.0)):
            self.start("verge", {(0, "play.backlash"): backlash, (0, "chain.pitch"): Fraction(4)})
            self.step(0, 3.0)
            start = self.at(0)
            self.step(0, -3.0)
            self.assertAlmostEqual(start - self.at(0), 3.0 - lost, delta=0.006)
            self.step(0, 3.0)
            self.assertAlmostEqual(self.at(0), start, delta=0.006)
            self.assertEqual(c.position_from(self.drives[0].position), 3.0)

    def test_play_is_taken_up_at_a_share_of_the_acceleration(self) -> None:
        """A motor that only just bears its pace would lose its field by more. From rest to rest t = 2 √(d / a)."""
        size, told = 0.2, self.start("verge", {(0, "play.backlash"): Fraction(1, 5), (0, "chain.pitch"): Fraction(4)})
        self.step(0, 3.0)
        drive, ax = self.drives[0], self.world.firmware[0]
        drive.target_position = c.raw_position(-20.0)
        drive.control(c.ENABLE)
        drive.control(c.ENABLE | c.NEW_SETPOINT | c.RELATIVE | c.AT_ONCE)
        taken = [int(ax["slack"])]
        for _ in range(1000):
            self.world.run(1)
            taken.append(int(ax["slack"]))
        ways = [n for n, (one, other) in enumerate(pairwise(taken)) if one != other]
        rise, count = float(told.axis(0).number("pace.acceleration")) * TAKEN_UP, 1 / float(ax["counts_per_unit"])
        seconds, fastest = 2 * math.sqrt(size / rise), max(one - other for one, other in pairwise(taken))
        self.assertEqual((taken[0], taken[-1]), (round(size / count), 0))
        self.assertAlmostEqual((ways[-1] - ways[0]) * TICK, seconds, delta=2 * math.sqrt(2 * count / rise))
        self.assertLessEqual(fastest, math.ceil(math.sqrt(rise * size) * TICK / count) + 1)


class Measured(AxesCase):
    def test_an_axis_that_is_held_is_cut_and_the_others_stop(self) -> None:
        self.start("fusee")
        self.step(2, 90.0, 6000)
        self.assertLess(abs(c.position_from(self.drives[2].following_error)), 5)
        self.world.plant[2]["jammed"] = 1
        other, drive = self.drives[1], self.drives[2]
        for each, far in ((other, 40.0), (drive, 720.0)):
            each.target_position, each.profile_speed = (
                c.raw_position(far),
                c.raw_speed(2000 if each is other else 30_000),
            )
            each.control(c.ENABLE)
            each.control(c.ENABLE | c.NEW_SETPOINT | c.RELATIVE | c.AT_ONCE)
        self.world.run(1500)
        ax = self.world.firmware[2]
        self.assertTrue(ax["lag_hit"])
        self.assertFalse(ax["powered"] or ax["homed"])
        self.assertFalse(self.world.firmware[1]["moving"])
        self.assertLess(c.position_from(other.position), 40.0)

    def test_a_lag_shorter_than_its_time_is_forgiven(self) -> None:
        self.start("fusee", {(2, "loop.window_time"): Fraction(10_000), (2, "loop.window"): Fraction(1, 1000)})
        self.step(2, 90.0, 6000)
        self.assertFalse(self.world.firmware[2]["lag_hit"])


class Latched(AxesCase):
    def test_the_place_of_a_switch_is_kept_to_a_count_whatever_happens_later(self) -> None:
        self.start("verge", {(0, "chain.pitch"): Fraction(4), (0, "travel.limits_on"): False})
        self.world.set_input(1, 3, 0, 1, 200)
        places = []
        for start in (150.0, 10.0):
            self.step(0, 320.0 - self.at(0) - 4, 1500)
            places.append(c.position_from(self.drives[0].latched))
            self.step(0, -start, 3000)
        self.assertEqual(self.drives[0].latches, 2)
        self.assertAlmostEqual(places[0], places[1], delta=0.06)


class Shaking(AxesCase):
    def test_what_is_left_after_a_move_is_what_the_core_predicts(self) -> None:
        for shape in ("constant", "limited", "smoothest"):
            for distance in (7.3, 21.0):
                values: dict[tuple[int, str], Value] = {
                    (0, "pace.shape"): shape, (0, "pace.jerk"): Fraction(4000), (0, "chain.pitch"): Fraction(4),
                    (0, "pace.acceleration"): Fraction(300), (0, "pace.deceleration"): Fraction(300),
                }  # fmt: skip
                self.start("verge", values)
                self.world.plant[0]["backlash"] = 0.0
                self.step(0, distance, 2400)
                pace = Pace(40, 300, 300, VelocityShape(shape), 4000)
                said = pace.move(distance).shaking(17.0, 0.03)
                left = float(self.world.plant[0]["left"])
                self.assertLess(abs(left - said), 0.25 * said + 0.004, (shape, distance, left, said))
                self.assertTrue(math.isfinite(said))
