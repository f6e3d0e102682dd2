"""The last seconds of a machine as stacked traces on one time axis, with what happened as numbered marks around the stop."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QPen

from idler.core.values.units import figure

from .. import theme
from .curves import draw_curve
from .picture import Picture

LEFT, TOP, FOOT, GAP = 132.0, 24.0, 22.0, 6.0
LEVEL_ROW = 24.0


@dataclass(frozen=True)
class TraceCurve:
    """values: one for each sample. level: off or on, else a figure with its unit. loud: belongs to what stopped it."""

    label: str
    unit: str
    values: np.ndarray
    level: bool
    loud: bool = False


@dataclass(frozen=True)
class FlightScene:
    """times: seconds from the stop, one for each sample. marks: seconds, by the number that stands beside the words."""

    times: np.ndarray
    traces: Sequence[TraceCurve]
    marks: Sequence[float]


class FlightPicture(Picture):
    """The pointer reads all traces at one moment."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(180)
        self.setMouseTracking(True)
        self._scene: FlightScene | None = None
        self._span = (-0.5, 0.5)
        self._pointer: float | None = None

    def show_scene(self, scene: FlightScene | None) -> None:
        self._scene = scene
        self.update()

    def show_span(self, first: float, last: float) -> None:
        """Seconds from the stop."""
        self._span = first, last
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        x = self.hand(event).x()
        self._pointer = x if x >= LEFT else None
        self.update()

    def leaveEvent(self, _: object) -> None:
        self._pointer = None
        self.update()

    # -- drawing --------------------------------------------------------------------------------------------------

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        if self._scene is None or not len(self._scene.times):
            return
        scene, width = self._scene, self.wide - LEFT - 10
        shown = (scene.times >= self._span[0]) & (scene.times <= self._span[1])
        self._moments(p, scene, width)
        self._clock(p, width)
        top = TOP
        for trace, height in zip(scene.traces, self._heights(scene), strict=True):
            self._row(p, trace, scene.times[shown], trace.values[shown], QRectF(LEFT, top, width, height))
            top += height + GAP
        if self._pointer is not None:
            p.setPen(QPen(theme.color("ink"), 1, Qt.PenStyle.DashLine))
            p.drawLine(QPointF(self._pointer, TOP), QPointF(self._pointer, self.high - FOOT))

    def _heights(self, scene: FlightScene) -> list[float]:
        """Levels have one height; curves share the rest."""
        curves = sum(not trace.level for trace in scene.traces)
        room = self.high - TOP - FOOT - GAP * len(scene.traces)
        if not curves:
            return [min(2 * LEVEL_ROW, room / len(scene.traces))] * len(scene.traces)
        left = room - LEVEL_ROW * (len(scene.traces) - curves)
        tall = max(24.0, left / curves) if curves else 0.0
        return [LEVEL_ROW if trace.level else min(tall, 130.0) for trace in scene.traces]

    def _x(self, time: float, width: float) -> float:
        first, last = self._span
        return LEFT + (time - first) / (last - first) * width

    def _moments(self, p: QPainter, scene: FlightScene, width: float) -> None:
        """The stop as one line, and a number over each thing that happened; those too near to be told apart share one."""
        p.setFont(theme.text_font(11, bold=True))
        metrics = QFontMetricsF(p.font())
        taken = -1e9
        for number, time in enumerate(scene.marks, start=1):
            x = self._x(time, width)
            if not LEFT <= x <= LEFT + width:
                continue
            first = number == 1
            p.setPen(QPen(theme.color("vermilion" if first else "line"), 1.6 if first else 1))
            p.drawLine(QPointF(x, TOP - 4), QPointF(x, self.high - FOOT))
            words = str(number)
            start = max(x - metrics.horizontalAdvance(words) / 2, taken + 5)
            p.setPen(theme.color("vermilion" if first else "ink"))
            p.drawText(QPointF(start, TOP - 8), words)
            taken = start + metrics.horizontalAdvance(words)

    def _clock(self, p: QPainter, width: float) -> None:
        p.setFont(theme.text_font(11))
        first, last = self._span
        step = next(step for step in (0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1.0) if (last - first) / step <= 11)
        for k in range(round(first / step), round(last / step) + 1):
            x = self._x(k * step, width)
            p.setPen(QPen(theme.color("line"), 1))
            p.drawLine(QPointF(x, self.high - FOOT), QPointF(x, self.high - FOOT + 4))
            p.setPen(theme.color("soft"))
            words = "stop" if not k else figure(k * step, 2, trim=True).replace("-", "−")
            box = QRectF(x - 30, self.high - FOOT + 4, 60, 16)
            end = k * step >= last - 1e-9
            box.setRight(min(box.right(), self.wide - 1.0) if end else box.right())
            side = Qt.AlignmentFlag.AlignRight if end else Qt.AlignmentFlag.AlignHCenter
            p.drawText(box, side, words + (" s" if end else ""))

    def _row(self, p: QPainter, trace: TraceCurve, times: np.ndarray, values: np.ndarray, box: QRectF) -> None:
        p.fillRect(box, theme.color("paper"))
        p.setPen(QPen(theme.color("line"), 1))
        p.drawLine(box.bottomLeft(), box.bottomRight())
        self._label(p, trace, box)
        if not len(times):
            return
        low, high = (0.0, 1.0) if trace.level else (float(values.min()), float(values.max()))
        pad = 3.0 if trace.level else 6.0
        reach = max(high - low, 1e-6)
        xs = [self._x(float(t), box.width()) for t in times]
        ys = box.bottom() - pad - (values.astype(float) - low) / reach * (box.height() - 2 * pad)
        points = []
        for k, (x, y) in enumerate(zip(xs, ys, strict=True)):
            if trace.level and k and ys[k - 1] != y:
                points.append(QPointF(x, float(ys[k - 1])))
            points.append(QPointF(x, float(y)))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme.color("ink" if trace.level else "petrol"), 2.2 if trace.loud else 1.6))
        draw_curve(p, points)
        if not trace.level:
            self._scale(p, low, high, box)

    def _label(self, p: QPainter, trace: TraceCurve, box: QRectF) -> None:
        p.setFont(theme.text_font(12, bold=trace.loud))
        p.setPen(theme.color("ink"))
        words = p.fontMetrics().elidedText(trace.label, Qt.TextElideMode.ElideRight, int(LEFT - 12))
        middle = Qt.AlignmentFlag.AlignVCenter
        value = self._value(trace)
        if trace.level or box.height() < 34:
            p.drawText(QRectF(4, box.top(), LEFT - 10, box.height()), middle, value or words)
            return
        p.drawText(QRectF(4, box.top(), LEFT - 10, box.height() / 2), Qt.AlignmentFlag.AlignBottom, words)
        p.setFont(theme.figure_font(11))
        p.setPen(theme.color("petrol" if value else "soft"))
        p.drawText(QRectF(4, box.top() + box.height() / 2, LEFT - 10, box.height() / 2), 0, value or trace.unit)

    def _value(self, trace: TraceCurve) -> str:
        """What a trace is where the pointer stands."""
        if self._pointer is None or self._scene is None:
            return ""
        first, last = self._span
        time = first + (self._pointer - LEFT) / max(1.0, self.wide - LEFT - 10) * (last - first)
        k = int(np.clip(np.searchsorted(self._scene.times, time, "right") - 1, 0, len(trace.values) - 1))
        if trace.level:
            return f"{trace.label}: {'on' if trace.values[k] else 'off'}"
        return f"{figure(float(trace.values[k]), 3, trim=True)} {trace.unit}"

    def _scale(self, p: QPainter, low: float, high: float, box: QRectF) -> None:
        """The highest and lowest value, inside the row at its left."""
        p.setFont(theme.figure_font(10))
        for value, flag in ((high, Qt.AlignmentFlag.AlignTop), (low, Qt.AlignmentFlag.AlignBottom)):
            if high > low or flag == Qt.AlignmentFlag.AlignTop:
                words = figure(value, 2, trim=True).replace("-", "−")
                inside = box.adjusted(4, 1, -4, -1)
                p.fillRect(p.boundingRect(inside, flag, words).adjusted(-2, 0, 2, 0), theme.color("paper", 0.85))
                p.setPen(theme.color("soft"))
                p.drawText(inside, flag, words)
