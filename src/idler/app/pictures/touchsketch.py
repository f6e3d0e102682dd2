"""What a touch goes for, from above or from the front: the work, the tool, and the ways on which it is touched, in order."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from idler.core.trial.touching import CORNERS, SIDES

from .. import theme
from .picture import ScenePicture

REACH = 46.0  # pixels of an arrow
TOOL = 13.0  # radius of the tool as it is drawn


@dataclass(frozen=True)
class TouchScene:
    """what: a key of `touching.WHAT`. made: letters of the axes whose touches are done."""

    what: str
    made: tuple[str, ...]


class TouchSketch(ScenePicture[TouchScene]):
    least = 160

    def paint(self, p: QPainter, scene: TouchScene) -> None:
        side = min(self.room.width() - 120, self.room.height() - 120, 300.0)
        box = QRectF(0, 0, side * 1.2, side * 0.8)
        box.moveCenter(self.room.center())
        p.setFont(theme.text_font(12))
        p.setPen(theme.color("soft"))
        front = scene.what in ("top", "length")
        p.drawText(QPointF(16, 22), "from the front" if front else "from above: X + to the right, Y + up")
        p.setPen(QPen(theme.color("ink"), 2))
        p.setBrush(theme.color("pale_brass") if not theme.is_night() else theme.color("brass"))
        if front:
            box.setTop(box.center().y())
            p.drawRect(box)
            plate = QRectF(box.center().x() - 50, box.top() - 16, 100, 16)
            p.setBrush(theme.color("paper"))
            p.drawRect(plate)
            self._tool(p, QPointF(plate.center().x(), plate.top() - REACH - TOOL))
            self._arrow(p, QPointF(plate.center().x(), plate.top() - REACH), QPointF(0, 1), 1, "Z" in scene.made)
            return
        p.drawRect(box)
        if scene.what == "bore":
            p.setBrush(theme.color("panel"))
            p.drawEllipse(box.center(), side * 0.3, side * 0.3)
        for number, (begin, way, name) in enumerate(self._ways(scene.what, box, side), start=1):
            self._arrow(p, begin, way, number, name in scene.made)
        self._tool(p, self._begin(scene.what, box))

    def _begin(self, what: str, box: QRectF) -> QPointF:
        """Where the tool stands before it."""
        if what in CORNERS:
            across, up = CORNERS[what]
            return QPointF(
                box.center().x() + across * (box.width() / 2 - 34), box.center().y() - up * (box.height() / 2 - 34)
            )
        if what in SIDES:
            begin, way, _ = self._ways(what, box, box.width())[0]
            return begin - way * TOOL
        return box.center()

    def _ways(self, what: str, box: QRectF, side: float) -> list[tuple[QPointF, QPointF, str]]:
        """Where each way begins, where it goes to, and its axis; pixels."""
        right, down = QPointF(1, 0), QPointF(0, 1)
        middle = box.center()
        if what in SIDES:
            name, way = SIDES[what]
            ahead = right * way if name == "X" else down * -way
            edge = QPointF(box.left() if way > 0 else box.right(), middle.y())
            if name == "Y":
                edge = QPointF(middle.x(), box.bottom() if way > 0 else box.top())
            return [(edge - ahead * REACH, ahead, name)]
        if what in CORNERS:
            across, up = CORNERS[what]
            stands = self._begin(what, box)
            return [
                (
                    QPointF((box.right() if across > 0 else box.left()) + across * REACH, stands.y()),
                    right * -across,
                    "X",
                ),
                (QPointF(stands.x(), (box.top() if up > 0 else box.bottom()) - up * REACH), down * up, "Y"),
            ]
        found = []
        for ahead, name, half in ((right, "X", box.width() / 2), (-down, "Y", box.height() / 2)):
            for way in (-1, 1):
                if what == "bore":  # from the middle out
                    found.append((middle + ahead * way * (side * 0.3 - REACH), ahead * way, name))
                else:  # from outside, that which lies towards − first
                    found.append((middle + ahead * way * (half + REACH), ahead * -way, name))
        return found

    def _tool(self, p: QPainter, at: QPointF) -> None:
        p.setPen(QPen(theme.color("ink"), 2))
        p.setBrush(theme.color("panel"))
        p.drawEllipse(at, TOOL, TOOL)

    def _arrow(self, p: QPainter, begin: QPointF, way: QPointF, number: int, made: bool) -> None:
        """A way to a touch with its number; one that is done is filled."""
        tip = begin + way * (REACH - 2)
        across = QPointF(-way.y(), way.x())
        p.setPen(QPen(theme.color("petrol"), 2.4))
        p.drawLine(begin, tip)
        head = QPolygonF([tip, tip - way * 10 + across * 6, tip - way * 10 - across * 6])
        p.setBrush(theme.color("petrol") if made else theme.color("paper"))
        p.drawPolygon(head)
        p.setPen(theme.color("soft"))
        place = begin + across * 14 + way * 8
        p.drawText(QRectF(place.x() - 10, place.y() - 10, 20, 20), Qt.AlignmentFlag.AlignCenter, str(number))
