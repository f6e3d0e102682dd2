"""A spindle with a drive of its own (CiA 402): told, watched and ended by it, on the bench."""

import tempfile
import time
import unittest
from fractions import Fraction
from importlib.resources import files
from pathlib import Path
from unittest import mock

from idler.core.controller.nodes import What
from idler.core.controller.parts import parse_parts, proposed
from idler.core.profile.terminals import Condition
from idler.core.rules.findings import findings
from idler.core.spindle import turns_both_ways
from idler.link.bus.address import parse
from idler.link.bus.survey import survey
from idler.link.events import Asked, Connected, Done, Failed
from idler.link.plain.part import Object, Part

from ..support import at, wait_for
from .test_plain import PARTS, PlainCase

ROLES = f"{PARTS},5=encoder,12=spindle"
AGAIN = 8.0  # s until it is asked for again
TOLD = {at(None, "spindle.counts"): 4000, at(0, "range.high"): Fraction(9000), at(0, "range.ratio"): Fraction(1, 2)}


def with_inverter(case: type[unittest.TestCase], more: str = "") -> str:
    """A rig of plain parts whose spindle has a drive of its own, at node 12. more: how it differs from a good one."""
    folder = tempfile.TemporaryDirectory()
    case.addClassCleanup(folder.cleanup)
    rig = (files("idler.bench") / "rigs" / "pieces.toml").read_text("utf-8")
    rig = rig.replace("run_output = 1\nlevel_output = 9\n", "on_bus = true\nratios = [0.5]\n")
    (Path(folder.name) / "rig.toml").write_text(f"{rig}\n[inverter]\nnode = 12\n{more}\n")
    (Path(folder.name) / "pieces.toml").write_text((files("idler") / "data" / "pieces.toml").read_text("utf-8"))
    return str(Path(folder.name) / "rig.toml")


class Case(PlainCase):
    inverter = ""  # how it differs from a good one

    @classmethod
    def setUpClass(cls) -> None:
        cls.rig = with_inverter(cls, cls.inverter)
        super().setUpClass()

    @property
    def truth(self) -> float:
        return float(self.bench.hands.ask(do="look")["spindle"])

    def turn(self, asked: Asked, rpm: float) -> None:
        """A computer that pauses loses a hold; a person would press again."""
        pressed = -AGAIN

        def hold() -> None:
            nonlocal pressed
            if time.monotonic() - pressed > AGAIN:
                self.link.hold_terminals(asked)
                pressed = time.monotonic()
            self.link.keep_holding()

        hold()
        wait_for(lambda: abs(self.truth - rpm) < 0.003 * abs(rpm) + 2, f"{rpm:g} rpm", hold)

    def refusal(self, asked: Asked) -> str:
        found = self.after(lambda: self.link.hold_terminals(asked), Connected, Done)
        assert isinstance(found, Failed), found
        return found.why


class OnBench(Case):
    def setUp(self) -> None:
        super().setUp()
        self.connect(ROLES)
        self.assertEqual(self.machine[at(None, "spindle.kind")], "drive")  # as it is found
        self.send({**TOLD})

    def test_it_is_told_turns_of_its_motor_both_ways_and_goes_off_when_it_stands(self) -> None:
        self.assertTrue(turns_both_ways(self.machine))
        self.assertTrue(str(self.machine[at(None, "spindle.part")]).startswith("5A5-40F-"))
        self.turn(Asked(run=1, speed=20_000), 9000)  # no more than the range has
        self.assertIn(Condition.SPINDLE, self.link.panel.conditions)
        self.turn(Asked(run=-1, speed=1200), -1200)
        self.link.hold_terminals(Asked())
        wait_for(lambda: self.truth == 0, "standstill")
        drive = self.link._client.turning  # type: ignore[union-attr]
        assert drive is not None
        wait_for(lambda: not drive.state.powered, "its power to go")

    def test_stop_a_fault_and_silence_end_it_and_nothing_starts_it_again(self) -> None:
        client = self.link._client
        assert client is not None
        self.turn(Asked(run=1, speed=3000), 3000)
        self.link.stop()
        wait_for(lambda: self.truth == 0, "standstill", self.link.keep_holding)
        self.assertNotIn(Condition.SPINDLE, self.link.panel.conditions)
        self.turn(Asked(run=1, speed=3000), 3000)
        with mock.patch.object(client, "_silent", True):  # held up for longer than it waits
            wait_for(lambda: self.truth < 2000, "it to notice", self.link.keep_holding)
        wait_for(lambda: self.truth == 0, "standstill", self.link.keep_holding)
        self.assertNotIn(Condition.SPINDLE, self.link.panel.conditions)
        self.turn(Asked(run=1, speed=3000), 3000)
        self.bench.hands.ask(do="press", switch="emergency stop")
        wait_for(lambda: Condition.NOT_READY in self.link.panel.conditions, "its fault", self.link.keep_holding)
        wait_for(lambda: self.truth == 0, "standstill", self.link.keep_holding)
        self.assertIn("does not follow", self.refusal(Asked(run=1, speed=2000)))
        self.bench.hands.ask(do="release", switch="emergency stop")
        since = time.monotonic()
        wait_for(lambda: time.monotonic() - since > 0.5, "a moment", self.link.keep_holding)
        self.assertEqual(self.truth, 0)  # nothing starts it again by itself
        self.turn(Asked(run=1, speed=2000), 2000)  # its fault is reset by whoever starts it
        self.bench.hands.ask(do="press", switch="emergency stop")
        wait_for(lambda: Condition.NOT_READY in self.link.panel.conditions, "its fault")
        self.bench.hands.ask(do="release", switch="emergency stop")
        self.power()  # or by power
        wait_for(lambda: Condition.NOT_READY not in self.link.panel.conditions, "it to be reset")
        self.turn(Asked(run=1, speed=2000), 2000)
        self.bench.hands.ask(do="cut")
        self.addCleanup(self.bench.hands.ask, do="mend")
        wait_for(lambda: self.truth == 0, "standstill", self.link.keep_holding)

    def test_frames_that_were_lost_leave_it_turning_no_longer(self) -> None:
        self.turn(Asked(run=1, speed=3000), 3000)
        say, lost = Part.say, []

        def losing(part: Part, where: Object, raw: int, size: int) -> None:
            if part.node == 12 and len(lost) < 3:  # its speed, and the quick stop
                lost.append(where)
                return
            say(part, where, raw, size)

        with mock.patch.object(Part, "say", losing):
            self.link.stop()
            wait_for(lambda: self.truth == 0, "standstill", self.link.keep_holding)
        self.assertEqual({0x6042, 0x6040}, {index for index, _ in lost})

    def test_a_spindle_that_is_told_in_another_way_from_now_on_stands(self) -> None:
        self.turn(Asked(run=1, speed=3000), 3000)
        client = self.link._client
        assert client is not None
        other = self.machine.with_values({at(None, "spindle.kind"): "relay"})
        client._spindle.configure(other)
        wait_for(lambda: self.truth == 0, "standstill", self.link.keep_holding)

    def test_more_than_its_motor_can_is_refused_with_both_figures(self) -> None:
        self.send({at(0, "range.high"): Fraction(12_000)})
        why = self.refusal(Asked(run=1, speed=12_000))
        self.assertIn("18000 rpm at most", why)
        self.assertIn("24000 rpm", why)

    def test_it_is_seen_on_the_bus_for_what_it_is(self) -> None:
        self.link.disconnect()
        nodes = survey(parse(self.bench.link))
        self.assertIs(next(node.what for node in nodes if node.number == 12), What.INVERTER)
        self.assertEqual(str(parse_parts(ROLES)), ROLES)
        guess = proposed([(node.number, node.what) for node in nodes])
        self.assertEqual((guess[12], guess[5], guess[1]), ("spindle", "encoder", "X"))

    def test_another_kind_than_the_part_is_a_finding(self) -> None:
        codes = lambda machine: {found.code for found in findings(machine)}  # noqa: E731
        self.assertFalse(codes(self.machine) & {"no_spindle_part", "spindle_part_unused", "no_spindle_switch"})
        self.assertIn("spindle_part_unused", codes(self.machine.with_values({at(None, "spindle.kind"): "relay"})))
        self.assertIn("no_spindle_part", codes(self.machine.with_values({at(None, "build.controller"): "whole"})))


class OfCounts(Case):
    """One that knows profile velocity alone."""

    inverter = 'speaks = "counts"\ncounts = 2500'

    def test_counts_per_second_follow_from_its_counts_per_turn(self) -> None:
        self.connect(ROLES)
        self.send({**TOLD})
        self.turn(Asked(run=-1, speed=2000), -2000)


class Deaf(Case):
    """One that takes the heartbeat, and does not stop without it."""

    inverter = "deaf = true"

    def test_it_is_found_out_at_rest_and_never_turns(self) -> None:
        self.connect(ROLES)
        self.send({**TOLD})
        self.assertIn("did not stop without it", self.refusal(Asked(run=1, speed=3000)))
        self.assertEqual(self.truth, 0)


class Unheard(Case):
    """One that listens to no heartbeat at all."""

    inverter = "listens = false"

    def test_it_is_not_started(self) -> None:
        self.connect(ROLES)
        self.send({**TOLD})
        self.assertIn("it listens to no heartbeat", self.refusal(Asked(run=1, speed=3000)))
        self.assertEqual(self.truth, 0)
