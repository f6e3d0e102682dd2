"""The flight record of the bench, taken over the wire: what is in it, when it is held, and when it is not."""

from __future__ import annotations

from idler.core.incident.diagnosis import account
from idler.core.profile.cia402 import GUARD_OPENED, LIMIT_MET, STOP_PRESSED
from idler.core.profile.flight import SAMPLES, Flag, FlightRecord, unpack_flight
from idler.link.events import Asked, Connected, Done, Emergency, Event, Flight
from idler.link.plan import plan
from idler.link.thread import Link
from tests.support import LinkedCase, X, at, wait_for, wired


class Record(LinkedCase):
    def setUp(self) -> None:
        super().setUp()
        self.machine = wired()

    def ready(self, **values: object) -> None:
        self.machine = self.machine.with_values({at(X, key.replace("__", ".")): v for key, v in values.items()})
        self.link.connect(self.bench.link)
        wait_for(lambda: self.got(Connected), "the connection")
        self.link.send(plan(self.machine, self.got(Connected)[0].holding))
        wait_for(lambda: self.got(Done), "the values")
        self.link.power(True)
        wait_for(lambda: all(axis.state.powered for axis in self.link.axes), "power")

    def record(self, number: int = 1) -> FlightRecord:
        wait_for(lambda: len(self.got(Flight)) >= number, "the record")
        return unpack_flight(self.got(Flight)[number - 1].data)

    def test_a_stop_in_the_middle_of_a_move(self) -> None:
        self.ready()
        self.bench.hands.ask(do="run", seconds=6)  # so that the record is full, however quick this computer is
        self.bench.hands.ask(do="pace", factor=1)  # it still moves when the stop is pressed, on a busy computer too
        start = self.link.axes[X].position
        self.link.jog_step(X, -60, 1200)
        wait_for(lambda: self.link.axes[X].position < start - 10, "10 mm, long after it has its speed")
        self.bench.hands.ask(do="press", switch="emergency stop")
        record = self.record()
        self.assertEqual((record.code, len(record.samples), record.moment), (STOP_PRESSED, SAMPLES, 800))
        before, at_stop = record.samples[record.moment - 1], record.samples[record.moment]
        self.assertEqual(before["velocity"][X], -1_200_000)
        self.assertTrue(before["flags"][X] & Flag.POWERED)
        self.assertFalse(at_stop["flags"][X] & Flag.POWERED)
        moved = record.samples["position"][: record.moment, X]
        self.assertLessEqual(abs(int(moved[-1]) - int(moved[-2]) + 1000), 32)  # 20 mm/s in 5 ms, to a count
        found = account(self.machine, record)
        self.assertEqual(found.first.words, "input 1, emergency stop: pressed")

    def test_a_limit_switch_with_soft_limits_off(self) -> None:
        self.machine = self.machine.with_values({at(1, "input.role"): "home_limit"})
        self.ready(travel__limits_on=False)
        self.link.jog_step(X, 400, 2400)
        record = self.record()
        self.assertEqual(record.code, LIMIT_MET)
        found = account(self.machine, record, X)
        self.assertEqual((found.first.input, found.first.at), (1, 0.0))
        self.assertIn("soft limits are off", found.causes[0].words)

    def test_the_guard_of_a_standing_spindle_holds_nothing_and_that_of_a_running_one_does(self) -> None:
        self.ready()
        self.bench.hands.ask(do="press", switch="guard")
        wait_for(lambda: self.link.panel.conditions & 2, "the guard")
        self.bench.hands.ask(do="release", switch="guard")
        wait_for(lambda: not self.link.panel.conditions & 2, "the guard to be closed")
        asked = Asked(run=1, speed=3000)
        self.link.hold_terminals(asked)
        wait_for(lambda: self.link.panel.conditions & 8, "the spindle", self.link.keep_holding)
        self.bench.hands.ask(do="press", switch="guard")
        record = self.record()
        self.assertEqual(record.code, GUARD_OPENED)
        found = account(self.machine, record)
        self.assertEqual(found.first.words, "input 4, guard: open")
        self.assertIn("spindle: told to stop", [item.words for item in found.followed])

    def test_the_first_stop_is_kept_and_the_next_is_recorded_after_it_was_taken(self) -> None:
        self.ready()
        self.link.jog_step(X, -20, 600)
        wait_for(lambda: self.link.axes[X].moving, "motion")
        self.bench.hands.ask(do="press", switch="emergency stop")
        self.record()
        self.bench.hands.ask(do="release", switch="emergency stop")
        wait_for(lambda: [event for event in self.got(Emergency) if event.code == 0], "the fault to be gone")
        self.bench.hands.ask(do="run", seconds=6)
        self.bench.hands.ask(do="press", switch="emergency stop")
        again = self.record(2)
        self.assertFalse(again.samples["flags"][again.moment - 1, X] & Flag.MOVING)

    def test_a_record_that_nobody_took_waits_for_the_next_client(self) -> None:
        self.ready()
        self.link.close()
        self.bench.hands.ask(do="press", switch="emergency stop")
        self.bench.hands.ask(do="run", seconds=2)
        events: list[Event] = []
        late = Link(events.append)
        self.addCleanup(late.close)
        late.connect(self.bench.link)
        wait_for(lambda: [event for event in events if isinstance(event, Flight)], "the record")
