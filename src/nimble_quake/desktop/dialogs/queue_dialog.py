"""The render queue: the orders there are, how far they are, and what can be done with them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QModelIndex, QRect, QSize, Qt, QTimer, QUrl
from PyQt6.QtGui import QDesktopServices, QKeySequence, QPainter, QShortcut
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.errors import BadInput
from nimble_quake.export.formats import format_named
from nimble_quake.session.queue.queue import Entry, Queue
from nimble_quake.session.queue.stored import DONE, FAILED, FINISHED, INCOMPLETE, RUNNING
from nimble_quake.session.work import duration

ROW = 54
ENTRY, ID = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1
LOOKED_EVERY = 300
"""Milliseconds."""
STATES = {
    "waiting": "Waiting",
    "paused": "Paused",
    RUNNING: "Rendering",
    DONE: "Done",
    FAILED: "Failed",
    INCOMPLETE: "Frames are missing",
}
EMPTY = "Nothing waits. *Add to queue* in the render dialog puts a shot here; it is rendered while you go on."


def state_words(entry: Entry) -> str:
    """Return how far an order is."""
    status, count = entry.status, entry.order.count
    if entry.state == RUNNING:
        left = f", {duration(status.left)} left" if status.left is not None else ""
        return f"{status.done} of {count}{left}"
    begun = f", {status.done} of {count}" if status.done and entry.state not in FINISHED else ""
    return STATES[entry.state] + begun


def second_words(entry: Entry) -> str:
    """Return what is asked for, or what went wrong."""
    order, status = entry.order, entry.status
    if entry.state == FAILED:
        return status.line
    if entry.state == INCOMPLETE:
        numbers = sorted(status.failures)
        shown = ", ".join(str(number) for number in numbers[:6]) + (" …" if len(numbers) > 6 else "")
        return f"frame{'s' * (len(numbers) > 1)} {shown}: {status.failures[numbers[0]]}"
    size = f"{round(order.scale * 100)} %, " if order.scale != 1 else ""
    every = f", every {order.every}" if order.every > 1 else ""
    what = f", {order.words}" if order.words else ""
    return f"{order.name}{what}: {_label(order.kind)}, {size}frames {order.first} to {order.last}{every}"


def _label(kind: str) -> str:
    try:
        return format_named(kind).label
    except BadInput:
        return kind


class OrderDelegate(QStyledItemDelegate):
    """Paints an order: its file, how far it is, what is asked for, and a bar."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(0, ROW)

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        entry = index.data(ENTRY)
        if painter is None or not isinstance(entry, Entry):
            return
        view = option.widget
        chosen = isinstance(view, QListWidget) and view.currentRow() == index.row()
        area = option.rect
        painter.save()
        painter.fillRect(area, colour("raised" if chosen else "panel"))
        if chosen:
            painter.fillRect(QRect(area.left(), area.top(), 3, area.height()), colour("chalk"))
        wrong = entry.state in (FAILED, INCOMPLETE)
        words = state_words(entry)
        inner = area.adjusted(14, 6, -12, -12)
        painter.setFont(font(12))
        room = painter.fontMetrics().horizontalAdvance(words) + 16
        self._text(
            painter,
            inner,
            words,
            "fault_text" if wrong else "good" if entry.state == DONE else "text",
            Qt.AlignmentFlag.AlignRight,
        )
        painter.setFont(font(12, strong=True))
        self._text(painter, inner.adjusted(0, 0, -room, 0), entry.order.file.name, "text")
        painter.setFont(font(11))
        self._text(
            painter,
            inner.adjusted(0, 18, 0, 0),
            second_words(entry),
            "fault_text" if wrong else "text" if chosen else "quiet",
        )
        bar = QRect(inner.left(), area.bottom() - 9, inner.width(), 4)
        painter.fillRect(bar, colour("plot"))
        fraction = 1.0 if entry.state == DONE else entry.status.done / max(1, entry.order.count)
        role = {DONE: "good", RUNNING: "chalk"}.get(entry.state, "fault" if wrong else "rail")
        painter.fillRect(QRect(bar.left(), bar.top(), round(bar.width() * fraction), bar.height()), colour(role))
        painter.fillRect(QRect(area.left(), area.bottom(), area.width(), 1), colour("line"))
        painter.restore()

    def _text(
        self, painter: QPainter, area: QRect, text: str, role: str, side: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignLeft
    ) -> None:
        painter.setPen(colour(role))
        fitted = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideMiddle, area.width())
        painter.drawText(area, side | Qt.AlignmentFlag.AlignTop, fitted)


class QueueDialog(QDialog):
    """Stays open beside the bench; looks at the queue several times a second."""

    def __init__(self, queue: Queue, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.queue = queue
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)  # and its timer with it
        self.setWindowTitle("Render queue")
        self.resize(620, 400)
        self.list = QListWidget()
        self.list.setAccessibleName("Orders")
        self.list.setItemDelegate(OrderDelegate(self.list))
        self.list.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.list.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.list.currentRowChanged.connect(lambda _: self._allow())
        moves = self.list.model()
        assert moves is not None
        moves.rowsMoved.connect(self._dropped)
        self.said = QLabel(EMPTY)
        self.said.setWordWrap(True)
        self.said.setTextFormat(Qt.TextFormat.MarkdownText)
        self._make_buttons()
        self._lay_out()
        self._look = QTimer(self)
        self._look.setInterval(LOOKED_EVERY)
        self._look.timeout.connect(self.look)
        self._look.start()
        self.look()
        self.list.setFocus()

    def _make_buttons(self) -> None:
        def button(text: str, tip: str, action: Callable[[], None]) -> QPushButton:
            made = QPushButton(text)
            made.setToolTip(tip)
            made.setAutoDefault(False)
            made.clicked.connect(lambda: action())
            return made

        self.up = button("Up", "Render it earlier (Alt and up)", lambda: self._move(-1))
        self.down = button("Down", "Render it later (Alt and down)", lambda: self._move(1))
        self.pause = button("Pause", "Let it wait; what was rendered stays", self._pause)
        self.missing = button("Render the missing ones", "Go on with what failed; what was rendered stays", self._again)
        self.folder = button("Show in folder", "Open the folder of its files", self._show_folder)
        self.remove = button("Remove", "Take it out of the queue; finished files stay (Delete)", self._remove)
        for keys, pressed in (("Alt+Up", self.up), ("Alt+Down", self.down), ("Del", self.remove)):
            QShortcut(QKeySequence(keys), self).activated.connect(pressed.click)
        self.clear = button("Remove the finished", "Take all that is done out of the queue; files stay", self._clear)
        self.wait = QCheckBox("Let the whole queue wait")
        self.wait.setToolTip("Nothing is rendered until this is switched off; what was rendered stays")
        self.wait.clicked.connect(self._wait)
        self.pause.setFixedWidth(self.pause.fontMetrics().horizontalAdvance("Go on") + 40)

    def _lay_out(self) -> None:
        head, foot = QHBoxLayout(), QHBoxLayout()
        head.addWidget(self.wait)
        head.addStretch(1)
        head.addWidget(self.clear)
        for widget in (self.up, self.down, self.pause, self.missing):
            foot.addWidget(widget)
        foot.addStretch(1)
        foot.addWidget(self.folder)
        foot.addWidget(self.remove)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(14, 12, 14, 12)
        outer.setSpacing(10)
        outer.addLayout(head)
        outer.addWidget(self.said)
        outer.addWidget(self.list, 1)
        outer.addLayout(foot)

    def look(self) -> None:
        """Show the queue as it is; the chosen order stays chosen."""
        entries, chosen = self.queue.entries(), self.chosen()
        self.wait.setChecked(self.queue.paused)
        shown = [self.list.item(row) for row in range(self.list.count())]
        if [item.data(ID) for item in shown if item] != [entry.id for entry in entries]:
            self.list.clear()
            for entry in entries:
                fresh = QListWidgetItem()
                fresh.setData(ID, entry.id)
                self.list.addItem(fresh)
            row = next((n for n, entry in enumerate(entries) if chosen and entry.id == chosen.id), 0)
            self.list.setCurrentRow(row if entries else -1)
        for row, entry in enumerate(entries):
            item = self.list.item(row)
            if item is not None and item.data(ENTRY) != entry:
                item.setData(ENTRY, entry)
                item.setText("")
                item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{entry.order.file.name}: {state_words(entry)}")
                item.setToolTip(f"{entry.order.file}\n{second_words(entry)}")
        self.said.setVisible(not entries)
        self._allow()

    def chosen(self) -> Entry | None:
        """Return the order that is chosen."""
        item = self.list.currentItem()
        found = item.data(ENTRY) if item is not None else None
        return found if isinstance(found, Entry) else None

    def _allow(self) -> None:
        """Let only what makes sense for the chosen order be pressed."""
        entry, row, count = self.chosen(), self.list.currentRow(), self.list.count()
        finished = entry is not None and entry.finished
        self.up.setEnabled(entry is not None and row > 0)
        self.down.setEnabled(entry is not None and row < count - 1)
        self.pause.setEnabled(entry is not None and not finished)
        self.pause.setText("Go on" if entry is not None and entry.wish.paused and not finished else "Pause")
        self.missing.setEnabled(entry is not None and entry.state in (FAILED, INCOMPLETE))
        self.folder.setEnabled(entry is not None and entry.order.file.parent.is_dir())
        self.remove.setEnabled(entry is not None)
        self.clear.setEnabled(any(found.state == DONE for found in self._shown()))

    def _shown(self) -> list[Entry]:
        items = [self.list.item(row) for row in range(self.list.count())]
        return [item.data(ENTRY) for item in items if item is not None and isinstance(item.data(ENTRY), Entry)]

    def _move(self, by: int) -> None:
        entry = self.chosen()
        if entry is not None:
            self.queue.move(entry.id, by)
            self.look()

    def _dropped(self, _parent: QModelIndex, first: int, _last: int, _to: QModelIndex, row: int) -> None:
        """An order was dragged to another place."""
        by = row - first if row < first else row - first - 1
        id = self.list.item(first + by)
        if id is not None and by:
            self.queue.move(str(id.data(ID)), by)

    def _pause(self) -> None:
        entry = self.chosen()
        if entry is not None:
            self.queue.pause(entry.id, paused=not entry.wish.paused)
            self._go_on()

    def _wait(self) -> None:
        self.queue.pause_all(paused=self.wait.isChecked())
        self._go_on()

    def _again(self) -> None:
        entry = self.chosen()
        if entry is not None:
            self.queue.again(entry.id)
            self._go_on()

    def _remove(self) -> None:
        entry = self.chosen()
        if entry is not None:
            self.queue.cancel(entry.id)
            self.look()

    def _clear(self) -> None:
        for entry in self._shown():
            if entry.state == DONE:
                self.queue.cancel(entry.id)
        self.look()

    def _go_on(self) -> None:
        self.queue.start()
        self.look()

    def _show_folder(self) -> None:
        entry = self.chosen()
        if entry is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(Path(entry.order.file).parent)))
