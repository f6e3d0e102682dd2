"""Text, fields and pictures grow with the window, so that a large screen is read from further away.

Everything is laid out in pixels of the usual size. As each widget is about to be shown for the first time, its fixed sizes, its
layout and its own font are multiplied by the factor in force, and again from those first figures when the factor changes. The
style sheet and the pictures do the same for themselves.
"""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QEvent, QObject, QSize, Qt
from PySide6.QtGui import QFont
from PySide6.QtWidgets import QApplication, QBoxLayout, QGridLayout, QLayout, QWidget

USUAL = (1280, 800)  # pixels for which everything was laid out
SMALLEST = (1180, 660)
STEP = 8  # parts of one by which it grows, so that a window that is dragged is not laid out for each pixel
LARGEST = 2.0
_UNBOUND = 16777215  # QWIDGETSIZE_MAX

_factor = 1.0


def factor() -> float:
    """How much larger than usual everything is."""
    return _factor


def px(pixels: float) -> int:
    """A size in force, for what is set while the window is shown."""
    return round(pixels * _factor)


def grown(font: QFont) -> QFont:
    """A font in force, for what is set while the window is shown."""
    made = QFont(font)
    made.setPixelSize(max(1, round(font.pixelSize() * _factor)))
    return made


def factor_for(width: int, height: int, *, large: bool = False) -> float:
    """What a window of this size has room for. large: as large as it can be whole, instead of as usual."""
    across, down = SMALLEST if large else USUAL
    step = 2 * STEP if large else STEP
    return max(1.0, min(LARGEST, int(min(width / across, height / down) * step) / step))


@dataclass(frozen=True)
class _First:
    """The sizes that a widget was made with. font: pixels; 0 where it has none of its own."""

    least: QSize
    most: QSize
    font: int


_KEPT = "first sizes"  # a property of the widget or layout itself: what Python holds of it may come and go


class _Growing(QObject):
    """Watches the application for widgets that are about to be shown, while they are to be larger than they were made."""

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Polish and isinstance(watched, QWidget):
            _grow(watched)
        return False


_growing: list[_Growing] = []


def set_factor(wanted: float, app: QApplication) -> bool:
    """Lays everything out anew; False where it is as large already."""
    global _factor
    if wanted == _factor:
        return False
    _factor = wanted
    if not _growing:
        _growing.append(_Growing())
    app.removeEventFilter(_growing[0])
    if wanted != 1.0:
        app.installEventFilter(_growing[0])
    for window in app.topLevelWidgets():
        for widget in (window, *window.findChildren(QWidget)):
            _grow(widget)
    return True


def fix(widget: QWidget, *, width: int = 0, height: int = 0, loose: bool = False) -> None:
    """Another fixed width or height, in pixels of the usual size, for a widget that is shown already. loose: or more."""
    first = _first(widget)
    least, most = QSize(first.least), QSize(first.most)
    if width:
        least.setWidth(width)
        most.setWidth(_UNBOUND if loose else width)
    if height:
        least.setHeight(height)
        most.setHeight(_UNBOUND if loose else height)
    fixed = _First(least, most, first.font)
    widget.setProperty(_KEPT, fixed)
    _size(widget, fixed)


def _first(widget: QWidget) -> _First:
    kept = widget.property(_KEPT)
    if not isinstance(kept, _First):
        own = widget.testAttribute(Qt.WidgetAttribute.WA_SetFont) and not widget.isWindow()
        kept = _First(widget.minimumSize(), widget.maximumSize(), widget.font().pixelSize() if own else 0)
        widget.setProperty(_KEPT, kept)
    return kept


def _grow(widget: QWidget) -> None:
    first = _first(widget)
    if not widget.isWindow():
        _size(widget, first)
    if first.font > 0:
        font = widget.font()
        font.setPixelSize(px(first.font))
        widget.setFont(font)
    if (layout := widget.layout()) is not None:
        _spread(layout)


def _size(widget: QWidget, first: _First) -> None:
    widget.setMinimumSize(px(first.least.width()), px(first.least.height()))
    widget.setMaximumSize(_most(first.most.width()), _most(first.most.height()))


def _spread(layout: QLayout) -> None:
    """Margins and spacings of a layout and of those inside it: these first, for one without a spacing has that around it."""
    for place in range(layout.count()):
        inner = layout.itemAt(place).layout()  # type: ignore[union-attr]
        if inner is not None:
            _spread(inner)
    kept = layout.property(_KEPT)
    if kept is None:
        m = layout.contentsMargins()
        spacings = (
            (layout.horizontalSpacing(), layout.verticalSpacing())
            if isinstance(layout, QGridLayout)
            else (layout.spacing(),)
        )
        kept = [m.left(), m.top(), m.right(), m.bottom(), *spacings]
        layout.setProperty(_KEPT, kept)
    left, top, right, bottom, *between = (px(size) for size in kept)
    layout.setContentsMargins(left, top, right, bottom)
    if isinstance(layout, QGridLayout):
        layout.setHorizontalSpacing(between[0])
        layout.setVerticalSpacing(between[1])
    elif isinstance(layout, QBoxLayout):
        layout.setSpacing(between[0])


def _most(pixels: int) -> int:
    return pixels if pixels >= _UNBOUND else px(pixels)
