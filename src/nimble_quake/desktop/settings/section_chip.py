"""The heads of sections as chips: all in view, a dot where a section acts, one open at a time."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QGridLayout, QSizePolicy, QWidget

from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted

COLUMNS, HEIGHT, GAP = 3, 22, 3


class SectionChip(QWidget):
    """A click, Return or Space opens its section, or shuts it; the key O switches one that can be switched."""

    folded = pyqtSignal(bool)
    switched = pyqtSignal()

    def __init__(self, name: str, words: str, region: str, *, switches: bool) -> None:
        super().__init__()
        self.name, self.words, self.region, self.switches = name, words, region, switches
        self.open, self.on, self.acts, self.summary = False, True, False, ""
        self.setFixedHeight(HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(name)

    def sizeHint(self) -> QSize:
        return QSize(62, HEIGHT)

    def show_state(self, open: bool, on: bool, summary: str, acts: bool = False) -> None:
        """Show whether it is open, whether anything in it acts, and in its tip what it is set to."""
        if (open, on, summary, acts) == (self.open, self.on, self.summary, self.acts):
            return
        self.open, self.on, self.summary, self.acts = open, on, summary, acts
        self.setAccessibleDescription(f"{'open' if open else 'shut'}{', acts' if acts else ''}: {summary}")
        key = "; O switches it" if self.switches else ""
        self.setToolTip(f"{self.name}: {summary or 'as it comes'}. Click to open or shut{key}.")
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.folded.emit(self.open)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.folded.emit(self.open)
        elif event.key() == Qt.Key.Key_O and self.switches:
            self.switched.emit()
        else:
            super().keyPressEvent(event)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rect = QRectF(0.5, 0.5, self.width() - 1, self.height() - 1)
        painter.setPen(QPen(colour("chalk"), 1) if self.hasFocus() else Qt.PenStyle.NoPen)
        painter.setBrush(colour(self.region, 120) if self.open else colour("raised"))
        painter.drawRoundedRect(rect, 3, 3)
        if self.open:  # told by more than colour
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(self.region))
            painter.drawRect(QRectF(0, self.height() - 2, self.width(), 2))
        room = self.width() - 8.0 - (9 if self.acts else 0)
        text = QFontMetricsF(font(12)).elidedText(self.words, Qt.TextElideMode.ElideRight, room)
        painter.setFont(font(12))
        painter.setPen(colour("text"))
        painter.drawText(QRectF(5, 0, room + 2, self.height()), int(Qt.AlignmentFlag.AlignVCenter), text)
        if self.acts:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(self.region))
            painter.drawEllipse(QPointF(self.width() - 8, self.height() / 2), 2.8, 2.8)


class SectionChips(QWidget):
    """Chips side by side."""

    def __init__(self, chips: Sequence[SectionChip]) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 2, 0, 3)
        grid.setSpacing(GAP)
        for number, chip in enumerate(chips):
            grid.addWidget(chip, number // COLUMNS, number % COLUMNS)
        for column in range(COLUMNS):
            grid.setColumnStretch(column, 1)
