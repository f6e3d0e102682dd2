"""Over the wire: other axes, values that are tried, moves that end at a switch, homing, and the following error."""

from __future__ import annotations

from fractions import Fraction
from unittest import mock

from idler.core.controller.standing import ControllerImage
from idler.core.machine import Machine, axes
from idler.core.profile import cia402 as c
from idler.core.profile.codec import LETTERS, Place, encode, machine_from, place
from idler.core.profile.homing import TOUCH_PLACE, HomingResult, Phase
from idler.core.table import axis_index
from idler.link.events import Done, Failed, Read
from idler.link.own.client import Client
from idler.link.plan import plan
from tests.link.test_link import LinkCase
from tests.support import A, X, Z, at, wait_for, wired


class AxesCase(LinkCase):
    def send(self, machine: Machine, before: ControllerImage) -> ControllerImage:
        event = self.after(lambda: self.link.send(plan(machine, before)), Done, Failed)
        self.assertIsInstance(event, Done, event)
        assert event.holding is not None  # type: ignore[attr-defined]
        return event.holding  # type: ignore[attr-defined]

    def restart(self) -> ControllerImage:
        event = self.after(self.link.restart, Done, Failed)
        self.assertIsInstance(event, Done, event)
        return event.holding  # type: ignore[attr-defined]

    def read(self, *places: Place) -> dict[Place, int]:
        event = self.after(lambda: self.link.ask_for(places), Read, Failed)
        self.assertIsInstance(event, Read, event)
        return {where: int(raw) for where, raw in event.raws.items()}  # type: ignore[attr-defined]


class PoweredAgain(AxesCase):
    def test_what_is_on_is_not_told_to_let_go_first(self) -> None:
        self.connect()
        self.power()
        with mock.patch.object(Client, "send", autospec=True, side_effect=Client.send) as sent:
            self.power()
        told = [call.args[1] for call in sent.call_args_list]
        self.assertFalse([each for each in told if 0x180 < each < 0x580], "process data while nothing was to be told")


class OtherAxes(AxesCase):
    def test_they_are_stored_wait_for_a_restart_and_give_no_power_until_then(self) -> None:
        holding = self.connect()
        wanted = axes.add(axes.remove(wired(), Z), "B")
        sent = self.send(wanted, holding)
        self.assertIn(LETTERS, sent.waiting)
        self.assertEqual(len(self.link.axes), 4)
        event = self.after(lambda: self.link.power(True), Done, Failed)
        self.assertIsInstance(event, Failed)
        self.assertIn("waits for a restart", event.why)
        held = self.restart()
        self.assertEqual(held.shape.names, ("X", "Y", "A", "B"))
        self.assertEqual(machine_from(held.raws, held.shape), wanted)
        self.power()

    def test_more_axes_than_before_can_be_taken_back(self) -> None:
        holding = self.connect()
        self.send(axes.add(wired(), "U"), holding)
        more = self.restart()
        self.assertEqual((len(self.link.axes), more.shape.names[-1]), (5, "U"))
        self.send(wired(), more)
        again = self.restart()
        self.assertEqual(again.shape.names, ("X", "Y", "Z", "A"))
        self.assertEqual(machine_from(again.raws, again.shape), wired())

    def test_letters_that_are_none_are_refused_by_the_controller(self) -> None:
        self.connect()
        for letters in ("XX", "Q", "XYZABCUVW"):
            event = self.after(lambda letters=letters: self.link.try_values({LETTERS: letters}), Done, Failed)
            self.assertIsInstance(event, Failed, letters)

    def test_a_motor_turns_for_the_axis_that_has_its_output(self) -> None:
        holding = self.connect()
        swapped = wired().with_values({at(X, "axis.output"): 3, at(Z, "axis.output"): 1})
        self.send(swapped, holding)
        self.restart()
        self.power()
        before = {name: self.bench.hands.look(name)["at"] for name in "XZ"}
        self.step(X, -3, 600)
        self.assertAlmostEqual(self.bench.hands.look("Z")["at"], before["Z"] - 3, delta=0.05)
        self.assertAlmostEqual(self.bench.hands.look("X")["at"], before["X"], delta=0.05)


class Tried(AxesCase):
    def test_what_is_tried_is_in_force_at_once_and_gone_after_a_restart(self) -> None:
        holding = self.connect()
        speed = place(at(X, "pace.top_speed"))
        event = self.after(lambda: self.link.try_values({speed: 1_000_000}), Done, Failed)
        self.assertEqual(event, Done("try"))
        self.assertEqual(self.read(speed)[speed], 1_000_000)
        self.assertEqual(self.restart().raws[speed], holding.raws[speed])

    def test_nothing_is_tried_while_the_axis_moves(self) -> None:
        self.connect()
        self.power()
        self.after(lambda: self.link.jog_step(X, -100, 300), Done, Failed)
        wait_for(lambda: self.link.axes[X].moving, "motion")
        speed = place(at(X, "pace.top_speed"))
        event = self.after(lambda: self.link.try_values({speed: 1_000_000}), Done, Failed)
        self.assertIsInstance(event, Failed)
        self.assertIn("not while it moves", event.why)
        self.link.stop()
        self.rest(X)

    def test_an_object_that_is_not_there_is_said(self) -> None:
        self.connect()
        for where in (Place(0x5FFF, 0), Place(0x1018, 9)):
            event = self.after(lambda where=where: self.link.ask_for([where]), Read, Failed)
            self.assertIsInstance(event, Failed)
            self.assertIn("no such object", event.why)
        self.assertTrue(self.link.connected)


class Switches(AxesCase):
    def told(self, **changes: object) -> None:
        values = {at(X, key.replace("__", ".")): value for key, value in changes.items()}
        self.send(wired().with_values({at(X, "chain.pitch"): Fraction(4), **values}), self.connect())  # type: ignore[dict-item]
        self.power()

    def test_a_move_ends_at_the_edge_of_its_switch_and_the_place_is_kept(self) -> None:
        self.told(travel__limits_on=False)
        count, latched = (Place(axis_index(index, X), 0) for index in (c.LATCHES, c.LATCHED))
        before = self.read(count)[count]
        self.link.jog_step(X, 400, 1200, seek=True)
        wait_for(lambda: self.link.axes[X].home_made, "the switch")
        position = self.rest(X)
        found = self.read(count, latched)
        self.assertEqual(found[count], before + 1)
        self.assertLess(position - c.position_from(found[latched]), 1.0)
        self.assertLess(self.bench.hands.look("X")["at"], 316)

    def test_homing_reports_its_phases_its_end_and_its_places(self) -> None:
        self.told()
        self.link.home((X,))
        phases = set()
        wait_for(lambda: phases.add(self.link.axes[X].homing_phase) or Phase.TOUCH in phases, "the touch")
        wait_for(lambda: self.link.axes[X].homed, "home")
        wait_for(lambda: self.link.axes[X].homing_result is HomingResult.FOUND, "how it ended")
        self.rest(X)
        self.assertAlmostEqual(self.link.axes[X].position, 0.0, places=2)
        touch = Place(axis_index(TOUCH_PLACE.index, X), TOUCH_PLACE.sub)
        self.assertGreater(self.read(touch)[touch], 0)

    def test_stop_ends_a_homing_and_home_is_not_known(self) -> None:
        self.told()
        self.link.home((X,))
        wait_for(lambda: self.link.axes[X].homing_phase is Phase.APPROACH, "the approach")
        self.link.stop()
        self.rest(X)
        wait_for(lambda: self.link.axes[X].homing_result is HomingResult.STOPPED, "the report")
        self.assertFalse(self.link.axes[X].homed)

    def test_a_homing_that_was_taken_is_known_although_its_reports_are_lost(self) -> None:
        self.told()
        real = Client._frame

        def deaf(client: Client, identifier: int, data: bytearray) -> None:
            if identifier & 0x780 != c.MOTION_PDO:
                real(client, identifier, data)

        with mock.patch.object(Client, "_frame", deaf):
            self.assertIs(self.link.axes[X].homing_phase, Phase.NONE)
            self.assertIsInstance(self.after(lambda: self.link.home((X,)), Done, Failed), Done)
            self.assertIs(self.link.axes[X].homing_phase, Phase.APPROACH)
        self.link.stop()
        self.rest(X)

    def test_home_here_leaves_the_method_as_it_was(self) -> None:
        self.told()
        method = Place(axis_index(0x6098, X), 0)
        before = self.read(method)[method]
        self.after(lambda: self.link.home_here(X), Done, Failed)
        wait_for(lambda: self.link.axes[X].homed, "home")
        self.assertEqual(self.read(method)[method], before)
        self.after(lambda: self.link.forget_home(X), Done, Failed)
        wait_for(lambda: not self.link.axes[X].homed, "home to be forgotten")


class Lag(AxesCase):
    def test_the_following_error_is_watched_while_it_is_asked_for(self) -> None:
        machine = wired().with_values({at(A, "loop.measured"): True, at(A, "loop.window"): Fraction(5)})
        self.send(machine, self.connect())
        self.power()
        self.link.watch_lag(A)
        self.link.jog_step(A, 20, 1200)
        seen = lambda: self.link.lags.get(A, ())  # noqa: E731
        wait_for(lambda: len(seen()) > 5 and any(lag != 0 for _, lag in seen()), "the following error")
        self.rest(A)
        self.assertLess(max(abs(lag) for _, lag in seen()), 1.0)
        self.link.watch_lag(A, X)
        wait_for(lambda: all(len(self.link.lags[slot]) > 3 for slot in (A, X)), "both in turn")
        self.link.watch_lag()
        self.assertEqual(self.link.lags, {})

    def test_a_raw_value_is_what_the_table_makes_of_it(self) -> None:
        window = at(A, "loop.window")
        self.assertEqual(encode(window.row, Fraction(5)), 50_000)
