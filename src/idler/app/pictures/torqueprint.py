"""What a motor gives at each place of a slow travel, to + above and to − below, over what it gave before."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from idler.core.mechanics.torqueprint import TorquePrint, tight_spots
from idler.core.values.measures import Measures

from .. import theme
from .curves import draw_curve
from .pacemap import nice_step
from .picture import ScenePicture

LEFT, BELOW, TOP = 44.0, 24.0, 18.0
LEAST = 0.1  # share that the picture reaches to at least


@dataclass(frozen=True)
class PrintScene:
    """before: what it is laid over; None where there is nothing."""

    found: TorquePrint
    before: TorquePrint | None
    reads: Measures


class TorquePrintPicture(ScenePicture[PrintScene]):
    least = 120
    nothing = "Printed, its torque is drawn here from end to end"

    def words(self, scene: PrintScene) -> str:
        if not scene.found.told:
            return "A torque print with too few readings"
        up, down = scene.found.usual
        return f"Torque print: {100 * up:.0f} % to +, {100 * down:.0f} % to −, {len(tight_spots(scene.found))} tight places"

    def paint(self, p: QPainter, scene: PrintScene) -> None:
        box = self.room.adjusted(LEFT, TOP, -10, -BELOW)
        found, before = scene.found, scene.before
        shares = [each for way in (found.up, found.down) for each in way if each is not None]
        if before is not None:
            shares += [each for way in (before.up, before.down) for each in way if each is not None]
        most = 1.15 * max([LEAST, *shares])
        zero = box.center().y()

        def at(place: float, share: float) -> QPointF:
            x = box.left() + (place - found.low) / (found.high - found.low) * box.width()
            return QPointF(x, zero - share / most * box.height() / 2)

        p.fillRect(box, theme.color("paper"))
        self._scales(p, box, scene, most, zero)
        for spot in tight_spots(found):
            half = (found.high - found.low) / len(found.up) / 2
            left, right = at(spot.first - half, 0).x(), at(spot.last + half, 0).x()
            top = box.top() if spot.way > 0 else zero
            p.fillRect(QRectF(left, top, right - left, box.height() / 2), theme.color("pale_brass"))
        for each, tone, wide in ((before, "soft", 1.2), (found, "petrol", 2.0)):
            if each is not None:
                p.setPen(QPen(theme.color(tone), wide))
                for sign, way in ((1, each.up), (-1, each.down)):
                    draw_curve(p, [at(place, sign * share) for place, share in _line(each, way, found)])
        p.setPen(QPen(theme.color("line"), 1))
        p.drawRect(box)

    def _scales(self, p: QPainter, box: QRectF, scene: PrintScene, most: float, zero: float) -> None:
        p.setFont(theme.text_font(11))
        p.setPen(theme.color("soft"))
        p.drawLine(QPointF(box.left(), zero), QPointF(box.right(), zero))
        step = nice_step(100 * most, 2)
        for sign in (1, -1):
            y = zero - sign * step / 100 / most * box.height() / 2
            p.drawText(QRectF(0, y - 7, LEFT - 6, 14), Qt.AlignmentFlag.AlignRight, f"{step:g} %")
        p.drawText(
            QRectF(box.left(), 0, box.width(), 14),
            Qt.AlignmentFlag.AlignLeft,
            "share of its torque: to + above, to − below",
        )
        for place in (scene.found.low, (scene.found.low + scene.found.high) / 2, scene.found.high):
            x = box.left() + (place - scene.found.low) / (scene.found.high - scene.found.low) * box.width()
            words = scene.reads.length(place, 0)
            width = p.fontMetrics().horizontalAdvance(words)
            p.drawText(QPointF(min(max(box.left(), x - width / 2), box.right() - width), box.bottom() + 16), words)


def _line(each: TorquePrint, way: Sequence[float | None], over: TorquePrint) -> list[tuple[float, float]]:
    """Places and shares of one way, as far as the other print goes; where nothing was read the line goes on."""
    known = [(each.place(number), share) for number, share in enumerate(way) if share is not None]
    return [(place, share) for place, share in known if over.low <= place <= over.high]
