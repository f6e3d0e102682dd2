"""Points, curves, run-ups, encoder, way oil and rules of the spindle: closed forms and properties."""

from __future__ import annotations

import math
import unittest
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from idler.core.errors import Refusal
from idler.core.machine import Address, Machine
from idler.core.profile.terminals import Condition
from idler.core.proof.claims import Proof, Witness, claims, curve_claim, evidence, spindle_claims, state
from idler.core.rules.findings import findings
from idler.core.spindle import Meter, allowed_error, chain, meters, ranges, speed_range
from idler.core.spindle.encoder import USUAL_LINES, cause_of_ratio, from_hand, sign_words
from idler.core.spindle.interlocks import ladder, obstacle_of
from idler.core.spindle.oil import SHIFT, Day, Spell, counted, day_in_words, days, now_in_words, strokes
from idler.core.spindle.runup import SpeedTrace, from_pulses, wait_for
from idler.core.spindle.speedcurve import (
    Miss,
    Sample,
    cause,
    first_levels,
    fit,
    level_play,
    levels_near,
    lies_in,
    misses,
    next_level,
    speeds_to_try,
    worst,
)
from idler.core.values.speedpoints import MOST_POINTS, level_for, points, points_text, problem_of_points, speed_at
from tests.support import at, wired

NONE = Condition(0)


def told(values: dict[str, object], base: Machine | None = None) -> Machine:
    """Values by key: of the machine, or of its first range."""
    made = {Address(0 if key.startswith("range.") else None, key): value for key, value in values.items()}
    return (base or wired()).with_values(made)  # type: ignore[arg-type]


@st.composite
def rising(draw: st.DrawFn) -> tuple[tuple[float, float], ...]:
    count = draw(st.integers(2, MOST_POINTS))
    levels = sorted(draw(st.sets(st.integers(0, 1000), min_size=count, max_size=count)))
    speeds = sorted(draw(st.sets(st.integers(1, 99_999), min_size=count, max_size=count)))
    return tuple((level / 10, speed / 10) for level, speed in zip(levels, speeds, strict=True))


class Points(unittest.TestCase):
    @given(rising())
    def test_text_reads_back(self, found) -> None:
        self.assertEqual(points(points_text(found)), found)

    @given(rising(), st.floats(0, 1))
    def test_a_level_gives_the_speed_that_it_was_looked_up_for(self, found, share) -> None:
        rpm = found[0][1] + share * (found[-1][1] - found[0][1])
        self.assertAlmostEqual(speed_at(found, level_for(found, rpm)), rpm, delta=1e-6 * max(rpm, 1))

    @given(rising(), st.floats(-1e6, 1e6))
    def test_no_speed_asks_for_a_level_beyond_the_points(self, found, rpm) -> None:
        self.assertTrue(found[0][0] <= level_for(found, rpm) <= found[-1][0])

    def test_what_is_wrong_is_said(self) -> None:
        for text, why in (
            ("10 600", "1 points"), ("10 600, 5 700", "does not go up"), ("10 600, 20 600", "does not go up"),
            ("10 600, 101 700", "beyond"), ("ten 600, 20 700", "“ten 600”"), ("", "“”"),
            (", ".join(f"{k} {k + 1}" for k in range(17)), "17 points"),
        ):  # fmt: skip
            with self.subTest(text):
                self.assertIn(why, problem_of_points(text))
        with self.assertRaises(Refusal):
            told({"range.points": "10 600"})


def measured(curve, noise=0.0, play=0.0, levels=(), typed=False) -> list[Sample]:
    """A sweep as a run makes it, of a curve from level in % to rpm. typed: upwards only."""
    levels = levels or first_levels()
    samples = [Sample(level, True, curve(level - play / 2)) for level in levels]
    samples += [Sample(level, False, curve(level + play / 2)) for level in (() if typed else reversed(levels))]
    for _ in range(8):
        closer = next_level(samples)
        if closer is None:
            break
        samples.append(Sample(closer, True, curve(closer - play / 2)))
    return samples


def drive(dead: float, full: float, top: float, bend: float, wave: float = 0.0):
    def curve(level: float) -> float:
        share = min(max((level - dead) / (full - dead), 0.0), 1.0)
        return top * (share + bend * share * (1 - share) + wave * math.sin(2 * math.pi * share))

    return curve


class Fitting(unittest.TestCase):
    @given(st.floats(0, 12), st.floats(88, 100), st.floats(500, 24_000), st.floats(-0.15, 0.2), st.floats(0, 0.12))
    def test_the_correction_leaves_less_than_is_allowed(self, dead, full, top, bend, play) -> None:
        truth = drive(dead, full, top, bend)
        curve = fit(measured(truth, play=play))
        assert curve is not None
        found = ranges(wired())[2]
        for speed in speeds_to_try(found, curve) if curve.top > found.low else ():
            error = truth(level_for(curve.points, speed)) - speed
            self.assertLessEqual(abs(error), allowed_error(speed), (speed, error))

    @given(st.floats(0, 20), st.floats(80, 100), st.floats(-0.1, 0.2), st.floats(0, 0.02), st.integers(0, 2))
    def test_few_levels_become_enough_where_speeds_are_off(self, dead, full, bend, wave, slot) -> None:
        """Measured anew by hand: each speed that was off is a point of its own then. A level is told to 0.1 %."""
        found = ranges(wired())[slot]
        truth, missed = drive(dead, full, 1.03 * found.high, bend, wave), []
        for _ in range(4):
            curve = fit(measured(truth, levels=levels_near(first_levels(by_hand=True), found, missed), typed=True))
            assert curve is not None
            found = replace(found, points=curve.points)
            missed = [
                Miss(speed, truth(round(found.level(speed), 1)) - speed) for speed in speeds_to_try(found, count=4)
            ]
            if worst(missed).share <= 1:
                return
        self.fail(f"{missed}")

    @given(st.floats(1, 12), st.floats(88, 99), st.floats(-0.1, 0.1))
    def test_dead_band_and_end_are_found_to_a_percent(self, dead, full, bend) -> None:
        curve = fit(measured(drive(dead, full, 3000, bend)))
        assert curve is not None
        self.assertAlmostEqual(curve.dead, dead, delta=1.1)
        self.assertAlmostEqual(curve.full, full, delta=1.6)
        self.assertAlmostEqual(curve.top, 3000, delta=1)

    def test_play_is_the_difference_between_up_and_down(self) -> None:
        curve = fit(measured(drive(0, 100, 1000, 0), play=1.0))
        assert curve is not None
        self.assertAlmostEqual(curve.play, 10, delta=0.2)
        self.assertAlmostEqual(curve.at(50), 500, delta=3)

    @given(st.floats(0, 10), st.floats(90, 100), st.floats(-0.15, 0.2))
    def test_points_rise_and_are_few(self, dead, full, bend) -> None:
        curve = fit(measured(drive(dead, full, 6000, bend), play=0.1))
        assert curve is not None
        self.assertLessEqual(len(curve.points), MOST_POINTS)
        self.assertTrue(all(a[0] < b[0] and a[1] < b[1] for a, b in pairwise(curve.points)))
        self.assertEqual(problem_of_points(points_text(curve.points)), "")

    def test_a_spindle_that_hardly_turns_has_no_curve(self) -> None:
        self.assertIsNone(fit([]))
        self.assertIsNone(fit(measured(lambda level: 0.0)))
        self.assertIsNone(fit([Sample(0, True, 0), Sample(50, True, 0), Sample(100, True, 900)]))

    def test_nothing_is_looked_for_once_both_ends_are_close(self) -> None:
        self.assertIsNone(next_level([]))
        self.assertIsNone(next_level([Sample(0, True, 0), Sample(100, True, 0)]))
        samples = measured(drive(6, 94, 6000, 0))
        self.assertIsNone(next_level(samples))
        self.assertEqual(next_level([Sample(0, True, 0), Sample(8, True, 500), Sample(100, True, 6000)]), 4.0)

    def test_a_cause_is_named_for_a_plain_ratio(self) -> None:
        listed = ranges(wired())
        for top, words in (
            (2800, "range 2"),
            (3000, "every second pulse"),
            (1500, "four times too many"),
            (7200, "60 Hz"),
        ):
            curve = fit(measured(drive(0, 100, top, 0)))
            assert curve is not None
            self.assertIn(words, cause(listed, listed[2], curve))
        self.assertIsNone(lies_in(listed, listed[2], 3000))
        slower = replace(listed[0], points=((5.0, 100.0), (90.0, 4400.0)))  # it goes faster than it is asked to
        self.assertEqual(lies_in((slower, *listed[1:]), listed[2], 4450), slower)
        good = fit(measured(drive(0, 100, 5900, 0)))
        assert good is not None
        self.assertEqual(cause(listed, listed[2], good), "")

    def test_misses_and_the_worst_of_them(self) -> None:
        curve = fit(measured(drive(0, 100, 1000, 0)))
        assert curve is not None
        found = misses(curve, ((0, 0), (100, 1100)), (550.0, 110.0))
        self.assertAlmostEqual(found[0].error, -50, delta=0.5)
        self.assertEqual(worst([Miss(100, 6), Miss(5000, 20)]), Miss(100, 6))
        self.assertEqual((allowed_error(100), allowed_error(-5000)), (5, 50))
        self.assertEqual(level_play([Miss(100, 2), Miss(900, 1), Miss(100, 14, above=True)]), 12)
        self.assertEqual(level_play([Miss(100, 2), Miss(300, 14, above=True)]), 0, "none was tried both ways")


class Chain(unittest.TestCase):
    def test_every_link_from_command_to_spindle(self) -> None:
        links = chain(wired(), ranges(wired())[2], 3000)
        self.assertEqual(
            [link.figure for link in links], ["3000 rpm", "50.0 %", "5.00 V", "1364 rpm", "× 2.2", "3000 rpm"]
        )
        held = chain(wired(), ranges(wired())[2], 100)
        self.assertEqual((held[0].how, held[-1].figure), ("held to 900", "900 rpm"))

    def test_pulse_width_and_bus(self) -> None:
        self.assertIn("bus", [link.title for link in chain(told({"spindle.kind": "modbus"}), ranges(wired())[0], 500)])
        relay = chain(told({"spindle.kind": "relay"}), ranges(wired())[0], 500)
        self.assertEqual([link.title for link in relay], ["commanded", "motor", "range 1", "spindle"])

    def test_measured_points_are_gone_by(self) -> None:
        found = speed_range(told({"range.points": "10 100, 90 900"}), 0)
        self.assertEqual((found.level(500), found.speed(50), found.level(5)), (50, 500, 15))

    def test_what_can_measure(self) -> None:
        self.assertEqual(meters(wired()), [Meter.TYPED])
        machine = told({"spindle.counts": 4096}).with_values({at(7, "input.role"): "pulse"})
        self.assertEqual(meters(machine), [Meter.ENCODER, Meter.PULSE, Meter.TYPED])


class RunUp(unittest.TestCase):
    @given(st.floats(0.1, 2), st.floats(100, 10_000))
    def test_a_first_order_rise_settles_after_four_time_constants(self, tau, top) -> None:
        """1 - exp(-t/τ) = 0.98 at t = τ·ln 50."""
        times = tuple(k * tau / 100 for k in range(1500))
        trace = SpeedTrace(times, tuple(top * (1 - math.exp(-t / tau)) for t in times))
        found = trace.settled()
        assert found is not None
        self.assertAlmostEqual(found / tau, math.log(50), delta=0.05)

    @given(st.floats(0.1, 2), st.floats(2000, 10_000))
    def test_what_runs_down_is_not_said_to_stand_before_it_hardly_turns(self, tau, top) -> None:
        """exp(-t/τ) = 0.003 at t = τ·ln(1000/3)."""
        times = tuple(k * tau / 100 for k in range(1800))
        found = SpeedTrace(times, tuple(top * math.exp(-t / tau) for t in times)).settled()
        assert found is not None
        share = max(0.003, 5.0 / top)
        self.assertAlmostEqual(found / tau, math.log(1 / share), delta=0.05)

    def test_pulses_become_speed_and_standstill(self) -> None:
        steady = [k * 0.01 for k in range(1, 100)]
        self.assertTrue(all(abs(v - 6000) < 1e-6 for v in from_pulses(steady, 1, 1.0).speeds[1:]))
        self.assertAlmostEqual(from_pulses(steady, 2, 1.0).speeds[-1], 3000)
        stops = from_pulses([*steady, 1.02, 1.1], 1, 5.0)
        self.assertEqual(stops.speeds[-1], 0)
        self.assertAlmostEqual(stops.settled() or 0, 1.14, delta=0.01)

    def test_nothing_settles_where_nothing_changed(self) -> None:
        self.assertIsNone(SpeedTrace((0, 1, 2, 3), (5, 5, 5, 5)).settled())
        self.assertIsNone(SpeedTrace((), ()).settled())

    @given(st.floats(0.001, 100))
    def test_a_wait_is_longer_than_what_was_measured_and_round(self, measured) -> None:
        wait = wait_for(measured)
        self.assertTrue(1.15 * measured - 1e-6 <= wait <= 1.15 * measured + 0.0501)
        self.assertAlmostEqual(wait * 20, round(wait * 20))


class Encoder(unittest.TestCase):
    @given(st.sampled_from(USUAL_LINES), st.floats(-0.024, 0.024), st.integers(1, 10), st.booleans())
    def test_a_hand_that_comes_back_to_its_mark_finds_the_lines(self, lines, astray, turns, backwards) -> None:
        moved = round(lines * 4 * (turns + astray)) * (-1 if backwards else 1)
        found = from_hand(moved, turns)
        assert found is not None
        if found.again:  # two usual encoders fit
            self.assertLess(turns, 5)
            found = from_hand(round(lines * 4 * (found.again + astray)), found.again)
            assert found is not None
        self.assertEqual((found.counts, found.lines, found.again), (lines * 4, lines, 0))

    def test_where_two_encoders_fit_five_turns_are_asked_for(self) -> None:
        for moved in (2000, 2024, 2048, 4000, 4096):
            found = from_hand(moved, 1)
            assert found is not None
            self.assertEqual(found.again, 5, moved)
        self.assertIn("encoders of 500 and 512 lines fit. Turn it 5 times", from_hand(2024, 1).words)  # type: ignore[union-attr]
        alone = from_hand(1440, 1)
        assert alone is not None
        self.assertEqual((alone.lines, alone.again), (360, 0))

    def test_no_usual_encoder_and_none_at_all(self) -> None:
        odd = from_hand(3300, 1)
        assert odd is not None
        self.assertEqual((odd.counts, odd.lines), (3300, 0))
        self.assertIsNone(from_hand(3, 1))

    def test_ratio_and_sign_in_words(self) -> None:
        self.assertIn("each gives four counts", cause_of_ratio(720, 180))
        for measured, why in ((45, "four times too high"), (360, "only two counts"), (90, "twice too high")):
            self.assertIn(why, cause_of_ratio(measured, 180))
        for measured in (181, 0, 450, 810):
            self.assertEqual(cause_of_ratio(measured, 180), "")
        self.assertIn("they agree", sign_words(1, 300))
        self.assertIn("tracks are swapped", sign_words(-1, 300))
        self.assertEqual(sign_words(1, 0), "")


class Oil(unittest.TestCase):
    def test_what_the_controller_counts_in_words(self) -> None:
        every = told({"oil.seconds": Fraction(5), "oil.every": Fraction(30), "oil.of": "motion"})
        self.assertEqual(
            now_in_words(every, 3, 750),
            "3 strokes so far, as the controller counts; the next one after 18 min of motion.",
        )
        self.assertIn("told to give none", now_in_words(told({"oil.seconds": Fraction(0)}), 0, 0))

    DAY = Day("a made-up one", (Spell(0, 480),), (Spell(0, 100), Spell(90, 130), Spell(200, 290)), (Spell(40, 60),))

    def strokes(self, **values: object) -> tuple[float, ...]:
        return strokes(told({f"oil.{key}": value for key, value in values.items()}), self.DAY)

    def test_only_time_of_the_kind_counts_and_is_carried_over(self) -> None:
        self.assertEqual(self.strokes(every=Fraction(50), of="motion"), (50, 100, 220, 270))
        self.assertEqual(self.strokes(every=Fraction(15), of="spindle"), (55,))
        self.assertEqual(self.strokes(every=Fraction(200), of="power"), (200, 400))
        self.assertEqual(self.strokes(seconds=Fraction(0)), ())

    @given(st.integers(1, 300), st.sampled_from(("motion", "spindle", "either", "power")))
    def test_as_many_strokes_as_whole_periods_fit_into_the_time(self, every, of) -> None:
        machine = told({"oil.every": Fraction(every), "oil.of": of})
        for day in days():
            spells = counted(machine, day)
            self.assertTrue(all(a.end < b.begin for a, b in pairwise(spells)))
            total = sum(spell.long for spell in spells)
            self.assertEqual(len(strokes(machine, day)), int(total / every + 1e-9))
            self.assertTrue(all(0 <= minute <= SHIFT for minute in strokes(machine, day)))

    def test_the_day_in_words(self) -> None:
        self.assertIn("not stroke once", day_in_words(told({"oil.every": Fraction(900)}), self.DAY))
        words = day_in_words(told({"oil.every": Fraction(50)}), self.DAY)
        self.assertIn("4 strokes in this shift, 4.8 ml of oil", words)
        self.assertIn("210 min", words)


class Rules(unittest.TestCase):
    def found(self, machine: Machine, code: str):
        return [item for item in findings(machine) if item.code == code]

    def settles(self, machine: Machine, code: str) -> None:
        """The rule speaks, and its own edit silences it."""
        (item,) = self.found(machine, code)
        self.assertTrue(item.edit, code)
        self.assertEqual(self.found(machine.with_values(dict(item.edit)), code), [])

    def test_edits_settle(self) -> None:
        third = {at(2, "range.points"): "5 60, 97 5948"}
        for code, machine in (
            ("no_start_speed", told({"spindle.kind": "relay"})),
            ("range_empty", told({"range.low": Fraction(2000)})),
            ("engaged_not_there", told({"spindle.engaged": 4})),
            ("faster_than_measured", wired().with_values(third)),
            ("slower_than_measured", wired().with_values({at(2, "range.points"): "20 1200, 97 6000"})),
            ("oil_never", told({"oil.seconds": Fraction(0)})),
            ("oil_always", told({"oil.seconds": Fraction(60), "oil.every": Fraction(1)})),
            ("oil_much", told({"oil.seconds": Fraction(40), "oil.every": Fraction(5)})),
            ("oil_rarely", told({"oil.every": Fraction(1200)})),
            ("range_not_there", wired().with_values({at(10, "input.role"): "range_4"})),
        ):
            with self.subTest(code):
                self.settles(machine, code)

    def test_one_speed_is_all_that_a_relay_gives(self) -> None:
        one = {"range.low": Fraction(1400), "range.high": Fraction(1400)}
        self.assertEqual(self.found(told({"spindle.kind": "relay", **one}), "range_empty"), [])
        self.assertTrue(self.found(told({"spindle.kind": "voltage", **one}), "range_empty"))
        self.assertTrue(self.found(told({"spindle.kind": "relay", "range.low": Fraction(7000)}), "range_empty"))

    def test_without_an_edit(self) -> None:
        self.assertTrue(self.found(wired().with_values({at(10, "input.role"): "range_1"}), "range_without_input"))
        self.assertTrue(self.found(wired().with_values({at(5, "output.role"): "none"}), "oil_not_wired"))
        bus = told({"spindle.kind": "modbus"}).with_values({at(0, "output.role"): "none"})
        self.assertTrue(self.found(bus, "bus_without_enable"))


class Ladder(unittest.TestCase):
    def rungs(self, machine: Machine, conditions: Condition = NONE, **more: bool):
        return ladder(machine, conditions, **{"fault": False, "powered": True, **more})

    def test_the_first_open_rung_says_why(self) -> None:
        machine = told({"spindle.needs_drives": True}).with_values(
            {at(10, "input.role"): "ready", at(11, "input.role"): "range_1"}
        )
        self.assertEqual(obstacle_of(machine, self.rungs(machine)), "")
        for conditions, more, words in (
            (Condition.STOP | Condition.GUARD, {}, "emergency stop"), (Condition.GUARD, {}, "guard is open"),
            (NONE, {"fault": True}, "fault"), (Condition.NOT_READY, {}, "ready"), (NONE, {"powered": False}, "drives are off"),
            (Condition.NO_RANGE, {}, "no speed range"), (NONE, {"speed": False}, "above zero"),
        ):  # fmt: skip
            with self.subTest(words):
                self.assertIn(words, obstacle_of(machine, self.rungs(machine, conditions, **more)))

    def test_rungs_that_nothing_is_wired_to_are_not_there(self) -> None:
        titles = [rung.title for rung in self.rungs(wired())]
        self.assertEqual(titles, ["emergency stop", "guard", "no fault", "a speed", "an output"])
        self.assertFalse(self.rungs(told({"spindle.kind": "none"}))[-1].closed)

    def test_a_speed_for_a_bare_start_closes_its_rung(self) -> None:
        bare = told({"spindle.start_speed": Fraction(500)})
        self.assertEqual(obstacle_of(bare, self.rungs(bare, speed=False)), "")


class Claims(unittest.TestCase):
    def test_one_for_each_range_and_way_of_stopping(self) -> None:
        keys = [claim.key for claim in spindle_claims(wired())]
        self.assertEqual(keys, ["spindle.way", "speed.1", "times.1", "speed.2", "times.2", "speed.3", "times.3",
                                "spindle.esc", "spindle.stop", "spindle.guard", "spindle.link"])  # fmt: skip
        self.assertEqual(spindle_claims(told({"spindle.kind": "none"})), [])
        self.assertNotIn("speed.1", [claim.key for claim in spindle_claims(told({"spindle.kind": "relay"}))])
        self.assertTrue({"speed.3", "spindle.link"} <= {claim.key for claim in claims(wired())})

    def test_a_speed_proven_goes_stale_with_its_points_and_not_with_those_of_another_range(self) -> None:
        claim = curve_claim(wired(), 0)
        kept = {claim.key: evidence(wired(), claim, 0.0, True, "8 speeds", Witness.EYES)}
        self.assertIs(state(wired(), claim, kept), Proof.PROVEN)
        other = wired().with_values({at(1, "range.points"): "1 2, 3 4"})
        self.assertIs(state(other, curve_claim(other, 0), kept), Proof.PROVEN)
        changed = told({"range.points": "1 2, 3 4"})
        self.assertIs(state(changed, curve_claim(changed, 0), kept), Proof.STALE)
