"""Geometry of the pictures, without painting."""

from __future__ import annotations

import unittest
from fractions import Fraction
from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QLineF, QPointF, QRectF
from PySide6.QtGui import QPainter, QPixmap

from idler.app import theme
from idler.app.pictures.chain import wheel_radii
from idler.app.pictures.gears import rack, wheel
from idler.app.pictures.labels import Placer, beside, box_of, crosses
from idler.app.pictures.machine import scene_of
from idler.app.pictures.move import curve
from idler.app.pictures.pacemap import Ceiling, PaceScene, nice_step
from idler.app.pictures.rail import ENDS, rail_marks
from idler.app.pictures.raster import coloured
from idler.app.pictures.terminals import columns_of_levels
from idler.core.mechanics.pace import Pace
from idler.core.values.measures import MILLIMETRES
from tests.app.gui import GuiCase
from tests.support import A, X, at, verge


class Rails(unittest.TestCase):
    def test_marks_stand_in_the_order_of_their_coordinates(self) -> None:
        marks = rail_marks(verge().axis(X), 800)
        xs = [
            marks.stops[0],
            marks.limits[0],
            marks.cushions[0][1],
            marks.cushions[1][0],
            marks.home,
            marks.switch,
            marks.stops[1],
        ]
        self.assertEqual(xs, sorted(xs))
        self.assertEqual(marks.home, marks.limits[1])  # home is left by 2 mm, and there travel ends
        self.assertEqual((marks.stops[0], marks.stops[1]), (ENDS, 800 - ENDS))

    @given(st.floats(-400, 100))
    def test_the_scale_is_true(self, value: float) -> None:
        scale = rail_marks(verge().axis(X), 800).scale
        self.assertAlmostEqual((scale.x(value) - scale.x(0)) / (800 - 2 * ENDS) * 318, value, places=6)
        self.assertTrue(5 <= scale.inside(scale.x(value)) <= 795)

    def test_rotary_axes_have_degrees_and_no_stops(self) -> None:
        marks = rail_marks(verge().axis(A), 800)
        self.assertIsNone(marks.stops)
        self.assertEqual([words for _, words in marks.ticks], ["0°", "90°", "180°", "270°", "360°"])

    def test_an_axis_whose_stops_were_not_told_shows_its_soft_limits_and_no_iron(self) -> None:
        untold = {at(X, "travel.stop_low"): Fraction(-1), at(X, "travel.stop_high"): Fraction(1)}
        marks = rail_marks(verge().with_values(untold).axis(X), 800)
        self.assertIsNone(marks.stops)
        self.assertEqual(marks.limits, (marks.scale.x(marks.scale.low), marks.scale.x(marks.scale.high)))

    def test_an_axis_of_which_nothing_is_known_still_has_a_rail(self) -> None:
        empty = {at(X, f"travel.{key}"): Fraction(0) for key in ("low", "high", "stop_low", "stop_high", "cushion")}
        marks = rail_marks(verge().with_values(empty).axis(X), 800)
        self.assertIsNone(marks.limits)
        self.assertLess(marks.scale.low, marks.scale.high)


class PaceMaps(unittest.TestCase):
    scene = PaceScene(
        3000, 250, 2500, 200, (Ceiling(4800, "motor", False), Ceiling(18000, "steps", True)), MILLIMETRES, True
    )
    box = QRectF(52, 14, 300, 160)

    @given(st.floats(0.05, 1), st.floats(0.05, 1))
    def test_a_place_and_its_values_agree(self, x: float, y: float) -> None:
        speed, acceleration = x * self.scene.speed_span, y * self.scene.acceleration_span
        back = self.scene.values(self.box, self.scene.position(self.box, speed, acceleration))
        self.assertAlmostEqual(back[0], speed, delta=self.scene.speed_span / 100)
        self.assertAlmostEqual(back[1], acceleration, delta=self.scene.acceleration_span / 100)

    def test_both_points_and_the_nearest_ceiling_are_on_the_map(self) -> None:
        for speed, acceleration in ((3000, 250), (2500, 200), (4800, 10)):
            self.assertTrue(self.box.contains(self.scene.position(self.box, speed, acceleration)))

    @given(st.floats(1e-3, 1e6), st.integers(2, 20))
    def test_steps_of_scales_are_nice(self, span: float, parts: int) -> None:
        step = nice_step(span, parts)
        self.assertTrue(span / parts <= step * 1.0000001)
        self.assertLessEqual(step, span / parts * 2.6)


class Others(unittest.TestCase):
    def test_the_curve_of_a_move_begins_and_ends_at_rest(self) -> None:
        points = curve(Pace(50, 250, 250).move(25))
        self.assertEqual((points[0][1], points[-1][1]), (0, 0))
        self.assertAlmostEqual(max(v for _, v in points), 50)

    @given(st.floats(1, 500), st.floats(1, 500))
    def test_meshing_wheels_fill_their_place(self, first: float, second: float) -> None:
        r1, r2 = wheel_radii(first, second)
        self.assertAlmostEqual(r1 + r2, 56)
        self.assertEqual(r1 < r2, first < second) if abs(first - second) > 1e-6 else None

    def test_outlines(self) -> None:
        self.assertAlmostEqual(wheel(10, 20, 8, 12).boundingRect().center().x(), 10, delta=0.2)
        pieces = [piece.boundingRect() for piece in rack(0, 60, 5, 6)]
        self.assertEqual([pieces[0].left(), pieces[-1].right()], [0, 60])
        self.assertTrue(all(one.right() == other.left() for one, other in pairwise(pieces)))

    def test_a_machine_with_x_y_and_z_is_drawn_where_it_stands(self) -> None:
        scene = scene_of(verge(), {"X": -100.0, "Y": -20.0, "Z": -500.0, "A": 30.0}, known=True)
        self.assertEqual((scene.x.at, scene.z.at, scene.turn), (-100.0, -162.0, 30.0))
        unknown = scene_of(verge(), {"X": -100.0}, known=False)
        self.assertEqual(unknown.x.at, (unknown.x.low + unknown.x.high) / 2)
        untold = {at(X, "travel.stop_low"): Fraction(-1), at(X, "travel.stop_high"): Fraction(1)}
        soft = scene_of(verge().with_values(untold), {}, known=False)
        self.assertEqual((soft.x.low, soft.x.high), (soft.x.soft_low, soft.x.soft_high))
        flat = verge().with_values({**untold, at(X, "travel.low"): Fraction(0)})
        self.assertIsNone(scene_of(flat, {}, known=False))


class Traces(unittest.TestCase):
    @given(
        st.lists(st.tuples(st.integers(0, 30), st.integers(0, 3)), max_size=40),
        st.lists(st.integers(0, 1), min_size=4, max_size=4),
    )
    def test_each_column_has_the_level_after_its_last_edge(
        self, edges: list[tuple[int, int]], levels: list[int]
    ) -> None:
        edges.sort(key=lambda edge: edge[0])
        before = [level ^ (sum(slot == k for _, slot in edges) & 1) for k, level in enumerate(levels)]
        now, closed = list(before), []
        for _, slot in edges:
            now[slot] ^= 1
            closed.append(now[slot])
        at, inputs = (np.array([edge[k] for edge in edges], np.int64) for k in (0, 1))
        found = columns_of_levels(at, inputs, np.array(closed, np.uint8), np.array(levels, np.uint8), 31)
        for slot in range(4):
            for column in range(31):
                last = [level for (x, k), level in zip(edges, closed, strict=True) if k == slot and x <= column]
                self.assertEqual(found[slot, column], last[-1] if last else before[slot])


class Colours(unittest.TestCase):
    def test_a_pixel_is_as_much_of_its_colour_as_is_covered(self) -> None:
        dice = np.random.default_rng(1)
        cover, shades = (dice.integers(0, 256, (20, 30)).astype(np.uint8) for _ in range(2))
        tones = dice.integers(0, 256, (256, 3)).astype(np.uint8)
        part = cover.astype(np.uint32)
        red, green, blue = (tones[shades][..., at] * part // 255 for at in range(3))
        self.assertTrue((coloured(cover, shades, tones) == part << 24 | red << 16 | green << 8 | blue).all())


class Labels(GuiCase):
    def test_a_text_goes_where_it_hurts_nothing_and_stays_inside(self) -> None:
        picture = QPixmap(400, 200)
        p = QPainter(picture)
        p.setFont(theme.text_font(12))
        room = QRectF(0, 0, 400, 200)
        placer = Placer(room)
        placer.stroke(QPointF(0, 100), QPointF(400, 100))
        placer.keep_clear(QRectF(150, 60, 100, 30))
        written = []
        for words in ("first", "second one", "third", "a fourth that is long", "fifth"):
            at_ = placer.find(p, words, beside(QPointF(200, 100), p.fontMetrics().horizontalAdvance(words)))
            written.append(box_of(p, words, at_))
        p.end()
        for place, box in enumerate(written):
            self.assertTrue(room.contains(box))
            self.assertFalse(box.intersects(QRectF(150, 60, 100, 30)))
            self.assertFalse(any(box.intersects(other) for other in written[place + 1 :]))
            self.assertFalse(crosses(QLineF(0, 100, 400, 100), box))
