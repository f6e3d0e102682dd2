"""What every picture is: a widget that measures and paints in pixels of the usual size, and grows with the window."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QMouseEvent, QPaintDevice, QPainter, QPixmap
from PySide6.QtWidgets import QWidget

from .. import growth


class Picture(QWidget):
    """wide, high and room are what there is to paint in; `painter` paints in the same measure."""

    @property
    def wide(self) -> float:
        return self.width() / growth.factor()

    @property
    def high(self) -> float:
        return self.height() / growth.factor()

    @property
    def room(self) -> QRectF:
        return QRectF(0, 0, self.wide, self.high)

    def painter(self, device: QPaintDevice | None = None) -> QPainter:
        """device: what to paint on where it is not the widget itself, of the widget's size."""
        made = QPainter(device if device is not None else self)
        made.setRenderHint(QPainter.RenderHint.Antialiasing)
        made.scale(growth.factor(), growth.factor())
        return made

    def ground(self) -> QPixmap:
        """A clear pixmap of the widget's size, for what is painted once and shown often."""
        ratio = self.devicePixelRatioF()
        made = QPixmap(self.size() * ratio)
        made.setDevicePixelRatio(ratio)
        made.fill("transparent")
        return made

    def show_ground(self, p: QPainter, ground: QPixmap) -> None:
        p.drawPixmap(self.room, ground, QRectF(ground.rect()))

    def hand(self, event: QMouseEvent) -> QPointF:
        """Where the mouse is."""
        return event.position() / growth.factor()

    def update_part(self, left: float, top: float, width: float, height: float) -> None:
        """Only this part is to be painted anew."""
        grown = growth.factor()
        self.update(int(left * grown), int(top * grown), int(width * grown) + 2, int(height * grown) + 2)
