"""The look: tokens for paper and night, fonts, and the style sheet made from them. Nothing else names a colour."""

from __future__ import annotations

import re
from dataclasses import dataclass, fields
from functools import lru_cache
from pathlib import Path

from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication, QWidget

from . import growth


@dataclass(frozen=True)
class Tokens:
    """Colours as #RRGGBB. on_*: text on that ground."""

    paper: str
    panel: str
    line: str
    ink: str
    soft: str
    brass: str
    pale_brass: str
    petrol: str
    pale_petrol: str
    indigo: str
    pale_indigo: str
    vermilion: str
    header: str
    header_line: str
    on_header: str
    on_header_soft: str
    on_vermilion: str
    rails: str
    metal: str


PAPER = Tokens(
    paper="#F3EFE6", panel="#FBF9F4", line="#D6CFBF", ink="#1E2B33", soft="#56636B", brass="#8A5C1C",
    pale_brass="#E9D9BC", petrol="#0E6470", pale_petrol="#D3E6E6", indigo="#4A4DA6", pale_indigo="#E2E2F4",
    vermilion="#C2341A", header="#1E2B33", header_line="#5E6B73", on_header="#FBF9F4", on_header_soft="#B9C3C8",
    on_vermilion="#FFFFFF", rails="#E9E3D4", metal="#CFC6B2",
)  # fmt: skip
NIGHT = Tokens(
    paper="#12181B", panel="#1B2326", line="#37434A", ink="#E9E5DA", soft="#A1AEB4", brass="#DDAE66",
    pale_brass="#4B3B20", petrol="#5CBFC9", pale_petrol="#173A40", indigo="#AEB0F5", pale_indigo="#2C2D58",
    vermilion="#C8402A", header="#0A0E10", header_line="#4A565D", on_header="#F3EFE6", on_header_soft="#A9B4BA",
    on_vermilion="#FFFFFF", rails="#172024", metal="#4A5358",
)  # fmt: skip

TEXT_PAIRS = (
    ("ink", "paper"), ("ink", "panel"), ("ink", "rails"), ("soft", "paper"), ("soft", "panel"), ("soft", "rails"),
    ("petrol", "panel"), ("indigo", "panel"), ("indigo", "pale_indigo"), ("brass", "panel"), ("brass", "paper"),
    ("on_header", "header"), ("on_header_soft", "header"), ("on_vermilion", "vermilion"), ("ink", "pale_brass"),
    ("ink", "pale_petrol"),
)  # fmt: skip

_current, _applied = PAPER, False


def tokens() -> Tokens:
    """The tokens in use."""
    return _current


def color(name: str, alpha: float = 1.0) -> QColor:
    """A token as a colour."""
    return _color(getattr(_current, name), alpha)


@lru_cache(200)
def _color(told: str, alpha: float) -> QColor:
    made = QColor(told)
    made.setAlphaF(alpha)
    return made


def is_night() -> bool:
    return _current is NIGHT


@lru_cache
def _family(wanted: tuple[str, ...]) -> str:
    there = set(QFontDatabase.families())
    return next((name for name in wanted if name in there), wanted[-1])


def text_font(pixels: int = 13, *, bold: bool = False) -> QFont:
    font = QFont(_family(("Inter", "DejaVu Sans")))
    font.setPixelSize(pixels)
    font.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    return font


def figure_font(pixels: int = 14, *, bold: bool = False) -> QFont:
    """Figures of one width each, so that columns align on the decimal point."""
    font = QFont(_family(("Inter", "DejaVu Sans Mono")))
    font.setFeature(QFont.Tag("tnum"), 1)
    font.setFeature(QFont.Tag("zero"), 0)
    font.setPixelSize(pixels)
    font.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    return font


def apply(app: QApplication, night: bool) -> None:
    """Puts tokens, palette and fonts in force for the whole application, and the style sheet for every dressed window."""
    global _current, _applied
    wanted = NIGHT if night else PAPER
    if wanted is _current and _applied:
        return
    _current, _applied = wanted, True
    if app.style().name() != "fusion":
        app.setStyle("Fusion")
    app.setFont(growth.grown(text_font()))
    palette = QPalette()
    for role, name in (
        (QPalette.ColorRole.Window, "paper"), (QPalette.ColorRole.Base, "panel"), (QPalette.ColorRole.Button, "panel"),
        (QPalette.ColorRole.WindowText, "ink"), (QPalette.ColorRole.Text, "ink"), (QPalette.ColorRole.ButtonText, "ink"),
        (QPalette.ColorRole.AlternateBase, "paper"), (QPalette.ColorRole.ToolTipBase, "panel"),
        (QPalette.ColorRole.ToolTipText, "ink"), (QPalette.ColorRole.Highlight, "petrol"),
        (QPalette.ColorRole.HighlightedText, "panel"), (QPalette.ColorRole.PlaceholderText, "soft"),
        (QPalette.ColorRole.Link, "petrol"), (QPalette.ColorRole.LinkVisited, "petrol"),
    ):  # fmt: skip
        palette.setColor(role, color(name))
    app.setPalette(palette)
    _dress_all(app)


def grow(app: QApplication, factor: float) -> None:
    """Everything this much larger than usual."""
    if growth.set_factor(factor, app):
        app.setFont(growth.grown(text_font()))
        _dress_all(app)


def _dress_all(app: QApplication) -> None:
    for window in app.topLevelWidgets():
        if window.property(_DRESSED):
            window.setStyleSheet(_sheet())


def dress(window: QWidget) -> None:
    """Gives a window the style sheet; its dialogs take it from there.

    The sheet is the window's and not the application's: a page is then styled once, when it is put into its window, and
    not anew at each level of its making, which takes three times as long.
    """
    window.setProperty(_DRESSED, True)
    window.setStyleSheet(_sheet())


def _sheet() -> str:
    tick = _ICONS / f"tick-{'night' if is_night() else 'paper'}.svg"
    sheet = _TEMPLATE.replace("@tick;", f'url("{tick.as_posix()}");')
    sheet = _SIZE.sub(lambda size: f"{growth.px(int(size[1]))}px", sheet)
    for field in sorted(fields(Tokens), key=lambda field: -len(field.name)):
        sheet = sheet.replace(f"@{field.name};", getattr(_current, field.name) + ";")
        sheet = sheet.replace(f"@{field.name} ", getattr(_current, field.name) + " ")
    return sheet


_DRESSED = "dressed"
_ICONS = Path(__file__).parent / "icons"
_SIZE = re.compile(r"\b(\d\d*)px")
_TEMPLATE = """
QMainWindow, QDialog, #stage { background: @paper; }
QToolTip { background: @panel; color: @ink; border: 1px solid @line; padding: 4px; }
QLabel[role="title"] { font-size: 15px; font-weight: 600; }
QLabel[role="heading"] { font-weight: 600; }
QLabel[role="head"] { font-weight: 600; font-size: 12px; color: @brass; margin-top: 3px; }
QLabel[role="soft"] { color: @soft; }
QLabel[role="small"] { color: @soft; font-size: 12px; }
QLabel[role="tiny"] { color: @soft; font-size: 10px; }
QLabel[role="warn"] { color: @brass; }
QLabel[role="edited"] { color: @indigo; }
QLabel[role="badge"] { background: @ink; color: @panel; border-radius: 3px; font-weight: 700; }
QFrame[role="dark"] { background: @header; border-radius: 5px; }
QFrame[role="dark"] QLabel { color: @on_header; }
QFrame[role="card"] { background: @panel; border: 1px solid @line; border-radius: 5px; }
QFrame[role="hairline"] { background: @line; border: none; max-height: 1px; min-height: 1px; }
QPushButton { background: @panel; border: 1px solid @soft; border-radius: 5px; padding: 5px 12px; min-height: 28px; }
QPushButton:hover { background: @pale_petrol; }
QPushButton:pressed, QPushButton:checked { background: @ink; color: @panel; border-color: @ink; }
QPushButton:disabled { color: @soft; border-color: @line; }
QPushButton:focus { border: 2px solid @petrol; padding: 4px 11px; }
QPushButton[role="main"] { background: @ink; color: @panel; border-color: @ink; font-weight: 600; }
QPushButton[role="main"]:hover { background: @petrol; }
QPushButton[role="main"]:disabled { background: @line; color: @soft; border-color: @line; }
QPushButton[role="quiet"] { border: none; background: transparent; color: @petrol; padding: 4px 6px; min-height: 20px;
  font-weight: 600; }
QPushButton[role="quiet"]:focus { border: 1px solid @petrol; }
QPushButton[role="cell"] { border: none; background: transparent; padding: 0; min-height: 14px; text-align: left; }
QPushButton[role="cell"]::menu-indicator { image: none; }
MachineButton, QPushButton[tall="true"] { min-height: 28px; }
QLineEdit[tall="true"] { min-height: 30px; }
QSpinBox[tall="true"] { min-height: 36px; }
QPushButton[role="hold"] { padding: 2px 4px; border-radius: 18px; min-height: 34px; }
QComboBox { min-height: 38px; }
QComboBox[role="row"] { min-height: 24px; }
StopButton { min-height: 68px; min-width: 68px; border: none; padding: 0; }
QPushButton[role="hold"]:pressed { background: @petrol; border-color: @petrol; }
QPushButton[role="segment"] { border: 1px solid @line; border-radius: 0; padding: 4px 2px; min-height: 30px; }
QPushButton[role="segment"]:focus { border: 2px solid @petrol; padding: 3px 1px; }
QToolButton[role="picture"] { background: @panel; border: 1px solid @line; border-radius: 4px; padding: 4px 2px; }
QToolButton[role="picture"]:checked { background: @pale_petrol; border: 2px solid @petrol; padding: 3px 1px; font-weight: 600; }
QToolButton[role="picture"]:focus { border: 2px solid @petrol; padding: 3px 1px; }
QScrollArea[role="clear"], QScrollArea[role="clear"] > QWidget > QWidget { background: transparent; border: none; }
QPushButton[role="touch"] { padding: 4px 7px; min-height: 30px; }
QPushButton[role="touch"]:focus { padding: 3px 6px; }
QPushButton[role="armed"] { background: @pale_brass; border: 2px solid @brass; font-weight: 600; }
#header { background: @header; }
#header QLabel { color: @on_header; }
#header QLabel[role="soft"] { color: @on_header_soft; }
#header QPushButton { background: transparent; color: @on_header; border: 1px solid @header_line; }
#header QPushButton:hover { background: @header_line; }
#header QPushButton:disabled { color: @header_line; }
#header QPushButton:focus { border: 2px solid @on_header; padding: 4px 11px; }
#header QPushButton#stop { background: @vermilion; color: @on_vermilion; border: none; font-size: 16px; font-weight: 700; }
#header QPushButton#stop:pressed { background: @on_vermilion; color: @vermilion; }
#header QPushButton#machine { border: none; font-size: 15px; font-weight: 600; text-align: left; padding: 4px 8px; }
#header QPushButton::menu-indicator { image: none; }
#header QPushButton[role="standing"] { border: none; color: @on_header_soft; padding: 4px 8px; text-align: left; }
#header QPushButton[role="standing"]:focus { border: 2px solid @on_header; padding: 2px 6px; }
#header QLabel[role="loud"] { background: @vermilion; color: @on_vermilion; font-weight: 600; }
#header QLabel[role="loud"] { border-radius: 5px; padding: 3px 8px; }
#margin { background: @panel; border-left: 1px solid @line; }
#margin QScrollArea, #margin QScrollArea > QWidget > QWidget { background: transparent; border: none; }
#next { background: @panel; border: none; border-bottom: 1px solid @line; }
#margin QScrollArea:focus { border: 2px solid @petrol; }
#rails { background: @rails; border-top: 2px solid @soft; }
#rails QScrollArea, #rails QScrollArea > QWidget > QWidget { background: transparent; border: none; }
#notice { background: @pale_brass; border: 1px solid @brass; border-radius: 5px; }
#notice[kind="fault"] { background: @vermilion; border-color: @vermilion; }
#notice[kind="fault"] QLabel { color: @on_vermilion; }
#notice QPushButton { min-height: 14px; padding: 1px 6px; }
#notice[kind="fault"] QPushButton { color: @on_vermilion; }
#notice[kind="plain"] { background: @pale_petrol; border-color: @petrol; }
#incident { background: @vermilion; border: none; border-radius: 0; }
#incident QLabel { color: @on_vermilion; }
#incident QPushButton { background: transparent; color: @on_vermilion; border: 1px solid @on_vermilion; }
#incident QPushButton:hover { background: @on_vermilion; color: @vermilion; }
#incident[kind="warn"] { background: @pale_brass; border-bottom: 2px solid @brass; }
#incident[kind="warn"] QLabel { color: @ink; }
#incident[kind="warn"] QPushButton { color: @ink; border-color: @brass; }
#field { background: @panel; border: 1px solid @line; border-radius: 4px; }
#field:hover { border-color: @soft; }
#field[lit="true"] { border: 2px solid @petrol; }
#field[standing="edited"] { background: @pale_indigo; border: 1px solid @indigo; border-left: 4px solid @indigo; }
#field[standing="edited"][lit="true"] { border: 2px solid @indigo; border-left: 4px solid @indigo; }
#field[standing="waiting"] { border: 2px dashed @indigo; }
#field[standing="absent"] { border: 1px dotted @soft; background: transparent; }
#field[standing="absent"] QLineEdit, #field[standing="absent"] QComboBox { color: @soft; }
#field[standing="in_force"] { border-left: 4px solid @petrol; }
#field[bad="true"] { background: @pale_brass; border: 2px solid @brass; }
#field QLineEdit, #field QComboBox { background: transparent; border: none; padding: 0 2px; min-height: 0; }
#field[standing="edited"] QLineEdit, #field[standing="edited"] QComboBox { color: @indigo; }
#field[standing="edited"] QPushButton[role="cell"] { color: @indigo; }
#field QPushButton[role="cell"] { color: @ink; }
#field QLabel { color: @soft; font-size: 12px; }
#field QComboBox::drop-down { border: none; width: 0; }
#field QPushButton { border: none; background: transparent; padding: 0; min-height: 16px; color: @soft; }
#field QPushButton:hover { color: @ink; }
QComboBox QAbstractItemView { background: @panel; border: 1px solid @soft; }
QComboBox QAbstractItemView { selection-background-color: @petrol; selection-color: @panel; }
QLineEdit { background: @panel; border: 1px solid @line; border-radius: 4px; padding: 4px 6px; }
QLineEdit:focus, QPlainTextEdit:focus { border: 2px solid @petrol; }
QPlainTextEdit, QListWidget, QTreeWidget { background: @panel; border: 1px solid @line; border-radius: 4px; }
QHeaderView::section { background: @paper; border: none; border-bottom: 1px solid @line; padding: 4px; color: @soft; }
QListWidget::item { padding: 5px; }
QTreeWidget::item { padding: 2px 4px; }
QListWidget::item:selected, QTreeWidget::item:selected { background: @pale_petrol; color: @ink; }
QCheckBox { spacing: 8px; }
QCheckBox::indicator { width: 16px; height: 16px; border: 1px solid @soft; border-radius: 3px; background: @panel; }
QCheckBox::indicator:checked { background: @petrol; border-color: @petrol; image: @tick; }
QCheckBox::indicator:disabled { border-color: @line; }
QCheckBox::indicator:checked:disabled { background: @soft; }
QRadioButton::indicator { width: 14px; height: 14px; border: 1px solid @soft; border-radius: 8px; background: @panel; }
QRadioButton::indicator:checked { width: 6px; height: 6px; border: 5px solid @petrol; }
QMenu { background: @panel; border: 1px solid @soft; padding: 4px; }
QMenu::item { padding: 6px 26px 6px 14px; }
QMenu::item:selected { background: @pale_petrol; color: @ink; }
QMenu::item:disabled { color: @soft; }
QMenu::separator { height: 1px; background: @line; margin: 4px; }
QScrollBar:vertical { background: transparent; width: 8px; }
QScrollBar::handle:vertical { background: @line; border-radius: 4px; min-height: 24px; }
QScrollBar:horizontal { background: transparent; height: 8px; }
QScrollBar::handle:horizontal { background: @line; border-radius: 4px; min-width: 24px; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
"""
