"""Figures, what a sheet shows of them, what must be so before a run, and the legs of a track."""

from __future__ import annotations

import random
import unittest
from fractions import Fraction

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from idler.core.errors import Refusal
from idler.core.geometry.level import Grid, bed
from idler.core.machine import Machine
from idler.core.mechanics.scale import INSTRUMENTS
from idler.core.program.choices import Chosen
from idler.core.program.track import FEEDS, RAPIDS, RESTS, Track, ends_of_lines, track_of
from idler.core.program.verdict import Verdict, judge
from idler.core.proof.workzero import COUNT, WorkSet, WorkZero
from idler.core.trial import figures, symmetry
from idler.core.trial.made import feed_made
from idler.core.trial.measured import judge_sizes, play_of_flat, read_size
from idler.core.trial.skimming import highest, skim_of
from idler.core.trial.starting import Now, needs, obstacle_of
from tests.core.program.machines import mill
from tests.support import X, Y, at, verge, wired

PERIOD = 0.004
MIDDLE = {"X": 150.0, "Y": 100.0, "Z": -30.0}


def judged(text: str, machine: Machine) -> Verdict:
    found = judge(text.encode(), machine, Chosen({0: MIDDLE}, stands=MIDDLE))
    assert found is not None
    return found


def tracked(text: str, machine: Machine) -> Track:
    found = judged(text, machine)
    track = track_of(found.program, found.timing, PERIOD)
    assert track is not None
    return track


class Stops(unittest.TestCase):
    """Every stop, and all that is switched, in the order of the program."""

    def told(self, text: str) -> list[tuple[str, int]]:
        legs = tracked(text, wired()).legs
        found = []
        for leg in legs:  # who asks is asked before anything is switched
            found += [("asks", leg.asks)] if leg.asks else []
            found += [("spindle", leg.spindle)] if leg.spindle is not None else []
            found += [("coolant", leg.coolant)] if leg.coolant is not None else []
        return found

    def test_a_move_that_goes_nowhere_hides_none(self) -> None:
        self.assertEqual(self.told("G21 G90\nG0 X0 Y0 Z0\nM0\nG0 X1\nM30\n"), [("asks", 3)])
        self.assertEqual(self.told("G21 G90\nG0 X1\nG0 X1\nM0\nX1\nM0\nG1 X1 F100\nM0\nX2\nM30\n"),
                         [("asks", 4), ("asks", 6), ("asks", 8)])  # fmt: skip

    def test_the_spindle_is_off_before_somebody_is_asked_to_reach_in(self) -> None:
        got = self.told("G21 G90\nG0 X1\nS1000 M3\nG1 X2 F100\nM5\nM0\nG0 X3\nM30\n")
        self.assertEqual(got[:3], [("spindle", 1000), ("spindle", 0), ("asks", 6)])

    def test_none_is_lost_whatever_stands_around_it(self) -> None:
        words = ("G0 X{x}", "G1 Y{y} F600", "G0 X0 Y0", "M0", "T1 M6", "G4 P0.1", "S1000 M3", "M5", "M8", "M9",
                 "G1 X{x} Y{y} F900", "G61", "G64 P0.1")  # fmt: skip
        for seed in range(60):
            dice = random.Random(seed)
            body = [dice.choice(words).format(x=dice.choice((0, 0, 1, 2)), y=dice.choice((0, 1))) for _ in range(14)]
            asked = [number for number, line in enumerate(body, start=2) if "M0" in line or "M6" in line]
            with self.subTest(seed=seed):
                got = self.told("\n".join(["G21 G90", *body, "G0 X5", "M30", ""]))
                self.assertEqual([line for what, line in got if what == "asks"], asked, body)


class Figures(unittest.TestCase):
    def test_each_of_them_is_a_program_without_a_fault(self) -> None:
        machine = mill()
        for kind in figures.KINDS:
            with self.subTest(kind):
                figure = figures.checked(kind, {"width": 50.0, "feed": 900.0})
                found = judged(figures.program_of(figure), machine)
                self.assertEqual([item.text for item in found.problems if item.code != "spindle_off"], [])
                low, high = found.envelope.extents["X"]
                drawn = [u for line in figures.outline(figure) for u, _ in line]
                self.assertAlmostEqual(low, min(*drawn, 0.0) + 150, places=6)
                self.assertAlmostEqual(high, max(*drawn, 0.0) + 150, places=6)

    def test_the_sizes_are_those_that_were_asked_for(self) -> None:
        for kind, wide, high in (("square", 50, 30), ("hook", 50, 30), ("circle", 50, 50), ("corners", 50, 30)):
            figure = figures.checked(kind, {"width": 50.0, "height": 30.0, "x": -7.0, "y": 3.0})
            places = np.array([place for line in figures.outline(figure) for place in line])
            np.testing.assert_allclose(places.max(0) - places.min(0), (wide, high), atol=1e-9)
            np.testing.assert_allclose(places.min(0), (-7, 3), atol=1e-9)

    def test_skimming_covers_the_bed_and_goes_no_deeper_at_once_than_is_wished(self) -> None:
        figure = figures.checked("skim", {"width": 100.0, "height": 61.0, "cutter": 20.0, "depth": 1.0, "step": 0.4})
        line = figures.outline(figure)[0]
        rows = sorted({round(v, 6) for _, v in line})
        self.assertEqual((rows[0], rows[-1]), (10.0, 51.0))
        self.assertLessEqual(max(np.diff(rows)), 20 * 0.75 + 1e-9)
        depths = [word for word in figures.program_of(figure).split() if word.startswith("Z-")]
        self.assertEqual(depths, ["Z-0.3333", "Z-0.6667", "Z-1"])
        with self.assertRaisesRegex(Refusal, "smaller than the cutter"):
            figures.outline(figures.checked("skim", {"width": 10.0}))

    def test_what_is_no_figure_is_refused_in_a_sentence(self) -> None:
        for kind, wishes in (
            ("star", {}),
            ("square", {"cutter": 3.0}),
            ("square", {"width": 0.0}),
            ("hook", {"speed": 3.0}),
        ):
            with self.subTest(kind), self.assertRaises(Refusal):
                figures.checked(kind, wishes)
        self.assertEqual(figures.read_wishes(["width=2 in", "feed=600"]), {"width": 50.8, "feed": 600.0})
        for text in ("width", "breadth=3", "width=far"):
            with self.subTest(text), self.assertRaises(Refusal):
                figures.read_wishes([text])
        asked = figures.FIELDS["feed"]
        self.assertEqual(figures.read_field(verge(), asked, figures.shown_field(verge(), asked, 1200.0)), 1200.0)


class Hook(unittest.TestCase):
    def test_it_falls_upon_itself_in_no_way_but_one(self) -> None:
        for size in ((60.0, 40.0), (40.0, 60.0), (50.0, 50.0), (50.0, 12.0)):
            asked = np.array(figures.HOOK, float) * size
            for seen in symmetry.WAYS:
                drawn = np.array([seen.of(u, v) for u, v in asked]) + np.array((17.0, -200.0))
                self.assertEqual(symmetry.recognised(drawn), seen)

    def test_a_line_that_is_no_hook_is_none(self) -> None:
        square = np.array([(0, 0), (60, 0), (60, 40), (0, 40), (0, 0)], float)
        self.assertIsNone(symmetry.recognised(square))
        self.assertIsNone(symmetry.recognised(square[:1]))

    @given(st.booleans(), st.booleans(), st.sampled_from(symmetry.WAYS))
    def test_the_edit_makes_it_as_asked(self, first: bool, second: bool, seen: symmetry.Seen) -> None:
        """A machine whose true wiring makes what was seen makes what was asked for once the edit is in force."""
        machine = verge().with_values({at(X, "axis.reversed"): first, at(Y, "axis.reversed"): second})
        motors = {machine.axis(slot).whole("axis.output"): slot for slot in (X, Y)}
        # Each motor moves one way on the sheet, with a sense that its axis's sign turns round.
        along = {output: (1 - slot if seen.swapped else slot) for output, slot in motors.items()}
        way = (seen.right, seen.up)
        sense = {
            output: way[along[output]] * (-1 if machine.axis(slot).flag("axis.reversed") else 1)
            for output, slot in motors.items()
        }
        mended = machine.with_values(symmetry.edit(machine, (X, Y), seen))
        for slot in (X, Y):
            axis = mended.axis(slot)
            output = axis.whole("axis.output")
            self.assertEqual(along[output], slot)
            self.assertEqual(sense[output] * (-1 if axis.flag("axis.reversed") else 1), 1)

    def test_sizes_name_the_axis_that_is_not_to_scale(self) -> None:
        machine = verge()
        self.assertTrue(judge_sizes(machine, (X, Y), (60.0, 60.0), (60.1, 59.9)).held)
        found = judge_sizes(machine, (X, Y), (60.0, 60.0), (72.0, 60.0))
        self.assertEqual((found.held, found.figures), (False, {"X": 12.0, "Y": 0.0}))
        self.assertIn("X goes 20.0 % too far", found.words)
        self.assertEqual(read_size(machine.axis(X), 60.0, "6 cm"), 60.0)
        with self.assertRaises(Refusal):
            read_size(machine.axis(X), 60.0, "0.6 mm")

    @given(st.floats(5, 200), st.floats(0.005, 1.0))
    def test_a_flat_tells_the_play_that_leaves_it(self, radius: float, play: float) -> None:
        """A circle gone round both ways by an axis that stands still until its play is taken up."""
        turn = np.linspace(0, np.pi / 2, 200_001)
        stands = radius * (1 - np.cos(turn)) <= play
        flat = 2 * float((radius * np.sin(turn))[stands].max())
        found, open_ = play_of_flat(radius, flat)
        self.assertAlmostEqual(found, play, delta=0.01 * play + 1e-4)
        self.assertAlmostEqual(
            open_, (play_of_flat(radius, flat + 1e-4)[0] - found) / 1e-4, delta=0.01 * open_
        )  # of a mm more

    @given(st.floats(0.1, 1.0), st.integers(2, 40))
    def test_a_feed_is_way_by_time_whatever_was_held(self, rate: float, looks: int) -> None:
        track = tracked("G21 G90\nG0 X5\nG1 X45 F1200\nG1 Y30 F600\nM0\nG1 X0 F600\nM30\n", mill())
        rates = judged("G21 G90\nG0 X5\nG1 X45 F1200\nG1 Y30 F600\nM0\nG1 X0 F600\nM30\n", mill()).program.rates
        marks, gone = [], 0.0
        for number, leg in enumerate(track.legs):
            for sample in np.linspace(0, len(leg.rows) - 1, looks).tolist():
                marks.append((number, sample, gone + sample * PERIOD / rate))
            gone = marks[-1][2]
        found = feed_made(track, rates, marks)
        assert found is not None
        way = 40 + 30 + 45
        self.assertAlmostEqual(found.asked, way / (40 / 1200 + 75 / 600), delta=0.5)
        whole = feed_made(track, rates, [(leg, sample, ran * rate) for leg, sample, ran in marks])
        assert whole is not None
        self.assertAlmostEqual(found.made, rate * whole.made, delta=1e-6 * whole.made)
        self.assertLess(whole.made, found.asked)
        self.assertIsNone(feed_made(track, rates, marks[:1]))


class Skim(unittest.TestCase):
    @given(st.lists(st.floats(-0.2, 0.2), min_size=9, max_size=9), st.floats(2, 60), st.floats(-50, 50))
    def test_a_skim_from_the_map_passes_over_every_place_and_below_all(
        self, heights: list[float], cutter: float, zero: float
    ) -> None:
        machine = mill()
        grid = Grid(80.0, 60.0, 120.0, 70.0, 3, 3)
        found = bed(grid, heights, INSTRUMENTS[0], 0.001)
        wishes = skim_of(machine, (X, Y), found, {"X": zero, "Y": 2 * zero}, cutter)
        figure = figures.checked("skim", {**wishes, "cutter": cutter})
        line = np.array(figures.outline(figure)[0])
        middle = line + np.array((zero, 2 * zero))
        np.testing.assert_allclose(middle.min(0), (80, 60), atol=1e-6)
        np.testing.assert_allclose(middle.max(0), (200, 130), atol=1e-6)
        self.assertGreaterEqual(figure.value("depth"), max(heights) - min(heights))
        self.assertIn("highest", highest(machine, (X, Y), found))
        with self.assertRaises(Refusal):
            skim_of(machine, (X, Y), found, {"X": zero}, cutter)


class Tracks(unittest.TestCase):
    def test_legs_begin_at_stops_and_at_speeds_of_the_spindle(self) -> None:
        machine = wired()
        track = tracked("G21 G90\nG0 X1\nM0 (turn it)\nS1000 M3\nG1 X5 F600\nS1500\nX8\nM5\nG0 X0\nM30\n", machine)
        self.assertEqual([(leg.asks, leg.spindle) for leg in track.legs], [(0, None), (3, 1000), (0, 1500), (0, 0)])
        for one, other in zip(track.legs[:-1], track.legs[1:], strict=True):
            np.testing.assert_allclose(one.places[-1], other.places[0])
        self.assertEqual(track.slots(), (0,))

    def test_it_stands_for_as_long_as_it_waits(self) -> None:
        track = tracked("G21 G90\nG1 X1 F600\nG4 P2\nG0 X3\nM30\n", wired())
        (leg,) = track.legs
        waits = leg.ways == RESTS
        self.assertAlmostEqual(waits.sum() * PERIOD, 2.0, delta=2 * PERIOD)
        self.assertEqual(float(np.ptp(leg.places[waits], axis=0).max()), 0.0)
        self.assertEqual({int(way) for way in leg.ways}, {RESTS, RAPIDS, FEEDS})
        self.assertEqual([int(track.lines[leg.rows[last]]) for last in ends_of_lines(leg)], [2, 3, 4])

    def test_what_no_machine_does_is_refused_and_not_left_out(self) -> None:
        for text in ("G21 G90\nS500 M3\nG84 X1 Z-5 R1 F500\nM30\n", "G21 G90 G96 S100 M3\nG1 X1 F100\nM30\n"):
            with self.subTest(text), self.assertRaisesRegex(Refusal, "turns the spindle back"):
                tracked(text, wired())

    @settings(max_examples=20, deadline=None)
    @given(st.lists(st.tuples(st.floats(-40, 40), st.floats(-40, 40), st.booleans()), min_size=1, max_size=12))
    def test_it_begins_and_ends_where_the_program_does_and_takes_its_time(
        self, ways: list[tuple[float, float, bool]]
    ) -> None:
        lines = [f"G{0 if rapid else 1} X{x:.3f} Y{y:.3f} F900" for x, y, rapid in ways]
        machine = mill()
        found = judged("\n".join(["G21 G90", *lines, "M30"]), machine)
        track = track_of(found.program, found.timing, PERIOD)
        assert track is not None
        leg = track.legs[0]
        np.testing.assert_allclose(leg.places[0], found.program.start)
        np.testing.assert_allclose(leg.places[-1], found.program.sheet.ends[found.program.moves - 1], atol=1e-6)
        runs = 2 * len(ways) + 2  # each may end up to two places late
        self.assertAlmostEqual(track.seconds, found.timing.total, delta=runs * PERIOD)
        self.assertTrue((np.diff(leg.rows) >= 0).all())


class Before(unittest.TestCase):
    def test_one_sentence_says_what_is_missing(self) -> None:
        machine = wired().with_values({at(slot, "travel.limits_on"): True for slot in (0, 1, 2)})
        names = {"X", "Y", "Z"}

        def why(dry: bool = True, speeds: tuple[int, ...] = (), used: tuple[int, ...] = (0,), **other: object) -> str:
            facts = {
                "obstacle": "",
                "powered": True,
                "homed": names,
                "zeros": {0: names},
                "changed": False,
                "spindle": "",
            } | other
            now = Now(**facts)  # type: ignore[arg-type]
            counted = dict.fromkeys(used, names)
            return obstacle_of(needs(machine, names, counted, 0, speeds, True, "", now, {}, dry=dry))

        self.assertEqual(why(), "")
        for words, other in (
            ("drives are off", {"powered": False}), ("Y: not homed", {"homed": {"X", "Z"}}),
            ("G54 of Z: no work zero", {"zeros": {0: {"X", "Y"}}}), ("changed since it was checked", {"changed": True}),
            ("the axes are others", {"obstacle": "the axes are others."}),
        ):  # fmt: skip
            with self.subTest(words):
                self.assertIn(words.casefold(), why(**other).casefold())
        self.assertEqual(why(speeds=(1000,)), "")
        self.assertIn("G56 of X, Y and Z: no work zero", why(used=(0, 2)))
        self.assertIn("not proven", why(dry=False, speeds=(1000,)))
        self.assertIn("guard is open", why(dry=False, speeds=(1000,), spindle="The guard is open."))

    def test_each_axis_is_counted_from_the_zero_in_force_where_it_goes(self) -> None:
        for text, counted in (
            ("G0 X1\nG55 Y2\nX5", {0: ("X",), 1: ("X", "Y")}), ("G55 G1 X10 F100", {1: ("X",)}),
            ("G53 G0 Z0\nG56 X150", {2: ("X",)}), ("G4 P1", {}), ("G0 X0 Y0\nG53 X5", {0: ("X", "Y")}),
        ):  # fmt: skip
            with self.subTest(text):
                found = judged(f"G21 G90\n{text}\nM30", mill())
                self.assertEqual(found.program.counted, counted)


class Zeros(unittest.TestCase):
    @given(st.lists(st.tuples(st.integers(0, COUNT - 1), st.sampled_from("XYZ"), st.floats(-500, 500)), max_size=20))
    def test_each_keeps_its_own_places(self, put: list[tuple[int, str, float]]) -> None:
        found, told = WorkSet(), dict[tuple[int, str], float]()
        for number, axis, place in put:
            found = found.put(number, {axis: WorkZero(place)})
            told[number, axis] = place
        kept = {(number, axis): zero.at for number in range(COUNT) for axis, zero in found.at(number).items()}
        self.assertEqual(kept, told)
        copied = found.copied(0, 5)
        self.assertEqual(copied.at(5), found.at(0))
        self.assertEqual(found.put(0, dict.fromkeys(found.at(0))).at(0), {})

    def test_a_place_of_another_train_counts_nothing(self) -> None:
        machine = verge()
        from idler.core.proof.workzero import taken

        zeros = WorkSet().put(2, {"X": taken(machine, X, 12.0)})
        self.assertEqual(zeros.valid(machine), {2: {"X": 12.0}})
        other = machine.with_values({at(X, "chain.pitch"): Fraction(7)})
        self.assertEqual(zeros.valid(other), {})


if __name__ == "__main__":
    unittest.main()
