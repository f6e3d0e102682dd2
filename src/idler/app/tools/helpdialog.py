"""The help: its pages at the left, what is looked for above them, the page at the right. It stays open beside the work."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QSize, Qt, QUrl
from PySide6.QtGui import QImage, QResizeEvent, QShowEvent, QTextDocument
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QListWidget, QTextBrowser, QVBoxLayout, QWidget

from idler.core.report.finder import find
from idler.core.report.manual import Page, entries, page_of
from idler.shelf.manual import page_html, picture

from ..widgets.searchline import SearchLine

SIZE = 980, 680
_LIST_WIDTH = 330
_MARGIN = 16
_STYLE = (
    "h1 { font-size: x-large; } h2 { font-size: large; } p, li { margin-bottom: 7px; } code { font-family: monospace; }"
)


class _Browser(QTextBrowser):
    """Its pictures come from the package, as wide as the page allows."""

    def loadResource(self, kind: int, name: QUrl | str) -> Any:
        file = QUrl(name).fileName()
        if kind != QTextDocument.ResourceType.ImageResource.value or not file.endswith(".png"):
            return None
        wide = max(200, self.viewport().width() - 2 * _MARGIN - 4)
        image = QImage.fromData(picture(file))
        return image.scaledToWidth(min(wide, image.width()), Qt.TransformationMode.SmoothTransformation)


class HelpDialog(QDialog):
    """pages: all of them."""

    def __init__(self, parent: QWidget, pages: Sequence[Page]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Help")
        self.resize(QSize(*SIZE).boundedTo(parent.size()))
        self._pages, self._entries = pages, list(entries(pages))
        self._listed: list[Page] = []
        self.page = pages[0]
        self.list = QListWidget()
        self.list.setFixedWidth(_LIST_WIDTH)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.line = SearchLine(self.list, "a word …")
        self.line.setFixedWidth(_LIST_WIDTH)
        self.line.textChanged.connect(self._look)
        self.words = QLabel("")
        self.words.setProperty("role", "small")
        self.words.setFixedWidth(_LIST_WIDTH)
        self.words.setWordWrap(True)
        self.browser = _Browser()
        self.browser.setVerticalScrollBarPolicy(
            Qt.ScrollBarPolicy.ScrollBarAlwaysOn
        )  # so that pictures keep their width
        self.browser.setOpenLinks(False)
        self.browser.anchorClicked.connect(lambda url: self.show_page(url.path()))
        self.browser.setAccessibleName("Page of the help")
        self.browser.document().setDocumentMargin(_MARGIN)
        self.browser.document().setDefaultStyleSheet(_STYLE)
        left = QVBoxLayout()
        left.addWidget(self.line)
        left.addWidget(self.list, 1)
        left.addWidget(self.words)
        row = QHBoxLayout(self)
        row.addLayout(left)
        row.addWidget(self.browser, 1)
        self._look("")
        self.list.currentRowChanged.connect(self._turn)

    def show_page(self, key: str) -> None:
        """A page by its key or by the word of its procedure."""
        self.line.clear()
        self.list.setCurrentRow(self._listed.index(page_of(self._pages, key)))

    def _look(self, typed: str) -> None:
        """Those that have all words; all of them where none is typed."""
        found = [page_of(self._pages, entry.help) for entry in find(self._entries, typed, len(self._entries))]
        self._listed = list(self._pages) if not typed.strip() else found
        self.list.blockSignals(True)
        self.list.clear()
        self.list.addItems(
            [f"{'      ' if page.part and not typed.strip() else ''}{page.title}" for page in self._listed]
        )
        self.list.blockSignals(False)
        self.words.setText("" if self._listed else "No page has all these words. Take fewer, or others.")
        if self._listed:
            self.list.setCurrentRow(self._listed.index(self.page) if self.page in self._listed else 0)
            self._turn(self.list.currentRow())

    def _turn(self, row: int) -> None:
        if 0 <= row < len(self._listed) and self._listed[row] != self.page:
            self.page = self._listed[row]
            if self.isVisible():
                self.browser.setHtml(page_html(self.page))

    def showEvent(self, event: QShowEvent) -> None:
        """A page is laid out once its width is known."""
        super().showEvent(event)
        self.browser.setHtml(page_html(self.page))

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Pictures are as wide as the page."""
        super().resizeEvent(event)
        if self.isVisible() and event.size().width() != event.oldSize().width():
            at = self.browser.verticalScrollBar().value()
            self.browser.setHtml(page_html(self.page))
            self.browser.verticalScrollBar().setValue(at)
