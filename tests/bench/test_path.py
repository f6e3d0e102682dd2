"""Interpolated position on three rigs: the plan of the core is what the firmware does, whatever becomes of its rate."""

from __future__ import annotations

import unittest
from dataclasses import replace
from fractions import Fraction

import numpy as np

from idler.bench.firmware.path import ENDED, LEFT, RUNS, STOPPED, WAITS
from idler.bench.objects.memory import Memory
from idler.bench.objects.node import Node
from idler.bench.rigs import rig as rigs
from idler.bench.rigs.rig import Rig
from idler.bench.wire.hub import Hub
from idler.bench.world import World
from idler.core.machine import Address
from idler.core.profile import cia402 as c
from idler.core.profile.path import PERIOD_MS, RAPID, REST
from idler.core.profile.pathrecords import pack_records, unpack_records
from idler.core.program.choices import Chosen
from idler.core.program.planning import plan_program
from idler.core.program.reading import read_program
from idler.core.program.sampling import runs
from idler.core.table import POSITION_STEP
from idler.core.trial.figures import KINDS, checked, obstacle, program_of

PERIOD = PERIOD_MS / 1000
LONGEST = 60_000  # ms that a path may take
BUFFER = 8000  # records
REACH = 4.0  # mm from where the axes stand
CEILING = 1.05  # of an acceleration, averaged over a few ms: places are whole steps of the wire


class OnWorld(unittest.TestCase):
    rig = "verge"
    made_rig: Rig | None = None  # instead of one by its name

    def setUp(self) -> None:
        self.world = World(self.made_rig or rigs.load(self.rig), 7)
        self.node = Node(self.world, Hub(lambda *_: None), Memory(None))
        for drive in self.node.drives:
            for word in (c.FAULT_RESET, c.SHUTDOWN, c.SWITCH_ON, c.ENABLE):
                drive.control(word)
        self.world.run(1000)
        self.machine = self.world.rig.told
        self.dice = np.random.default_rng(5)
        axes = self.machine.axes
        self.slots = tuple(axis.slot for axis in axes if not axis.rotary and axis.whole("axis.output"))[:3]

    def begin_at_the_middle(self) -> None:
        """The carriages are put there as if by hand."""
        for motor, p in zip(self.world.rig.motors, self.world.plant, strict=True):
            p["carriage"] = p["start"] = motor.travel / 2
            p["start"] -= p["angle"] * p["lead"] / (2 * np.pi)
        self.world.run(50)

    def stands(self) -> np.ndarray:
        """Where the axes stand, as the wire tells it."""
        return np.array([[self.node.drives[slot].position for slot in self.slots]], "<i4")

    def planned(self, number: int) -> np.ndarray:
        """Places of the linear axes in position units, from where they stand, of a random program."""
        return self.places_of(self.made(number))

    def places_of(self, text: bytes) -> np.ndarray:
        names = self.machine.names
        stands = {name: float(self.world.firmware[slot]["position"] / self.world.firmware[slot]["counts_per_unit"])
                  for slot, name in enumerate(names)}  # fmt: skip
        program = read_program(text, self.machine, Chosen({0: stands}, stands=stands))
        assert program is not None and plan_program(program) is not None
        parts = [each.places for each in runs(program, PERIOD)]
        places = np.concatenate([parts[0], *(part[1:] for part in parts[1:])])
        return np.rint(places[:, list(self.slots)] / float(POSITION_STEP)).astype("<i4")

    def made(self, number: int) -> bytes:
        """Straight moves near where the axes stand, long and short, some of them rapid."""
        dice = np.random.default_rng(number)
        lines = [f"G21 G90 G64 P{dice.choice([0.01, 0.05])} F{dice.integers(200, 4000)}"]
        place = np.zeros(len(self.slots))
        for _ in range(12):
            place = np.clip(place + dice.normal(0, 1.5, len(place)), -REACH, REACH)
            words = " ".join(f"{self.machine.names[slot]}{at:.4f}" for slot, at in zip(self.slots, place, strict=True))
            lines.append(f"G{int(dice.random() > 0.2)} {words}")
        return "\n".join(lines).encode()

    def give(self, places: np.ndarray, *, lines: int = 0, most: int = 1000, final: bool = True) -> None:
        for first in range(0, len(places), most):
            part = places[first : first + most]
            last = final and first + most >= len(places)
            data = pack_records(first, self.slots, part, np.full(len(part), lines), final=last)
            self.assertEqual(self.node._path.take(data, self.node.drives), 0)

    def begin(self) -> None:
        for slot in self.slots:
            self.assertTrue(self.node.drives[slot].set_mode(c.MODE_PATH))
        for slot in self.slots:
            self.node.drives[slot].control(c.ENABLE)
            self.node.drives[slot].control(c.ENABLE | c.FOLLOW)
        self.assertTrue(self.node._path.begin(self.node.drives))
        self.assertEqual(self.world.path["state"], RUNS)

    def counts(self, places: np.ndarray) -> np.ndarray:
        """Position units of the wire as counts of each axis."""
        per_unit = np.array([float(self.world.firmware[slot]["counts_per_unit"]) for slot in self.slots])
        return places * float(POSITION_STEP) * per_unit

    def follow(self, places: np.ndarray, each: object = None) -> tuple[np.ndarray, np.ndarray]:
        """Runs to the end of it: where the axes were each ms in counts, and how far the path was in records."""
        where, at = [], []
        for tick in range(LONGEST):
            if callable(each):
                each(tick)
            self.world.run(1)
            where.append([float(self.world.firmware[slot]["steps"]) for slot in self.slots])
            at.append(float(self.world.path["at"]))
            if self.world.path["state"] in (ENDED, STOPPED, LEFT):
                break
        return np.array(where), np.array(at)

    def on_path(self, places: np.ndarray, where: np.ndarray, at: np.ndarray) -> float:
        """How far, in counts, the steps were from the path at most."""
        asked = self.counts(places)
        wanted = np.stack([np.interp(at, np.arange(len(asked)), column) for column in asked.T], axis=1)
        return float(np.abs(where - wanted).max())

    def makes_what_is_planned(self, numbers: tuple[int, ...]) -> None:
        """To a count, within every ceiling, and in the time that was reckoned."""
        for number in numbers:
            with self.subTest(number):
                self.makes(self.planned(number))

    def makes_every_figure(self) -> None:
        """Small ones, so that each finds room in the buffer, drawn where the axes stand."""
        self.assertEqual(obstacle(self.machine), "")
        wishes = {"width": 16.0, "height": 12.0, "feed": 1500.0, "clear": 1.0, "cutter": 6.0, "depth": 0.3}
        for kind, told in KINDS.items():
            with self.subTest(kind):
                self.setUp()
                self.begin_at_the_middle()
                figure = checked(kind, {key: value for key, value in wishes.items() if key in told.fields})
                self.makes(self.places_of(program_of(figure).encode()))

    def makes(self, places: np.ndarray) -> None:
        self.assertLess(len(places), BUFFER)
        self.give(places)
        self.begin()
        where, at = self.follow(places)
        self.assertEqual(self.world.path["state"], ENDED)
        self.assertLessEqual(self.on_path(places, where, at), 1.0)
        self.assertLess(self.accelerations(where), CEILING)
        planned = (len(places) - 1) * PERIOD_MS
        self.assertLess(abs(len(where) - planned), 0.01 * planned + 2)

    def accelerations(self, where: np.ndarray) -> float:
        """The hardest of them as a share of what the axis may do, over 16 ms: counts are whole."""
        wide = 16
        smooth = np.apply_along_axis(lambda column: np.convolve(column, np.ones(wide) / wide, "valid"), 0, where)
        hard = np.abs(np.diff(smooth[::wide], 2, axis=0)) / (wide * 1e-3) ** 2
        most = np.array([min(self.world.firmware[slot]["acceleration"], self.world.firmware[slot]["deceleration"])
                         for slot in self.slots])  # fmt: skip
        return float((hard / (most + 2 / (wide * 1e-3) ** 2)).max(initial=0.0))


class Verge(OnWorld):
    def test_every_figure_is_made_to_a_count_and_in_time(self) -> None:
        self.makes_every_figure()

    def test_what_is_planned_is_made_to_a_count_and_in_time(self) -> None:
        self.makes_what_is_planned(tuple(range(6)))

    def test_whatever_the_rate_does_the_path_is_the_same(self) -> None:
        def turned(tick: int) -> None:
            if tick % 137 == 0:
                rate = float(self.dice.choice([0.0, 0.05, 0.3, 0.7, 1.0, self.dice.uniform()]))
                self.world.path["feed"] = rate
                self.world.path["rapid"] = rate if self.dice.integers(2) else min(rate, 0.25)
            if tick > 40_000:
                self.world.path["feed"] = self.world.path["rapid"] = 1.0

        for number in range(4):
            with self.subTest(number):
                places = self.planned(number)
                self.give(places[:8000])
                self.begin()
                where, at = self.follow(places, turned)
                self.assertEqual(self.world.path["state"], ENDED)
                self.assertLessEqual(self.on_path(places, where, at), 1.0)
                self.assertLess(self.accelerations(where), CEILING)
                self.assertTrue((np.diff(at) >= 0).all())

    def test_a_quick_stop_ends_it_on_the_path_and_it_can_be_gone_on_from(self) -> None:
        for number in range(6):
            with self.subTest(number):
                places = self.planned(number)
                self.give(places[:8000])
                self.begin()
                moment = int(self.dice.integers(20, 4 * len(places) - 20))

                def stop(tick: int, moment: int = moment) -> None:
                    if tick == moment:
                        self.node.drives[self.slots[0]].quick_stop()

                where, at = self.follow(places, stop)
                if self.world.path["state"] == ENDED:  # it was at its end already
                    continue
                self.assertEqual(self.world.path["state"], STOPPED)
                self.assertLessEqual(self.on_path(places, where, at), 1.0)
                self.assertFalse(self.world.moving)
                rest = np.concatenate((self.stands(), places[int(at[-1]) + 1 :]))
                self.node.drives[self.slots[0]].control(c.ENABLE)
                self.give(rest[:8000])
                self.begin()
                where, at = self.follow(rest)
                self.assertEqual(self.world.path["state"], ENDED)
                self.assertLessEqual(self.on_path(rest, where, at), 1.0)

    def test_a_buffer_that_runs_dry_is_waited_for_on_the_path(self) -> None:
        places = self.planned(2)
        cut = len(places) // 2
        self.give(places[:cut], final=False)
        self.begin()
        where = []
        for _ in range(LONGEST):
            self.world.run(1)
            where.append([float(self.world.firmware[slot]["steps"]) for slot in self.slots])
            if self.world.path["state"] == WAITS:
                break
        self.assertEqual(self.world.path["state"], WAITS)
        self.assertAlmostEqual(float(self.world.path["at"]), cut - 1, delta=0.05)
        self.assertFalse(self.world.moving)
        self.assertLess(self.accelerations(np.array(where)), 2 * CEILING)  # it brakes while the path itself may do so
        rest = pack_records(cut, self.slots, places[cut:], np.zeros(len(places) - cut), final=True)
        self.assertEqual(self.node._path.take(rest, self.node.drives), 0)
        more, at = self.follow(places)
        self.assertEqual(self.world.path["state"], ENDED)
        self.assertLessEqual(self.on_path(places, more, at), 1.0)

    def test_it_waits_at_a_record_and_goes_on(self) -> None:
        places = self.planned(3)
        self.give(places)
        self.world.path["wait_at"] = wait = float(len(places) // 3)
        self.begin()
        for _ in range(LONGEST):
            self.world.run(1)
            if self.world.path["state"] == WAITS:
                break
        self.assertEqual((self.world.path["state"], float(self.world.path["at"])), (WAITS, wait))
        self.world.path["wait_at"] = -1.0
        where, at = self.follow(places)
        self.assertEqual(self.world.path["state"], ENDED)
        self.assertLessEqual(self.on_path(places, where, at), 1.0)

    def test_a_limit_or_a_cut_leaves_it_and_everything_stands(self) -> None:
        places = self.planned(1)
        self.give(places)
        self.begin()
        self.world.run(300)
        self.node.drives[self.slots[0]].fault(c.DRIVE_TROUBLE)
        self.world.run(1500)
        self.assertEqual(self.world.path["state"], LEFT)
        self.assertFalse(self.world.moving)
        self.assertFalse(self.world.begin_path())

    def test_rapids_and_waits_have_rates_of_their_own(self) -> None:
        places = np.repeat(self.stands(), 500, axis=0)
        self.give(places, lines=REST | 7)
        self.world.path["feed"] = 0.1
        self.begin()
        where, _ = self.follow(places)
        self.assertAlmostEqual(len(where), 499 * PERIOD_MS, delta=20)
        self.assertEqual(self.world.path_line, 7)
        places = self.planned(2)
        self.give(places, lines=RAPID)
        self.world.path["feed"], self.world.path["rapid"] = 1.0, 0.5
        self.begin()
        where, _ = self.follow(places)
        self.assertGreater(len(where), 1.9 * PERIOD_MS * len(places))

    def test_what_is_no_path_is_refused(self) -> None:
        take, drives = self.node._path.take, self.node.drives
        good = np.repeat(self.stands(), 5, axis=0)
        for data in (b"", b"\0" * 7, pack_records(0, (), np.zeros((3, 0)), np.zeros(3), final=True),
                     pack_records(0, (0, 7), np.zeros((3, 2)), np.zeros(3), final=True)[:-1]):  # fmt: skip
            self.assertNotEqual(take(data, drives), 0)
        self.assertNotEqual(take(pack_records(9, self.slots, good, np.zeros(5), final=True), drives), 0)
        self.assertEqual(take(pack_records(0, self.slots, good + 500_000, np.zeros(5), final=True), drives), 0)
        for slot in self.slots:
            drives[slot].set_mode(c.MODE_PATH)
            drives[slot].control(c.ENABLE)
            drives[slot].control(c.ENABLE | c.FOLLOW)
        self.assertFalse(self.node._path.begin(drives), "it does not stand there")
        block = unpack_records(pack_records(3, (0, 2), np.ones((2, 2)), np.array([4, RAPID | 5]), final=True))
        self.assertEqual(
            (block.first, block.slots, block.final, block.lines.tolist()), (3, (0, 2), True, [4, RAPID | 5])
        )


class Softly(OnWorld):
    """Axes whose jerk is limited."""

    JERK = 2000.0  # mm/s³

    def setUp(self) -> None:
        truth = rigs.load("verge")
        soft = {Address(slot, "pace.shape"): "limited" for slot in range(3)}
        jerks = {Address(slot, "pace.jerk"): Fraction(int(self.JERK)) for slot in range(3)}
        self.made_rig = replace(truth, told=truth.told.with_values({**soft, **jerks}))
        super().setUp()

    def jerks(self, where: np.ndarray) -> float:
        """The hardest of them, mm/s³, over 16 ms: counts are whole."""
        wide = 16
        smooth = np.apply_along_axis(lambda column: np.convolve(column, np.ones(wide) / wide, "valid"), 0, where)
        hard = np.abs(np.diff(smooth[::wide], 3, axis=0)).max(axis=0) / (wide * 1e-3) ** 3
        return float((hard / [self.world.firmware[slot]["counts_per_unit"] for slot in self.slots]).max())

    def test_a_rate_that_is_turned_is_turned_softly(self) -> None:
        text = b"G21 G90 F3600 G64 P0.05\nG1 X60\nX62 Y2\nX20 Y30\nX0 Y0"
        for feeds in (
            [(300, 0.0), (1200, 1.0)],
            [(200, 0.2), (500, 1.0), (650, 0.1), (900, 1.0)],
            [(400, 0.5), (450, 1.0)],
        ):
            with self.subTest(feeds):
                self.setUp()
                self.begin_at_the_middle()

                def turned(tick: int, feeds: list[tuple[int, float]] = feeds) -> None:
                    for moment, feed in feeds:
                        if tick == moment:
                            self.world.path["feed"] = feed

                places = self.places_of(text)
                self.give(places)
                self.begin()
                where, at = self.follow(places, turned)
                self.assertEqual(self.world.path["state"], ENDED)
                self.assertLessEqual(self.on_path(places, where, at), 1.0)
                self.assertLess(self.accelerations(where), CEILING)
                self.assertLess(self.jerks(where), 2 * self.JERK)  # of the path and of the rate, each its own


class Longcase(OnWorld):
    rig = "longcase"

    def test_what_is_planned_is_made_to_a_count(self) -> None:
        self.makes_what_is_planned((0, 11, 35))  # the last two end with a step in their last tick

    def test_every_figure_is_made_to_a_count_and_in_time(self) -> None:
        self.makes_every_figure()


class Fusee(OnWorld):
    rig = "fusee"

    def test_what_is_planned_is_made_to_a_count(self) -> None:
        self.makes_what_is_planned((0, 11, 35))

    def test_a_lathe_has_no_bed_to_draw_on(self) -> None:
        self.assertIn("no such axes", obstacle(self.machine))


if __name__ == "__main__":
    unittest.main()
