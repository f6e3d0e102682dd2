"""Scale: the estimate against random machines, honest verdicts, and causes before fudge factors."""

from __future__ import annotations

import math
import random
import unittest
from dataclasses import replace
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from idler.core.machine import Axis, Machine
from idler.core.mechanics.chain import Chain
from idler.core.mechanics.mistakes import ScaleCause, causes, slips
from idler.core.mechanics.pulses import longer_pulses, surer_reversals
from idler.core.mechanics.scale import (
    INSTRUMENTS,
    Instrument,
    Pass,
    Verdict,
    alone,
    by_way,
    contradiction,
    estimate,
    fitting,
    instrument_needed,
    lacking,
    lost_steps,
    move_needed,
    placed,
    verdict,
    worst_way,
)
from idler.core.mechanics.scalewords import percent, proof_words, sentence
from idler.core.proof.claims import Proof, Witness, claims, evidence, scale_claim, state
from idler.core.values.stage import Stage
from tests.support import A, X, at, verge

WIDTH, RATE = at(None, "signals.pulse_width"), at(None, "signals.step_rate")

RULE, CALIPER, DIAL, BLOCKS = (
    next(item for item in INSTRUMENTS if item.key == key) for key in ("rule", "caliper", "dial", "blocks")
)


def read(instrument: Instrument, truth: float, dice: random.Random) -> float:
    """What a person reads: to the nearest division, with a hand that scatters."""
    return round((truth + dice.gauss(0, instrument.resolution / 5)) / instrument.resolution) * instrument.resolution


def measured(instrument: Instrument, length: float, told: float, true: float, dice: random.Random) -> Pass:
    """A move of so many mm by the told counts on a machine with the true ones, zero and end read off."""
    start = dice.uniform(0, 0.5)
    moved = length * told / true
    return Pass(length, read(instrument, start + moved, dice) - read(instrument, start, dice), told, instrument)


class Estimates(unittest.TestCase):
    def test_the_interval_holds_the_truth_as_often_as_it_says(self) -> None:
        dice, held, times = random.Random(11), 0, 2000
        for _ in range(times):
            told = dice.uniform(100, 5000)
            true = told * (1 + dice.uniform(-0.02, 0.02))
            found = estimate([measured(CALIPER, 100, told, true, dice) for _ in range(3)])
            held += abs(found.counts_per_unit / true - 1) <= found.expanded
        self.assertGreater(held / times, 0.94)

    def test_one_pass_in_closed_form(self) -> None:
        one = Pass(100, 99.9, 320, CALIPER)
        found = estimate([one])
        self.assertAlmostEqual(found.counts_per_unit, 32000 / 99.9)
        self.assertAlmostEqual(found.relative, one.uncertainty / 99.9)
        self.assertAlmostEqual(found.error(320), 320 * 99.9 / 32000 - 1)
        self.assertAlmostEqual(RULE.reading, 0.5 * math.sqrt(1 / 12 + 1 / 25))

    def test_each_pass_has_an_error_against_what_is_told_now(self) -> None:
        before, after = Pass(50, 40, 320, CALIPER), Pass(-100, -100, 400, CALIPER)
        self.assertAlmostEqual(before.error(320), -0.2)
        self.assertAlmostEqual(before.error(400), 0)
        self.assertAlmostEqual(after.error(400), 0)

    def test_a_finer_instrument_counts_for_more_and_four_passes_for_twice(self) -> None:
        coarse, fine = Pass(100, 101, 320, RULE), Pass(100, 100, 320, CALIPER)
        self.assertAlmostEqual(estimate([coarse, fine]).error(320), 0, delta=2e-4)
        one, four = estimate([fine]), estimate([fine] * 4)
        self.assertAlmostEqual(one.relative / four.relative, 2)

    def test_passes_before_and_after_a_correction_go_together(self) -> None:
        before, after = Pass(100, 80, 320, CALIPER), Pass(100, 100, 400, CALIPER)
        self.assertAlmostEqual(estimate([before, after]).counts_per_unit, 400, delta=0.01)

    def test_play_that_was_not_taken_up_widens_it(self) -> None:
        self.assertGreater(Pass(100, 100, 320, DIAL, play=0.1).uncertainty, 4 * Pass(100, 100, 320, DIAL).uncertainty)

    def test_which_instruments_fit(self) -> None:
        self.assertEqual({item.key for item in fitting(True)}, {"protractor", "mark"})

    def test_a_mark_tells_whole_turns_only(self) -> None:
        mark = next(item for item in fitting(True) if item.key == "mark")
        for length, fits in ((360, True), (-720, True), (30, False), (361, False), (0, False), (36_360, False)):
            self.assertIs(mark.fits(length), fits, length)
        self.assertEqual(move_needed(mark, 100.0, 0.005) % 360, 0)
        self.assertEqual(instrument_needed(30, 100.0, 0.05, rotary=True).key, "protractor")  # type: ignore[union-attr]
        self.assertIn("dial", {item.key for item in fitting(False)})


class Verdicts(unittest.TestCase):
    def test_nothing_reversed_off_proven(self) -> None:
        self.assertIs(verdict([], 320, 0.001), Verdict.NOTHING)
        self.assertIs(verdict([Pass(100, -80, 320, CALIPER)], 320, 0.001), Verdict.REVERSED)
        self.assertIs(verdict([Pass(100, 80, 320, CALIPER)], 320, 0.001), Verdict.OFF)
        self.assertIs(verdict([Pass(100, 100, 320, CALIPER)] * 3, 320, 0.001), Verdict.PROVEN)

    @given(st.floats(0.0005, 0.05), st.floats(0.1, 20), st.integers(0, 10**6))
    def test_a_rule_is_never_said_to_prove_what_it_cannot(self, tolerance: float, length: float, seed: int) -> None:
        dice = random.Random(seed)
        passes = [measured(RULE, length, 400, 400, dice) for _ in range(3)]
        found = estimate(passes)
        if found is not None and found.expanded > tolerance:
            self.assertIsNot(verdict(passes, 400, tolerance), Verdict.PROVEN)

    @given(st.floats(20, 3000), st.floats(-0.3, 0.4), st.integers(0, 10**6))
    def test_a_dial_and_three_corrections_reach_two_hundredths_of_a_percent(
        self, told: float, off: float, seed: int
    ) -> None:
        """Moves of 100 mm between stops that are measured by gauge blocks and a dial; each pass corrects."""
        blocks = next(item for item in INSTRUMENTS if item.key == "blocks")
        dice = random.Random(seed)
        true, counts = told * (1 + off), told
        passes: list[Pass] = []
        for _ in range(3):
            passes.append(measured(blocks, 100, counts, true, dice))
            counts = estimate(passes).counts_per_unit
        self.assertLess(abs(counts / true - 1), 2e-4)

    @given(st.sampled_from(INSTRUMENTS), st.floats(1e-4, 0.01), st.integers(1, 5))
    def test_what_is_said_to_be_needed_is_enough(self, instrument: Instrument, tolerance: float, passes: int) -> None:
        length = move_needed(instrument, 10_000, tolerance, passes)
        good = [Pass(length, length * (1 + tolerance * 0.49), 10_000, instrument)] * passes
        self.assertIs(verdict(good, 10_000, tolerance), Verdict.PROVEN)
        finer = instrument_needed(length, 10_000, tolerance, passes, rotary=instrument.rotary)
        if length <= instrument.reach:
            self.assertGreaterEqual(finer.resolution, instrument.resolution)


def train(**values: object) -> Axis:
    """X of the defaults with some values of its train changed."""
    changed = {at(X, f"chain.{key}"): value for key, value in values.items()}
    return Machine(("X",)).with_values(changed).axis(X)  # type: ignore[arg-type]


class Scattering(unittest.TestCase):
    caliper = INSTRUMENTS[1]

    def passes(self, *measured: float) -> list[Pass]:
        return [Pass(100, each, 320, self.caliper) for each in measured]

    def test_passes_that_scatter_widen_the_uncertainty_by_their_birge_ratio(self) -> None:
        calm, wild = self.passes(100, 100, 100), self.passes(99.9, 100.0, 100.1)
        one = calm[0].uncertainty
        ratio = math.sqrt((2 * (0.1 / one) ** 2) / 2)
        self.assertAlmostEqual(estimate(wild).relative / estimate(calm).relative, ratio, places=2)
        self.assertIs(verdict(wild, 320, 1e-3), Verdict.APART)

    @given(st.lists(st.floats(-0.01, 0.01), min_size=2, max_size=6), st.integers(0, 5))
    def test_one_that_lies_alone_is_found_and_only_that(self, noise: list[float], place: int) -> None:
        good = self.passes(*(100 + part for part in noise))
        self.assertIsNone(alone(good))
        odd = [*good[:place], *self.passes(103.0), *good[place:]]
        if len(good) > 2:
            self.assertEqual(alone(odd), min(place, len(good)))
        self.assertGreater(estimate(odd).expanded, estimate(good).expanded)


class Causes(unittest.TestCase):
    def test_every_slip_is_an_edit_that_gives_its_ratio(self) -> None:
        staged = verge().with_values({at(X, "chain.stages"): (Stage.parse("20 to 60 teeth"), Stage.parse("3 : 1"))})
        belt = verge().with_values({at(X, "chain.final"): "belt"})
        rack = verge().with_values({at(X, "chain.final"): "rack"})
        for machine, slot in ((verge(), X), (verge(), A), (staged, X), (belt, X), (rack, X)):
            told = Chain.of(machine.axis(slot)).counts_per_unit
            listed = list(slips(machine.axis(slot)))
            self.assertGreater(len(listed), 20)
            for slip in listed:
                true = Chain.of(machine.with_values(dict(slip.edit)).axis(slot)).counts_per_unit
                self.assertAlmostEqual(float(told / true), slip.ratio, msg=slip.words)

    def test_a_size_is_named_as_it_is_made_whatever_the_screen_reads(self) -> None:
        words = [slip.words for slip in slips(verge().with_values({at(None, "names.screen_unit"): "in"}).axis(X))]
        self.assertIn("its screw has a pitch of 4 mm, not 5 mm", words)
        self.assertIn("its screw has a pitch of 0.2 in (5 turns per inch), not 5 mm", words)

    def test_the_four_common_ones_are_named(self) -> None:
        for ratio, words in (
            (0.5, "16 microsteps"),
            (0.8, "pitch of 4 mm"),
            (1.016, "5 turns per inch"),
            (2.0, "2 starts"),
        ):
            found = causes(verge().axis(X), ratio * 1.0002, 2e-4)
            self.assertTrue(any(words in cause.slip.words for cause in found), (ratio, [c.slip.words for c in found]))
            self.assertLessEqual(sum(cause.probability for cause in found), 1)

    def test_a_unit_that_was_another_one_is_named(self) -> None:
        inches = at(None, "names.screen_unit"), "in"
        for told, inch, ratio, words in (
            ({"chain.pitch": Fraction("0.23")}, False, 25.4, "pitch of 5.842 mm, not 0.23 mm"),
            ({"chain.pitch": Fraction(5)}, False, 1 / 25.4, "the instrument says inches"),
            ({"chain.pitch": Fraction(5), "chain.microsteps": 8}, True, 25.4, "the instrument says millimetres"),
            ({"chain.final": "belt", "chain.belt_pitch": Fraction("76.2")}, True, 1 / 25.4, "its belt has a pitch of"),
        ):
            values = {at(X, key): value for key, value in told.items()} | (dict([inches]) if inch else {})
            found = causes(verge().with_values(values).axis(X), ratio * 1.0001, 2e-4)
            self.assertTrue(any(words in cause.slip.words for cause in found), (words, [c.slip.words for c in found]))
        found = causes(verge().axis(X), 25.4, 2e-4)  # no screw is so steep, and the screen says millimetres
        self.assertEqual([cause.slip.key for cause in found], [""])

    def test_an_honest_screw_is_left_alone_and_so_is_what_nobody_knows(self) -> None:
        for ratio in (1.0, 1.0006, 0.9991):
            self.assertEqual(causes(verge().axis(X), ratio, 2e-4), [], ratio)
        (only,) = causes(verge().axis(X), 0.9317, 2e-4)
        self.assertEqual((only.slip.words, only.listed), ("a part that nobody listed", False))

    def test_what_else_explains_a_figure_is_named_and_none_is_sure_beside_another(self) -> None:
        ratio = (Stage.parse("4 : 1"),)
        for axis, told, words, cross in (
            (train(stages=ratio), 4 / 5, "stage 1 is 5 : 1, not 4 : 1", False),
            (train(stages=ratio), 4.0, "there is no stage 1", False),
            (train(motor="counts", motor_counts=2500), 1 / 4, "lines of the encoder were told for counts", False),
            (train(final="rack"), 1 / math.pi, "π was forgotten", False),
            (train(final="rack", module=Fraction(1)), 25.4 / 24, "a module of 1.0583 mm", False),
            (train(final="direct", turn_travel=Fraction(10)), 25.4, "inches were told as millimetres", False),
            (train(final="direct", turn_travel=Fraction(10)), math.pi, "π was forgotten", False),
            (train(final="belt", belt_pitch=Fraction(5)), 8 / 5, "a pitch of 8 mm", False),
            (train(), 0.5, "a radius was read where the diameter was told", True),
        ):
            with self.subTest(words):
                found = causes(axis, told * 1.0001, 1e-4, cross=cross)
                self.assertTrue(any(words in cause.slip.words for cause in found), [c.slip.words for c in found])
                self.assertEqual(found[-1].slip.words, "a part that nobody listed")
                if sum(cause.listed for cause in found) > 1:
                    self.assertLess(max(cause.probability for cause in found), 0.9)

    def test_a_coarse_measurement_names_nothing_that_it_cannot_tell(self) -> None:
        self.assertEqual(causes(verge().axis(X), 1.012, 0.02), [])


class Signals(unittest.TestCase):
    def test_a_pulse_too_short_is_among_the_causes_of_a_way_too_short(self) -> None:
        def named(pulse: str, ratio: float) -> list[ScaleCause]:
            machine = verge().with_values({WIDTH: Fraction(pulse)})
            found = causes(machine.axis(X), ratio, 1e-4, Fraction(pulse), longer_pulses(machine))
            return [cause for cause in found if cause.slip.key == WIDTH.key]

        self.assertTrue(named("1.5", 0.5))  # half the way: the microsteps would explain it as well
        self.assertTrue(named("1.5", 0.63))
        self.assertFalse(named("1.5", 2.0))  # nothing that misses pulses goes too far
        self.assertGreater(named("10", 0.8182)[0].probability, 0.5)  # no slip explains it, and a factor would hide it
        self.assertFalse(named("10", 0.995))  # an inaccurate screw
        self.assertFalse(named("20", 0.8182))  # that was tried

    def test_what_makes_reversals_surer_comes_to_an_end(self) -> None:
        machine, tried = verge(), []
        while edit := surer_reversals(machine):
            machine = machine.with_values(edit)
            tried += [(where.key, value) for where, value in edit.items()]
        setup = "signals.direction_setup"
        self.assertEqual(tried, [(setup, 15), (setup, 100)])

    def test_longer_pulses_leave_the_top_speeds_their_steps_or_lower_them(self) -> None:
        machine = verge().with_values({WIDTH: Fraction("2.5"), RATE: Fraction(120)})
        self.assertEqual(longer_pulses(machine), {WIDTH: 20, RATE: 25})
        for axis in machine.axes:
            needed = Chain.of(axis).step_rate(axis.number("pace.top_speed"))
            self.assertLessEqual(needed, machine.with_values(longer_pulses(machine)).step_rate)
        self.assertEqual(longer_pulses(machine.with_values({WIDTH: Fraction(20)})), {})
        fast = machine.with_values({at(X, "chain.microsteps"): 64, at(X, "pace.top_speed"): Fraction(3000)})
        self.assertEqual(longer_pulses(fast)[WIDTH], 5, "128 000 steps in a second")
        while edit := longer_pulses(fast):
            fast = fast.with_values(edit)
            for axis in fast.axes:
                self.assertLessEqual(Chain.of(axis).step_rate(axis.number("pace.top_speed")), fast.step_rate)
            self.assertLessEqual(fast[WIDTH] * 2 * fast.step_rate, 1_000_000)
        self.assertEqual(fast[WIDTH], 20)


class Contradictions(unittest.TestCase):
    def test_passes_of_an_honest_machine_do_not_contradict_each_other(self) -> None:
        dice, wrong = random.Random(11), 0
        for _ in range(400):
            item = dice.choice(INSTRUMENTS[:5])
            length = min(item.reach, 100) * 0.9
            passes = [Pass(length, read(item, length, dice), 320, item) for _ in range(4)]
            wrong += contradiction(passes) > 1
        self.assertLessEqual(wrong, 3)

    def test_steps_lost_in_a_fast_pass_are_told_from_scatter(self) -> None:
        slow, fast = Pass(60, 60.0, 320, BLOCKS, speed=60), Pass(60, 59.8, 320, BLOCKS, speed=3000)
        found = lost_steps([slow, fast])
        assert found is not None
        self.assertAlmostEqual(found[0], 0.2 / 60, delta=1e-4)
        self.assertIsNone(lost_steps([slow, replace(fast, measured=60.0)]))
        self.assertIsNone(lost_steps([fast]))


class Ways(unittest.TestCase):
    """A screw whose play is not the same along its way: there and back are not equally long."""

    THERE, BACK = Pass(90, 90.014, 320, BLOCKS), Pass(-90, -89.986, 320, BLOCKS)
    TOLERANCE = 2e-4

    def verdict(self, *passes: Pass) -> Verdict:
        return verdict(passes, 320, self.TOLERANCE)

    def test_each_way_is_gone_twice_and_both_must_be_within(self) -> None:
        there, back = self.THERE, self.BACK
        self.assertIs(self.verdict(there), Verdict.PROVEN)
        self.assertIs(self.verdict(there, back), Verdict.WAYS)
        self.assertEqual(
            [lacking(passes) for passes in ([there, back], [there, there, back], [there, back, back])], [1, -1, 1]
        )
        both = [there, back, back, there]
        self.assertEqual((self.verdict(*both), lacking(both)), (Verdict.PROVEN, 0))
        words = sentence(verge().axis(X), both, Verdict.PROVEN, 320, self.TOLERANCE, 90, BLOCKS)
        self.assertIn("To + it goes 0.016 % too far", words)
        self.assertIn("to − it goes 0.016 % too short", words)
        self.assertIn(f"within {percent(worst_way(both, 320))}", proof_words(both, 320, verge().axis(X).reads))
        short = [Pass(p.commanded / 2, p.commanded / 2 + p.measured - p.commanded, 320, BLOCKS) for p in both]
        self.assertIs(self.verdict(*short), Verdict.WAYS)
        self.assertIn(
            "Measure its play", sentence(verge().axis(X), short, Verdict.WAYS, 320, self.TOLERANCE, 45, BLOCKS)
        )

    def test_what_differs_on_one_way_or_by_more_than_play_is_a_contradiction(self) -> None:
        other = replace(self.THERE, measured=89.986)
        self.assertIs(self.verdict(self.THERE, other, self.BACK, self.BACK), Verdict.APART)
        self.assertIs(self.verdict(self.THERE, other), Verdict.APART)
        far = replace(self.BACK, measured=-89.5)
        self.assertIs(self.verdict(self.THERE, self.THERE, far, far), Verdict.APART)

    def test_what_was_made_elsewhere_is_left_where_play_may_explain_it_and_no_more(self) -> None:
        here = replace(self.THERE, start=-100.0)
        self.assertEqual(placed([self.BACK, here]), [here])
        self.assertIsNone(placed([replace(self.BACK, measured=-89.5), here]))
        self.assertIsNone(placed([here, here]))
        self.assertIsNone(placed([self.BACK, self.THERE]))

    @given(st.lists(st.tuples(st.sampled_from((-90, 90)), st.floats(-0.03, 0.03)), min_size=2, max_size=8))
    def test_nothing_that_contradicts_is_proven_but_by_ways_that_both_are(self, drawn: list[tuple[int, float]]) -> None:
        passes = [Pass(way, way + off, 320, BLOCKS) for way, off in drawn]
        if contradiction(passes) > 1 and self.verdict(*passes) is Verdict.PROVEN:
            for one in by_way(passes):
                self.assertGreaterEqual(len(one), 2)
                self.assertIs(self.verdict(*one), Verdict.PROVEN)


class Correction(unittest.TestCase):
    def test_the_train_stays_as_drawn_beside_what_was_measured(self) -> None:
        corrected = verge().with_values({at(X, "chain.correction"): Fraction("0.9998")})
        chain = Chain.of(corrected.axis(X))
        self.assertEqual(chain.counts_per_unit, Fraction(320) / Fraction("0.9998"))
        self.assertTrue(chain.derivation.endswith("÷ (5 × 0.9998)"))

    def test_a_proof_of_the_scale_rests_on_the_train_in_use(self) -> None:
        machine = verge()
        claim = scale_claim(machine, X)
        self.assertIn(claim, claims(machine))
        kept = {claim.key: evidence(machine, claim, 1e9, True, "to 0.02 %", Witness.EYES)}
        for key, value, still in (
            ("chain.pitch", Fraction(4), False), ("chain.correction", Fraction("1.0001"), False),
            ("chain.module", Fraction(3), True), ("pace.top_speed", Fraction(100), True),
        ):  # fmt: skip
            changed: Machine = machine.with_values({at(X, key): value})
            self.assertEqual(state(changed, scale_claim(changed, X), kept) is Proof.PROVEN, still, key)
