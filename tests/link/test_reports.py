"""What parts say by themselves at a SYNC: matched with the question, compared with what they answer, given back at the end."""

from __future__ import annotations

import tempfile
import unittest
from fractions import Fraction
from importlib.resources import files
from pathlib import Path
from unittest import mock

import can
from hypothesis import given, settings
from hypothesis import strategies as st

from idler.core.profile import cia402 as c
from idler.link.bus.address import parse
from idler.link.bus.survey import Survey
from idler.link.events import Done
from idler.link.plain import reports as report
from idler.link.plain.client import Client
from idler.link.plain.mapped import Taken
from idler.link.plain.part import Part
from idler.link.plain.reports import JITTER, MOST_WRONG, UNANSWERED, Reports, Sync
from idler.link.times import usual
from tests.link.strangers import Stranger
from tests.link.test_plain import PITCHES, PlainCase
from tests.support import X, Y, Z, at, wait_for

PLACE, CONTACTS = (c.POSITION, 0), (c.DIGITAL_INPUTS, 0)
PERIOD = 0.02  # s


def reports() -> Reports:
    found = Reports(Taken(0x281, ()), [(PLACE, 4), (CONTACTS, 4)], frozenset({PLACE}))
    found.believed = True
    return found


def frame(place: int, contacts: int = 0) -> bytes:
    return place.to_bytes(4, "little", signed=True) + contacts.to_bytes(4, "little")


class Matched(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.tuples(st.floats(0.0005, 0.09), st.booleans()), min_size=5, max_size=200))
    def test_no_frame_is_taken_for_newer_than_it_is_and_lost_ones_age_the_next_only(
        self, course: list[tuple[float, bool]]
    ) -> None:
        """course: of each question, what its answer takes, and whether it is lost. Answers keep their order."""
        found, line, part = reports(), mock.Mock(), mock.Mock(period=PERIOD)
        part.reports = found
        asked: list[float] = []
        line.send = lambda *_: asked.append(now)
        sync, now = Sync(line, lambda _: None), 10.0
        coming: list[tuple[float, float]] = []  # when it comes, and when it was asked for
        lost_at, took = 0.0, iter(course)
        calm = [(0.001, False)] * 300
        for _ in range(40_000):
            now += 0.001
            before = len(asked)
            sync.step([part], now)
            if len(asked) > before:
                if (each := next(took, None) or (calm.pop() if calm else None)) is None:
                    break
                takes, lost = each
                lost_at = now if lost else lost_at
                if not lost:
                    coming.append((max(now + takes, coming[-1][0] if coming else 0.0), now))
            while coming and coming[0][0] <= now:
                _, truly = coming.pop(0)
                came = found.answer(frame(0), now)
                if came is None:
                    continue  # it came when nobody waited any more
                self.assertLessEqual(came[0], truly + 1e-9)
                if now - lost_at > 4 * UNANSWERED:
                    self.assertAlmostEqual(came[0], truly)
        self.assertGreater(len(asked), len(course))

    def test_a_frame_that_nobody_asked_for_or_that_is_too_short_says_nothing(self) -> None:
        found = reports()
        self.assertIsNone(found.answer(frame(1), 1.0))
        found.ask(2.0)
        self.assertIsNone(found.answer(frame(1)[:7], 2.001))
        self.assertTrue(found.overdue(2.0 + 2 * UNANSWERED))


class Compared(unittest.TestCase):
    def course(self, places: list[tuple[int, int]]) -> Reports:
        """What is said and what is answered, in turn: each is a place."""
        found, now = reports(), 1.0
        for said, answered in places:
            for _ in range(3):
                now += PERIOD
                found.ask(now)
                found.answer(frame(said), now + 0.001)
            found.compare(PLACE, answered.to_bytes(4, "little", signed=True), now + 0.002, now + 0.003)
        found.ask(now + PERIOD)
        found.answer(frame(places[-1][0]), now + PERIOD + 0.001)
        return found

    def test_what_agrees_is_believed(self) -> None:
        self.assertTrue(self.course([(place, place + JITTER) for place in range(0, 9000, 700)]).believed)

    def test_one_that_says_for_ever_what_was_is_given_up(self) -> None:
        found = self.course([(500, place) for place in (500, 500, *range(600, 600 + 100 * MOST_WRONG, 100))])
        self.assertTrue(found.given_up)
        self.assertFalse(found.believed)

    def test_one_that_lies_about_its_place_alone_is_given_up_too(self) -> None:
        found, now = reports(), 1.0
        for number in range(2 * MOST_WRONG + 2):
            now += PERIOD
            found.ask(now)
            found.answer(frame(500), now + 0.001)
            where, data = (PLACE, 600 + 100 * number) if number % 2 else (CONTACTS, 0)
            found.compare(where, data.to_bytes(4, "little"), now + 0.002, now + 0.003)
        self.assertTrue(found.given_up)

    def test_a_single_one_that_does_not_agree_is_no_lie(self) -> None:
        self.assertTrue(self.course([(0, 0), (100, 150), (200, 200), (300, 350), (400, 400)]).believed)

    def test_nothing_is_taken_from_frames_before_it_was_seen_to_change_there(self) -> None:
        found, now = reports(), 1.0
        for place, contacts, told in (
            (7, 0, (False, False)),
            (7, 0, (False, False)),
            (9, 0, (True, False)),
            (9, 4, (True, True)),
        ):
            now += PERIOD
            found.ask(now)
            found.answer(frame(place, contacts), now + 0.001)
            self.assertEqual((found.tells(PLACE), found.tells(CONTACTS)), told)

    def test_contacts_are_compared_bit_by_bit(self) -> None:
        found, now = reports(), 1.0
        for _ in range(4):
            now += PERIOD
            found.ask(now)
            found.answer(frame(0, 4), now + 0.001)
            found.compare(CONTACTS, (5).to_bytes(4, "little"), now + 0.002, now + 0.003)
        self.assertTrue(found.given_up)


def held(case: PlainCase, node: int, index: int, sub: int) -> int:
    with Survey(parse(case.bench.link), usual) as bus, bus._asking(node) as told:
        return int.from_bytes(told(index, sub), "little")


class ReportsCase(PlainCase):
    def ready(self, parts: str = "1=X,2=Y,3=Z,4=terminals,5=encoder") -> None:
        self.connect(parts)
        self.send({**PITCHES})
        self.power()

    def parts(self) -> dict[int, Part]:
        client = self.link._client
        assert isinstance(client, Client)
        return client.by_node

    def said(self) -> dict[int, list[int]]:
        """Objects that each says by itself, and is believed."""
        return {
            node: [where[0] for where in part.reports.objects]
            for node, part in self.parts().items()
            if part.reports is not None and part.reports.believed
        }

    def goes(self, slot: int, name: str, distance: float) -> None:
        before = self.where(name)
        self.step(slot, distance, 1200)
        lies = 1.25 if name == "Y" else 1.0  # it says 5000 counts of a turn and counts 4000
        self.assertAlmostEqual(abs(self.where(name) - before), lies * abs(distance), delta=0.1)


class OnBench(ReportsCase):
    def test_places_and_contacts_come_in_one_frame_of_who_has_one_to_spare(self) -> None:
        self.ready()
        both = [c.POSITION, c.DIGITAL_INPUTS]
        self.assertEqual(self.said(), {1: both, 2: both, 4: [0x6000], 5: [0x6004]})
        self.assertEqual(held(self, 1, 0x1800, 1), 0x181)  # its maker's own is left as it is
        self.goes(X, "X", -8)
        self.goes(Z, "Z", 8)
        self.assertEqual(len(self.said()), 4)
        self.link.close()
        self.open()
        self.assertEqual(held(self, 1, 0x1801, 1), 0x80000281)
        self.assertEqual(held(self, 1, 0x1A01, 0), 0)

    def test_it_is_given_back_before_anything_is_stored(self) -> None:
        self.ready()
        with mock.patch.object(report, "take", return_value=None):  # nothing is taken after it
            self.send({at(X, "pace.top_speed"): Fraction(9000)})
        self.assertEqual(self.said(), {})
        self.assertEqual(held(self, 1, 0x1801, 1), 0x80000281)
        self.goes(X, "X", -6)

    def test_after_a_send_it_is_taken_again(self) -> None:
        self.ready()
        self.send({at(X, "pace.top_speed"): Fraction(9000)})
        self.assertEqual(sorted(self.said()), [1, 2, 4, 5])

    def test_where_somebody_else_says_sync_all_are_asked_singly(self) -> None:
        self.ready()
        port = self.bench.link.rpartition(":")[2]
        with can.Bus(f"socket://127.0.0.1:{port}", interface="slcan", sleep_after_open=0, bitrate=500_000) as other:
            other.send(can.Message(arbitration_id=0x80, data=b"", is_extended_id=False))
            wait_for(lambda: not self.said(), "it to be heard")
        self.goes(X, "X", -6)

    def test_frames_that_are_lost_hide_no_place(self) -> None:
        self.ready()
        honest, count = Part.frame, [0]

        def lossy(part: Part, identifier: int, data: bytes, now: float) -> None:
            count[0] += 1
            if count[0] % 3:
                honest(part, identifier, data, now)

        with mock.patch.object(Part, "frame", lossy):
            self.goes(X, "X", -10)
            self.goes(Y, "Y", -6)
        with mock.patch.object(Part, "frame", lambda *_: None):  # none comes at all
            self.goes(X, "X", 5)

    def test_a_part_whose_answers_cease_is_missed_though_it_goes_on_to_say_its_places(self) -> None:
        self.ready()
        axis = self.link._client.drawn[X]  # type: ignore[union-attr]
        with mock.patch.object(Part, "answer", lambda *_: None):
            wait_for(lambda: axis.part.unheard > 0.3 or not self.link.connected, "it to be missed")


class Otherwise(ReportsCase):
    """Its drives have objects for it, and each fails in its own way."""

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        rig = (files("idler.bench") / "rigs" / "pieces.toml").read_text("utf-8")
        for node, says in ((1, "refuses"), (2, "nothing"), (3, "something else")):
            rig = rig.replace(f"node = {node}\nserial = 7", f'node = {node}\nsays = "{says}"\nserial = 7')
        rig = rig.replace("maps = false", "maps = true")
        (Path(folder.name) / "rig.toml").write_text(rig)
        (Path(folder.name) / "pieces.toml").write_text((files("idler") / "data" / "pieces.toml").read_text("utf-8"))
        cls.rig = str(Path(folder.name) / "rig.toml")
        super().setUpClass()

    def test_each_is_asked_singly_and_holds_what_it_held(self) -> None:
        self.ready()
        self.assertEqual(sorted(self.said()), [4, 5])
        for slot, name in ((X, "X"), (Y, "Y"), (Z, "Z")):
            self.goes(slot, name, -5)
        for node in (1, 2, 3):
            self.assertEqual(held(self, node, 0x1801, 1), 0x80000280 + node)
            self.assertEqual(held(self, node, 0x1A01, 0), 0)


class OnDurand(ReportsCase):
    """On a stack by others, which says in such a frame what it was told of a change."""

    def drive(self, **ways: object) -> Stranger:
        found = Stranger(self.bench.port, 21, says=2, **ways)
        self.addCleanup(found.close)
        self.connect("21=X")
        self.send({at(X, "chain.pitch"): Fraction(8)})
        self.power()
        self.assertEqual(self.said(), {21: [c.POSITION]})
        return found

    def test_it_goes_where_it_is_told(self) -> None:
        drive = self.drive()
        self.step(X, 12, 900)
        self.hold(X, -1200, 1.0)
        self.let_go(X)
        self.assertAlmostEqual(drive.place / drive.counts * 8, self.link.axes[X].position, delta=0.01)
        self.assertEqual(self.said(), {21: [c.POSITION]})
        self.link.close()
        self.open()
        self.assertEqual(held(self, 21, 0x1800, 1), 0x40000195)  # it was in force, with nothing mapped
        self.assertEqual(held(self, 21, 0x1A00, 0), 0)

    def test_one_that_is_told_of_no_change_is_believed_no_more_as_soon_as_it_moves(self) -> None:
        drive = self.drive(stale=True)
        self.assertIsInstance(self.after(lambda: self.link.jog_step(X, 12, 900, seek=False), Done), Done)
        wait_for(lambda: not self.said(), "it to be given up", self.link.keep_holding)
        wait_for(lambda: not self.link.axes[X].moving, "rest")
        self.assertAlmostEqual(drive.place / drive.counts * 8, 12, delta=0.01)
        self.assertAlmostEqual(self.link.axes[X].position, 12, delta=0.01)
