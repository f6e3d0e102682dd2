"""Drives on stacks that others wrote, with the gaps that these have, beside each other on one bus."""

from __future__ import annotations

import time
from fractions import Fraction

from idler.core.machine import Address
from idler.core.profile import cia402 as c
from idler.core.values.parameter import Value
from idler.link import times
from idler.link.events import Asked, Connected, Disconnected, Done, Emergency, Event, Failed
from idler.link.plain.axis import LEASH
from tests.link.strangers import Stranger, WideTerminals
from tests.link.test_plain import PlainCase
from tests.support import X, Y, at, wait_for


class OnDurand(PlainCase):
    """Two of them, one in turns per minute; the bench's own parts are there too, and are left alone."""

    def setUp(self) -> None:
        super().setUp()
        self.drives = Stranger(self.bench.port, 21), Stranger(self.bench.port, 22, turns=True)
        for drive in self.drives:
            self.addCleanup(drive.close)

    def begin(self, parts: str = "21=X,22=Y") -> None:
        self.connect(parts)
        pitches: dict[Address, Value] = {
            at(slot, "chain.pitch"): Fraction(8) for slot in range(len(self.holding.shape.names))
        }
        self.send(pitches)
        self.power()

    def test_what_it_says_of_itself_is_where_the_train_begins(self) -> None:
        told = self.connect("21=X,22=Y,4=terminals").identity
        self.assertEqual(
            [(part.name, part.serial) for part in told.parts[:2]], [("Other drive", 521), ("Other drive", 522)]
        )
        self.assertEqual(
            (self.machine[at(X, "chain.motor_counts")], self.machine[at(Y, "chain.motor_counts")]), (8192, 8192)
        )
        self.assertFalse({1, 2, 3}.isdisjoint(told.others))

    def test_both_go_where_they_are_told_whatever_their_units(self) -> None:
        self.begin()
        for slot, drive in enumerate(self.drives):
            self.step(slot, 12, 900)
            self.assertAlmostEqual(drive.place / drive.counts * 8, 12, delta=0.01)
            self.hold(slot, -1200, 1.0)
            self.let_go(slot)
            self.assertAlmostEqual(drive.place / drive.counts * 8, self.link.axes[slot].position, delta=0.01)
            self.assertLess(self.link.axes[slot].position, 5)

    def test_none_of_them_runs_on_when_idler_is_gone(self) -> None:
        """They listen to no heartbeat: the leash ends, whatever was told last."""
        self.begin()
        self.hold(X, 1800, 0.6)
        before = self.drives[0].place
        self.bench.hands.ask(do="cut")
        wait_for(lambda: abs(self.drives[0].speed) < 1, "it to stand")
        gone = abs(self.drives[0].place - before) / 8192 * 8
        self.assertLess(gone, 1800 / 60 * (LEASH + times.usual.confirm + 0.1))
        self.bench.hands.ask(do="mend")

    def test_one_that_only_pretends_to_listen_goes_on_a_leash(self) -> None:
        """Its objects say that it stops without a heartbeat; it was silent for a moment at rest, and nothing happened."""
        deaf = Stranger(self.bench.port, 25, pretends=True)
        self.addCleanup(deaf.close)
        self.begin("25=X")
        self.hold(X, 1200, 1.0)  # its unit of speed is seen to be true: only the leash is left
        self.let_go(X)
        self.hold(X, 1800, 0.6)
        before = deaf.place
        self.bench.hands.ask(do="cut")
        wait_for(lambda: abs(deaf.speed) < 1, "it to stand")
        self.assertLess(abs(deaf.place - before) / 8192 * 8, 1800 / 60 * (LEASH + times.usual.confirm + 0.1))
        self.bench.hands.ask(do="mend")

    def test_one_that_answers_slowly_is_asked_no_faster_and_stops(self) -> None:
        """Else what waits to be answered would grow, and STOP would wait behind it."""
        slow = Stranger(self.bench.port, 26, slow=0.03)
        self.addCleanup(slow.close)
        self.begin("26=X")
        for distance in (6, -4):
            self.step(X, distance, 900)
            self.assertAlmostEqual(slow.place / 8192 * 8, self.link.axes[X].position, delta=0.01)
        self.assertAlmostEqual(self.link.axes[X].position, 2, delta=0.01)
        self.after(lambda: self.link.jog_step(X, 100, 900), Done)
        wait_for(lambda: abs(slow.speed) > 1000, "it to go")
        before = slow.place
        self.link.stop()
        wait_for(lambda: abs(slow.speed) < 1, "it to stand")
        self.assertLess((slow.place - before) / 8192 * 8, 900 / 60 * LEASH)

    def test_stop(self) -> None:
        self.begin()
        self.after(lambda: self.link.jog_step(Y, 100, 1200), Done)
        wait_for(lambda: abs(self.drives[1].speed) > 1000, "it to go")
        self.link.stop()
        wait_for(lambda: abs(self.drives[1].speed) < 1, "it to stand")
        wait_for(lambda: not self.link.axes[Y].moving, "its rest to be seen")
        self.assertLess(self.drives[1].place / 8192 * 8, 60)

    def test_one_that_is_faster_than_it_says_is_found_out(self) -> None:
        liar = Stranger(self.bench.port, 23, lie=5.0, ramp=4e6)
        self.addCleanup(liar.close)
        self.begin("23=X")
        self.link.jog_hold(X, 1200)
        wait_for(lambda: any(isinstance(e, Emergency) and e.code == c.SPEED_UNTRUE for e in self.events), "it to be named",
                 self.link.keep_holding)  # fmt: skip
        wait_for(lambda: abs(liar.speed) < 1, "it to stand")
        self.assertLess(liar.place / 8192 * 8, 1200 / 60 * 4 * LEASH)  # the leash holds it, however fast it is

    def test_one_that_its_ramp_holds_back_is_not_believed(self) -> None:
        """As fast as it was asked to be it is, over a while, for the leash holds it; let run it would be five times as fast."""
        liar = Stranger(self.bench.port, 23, lie=5.0, ramp=100_000)
        self.addCleanup(liar.close)
        self.begin("23=X")
        for _ in range(2):
            before = liar.place
            self.hold(X, 1200, 1.2)
            self.let_go(X)
            self.assertLess((liar.place - before) / 8192 * 8, 1200 / 60 * (1.2 + 2 * LEASH))

    def test_one_that_a_quick_stop_lets_run_out_is_not_moved(self) -> None:
        loose = Stranger(self.bench.port, 24, coasts=True)
        self.addCleanup(loose.close)
        self.connect("24=X")
        found = self.after(lambda: self.link.power(True), Done)
        assert isinstance(found, Failed)
        self.assertIn("605Ah is 0", found.why)

    def test_one_that_nobody_has_set_up_is_read_and_keeps_what_was_not_sent(self) -> None:
        """Zeros, ends of the range and a shape of the maker's own: taken for what is usual, and left as they were."""
        still = Stranger(self.bench.port, 31, still=True)
        self.addCleanup(still.close)
        found = self.connect("31=X").holding
        self.assertEqual(self.machine[at(X, "pace.shape")], "constant")
        self.assertEqual(self.machine[at(X, "homing.approach")], 600)
        self.assertEqual(still.place, 5)
        self.send({at(X, "pace.acceleration"): Fraction(500)})
        self.assertEqual(still.place, 5)  # the deceleration of a stop was not sent
        self.send({at(X, "pace.stop_deceleration"): Fraction(1200)})
        self.assertEqual(still.place, 1200 * 800)
        self.assertEqual(found.unstored, 0)

    def test_terminals_that_know_sixteens_only(self) -> None:
        block = WideTerminals(self.bench.port, 29)
        self.addCleanup(block.close)
        self.connect("21=X,29=terminals")
        self.assertEqual((self.holding.shape.inputs, self.holding.shape.outputs), (16, 16))
        for bits in (0x8001, 0x4000):
            block.close_inputs(bits)
            wait_for(lambda: self.link.panel.closed == bits, "the inputs")  # noqa: B023
        self.send({at(11, "output.role"): "coolant"})
        self.power()

        def on() -> bool:
            self.link.hold_terminals(Asked(tried=12))
            self.link.keep_holding()
            return block.on == 1 << 11

        wait_for(on, "the twelfth output")
        self.link.hold_terminals(Asked())
        wait_for(lambda: block.on == 0, "it to be off")

    def test_two_that_are_gone_stop_the_third_and_the_link_is_back_when_both_are(self) -> None:
        two = [Stranger(self.bench.port, number) for number in (27, 28)]
        for gone in two:
            self.addCleanup(gone.close)
        self.begin("21=X,27=Y,28=Z")
        self.after(lambda: self.link.jog_step(X, 200, 900), Done)
        wait_for(lambda: abs(self.drives[0].speed) > 1000, "it to go")
        for gone in two:
            gone.close()
        wait_for(lambda: abs(self.drives[0].speed) < 1, "the third to stand")
        self.assertLess(self.drives[0].place / 8192 * 8, 199)
        wait_for(lambda: self.came(Disconnected), "the link to be lost")
        seen = self.link.frames.since(0)[-1].number
        one = Stranger(self.bench.port, 28)
        self.addCleanup(one.close)
        heard = lambda: any(frame.identifier == 0x580 + 28 for frame in self.link.frames.since(seen))  # noqa: E731
        wait_for(heard, "the one that is back to be asked")
        self.assertEqual(self.came(Connected), 1, "one of them is still gone")
        other = Stranger(self.bench.port, 27)
        self.addCleanup(other.close)
        wait_for(lambda: self.came(Connected) == 2, "the link to come back")
        self.assertEqual([one.speed, other.speed], [0, 0], "nothing moves by coming back")

    def came(self, kind: type[Event]) -> int:
        return sum(isinstance(event, kind) for event in self.events)

    def test_one_that_is_gone_stops_the_others_and_comes_back(self) -> None:
        self.begin()
        self.after(lambda: self.link.jog_step(Y, 200, 900), Done)
        wait_for(lambda: abs(self.drives[1].speed) > 1000, "it to go")
        self.drives[0].close()
        wait_for(lambda: abs(self.drives[1].speed) < 1, "the other to stand")
        self.assertLess(self.drives[1].place / 8192 * 8, 199)
        wait_for(lambda: not self.link.connected, "the link to be lost")
        again = Stranger(self.bench.port, 21)
        self.addCleanup(again.close)
        until = time.monotonic() + 20
        wait_for(lambda: self.link.connected or time.monotonic() > until, "the link to come back")
        self.assertTrue(self.link.connected)
