"""A grid of starters, each with its moving picture, that is used by mouse and keys."""

from __future__ import annotations

import time
from pathlib import Path

from PyQt6.QtCore import QMimeData, QPointF, QRect, QRectF, QSize, Qt, QTimer, QUrl, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QDrag,
    QHideEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPen,
    QResizeEvent,
    QShowEvent,
)
from PyQt6.QtWidgets import QApplication, QScrollArea

from nimble_quake.desktop.access.bases import SpokenList
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.raster.threads.memory import give_back
from nimble_quake.session.starting.moving_pictures import COLUMNS, FRAMES, HEIGHT, RATE, WIDTH
from nimble_quake.session.starting.starters import OWN, Starter

GAP, WORDS = 10, 36
WITH_KEYS = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.MetaModifier
LEAST = 164
"""Pixels a cell is wide at least."""
LOADED = 4
"""Moving pictures that are read in one turn of the event loop, so that none waits for all."""


class StarterGrid(SpokenList):
    """Cells as many beside each other as fit. Arrow keys choose, Return uses, a double click too."""

    chosen = pyqtSignal(object)
    used = pyqtSignal(object)
    menu_asked = pyqtSignal(object, object)
    """(starter, where on the screen)."""
    typed = pyqtSignal(str)
    """A letter: of a word to find one by."""

    def __init__(self) -> None:
        super().__init__()
        self.starters: tuple[Starter, ...] = ()
        self.current: Starter | None = None
        self._sheets: dict[Path, QImage] = {}
        self._pressed: QPointF | None = None
        self._began = time.monotonic()
        self._tick = QTimer(self)
        self._tick.setInterval(1000 // (4 * RATE))
        self._tick.timeout.connect(self._move_on)
        self._frame = 0
        self.moved_on = 0
        """How many times its pictures were painted anew so far because they moved on."""
        self._load = QTimer(self)
        self._load.setInterval(0)
        self._load.timeout.connect(self._load_some)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Starters")

    def show_starters(self, starters: tuple[Starter, ...]) -> None:
        """Show these, the chosen one stays where it is among them."""
        self.starters = starters
        if self.current not in starters:
            self.choose(starters[0] if starters else None)
        self._say()
        self._fit()
        self._load.start()
        self.update()

    def choose(self, starter: Starter | None) -> None:
        """Choose one."""
        self.current = starter
        self.setAccessibleDescription(f"{starter.title}: {starter.note}" if starter is not None else "")
        self._say()
        self.chosen.emit(starter)
        self.update()

    def _say(self) -> None:
        now = self.starters.index(self.current) if self.current in self.starters else -1
        self.say_items([f"{starter.title}: {starter.note}" for starter in self.starters], now)

    def _move_on(self) -> None:
        if self._frame_now() != self._frame:
            self.update()

    def _frame_now(self) -> int:
        return int((time.monotonic() - self._began) * RATE) % FRAMES

    @property
    def loaded(self) -> int:
        """How many moving pictures are in memory."""
        return len(self._sheets)

    @property
    def loading(self) -> bool:
        """Whether pictures are still being read."""
        return self._load.isActive()

    def _load_some(self) -> None:
        missing = [each for each in self.starters if each.picture not in self._sheets]
        for starter in missing[:LOADED]:
            self._sheets[starter.picture] = QImage(str(starter.picture))
        if not missing:
            self._load.stop()

    # Geometry

    def _across(self) -> int:
        return max(1, (self.width() + GAP) // (LEAST + GAP))

    def _size(self) -> tuple[float, float]:
        """The width of a cell and the height of its picture."""
        across = self._across()
        wide = (self.width() - GAP * (across - 1)) / across
        return wide, wide * HEIGHT / WIDTH

    def cell(self, number: int) -> QRectF:
        """Return where a cell lies."""
        (wide, tall), across = self._size(), self._across()
        return QRectF((number % across) * (wide + GAP), (number // across) * (tall + WORDS + GAP), wide, tall + WORDS)

    def _fit(self) -> None:
        rows = -(-len(self.starters) // self._across())
        self.setMinimumHeight(round(rows * (self._size()[1] + WORDS + GAP)))

    def sizeHint(self) -> QSize:
        return QSize(880, 600)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._fit()

    def showEvent(self, event: QShowEvent | None) -> None:
        self._tick.start()
        self._load.start()

    def hideEvent(self, event: QHideEvent | None) -> None:
        """The pictures are let go: all together they take a hundred megabytes, and are read again in no time."""
        self._tick.stop()
        self._load.stop()
        self._sheets.clear()
        give_back()

    # Mouse and keys

    def _at(self, event: QMouseEvent) -> Starter | None:
        numbers = (n for n in range(len(self.starters)) if self.cell(n).contains(event.position()))
        return next((self.starters[n] for n in numbers), None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        found = self._at(event) if event is not None else None
        self._pressed = event.position() if event is not None else None
        if found is not None:
            self.choose(found)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """One's own is dragged out as its file."""
        pressed = event is not None and event.buttons() & Qt.MouseButton.LeftButton
        if event is None or not pressed or self._pressed is None or self.current is None or self.current.sort != OWN:
            return
        if (event.position() - self._pressed).manhattanLength() < QApplication.startDragDistance():
            return
        self._pressed = None
        data, drag = QMimeData(), QDrag(self)
        data.setUrls([QUrl.fromLocalFile(str(self.current.file))])
        drag.setMimeData(data)
        drag.exec(Qt.DropAction.CopyAction)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        found = self._at(event) if event is not None else None
        if found is not None:
            self.used.emit(found)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is None:
            return
        numbers = (n for n in range(len(self.starters)) if self.cell(n).contains(QPointF(event.pos())))
        found = next((self.starters[n] for n in numbers), None)
        if found is not None:
            self.choose(found)
            self.menu_asked.emit(found, event.globalPos())

    def forget_picture(self, picture: Path) -> None:
        """Read a moving picture anew: it was drawn meanwhile."""
        self._sheets.pop(picture, None)
        self._load.start()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        across = self._across()
        steps = {
            Qt.Key.Key_Left: -1,
            Qt.Key.Key_Right: 1,
            Qt.Key.Key_Up: -across,
            Qt.Key.Key_Down: across,
            Qt.Key.Key_Home: -len(self.starters),
            Qt.Key.Key_End: len(self.starters),
        }
        if event.key() in steps and self.starters:
            now = self.starters.index(self.current) if self.current in self.starters else 0
            to = min(max(now + steps[Qt.Key(event.key())], 0), len(self.starters) - 1)
            self.choose(self.starters[to])
            self._scroll_to(to)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.current is not None:
            self.used.emit(self.current)
        elif event.text().strip() and not event.modifiers() & WITH_KEYS:
            self.typed.emit(event.text())
        else:
            super().keyPressEvent(event)

    def _scroll_to(self, number: int) -> None:
        port = self.parentWidget()
        area = port.parentWidget() if port is not None else None
        if isinstance(area, QScrollArea):
            middle = self.cell(number).center().toPoint()
            area.ensureVisible(middle.x(), middle.y(), 0, round(self.cell(number).height() / 2) + GAP)

    # Painting

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if not self.starters:
            painter.setFont(font())
            painter.setPen(colour("quiet"))
            painter.drawText(QRectF(0, 8, self.width(), 24), "Nothing is called so. Try a word of what it looks like.")
        seen = self.visibleRegion().boundingRect()
        frame = self._frame_now()
        self.moved_on += frame != self._frame
        self._frame = frame
        for number, starter in enumerate(self.starters):
            cell = self.cell(number)
            if cell.intersects(QRectF(seen)):
                self._paint_cell(painter, cell, starter, frame)

    def _paint_cell(self, painter: QPainter, cell: QRectF, starter: Starter, frame: int) -> None:
        picture = QRectF(cell.x(), cell.y(), cell.width(), cell.height() - WORDS)
        painter.fillRect(picture, colour("well"))
        sheet = self._sheets.get(starter.picture)
        if sheet is not None and not sheet.isNull():
            of = QRect((frame % COLUMNS) * WIDTH, (frame // COLUMNS) * HEIGHT, WIDTH, HEIGHT)
            painter.drawImage(picture, sheet, QRectF(of))
        painter.setFont(font(12))
        painter.setPen(colour("text"))
        words = QRectF(cell.x() + 4, picture.bottom() + 2, cell.width() - 8, 17)
        metrics = painter.fontMetrics()
        elided = metrics.elidedText(starter.title, Qt.TextElideMode.ElideRight, int(words.width()))
        painter.drawText(words, elided)
        painter.setFont(font(11))
        painter.setPen(colour("quiet"))
        note = painter.fontMetrics().elidedText(starter.note, Qt.TextElideMode.ElideRight, int(words.width()))
        painter.drawText(words.translated(0, 15), note)
        if starter is self.current:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(colour("chalk" if self.hasFocus() else "brass"), 2))
            painter.drawRect(cell.adjusted(1, 1, -1, 2))
