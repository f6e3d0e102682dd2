"""The Travel station on the bench: ends taken by going there, proven, the envelope, parking; and a limit switch that is met."""

from __future__ import annotations

from fractions import Fraction

from idler.app.qt_wait import until
from idler.app.stations.travel.station import TravelStation
from idler.core.proof.claims import Proof, Witness, ends_claim, scale_claim, state
from idler.core.table.stations import Station
from tests.app.gui import SessionCase
from tests.support import A, X, Y, Z, at


class TravelCase(SessionCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.open_station(Station.TRAVEL)
        page = self.window.page(Station.TRAVEL)
        assert isinstance(page, TravelStation)
        self.page = page


class Offline(TravelCase):
    on_bench = False

    def test_nothing_moves_and_it_is_said(self) -> None:
        for button in (self.page.prove, self.page.round, self.page.low):
            self.click(button)
            until(lambda: self.window.notice.words, "a sentence")
        self.assertIn("not homed", self.window.notice.words)
        self.click(self.page.park)
        self.assertIn("No axis has a parking place", self.window.notice.words)

    def test_the_drawing_follows_the_values(self) -> None:
        self.assertEqual([view.across.low for view in self.page.picture._scene.views], [-308, -308])
        self.session.set_values({at(X, "travel.low"): Fraction(-200), at(X, "travel.limits_on"): False})
        view = self.page.picture._scene.views[0]
        self.assertEqual((view.across.low, view.across.limits_on), (-200, False))

    def test_limits_that_are_off_are_said_in_the_header(self) -> None:
        header = self.window.header
        self.assertFalse(header._open.isVisible())
        self.session.set_values({at(Y, "travel.limits_on"): False})
        self.assertTrue(header._open.isVisible())
        self.assertEqual(header._open.text(), "soft limits off: Y")

    def test_a_margin_that_is_none_is_refused(self) -> None:
        self.page.margin.setText("-1")
        self.page.margin.editingFinished.emit()
        self.assertIn("margin", self.window.notice.words)
        self.assertEqual(self.page.margin.text(), "2 mm")


class OnBench(TravelCase):
    pace = 50

    def homed(self) -> None:
        """Told the truth, homed where the switches are."""
        self.session.set_values({
            at(X, "chain.pitch"): Fraction(4), at(Y, "axis.reversed"): True, at(3, "homing.turn"): 0,
            at(X, "travel.parks"): True, at(Z, "travel.parks"): True, at(X, "travel.park"): Fraction(-50),
        })  # fmt: skip
        self.wire()
        self.power()
        for slots in ((Z,), (X, Y)):
            self.home(*slots)

    def test_both_ends_are_proven_slowly_and_at_top_speed(self) -> None:
        """Also where the axis stands at one of them already."""
        self.homed()
        self.page.show_axis(Z)
        self.session.link.jog_step(Z, 5, 600)
        until(lambda: self.session.link.axes[Z].at_limit, "the end")
        self.rest()
        self.click(self.page.prove)
        until(lambda: not self.page.run.running, "the proof", seconds=90)
        claim = ends_claim(self.session.machine, Z)
        self.assertIs(state(self.session.machine, claim, self.session.proofs), Proof.PROVEN, self.page.run.words)
        self.assertIn(
            "stood at -158 mm and 0 mm, asked 20 mm beyond, at 60 mm/min and 2\u202f000 mm/min; the home was found again "
            "within",
            self.session.proofs[claim.key].result,
        )
        self.session.set_values({at(Z, "travel.low"): Fraction(-150)})
        self.assertIs(
            state(self.session.machine, ends_claim(self.session.machine, Z), self.session.proofs), Proof.STALE
        )

    def test_an_end_that_reaches_the_switch_fails(self) -> None:
        self.homed()
        self.session.set_values({at(Z, "travel.high"): Fraction(3)})
        self.session.send()
        until(lambda: not self.session.count().to_send, "the end to be sent")
        self.page.show_axis(Z)
        self.click(self.page.prove)
        until(lambda: not self.page.run.running, "the end of it", seconds=90)
        self.assertIn("met its switch", self.page.run.words)
        self.assertIs(
            state(self.session.machine, ends_claim(self.session.machine, Z), self.session.proofs), Proof.FAILED
        )

    def test_an_end_is_taken_where_the_axis_stands_and_the_machine_is_parked(self) -> None:
        self.homed()
        self.click(self.page.park)
        until(lambda: not self.page.run.running, "the parking place", seconds=60)
        self.assertAlmostEqual(self.session.link.axes[X].position, -50, places=2)
        self.click(self.page.low)
        self.assertAlmostEqual(float(self.value("travel.low")), -48, places=2)  # type: ignore[arg-type]
        self.session.undo_stack.undo()
        self.assertEqual(self.value("travel.low"), -308)

    def test_where_a_jog_beyond_is_refused_that_is_what_is_proven(self) -> None:
        self.homed()
        self.session.set_values({at(Z, "travel.beyond"): "refuse", at(Z, "travel.low"): Fraction(-60)})
        self.session.send()
        until(lambda: not self.session.count().to_send, "the values to be sent")
        self.page.show_axis(Z)
        self.click(self.page.prove)
        until(lambda: not self.page.run.running, "the proof", seconds=90)
        claim = ends_claim(self.session.machine, Z)
        self.assertIs(state(self.session.machine, claim, self.session.proofs), Proof.PROVEN, self.page.run.words)
        self.assertIn("stood at -60 mm and 0 mm, a jog beyond was refused", self.session.proofs[claim.key].result)

    def test_a_travel_that_is_told_too_long_meets_iron_slowly_and_is_named_with_its_edit(self) -> None:
        self.session.set_values({at(Z, "travel.low"): Fraction(-180), at(Z, "travel.stop_low"): Fraction(-184)})
        self.homed()
        self.session.prove(
            scale_claim(self.session.machine, Z), True, "measured", Witness.EYES
        )  # else it would crawl all of the way
        self.page.show_axis(Z)
        for _ in range(3):
            self.click(self.page.prove)
            until(lambda: not self.page.run.running, "the end of it", seconds=120)
            if self.page.mend.isVisible():
                break
            self.home(Z)  # a computer that paused let it push until its drive gave up
        self.assertIn("shorter than told at its low end", self.page.run.words)
        self.assertLess(self.bench.hands.look("Z")["struck"], 1.3)  # mm/s; it touches at 1
        self.click(self.page.mend)
        self.assertAlmostEqual(
            float(self.value("travel.low", Z)), -160, delta=1.0
        )  # iron at −162, and 2 mm clear of it  # type: ignore[arg-type]

    def test_a_rotary_axis_without_limits_parks_too(self) -> None:
        self.session.set_values(
            {at(A, "travel.parks"): True, at(A, "travel.park"): Fraction(30), at(A, "travel.limits_on"): False}
        )
        self.homed()
        self.session.link.home_here(A)
        until(lambda: self.session.link.axes[A].homed, "the home of A")
        self.click(self.page.park)
        until(lambda: not self.page.run.running, "the parking place", seconds=60)
        self.assertEqual(self.page.run.words, "Parked.")
        self.assertAlmostEqual(self.session.link.axes[A].position, 30, delta=0.01)
        self.assertIn("parks_without_ends", [item.code for item in self.session.findings()])

    def test_round_the_envelope_and_esc(self) -> None:
        self.homed()
        self.click(self.page.round)
        until(lambda: len(self.page.run.trail) > 3 and self.session.moving, "motion")
        self.escape()
        self.rest()
        self.assertFalse(self.page.run.running)
        self.assertIn("It was stopped", self.page.words.text())

    def test_a_limit_switch_stops_everything_and_only_the_way_off_is_open(self) -> None:
        self.session.set_values(
            {at(10, "input.role"): "limit_low", at(10, "input.axis"): "X", at(10, "input.rest"): "open"}
        )
        self.wire()
        self.session.set_values({at(1, "input.role"): "limit_low"})  # the switch of X, told as its low limit
        self.session.set_values({at(10, "input.role"): "none", at(10, "input.axis"): "none"})
        self.session.send()
        until(lambda: not self.session.count().to_send, "the wiring to be sent")
        self.power()
        stopped: list[object] = []
        self.session.stopped.subscribe(stopped.append)
        self.window.jog.set_step("")
        self.window.jog.press(X, -1)
        until(lambda: self.session.link.axes[X].velocity < -100, "motion")
        self.bench.hands.ask(do="press", switch="X home")
        until(lambda: stopped, "the stop")
        self.rest()
        self.window.jog.let_go()
        self.assertEqual((stopped[0].code, stopped[0].axis), (0xFF05, X))  # type: ignore[attr-defined]
        self.window.jog.set_step("1")
        was = self.session.link.axes[X].position
        self.click(self.window.rails.rows[X].minus)
        self.click(self.window.rails.rows[X].plus)
        until(lambda: self.session.link.axes[X].position > was + 0.9, "the way off")
        self.rest()
        self.assertAlmostEqual(self.session.link.axes[X].position, was + 1, places=2)
        self.bench.hands.ask(do="release", switch="X home")
        strip = self.window.incident  # a pause of this computer may have put another stop in its place meanwhile
        until(lambda: not strip.isVisible() or len(stopped) > 1, "the strip to go")
