"""What is made of edges: blocks on the wire, learning by touch, the filter study, trials and proofs."""

from __future__ import annotations

import copy
import random
import unittest
from fractions import Fraction

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from idler.core.profile.edges import EdgeBlock, glance, pack_edges, unless_any, unpack_edges
from idler.core.proof.claims import Proof, Witness, changed_since, claims, evidence, quiet_claim, state, wiring_claims
from idler.core.report.progress import train
from idler.core.table.stations import Station
from idler.core.wiring.filterstudy import Study, cost, proposals, quiet, rounded_up, study
from idler.core.wiring.learning import Learner, Touch
from idler.core.wiring.signals import Hand, stood_still
from idler.core.wiring.trials import (
    GuardTrial,
    Held,
    Outcome,
    StopTrial,
    TerminalsSeen,
    TouchRound,
    TouchTrial,
    held_of,
)
from tests.support import X, at, verge, wired

MS = 1000


class Blocks(unittest.TestCase):
    @given(
        st.lists(st.tuples(st.integers(0, 2**26), st.integers(0, 31), st.booleans()), max_size=30),
        st.integers(0, 2**40),
    )
    def test_what_is_packed_comes_out_again(self, gaps: list[tuple[int, int, bool]], start: int) -> None:
        times = start + np.cumsum([gap for gap, _, _ in gaps], dtype=np.int64)
        inputs = np.array([slot for _, slot, _ in gaps], np.uint8)
        closed = np.array([level for _, _, level in gaps], np.uint8)
        now = int(times[-1]) + 5 if gaps else start
        block = unpack_edges(pack_edges(7, now, times, inputs, closed))
        self.assertEqual((block.first, block.now, len(block)), (7, now, len(gaps)))
        for got, sent in ((block.times, times), (block.inputs, inputs), (block.closed, closed)):
            np.testing.assert_array_equal(got, sent)

    def test_bytes_that_are_cut_off(self) -> None:
        whole = pack_edges(0, 9, np.array([1, 2]), np.array([0, 1]), np.array([1, 0]))
        for cut in (0, 7, len(whole) - 1):
            with self.assertRaises(ValueError):
                unpack_edges(whole[:cut])

    @given(
        st.integers(0, 2**31), st.integers(0, 3), st.integers(0, 2**40), st.integers(0, 2**26 - 1), st.integers(1, 15)
    )
    def test_one_word_stands_for_a_block_where_nothing_waits(
        self, first: int, edges: int, now: int, gone: int, others: int
    ) -> None:
        some = np.zeros(edges, np.int64)
        last, later = EdgeBlock(first, now, some, some, some), now + gone * MS
        found = unless_any(last, glance(first + edges, later, waits=False))
        assert found is not None
        self.assertEqual((found.first, len(found)), (first + edges, 0))
        self.assertTrue(now <= found.now <= later < found.now + MS)
        self.assertIsNone(unless_any(last, glance(first + edges, later, waits=True)))
        self.assertIsNone(unless_any(last, glance(first + edges + others, later, waits=False)))  # another has read some
        if now >= MS:
            self.assertIsNone(unless_any(last, glance(first + edges, now - MS, waits=False)))  # it has begun anew


class Learning(unittest.TestCase):
    """Time goes on in steps of 20 ms, as the screen would feed it."""

    def learn(
        self, edges: list[tuple[int, int, int]], levels: tuple[int, ...] = (1, 1, 0, 0), end: int = 3000
    ) -> list[Touch]:
        learner = Learner(levels, 0)
        edges = sorted(edges)
        found: list[Touch] = []
        for begin in range(0, end * MS, 20 * MS):
            part = [edge for edge in edges if begin < edge[0] <= begin + 20 * MS]
            learner.feed([e[0] for e in part], [e[1] for e in part], [e[2] for e in part], begin + 20 * MS)
            found += learner.take()
        return found

    @staticmethod
    def press(slot: int, rest: int, at_ms: int, held_ms: int, bounces: int = 2) -> list[tuple[int, int, int]]:
        made, level = [], 1 - rest
        for k in range(2 * bounces + 1):
            made.append((at_ms * MS + k * 300, slot, level))
            level = 1 - level
        return [*made, ((at_ms + held_ms) * MS, slot, rest)]

    def test_a_press_is_seen_with_its_level_at_rest(self) -> None:
        for slot, rest in ((1, 1), (2, 0)):
            (touch,) = self.learn(self.press(slot, rest, 1000, 400))
            self.assertEqual((touch.input, touch.closed, touch.at), (slot, bool(rest), 1_000_000))

    def test_what_chatters_is_left_aside(self) -> None:
        dice = random.Random(3)
        noise, at_us, level = [], 0, 0
        while at_us < 3_000_000:
            at_us += dice.randrange(200, 60_000)
            level = 1 - level
            noise.append((at_us, 3, level))
        (touch,) = self.learn([*noise, *self.press(0, 1, 1500, 500)])
        self.assertEqual(touch.input, 0)

    def test_chattering_is_said_of_what_goes_on_and_not_of_a_hand(self) -> None:
        for gap in (200, 5_000, 60_000, 200_000):
            learner, edges = Learner((1, 1), 0), [(at, 0, k % 2) for k, at in enumerate(range(gap, 2_000_000, gap))]
            edges += self.press(1, 1, 1200, 400, bounces=6)
            edges.sort()
            learner.feed([e[0] for e in edges], [e[1] for e in edges], [e[2] for e in edges], edges[-1][0] + 1000)
            self.assertEqual(learner.chattering, [0], gap)
        hand = Learner((1,), 0)
        edges = [*self.press(0, 1, 1000, 300, bounces=6), *self.press(0, 1, 1500, 200)]
        hand.feed([e[0] for e in edges], [e[1] for e in edges], [e[2] for e in edges], 1_750_000)
        self.assertEqual(hand.chattering, [])

    def test_noise_pulses_alone_are_no_touch(self) -> None:
        pulses = [edge for k in range(20) for edge in ((k * 400 * MS + 5, 1, 0), (k * 400 * MS + 700, 1, 1))]
        self.assertEqual(self.learn(pulses, end=8000), [])

    def test_two_that_go_together_are_told_together(self) -> None:
        both = self.learn([*self.press(0, 1, 1000, 500), *self.press(1, 1, 1040, 400)])
        self.assertEqual({touch.input for touch in both}, {0, 1})

    def test_letting_go_is_no_touch_and_the_next_press_is(self) -> None:
        touches = self.learn([*self.press(1, 1, 500, 900), *self.press(1, 1, 2200, 300)])
        self.assertEqual([touch.at for touch in touches], [500_000, 2_200_000])
        self.assertTrue(all(touch.closed for touch in touches))

    @given(st.integers(0, 3), st.integers(70, 2000), st.integers(0, 5))
    def test_any_press_of_any_length(self, slot: int, held: int, bounces: int) -> None:
        rest = (1, 1, 0, 0)[slot]
        (touch,) = self.learn(self.press(slot, rest, 600, held, bounces), end=4000)
        self.assertEqual((touch.input, touch.closed), (slot, bool(rest)))


class FilterStudy(unittest.TestCase):
    def pulses(self, widths: list[int], rest: int) -> tuple[list[int], list[int]]:
        times, levels, now = [], [], 1000
        for width in widths:
            times += [now, now + width]
            levels += [1 - rest, rest]
            now += width + 5000
        return times, levels

    @given(st.lists(st.integers(1, 20_000), min_size=1, max_size=40), st.integers(0, 1))
    def test_the_proposal_lets_no_pulse_through_that_was_seen(self, widths: list[int], rest: int) -> None:
        times, levels = self.pulses(widths, rest)
        found = study(times, levels, rest, 0, times[-1] + 1)
        self.assertEqual(found.widths, tuple(sorted(widths)))
        self.assertEqual((found.shortest, found.longest), (min(widths), max(widths)))
        self.assertIsNotNone(found.proposal)
        self.assertEqual(found.passing(found.proposal), 0)
        self.assertGreaterEqual(found.proposal * MS, 2 * found.longest)
        self.assertEqual(sum(found.histogram(24, 20_000)), len(widths))

    def test_what_a_hand_did_is_left_out(self) -> None:
        times, levels = self.pulses([300, 400_000, 500], 1)
        found = study(times, levels, 1, 0, times[-1] + 1)
        self.assertEqual((found.widths, found.touches), ((300, 500), 1))
        open_end = study([1000], [0], 1, 0, 900_000)
        self.assertEqual((open_end.widths, open_end.touches), ((), 1))

    def test_a_wire_that_is_quiet_needs_none(self) -> None:
        self.assertIsNone(Study((), 0, 10.0).proposal)

    def test_figures_that_a_person_would_write(self) -> None:
        for exact, written in (("1.48", "1.5"), ("0.21", "0.3"), ("2.2", "2.5"), ("11.2", "12"), ("2", "2")):
            self.assertEqual(rounded_up(Fraction(exact)), Fraction(written))

    def test_whether_all_inputs_stay_quiet(self) -> None:
        machine = wired()
        silent = dict.fromkeys(range(machine.inputs), Study((), 0, 10.0))
        self.assertEqual(quiet(machine, silent), (True, "No input picked up anything."))
        short = quiet(machine, silent | {1: Study((90, 150), 0, 10.0)})
        self.assertEqual(
            short, (True, "X home switch, input 2, picked up 2 pulses; its filter of 0.2 ms lets none through.")
        )
        heard = silent | {1: Study((90, 400), 0, 10.0), 5: Study((30_000,), 0, 10.0)}
        held, words = quiet(machine, heard)
        self.assertFalse(held)
        self.assertIn("longest of 0.40 ms; 1 pass its filter of 0.2 ms, and 0.8 ms would let none through", words)
        self.assertIn("look for a loose wire" if heard[5].proposal is None else "would let none through", words)
        self.assertEqual(proposals(machine, heard)[1], Fraction("0.8"))
        self.assertFalse(quiet(machine, silent | {2: Study((), 1, 10.0)})[0], "something was touched")

    def test_cost_in_distance(self) -> None:
        self.assertEqual(cost(Fraction(900), Fraction("1.5")), Fraction("0.0225"))


class Trials(unittest.TestCase):
    def run_through(self, trial, *seen: tuple[float, dict[str, object]]):
        """Seconds and what has changed since the moment before."""
        now = {"made": False, "powered": False, "fault": False, "spindle": False, "power_asked": 0}
        for seconds, change in seen:
            now |= change
            trial.feed(TerminalsSeen(int(seconds * 1e6), **now))
        return trial.outcome

    def test_a_stop_that_works(self) -> None:
        trial = StopTrial()
        outcome = self.run_through(
            trial, (0, {}), (1, {"powered": True}), (2, {}), (2.01, {"made": True}),
            (2.02, {"powered": False, "fault": True}), (2.9, {}),
        )  # fmt: skip
        self.assertTrue(trial.asks)
        self.assertIs(outcome, Outcome.RUNNING)
        trial.answer(True)
        outcome = self.run_through(
            trial, (3, {"made": False, "fault": True}), (4, {}), (5, {"powered": True, "power_asked": 1, "fault": False}),
        )  # fmt: skip
        self.assertIs(outcome, Outcome.PASSED)
        self.assertIn("within 20 ms, each axis that a hand pushed was loose", trial.result)

    def test_motors_that_still_hold_prove_no_stop(self) -> None:
        trial = StopTrial()
        trial.answer(False)  # nobody was asked yet
        story = (1, {"powered": True}), (2, {"made": True}), (2.1, {"powered": False, "fault": True})
        self.assertIs(self.run_through(trial, *story), Outcome.RUNNING)
        trial.answer(False)
        self.assertEqual((trial.outcome, trial.wants), (Outcome.RUNNING, "stop.holds"))
        for hand in Held:
            judged = copy.deepcopy(trial)
            judged.felt(hand)
            self.assertEqual((judged.outcome, judged.hand), (Outcome.FAILED, hand))
            self.assertIn(hand.why, judged.result)
        outcome = self.run_through(trial, (2.2, {"powered": True}))
        self.assertIs(outcome, Outcome.FAILED)  # that came back while somebody pushed

    def test_what_hands_feel_at_all_axes_together(self) -> None:
        holds, loose, sinks = (False, False), (True, False), (True, True)
        for felt, held in (
            ([loose, loose], None), ([holds, holds], Held.EVERY), ([loose, holds], Held.SOME),
            ([loose, sinks], Held.SINKS), ([holds, sinks], Held.SINKS),
        ):  # fmt: skip
            self.assertIs(held_of(felt), held)

    def test_stops_that_do_not(self) -> None:
        pressed = [(1.0, {"powered": True}), (2.0, {"made": True})]
        off = [*pressed, (2.1, {"powered": False, "fault": True})]
        for story, words in (
            ([*pressed, (3, {})], "kept their power"),
            ([*pressed, (2.1, {"powered": False, "spindle": True}), (3, {})], "the spindle kept running"),
            ([*pressed, (2.1, {"powered": False}), (3, {})], "no fault"),
            ([*off, (3, {"powered": True})], "while the stop was pressed"),
            ([*off, (3, {"made": False}), (3.1, {"powered": True})], "by themselves"),
            ([(1.0, {"powered": True}), (2.0, {"powered": False})], "did not change"),
        ):
            trial = StopTrial()
            self.run_through(trial, *story[:3])
            trial.answer(True)
            seen = {key: value for _, change in story[:3] for key, value in change.items()}
            self.assertIs(self.run_through(trial, (2.2, seen), *story[3:]), Outcome.FAILED, words)
            self.assertIn(words, trial.result)

    def test_a_stop_that_is_pressed_already_or_pressed_again(self) -> None:
        trial = StopTrial()
        self.run_through(trial, (0, {"made": True}))
        self.assertIn("Release it to begin", trial.step)
        self.run_through(
            trial, (1, {"powered": True}), (2, {"made": True}), (2.1, {"powered": False, "fault": True}),
        )  # fmt: skip
        trial.answer(True)
        self.run_through(trial, (3, {"made": False, "fault": True}), (4, {"made": True}))
        self.assertIn("Pressed again", trial.step)

    def test_a_guard(self) -> None:
        opened = [(1.0, {"spindle": True}), (2.0, {"made": True})]
        off = [*opened, (2.1, {"spindle": False}), (3, {"made": False})]
        for story, outcome in (
            ([*off, (5.2, {})], Outcome.PASSED),
            ([*off, (4, {"spindle": True})], Outcome.FAILED),
            ([*opened, (3, {})], Outcome.FAILED),
            ([*opened, (2.1, {"spindle": False}), (2.5, {"spindle": True})], Outcome.FAILED),
            ([(1.0, {"spindle": True}), (2.0, {"spindle": False})], Outcome.RUNNING),
            ([*off, (3.5, {"made": True})], Outcome.RUNNING),
        ):
            self.assertIs(self.run_through(GuardTrial(), (0, {}), *story), outcome, story)

    def test_a_switch(self) -> None:
        trial = TouchTrial()
        self.assertIs(self.run_through(trial, (0, {"made": True}), (1, {}), (2, {"made": False})), Outcome.RUNNING)
        self.assertTrue(trial.made_already)
        self.run_through(trial, (6, {"made": False}), (7, {"made": True}), (7.5, {"made": False}))
        self.assertEqual(trial.result, "made for 0.5 s, then clear again")

    def test_one_that_rests_the_other_way_is_not_proven_by_pressing_it_again(self) -> None:
        presses = [(second + part, {"made": part > 0.5}) for second in range(1, 12) for part in (0.0, 0.6)]
        trial = TouchTrial()
        self.assertIs(self.run_through(trial, (0, {"made": True}), *presses), Outcome.RUNNING)
        self.assertTrue(trial.made_already)

    def test_a_round_asks_by_name_and_another_one_s_answer_proves_nothing(self) -> None:
        touching = TouchRound([1, 2])
        none: frozenset[int] = frozenset()
        for now, made in ((0, none), (1000, frozenset({2})), (50_000, frozenset({2}))):
            self.assertIsNone(touching.feed(now, made))
        self.assertEqual((touching.asked, touching.wrong), (1, 2))
        touching.feed(60_000, none)
        self.assertEqual(touching.asked, 1)
        self.assertIsNone(touching.feed(70_000, frozenset({1})))
        self.assertIsNone(touching.wrong)
        found = touching.feed(900_000, none)
        assert found is not None
        self.assertEqual(found[0], 1)
        self.assertIn("touched by name", found[1])
        self.assertEqual(touching.asked, 2)
        touching.skip()
        self.assertEqual(touching.asked, 2)

    def test_each_switch_of_a_chain_is_asked_for_until_there_are_no_more(self) -> None:
        touching, none, now = TouchRound([1, 1, 1, 2]), frozenset[int](), 0
        found: list[tuple[int, str] | None] = []

        def touch(slot: int) -> None:
            nonlocal now
            for made in (none, frozenset({slot}), none):
                found.append(touching.feed(now, made))
                now += 500_000

        touch(1)
        self.assertEqual((touching.of_chain, touching.asked), ((1, 3), 1))
        touching.skip()
        self.assertEqual((touching.left, touching.no_more()), ([2, 1, 1], None))
        touch(2)
        touch(1)
        self.assertEqual([item[0] for item in found if item is not None], [2])
        proven = touching.no_more()
        assert proven is not None
        self.assertEqual((proven[0], touching.asked), (1, None))
        self.assertIn("2 switches", proven[1])

    def test_what_is_made_from_the_beginning_or_only_for_a_moment_is_no_answer(self) -> None:
        touching = TouchRound([1, 2])
        for now, made in ((0, {5}), (90_000, {5}), (91_000, {5, 2}), (92_000, {5}), (200_000, {5, 2}), (210_000, {5})):
            touching.feed(now, frozenset(made))
            self.assertIsNone(touching.wrong)


class StoodStill(unittest.TestCase):
    def test_a_hand_tells_no_current_from_steps_that_are_not_seen(self) -> None:
        width, enable = at(None, "signals.pulse_width"), at(None, "signals.enable_inverted")
        for hand, stop, others, edited, says in (
            (Hand.LOOSE, False, False, {enable}, "or the enable line must be inverted"),
            (Hand.LOOSE, True, False, set(), "no current"),
            (Hand.HOLDS, True, False, {width}, "does not see the steps. Pulses of"),
            (Hand.HOLDS, True, True, set(), "Look at the step wire of drive output 1"),
            (Hand.STIFF, False, False, set(), "long enough"),
        ):  # fmt: skip
            with self.subTest(hand, stop=stop, others=others):
                found = stood_still(wired(), X, hand, stop_proven=stop, others_go=others)
                self.assertFalse(found.good)
                self.assertIn(says, found.words)
                self.assertEqual(edited, edited & set(found.edit))
                self.assertEqual(bool(edited), bool(found.edit))


class Proofs(unittest.TestCase):
    def setUp(self) -> None:
        self.machine = wired()
        self.kept = {c.key: evidence(self.machine, c, 1e9, True, "seen", Witness.EYES) for c in claims(self.machine)}

    def train(self, machine=None, kept=None) -> Proof:
        states = train(
            machine or self.machine, connected=True, found_kept=True, kept=self.kept if kept is None else kept
        )
        return states[Station.WIRING]

    def test_all_proven_and_the_wheel_shows_it(self) -> None:
        self.assertIs(self.train(), Proof.PROVEN)
        self.assertIs(self.train(kept={}), Proof.ENTERED)

    def test_one_change_makes_one_proof_stale_and_undo_mends_it(self) -> None:
        changed = self.machine.with_values({at(1, "input.filter"): Fraction(3)})
        stale = [c for c in claims(changed) if state(changed, c, self.kept) is Proof.STALE]
        self.assertEqual(
            [c.key for c in stale],
            ["wiring.home.X", "home.X", "repeat.X", "home.all", "overtravel.X", "quiet", "kept", "trial.X"],
        )
        self.assertEqual(changed_since(changed, stale[0], self.kept), [("input 2 filter", "0.2 ms", "3 ms")])
        self.assertIs(self.train(changed), Proof.STALE)
        self.assertIs(self.train(changed.with_values({at(1, "input.filter"): Fraction(1, 5)})), Proof.PROVEN)

    def test_the_stop_rests_on_the_spindles_outputs_too(self) -> None:
        changed = self.machine.with_values({at(0, "output.inverted"): True})
        stale = {c.key for c in claims(changed) if state(changed, c, self.kept) is Proof.STALE}
        self.assertTrue({"wiring.stop", "wiring.guard", "spindle.guard", "times.1"} <= stale)
        self.assertEqual({key.partition(".")[0] for key in stale}, {"wiring", "spindle", "quiet", "speed", "times"})

    def test_a_role_that_moves_to_another_input_is_proven_anew(self) -> None:
        moved = self.machine.with_values(
            {
                at(1, "input.role"): "none",
                at(1, "input.axis"): "none",
                at(7, "input.role"): "home",
                at(7, "input.axis"): "X",
            }
        )
        self.assertIs(self.train(moved), Proof.STALE)

    def test_a_failed_proof_and_what_is_missing(self) -> None:
        claim = claims(self.machine)[0]
        failed = {**self.kept, claim.key: evidence(self.machine, claim, 2e9, False, "kept running", Witness.EYES)}
        self.assertIs(self.train(kept=failed), Proof.FAILED)
        unwired = self.machine.with_values({at(5, "input.role"): "none", at(5, "input.axis"): "none"})
        quiet = {"quiet": evidence(unwired, quiet_claim(unwired), 2e9, True, "heard nothing", Witness.TERMINALS)}
        self.assertIs(self.train(unwired, {**self.kept, **quiet}), Proof.ENTERED)
        self.assertEqual(wiring_claims(verge()), [])
