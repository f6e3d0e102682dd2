"""When a plain drive has found its home, or come to rest: not by what it said before it took up what it was told, and where it
stands by what it says then."""

from __future__ import annotations

import itertools
import unittest
from fractions import Fraction
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from idler.core.profile import cia402 as c
from idler.core.profile.homing import HomingResult
from idler.core.profile.partunits import PartUnits
from idler.link.plain import axis as axes
from idler.link.plain.axis import STUCK, Axis, Seen, place_between
from idler.link.plain.leashed import SURE, Plan
from idler.link.plain.safety import Watch

ATTAINED, FAILED = 0x1000, 0x2000
ENABLED = 0x0027
SWITCH = 23


class MadeUpPart:
    """Takes what it is told, and says nothing by itself."""

    called, period = "a drive", 0.02
    seen = None

    def watch(self, *_: object) -> None: ...
    def has(self, _: object) -> bool:
        return False

    def write(self, *_: object) -> None: ...
    def put(self, *_: object, **__: object) -> None: ...
    def say(self, *_: object) -> None: ...
    def read_if_there(self, *_: object, **__: object) -> None:
        return None


class AxisCase(unittest.TestCase):
    def setUp(self) -> None:
        self.now = 100.0
        clock = mock.patch.object(axes.time, "monotonic", lambda: self.now)
        clock.start()
        self.addCleanup(clock.stop)
        self.axis = Axis(MadeUpPart(), 0, "X")  # type: ignore[arg-type]
        self.axis.coordinate = 2.0
        self.says(ENABLED)
        self.stands(267)

    def says(self, status: int, asked: float | None = None) -> None:
        self.axis.see((c.STATUS, 0), status.to_bytes(2, "little"), self.now if asked is None else asked)

    def stands(self, place: int, seconds: float = 0.2) -> None:
        """For so long its place is read, and is the same."""
        for _ in range(round(seconds / 0.02)):
            self.now += 0.02
            self.axis.see((c.POSITION, 0), place.to_bytes(4, "little", signed=True), self.now)

    def result(self) -> int:
        return self.axis.state.homing_result.raw


class Homed(AxisCase):
    def begin(self, answer: float = 0.0) -> None:
        """answer: s that each word takes until it is answered, while what the drive says is heard."""

        def word(_: int) -> None:
            self.stands(267, answer)
            self.says(ENABLED | ATTAINED | c.TARGET_REACHED)

        self.axis.home(SWITCH, lambda: None, word)

    def test_what_it_still_says_of_the_last_homing_is_not_believed(self) -> None:
        self.begin(answer=0.3)
        for _ in range(10):
            self.stands(267, 0.1)
            self.says(ENABLED | ATTAINED | c.TARGET_REACHED)
        self.assertFalse(self.axis.homed)
        self.says(ENABLED)
        self.stands(0)
        self.says(ENABLED | ATTAINED | c.TARGET_REACHED)
        self.stands(0)
        self.says(ENABLED | ATTAINED | c.TARGET_REACHED)
        self.assertTrue(self.axis.homed)
        self.assertEqual(self.result(), HomingResult.FOUND.raw)

    def test_its_place_is_what_it_says_after_it_counts_anew(self) -> None:
        self.begin()
        self.stands(200)
        self.says(
            ENABLED | ATTAINED | c.TARGET_REACHED
        )  # and it counts from 0 since a moment ago, which nobody has read yet
        self.assertFalse(self.axis.homed)
        self.stands(0)
        self.says(ENABLED | ATTAINED | c.TARGET_REACHED)
        self.assertTrue(self.axis.homed)
        self.assertEqual(self.axis.state.position, 2.0)

    def test_one_that_never_takes_it_up_has_not_found_it(self) -> None:
        for before in (ATTAINED, FAILED):
            with self.subTest(before=hex(before)):
                self.axis.home(SWITCH, lambda: None, lambda _: None)
                self.stands(267, STUCK - 0.5)
                self.says(ENABLED | before | c.TARGET_REACHED)
                self.assertEqual(self.result(), HomingResult.NONE.raw)
                self.stands(267, 1.0)
                self.says(ENABLED | before | c.TARGET_REACHED)
                self.assertEqual(self.result(), HomingResult.NOT_FOUND.raw)
                self.assertFalse(self.axis.homed)

    def test_one_that_moves_and_fails_has_not_found_it(self) -> None:
        self.begin()
        self.stands(300)
        self.says(ENABLED | FAILED | c.TARGET_REACHED)
        self.assertEqual(self.result(), HomingResult.NOT_FOUND.raw)

    def test_an_answer_to_what_was_asked_before_it_began_says_nothing(self) -> None:
        self.begin()
        asked = self.now - 0.01
        self.stands(300)
        self.says(ENABLED | FAILED | c.TARGET_REACHED, asked)
        self.assertEqual(self.result(), HomingResult.NONE.raw)


class Moved(AxisCase):
    def test_an_answer_that_was_asked_for_before_a_move_is_no_rest_of_it(self) -> None:
        """A drive that answers slowly says of the time before that it stands, and that its target is reached."""
        self.axis.trusted, self.axis.watch = True, Watch(sub=1, seen=True)
        self.axis.go(10, 600, lambda: None, seek=False)
        begun = self.now
        for _ in range(20):
            self.now += 0.02
            self.axis.see((c.POSITION, 0), (267).to_bytes(4, "little"), begun - 0.01)
            self.says(ENABLED | c.TARGET_REACHED, begun - 0.01)
        self.assertTrue(self.axis.state.moving)
        self.stands(277, 0.3)
        self.says(ENABLED | c.TARGET_REACHED)
        self.stands(277, 0.02)
        self.assertFalse(self.axis.state.moving)


class GoingPart(MadeUpPart):
    """Goes to its target at its speed, in thousandths of a millimetre, on the clock of the test."""

    behind, takes = False, 0.0

    def __init__(self) -> None:
        self.place, self.target, self.speed = 0.0, 0, 0

    def say(self, where: tuple[int, int], raw: int, _size: int) -> None:
        if where == (c.TARGET_POSITION, 0):
            self.target = raw
        elif where == (c.PROFILE_SPEED, 0):
            self.speed = raw

    def go(self, seconds: float) -> None:
        way = self.target - self.place
        self.place += max(-self.speed * seconds, min(self.speed * seconds, way))


class Leashed(AxisCase):
    """Homing by Idler itself, with drives that answer at once and with such as take their time."""

    SWITCH = 50_000

    def home(self, answer: float, lets_go: float = 0.0) -> HomingResult:
        """answer: s from one look to the answer of the next. lets_go: counts before its switch at which it is let go again."""
        part = GoingPart()
        axis = self.axis = Axis(part, 0, "X")  # type: ignore[arg-type]
        axis.units = PartUnits(Fraction(1000), Fraction(1000))
        axis.coordinate, part.takes = 2.0, answer
        made, looks = 0, itertools.cycle(axes.LOOKED_AT)

        def look() -> None:
            nonlocal made
            asked, where = self.now, next(looks)
            for part_of in range(20):
                self.now += answer / 20
                part.go(answer / 20)
                if part_of == 10:
                    made = c.INPUT_HOME if part.place >= self.SWITCH - (lets_go if made else 0) else 0
                    said = {(c.STATUS, 0): ENABLED | c.TARGET_REACHED, (c.DIGITAL_INPUTS, 0): made}.get(
                        where, round(part.place)
                    )
            axis.see(where, said.to_bytes(4, "little", signed=True), asked)

        for _ in range(9):
            look()
        axis.home_leashed(Plan(1, 600.0, 240.0, 100.0), lambda: None)
        ends = self.now + 600
        while axis.leashed is not None and self.now < ends:
            look()
            axis.keep_on(self.now)
        return axis.state.homing_result

    def test_home_is_where_the_switch_is_or_it_is_said_that_this_is_not_known(self) -> None:
        for answer in (0.001, 0.005, 0.02, 0.05, 0.1):
            with self.subTest(answer=answer):
                self.assertIs(self.home(answer), HomingResult.FOUND)
                self.assertAlmostEqual(self.axis.raw_of(2.0), self.SWITCH, delta=1000 * SURE)

    def test_a_switch_that_lets_go_late_is_backed_off_further_and_one_that_never_does_stays_pressed(self) -> None:
        self.assertIs(self.home(0.005, 4500), HomingResult.FOUND)
        self.assertAlmostEqual(self.axis.raw_of(2.0), self.SWITCH, delta=1000 * SURE)
        self.assertIs(self.home(0.005, 30_000), HomingResult.STILL_PRESSED)

    def test_a_drive_that_is_seen_too_seldom_is_not_homed(self) -> None:
        self.assertIs(self.home(0.3), HomingResult.UNSURE)
        self.assertFalse(self.axis.homed)


class Together(AxisCase):
    """Places and switches that come in one frame."""

    def frame(self, place: int, inputs: int, late: float) -> None:
        self.now += late
        asked = self.now - late
        self.axis.see((c.POSITION, 0), place.to_bytes(4, "little", signed=True), asked)
        self.axis.see((c.DIGITAL_INPUTS, 0), inputs.to_bytes(4, "little"), asked)

    def test_an_edge_lies_between_two_places_however_late_they_are_seen(self) -> None:
        self.axis._begin(50.0, axes.Way.GOES)
        for number, late in enumerate((0.002, 0.09, 0.01, 0.4)):
            self.frame(1000 + 10 * number, c.INPUT_HOME if number == 3 else 0, late)
        self.assertEqual(self.axis.latches, 1)
        self.assertEqual(self.axis.latched_raw, 1025)
        self.assertAlmostEqual(self.axis.latched_within * abs(float(self.axis.units.place)), 6)

    def test_one_whose_place_was_asked_for_in_between_is_known_by_the_times(self) -> None:
        self.axis._begin(50.0, axes.Way.GOES)
        self.frame(1000, 0, 0.002)
        self.now += 0.01
        self.axis.see((c.POSITION, 0), (1005).to_bytes(4, "little"), self.now - 0.002)
        self.frame(1010, c.INPUT_HOME, 0.1)
        self.assertGreater(self.axis.latched_within * abs(float(self.axis.units.place)), 6)


class Between(unittest.TestCase):
    @given(speed=st.floats(-50, 50), gap=st.floats(0.001, 0.2), met=st.floats(0.1, 0.9), late=st.floats(0, 0.9))
    def test_where_it_was_is_within_what_is_said(self, speed: float, gap: float, met: float, late: float) -> None:
        """At an even speed in counts per ms, places that were true at any moment between question and answer."""
        track = [Seen(n * gap, (n + 1) * gap, round(1000 * speed * (n + late) * gap)) for n in range(12)]
        edge = (5 + met) * gap
        raw, within = place_between(track, 5 * gap, 6 * gap)
        self.assertLessEqual(abs(raw - 1000 * speed * edge), within + 2)
