"""The pictures of Geometry with everything measured: nothing upon anything, small and large, in both units."""

from __future__ import annotations

import itertools
import unittest
from collections.abc import Iterator

from PySide6.QtCore import QRectF

from idler.app.pictures.arrivals import ArrivalPicture, ArrivalScene
from idler.app.pictures.heightmap import HeightMap, LevelScene
from idler.app.pictures.laidsquare import BladeScene, LaidSquarePicture
from idler.app.pictures.picture import Picture
from idler.app.pictures.shifts import ShiftPicture, ShiftScene
from idler.app.pictures.turning import RunoutPicture, RunoutScene, TailPicture, TailScene
from idler.app.run import qt_application
from idler.core.geometry import comeback, level, runout, tailstock
from idler.core.geometry.blade import Laying
from idler.core.geometry.comeback import Arrival
from idler.core.geometry.kept import Kept
from idler.core.geometry.spanner import Part, turn
from idler.core.mechanics.scale import INSTRUMENTS
from idler.core.values.measures import Measures
from tests.app.seen import overlaps, painted

DIAL = next(item for item in INSTRUMENTS if item.key == "dial")
SIZES = (505, 240), (620, 380), (1200, 640)


def scenes(reads: Measures) -> Iterator[tuple[str, Picture]]:
    """Each picture as it stands when all is read, and in between."""
    for across, along, width, height in (
        (3, 3, 310.0, 188.0),
        (3, 3, 1250.0, 850.0),
        (2, 4, 100.0, 600.0),
        (5, 5, 400.0, 400.0),
    ):
        grid = level.Grid(-300, -180, width, height, across, along)
        heights = tuple(0.0004 * x - 0.0002 * y for x, y in grid.places)
        for raises in (False, True):
            made = HeightMap()
            made.show_scene(
                LevelScene(
                    "X", "Y", grid, dict(enumerate(heights)), level.bed(grid, heights, DIAL, 0.0025), raises, reads
                )
            )
            yield f"bed of {across} by {along}, {width:g} by {height:g}", made
        half = HeightMap()
        half.show_scene(LevelScene("X", "Y", grid, dict(enumerate(heights[:3])), None, False, reads))
        yield "half a bed", half
    for drift, far in ((0.0, 0.0), (0.01, 0.0), (0.0, -0.3)):
        kinds = comeback.order(5)
        arrivals = tuple(Arrival(kind, drift * t + far * kind.far, t) for t, kind in enumerate(kinds))
        back = ArrivalPicture()
        back.show_scene(ArrivalScene("X", arrivals, comeback.comeback(arrivals, DIAL), 0.02, reads))
        yield f"arrivals, {drift:g}, {far:g}", back
    for angle in (None, -0.43, 2.0, 0.001):
        laid = LaidSquarePicture()
        both = {0: Laying(0.02, 0.12, 150, 150), 1: Laying(-0.13, -0.14, -150, 150)}
        laid.show_scene(BladeScene("X", "Y", both if angle is not None else {1: both[1]}, (1, "stock"), angle, reads))
        yield f"square, {angle}", laid
        for part in Part if angle is not None else ():
            moved = LaidSquarePicture()
            moved.show_scene(BladeScene("X", "Z", both, None, angle, reads, turn(part, angle, 150, 150)))
            yield f"square, {angle}, {part}", moved
    for values in ((0.0, 0.01, -0.01, -0.02), (0.05, 0.0, -0.05, 0.0), (-0.03, 0.0, 0.03, 0.0)):
        turned = RunoutPicture()
        turned.show_scene(RunoutScene("A", dict(enumerate(values)), runout.runout(values, DIAL), True, reads))
        yield f"runout, {values}", turned
    for tail in (24.0, 24.07, 23.9):
        bar = TailPicture()
        bar.show_scene(TailScene(24.0, tail, tailstock.tailstock(24.0, tail, 240, 280), tail != 24.0, reads))
        yield f"tailstock, {tail:g}", bar
    for axes in (1, 4, 8):
        found = tuple(Kept("XYZABCUV"[k], (-1) ** k * 0.03 * k, 0.04, -32.0 * k) for k in range(axes))
        shifts = ShiftPicture()
        shifts.show_scene(ShiftScene(tuple(each.name for each in found), found, (reads,) * axes, 30, 30))
        yield f"shifts of {axes}", shifts


class Measured(unittest.TestCase):
    def test_nothing_is_upon_anything(self) -> None:
        qt_application()
        for (wide, high), inch in itertools.product(SIZES, (False, True)):
            for name, picture in scenes(Measures(False, inch)):
                picture.resize(wide, high)
                with self.subTest(name, size=(wide, high), inch=inch):
                    self.assertEqual(list(overlaps(painted(picture), QRectF(0, 0, wide, high))), [])
