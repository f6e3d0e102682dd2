"""What the firmware does against what the core predicted: two pieces of code that share nothing but the values."""

from __future__ import annotations

import math
import random
import unittest

from idler.bench.rigs.rig import load
from idler.bench.state import AT_VELOCITY, CONSTANT, IDLE, LIMITED, SMOOTHEST, TO_POSITION
from idler.bench.world import World
from idler.core.mechanics.pace import Pace, VelocityShape

SHAPES = {CONSTANT: VelocityShape.CONSTANT, LIMITED: VelocityShape.LIMITED, SMOOTHEST: VelocityShape.SMOOTHEST}
COUNTS = 400.0  # per mm: what Verge's X truly needs


class WorldCase(unittest.TestCase):
    def setUp(self) -> None:
        self.world = World(load("verge"))
        self.ax, self.plant = self.world.firmware[0], self.world.plant[0]
        self.tell(50, 250, 250, CONSTANT, 5000)
        for name, value in (
            ("step_ceiling", 120e3),
            ("stop_deceleration", 600 * COUNTS),
            ("powered", 1),
            ("output", 0),
        ):
            self.ax[name] = value
        self.world.controller["pulse_width"], self.world.controller["direction_setup"] = 2.5, 5
        self.world.run(200)  # until the driver is awake

    def tell(self, speed: float, up: float, down: float, shape: int, jerk: float) -> None:
        for name, value in (
            ("speed_limit", speed),
            ("move_speed", speed),
            ("acceleration", up),
            ("deceleration", down),
        ):
            self.ax[name] = value * COUNTS
        self.ax["jerk"], self.ax["shape"] = jerk * COUNTS, shape

    def go(self, distance: float) -> None:
        self.ax["target"] = self.ax["bare_position"] + distance * COUNTS
        self.ax["mode"], self.ax["fresh"] = TO_POSITION, 1

    def hold(self, velocity: float) -> None:
        self.ax["target_velocity"], self.ax["mode"], self.ax["fresh"] = velocity * COUNTS, AT_VELOCITY, 1
        self.ax["move_speed"] = abs(velocity) * COUNTS

    def rest(self, most: int = 60_000) -> int:
        """Milliseconds until the axis is at rest."""
        for tick in range(1, most):
            self.world.run(1)
            if self.ax["mode"] == IDLE and not self.ax["moving"]:
                return tick
        raise AssertionError("the axis did not come to rest")


class Predictions(WorldCase):
    def test_durations_of_random_moves(self) -> None:
        dice = random.Random(11)
        for _ in range(60):
            shape = dice.choice(list(SHAPES))
            speed, up, down = dice.uniform(5, 60), dice.uniform(50, 600), dice.uniform(50, 600)
            jerk = dice.uniform(max(up, down) * 3, 20_000)
            distance = 10 ** dice.uniform(-1.5, 1.3) * dice.choice((-1, 1))
            self.tell(speed, up, down, shape, jerk)
            self.go(distance)
            took = self.rest() / 1000
            said = Pace(speed, up, down, SHAPES[shape], jerk).move(abs(distance)).duration
            self.assertLessEqual(abs(took - said), 0.01 * said + 0.002, (shape, speed, up, down, jerk, distance))

    def test_every_step_is_made_and_none_too_many(self) -> None:
        for shape in SHAPES:
            self.tell(50, 250, 400, shape, 5000)
            before = int(self.ax["steps"])
            self.go(12.3475)
            self.rest()
            self.assertEqual(int(self.ax["steps"]) - before, 4939)

    def test_a_quick_stop_brakes_at_its_own_rate_whatever_the_shape(self) -> None:
        for shape in SHAPES:
            self.tell(50, 250, 250, shape, 5000)
            self.hold(50)
            self.world.run(1000)
            at = float(self.ax["position"])
            self.world.stop(0)
            took = self.rest()
            way = (float(self.ax["position"]) - at) / COUNTS
            self.assertAlmostEqual(took, 50 / 600 * 1000, delta=2)
            self.assertAlmostEqual(way, 50 * 50 / 600 / 2, delta=0.06)

    def test_a_new_target_on_the_way_is_reached_as_well(self) -> None:
        self.go(20)
        self.world.run(300)
        self.go(-15)
        self.rest()
        self.assertAlmostEqual(float(self.ax["position"]), float(self.ax["target"]), places=6)

    def test_steps_never_come_faster_than_the_ceiling(self) -> None:
        self.ax["step_ceiling"] = 10_000.0
        self.ax["speed_limit"] = 10_000.0
        self.hold(60)
        last = 0
        for _ in range(400):
            self.world.run(1)
            made = abs(int(self.ax["steps"]) - last)
            last = int(self.ax["steps"])
            self.assertLessEqual(made, 11)
        self.assertAlmostEqual(last, 10 * 400, delta=0.15 * 4000)


class SoftLimits(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        for name, value in (("limits_on", 1), ("homed", 1), ("low", -20 * COUNTS), ("high", 10 * COUNTS)):
            self.ax[name] = value

    def test_a_held_jog_ends_on_the_limit_itself(self) -> None:
        dice = random.Random(3)
        for _ in range(20):
            self.hold(dice.uniform(2, 50) * dice.choice((-1, 1)))
            self.world.run(dice.randrange(20, 2500))
            self.assertTrue(-20 * COUNTS - 1e-6 <= self.ax["bare_position"] <= 10 * COUNTS + 1e-6)
        self.hold(50)
        self.world.run(3000)
        self.assertAlmostEqual(float(self.ax["position"]), 10 * COUNTS, places=6)
        self.assertEqual(int(self.ax["at_limit"]), 1)
        self.hold(-50)
        self.world.run(100)
        self.assertLess(float(self.ax["position"]), 10 * COUNTS)

    def test_the_cushion_holds_speed_down(self) -> None:
        self.ax["cushion"], self.ax["cushion_speed"] = 5 * COUNTS, 4 * COUNTS
        self.hold(-50)
        while self.ax["position"] > -19.9 * COUNTS:
            self.world.run(1)
            if self.ax["position"] < -15 * COUNTS:
                self.assertLessEqual(abs(self.ax["velocity"]), 4 * COUNTS * 1.05)

    def test_without_home_the_limits_do_not_count(self) -> None:
        self.ax["homed"] = 0
        self.hold(50)
        self.world.run(1000)
        self.assertGreater(float(self.ax["position"]), 10 * COUNTS)


class Plant(WorldCase):
    def carriage(self) -> float:
        return float(self.plant["carriage"])

    def test_the_carriage_goes_by_the_true_screw(self) -> None:
        self.go(10)
        self.rest()
        before = self.carriage()
        self.go(40)
        self.rest()
        self.world.run(200)
        self.assertAlmostEqual(self.carriage() - before, 40, delta=0.01)

    def test_backlash_shows_when_the_direction_turns(self) -> None:
        self.go(10)
        self.rest()
        self.world.run(200)
        before = self.carriage()
        self.go(-5)
        self.rest()
        self.world.run(200)
        self.assertAlmostEqual(before - self.carriage(), 5 - 0.03, delta=0.006)

    def test_too_hard_an_acceleration_loses_whole_poles(self) -> None:
        self.tell(100, 30_000, 30_000, CONSTANT, 5000)
        self.go(60)
        self.rest()
        self.world.run(500)
        lost = (float(self.plant["field"]) - float(self.plant["angle"])) * 50 / (2 * math.pi)  # in poles
        self.assertGreater(abs(lost), 1)
        self.assertAlmostEqual(lost, round(lost), delta=0.1)

    def test_a_hard_stop_holds_the_carriage(self) -> None:
        for way, end in ((1, 318.0), (-1, 0.0)):
            self.hold(way * 30)
            self.world.run(16_000)
            self.assertAlmostEqual(self.carriage(), end, delta=0.06)
            self.assertGreater(abs(float(self.plant["field"]) - float(self.plant["angle"])), 2 * math.pi / 50)

    def test_z_holds_by_itself_and_without_friction_falls(self) -> None:
        z = self.world.plant[2]
        before = float(z["carriage"])
        self.world.run(3000)
        self.assertAlmostEqual(float(z["carriage"]), before, delta=1e-6)
        z["friction"], z["asleep"] = 0.05, False
        self.world.run(3000)
        self.assertLess(float(z["carriage"]), before - 5)

    def test_the_home_switch_has_hysteresis(self) -> None:
        switch = self.world.wires[1]
        self.hold(20)
        while not switch["made"]:
            self.world.run(1)
        made = self.carriage()
        self.hold(-2)
        while switch["made"]:
            self.world.run(1)
        self.assertAlmostEqual(made - self.carriage(), 0.3, delta=0.15)

    def test_the_same_seed_is_the_same_machine(self) -> None:
        ends = []
        for _ in range(2):
            self.setUp()
            self.go(17.3)
            self.rest()
            ends.append(self.carriage())
        self.assertEqual(*ends)
