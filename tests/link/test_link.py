"""The link on the real bench: connecting, sending, restarting, moving, stopping, and everything that can go wrong."""

from __future__ import annotations

import contextlib
import getpass
import grp
import itertools
import os
import select
import socket
import tempfile
import threading
import unittest
from collections import namedtuple
from collections.abc import Callable
from contextlib import AbstractContextManager
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from unittest import mock

import can

from idler.core.controller.standing import ControllerImage
from idler.core.profile import cia402 as c
from idler.core.profile.cia402 import State
from idler.core.profile.codec import Place, machine_from
from idler.link import times
from idler.link.bus import adapter as bus
from idler.link.bus import address
from idler.link.bus.line import MOST_FRAMES
from idler.link.errors import LinkError, LinkLost, NoAnswer, NobodyAnswers, NoPermission, NoSuchPort, PortBusy
from idler.link.events import Connected, Disconnected, Done, Emergency, Event, Failed, Read, Restarted
from idler.link.own.client import Client
from idler.link.own.objects import Objects
from idler.link.plan import plan
from idler.link.thread import Link
from tests.support import Bench, BenchCase, LinkedCase, X, Y, at, verge, wait_for, wired


class LinkCase(LinkedCase):
    def after(self, work: Callable[[], object], *kinds: type[Event]) -> Event:
        """The first event of one of these kinds that follows some work."""
        seen = len(self.events)
        work()
        wait_for(lambda: [e for e in self.events[seen:] if isinstance(e, kinds)], f"{kinds}")
        return next(e for e in self.events[seen:] if isinstance(e, kinds))

    def connect(self) -> ControllerImage:
        """A computer that pauses may miss an answer; a person would press Connect again."""
        for _ in range(4):
            event = self.after(lambda: self.link.connect(self.bench.link), Connected, Failed)
            if isinstance(event, Connected):
                break
        self.assertIsInstance(event, Connected)
        self.identity = event.identity
        return event.holding

    def power(self) -> None:
        self.assertIsInstance(self.after(lambda: self.link.power(True), Done, Failed), Done)

    def rest(self, slot: int) -> float:
        """Where it came to rest. A place may be heard before the state that says that it moves: asked until both stay."""
        while True:
            wait_for(lambda: not self.link.axes[slot].moving, "rest")
            at = self.link.axes[slot].position
            self.after(lambda: self.link.ask_for([Place(0x1001, 0)]), Read, Failed)
            if at == self.link.axes[slot].position and not self.link.axes[slot].moving:
                return at

    def step(self, slot: int, distance: float, speed: float = 2000) -> float:
        before = self.link.axes[slot].position
        event = self.after(lambda: self.link.jog_step(slot, distance, speed), Done, Failed)
        self.assertIsInstance(event, Done, event)
        wait_for(lambda: self.link.axes[slot].position != before, "motion")
        return self.rest(slot) - before


class Connecting(LinkCase):
    def test_who_answers_and_what_it_holds(self) -> None:
        holding = self.connect()
        self.assertEqual((self.identity.name, self.identity.serial), ("Bench controller", 26110417))
        self.assertTrue(self.identity.is_ours)
        self.assertEqual(machine_from(holding.raws, holding.shape), verge())

    def test_all_values_at_once_are_those_of_the_single_objects(self) -> None:
        self.connect()
        self.after(lambda: self.link.try_values({Place(0x60A4, 1): 5}), Done)
        held = self.after(self.link.read_all, Done).holding.raws
        self.assertEqual(self.after(lambda: self.link.ask_for(list(held)), Read).raws, held)
        self.assertEqual(held[Place(0x60A4, 1)], 5)

    def test_over_the_pseudo_terminal_too(self) -> None:
        bench = Bench(pty=True)
        self.addCleanup(bench.close)
        event = self.after(lambda: self.link.connect(bench.ready["device"]), Connected, Failed)
        self.assertIsInstance(event, Connected, event)
        busy = self.after(lambda: Link(self.events.append).connect(bench.ready["device"]), Failed)
        self.assertIn("another program has this port open", busy.why)

    def test_why_not(self) -> None:
        for text, why in (
            ("slcan://127.0.0.1:1", "nothing listens there"),
            (f"{self.bench.link}?bitrate=250000", "no controller answers at 250 kbit/s"),
            ("/dev/no-such-port", "there is no such port"),
            ("/dev/null", "is not a serial port"),
            ("can7", "is not there"),
            ("slcan://no.such.host.invalid:99", "slcan://no.such.host.invalid:99"),
        ):
            with self.subTest(text):
                event = self.after(lambda text=text: self.link.connect(text), Failed, Connected)
                self.assertIsInstance(event, Failed)
                self.assertIn(why, event.why)

    def test_without_a_link_a_request_says_so(self) -> None:
        event = self.after(lambda: self.link.jog_step(X, 1, 100), Failed)
        self.assertIn("No controller is connected", event.why)

    def test_a_pulled_plug(self) -> None:
        self.connect()
        event = self.after(lambda: self.bench.hands.ask(do="cut"), Disconnected)
        self.assertIn("not heard any more", event.why)
        again = self.after(lambda: self.bench.hands.ask(do="mend"), Connected)
        self.assertTrue(again.by_itself)

    def test_a_controller_that_restarts_by_itself(self) -> None:
        self.connect()
        self.after(lambda: self.bench.hands.ask(do="dip"), Restarted)
        wait_for(lambda: isinstance(self.events[-1], Done), "its values")
        self.assertEqual(self.events[-1].what, "restart")


class LateAnswers(BenchCase):
    def client(self, answer: float) -> Client:
        def wait(seconds: float) -> None:
            select.select([client.fileno()], [], [], min(seconds, client.due))
            client.hear()
            client.beat()

        client = Client(address.parse(self.bench.link), wait, replace(times.usual, answer=answer))
        self.addCleanup(client.abandon)
        client.identify()
        return client

    def test_a_block_of_which_a_frame_is_lost_is_asked_for_once_more(self) -> None:
        client = self.client(answer=0.3)
        held = client.objects.values()
        for frames in range(5):  # its begin, its start and each acknowledgement of its segments
            self.bench.hands.ask(do="fault", kind="deaf", after=frames)
            with self.subTest(frames):
                self.assertEqual(client.objects.values(), held)
        with (
            mock.patch.object(Client, "_frame", lambda *_: None),
            self.assertRaisesRegex(LinkLost, "the controller did not answer for values"),
        ):
            client.objects.values()

    def test_values_of_which_the_block_does_not_get_through_are_read_one_by_one(self) -> None:
        client = self.client(answer=times.usual.answer)
        held, told = client.read_all(), []
        with mock.patch.object(Objects, "values", side_effect=NoAnswer("the controller did not answer for values")):
            self.assertEqual(client.read_all(lambda done, total: told.append((done, total))), held)
        self.assertEqual(told, [(done, len(held.raws)) for done in range(len(held.raws) + 1)])

    def test_an_answer_that_comes_after_its_request_was_given_up_does_no_harm(self) -> None:
        client = self.client(answer=times.usual.answer)
        where = Place(0x2000, 3)
        for _ in range(3):
            responses = client.objects._remote.sdo.responses
            responses.put(b"\x43\x08\x10\x00late")
            self.assertEqual(client.objects.read(where), 12)
            self.assertIs(client.objects._remote.sdo.responses, responses)


class Sending(LinkCase):
    def send(self, machine, holding) -> Event:
        return self.after(lambda: self.link.send(plan(machine, holding)), Done, Failed)

    def test_values_are_read_back_and_wait_for_a_restart_where_they_must(self) -> None:
        holding = self.connect()
        pitch, rate = at(X, "chain.pitch"), at(None, "signals.step_rate")
        machine = verge().with_values({pitch: Fraction(4), rate: Fraction(60)})
        done = self.send(machine, holding)
        self.assertIsInstance(done, Done, done)
        self.assertEqual(done.holding.waiting, {Place(0x2011, 1)})
        fresh = self.after(self.link.read_all, Done, Failed)
        self.assertEqual(fresh.holding.raws, done.holding.raws)
        back = self.after(self.link.restart, Done, Failed)
        self.assertEqual(back.holding.old, {})
        self.assertEqual(machine_from(back.holding.raws, machine.shape), machine)
        self.assertIsInstance(self.send(verge(), back.holding), Done)
        self.after(self.link.restart, Done, Failed)

    def test_nothing_is_sent_while_something_moves(self) -> None:
        holding = self.connect()
        self.power()
        self.after(lambda: self.link.jog_step(X, -60, 60), Done, Failed)
        wait_for(lambda: self.link.axes[X].moving, "motion")
        event = self.send(verge().with_values({at(X, "pace.jerk"): Fraction(1000)}), holding)
        self.assertIn("only while nothing moves", event.why)
        self.link.stop()
        self.rest(X)


class LostFrames(LinkCase):
    """What nobody answers: process data, and the word that restarts. Heartbeats are not counted, and go through."""

    def losing(self, which: int) -> AbstractContextManager[object]:
        """Drops the frame of this number, from 0 on."""
        real, count = Client.send, itertools.count()

        def send(client: Client, identifier: int, data: bytes) -> None:
            if identifier & 0x780 == c.HEARTBEAT or next(count) != which:
                real(client, identifier, data)

        return mock.patch.object(Client, "send", send)

    def test_drives_are_powered_and_axes_go_all_the_same_and_once(self) -> None:
        self.connect()
        for which in range(6):
            with self.subTest(which):
                with self.losing(which):
                    self.power()
                with self.losing(which):
                    self.assertAlmostEqual(self.step(X, -1.0), -1.0, delta=0.004)
                self.after(lambda: self.link.power(False), Done, Failed)

    def test_it_restarts_all_the_same(self) -> None:
        self.connect()
        with self.losing(0):
            self.assertIsInstance(self.after(self.link.restart, Done, Failed), Done)


class Moving(LinkCase):
    def setUp(self) -> None:
        super().setUp()
        self.connect()
        self.power()

    def test_steps_go_their_distance_and_add_up(self) -> None:
        self.assertAlmostEqual(self.step(X, -2.5), -2.5, delta=0.004)
        before = self.link.axes[X].position
        for _ in range(3):
            self.link.jog_step(X, -1.0, 300)
        wait_for(lambda: self.link.axes[X].position < before - 2.9, "three steps")
        self.assertAlmostEqual(self.rest(X) - before, -3.0, delta=0.004)

    def test_the_rig_shows_what_was_told_wrong(self) -> None:
        x, y = self.bench.hands.look("X")["at"], self.bench.hands.look("Y")["at"]
        self.step(X, 5)
        self.step(Y, 5)
        self.assertAlmostEqual(self.bench.hands.look("X")["at"] - x, 4, delta=0.05)
        self.assertAlmostEqual(self.bench.hands.look("Y")["at"] - y, -5, delta=0.05)

    def test_a_held_jog_runs_while_it_is_confirmed(self) -> None:
        self.link.jog_hold(X, -1200)
        wait_for(lambda: self.link.axes[X].velocity < -1199, "speed", self.link.keep_holding)
        self.link.jog_hold(X, 0)
        self.rest(X)

    def test_a_held_jog_that_nobody_confirms_ends(self) -> None:
        self.link.jog_hold(X, 1200)
        wait_for(lambda: self.link.axes[X].moving, "motion")
        self.rest(X)

    def test_stop_goes_before_everything_else(self) -> None:
        self.link.jog_step(X, -40, 300)
        wait_for(lambda: self.link.axes[X].moving, "motion")
        self.link.read_all()
        self.link.stop()
        self.rest(X)
        self.assertIs(self.link.axes[X].state, State.QUICK_STOP)
        self.assertAlmostEqual(self.step(X, 1), 1, delta=0.004)

    def test_stop_in_the_middle_of_a_request_for_motion_wins(self) -> None:
        real = Objects.write
        for ask in (lambda: self.link.jog_hold(X, 900), lambda: self.link.jog_step(X, 30, 900)):
            stopped = []

            def write(objects: Objects, where: Place, raw, label: str = "", *, stopped: list = stopped, **how) -> None:
                real(objects, where, raw, label, **how)
                if "mode of X" in label:
                    self.link.stop()
                    stopped.append(label)

            before = self.link.axes[X].position
            with mock.patch.object(Objects, "write", write):
                ask()
                wait_for(lambda stopped=stopped: stopped, "the request to be on its way")
                self.after(self.link.read_all, Done, Failed)  # whatever it would have sent has been sent now
            self.bench.hands.ask(do="run", seconds=1)
            self.after(self.link.read_all, Done, Failed)
            self.assertFalse(self.link.axes[X].moving)
            self.assertEqual(self.link.axes[X].position, before)

    def test_stop_in_the_middle_of_a_homing_that_begins_wins(self) -> None:
        """After any of the words that begin it; also the last of them must not take the quick stop back."""
        self.step(X, -5)
        real = Objects.write
        for after in range(3):
            self.power()
            said = []

            def write(objects: Objects, where: Place, raw, label: str = "", *, said=said, after=after, **how) -> None:
                real(objects, where, raw, label, **how)
                if label == "controlword of X":
                    said.append(raw)
                    if len(said) == after + 1:
                        self.link.stop()

            before = self.link.axes[X].position
            self.bench.hands.ask(do="pace", factor=0)  # the machine waits, however long this computer takes
            with mock.patch.object(Objects, "write", write):
                self.link.home((X,))
                wait_for(lambda said=said, after=after: len(said) > after, "the request to be on its way")
                self.after(self.link.read_all, Done, Failed)
            self.bench.hands.ask(do="pace", factor=self.pace)
            self.assertEqual(len(said), after + 1)
            self.bench.hands.ask(do="run", seconds=1)
            self.rest(X)
            self.assertIs(self.link.axes[X].state, State.QUICK_STOP)
            self.assertFalse(self.link.axes[X].homed)
            self.assertAlmostEqual(self.link.axes[X].position, before, delta=0.1 if after else 0.0)

    def test_stop_in_the_middle_of_powering_wins(self) -> None:
        self.after(lambda: self.link.power(False), Done, Failed)
        real, said = Objects.in_force, []

        def in_force(objects: Objects) -> dict[Place, object]:
            said.append(1)
            self.link.stop()
            return real(objects)

        with mock.patch.object(Objects, "in_force", in_force):
            self.link.power(True)
            wait_for(lambda: said, "the request to be on its way")
            self.after(self.link.read_all, Done, Failed)
        self.assertFalse(any(axis.state.powered for axis in self.link.axes))

    def test_a_finger_that_is_gone_in_the_middle_of_a_request_moves_nothing(self) -> None:
        """Whatever the finger presses then: what was let go of before it began does not begin."""
        real = Objects.write
        for after, moves in ((lambda: None, ()), (lambda: self.link.jog_hold(Y, -900), (Y,))):
            self.step(X, 1)
            gone = []

            def write(objects: Objects, where: Place, raw, label: str = "", *, gone=gone, after=after, **how) -> None:
                if "mode of X" in label:
                    self.link.jog_hold(X, 0)
                    after()
                    gone.append(label)
                real(objects, where, raw, label, **how)

            before = self.link.axes[X].position
            with mock.patch.object(Objects, "write", write):
                self.link.jog_hold(X, -900)
                wait_for(lambda gone=gone: gone, "the request to be on its way", self.link.keep_holding)
                for slot in moves:
                    wait_for(lambda slot=slot: self.link.axes[slot].velocity < -800, "speed", self.link.keep_holding)
                    self.link.jog_hold(slot, 0)
                self.after(self.link.read_all, Done, Failed)
            for slot in moves:
                self.rest(slot)
            self.bench.hands.ask(do="run", seconds=1)
            self.after(self.link.read_all, Done, Failed)
            self.assertFalse(self.link.axes[X].moving)
            self.assertEqual(self.link.axes[X].position, before)

    def test_a_jog_is_let_go_of_before_the_controller_said_that_it_began(self) -> None:
        def at_rest() -> bool:
            before = self.bench.hands.look("X")["at"]
            self.bench.hands.ask(do="run", seconds=0.5)
            return self.bench.hands.look("X")["at"] == before

        self.link.jog_step(X, -20, 900)
        wait_for(lambda: self.link.axes[X].moving, "motion")
        self.link.stop()
        self.rest(X)
        self.assertIs(self.link.axes[X].state, State.QUICK_STOP)
        stood = self.bench.hands.look("X")["at"]
        struck = self.bench.hands.look("X")["struck"]
        with mock.patch.object(Client, "_report", lambda client, pdo, data: None):
            self.link.jog_hold(X, -900)
            wait_for(lambda: self.bench.hands.look("X")["at"] < stood - 0.5, "motion", self.link.keep_holding)
            self.link.jog_hold(X, 0)
            wait_for(at_rest, "rest")
        self.assertEqual(self.bench.hands.look("X")["struck"], struck)  # nothing else would have ended it

    def test_a_second_held_axis_lets_the_first_one_go(self) -> None:
        self.link.jog_hold(X, -600)
        wait_for(lambda: self.link.axes[X].velocity < -500, "X", self.link.keep_holding)
        self.link.jog_hold(Y, -600)
        wait_for(lambda: self.link.axes[Y].velocity < -500, "Y", self.link.keep_holding)
        wait_for(lambda: not self.link.axes[X].moving, "X to rest", self.link.keep_holding)
        self.assertTrue(self.link.axes[Y].moving)
        self.link.jog_hold(Y, 0)
        self.rest(Y)

    def test_a_mistake_of_ours_does_not_end_the_thread(self) -> None:
        with (
            mock.patch("idler.link.own.client.read_all", side_effect=ValueError("a mistake")),
            self.assertLogs("idler.link.thread"),
        ):
            event = self.after(self.link.read_all, Disconnected)
        self.assertIn("Idler made a mistake (ValueError: a mistake)", event.why)
        wait_for(lambda: self.link.connected, "the link to be back")

    def test_a_lost_client_stops_the_machine(self) -> None:
        other_events: list[Event] = []
        other = Link(other_events.append)
        self.addCleanup(other.close)
        self.link.disconnect()
        wait_for(lambda: isinstance(self.events[-1], Disconnected), "the first client to leave")
        other.connect(self.bench.link)
        wait_for(lambda: other_events and isinstance(other_events[-1], Connected), "the second client")
        other.jog_step(X, 60, 40)
        wait_for(lambda: other.axes and other.axes[X].moving, "motion")
        with mock.patch.object(Client, "beat", lambda _self: None):
            wait_for(lambda: [e for e in other_events if isinstance(e, Emergency)], "the controller to miss it")
        event = next(e for e in other_events if isinstance(e, Emergency))
        self.assertEqual(event.code, 0x8130)
        wait_for(lambda: not other.axes[X].moving, "rest")

    def test_emergency_stop_and_the_way_back(self) -> None:
        held = self.after(self.link.read_all, Done).holding
        self.after(lambda: self.link.send(plan(wired(), held)), Done)
        event = self.after(lambda: self.bench.hands.ask(do="press", switch="emergency stop"), Emergency)
        self.assertEqual((event.code, event.axis, event.input), (0xFF01, None, 0))
        wait_for(lambda: self.link.axes[X].stop_pressed, "the input")
        refused = self.after(lambda: self.link.power(True), Done, Failed)
        self.assertIn("emergency stop is pressed", refused.why)
        jog = self.after(lambda: self.link.jog_step(X, 1, 100), Failed)
        self.assertIn("X cannot move", jog.why)
        gone = self.after(lambda: self.bench.hands.ask(do="release", switch="emergency stop"), Emergency)
        self.assertEqual(gone.code, 0)
        wait_for(lambda: not self.link.axes[X].stop_pressed, "the input to clear")
        self.power()

    def test_home_here_and_soft_limits(self) -> None:
        self.assertIsInstance(self.after(lambda: self.link.home_here(X), Done, Failed), Done)
        wait_for(lambda: self.link.axes[X].homed, "home")
        wait_for(lambda: self.link.axes[X].position == 2.0, "the coordinate at the switch")
        self.step(X, -6)
        self.assertAlmostEqual(self.step(X, 30), 4.0, delta=0.004)  # the end itself is reached, and no more
        self.assertAlmostEqual(self.link.axes[X].position, 0.0, delta=1e-9)
        self.assertTrue(self.link.axes[X].at_limit)

    def test_stop_goes_out_before_what_others_say_is_heard(self) -> None:
        """Ten thousand foreign frames a second: of them no more than two rounds are heard before STOP is on the wire."""
        flood = socket.create_connection(("127.0.0.1", self.bench.port))
        self.addCleanup(flood.close)
        flood.sendall(b"S6\rO\r")
        lull, ends = threading.Event(), threading.Event()

        def pour() -> None:
            flood.setblocking(False)
            while not ends.is_set():
                with contextlib.suppress(BlockingIOError):
                    flood.sendall(b"t7708DEADBEEFDEADBEEF\r" * 100)
                with contextlib.suppress(BlockingIOError):
                    flood.recv(1 << 20)
                lull.wait(0.01)

        thread = threading.Thread(target=pour)
        thread.start()
        self.addCleanup(lambda: (ends.set(), thread.join()))
        self.link.jog_step(X, -40, 300)
        wait_for(lambda: self.link.axes[X].moving, "motion")
        seen = self.link.frames.since(0)[-1].number
        wait_for(lambda: self.link.frames.since(seen + 200), "the flood")
        self.link.stop()
        asked = self.link.frames.since(0)[-1].number
        is_stop = lambda frame: frame.sent and frame.identifier == 0x200 + self.bench.node and frame.data[0] == 2  # noqa: E731
        wait_for(lambda: [f for f in self.link.frames.since(seen) if is_stop(f)], "STOP on the wire")
        found = next(f for f in self.link.frames.since(seen) if is_stop(f))
        self.assertLess(found.number - asked, 2 * MOST_FRAMES + 16)
        self.rest(X)

    def test_a_node_that_is_not_operational_is_started_again_and_says_what_it_is(self) -> None:
        self.link.watch_lag(X)  # there is always something that is being read when it stops to answer
        self.link.jog_hold(X, -1200)
        wait_for(lambda: self.link.axes[X].moving, "motion", self.link.keep_holding)
        other = can.Bus(interface="slcan", channel=f"socket://127.0.0.1:{self.bench.port}", sleep_after_open=0)
        self.addCleanup(other.shutdown)
        for command, words in ((0x80, "pre-operational"), (0x02, "stopped")):
            other.send(can.Message(arbitration_id=0, data=[command, self.bench.node], is_extended_id=False))
            wait_for(lambda words=words: self.link.node_words == words, words)
            at_first = self.bench.hands.look("X")["at"]
            self.bench.hands.ask(do="run", seconds=1)
            self.bench.hands.ask(do="run", seconds=1)
            self.assertAlmostEqual(
                self.bench.hands.look("X")["at"], at_first, delta=3.0
            )  # no more than it takes to stop
            self.link.stop()
            self.power()
            wait_for(lambda: self.link.node_words == "", "its heartbeat")
            seen = self.link.frames.since(0)[-1].number
            wait_for(
                lambda seen=seen: sum(not f.sent for f in self.link.frames.since(seen)) > 20,
                "reports of where it stands",
            )
            self.assertAlmostEqual(self.step(X, 1), 1, delta=0.004)
        self.assertEqual(self.got(Disconnected), [])

    def test_stop_of_a_node_that_is_not_operational_goes_out_in_every_way(self) -> None:
        self.after(lambda: self.link.jog_step(X, -40, 300), Done, Failed)
        wait_for(lambda: self.link.axes[X].moving, "motion")
        with mock.patch.object(Client, "nmt_words", "pre-operational"):
            self.link.stop()
            wait_for(lambda: self.link._stop_wanted is False and self.link.node_words, "STOP")
            wait_for(lambda: any(f.sent and f.identifier == 0 for f in self.link.frames.since(0)[-40:]), "NMT stop")
        sent = [f for f in self.link.frames.since(0)[-60:] if f.sent]
        by_object = [f for f in sent if f.identifier == 0x600 + self.bench.node and f.data[:3] == b"\x2b\x40\x60"]
        self.assertTrue(by_object)
        self.assertTrue([f for f in sent if f.identifier == 0 and f.data == bytes((2, self.bench.node))])
        self.power()

    def test_power_goes_only_when_everything_stands(self) -> None:
        self.link.home_here(X)
        wait_for(lambda: self.link.axes[X].homed, "home")
        self.link.jog_hold(X, -3000)
        wait_for(lambda: self.link.axes[X].velocity < -2900, "speed", self.link.keep_holding)
        self.assertIsInstance(self.after(lambda: self.link.power(False), Done, Failed), Done)
        self.assertTrue(self.link.axes[X].homed)  # nothing was counted that did not happen

    def test_powering_off(self) -> None:
        self.assertIsInstance(self.after(lambda: self.link.power(False), Done, Failed), Done)
        self.assertFalse(any(axis.state.powered for axis in self.link.axes))


class Addresses(unittest.TestCase):
    def test_forms(self) -> None:
        for text, kind in (("slcan://10.0.0.5:2000", "tcp"), ("/dev/ttyACM0", "serial"), ("can0", "socketcan")):
            self.assertEqual(address.parse(text).kind, kind)
            self.assertEqual(str(address.parse(text)), text)
        self.assertEqual(address.parse("/dev/ttyACM0?bitrate=250000").rate, 250_000)
        for text in (
            "",
            "http://x",
            "slcan://x",
            "slcan://x:0",
            "slcan://x:99999",
            "can0?bitrate=7",
            "can 0",
            "a" * 40,
        ):
            with self.subTest(text), self.assertRaises(LinkError):
                address.parse(text)

    def test_permission_names_the_group_that_helps(self) -> None:
        group = namedtuple("group", "gr_name gr_mem")
        me = getpass.getuser()
        for mode, number, members, advice in (
            (0o660, 4711, [], "sudo usermod -aG modems $USER"), (0o660, 4711, [me], "Log in again"),
            (0o660, 0, [], "sudo chown $USER"), (0o600, 4711, [], "sudo chown $USER"),
        ):  # fmt: skip
            kept = os.stat_result((0o020000 | mode, 0, 0, 1, 0, number, 0, 0, 0, 0))
            with (
                mock.patch.object(os, "open", side_effect=PermissionError(13, "no")),
                mock.patch.object(os, "stat", return_value=kept),
                mock.patch.object(grp, "getgrgid", return_value=group("modems", members)),
                mock.patch.object(os, "getgroups", return_value=[100]),
                self.assertRaises(NoPermission) as caught,
            ):
                bus.open_bus(address.parse("/dev/ttyS99"))
            self.assertIn(advice, caught.exception.sentence)

    def test_where_nobody_answers_another_rate_is_proposed_in_the_way_that_sets_it(self) -> None:
        for text, advice in (
            ("/dev/ttyACM0", "write /dev/ttyACM0?bitrate=250000 to try"),
            ("/dev/ttyACM0?bitrate=250000&node=5", "as node 5 at 250 kbit/s"),
            ("slcan://127.0.0.1:9?bitrate=250000", "write slcan://127.0.0.1:9 to try"),
            ("can0", "sudo ip link set can0 up type can bitrate 250000"),
        ):
            self.assertIn(advice, address.parse(text).nobody)
        words = [address.parse(text).bit_rate_words for text in ("can0?bitrate=250000", "/dev/ttyACM0?bitrate=250000")]
        self.assertEqual(words, ["", ", 250 kbit/s"])  # nobody asked the interface for its own

    def test_each_refusal_of_the_system_has_its_sentence(self) -> None:
        for error, kind in (
            (FileNotFoundError(2, "no"), NoSuchPort),
            (OSError(16, "busy"), PortBusy),
            (OSError(5, "io"), LinkError),
        ):
            with mock.patch.object(os, "open", side_effect=error), self.assertRaises(kind):
                bus.open_bus(address.parse("/dev/ttyS77"))
        with self.assertRaises(NobodyAnswers):
            bus.open_bus(address.parse("slcan://127.0.0.1:1"))

    def test_can_interfaces(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            for name, kind in (("can3", "280"), ("eth0", "1")):
                (Path(folder) / name).mkdir()
                (Path(folder) / name / "type").write_text(kind + "\n")
            with mock.patch.object(address, "_NET", Path(folder)):
                self.assertEqual(address.interfaces(), ["can3"])
                self.assertIn("can3", [found.address for found in address.search()])
                with self.assertRaisesRegex(NoSuchPort, "Here are: can3"):
                    address.require_interface("can9")
