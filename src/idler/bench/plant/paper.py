"""A sheet of paper under a pen that the tool holder holds: what is drawn on it is what the machine truly did."""

from __future__ import annotations

import numpy as np

from ..compiled import compiled
from ..state import PEN, PEN_MARK, PEN_RING, PEN_TICKS, Row, Rows

Line = list[tuple[float, float]]


@compiled
def note_pen(pen: Row, marks: Rows, plant: Rows, tick: int) -> None:
    """Writes down where the pen is, where it touches the sheet."""
    if not pen.on or tick % PEN_TICKS or plant[pen.up_motor].carriage > pen.height:
        return
    mark = marks[pen.written % PEN_RING]
    mark.tick = tick
    for motor in range(len(plant)):
        mark.carriages[motor] = plant[motor].carriage
    pen.written += 1


class Paper:
    """lines: those that were drawn since the sheet was laid, in mm over the bed."""

    def __init__(self) -> None:
        self.pen, self.marks = np.zeros(1, PEN), np.zeros(PEN_RING, PEN_MARK)
        self.lines: list[Line] = []
        self._last = -PEN_TICKS

    def lay(self, up_motor: int, height: float) -> None:
        """A clean sheet, at the height at which the pen touches it."""
        self.pen[:] = (1, up_motor, height, 0)
        self.lines, self._last = [], -PEN_TICKS

    def take(self) -> np.ndarray:
        """What was written down since it was asked last; the pen was lifted between marks that are not in a row."""
        count = min(int(self.pen[0]["written"]), PEN_RING)
        found = self.marks[:count].copy()
        self.pen[0]["written"] = 0
        return found

    def draw(self, ticks: np.ndarray, places: np.ndarray) -> None:
        """places: (marks, 2), mm over the bed. A place that hardly moved is not drawn twice."""
        for tick, (x, y) in zip(ticks.tolist(), places.tolist(), strict=True):
            if tick - self._last > PEN_TICKS or not self.lines:
                self.lines.append([])
            line = self.lines[-1]
            if not line or abs(line[-1][0] - x) + abs(line[-1][1] - y) > 1e-3:
                line.append((x, y))
            self._last = tick
