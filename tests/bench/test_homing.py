"""Homing as the firmware does it: phases, places, and every way to fail."""

from __future__ import annotations

import math
import random
import unittest
from dataclasses import replace
from fractions import Fraction
from unittest.mock import patch

from idler.bench.rigs.rig import Rig, load, names
from idler.core.homing import distance_to_switch, rehearse, stands_at, way
from idler.core.machine import Address, Machine
from idler.core.profile import cia402 as c
from idler.core.profile.homing import INDEX_DISTANCE, SIDES, USUAL_EFFORT, HomingResult, Phase
from idler.core.values.parameter import Value
from idler.core.values.roles import InputRole
from idler.core.values.stage import Stage
from tests.bench.test_axes import AxesCase
from tests.bench.trials import CHUNK, Stand, beyond_an_end, home_twice

HOME, HOME_SECOND, CHAIN, LIMIT_LOW, LIMIT_HIGH, INDEX = 3, 4, 5, 6, 7, 10
TRIALS = 24  # benchmarks/homing.py makes 1 000 of them


class HomingCase(AxesCase):
    """X of Verge, told its true screw, with its home switch on input 2."""

    def ready(self, rig: str = "verge", **changes: Value) -> None:
        usual: dict[tuple[int, str], Value] = {
            (0, "chain.pitch"): Fraction(4), (0, "homing.back_off"): Fraction(3), (0, "homing.leave"): Fraction(2),
        }  # fmt: skip
        self.start(rig, {**usual, **{(0, key.replace("__", ".")): value for key, value in changes.items()}})
        self.world.set_input(1, HOME, 0, 1, 300)
        self.world.run(5)

    def home(self, slot: int = 0, most: int = 120_000) -> HomingResult:
        drive = self.drives[slot]
        drive.set_mode(c.MODE_HOMING)
        drive.control(c.ENABLE)
        drive.control(c.ENABLE | c.NEW_SETPOINT)
        drive.control(c.ENABLE)
        self.ax = self.world.firmware[slot]
        for _ in range(most):
            if not self.ax["homing"] and not self.ax["moving"]:
                break
            self.world.run(5)
        return next(result for result in HomingResult if result.raw == self.ax["home_result"])

    @property
    def position(self) -> float:
        return c.position_from(self.drives[0].position)


class Found(HomingCase):
    def test_the_switch_gets_its_coordinate_and_is_left_once(self) -> None:
        self.ready()
        self.assertIs(self.home(), HomingResult.FOUND)
        self.assertTrue(self.ax["homed"])
        self.assertAlmostEqual(self.position, 0.0, places=3)  # coordinate 2 mm at the switch, left by 2
        self.assertAlmostEqual(self.at(0), 314.0 - 2.0, delta=0.06)  # its play among it
        self.assertFalse(self.ax["switch"])

    def test_the_same_place_from_anywhere_and_at_any_pace(self) -> None:
        dice, places = random.Random(5), []
        for _ in range(8):
            self.ready(
                homing__approach=Fraction(dice.randrange(200, 1500)),
                homing__acceleration=Fraction(dice.randrange(80, 400)),
            )
            self.step(0, dice.uniform(-120, 120), 2500)
            self.assertIs(self.home(), HomingResult.FOUND)
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
        self.assertIs(self.home(3), HomingResult.FOUND)
        marked = float(self.ax["index_distance"]) / float(self.ax["counts_per_unit"])
        self.assertGreater(marked, 0.5)
        self.assertLess(marked, 4.1)


class Iron(HomingCase):
    """Z of Longcase, which has no switch: it feels its upper hard stop."""

    def felt(self, **changes: Value) -> HomingResult:
        self.start("longcase", {(2, key.replace("__", ".")): value for key, value in changes.items()})
        return self.home(2)

    def test_the_stop_gets_its_coordinate_and_is_met_no_faster_than_the_touch_speed(self) -> None:
        self.assertIs(self.felt(homing__approach=Fraction(1200)), HomingResult.FOUND)
        self.assertAlmostEqual(c.position_from(self.drives[2].position), 0.0, places=3)  # 2 mm at the stop, left by 2
        self.assertAlmostEqual(self.at(3), 142.0, delta=0.05)
        self.assertLess(float(self.world.plant[3]["struck"]), 120 / 60 * 1.15)

    def test_its_usual_effort_is_told(self) -> None:
        self.felt()
        said = self.drives[2].homing_places[USUAL_EFFORT.sub] / 1000
        self.assertAlmostEqual(said, (0.28 + 0.2) / 2.0, delta=0.03)  # friction and weight, of its torque

    def test_effort_that_no_motor_reaches_is_not_felt(self) -> None:
        self.assertIs(self.felt(homing__effort=Fraction(1), homing__search=Fraction(60)), HomingResult.NOT_FOUND)

    def test_effort_below_what_it_takes_to_move_is_felt_at_once(self) -> None:
        self.felt(homing__effort=Fraction(1, 5))
        self.assertLess(self.at(3), 110.0)

    def test_a_mark_behind_the_stop_refines_it_and_tells_when_the_stop_has_moved(self) -> None:
        marked: dict[str, Value] = {"homing__method": "stop_index", "homing__index_within": Fraction(8)}
        rig = load("longcase")
        mark = replace(rig.wire("touch plate"), source="mark", axis=3, at=1.3, period=5.0, hysteresis=0.05)
        with patch("tests.bench.test_axes.load", lambda _: replace(rig, wires=(mark,))):
            found = []
            for moved, known in ((0.0, 0), (0.0, 1), (0.9, 1)):
                told = {**marked, "homing__mark_distance": Fraction(round(found[0] * 1000), 1000)} if known else marked
                self.start("longcase", {(2, key.replace("__", ".")): value for key, value in told.items()})
                self.world.set_input(1, INDEX, 2, 0, 100)
                self.world.plant[3]["high_stop"] -= moved
                result = self.home(2)
                found.append(c.position_from(self.drives[2].homing_places[INDEX_DISTANCE.sub]))
                self.assertIs(result, HomingResult.MARK_MOVED if moved else HomingResult.FOUND)
        self.assertAlmostEqual(found[0], 2.7, delta=0.1)  # 144 − 0.05 − 141.3, less what it gives
        self.assertAlmostEqual(found[0] - found[2], 0.9, delta=0.05)


class TwoSides(HomingCase):
    """Y of Longcase: the second side's switch lies 0.6 mm further out."""

    def both(self, **changes: Value) -> HomingResult:
        told = {(1, key.replace("__", ".")): value for key, value in changes.items()}
        self.start("longcase", {(1, "axis.second_reversed"): True, **told})
        self.world.set_input(4, HOME, 1, 1, 500)
        self.world.set_input(5, HOME_SECOND, 1, 0, 500)
        self.world.run(5)
        return self.home(1)

    def skew(self) -> float:
        return self.at(2) - self.at(1)

    def test_each_side_stops_on_its_own_switch(self) -> None:
        self.assertIs(self.both(), HomingResult.FOUND)
        self.assertAlmostEqual(self.skew(), -0.6, delta=0.05)
        self.assertAlmostEqual(c.position_from(self.drives[1].homing_places[SIDES.sub]), -0.6, delta=0.05)

    def test_the_switches_lie_as_far_apart_however_often_it_is_looked(self) -> None:
        self.both()
        found = []
        for _ in range(4):
            self.step(1, 30, 3000)
            self.assertIs(self.home(1), HomingResult.FOUND)
            found.append(c.position_from(self.drives[1].homing_places[SIDES.sub]))
        self.assertLess(max(found) - min(found), 0.03)
        self.assertAlmostEqual(found[0], -0.6, delta=0.05)

    def test_the_squaring_offset_makes_the_beam_square(self) -> None:
        self.assertIs(self.both(homing__squaring=Fraction(6, 10)), HomingResult.FOUND)
        self.assertAlmostEqual(self.skew(), 0.0, delta=0.05)
        self.assertAlmostEqual(c.position_from(self.drives[1].position), 2.0, delta=0.007)  # a count
        self.assertFalse(self.ax["held"])

    def test_sides_too_far_apart_end_it_before_the_beam_is_bent(self) -> None:
        self.assertIs(self.both(homing__apart=Fraction(3, 10)), HomingResult.APART)
        self.assertLess(abs(self.skew()), 0.4)
        self.assertFalse(self.ax["homed"] or self.ax["held"])

    def test_a_second_switch_that_never_answers(self) -> None:
        self.start("longcase", {(1, "axis.second_reversed"): True})
        self.world.set_input(4, HOME, 1, 1, 500)
        self.world.set_input(7, HOME_SECOND, 1, 0, 500)  # a free terminal
        self.world.run(5)
        self.assertIs(self.home(1), HomingResult.APART)


# What the maker of each rig would have to tell its controller: axes, and inputs from 1 as role, axis and contact at rest.
TRUTH: dict[str, tuple[dict[tuple[int, str], Value], dict[int, tuple[str, str, str]]]] = {
    "verge": (
        {(0, "chain.pitch"): Fraction(4), (1, "axis.reversed"): True},
        {2: ("home", "X", "closed"), 3: ("home", "Y", "closed"), 5: ("home", "Z", "closed"), 6: ("home", "A", "open"),
         10: ("index", "A", "open")},
    ),
    "longcase": (
        {(0, "chain.microsteps"): 8, (1, "axis.second_reversed"): True},
        {1: ("home", "X", "closed"), 5: ("home", "Y", "closed"), 6: ("home_second", "Y", "open")},
    ),
    "fusee": (
        {(0, "chain.stages"): (Stage(True, Fraction(15), Fraction(32)),), (0, "axis.reversed"): True,
         (1, "chain.pitch"): Fraction("2.54")},
        {2: ("home", "X", "closed"), 4: ("home", "Z", "closed"), 5: ("index", "C", "open"), 7: ("home", "A", "open")},
    ),
}  # fmt: skip


def truth(rig: Rig) -> Machine:
    """What a rig's controller should have been told."""
    axes, inputs = TRUTH[rig.name]
    values = {Address(*where): value for where, value in axes.items()}
    for number, told in inputs.items():
        values |= {
            Address(number - 1, f"input.{key}"): value
            for key, value in zip(("role", "axis", "rest"), told, strict=True)
        }
    return rig.told.with_values(values)


class AllRigs(unittest.TestCase):
    def test_every_axis_of_every_rig_finds_its_home_again_and_as_long_as_rehearsed(self) -> None:
        for name in (each for each in names() if not load(each).parts):
            rig = load(name)
            stand = Stand(rig, truth(rig))
            for slot, letter in enumerate(stand.machine.names):
                with self.subTest(rig=name, axis=letter):
                    self.assertIs(stand.home(slot), HomingResult.FOUND)
                    where = stand.position(slot)
                    away = -way(stand.machine.axis(slot)) * 12.0
                    stand.step(away, 600, slot)
                    began = stand.world.tick
                    mark = c.position_from(stand.drives[slot].homing_places[INDEX_DISTANCE.sub])
                    told = stand.machine.with_values({
                        Address(slot, "homing.mark_distance"): Fraction(round(mark * 10_000), 10_000)
                    })  # fmt: skip
                    self.assertAlmostEqual(where % 360, stands_at(told.axis(slot)) % 360, delta=0.05)
                    said = rehearse(told, slot, distance_to_switch(told, slot, stand.position(slot))).seconds
                    self.assertIs(stand.home(slot), HomingResult.FOUND)
                    self.assertAlmostEqual(stand.position(slot) % 360, where % 360, delta=0.02)
                    self.assertAlmostEqual((stand.world.tick - began) / 1000, said, delta=0.03 * said + CHUNK / 1000)


class Trials(unittest.TestCase):
    """Random machines with random valid set-ups."""

    def test_homing_never_strikes_iron_and_finds_the_same_place(self) -> None:
        for seed in range(TRIALS):
            with self.subTest(seed=seed):
                seen = home_twice(seed)
                self.assertTrue(seen.found)
                self.assertLessEqual(seen.struck, seen.touch)
                self.assertLessEqual(seen.apart, seen.allowed)

    def test_no_end_is_passed_by_more_than_a_count(self) -> None:
        for seed in range(TRIALS // 10):
            self.assertLessEqual(beyond_an_end(seed, 10), 1.0, seed)


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
            self.assertIs(self.home(), HomingResult.FOUND)
            said = rehearse(machine, 0, distance).seconds
            self.assertAlmostEqual((self.world.tick - began) / 1000, said, delta=0.03 * said)


class Failed(HomingCase):
    def test_not_found_within_the_distance(self) -> None:
        self.ready(homing__search=Fraction(40))
        self.assertIs(self.home(), HomingResult.NOT_FOUND)
        self.assertFalse(self.ax["homed"] or self.ax["moving"])

    def test_pressed_at_the_start_and_still_pressed_after_back_off(self) -> None:
        self.ready()
        self.world.wires[1]["held"] = 1
        self.world.run(20)
        self.assertIs(self.home(), HomingResult.PRESSED)
        self.ready(homing__back_off=Fraction(1, 10))
        self.assertIs(self.home(), HomingResult.STILL_PRESSED)

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
        self.assertEqual(int(self.world.firmware[0]["home_result"]), HomingResult.OTHER_END.raw)

    def _limits_of_x(self, *, exchanged: bool = False, dead_home: bool = False) -> None:
        """X with a home switch and a true limit switch at each end of its travel, told rightly or the wrong way round."""
        rig = load("verge")
        ends = (("low", 4.0, 4), ("high", 317.0, 7))
        wires = [
            replace(rig.wire("X home"), name=f"X {side}", input=number, side=1.0 if side == "high" else -1.0, at=place)
            for side, place, number in ends
        ]
        home = replace(rig.wire("X home"), source="finger" if dead_home else "carriage")
        with patch("tests.bench.test_axes.load", lambda _: replace(rig, wires=(home, *wires))):
            self.ready()
        for _, (number, role) in enumerate(((4, LIMIT_LOW), (7, LIMIT_HIGH))):
            self.world.set_input(number, LIMIT_LOW + LIMIT_HIGH - role if exchanged else role, 0, 1, 300)
        self.world.run(5)

    def _stands(self) -> bool:
        before = self.at(0)
        self.world.run(3000)
        return abs(self.at(0) - before) < 0.05 and not self.world.firmware[0]["moving"]

    def test_one_that_ends_in_its_first_tick_moves_nothing(self) -> None:
        self._limits_of_x()
        self.world.wires[7]["held"] = 1  # the limit switch of its own end is made before it begins
        self.world.run(20)
        self.assertIs(self.home(most=3), HomingResult.LIMIT_FIRST)
        self.assertTrue(self._stands())

    def test_with_a_dead_home_switch_the_limit_of_its_end_comes_before_iron(self) -> None:
        self._limits_of_x(dead_home=True)
        self.assertIs(self.home(), HomingResult.LIMIT_FIRST)
        self.assertTrue(self._stands())
        self.assertEqual(float(self.world.plant[0]["struck"]), 0.0)

    def test_from_the_switch_of_the_far_end_only_the_way_off_is_open(self) -> None:
        self._limits_of_x()
        self.step(0, -160, 900)
        self.assertTrue(self.world.firmware[0]["limit_low"])
        self.assertIs(self.home(), HomingResult.FOUND)
        self.drives[0].set_mode(c.MODE_POSITION)
        self.step(0, -100, 900)
        self.world.wires[4]["held"] = 1  # it never lets go
        self.world.run(20)
        self.assertIs(self.home(), HomingResult.OTHER_END)
        self.assertTrue(self._stands())

    def test_a_limit_switch_of_the_wrong_name_stops_and_opens_the_way_back(self) -> None:
        self._limits_of_x(exchanged=True)
        self.step(0, -160, 2400)
        ax = self.world.firmware[0]
        self.assertEqual(float(self.world.plant[0]["struck"]), 0.0)
        self.assertTrue(ax["limit_high"] and ax["limit_hit"] == 1)
        self.drives[0].control(c.ENABLE)
        for distance, moves in ((-1.0, False), (6.0, True)):
            before = self.at(0)
            self.step(0, distance, 600)
            self.assertEqual(abs(self.at(0) - before) > 0.5, moves, distance)

    def test_a_switch_that_is_not_left_is_no_home(self) -> None:
        self.ready(homing__leave=Fraction(0))
        self.assertIs(self.home(), HomingResult.STILL_MADE)
        self.assertFalse(self.ax["homed"])

    def test_a_bounce_longer_than_the_way_between_the_touches_is_no_home(self) -> None:
        self.ready()
        self.drives[0].set_mode(c.MODE_HOMING)
        self.world.home(0)
        ax = self.world.firmware[0]
        for _ in range(30_000):
            self.world.run(1)
            if ax["homing"] == Phase.TOUCH.raw:
                break
        self.world.wires[1]["held"] = 1  # the contact shuts again although the lever is free
        self.world.run(200)
        self.assertEqual((int(ax["home_result"]), int(ax["homed"])), (HomingResult.UNSTEADY.raw, 0))

    def test_no_further_than_the_travel_goes(self) -> None:
        self.ready(homing__search=Fraction(1000))
        self.world.wires[1]["source"] = 1  # a switch that the carriage does not reach
        began = self.position
        self.assertIs(self.home(), HomingResult.NOT_FOUND)
        self.assertAlmostEqual(self.position - began, 318 * 1.1, delta=1.0)

    def test_power_that_goes_while_it_moves_takes_the_home_along(self) -> None:
        for goes in (lambda drive: drive.control(0), lambda drive: drive.lock(True), lambda drive: drive.fault(0xFF03)):
            self.ready()
            self.assertIs(self.home(), HomingResult.FOUND)
            drive = self.drives[0]
            drive.set_mode(c.MODE_VELOCITY)
            drive.set_velocity(c.raw_speed(-3000))
            drive.control(c.ENABLE)
            self.world.run(500)
            self.assertTrue(self.ax["moving"] and self.ax["homed"])
            goes(drive)
            self.assertFalse(self.ax["homed"])

    def test_no_index_mark(self) -> None:
        self.ready(homing__method="switch_index", homing__index_within=Fraction(5))
        self.assertIs(self.home(), HomingResult.NO_INDEX)

    def test_a_limit_switch_can_be_turned_off_to_find_out_what_is_wrong_with_it(self) -> None:
        for on in (True, False):
            self.ready(travel__switches_on=on)
            self.world.set_input(4, LIMIT_LOW, 0, 1, 300)
            self.world.wires[4]["held"] = 1
            self.world.run(5)
            self.assertEqual(bool(self.world.firmware[0]["limit_low"]), on)

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

    def test_two_switches_in_series_on_one_input(self) -> None:
        rig = load("verge")
        chain = (replace(rig.wire("X home"), input=1), replace(rig.wire("Y home"), input=1))
        with patch("tests.bench.test_axes.load", lambda _: replace(rig, wires=chain)):
            self.ready()
        self.world.set_input(1, CHAIN, -1, 1, 300)
        self.world.run(5)
        self.assertIs(self.home(), HomingResult.FOUND)
        self.world.wires[len(self.world.inputs)]["held"] = 1
        self.world.run(20)
        self.assertIs(self.home(), HomingResult.PRESSED)  # by the other axis

    def test_on_one_chain_only_one_axis_at_a_time(self) -> None:
        self.ready()
        self.world.set_input(1, CHAIN, -1, 1, 300)
        self.world.run(5)
        for slot in (0, 1):
            self.drives[slot].set_mode(c.MODE_HOMING)
            for word in (c.ENABLE, c.ENABLE | c.NEW_SETPOINT, c.ENABLE):
                self.drives[slot].control(word)
        self.assertTrue(self.world.firmware[0]["homing"])
        self.assertEqual(int(self.world.firmware[1]["home_result"]), HomingResult.CHAIN_BUSY.raw)


class LimitChain(HomingCase):
    """Every limit switch of X and Y in series on input 4; home switches of their own."""

    def setUp(self) -> None:
        rig = load("verge")
        home_x, home_y = rig.wire("X home"), rig.wire("Y home")
        ends = [
            replace(home, name=f"{axis} {side}", input=4, side=1.0 if side == "high" else -1.0, at=at)
            for axis, home in (("X", home_x), ("Y", home_y))
            for side, at in (("low", 4.0), ("high", rig.motors[home.axis].travel - 1.0))
        ]
        with patch("tests.bench.test_axes.load", lambda _: replace(rig, wires=(home_x, home_y, *ends))):
            self.ready()
        self.world.set_input(4, InputRole.LIMIT_CHAIN.raw, -1, 1, 300)
        self.world.run(100)

    def moved(self, slot: int, distance: float, speed: float = 900.0) -> float:
        """How far it goes when it is asked to, in mm; a stop is acknowledged first."""
        self.drives[slot].control(c.ENABLE)
        before = self.at(slot)
        self.step(slot, distance, speed)
        return self.at(slot) - before

    def test_whichever_end_it_met_only_the_way_back_is_open(self) -> None:
        for slot, distance in ((0, -400.0), (0, 400.0), (1, -400.0), (1, 400.0)):
            self.moved(slot, distance)
            ax, towards = self.world.firmware[slot], math.copysign(1.0, distance)
            self.assertEqual(int(ax["limit_hit"]), towards)
            self.assertEqual(float(self.world.plant[slot]["struck"]), 0.0)
            self.assertLess(abs(self.moved(slot, towards)), 0.01)
            self.assertGreater(abs(self.moved(slot, -8 * towards)), 7.5)
            self.assertFalse(ax["limit_low"] or ax["limit_high"] or ax["limit_chain"])

    def test_until_it_is_clear_the_axis_that_stood_stays(self) -> None:
        self.moved(0, -400.0)
        for distance in (3.0, -3.0):
            self.assertLess(abs(self.moved(1, distance)), 0.01)
        self.assertIs(self.home(1), HomingResult.OTHER_END)
        self.assertGreater(self.moved(0, 8.0), 7.5)
        self.assertGreater(abs(self.moved(1, 3.0)), 2.5)

    def test_made_while_everything_stood_either_way_is_open_slowly(self) -> None:
        self.world.wires[4]["held"] = 1  # a finger, a broken wire, or it was so when the controller got power
        self.world.run(100)
        self.ax = self.world.firmware[0]
        touch = float(self.ax["home_touch"])
        self.drives[0].set_mode(c.MODE_VELOCITY)
        self.drives[0].control(c.ENABLE)
        for sign in (1, -1):
            self.drives[0].set_velocity(c.raw_speed(2400 * sign))
            before = self.at(0)
            self.world.run(1500)
            self.assertAlmostEqual(float(self.ax["velocity"]), sign * touch, delta=0.01 * touch)
            self.assertGreater((self.at(0) - before) * sign, 0.5)

    def test_home_is_found_and_the_chain_before_it_ends_the_search(self) -> None:
        self.assertIs(self.home(), HomingResult.FOUND)
        self.moved(0, -400.0)
        self.assertIs(self.home(), HomingResult.FOUND)  # from the switch of the far end
        self.step(0, -30.0, 900)
        self.world.wires[1]["source"] = 1  # a home switch that does not answer
        self.assertIs(self.home(), HomingResult.LIMIT_FIRST)
        self.assertEqual(float(self.world.plant[0]["struck"]), 0.0)

    def test_a_contact_that_bounces_when_it_is_left_is_not_met_again(self) -> None:
        self.moved(0, -400.0)
        self.world.wires[4]["bounce"] = 20_000.0  # µs, far above its filter
        self.assertGreater(self.moved(0, 12.0), 11.0)
