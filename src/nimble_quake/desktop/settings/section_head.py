"""The heads of sections of settings: lines that fold, or chips of which one is open."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QGridLayout, QSizePolicy, QWidget

from nimble_quake.desktop.access.bases import SpokenButton
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted

DOT = 24.0
"""Where the name begins, and the dot ends."""


class SectionName(SpokenButton):
    """What opens a section: a click, Return or Space; the key O switches one that can be switched."""

    folded = pyqtSignal(bool)
    switched = pyqtSignal()

    def __init__(self, name: str, region: str, height: int, *, switches: bool) -> None:
        super().__init__()
        self.name, self.region, self.switches = name, region, switches
        self.open, self.on, self.summary = False, True, ""
        self.setFixedHeight(height)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(name)
        self.clicked.connect(lambda: self.folded.emit(self.open))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.folded.emit(self.open)
        elif event.key() == Qt.Key.Key_O and self.switches:
            self.switched.emit()
        else:
            super().keyPressEvent(event)


class SectionHead(SectionName):
    """A line with a fold and, where it can be switched, a dot to click."""

    def __init__(self, name: str, region: str, *, switches: bool) -> None:
        super().__init__(name, region, 24, switches=switches)

    def sizeHint(self) -> QSize:
        return QSize(120, 24)

    def show_state(self, open: bool, on: bool, summary: str) -> None:
        """Show whether it is unfolded and switched on, and what it is set to."""
        if (open, on, summary) == (self.open, self.on, self.summary):
            return
        self.open, self.on, self.summary = open, on, summary
        state = f"{'open' if open else 'folded'}{'' if not self.switches else ', on' if on else ', off'}"
        self.setAccessibleDescription(f"{state}: {summary}")
        tip = "Click to fold or unfold" + (
            "; click the dot, or press O, to switch it on or off" if self.switches else ""
        )
        self.setToolTip(f"{self.name}: {summary or 'as it comes'}. {tip}.")
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        if self.switches and 12 <= event.position().x() < DOT:
            self.switched.emit()
        else:
            self.folded.emit(self.open)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(colour("line"), 1))
        painter.drawLine(QPointF(0, 0.5), QPointF(self.width(), 0.5))
        middle = self.height() / 2 + 0.5
        painter.setPen(QPen(colour("chalk" if self.hasFocus() else "quiet"), 1.4))
        points = [(1, -2), (5, 2), (9, -2)] if self.open else [(3, -4), (7, 0), (3, 4)]
        painter.drawPolyline(QPolygonF([QPointF(x, middle + y) for x, y in points]))
        left = 14.0
        if self.switches:
            painter.setPen(QPen(colour(self.region if self.on else "quiet"), 1.4))
            painter.setBrush(colour(self.region) if self.on else Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(18, middle), 3.2, 3.2)
            left = DOT + 2
        painter.setFont(font(12, strong=True))
        painter.setPen(colour("text"))
        wide = QFontMetricsF(font(12, strong=True)).horizontalAdvance(self.name)
        across = int(Qt.AlignmentFlag.AlignVCenter)
        painter.drawText(QRectF(left, 0, wide + 2, self.height()), across, self.name)
        painter.setFont(font(11))
        painter.setPen(colour("quiet"))
        room = self.width() - left - wide - 12
        if room > 20 and not self.open:
            text = QFontMetricsF(font(11)).elidedText(self.summary, Qt.TextElideMode.ElideRight, room)
            right = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            painter.drawText(QRectF(left + wide + 8, 0, room, self.height()), right, text)


COLUMNS, HEIGHT, GAP = 3, 22, 3


class SectionChip(SectionName):
    """A small button with a dot where its section acts."""

    def __init__(self, name: str, words: str, region: str, *, switches: bool) -> None:
        super().__init__(name, region, HEIGHT, switches=switches)
        self.words, self.acts = words, False
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)

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
