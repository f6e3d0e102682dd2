"""The lines of the margin as widgets. One that says nothing at present is kept for the next line of its kind: to make and
style some twenty labels takes longer than to draw the whole station."""

from __future__ import annotations

import html
from collections import defaultdict, deque
from collections.abc import Callable, Hashable, Sequence
from typing import Protocol

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from idler.core.controller.standing import Change
from idler.core.report.aside import Claimed, Found, Line, OnAxis, Rule, Settled, Text
from idler.session.session import Session

from .. import theme
from ..pictures.proof import ProofMark
from ..widgets.cards import figures, label


class _Row(Protocol):
    """A widget for lines of one kind."""

    @property
    def widget(self) -> QWidget: ...

    @property
    def side(self) -> Qt.AlignmentFlag: ...

    def tell(self, line: Line) -> None: ...


_WIDE = Qt.AlignmentFlag(0)


class Asides(QWidget):
    """A column of lines. explained: the code of a finding that somebody wants to read more about."""

    explained = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(18, 14, 16, 12)
        self._column.setSpacing(5)
        self._column.addStretch(1)
        self._rows: list[tuple[Hashable, _Row]] = []  # in the order of the lines; what is not shown comes after them

    def show_lines(self, lines: Sequence[Line]) -> None:
        kept: defaultdict[Hashable, deque[_Row]] = defaultdict(deque)
        for kind, row in self._rows:
            kept[kind].append(row)
        told = []
        for place, line in enumerate(lines):
            kind = _kind(line)
            row = kept[kind].popleft() if kept[kind] else self._made(line)
            row.tell(line)
            here = self._column.itemAt(place)
            if here is None or here.widget() is not row.widget:
                self._column.removeWidget(row.widget)
                self._column.insertWidget(place, row.widget, alignment=row.side)
            row.widget.setVisible(True)
            told.append((kind, row))
        spare = [(kind, row) for kind, rows in kept.items() for row in rows]
        for _, row in spare:
            row.widget.hide()
        self._rows = told + spare

    def _made(self, line: Line) -> _Row:
        match line:
            case Text():
                return _Words(line)
            case Rule():
                return _Hairline()
            case Change():
                return _Changes()
            case OnAxis():
                return _Axis(line)
            case Claimed():
                return _Claim()
            case Found():
                return _Doubt(line, self.explained.emit)
            case Settled():
                return _Settle(self._session)


def _kind(line: Line) -> Hashable:
    """Lines of one kind are styled alike."""
    match line:
        case Text(tone=tone):
            return tone
        case Found():
            return Found, line.tone
        case OnAxis(edited=edited):
            return OnAxis, edited
    return type(line).__name__


class _Words:
    side = _WIDE

    def __init__(self, line: Text) -> None:
        self.widget = label("", line.tone.value, wrap=True)

    def tell(self, line: Line) -> None:
        assert isinstance(line, Text)
        self.widget.setText(line.words)


class _Hairline:
    side = _WIDE

    def __init__(self) -> None:
        self.widget = QWidget()
        column = QVBoxLayout(self.widget)
        column.setContentsMargins(0, 10, 0, 8)
        hairline = QFrame()
        hairline.setProperty("role", "hairline")
        column.addWidget(hairline)

    def tell(self, line: Line) -> None:
        """All are alike."""


class _Changes:
    """A value: before → after."""

    side = _WIDE

    def __init__(self) -> None:
        self.widget = QWidget()
        grid = QGridLayout(self.widget)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(1)
        grid.setColumnStretch(0, 1)
        self._name, self._old, self._new = label("", "soft"), figures(), label("", "edited")
        self._new.setFont(theme.figure_font(13, bold=True))
        for shown in (self._old, self._new):
            shown.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        grid.addWidget(self._name, 0, 0, 1, 2)
        grid.addWidget(self._old, 1, 0)
        grid.addWidget(self._new, 1, 1)

    def tell(self, line: Line) -> None:
        assert isinstance(line, Change)
        self._name.setText(line.label)
        self._old.setText(f"{line.before} →")
        self._new.setText(line.after)


class _Axis:
    side = _WIDE

    def __init__(self, line: OnAxis) -> None:
        self.widget = QWidget()
        row = QHBoxLayout(self.widget)
        row.setContentsMargins(0, 0, 0, 0)
        self._name, self._value = label("", "heading"), figures()
        self._value.setProperty("role", "edited" if line.edited else "")
        self._value.setAlignment(Qt.AlignmentFlag.AlignRight)
        row.addWidget(self._name)
        row.addWidget(self._value, 1)

    def tell(self, line: Line) -> None:
        assert isinstance(line, OnAxis)
        self._name.setText(line.axis)
        self._value.setText(line.value)


class _Claim:
    side = _WIDE

    def __init__(self) -> None:
        self.widget = QWidget()
        row = QHBoxLayout(self.widget)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        self._mark, self._words = ProofMark(), label("", wrap=True)
        row.addWidget(self._mark)
        row.addWidget(self._words, 1)

    def tell(self, line: Line) -> None:
        assert isinstance(line, Claimed)
        self._mark.show_state(line.state)
        self._words.setText(line.words)


class _Doubt:
    """A finding, and the way to its page."""

    side = _WIDE

    def __init__(self, line: Found, explain: Callable[[str], None]) -> None:
        self.widget = label("", line.tone.value, wrap=True)
        self.widget.setTextFormat(Qt.TextFormat.RichText)
        self.widget.setTextInteractionFlags(
            Qt.TextInteractionFlag.LinksAccessibleByMouse | Qt.TextInteractionFlag.LinksAccessibleByKeyboard
        )
        self.widget.linkActivated.connect(explain)

    def tell(self, line: Line) -> None:
        assert isinstance(line, Found)
        self.widget.setText(f'{html.escape(line.words)} <a href="{line.finding.code}">More</a>')


class _Settle:
    """A button that takes what a finding proposes."""

    side = Qt.AlignmentFlag.AlignLeft

    def __init__(self, session: Session) -> None:
        self.widget = QPushButton()
        self.widget.clicked.connect(lambda: session.set_values(dict(self._edit)))

    def tell(self, line: Line) -> None:
        assert isinstance(line, Settled)
        self._edit = line.finding.edit
        self.widget.setText(line.finding.edit_text)
