"""Pictures of the drives, of a homing, of the envelope: geometry from data, each painted at two sizes in both looks."""

from __future__ import annotations

import math
from fractions import Fraction
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QApplication, QWidget

from idler.app import theme
from idler.app.pictures.chain import FinalPicture, MotorPicture, StagePicture
from idler.app.pictures.envelope import EnvelopePicture, EnvelopeScene, View
from idler.app.pictures.head import HeadPicture, head_scene
from idler.app.pictures.lag import SPAN, LagPicture
from idler.app.pictures.lathe import LatheScene
from idler.app.pictures.machine import MachinePicture, Scene, scene_of
from idler.app.pictures.pacemap import PaceScene
from idler.app.pictures.proof import ProofMark
from idler.app.pictures.ruler import TrialPicture
from idler.app.pictures.scatter import ScatterPicture
from idler.app.pictures.senses import SensePicture, project, turning
from idler.app.pictures.senses import scene_of as sense_scene
from idler.app.pictures.shapes import ShapeScene, ShapesPicture
from idler.app.pictures.span import Span
from idler.app.pictures.timeline import TimeLine, TimeRow
from idler.app.pictures.torque import TorquePicture
from idler.core.homing import rehearse
from idler.core.homing.repeat import Scatter
from idler.core.machine import Machine
from idler.core.mechanics.pace import Pace, VelocityShape
from idler.core.mechanics.reliable import Search
from idler.core.mechanics.torque import Muscle
from idler.core.profile.homing import Phase
from idler.core.proof.claims import Proof, Witness, evidence, home_claim
from idler.core.travel import ends_of
from idler.core.values.measures import MILLIMETRES
from idler.core.values.stage import Stage
from tests.app.gui import GuiCase
from tests.support import A, X, Y, Z, at, wired

PARK = {at(slot, "travel.parks"): True for slot in (X, Y)} | {at(X, "travel.park"): Fraction(-50)}


def lathe() -> Machine:
    values = {at(None, "build.kind"): "lathe", at(None, "build.post"): "behind", at(2, "axis.kind"): "spindle"}
    for slot, (low, high) in enumerate(((-2, 60), (-4, 200))):
        values |= {at(slot, "travel.stop_low"): Fraction(low), at(slot, "travel.stop_high"): Fraction(high)}
    return Machine(("X", "Z", "C")).with_values(values)  # type: ignore[arg-type]


class DrawnCase(GuiCase):
    def colours(self, widget: QWidget, width: int, height: int) -> set[int]:
        """The colours of a widget painted at a size."""
        widget.resize(width, height)
        image = widget.grab().toImage()
        self.assertEqual((widget.width(), widget.height()), (image.width(), image.height()))
        return {image.pixel(x, y) for x in range(0, image.width(), 3) for y in range(0, image.height(), 3)}

    def painted(self, widget: QWidget, *names: str, width: int = 420, height: int = 220) -> None:
        """Paints by day and by night, small and large; each named colour of the look must be somewhere."""
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        self.addCleanup(lambda: theme.apply(app, night=False))
        for night in (False, True):
            theme.apply(app, night=night)
            self.colours(widget, width // 2, height // 2)
            seen = self.colours(widget, width, height)
            for name in names:
                wanted = QColor(theme.color(name)).rgb()
                self.assertIn(wanted, seen, f"{name} by {'night' if night else 'day'}")


class Senses(DrawnCase):
    def test_what_points_away_goes_up_and_to_the_right(self) -> None:
        away = project((0.0, 1.0, 0.0))
        self.assertGreater(away.x(), 0)
        self.assertLess(away.y(), 0)

    def test_turning_is_right_handed(self) -> None:
        """Seen from the tip of an axis that points at the person, right-handed is counterclockwise."""
        points = turning((0.0, -1.0, 0.0))
        area = sum(a.x() * b.y() - b.x() * a.y() for a, b in pairwise(points))
        self.assertLess(area, 0)  # y goes down on a screen

    def test_each_kind_is_drawn(self) -> None:
        for machine, slot in ((wired(), X), (wired(), A), (lathe(), 0), (lathe(), 2)):
            picture = SensePicture()
            picture.show_scene(sense_scene(machine, slot))
            self.painted(picture, "petrol", width=320, height=260)


class Shapes(DrawnCase):
    def scenes(self, seen: float | None = None) -> tuple[ShapeScene, ...]:
        return tuple(
            ShapeScene(shape, shape.value, (move := Pace(50, 250, 250, shape, 5000).move(20)), move.shaking(17), seen)
            for shape in VelocityShape
        )

    def test_its_figures_say_what_the_core_worked_out(self) -> None:
        picture = ShapesPicture()
        constant, limited, _ = self.scenes(0.0371)
        self.assertEqual(picture.figures(constant)[:2], (f"{constant.move.duration:.3f} s", "jerk without limit"))
        self.assertIn("seen 0.037", picture.figures(constant)[2])
        self.assertIn("5\u202f000 mm/s³", picture.figures(limited)[1])
        self.assertLess(limited.shaking, constant.shaking)  # type: ignore[operator]

    def test_it_is_drawn(self) -> None:
        picture = ShapesPicture()
        self.painted(picture)
        picture.show_scenes(self.scenes(), 1, MILLIMETRES)
        self.painted(picture, "petrol", "paper")


class Motors(DrawnCase):
    muscle = Muscle(((0.0, 1.9), (600.0, 1.3), (1200.0, 0.6)), 5.0, 3.2e-4, 0.16)

    def test_torque_with_and_without_a_curve(self) -> None:
        picture = TorquePicture()
        self.painted(picture)
        for rise in (250.0, 9000.0):
            picture.show_muscle(self.muscle, 3000, rise)
            self.painted(picture, "petrol", "brass")

    @given(st.floats(100, 6000), st.floats(1, 5000))
    def test_the_share_of_the_torque_is_above_one_exactly_beyond_the_line(self, speed: float, rise: float) -> None:
        scene = PaceScene(speed, rise, speed, rise, (), MILLIMETRES, False, self.muscle)
        share = scene.torque_share
        assert share is not None
        if abs(share - 1) > 1e-9:
            self.assertEqual(share > 1, rise > self.muscle.acceleration_at(speed))

    def test_lag_keeps_what_its_span_shows(self) -> None:
        picture = LagPicture()
        points = [(k * 0.1, 0.02 * math.sin(k)) for k in range(200)]
        picture.show_lag(points, 0.05, 20.0, MILLIMETRES, "")
        self.assertTrue(all(t > 20 - SPAN for t, _ in picture._points))
        self.assertAlmostEqual(picture.largest, max(abs(lag) for t, lag in points if t > 14), places=9)
        self.painted(picture, "petrol", "brass")
        picture.show_lag([], 0.05, 0.0, MILLIMETRES, "nothing is known")
        self.assertEqual(picture.largest, 0.0)
        self.painted(picture)

    def test_stages_gears_belts_and_boxes_turn_as_they_do(self) -> None:
        for stage in (
            Stage(True, Fraction(20), Fraction(40), True), Stage(True, Fraction(15), Fraction(30)),
            Stage(False, Fraction(3), Fraction(1), True),
        ):  # fmt: skip
            for way in (1, -1):
                self.painted(StagePicture(stage, way), "petrol", width=180, height=84)
                self.painted(MotorPicture(way), "petrol", width=180, height=84)
        for final in ("screw", "rack", "belt", "worm", "direct"):
            axis = wired().with_values({at(X, "chain.final"): final}).axis(X)
            self.painted(FinalPicture(axis), "ink", width=240, height=84)


class Trials(DrawnCase):
    def test_trials_and_their_proposal(self) -> None:
        picture = TrialPicture()
        self.painted(picture)
        search = Search.of(3000, 250, 6000)
        while (asked := search.next) is not None:
            search = search.after(0.0, held=asked[0] <= 5000 and asked[1] <= 900)
            picture.show_search(search, MILLIMETRES)
            self.colours(picture, 400, 200)
        self.assertIsNotNone(search.proposal)
        self.painted(picture, "petrol", "indigo", "ink")

    def test_scatter(self) -> None:
        picture = ScatterPicture()
        picture.show_scatter(None, MILLIMETRES)
        self.assertTrue(picture.isHidden())
        picture.show_scatter(Scatter((0.001, -0.002, 0.0, 0.0015), 0.02, 10), MILLIMETRES)
        self.assertFalse(picture.isHidden())
        self.painted(picture, "petrol", width=300, height=64)


class Machines(DrawnCase):
    def test_a_lathe_by_its_values_and_as_a_rig(self) -> None:
        scene = scene_of(lathe(), {"X": 20.0, "Z": 100.0, "C": 45.0}, True)
        assert isinstance(scene, LatheScene)
        self.assertEqual((scene.x.at, scene.z.at, scene.turn, scene.behind), (20.0, 100.0, 45.0, True))
        picture = MachinePicture()
        for behind in (True, False):
            picture.show_scene(LatheScene(scene.x, scene.z, behind, 45.0))
            self.painted(picture, "petrol", "pale_brass")

    def test_a_router_has_a_beam_and_its_skew_is_said(self) -> None:
        span = Span(0.0, 800.0, 0.0, 800.0, 400.0, True)
        picture = MachinePicture()
        picture.show_scene(Scene(span, span, Span(0.0, 140.0, 0.0, 140.0, 70.0, True), None, True, True, 0.0))
        straight = self.colours(picture, 500, 260)
        picture.show_scene(Scene(span, span, Span(0.0, 140.0, 0.0, 140.0, 70.0, True), None, True, True, 1.4))
        self.assertNotEqual(straight, self.colours(picture, 500, 260))

    def test_what_cannot_be_drawn_says_so(self) -> None:
        self.assertIsNone(scene_of(Machine(("X", "Y")), {}, True))
        self.painted(MachinePicture())


class Homings(DrawnCase):
    def test_the_head_shows_everything_that_the_phases_touch(self) -> None:
        for towards, coordinate in (("high", 2), ("low", -2)):
            machine = wired().with_values({
                at(X, "homing.towards"): towards, at(X, "homing.coordinate"): Fraction(coordinate),
                at(X, "travel.low"): Fraction(0 if towards == "low" else -308),
                at(X, "travel.high"): Fraction(308 if towards == "low" else 0),
                at(X, "travel.stop_low"): Fraction(-6 if towards == "low" else -312),
                at(X, "travel.stop_high"): Fraction(312 if towards == "low" else 6),
            })  # fmt: skip
            legs = rehearse(machine, X, 100).legs
            scene = head_scene(machine, X, legs, tuple(leg.stop for leg in legs))
            for leg in legs[1:]:
                self.assertTrue(scene.low <= leg.start <= scene.high and scene.low <= leg.stop <= scene.high)
            self.assertTrue(scene.low < scene.switch < scene.high)
            self.assertTrue(scene.low < scene.stop < scene.high)  # type: ignore[operator]
            picture = HeadPicture()
            picture.show_scene(scene)
            self.painted(picture, "petrol", "ink", "indigo", width=640, height=240)

    def test_the_time_line_with_a_run_over_it(self) -> None:
        legs = rehearse(wired(), X, 60).legs
        ran = ((Phase.APPROACH, 0.0, 4.0), (Phase.HALT, 4.0, 4.2))
        rows = (
            TimeRow("X", 1, 0.0, legs, ran, True), TimeRow("Y", 2, legs[-1].end, legs),
            TimeRow("A", 0, 0.0, (), (), False, "takes no part"),
        )  # fmt: skip
        line = TimeLine()
        self.painted(line)
        line.show_rows(rows, 0)
        self.painted(line, "petrol", "indigo", "pale_brass", width=640, height=200)


class Envelopes(DrawnCase):
    def scene(self, machine: Machine, at_: dict[str, float] | None = None) -> EnvelopeScene:
        x, y, z = (ends_of(machine, slot) for slot in (X, Y, Z))
        views = (View(x, y, "from above"), View(x, z, "from the front"))
        return EnvelopeScene(views, "X", at_ or {}, ({"X": -10.0, "Y": -10.0}, {"X": -200.0, "Y": -10.0}))

    def test_everything_that_could_be_met_is_in_it(self) -> None:
        picture = EnvelopePicture()
        self.painted(picture)
        picture.show_scene(self.scene(wired().with_values(PARK), {"X": -100.0, "Y": -50.0, "Z": -20.0}))
        self.painted(picture, "petrol", "ink", width=640, height=380)

    def test_limits_that_are_off_look_otherwise(self) -> None:
        picture = EnvelopePicture()
        picture.show_scene(self.scene(wired()))
        on = self.colours(picture, 640, 380)
        picture.show_scene(self.scene(wired().with_values({at(X, "travel.limits_on"): False})))
        off = self.colours(picture, 640, 380)
        brass = QColor(theme.color("brass")).rgb()
        self.assertIn(brass, off)
        self.assertNotIn(brass, on)


class Marks(DrawnCase):
    def test_a_mark_follows_its_claim(self) -> None:
        machine, mark = wired(), ProofMark()
        claim = home_claim(machine, X)
        self.assertIs(mark.show_claim(machine, claim, {}), Proof.ENTERED)
        kept = {claim.key: evidence(machine, claim, 1.0, True, "found in 9 s", Witness.EYES)}
        self.assertIs(mark.show_claim(machine, claim, kept), Proof.PROVEN)
        self.assertIn("Home of X: proven; found in 9 s", mark.toolTip())
        changed = machine.with_values({at(X, "homing.back_off"): Fraction(4)})
        self.assertIs(mark.show_claim(changed, home_claim(changed, X), kept), Proof.STALE)
        self.painted(mark, width=44, height=44)

    def test_boxes_stay_inside_their_widget(self) -> None:
        picture = ShapesPicture()
        picture.resize(600, 200)
        picture.show_scenes(Shapes("test_it_is_drawn").scenes(), 0, MILLIMETRES)
        for box in picture._columns():
            self.assertTrue(QRectF(0, 0, 600.5, 200.5).contains(box))
