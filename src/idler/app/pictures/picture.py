"""What every picture is: a widget that measures and paints in pixels of the usual size, and grows with the window."""

from __future__ import annotations

from typing import Generic, TypeVar

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QFocusEvent, QMouseEvent, QPaintDevice, QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QSizePolicy, QWidget

from .. import growth, theme

S = TypeVar("S")


class Picture(QWidget):
    """wide, high and room are what there is to paint in; `painter` paints in the same measure.

    under: the token of the colour that it stands on. Where it is told, the picture covers that, and nothing that lies behind is
    painted with it each time."""

    under = ""

    def __init__(self) -> None:
        super().__init__()
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent, bool(self.under))

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
        """A pixmap of the widget's size, clear or in what is under it, for what is painted once and shown often."""
        ratio = self.devicePixelRatioF()
        made = QPixmap(self.size() * ratio)
        made.setDevicePixelRatio(ratio)
        made.fill(theme.color(self.under) if self.under else "transparent")
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


class ScenePicture(Picture, Generic[S]):
    """A picture of one scene. It is painted where the scene, the size or the colours are others, and else shown as it was."""

    least = 150  # pixels that it is high at least
    nothing = ""  # what is said where there is no scene

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(self.least)
        self._scene: S | None = None
        self._still: QPixmap | None = None

    def show_scene(self, scene: S | None) -> None:
        if scene == self._scene:
            return
        self._scene = scene
        if scene is not None and (words := self.words(scene)):
            self.setAccessibleName(words)
        self.anew()

    def words(self, scene: S) -> str:
        """What a screen reader says of it; nothing where it says the same of every scene."""
        return ""

    def paint(self, p: QPainter, scene: S) -> None:
        raise NotImplementedError

    def anew(self) -> None:
        """What it shows beside its scene is another."""
        self._still = None
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._scene is None:
            p = self.painter()
            p.setPen(theme.color("soft"))
            p.drawText(self.room, Qt.AlignmentFlag.AlignCenter, self.nothing)
            return
        if self._still is None or self._still.size() != self.size() * self.devicePixelRatioF():
            self._still = self.ground()
            p = self.painter(self._still)
            self.paint(p, self._scene)
            p.end()
        p = self.painter()
        self.show_ground(p, self._still)
        p.end()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.anew()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.anew()

    def changeEvent(self, event: QEvent) -> None:
        """Other colours or letters."""
        super().changeEvent(event)
        self._still = None
