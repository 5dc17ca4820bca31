"""The help window: pages at the left, or what was searched for; the page itself at the right."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, QTimer, QUrl
from PyQt6.QtGui import QDesktopServices, QKeySequence, QShortcut, QTextBlock, QTextCursor, QTextDocument, QTextLength
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from nimble_quake.desktop.help import pages as help_pages
from nimble_quake.desktop.help.pages import Page
from nimble_quake.desktop.widgets.parts import worded

LIST = 270
"""Pixels of the column of pages."""
MOST_HITS = 60
NOT_HERE = "# Help\n\nThe pages did not come along with this copy. They are in `docs/` of its source."


class HelpWindow(QDialog):
    """Stays open beside the bench; nothing of it is asked of the net."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Help")
        self.resize(980, 680)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search all pages")
        self.search.setAccessibleName("Search the help")
        self.search.setClearButtonEnabled(True)
        self.list = QListWidget()
        self.list.setAccessibleName("Pages")
        self.list.setFixedWidth(LIST)
        self.list.setWordWrap(True)
        self.page = QTextBrowser()
        self.page.setOpenLinks(False)
        self.page.setAccessibleName("Page")
        place = help_pages.folder()
        self.page.setSearchPaths([str(place)] if place is not None else [])
        self.page.anchorClicked.connect(self._follow)
        self._past: list[Page] = []
        self._now: Page | None = None
        self.back = worded("Back", "To the page before (Alt+Left)", self.go_back)
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(150)
        self._wait.timeout.connect(self._fill)
        self.search.textChanged.connect(lambda _: self._wait.start())
        self.list.currentItemChanged.connect(lambda item, _: self._choose(item))
        QShortcut(QKeySequence.StandardKey.Find, self, lambda: self.search.setFocus())
        QShortcut(QKeySequence.StandardKey.Back, self, self.go_back)
        self._lay_out()
        self._list_pages()

    def _lay_out(self) -> None:
        row, left = QHBoxLayout(self), QVBoxLayout()
        row.setContentsMargins(12, 12, 12, 12)
        row.setSpacing(12)
        top = QHBoxLayout()
        top.addWidget(self.search, 1)
        top.addWidget(self.back)
        left.addLayout(top)
        left.addWidget(self.list, 1)
        row.addLayout(left)
        row.addWidget(self.page, 1)

    def _list_pages(self) -> None:
        """List all pages, none of them shown yet: the one that is asked for comes next."""
        self.list.blockSignals(True)
        self.list.clear()
        for page in help_pages.pages():
            if "#" not in page.name:
                self._add(page.title, page, "")
        self.list.blockSignals(False)
        if not self.list.count():
            self.page.setMarkdown(NOT_HERE)

    def _fill(self) -> None:
        """List the pages, or where the words that are typed stand, and show the first."""
        if words := self.search.text().strip():
            self._list_hits(words)
        else:
            self._list_pages()
        if self.list.count():
            self.list.setCurrentRow(0)

    def _list_hits(self, words: str) -> None:
        self.list.blockSignals(True)
        self.list.clear()
        for hit in help_pages.search(words)[:MOST_HITS]:
            own = hit.heading.split(" (`")[0] == hit.page.title.split("  ·  ")[0]
            head = hit.page.title if own else f"{hit.page.title}: {hit.heading}"
            self._add(f"{head}\n{hit.snippet}", hit.page, hit.heading)
        self.list.blockSignals(False)

    def _add(self, text: str, page: Page, heading: str) -> None:
        item = QListWidgetItem(text)
        item.setData(Qt.ItemDataRole.UserRole, (page, heading))
        self.list.addItem(item)

    def _choose(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            page, heading = item.data(Qt.ItemDataRole.UserRole)
            self.show_page(page, heading)

    def open_at(self, page: Page | None) -> None:
        """Show a page; none: the first."""
        self.show()
        self.raise_()
        self.activateWindow()
        if page is not None:
            self.search.clear()
            self.show_page(page)
        elif self._now is None:
            self._fill()

    def show_page(self, page: Page, heading: str = "") -> None:
        """Show a page from a heading on, the words that are searched for marked."""
        if self._now is not None and self._now is not page:
            self._past.append(self._now)
        self._now = page
        self.back.setEnabled(bool(self._past))
        self.setWindowTitle(f"Help: {page.title}")
        self._select(page)
        self.page.setMarkdown(page.text)
        self._lay_out_page()
        bar = self.page.verticalScrollBar()
        if bar is not None:
            bar.setValue(0)
        for words in (heading.replace("`", ""), *self.search.text().split()[:1]):
            if words:
                self.page.find(words)
        self._mark()

    def _select(self, page: Page) -> None:
        """Let the list say which page is shown."""
        rows = [self.list.item(row) for row in range(self.list.count())]
        listed = [item.data(Qt.ItemDataRole.UserRole)[0] if item is not None else None for item in rows]
        now = self.list.currentRow()
        if page in listed and not (0 <= now < len(listed) and listed[now] is page):
            self.list.blockSignals(True)
            self.list.setCurrentRow(listed.index(page))
            self.list.blockSignals(False)

    def _mark(self) -> None:
        """Put what was found at the top of the window."""
        bar = self.page.verticalScrollBar()
        if bar is not None and self.page.textCursor().hasSelection():
            bar.setValue(bar.value() + self.page.cursorRect().top() - 24)

    def _lay_out_page(self) -> None:
        """Room round headings and paragraphs; no picture wider than the page."""
        document, port = self.page.document(), self.page.viewport()
        if document is None or port is None:
            return
        widest = QTextLength(QTextLength.Type.FixedLength, max(200, port.width() - 40))
        block, whole = document.begin(), QTextCursor(document)
        whole.beginEditBlock()  # laid out once, not after each paragraph
        while block.isValid():
            cursor, form = QTextCursor(block), block.blockFormat()
            level = form.headingLevel()
            form.setTopMargin(16 if level else form.topMargin())
            form.setBottomMargin(6 if level else 8 if block.textList() is None else 3)
            cursor.setBlockFormat(form)
            _fit_pictures(document, block, widest)
            block = block.next()
        whole.endEditBlock()

    def go_back(self) -> None:
        """Show the page before."""
        if self._past:
            page, self._now = self._past.pop(), None
            self.show_page(page)

    def _follow(self, link: QUrl) -> None:
        """Another page is shown here; what lies elsewhere is left to the desktop."""
        name = Path(link.path()).stem
        page = help_pages.page_named(name) if link.isRelative() and link.path().endswith(".md") else None
        if page is not None:
            self.show_page(page)
        elif link.scheme() in ("https", "http"):
            QDesktopServices.openUrl(link)


def _fit_pictures(document: QTextDocument, block: QTextBlock, widest: QTextLength) -> None:
    parts = block.begin()
    while not parts.atEnd():
        part = parts.fragment()
        if part.charFormat().isImageFormat():
            cursor = QTextCursor(document)
            cursor.setPosition(part.position())
            cursor.setPosition(part.position() + part.length(), QTextCursor.MoveMode.KeepAnchor)
            image = part.charFormat().toImageFormat()
            image.setMaximumWidth(widest)
            cursor.setCharFormat(image)
        parts += 1
