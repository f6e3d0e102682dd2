"""The train: ten wheels on a rack, one for each station. It informs and never blocks."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPixmap, QResizeEvent

from idler.core.proof.claims import Proof
from idler.core.table.stations import Station

from .. import theme
from ..pictures.gears import rack, wheel
from ..pictures.picture import Picture
from ..pictures.proof import draw_mark

HEIGHT = 74
_RADIUS, _RIM, _MIDDLE, _RACK = 13.0, 9.0, 23.0, 37.5


class Train(Picture):
    opened = Signal(object)  # Station

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self._here = Station.LINK
        self._states: dict[Station, Proof] = dict.fromkeys(Station, Proof.NOTHING)
        self._shares: dict[Station, tuple[int, int]] = {}
        self._labels = {station: station.label for station in Station}
        self._still: QPixmap | None = None  # the wheels, painted once
        self._say()

    def show_states(
        self, states: dict[Station, Proof], shares: dict[Station, tuple[int, int]] | None = None,
        labels: dict[Station, str] | None = None,
    ) -> None:  # fmt: skip
        """shares: of each station with claims, how many are proven of how many. labels: what the stations are called."""
        labels = labels or self._labels
        if (states, shares or {}, labels) != (self._states, self._shares, self._labels):
            self._states, self._shares, self._labels, self._still = states, shares or {}, labels, None
            self._say()
            self.update()

    def show_here(self, station: Station) -> None:
        """Marks the station that is on the stage."""
        if station is not self._here:
            self._here = station
            self._say()
            self.update()

    def _go(self, station: Station) -> None:
        """Asked for by a click or a key: the one that is marked too, for something else may be on the stage."""
        self.show_here(station)
        self.opened.emit(station)

    @property
    def here(self) -> Station:
        return self._here

    def _say(self) -> None:
        self.setAccessibleName(f"Train: {self.words_of(self._here)}")

    def words_of(self, station: Station) -> str:
        """How far a station has come, in words."""
        proven, number = self._shares.get(station, (0, 0))
        share = f", {proven} of {number} proven" if number else ""
        return f"{self._labels[station]}: {self._states[station].words}{share}"

    def at(self, x: float) -> Station:
        """The station at a place of the picture."""
        stations = list(Station)
        return stations[min(len(stations) - 1, max(0, int(x / (self.wide / len(stations)))))]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._go(self.at(self.hand(event).x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        station = self.at(event.position().x())
        self.setToolTip(f"{self.words_of(station)}.\n{station.proves}")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        stations = list(Station)
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        self._go(stations[(stations.index(self._here) + step) % len(stations)])

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._still is None:
            self._still = self.ground()
            painter = self.painter(self._still)
            self._paint_wheels(painter)
            painter.end()
        p = self.painter()
        self.show_ground(p, self._still)
        width = self.wide / len(Station)
        for k, station in enumerate(Station):
            here = station is self._here
            p.setPen(theme.color("ink" if here else "soft"))
            p.setFont(theme.text_font(13, bold=here))
            p.drawText(QRectF(k * width, 44, width, 20), Qt.AlignmentFlag.AlignCenter, self._labels[station])
            if here:
                p.fillRect(QRectF((k + 0.5) * width - 44, self.high - 5, 88, 5), theme.color("ink"))
                if self.hasFocus():
                    p.setPen(QPen(theme.color("petrol"), 2))
                    p.setBrush(Qt.BrushStyle.NoBrush)
                    p.drawRoundedRect(QRectF(k * width + 6, 2, width - 12, 62), 5, 5)

    def _paint_wheels(self, p: QPainter) -> None:
        """What stays while another station is opened."""
        p.fillRect(self.room, theme.color("panel"))
        p.setPen(QPen(theme.color("line"), 1))
        p.drawLine(QPointF(0, self.high - 1), QPointF(self.wide, self.high - 1))
        p.setPen(QPen(theme.color("metal"), 1.2))
        p.setBrush(Qt.BrushStyle.NoBrush)
        for piece in rack(0, self.wide, _RACK, 6.0, 3.0):
            p.drawPath(piece)
        width = self.wide / len(Station)
        for k, station in enumerate(Station):
            self._wheel(p, (k + 0.5) * width, station)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._still = None

    def changeEvent(self, event: QEvent) -> None:
        """Other colours."""
        super().changeEvent(event)
        self._still = None

    def _wheel(self, p: QPainter, x: float, station: Station) -> None:
        state = self._states[station]
        centre = QPointF(x, _MIDDLE)
        if state is Proof.FAILED:  # its teeth are gone
            shape = QPainterPath()
            shape.addEllipse(centre, _RADIUS - 1, _RADIUS - 1)
        else:
            shape = wheel(x, _MIDDLE, _RADIUS, 14, 3.0, 0.12)
        entered = state is not Proof.NOTHING
        pen = QPen(theme.color("brass" if entered else "metal"), 1.5)
        if state is Proof.STALE:
            pen.setStyle(Qt.PenStyle.DashLine)
        p.setPen(pen)
        p.setBrush(theme.color("brass" if state is Proof.PROVEN else "panel"))
        p.drawPath(shape)
        proven, number = self._shares.get(station, (0, 0))
        if 0 < proven < number:  # part of the rim
            p.setPen(QPen(theme.color("brass"), 4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            p.setBrush(Qt.BrushStyle.NoBrush)
            rim = QRectF(x - _RIM, _MIDDLE - _RIM, 2 * _RIM, 2 * _RIM)
            p.drawArc(rim, 90 * 16, round(-360 * 16 * proven / number))
            p.setPen(QPen(theme.color("brass"), 1.5))
        draw_mark(p, centre, state)
