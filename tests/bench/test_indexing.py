"""Index stops as the firmware does them: numbers on lines that bounce, pulses, ways round, and what must never move."""

from __future__ import annotations

import random
import unittest
from fractions import Fraction
from itertools import pairwise

from idler.bench.objects.indexpanel import IndexPanel
from idler.bench.state import FINGER
from idler.core.profile import cia402 as c
from idler.core.profile.codec import image
from idler.core.profile.indexing import GO, LINES_AS, REPORT, IndexReport, IndexState
from idler.core.values.parameter import Value
from idler.core.values.roles import STOP_LINES, InputRole, OutputRole
from idler.core.wiring.indexing import number_of
from tests.bench.test_axes import AxesCase

HEAD = 3  # slot and motor of Verge's dividing head
SETTLE = 20  # ms
FILTER = 1  # ms
STOPS = "0 one; 60 two; 120 three; 180 four; 240 five; 300 six"


class IndexCase(AxesCase):
    """The dividing head of Verge with six stops and as many lines as are asked for, on its first inputs."""

    def ready(self, lines: int = 3, bounce: float = 0.0, **values: Value) -> None:
        told: dict[tuple[int, str], Value] = {
            (HEAD, "index.stops"): STOPS, (HEAD, "index.pick"): "binary", (HEAD, "index.settle"): Fraction(SETTLE),
            (HEAD, "pace.top_speed"): Fraction(7200), (HEAD, "pace.acceleration"): Fraction(2000),
            (HEAD, "pace.deceleration"): Fraction(2000), (HEAD, "axis.kind"): "endless",
            **{(HEAD, f"index.{key}"): value for key, value in values.items()},
        }  # fmt: skip
        self.raws = image(self.start("verge", told))
        self.panel = IndexPanel(self.world)
        for slot in range(len(self.drives)):
            self.panel.configure(slot, self.raws)
        self.panel.boot()
        self.world.firmware[HEAD]["homed"] = 1
        for number, role in enumerate(STOP_LINES[:lines]):
            self.wire(number, role, bounce)
        self.world.run(5 * SETTLE)

    def wire(self, number: int, role: InputRole, bounce: float = 0.0) -> None:
        """An input that a finger closes; bounce in ms, the mean of how long it goes on."""
        wire = self.world.wires[number]
        wire["source"], wire["closed_at_rest"], wire["bounce"], wire["level"] = FINGER, 0, bounce * 1000, 0
        wire["noise_rate"] = wire["loose_rate"] = wire["held"] = wire["made"] = wire["waiting"] = 0
        self.world.inputs[number]["raw"] = self.world.inputs[number]["level"] = 0
        self.world.set_input(number, role.raw, HEAD, 0, FILTER * 1000)

    def tell(self, state: int, lines: int = 3) -> None:
        for bit in range(lines):
            self.world.wires[bit]["held"] = state >> bit & 1

    def pulse(self, number: int, ms: int) -> None:
        self.world.wires[number]["held"] = 1
        self.world.run(ms)
        self.world.wires[number]["held"] = 0
        self.world.run(3 * SETTLE)

    @property
    def report(self) -> IndexReport:
        return IndexReport.of(self.panel.read(HEAD, REPORT) or 0)

    @property
    def angle(self) -> float:
        """° that the controller counts."""
        return c.position_from(self.drives[HEAD].position) % 360

    def settle(self) -> IndexReport:
        """Until it has come to rest for longer than a number needs to be obeyed."""
        self.world.run(3 * SETTLE)
        for _ in range(40_000):
            if not self.world.firmware[HEAD]["moving"] and self.report.state is not IndexState.UNDER_WAY:
                break
            self.world.run(5)
        return self.report


class ByLines(IndexCase):
    def test_each_number_brings_its_stop_and_none_stays(self) -> None:
        self.ready()
        for number in (3, 1, 6, 2, 5, 4):
            self.tell(number)
            told = self.settle()
            self.assertEqual((told.state, told.at), (IndexState.REACHED, number))
            self.assertAlmostEqual((self.angle - 60 * (number - 1) + 180) % 360 - 180, 0, delta=0.05)
        self.tell(0)
        self.assertEqual(self.settle().at, 4)

    def test_what_its_lines_said_at_the_start_is_not_obeyed(self) -> None:
        self.ready()
        before = self.angle
        self.tell(5)
        self.world.run(5)
        self.panel.boot()
        self.assertIs(self.settle().state, IndexState.NOWHERE)
        self.assertAlmostEqual(self.angle, before, places=3)

    def test_what_was_told_while_it_could_not_go_is_told_anew(self) -> None:
        for what in ("homed", "powered"):
            with self.subTest(what):
                self.ready()
                before = self.angle
                if what == "powered":
                    self.drives[HEAD].control(c.SHUTDOWN)
                else:
                    self.world.firmware[HEAD]["homed"] = 0
                self.tell(2)
                self.assertIs(self.settle().state, IndexState.NOT_READY)
                for word in (c.SHUTDOWN, c.SWITCH_ON, c.ENABLE):
                    self.drives[HEAD].control(word)
                self.world.firmware[HEAD]["homed"] = 1
                self.settle()
                self.assertAlmostEqual(self.angle, before, places=3)
                self.tell(3)
                self.assertEqual(self.settle().at, 3)

    def test_a_stop_in_the_middle_ends_it_and_nothing_goes_on_by_itself(self) -> None:
        self.ready()
        self.tell(4)
        self.world.run(300)
        self.assertIs(self.report.state, IndexState.UNDER_WAY)
        self.drives[HEAD].quick_stop()
        self.settle()
        stood = self.angle
        for state in (5, 0, 2):
            self.tell(state)
            self.settle()
        self.assertAlmostEqual(self.angle, stood, places=3)
        self.assertEqual(self.report.at, 0)
        self.drives[HEAD].control(c.ENABLE)  # as a jog does it
        self.tell(6)
        self.assertEqual(self.settle().at, 6)

    def test_a_number_without_a_stop_is_said_to_be_wrong(self) -> None:
        self.ready()
        before = self.angle
        self.tell(7)
        told = self.settle()
        self.assertEqual((told.state, told.lines), (IndexState.WRONG, 7))
        self.assertAlmostEqual(self.angle, before, places=3)

    def test_outputs_say_that_it_stands_where_it_was_told_to_and_that_it_cannot(self) -> None:
        self.ready()
        for number, role in enumerate((OutputRole.IN_PLACE, OutputRole.NOT_IN_PLACE)):
            self.world.outputs[number]["role"] = role.raw

        def after(state: int) -> tuple[int, ...]:
            self.tell(state)
            self.settle()
            return tuple(int(out["energised"]) for out in self.world.outputs[:2])

        self.assertEqual(after(3), (1, 0))
        self.assertEqual(after(7), (0, 1))  # it stands at a stop still, and not at the one that it was told
        self.assertEqual(after(3), (1, 0))
        self.tell(5)
        self.world.run(3 * SETTLE)
        self.assertEqual([int(out["energised"]) for out in self.world.outputs[:2]], [0, 0])  # under way
        self.settle()
        self.drives[HEAD].control(c.SHUTDOWN)
        self.assertEqual(after(2), (0, 1))

    def test_another_number_on_its_way_is_gone_to_next(self) -> None:
        self.ready()
        self.tell(4)
        self.world.run(2 * SETTLE + 30)
        self.tell(2)
        self.assertEqual(self.settle().at, 2)

    def test_with_a_strobe_nothing_counts_before_it(self) -> None:
        self.ready()
        self.wire(3, InputRole.STOP_STROBE)
        self.world.run(2 * SETTLE)
        self.tell(3)
        self.assertEqual(self.settle().goal, 0)
        self.pulse(3, 3 * SETTLE)
        self.assertEqual(self.settle().at, 3)
        self.tell(5)
        self.settle()
        self.assertEqual(self.report.at, 3)

    def test_lines_can_be_acted_until_nobody_is_heard(self) -> None:
        self.ready()
        self.panel.write(HEAD, LINES_AS, 6, 0)
        self.assertEqual(self.settle().at, 6)
        self.panel.unheard()
        self.assertEqual(self.settle().at, 6)
        self.assertEqual(self.panel.read(HEAD, LINES_AS), 255)

    def test_no_state_in_passing_ever_moves_it(self) -> None:
        """All 64 states in random orders, each line at another moment and bouncing: whatever did not stand for the settling
        time, some 40 ms of changing among it, is never gone to."""
        dice, settle = random.Random(26), 60
        for pick in ("binary", "gray"):
            self.ready(
                6, pick=pick, settle=Fraction(settle), stops="; ".join(str(Fraction(360 * n, 63)) for n in range(63))
            )
            told, states = 0, [*range(64), *range(64)]
            dice.shuffle(states)
            for k, state in enumerate(states):
                self.world.wires["bounce"][:6] = dice.uniform(0, 1.5) * 1000
                for bit in dice.sample(range(6), 6):
                    self.world.wires[bit]["held"] = state >> bit & 1
                    self.watch(dice.randrange(4), told)
                if k % 4 == 0:  # this one is meant
                    self.watch(settle + 40, told, number_of(state, gray=pick == "gray"))
                    told = number_of(state, gray=pick == "gray") or told
                    self.settle()
                    self.assertEqual(self.report.at, told, (pick, state, self.report))
                else:
                    self.watch(dice.randrange(1, 4), told)

    def watch(self, ms: int, *allowed: int) -> None:
        """So many ms in which nothing but these is gone to."""
        for _ in range(ms):
            self.world.run(1)
            self.assertIn(self.report.goal, allowed)


class ByPulses(IndexCase):
    def test_pulses_are_counted_and_the_start_clears_them(self) -> None:
        dice = random.Random(4)
        self.ready(0, pick="pulses")
        self.wire(0, InputRole.STOP_COUNT, 1.5)
        self.wire(1, InputRole.STOP_START, 1.5)
        self.world.run(3 * SETTLE)
        for number in (3, 1, 6):
            for _ in range(number):
                self.pulse(0, 3 * SETTLE)
                self.pulse(0, dice.randrange(1, SETTLE - 15))  # too short to be one
            self.assertEqual(self.report.count, number)
            self.pulse(1, 3 * SETTLE)
            self.assertEqual(self.settle().at, number)
            self.assertEqual(self.report.count, 0)
        for _ in range(7):
            self.pulse(0, 3 * SETTLE)
        self.pulse(1, 3 * SETTLE)
        self.assertIs(self.settle().state, IndexState.WRONG)


class Ways(IndexCase):
    def way(self, number: int, speed: int = 0) -> tuple[float, float, float]:
        """° that it goes to − and to + at most while it goes to a stop, and where it ends, from where it stood."""
        began = float(self.world.firmware[HEAD]["bare_position"])
        self.panel.write(HEAD, GO, number, speed)
        per_degree = float(self.world.firmware[HEAD]["counts_per_unit"])
        places = [0.0]
        for _ in range(20_000):
            self.world.run(1)
            places.append((float(self.world.firmware[HEAD]["bare_position"]) - began) / per_degree)
            if self.report.state is IndexState.REACHED:
                break
        return min(places), max(places), places[-1]

    def test_the_way_that_it_was_told(self) -> None:
        for way, expected in (("shorter", -60.0), ("up", 300.0), ("down", -60.0)):
            self.ready(way=way)
            self.way(1)
            self.way(2)
            self.assertAlmostEqual(self.way(1)[2], expected, delta=0.05, msg=way)

    def test_beyond_its_stop_and_back_always_from_the_same_side(self) -> None:
        self.ready(way="up", over=Fraction(7))
        self.way(1)
        low, high, end = self.way(3)
        self.assertAlmostEqual(high, 127, delta=0.05)
        self.assertAlmostEqual(end, 120, delta=0.05)
        self.assertAlmostEqual(low, 0, delta=0.05)
        self.ready(way="down", over=Fraction(7))
        self.way(1)
        low, _, end = self.way(3)
        self.assertAlmostEqual(low, -247, delta=0.05)
        self.assertAlmostEqual(end, -240, delta=0.05)

    def test_what_is_asked_over_the_wire_goes_no_faster_than_it_says_and_what_lines_ask_as_fast_as_it_may(self) -> None:
        self.ready()
        self.way(1)
        began = self.world.tick
        self.way(2, c.raw_speed(600))
        self.assertAlmostEqual((self.world.tick - began) / 1000, 6.0, delta=0.4)  # 60° at 600 °/min
        began = self.world.tick
        self.tell(1)
        self.settle()
        self.assertLess(self.world.tick - began, 4000)

    def test_it_stays_where_it_stands_already(self) -> None:
        self.ready(over=Fraction(7))
        self.way(4)
        self.assertEqual(self.way(4), (0.0, 0.0, 0.0))

    def test_a_jog_away_from_it_is_seen(self) -> None:
        self.ready()
        self.way(4)
        self.step(HEAD, 2.0, 600)
        self.assertEqual((self.report.at, self.report.state), (0, IndexState.NOWHERE))


class Codes(unittest.TestCase):
    def test_a_state_tells_its_number_and_in_gray_code_one_line_changes_at_a_time(self) -> None:
        for gray in (False, True):
            states = [number ^ number >> 1 if gray else number for number in range(64)]
            self.assertEqual([number_of(state, gray=gray) for state in states], list(range(64)))
        self.assertTrue(all((a ^ b).bit_count() == 1 for a, b in pairwise(states)))

    def test_a_report_is_one_number(self) -> None:
        told = IndexReport(IndexState.WRONG, 63, 62, 61, 15)
        self.assertEqual(IndexReport.of(told.raw), told)
