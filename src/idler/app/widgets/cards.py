"""Small pieces that several views are built from: cards, labels, and the picker of an axis."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import (
    QApplication,
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from .. import theme

BAR = 10  # pixels beside what scrolls, for its bar


def card(margins: tuple[int, int, int, int] = (14, 8, 14, 10), spacing: int = 6) -> tuple[QFrame, QVBoxLayout]:
    """A card and the column inside it."""
    frame = QFrame()
    frame.setProperty("role", "card")
    column = QVBoxLayout(frame)
    column.setContentsMargins(*margins)
    column.setSpacing(spacing)
    return frame, column


def label(words: str, role: str = "", *, wrap: bool = False) -> QLabel:
    """A label in one of the roles of the style sheet: title, heading, soft, small, tiny, warn."""
    made = QLabel(words)
    made.setProperty("role", role)
    made.setWordWrap(wrap)
    return made


def figures(words: str = "—", pixels: int = 13) -> QLabel:
    """A label for figures, which align on the decimal point."""
    made = QLabel(words)
    made.setFont(theme.figure_font(pixels))
    return made


def tall(button: QWidget) -> None:
    """What is used standing at the machine is as high as a gloved finger hits: 40 pixels."""
    button.setProperty("tall", True)


def scrolled(page: QWidget, *, whole: bool = False, rows: bool = False) -> QScrollArea:
    """A page that scrolls up and down inside a card where there is too little room for it; the bar covers nothing of it.

    whole: it is meant to be seen whole, and the rails fold for it. rows: it is a list, which may be too long even then."""
    layout = page.layout()
    if layout is not None:
        around = layout.contentsMargins()
        layout.setContentsMargins(around.left(), around.top(), max(BAR, around.right()), around.bottom())
    scroll = QScrollArea()
    scroll.setWidgetResizable(True)
    scroll.setFrameShape(QFrame.Shape.NoFrame)
    scroll.setProperty("role", "clear")
    scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # it follows the focus of what is in it
    scroll.setProperty("whole", whole)
    scroll.setProperty("rows", rows)
    scroll.setWidget(page)
    return scroll


def turn_over(scroll: QScrollArea, page: QWidget) -> None:
    """Another page in a scroll area. The old one ends when nothing of it is being handled any more: what is pressed on it may
    be what turns it over. What had the keyboard has it there, too."""
    had = QApplication.focusWidget()
    name = had.accessibleName() if had is not None and scroll.isAncestorOf(had) else ""
    old = scroll.takeWidget()
    scroll.setWidget(page)
    if name and had is not None and old is not None and old.isAncestorOf(had):
        heir = next((each for each in page.findChildren(type(had)) if each.accessibleName() == name), None)
        if heir is not None:
            heir.setFocus(Qt.FocusReason.OtherFocusReason)
    if old is not None:
        old.hide()
        old.deleteLater()


def emptied(layout: QLayout) -> None:
    """Takes all widgets out of a layout; they end when nothing of them is being handled any more."""
    while (item := layout.takeAt(0)) is not None:
        if (widget := item.widget()) is not None:
            widget.hide()
            widget.deleteLater()


class Pages(QStackedWidget):
    """Asks for the room of the page that is seen, and not for that of the largest."""

    def __init__(self) -> None:
        super().__init__()
        self.currentChanged.connect(lambda _: self.updateGeometry())

    def minimumSizeHint(self) -> QSize:
        page = self.currentWidget()
        return page.minimumSizeHint() if page is not None else super().minimumSizeHint()


class Segments(QWidget):
    """Pages one behind the other, turned to by a row of buttons above them, or `apart`: `bar`, to be laid elsewhere."""

    turned = Signal(int)

    def __init__(self, pages: Mapping[str, QWidget], *, apart: bool = False) -> None:
        super().__init__()
        self.bar = QWidget()
        self.pages = dict(pages)
        self.buttons: dict[str, QPushButton] = {}
        self._group, self._stack = QButtonGroup(self), Pages()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        bar = QHBoxLayout(self.bar)
        bar.setContentsMargins(0, 0, 0, 0)
        bar.setSpacing(0)
        for place, (name, page) in enumerate(pages.items()):
            button = QPushButton(name)
            button.setCheckable(True)
            button.setProperty("role", "segment")
            if apart:
                button.setMinimumWidth(button.sizeHint().width() + 20)
            self._group.addButton(button, place)
            self._stack.addWidget(page)
            self.buttons[name] = button
            bar.addWidget(button, 1)
        self._group.idClicked.connect(self._turn)
        self._group.button(0).setChecked(True)
        if not apart:
            column.addWidget(self.bar)
        column.addWidget(self._stack, 1)

    @property
    def place(self) -> int:
        """Which page is shown, from 0."""
        return self._stack.currentIndex()

    @property
    def shown(self) -> str:
        """The name of the page that is shown."""
        return list(self.pages)[self.place]

    def turn_to(self, name: str) -> None:
        self.buttons[name].click()

    @property
    def offered(self) -> list[str]:
        """The names of the pages that can be turned to."""
        return [name for name, button in self.buttons.items() if not button.isHidden()]

    def offer(self, names: Collection[str]) -> None:
        """Only these pages can be turned to; one that was shown and is none of them gives way to the first that is."""
        for name, button in self.buttons.items():
            button.setVisible(name in names)
        if self.shown not in names:
            self.turn_to(next(name for name in self.buttons if name in names))

    def _turn(self, place: int) -> None:
        self._stack.setCurrentIndex(place)
        self.turned.emit(place)


class AxisPicker(QWidget):
    """A row of buttons, one for each axis; exactly one is chosen."""

    chosen = Signal(int)

    def __init__(self, names: Sequence[str]) -> None:
        super().__init__()
        self._group = QButtonGroup(self)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(6)
        self._names: tuple[str, ...] = ()
        self._group.idClicked.connect(self.chosen)
        self.show_names(names)
        self.choose(0)

    def show_names(self, names: Sequence[str]) -> None:
        """Other axes: the buttons are made anew. The choice is to be made again."""
        if tuple(names) == self._names:
            return
        self._names = tuple(names)
        for button in self._group.buttons():
            self._group.removeButton(button)
            self._row.removeWidget(button)
            button.deleteLater()
        for slot, name in enumerate(names):
            button = QPushButton(name)
            button.setCheckable(True)
            button.setProperty("role", "touch")
            button.setFixedSize(48 if len(names) <= 4 else 40 if len(names) <= 6 else 30, 40)
            button.setAccessibleName(f"Axis {name}")
            self._group.addButton(button, slot)
            self._row.addWidget(button)

    def choose(self, slot: int) -> None:
        """Shows an axis as chosen; `chosen` is not sent."""
        self._group.button(slot).setChecked(True)
