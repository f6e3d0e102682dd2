"""Terminals over the wire: edges in blocks, what is held, and what stops."""

from __future__ import annotations

from itertools import pairwise
from unittest import mock

import numpy as np

from idler.core.profile.cia402 import DRIVE_TROUBLE, GUARD_OPENED, State
from idler.core.profile.edges import MOST_EDGES, EdgeBlock
from idler.core.profile.terminals import COMMAND_PDO, Condition
from idler.core.spindle.interlocks import ladder, obstacle_of
from idler.link.errors import NotAllowedNow
from idler.link.events import Asked, Connected, Done, Emergency, Event, Failed
from idler.link.own.client import Client
from idler.link.plan import plan
from idler.link.pollers import EdgePoller
from idler.link.thread import Link
from idler.link.trace import Trace
from tests.support import BenchCase, LinkedCase, Z, at, wait_for, wired

RUN = Asked(run=1, level=600)


class Linked(LinkedCase):
    """A link to Verge, told how it is wired, with the class's bench as delivered."""

    def setUp(self) -> None:
        super().setUp()
        for _ in range(4):  # a computer that pauses may miss an answer; a person would press again
            self.events.clear()
            self.link.connect(self.bench.link)
            self.wait(lambda: self.got(Connected) or self.got(Failed), "the connection")
            if not self.got(Connected):
                continue
            self.link.send(plan(wired(), self.got(Connected)[0].holding))
            self.wait(
                lambda: [e for e in self.got(Done) + self.got(Failed) if e.what == "send"], "the wiring to be sent"
            )
            if not self.got(Failed):
                return
        raise AssertionError("the wiring was not sent")

    def wait(self, condition, what: str) -> None:
        wait_for(condition, what, self.link.keep_holding)

    def hand(self, what: str, switch: str) -> None:
        self.bench.hands.ask(do=what, switch=switch)

    def spin(self) -> None:
        """The spindle at speed; asked for again where this computer paused for so long that the controller let go."""

        def confirm() -> None:
            if not self.has(Condition.SPINDLE):
                self.link.hold_terminals(RUN)
            self.link.keep_holding()

        wait_for(lambda: self.bench.hands.ask(do="look")["spindle"] > 3000, "the spindle", confirm)

    def power(self) -> None:
        self.link.power(True)
        self.wait(lambda: all(a.state is State.ENABLED for a in self.link.axes), "power")

    def has(self, condition: Condition) -> bool:
        return bool(self.link.panel.conditions & condition)


class Edges(Linked):
    def test_edges_come_with_the_controllers_time_and_none_is_missed(self) -> None:
        self.link.watch(True)
        self.wait(lambda: self.link.trace.now, "the first block")
        for _ in range(3):
            self.hand("press", "X home")
            self.bench.hands.ask(do="run", seconds=0.5)
            self.hand("release", "X home")
            self.bench.hands.ask(do="run", seconds=0.5)
        clock = self.bench.hands.ask(do="look")["clock"]
        self.wait(lambda: self.link.trace.now >= clock * 1e6, "the trace to catch up")
        edges = self.link.trace.since(0)
        mine = edges.closed[edges.inputs == 1].tolist()
        self.assertGreaterEqual(len(mine), 6)
        self.assertTrue(all(a != b for a, b in pairwise(mine)))
        self.assertEqual((self.link.trace.counts()[1], self.link.trace.missed), (len(mine), 0))
        self.assertEqual(edges.levels.tolist()[:7], [1, 1, 1, 1, 1, 0, 0])

    def test_a_block_is_read_only_where_an_edge_waits(self) -> None:
        self.link.watch(True)
        self.wait(lambda: self.link.trace.now, "the first block")
        assert self.link._client is not None
        objects, counts = self.link._client.objects, self.link.trace.counts()
        with mock.patch.object(objects, "block", wraps=objects.block) as block:
            until = self.link.trace.now + 5_000_000
            self.wait(lambda: self.link.trace.now > until, "the clock to go on")
            self.assertEqual(block.call_count, 0)
            self.hand("press", "X home")
            self.wait(lambda: self.link.trace.counts() != counts, "the edge")
            self.assertGreater(block.call_count, 0)

    def test_edges_without_end_hold_nothing_else_up(self) -> None:
        """Of an input that is noisier than they can be read, one look ends all the same."""
        poller, client = EdgePoller(lambda: False), mock.Mock()
        client.panel.closed, client.shape.inputs = 0, 1
        zeros = np.zeros(MOST_EDGES, np.int64)
        client.edges.side_effect = lambda: EdgeBlock(0, 0, zeros, zeros, zeros)
        poller.wanted = True
        poller.take(client)
        self.assertGreater(client.edges.call_count, 1)
        self.assertEqual(poller.due, 0.0)

    def test_thousands_of_edges_come_in_many_blocks_in_order(self) -> None:
        for name in ("X home", "Y home", "Z home", "loose end", "guard"):
            self.hand("loosen", name)
        self.bench.hands.ask(do="run", seconds=25)
        for name in ("X home", "Y home", "Z home", "loose end", "guard"):
            self.hand("sound", name)
        self.link.watch(True)
        clock = self.bench.hands.ask(do="look")["clock"]
        self.wait(lambda: self.link.trace.now >= clock * 1e6, "the trace to catch up")
        edges = self.link.trace.since(0)
        self.assertGreater(len(edges.times), 3000)
        self.assertTrue(bool((edges.times[1:] >= edges.times[:-1]).all()))
        self.assertEqual(self.link.trace.missed, 0)

    def test_a_restart_begins_the_trace_anew(self) -> None:
        self.link.watch(True)
        self.hand("press", "X home")
        self.wait(lambda: sum(self.link.trace.counts()), "an edge")
        self.link.restart()
        self.wait(lambda: [e for e in self.got(Done) if e.what == "restart"], "the restart")
        self.hand("release", "X home")
        self.wait(lambda: sum(self.link.trace.counts()), "an edge after it")
        self.assertLess(sum(self.link.trace.counts()), 40)

    def test_an_empty_trace(self) -> None:
        trace = Trace()
        self.assertEqual((trace.counts(), trace.now, len(trace.since(0).times)), ([], 0, 0))


class Holding(Linked):
    def test_an_output_is_on_while_held_and_the_controller_says_so(self) -> None:
        self.link.hold_terminals(Asked(tried=5))
        self.wait(lambda: self.link.panel.is_energised(4) and self.has(Condition.TRYING), "the coolant")
        self.link.hold_terminals(Asked())
        wait_for(lambda: not self.link.panel.is_energised(4), "its end")

    def test_what_nobody_confirms_ends(self) -> None:
        self.link.hold_terminals(Asked(tried=5))
        wait_for(lambda: self.link.panel.is_energised(4), "the coolant")
        wait_for(lambda: not self.link.panel.is_energised(4), "its end")

    def test_a_client_that_is_not_heard_any_more_holds_nothing(self) -> None:
        self.spin()
        with mock.patch.object(Client, "beat", lambda _self: None):
            self.wait(lambda: not self.has(Condition.SPINDLE), "the controller to miss it")

    def test_a_pulled_plug_ends_it_too(self) -> None:
        self.spin()
        self.bench.hands.ask(do="cut")
        wait_for(lambda: self.bench.hands.ask(do="look")["spindle"] == 0, "standstill")
        self.bench.hands.ask(do="mend")

    def test_a_frame_that_is_lost_is_said_again(self) -> None:
        send = Client.send
        lost: list[int] = []

        def loses_one(client: Client, identifier: int, data: bytes) -> None:
            if identifier == COMMAND_PDO + client.node and not lost:
                lost.append(identifier)
            else:
                send(client, identifier, data)

        for end in (lambda: self.link.hold_terminals(Asked()), self.link.stop):
            self.link.hold_terminals(Asked(tried=5))
            self.wait(lambda: self.link.panel.is_energised(4) and self.has(Condition.TRYING), "the coolant")
            lost.clear()
            with mock.patch.object(Client, "send", loses_one):
                end()
                wait_for(lambda: lost and not self.link.panel.is_energised(4), "its end")

    def test_stop_ends_it(self) -> None:
        self.spin()
        self.link.stop()
        self.wait(lambda: not self.has(Condition.SPINDLE), "its end")

    def test_a_level_is_what_was_asked_for(self) -> None:
        self.link.hold_terminals(Asked(tried=9, tried_level=200))
        self.wait(lambda: self.link.panel.levels[0] == 200, "the level")

    def test_the_controller_refuses_by_itself(self) -> None:
        self.hand("press", "guard")
        self.wait(lambda: self.has(Condition.GUARD), "the guard")
        self.assertTrue(obstacle_of(wired(), ladder(wired(), self.link.panel.conditions, fault=False, powered=True)))
        self.link.hold_terminals(Asked(tried=1))
        self.wait(lambda: self.has(Condition.REFUSED), "the refusal")
        self.assertFalse(self.link.panel.is_energised(0))


class Stopping(Linked):
    def test_the_guard_stops_the_spindle_and_closing_does_not_start_it(self) -> None:
        self.power()
        self.spin()
        self.hand("press", "guard")
        self.wait(lambda: [e for e in self.got(Emergency) if e.code == GUARD_OPENED], "the message")
        self.assertTrue(all(axis.state is State.ENABLED for axis in self.link.axes))
        self.hand("release", "guard")
        self.wait(lambda: self.bench.hands.ask(do="look")["spindle"] == 0, "standstill")
        self.wait(lambda: not self.has(Condition.GUARD), "the guard to be closed")
        self.assertFalse(self.has(Condition.SPINDLE))

    def test_a_motor_that_gives_up_is_named(self) -> None:
        self.power()
        self.bench.hands.ask(do="jam", axis="Z")
        self.link.jog_step(Z, -20, 900)
        self.wait(lambda: self.got(Emergency), "the message")
        (event,) = self.got(Emergency)
        self.assertEqual((event.code, event.axis, event.input), (DRIVE_TROUBLE, Z, 8))
        self.wait(lambda: self.link.axes[Z].state is State.FAULT, "the fault")
        self.assertFalse(self.link.axes[Z].homed)
        self.power()  # still jammed: it gives up again, and is told again
        self.link.jog_step(Z, -20, 900)
        self.wait(lambda: len(self.got(Emergency)) == 2, "the next message")
        self.wait(lambda: self.link.axes[Z].state is State.FAULT, "the next fault")
        self.bench.hands.ask(do="free", axis="Z")
        self.power()

    def test_a_stop_while_the_spindle_runs(self) -> None:
        self.power()
        self.spin()
        self.hand("press", "emergency stop")
        self.wait(lambda: self.has(Condition.STOP) and not self.has(Condition.SPINDLE), "the stop")
        self.link.power(True)
        self.wait(lambda: self.got(Failed), "the refusal")
        self.hand("release", "emergency stop")
        self.wait(lambda: not self.has(Condition.STOP), "its release")
        self.power()
        self.assertFalse(self.has(Condition.SPINDLE))


class Limits(Linked):
    def test_a_limit_switch_is_told_with_its_end(self) -> None:
        holding = self.got(Done)[-1].holding
        limit = wired().with_values(
            {at(7, "input.role"): "limit_low", at(10, "input.role"): "limit_high", at(10, "input.rest"): "open",
             at(7, "input.axis"): "X", at(10, "input.axis"): "Y", at(7, "input.rest"): "open"}
        )  # fmt: skip
        self.link.send(plan(limit, holding))
        self.wait(lambda: len([e for e in self.got(Done) if e.what == "send"]) == 2, "the limits to be sent")
        self.hand("press", "loose end")
        self.wait(lambda: self.link.axes[1].limit_made == "high", "the limit")
        self.assertEqual(self.link.axes[0].limit_made, "")


class SecondRig(BenchCase):
    rig = "longcase"

    def test_another_controller_has_other_terminals(self) -> None:
        events: list[Event] = []
        link = Link(events.append)
        self.addCleanup(link.close)
        link.connect(self.bench.link)
        wait_for(lambda: events and isinstance(events[-1], Connected), "the connection")
        shape = events[-1].holding.shape
        self.assertEqual((shape.names, shape.inputs, shape.outputs), (("X", "Y", "Z"), 8, 5))
        words = "12 inputs and 10 outputs; the controller has the axes X, Y, Z, 8 inputs"
        with self.assertRaisesRegex(NotAllowedNow, words):
            plan(wired(), events[-1].holding)
