"""Homing as the firmware does it: phases, places, and every way to fail."""

from __future__ import annotations

import random
from fractions import Fraction

from idler.bench.rig import load
from idler.core.homing import rehearse
from idler.core.machine import Address
from idler.core.parameter import Value
from idler.core.wire import cia402 as c
from idler.core.wire.homing import Result
from tests.bench.test_axes import AxesCase

HOME, INDEX, CHAIN, LIMIT_LOW = 3, 10, 5, 6


class HomingCase(AxesCase):
    """X of Verge, told its true screw, with its home switch on input 2."""

    def ready(self, rig: str = "verge", **changes: Value) -> None:
        usual: dict[tuple[int, str], Value] = {
            (0, "chain.pitch"): Fraction(4), (0, "homing.back_off"): Fraction(3), (0, "homing.leave"): Fraction(2),
        }  # fmt: skip
        self.start(rig, {**usual, **{(0, key.replace("__", ".")): value for key, value in changes.items()}})
        self.world.set_input(1, HOME, 0, 1, 300)
        self.world.run(5)

    def home(self, slot: int = 0, most: int = 120_000) -> Result:
        drive = self.drives[slot]
        drive.set_mode(c.MODE_HOMING)
        drive.control(c.ENABLE)
        drive.control(c.ENABLE | c.NEW_SETPOINT)
        drive.control(c.ENABLE)
        self.ax = self.world.firmware[slot]
        for _ in range(most):
            if not self.ax["homing"] and not self.ax["moving"]:
                break
            self.world.run(1)
        return next(result for result in Result if result.raw == self.ax["home_result"])

    @property
    def position(self) -> float:
        return c.position_from(self.drives[0].position)


class Found(HomingCase):
    def test_the_switch_gets_its_coordinate_and_is_left_once(self) -> None:
        self.ready()
        self.assertIs(self.home(), Result.FOUND)
        self.assertTrue(self.ax["homed"])
        self.assertAlmostEqual(self.position, 0.0, places=3)  # coordinate 2 mm at the switch, left by 2
        self.assertAlmostEqual(self.at(0), 314.0 - 2.0, delta=0.06)  # its play among it
        self.assertFalse(self.ax["switch"])

    def test_the_same_place_from_anywhere_and_at_any_pace(self) -> None:
        dice, places = random.Random(5), []
        for _ in range(12):
            self.ready(
                homing__approach=Fraction(dice.randrange(200, 1500)),
                homing__acceleration=Fraction(dice.randrange(80, 400)),
            )
            self.step(0, dice.uniform(-120, 120), 2500)
            self.assertIs(self.home(), Result.FOUND)
            places.append(self.at(0) - self.position)
        self.assertLess(max(places) - min(places), 0.03)

    def test_the_usual_pace_is_back_afterwards(self) -> None:
        self.ready()
        before = [float(self.world.firmware[0][name]) for name in ("acceleration", "deceleration", "shape")]
        self.home()
        self.assertEqual([float(self.ax[name]) for name in ("acceleration", "deceleration", "shape")], before)

    def test_with_an_index_mark_the_mark_is_the_place(self) -> None:
        self.start("verge", {(3, "homing.method"): "switch_index", (3, "homing.approach"): Fraction(900)})
        self.world.set_input(5, HOME, 3, 0, 300)
        self.world.set_input(9, INDEX, 3, 0, 100)
        self.world.run(5)
        self.assertIs(self.home(3), Result.FOUND)
        marked = float(self.ax["index_distance"]) / float(self.ax["counts_per_unit"])
        self.assertGreater(marked, 0.5)
        self.assertLess(marked, 4.1)


class Rehearsed(HomingCase):
    def test_the_run_takes_as_long_as_the_rehearsal_said(self) -> None:
        dice = random.Random(3)
        for _ in range(12):
            told = {
                "homing__approach": Fraction(dice.randrange(200, 1800)), "homing__touch": Fraction(dice.randrange(20, 120)),
                "homing__acceleration": Fraction(dice.randrange(80, 400)), "homing__back_off": Fraction(dice.randrange(2, 6)),
                "homing__leave": Fraction(dice.randrange(1, 5)),
            }  # fmt: skip
            self.ready(**told)
            self.step(0, dice.uniform(-120, 120), 2500)
            machine = load("verge").told.with_values({
                **{Address(0, key.replace("__", ".")): value for key, value in told.items()},
                Address(0, "chain.pitch"): Fraction(4), Address(1, "input.role"): "home", Address(1, "input.axis"): "X",
                Address(1, "input.filter"): Fraction(3, 10),
            })  # fmt: skip
            distance = 314.0 - self.at(0)
            began = self.world.tick
            self.assertIs(self.home(), Result.FOUND)
            said = rehearse(machine, 0, distance).seconds
            self.assertAlmostEqual((self.world.tick - began) / 1000, said, delta=0.03 * said)


class Failed(HomingCase):
    def test_not_found_within_the_distance(self) -> None:
        self.ready(homing__search=Fraction(40))
        self.assertIs(self.home(), Result.NOT_FOUND)
        self.assertFalse(self.ax["homed"] or self.ax["moving"])

    def test_pressed_at_the_start_and_still_pressed_after_back_off(self) -> None:
        self.ready()
        self.world.wires[1]["held"] = 1
        self.world.run(20)
        self.assertIs(self.home(), Result.PRESSED)
        self.ready(homing__back_off=Fraction(1, 10))
        self.assertIs(self.home(), Result.STILL_PRESSED)

    def test_away_from_the_switch_the_other_end_comes(self) -> None:
        self.ready(homing__towards="low")
        self.world.wires[4]["held"] = 0
        self.world.set_input(4, 7, 0, 1, 300)  # a switch at the high end
        self.world.run(5)
        self.drives[0].set_mode(c.MODE_HOMING)
        self.world.home(0)
        self.world.run(500)
        self.world.wires[4]["held"] = 1
        self.world.run(3000)
        self.assertEqual(int(self.world.firmware[0]["home_result"]), Result.OTHER_END.raw)

    def test_no_index_mark(self) -> None:
        self.ready(homing__method="switch_index", homing__index_within=Fraction(5))
        self.assertIs(self.home(), Result.NO_INDEX)

    def test_stop_in_any_phase(self) -> None:
        for after in (50, 3000, 13_500, 14_500):
            self.ready()
            self.drives[0].set_mode(c.MODE_HOMING)
            for word in (c.ENABLE, c.ENABLE | c.NEW_SETPOINT, c.ENABLE):
                self.drives[0].control(word)
            self.world.run(after)
            self.drives[0].control(c.QUICK_STOP)
            self.world.run(2000)
            ax = self.world.firmware[0]
            self.assertFalse(ax["homing"] or ax["moving"] or (ax["homed"] and after < 13_000), after)

    def test_on_one_chain_only_one_axis_at_a_time(self) -> None:
        self.ready()
        self.world.set_input(1, CHAIN, -1, 1, 300)
        self.world.run(5)
        for slot in (0, 1):
            self.drives[slot].set_mode(c.MODE_HOMING)
            for word in (c.ENABLE, c.ENABLE | c.NEW_SETPOINT, c.ENABLE):
                self.drives[slot].control(word)
        self.assertTrue(self.world.firmware[0]["homing"])
        self.assertEqual(int(self.world.firmware[1]["home_result"]), Result.CHAIN_BUSY.raw)
