"""The planner: never beyond a ceiling, never aside by more than is allowed, as long as its closed forms say."""

from __future__ import annotations

import unittest
from fractions import Fraction
from unittest.mock import patch

import numpy as np

from idler.core.machine import Machine
from idler.core.mechanics.pace import Pace
from idler.core.program.choices import Chosen
from idler.core.program.emitting import Sheet
from idler.core.program.faster import faster, savings
from idler.core.program.planning import Planning, Timing, law_record, plan_program
from idler.core.program.reading import Program, read_program
from idler.core.program.sampling import runs
from idler.core.program.state import Array
from idler.core.program.verdict import judge
from tests.core.program.machines import mill
from tests.core.program.made import mixed, polyline

SHAPES = ("constant", "limited", "smoothest")
STEP = 2e-4  # s between places
JERK_STEPS = 12  # of them between places whose third differences are taken, for rounding is divided by the step's cube


USUAL = Chosen()


def read(text: bytes, machine: Machine, chosen: Chosen = USUAL) -> Program:
    program = read_program(text, machine, chosen)
    assert program is not None
    return program


def timed(text: bytes, machine: Machine, chosen: Chosen = USUAL) -> Timing:
    timing = plan_program(read(text, machine, chosen))
    assert timing is not None
    return timing


def aside(places: np.ndarray, corners: np.ndarray) -> float:
    """The largest distance of places (n, 3) from a polyline (m, 3)."""
    begins, ways = corners[:-1], np.diff(corners, axis=0)
    squares = np.maximum((ways**2).sum(1), 1e-30)
    worst = 0.0
    for place in places:
        shares = np.clip(((place - begins) * ways).sum(1) / squares, 0, 1)
        worst = max(worst, float(np.sqrt(((begins + shares[:, None] * ways - place) ** 2).sum(1)).min()))
    return worst


class Ceilings(unittest.TestCase):
    def test_no_axis_is_faster_or_harder_than_it_may_be(self) -> None:
        rng = np.random.default_rng(1)
        cushion = {"travel_cushion": Fraction(15), "travel_cushion_speed": Fraction(1200)}
        for number in range(12):
            shape, more = SHAPES[number % 3], cushion if number % 2 else {}
            machine = mill(shape, **more)
            law = law_record(machine)
            program = read(mixed(rng, 20), machine)
            with self.subTest(shape=shape, number=number):
                spent = 0.0
                for run in (each.places for each in runs(program, STEP)):
                    spent += len(run) * STEP
                    if len(run) < 3 * JERK_STEPS + 1:
                        continue
                    speeds = np.abs(np.diff(run, axis=0)) / STEP
                    self.assertLess((speeds.max(0) / law.top[:4]).max(), 1.0001)
                    rates = np.abs(np.diff(run, 2, axis=0)) / STEP**2
                    self.assertLess((rates.max(0) / law.up[:4]).max(), 1.003)
                    coarse = run[::JERK_STEPS]
                    jerks = np.abs(np.diff(coarse, 3, axis=0)) / (JERK_STEPS * STEP) ** 3
                    self.assertLess((jerks.max(0) / law.jerk[:4]).max(initial=0.0), 1.003)
                    soft = (run[1:, :3] < law.soft_low[:3] - 1e-6) | (run[1:, :3] > law.soft_high[:3] + 1e-6)
                    if more:
                        self.assertLess(speeds[:, :3][soft].max(initial=0.0), 20.01)
                timing = plan_program(program)
                assert timing is not None
                self.assertAlmostEqual(spent, timing.moving, delta=0.002 * timing.moving + 30 * 2 * STEP)

    def test_the_feed_is_never_exceeded_and_the_path_is_cut_by_no_more_than_its_tolerance(self) -> None:
        rng = np.random.default_rng(2)
        for number in range(12):
            machine, tolerance = mill(SHAPES[number % 3]), (0.01, 0.1, 1.0)[number // 3 % 3]
            program = read(polyline(rng, 25, feed=1800).replace(b"G0", b"G1"), machine, Chosen(tolerance=tolerance))
            with self.subTest(number=number):
                corners = program.sheet.ends[: program.moves, :3]
                for run in (each.places for each in runs(program, 10 * STEP)):
                    speeds = np.sqrt((np.diff(run[:, :3], axis=0) ** 2).sum(1)) / (10 * STEP)
                    self.assertLess(speeds.max(initial=0.0), 30 * 1.0001)
                    self.assertLess(
                        aside(run[::5, :3], np.vstack((program.start[None, :3], corners))), tolerance * 1.001 + 1e-6
                    )

    def test_it_begins_and_ends_where_it_is_told(self) -> None:
        rng = np.random.default_rng(3)
        for shape in SHAPES:
            program = read(mixed(rng, 20), mill(shape))
            at = program.start
            for run in (each.places for each in runs(program, STEP)):
                np.testing.assert_allclose(run[0], at, atol=0.02)
                at = run[-1]
            np.testing.assert_allclose(at, program.sheet.ends[program.moves - 1], atol=0.02)


class Times(unittest.TestCase):
    def test_a_single_move_takes_what_its_closed_form_says(self) -> None:
        rng = np.random.default_rng(4)
        for number in range(60):
            machine = mill(SHAPES[number % 3], jerk=int(rng.integers(500, 100_000)))
            way = float(rng.uniform(0.001, 299))
            pace = Pace.of(machine.axis(0))
            assert pace is not None
            timing = timed(f"G21 G90 G61\nG0 X0\nX{way:.4f}".encode(), machine)
            self.assertAlmostEqual(timing.moving, pace.move(round(way, 4)).duration, delta=1e-5 * timing.moving + 1e-6)

    def test_never_quicker_than_its_feeds_and_never_slower_than_with_exact_stops(self) -> None:
        rng = np.random.default_rng(5)
        for number in range(45):
            machine = mill(SHAPES[number % 3], jerk=int(rng.integers(500, 100_000)))
            text = polyline(rng, 30, feed=float(rng.integers(100, 9000)))
            program = read(text, machine, Chosen(tolerance=float(rng.choice([0.001, 0.02, 0.5]))))
            timing = plan_program(program)
            assert timing is not None
            ends = np.vstack((program.start, program.sheet.ends[: program.moves]))
            lengths = np.sqrt((np.diff(ends, axis=0) ** 2).sum(1))
            rates = program.rates
            fed = rates > 0
            with self.subTest(number=number):
                self.assertGreaterEqual(timing.moving, float((lengths[fed] / rates[fed]).sum()) * (1 - 1e-5))
                stopped = timed(b"G61\n" + text, machine)
                self.assertLessEqual(timing.moving, stopped.moving * (1 + 1e-6))

    def test_an_inch_changes_nothing(self) -> None:
        rng = np.random.default_rng(6)
        for number in range(9):
            machine = mill(SHAPES[number % 3])
            places = rng.uniform((20, 20, -60), (280, 180, 10), (30, 3)).round(3)
            texts = [
                "\n".join((f"{unit} G90 F{900 / scale:.9f}",
                           *(f"G1 X{x / scale:.9f} Y{y / scale:.9f} Z{z / scale:.9f}" for x, y, z in places)))
                for unit, scale in (("G21", 1.0), ("G20", 25.4))
            ]  # fmt: skip
            first, second = (timed(text.encode(), machine) for text in texts)
            self.assertAlmostEqual(first.moving, second.moving, delta=1e-5 * first.moving)

    def test_a_long_run_is_planned_piece_by_piece_as_the_whole(self) -> None:
        """Longer than what is looked ahead over: a straight line in very many parts takes what it takes in one."""
        machine = mill()
        parts = 80_000
        text = "G21 G90 F3000\nG1 X0\n" + "".join(f"X{100 * at / parts:.5f}\n" for at in range(1, parts + 1))
        self.assertAlmostEqual(timed(text.encode(), machine).moving, 100 / 50 + 50 / 500, delta=0.001)

    def test_what_is_planned_behind_the_reading_is_what_is_planned_at_once(self) -> None:
        """Whatever the moves are that have been read when it looks, and however the sheet has grown since."""
        rng = np.random.default_rng(14)
        for case in range(40):
            machine, text = mill(SHAPES[case % 3]), (polyline, mixed)[case % 2](rng, 60)
            at_once, room = int(rng.integers(1, 20)), int(rng.choice([2, 10**6]))
            with (
                self.subTest(case), patch("idler.core.program.reading.AT_ONCE", at_once),
                patch("idler.core.program.reading.BYTES_PER_MOVE", room),
            ):  # fmt: skip
                np.testing.assert_array_equal(self.behind(text, machine).result, timed(text, machine).result)

    def behind(self, text: bytes, machine: Machine) -> Timing:
        """Planned behind the reading, which waits for it each time."""
        looks = []
        with Planning(machine, USUAL) as planning:

            def look(sheet: Sheet, moves: int, start: Array) -> None:
                looks.append(moves)
                planning.read(sheet, moves, start)
                planning.rest()

            program = read_program(text, machine, USUAL, reads=look)
            assert program is not None
            timing = planning.end(program, lambda _: True)
        assert timing is not None
        self.assertGreater(len(looks), 2)
        return timing

    def test_a_faster_axis_saves_what_it_saves(self) -> None:
        machine, faster = mill(), mill(pace_acceleration=Fraction(2000), pace_deceleration=Fraction(2000))
        program = read(b"G21 G90 G61\nG0 X0\nX4\nX0\nX4", machine)
        slow, quick = plan_program(program), plan_program(program, faster)
        assert slow is not None and quick is not None
        self.assertAlmostEqual(slow.moving / quick.moving, 2.0, places=5)

    def test_what_a_faster_axis_would_save_is_told_of_the_one_that_holds_back(self) -> None:
        machine = mill()
        text = "G21 G90 G61 S500 M3 F6000\nG1 X0 Y0\n" + "".join(f"X{at} Y{5 * (at % 2)}\n" for at in range(1, 60))
        found = judge(text.encode(), machine, Chosen())
        assert found is not None
        self.assertGreater(found.held_back, 0.9)
        saved = savings(found)
        self.assertEqual([saving.axis for saving in saved], ["Y"])
        quicker = plan_program(found.program, faster(machine, 1))
        assert quicker is not None
        self.assertAlmostEqual(saved[0].seconds, found.timing.total - quicker.total)
        self.assertIn("1 000 mm/s² on Y", saved[0].words.replace("\u202f", " ").replace("\u2009", " "))


if __name__ == "__main__":
    unittest.main()
