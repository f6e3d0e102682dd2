"""The spindle's speed against time: up to its speed and down to standstill, right and left, with the waits that were told."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen

from idler.core.spindle.runup import SpeedTrace

from .. import theme
from .labels import on_plate
from .picture import Picture
from .plot import Plot


class RunUpPicture(Picture):
    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(190)
        self.setAccessibleName("Speed of the spindle against time")
        self._traces: Mapping[str, SpeedTrace] = {}
        self._waits: dict[str, float] = {}

    def show_traces(self, traces: Mapping[str, SpeedTrace], up: float, down: float) -> None:
        """traces by "up, right" and the like; up and down: the waits that are told, in s."""
        self._traces, self._waits = dict(traces), {"up": up, "down": down}
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        half = self.high / 2
        for place, (way, words) in enumerate(
            (("up", "from the command to its speed"), ("down", "from the command to standstill"))
        ):
            box = QRectF(64, 8 + place * half, self.wide - 78, half - 36)
            traces = {name: trace for name, trace in self._traces.items() if name.startswith(way)}
            self._one(p, box, way, words, traces)

    def _one(self, p: QPainter, box: QRectF, way: str, words: str, traces: Mapping[str, SpeedTrace]) -> None:
        told = self._waits[way]
        settled = {name: trace.settled() for name, trace in traces.items()}
        longest = max([told, 0.5, *(s * 1.4 for s in settled.values() if s is not None)]) * 1.1
        top = max([1.0, *(speed for trace in traces.values() for speed in trace.speeds)]) * 1.12
        plot = Plot(box, (0, longest), (0, top))
        plot.ground(p)
        if told:
            x = plot.at(told, 0).x()
            p.setPen(QPen(theme.color("brass"), 2, Qt.PenStyle.DashLine))
            p.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
        plot.scales(p, "s", f"rpm, {words}", (8, 3))
        if told:
            p.setPen(theme.color("brass"))
            p.setFont(theme.text_font(12, bold=True))
            place = QRectF(x - 156, box.center().y() - 18, 150, 16)
            on_plate(p, place, f"wait told, {told:.2f} s", Qt.AlignmentFlag.AlignRight, "paper")
        for k, (name, trace) in enumerate(traces.items()):
            points = [(t, v) for t, v in zip(trace.times, trace.speeds, strict=True) if t <= longest]
            style = Qt.PenStyle.SolidLine if "right" in name else Qt.PenStyle.DotLine
            plot.line(p, points, QPen(theme.color("petrol"), 2.2, style))
            found = settled[name]
            if found is not None:
                p.setPen(theme.color("petrol"))
                p.setFont(theme.figure_font(13, bold=True))
                word = name.partition(", ")[2]
                place = QRectF(box.right() - 260 + 128 * k, box.bottom() - 38, 124, 16)
                p.drawText(place, Qt.AlignmentFlag.AlignRight, f"{word} {found:.2f} s")
                p.setBrush(theme.color("petrol"))
                p.drawEllipse(plot.at(found, _at(trace, found)), 4, 4)
        if not traces:
            p.setPen(theme.color("soft"))
            p.setFont(theme.text_font(13))
            on_plate(p, box, "not measured yet", ground="paper")


def _at(trace: SpeedTrace, time: float) -> float:
    return min(zip(trace.times, trace.speeds, strict=True), key=lambda point: abs(point[0] - time))[1]
