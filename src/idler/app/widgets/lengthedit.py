"""A length along one axis that is no value of the table: shown and typed in the units of the screen."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLineEdit

from idler.core.errors import Refusal
from idler.core.values.measures import Measures
from idler.core.values.quantity import parse
from idler.core.values.units import Dimension
from idler.core.words import capital
from idler.session.session import Session


class LengthEdit(QLineEdit):
    """taken: a length in mm (°) that was typed; what cannot be taken is told, and the old one shown again."""

    taken = Signal(object)

    def __init__(
        self, session: Session, part: str, *, low: Fraction, high: Fraction, signed: bool = False, width: int = 84
    ) -> None:
        """low, high: what its size may be, in mm (°). signed: its sign is a way."""
        super().__init__()
        self._session, self._part, self._low, self._high, self._signed = session, part, low, high, signed
        self._reads, self._shown = Measures(), ""
        self.setFixedWidth(width)
        self.setAccessibleName(capital(part))
        self.editingFinished.connect(self._take)

    def show_length(self, reads: Measures, value: Fraction) -> None:
        """Leaves alone what is being typed while neither value nor unit changes under it."""
        text = reads.length(value, 4, trim=True)
        if text != self._shown or not self.isModified():
            self._reads, self._shown = reads, text
            self.setText(text)

    def show_nothing(self, reads: Measures) -> None:
        """There is no length yet; the unit is that of one which will be typed."""
        if self._shown or not self.isModified():
            self._reads, self._shown = reads, ""
            self.clear()

    def _take(self) -> None:
        if self.text() == self._shown:
            return
        self.setModified(False)
        table = Dimension.TRAVEL.unit(self._reads.rotary)
        sample = self._reads.tidy(max(self._low, min(self._high, Fraction(25))))
        try:
            value = parse(self.text(), table, bare=self._reads.unit(), part=self._part, sample=sample)
            if not self._low <= (abs(value) if self._signed else value) <= self._high:
                given, bounds = self._reads.length(value, 4, trim=True), self._reads.range(self._low, self._high)
                raise Refusal(self._part, given, "cannot be used", f"from {bounds}")
        except Refusal as why:
            self._session.tell("warn", why.sentence)
            self.setText(self._shown)
            return
        self.taken.emit(value)
