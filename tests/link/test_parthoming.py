"""When a plain drive has found its home, or come to rest: not by what it said before it took up what it was told, and where it
stands by what it says then."""

from __future__ import annotations

import unittest
from unittest import mock

from idler.core.profile import cia402 as c
from idler.core.profile.homing import HomingResult
from idler.link.plain import axis as axes
from idler.link.plain.axis import STUCK, Axis
from idler.link.plain.safety import Watch

ATTAINED, FAILED = 0x1000, 0x2000
ENABLED = 0x0027
SWITCH = 23


class MadeUpPart:
    """Takes what it is told, and says nothing by itself."""

    called, period = "a drive", 0.02
    seen = None

    def watch(self, _: object) -> None: ...
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
