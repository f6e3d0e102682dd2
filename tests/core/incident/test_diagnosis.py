"""What a flight record tells: the first thing, what followed, and the likeliest cause, for records made by hand."""

from __future__ import annotations

import unittest
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from idler.core.exchange.flight import flight_csv
from idler.core.incident import Incident, title
from idler.core.incident.diagnosis import account, suspected
from idler.core.machine import Machine
from idler.core.mechanics.pulses import longer_pulses
from idler.core.profile.cia402 import DRIVE_TROUBLE, LAGGED, LIMIT_MET, LINK_CUT, RESTARTED, STOP_PRESSED
from idler.core.profile.flight import Flag, FlightRecord, pack_flight, sample_type, unpack_flight
from idler.core.table.stations import Station
from tests.support import X, Z, at, wired

MOMENT, COUNT = 100, 140
GOING = int(Flag.POWERED | Flag.MOVING | Flag.HOMED)


def limited() -> Machine:
    """Input 2 is the limit at the high end of X."""
    return wired().with_values({at(1, "input.role"): "limit_high", at(X, "travel.switches_on"): True})


class AccountCase(unittest.TestCase):
    def record(self, code: int, change: Callable[[np.ndarray], None], speed: float = 1000.0) -> FlightRecord:
        """X goes steadily until the stop, everything closed at rest; `change` says what is otherwise."""
        samples = np.zeros(COUNT, sample_type(4))
        samples["closed"] = sum(1 << k for k in range(9))
        samples["flags"][:, :] = int(Flag.POWERED | Flag.HOMED)
        samples["flags"][:MOMENT, X] = GOING
        samples["velocity"][:MOMENT, X] = round(1000 * speed)
        samples["position"][:, X] = np.minimum(np.arange(COUNT), MOMENT) * round(speed / 60 * 0.005 * 10_000)
        change(samples)
        return FlightRecord(0.005, MOMENT, code, samples)

    def open_input(self, number: int, first: int = MOMENT, last: int = COUNT) -> Callable[[np.ndarray], None]:
        def change(samples: np.ndarray) -> None:
            samples["closed"][first:last] &= ~np.uint32(1 << number - 1)

        return change


class First(AccountCase):
    def test_the_stop_comes_first_and_lost_power_only_follows(self) -> None:
        def change(samples: np.ndarray) -> None:
            self.open_input(1)(samples)
            samples["flags"][MOMENT:, :] = 0

        found = account(wired(), self.record(STOP_PRESSED, change))
        self.assertEqual(found.first.words, "input 1, emergency stop: pressed")
        self.assertEqual([item.words for item in found.followed],
                         ["X Y Z A: power lost", "X Y Z A: home lost", "X: at rest"])  # fmt: skip
        self.assertEqual(found.causes[0].words, "Somebody pressed the emergency stop.")

    def test_what_came_and_went_between_two_samples_is_what_the_controller_says(self) -> None:
        blank = self.record(STOP_PRESSED, lambda _: None)
        record = replace(blank, input=0, held=0.0012)
        found = account(wired(), record)
        assert found.first is not None
        self.assertEqual(found.first.words, "input 1, emergency stop: pressed for 1.2 ms")
        self.assertIn("Electrical noise or a loose wire at input 1", found.causes[0].words)
        self.assertIn("for 1.2 ms only", found.causes[0].evidence)

    def test_a_drive_that_says_trouble_for_long_is_no_noise(self) -> None:
        """The samples show it for one of them; the controller says that it lasted until the drive was reset."""
        record = self.record(DRIVE_TROUBLE, self.open_input(9, MOMENT, MOMENT + 1))
        found = account(wired(), replace(record, input=8, held=None), Z)
        self.assertFalse([cause for cause in found.causes if "noise" in cause.words])
        self.assertTrue(found.causes)

    def test_a_window_that_any_motor_leaves_comes_first_with_its_figures(self) -> None:
        machine = wired().with_values({at(X, "loop.measured"): True, at(X, "loop.window"): Fraction(5, 1000)})

        def change(samples: np.ndarray) -> None:
            samples["lag"][MOMENT - 3 : MOMENT + 1, X] = 7

        found = account(machine, self.record(LAGGED, change), X)
        self.assertIn("allowed on X is narrow: 0.005 mm", found.causes[0].words)
        self.assertIn("0.007 mm behind", found.causes[0].evidence)
        self.assertIn("X lagged behind", title(machine, Incident(LAGGED, X)))

    def test_what_idler_itself_saw_of_a_lost_link_and_of_a_restart(self) -> None:
        for code, words in ((LINK_CUT, "was not heard any more"), (RESTARTED, "restarted by itself")):
            found = account(wired(), self.record(code, lambda _: None))
            assert found.first is not None
            self.assertIn(words, found.first.words)
            self.assertTrue(found.causes)

    def test_a_record_that_shows_nothing_names_nothing(self) -> None:
        found = account(wired(), self.record(STOP_PRESSED, lambda _: None))
        self.assertEqual((found.first, found.causes), (None, ()))


class Causes(AccountCase):
    def likeliest(self, machine: Machine, record: FlightRecord, axis: int | None = None):
        return account(machine, record, axis).causes[0]

    def test_a_common_wire(self) -> None:
        def change(samples: np.ndarray) -> None:
            for number in (1, 2, 3):
                self.open_input(number)(samples)

        cause = self.likeliest(wired(), self.record(STOP_PRESSED, change))
        self.assertIn("common wire", cause.words)
        self.assertIn("The inputs 1, 2, 3 opened within 5 ms", cause.evidence)

    def test_a_stop_that_lets_go_by_itself_is_a_wire(self) -> None:
        for held, words in ((0.3, "A wire that is loose at input 1"), (1.5, "Somebody pressed")):
            record = replace(self.record(STOP_PRESSED, self.open_input(1)), input=0, held=held)
            self.assertIn(words, self.likeliest(wired(), record).words)

    def test_noise_while_the_spindle_runs(self) -> None:
        def change(samples: np.ndarray) -> None:
            self.open_input(2, MOMENT, MOMENT + 2)(samples)
            samples["spindle"] = 8000
            samples["flags"][MOMENT : MOMENT + 2, X] |= int(Flag.HIGH)

        cause = self.likeliest(limited(), self.record(LIMIT_MET, change), X)
        self.assertIn("noise or a loose wire at input 2", cause.words)
        self.assertIn("for 10 ms only while the spindle turned at 8000 rpm", cause.evidence)
        self.assertEqual((cause.station, cause.page), (Station.WIRING, "Filter"))

    def met(self, samples: np.ndarray) -> None:
        self.open_input(2)(samples)
        samples["flags"][MOMENT:, X] |= int(Flag.HIGH)

    def test_a_limit_without_soft_limits_without_home_and_with_both(self) -> None:
        off = limited().with_values({at(X, "travel.limits_on"): False})
        self.assertIn("soft limits are off", self.likeliest(off, self.record(LIMIT_MET, self.met), X).words)

        def unhomed(samples: np.ndarray) -> None:
            self.met(samples)
            samples["flags"][:, X] &= ~np.uint8(Flag.HOMED)

        self.assertIn("was not homed", self.likeliest(limited(), self.record(LIMIT_MET, unhomed), X).words)
        beyond = self.likeliest(limited(), self.record(LIMIT_MET, self.met), X)
        self.assertIn("lies beyond its switch", beyond.words)
        self.assertEqual(beyond.evidence, "The switch was met at 8.33 mm; the soft limit is 0.00 mm.")

    def test_a_limit_that_is_met_on_the_way_back(self) -> None:
        cause = self.likeliest(limited(), self.record(LIMIT_MET, self.met, speed=-1000), X)
        self.assertIn("are exchanged, or its direction is turned round", cause.words)

    def test_a_blocked_axis_and_one_that_is_asked_for_too_much(self) -> None:
        measured = wired().with_values({at(Z, "loop.measured"): True, at(Z, "loop.window"): Fraction(1, 2)})

        def blocked(samples: np.ndarray) -> None:
            samples["flags"][:, Z] = GOING
            samples["velocity"][:, Z] = 1_200_000
            behind = np.clip(np.arange(COUNT) - 90, 0, None) * 100  # 20 mm/s in steps of 5 ms, in µm
            samples["lag"][:, Z] = behind
            samples["flags"][96:, Z] = 0

        record = self.record(LAGGED, blocked)
        found = account(measured, FlightRecord(0.005, 96, LAGGED, record.samples), Z)
        self.assertEqual(found.first.words, "Z: more than 0.5 mm behind")
        self.assertIn("Something holds Z", found.causes[0].words)

        for share, counts in (
            (0.5, 16),
            (2.0, 4),
            (0.8, 10),
            (0.26, 32),
            (0.7, 0),
        ):  # of what it is told, by its encoder

            def otherwise(samples: np.ndarray, share: float = share) -> None:
                samples["flags"][:, Z] = GOING
                samples["velocity"][MOMENT - 60 :, Z] = 1_200_000
                samples["lag"][:, Z] = (1 - share) * (np.clip(np.arange(COUNT) - (MOMENT - 60), 0, None) * 100)

            allowed = measured.with_values({at(Z, "loop.window"): Fraction(round(580 * abs(1 - share)), 100)})
            cause = self.likeliest(allowed, self.record(LAGGED, otherwise), Z)
            whose = (
                f"counts {share:.2f} of what Z is told to go" if counts else f"sees only {share:.2f} of the step pulses"
            )
            self.assertIn(whose, cause.words)
            longer = longer_pulses(allowed)
            self.assertEqual(dict(cause.edit), {at(Z, "chain.microsteps"): counts} if counts else longer)  # of 8
            others = account(allowed, self.record(LAGGED, otherwise), Z).causes[1:]
            self.assertEqual(
                [dict(other.edit) == longer for other in others if other.edit], [True] * (counts > 0 and share < 1)
            )
            seen = suspected(allowed, account(allowed, self.record(LAGGED, otherwise), Z))
            self.assertEqual(dict(seen.edit) if seen is not None else {}, dict(cause.edit))

        def gaining(samples: np.ndarray) -> None:
            self.open_input(9)(samples)
            samples["velocity"][:MOMENT, Z] = np.linspace(0, 900_000, MOMENT)

        cause = self.likeliest(measured, self.record(DRIVE_TROUBLE, gaining), Z)
        self.assertIn("more acceleration than its motor can give", cause.words)

    def test_a_missing_heartbeat(self) -> None:
        found = account(wired(), self.record(0x8130, lambda _: None))
        self.assertIn("Idler was not heard", found.first.words)
        self.assertIs(found.causes[0].station, Station.LINK)


class OnTheWire(AccountCase):
    def test_it_comes_back_as_it_was(self) -> None:
        record = self.record(STOP_PRESSED, self.open_input(1))
        back = unpack_flight(pack_flight(record.samples, record.moment, record.code))
        self.assertEqual((back.moment, back.code, back.period), (MOMENT, STOP_PRESSED, 0.005))
        np.testing.assert_array_equal(back.samples, record.samples)
        self.assertEqual(len(flight_csv(wired(), back).splitlines()), COUNT + 1)

    @given(st.binary(max_size=200), st.integers(0, 300))
    def test_noise_is_refused(self, noise: bytes, place: int) -> None:
        data = bytearray(pack_flight(self.record(STOP_PRESSED, self.open_input(1)).samples, MOMENT, STOP_PRESSED))
        data[place : place + len(noise)] = noise
        try:
            account(wired(), unpack_flight(bytes(data)))
        except ValueError as why:
            self.assertIn("no flight record", str(why))
