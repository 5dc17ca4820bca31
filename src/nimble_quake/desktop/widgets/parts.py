"""Small parts the regions share: heads, buttons, view bars."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QMenu, QPushButton, QSizePolicy, QToolButton, QWidget

from nimble_quake.desktop.theme.look import font, give_icon, tone
from nimble_quake.desktop.theme.roles import REGION_TEXT, colour
from nimble_quake.desktop.widgets.painting import painted

BODY = 206
"""The height of a bay's lower part, in a window of usual height."""


class Region(QWidget):
    """A panel with its region's colour as a thin top edge."""

    def __init__(self, region: str, name: str) -> None:
        super().__init__()
        self.region = region
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self._lower: QWidget | None = None

    def fit_lower(self, window_height: int) -> None:
        """Give the lower part less height in a low window, so that the viewer keeps some."""
        if self._lower is not None:
            self._lower.setFixedHeight(BODY if window_height >= 640 else max(120, BODY - (640 - window_height)))

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), colour("panel"))
        painter.fillRect(0, 0, self.width(), 2, colour(self.region))


def title(text: str, region: str) -> QLabel:
    """Return a region's name in its colour."""
    label = QLabel(text)
    label.setFont(font(13, strong=True))
    tone(label, REGION_TEXT[region])
    return label


def heading(text: str) -> QLabel:
    """Return the heading of a list or of settings."""
    label = QLabel(text)
    label.setFont(font(12, strong=True))
    return label


def quiet(text: str, size: int = 12) -> QLabel:
    """Return second words."""
    label = QLabel(text)
    label.setFont(font(size))
    tone(label, "quiet")
    return label


class Elided(QLabel):
    """Second words that give way: what there is no room for is in their tooltip, and widens nothing."""

    def __init__(self) -> None:
        super().__init__()
        self.setFont(font(12))
        tone(self, "quiet")

    def minimumSizeHint(self) -> QSize:
        return QSize(0, super().minimumSizeHint().height())

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        words = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        self.setToolTip(self.text() if words != self.text() else "")
        painter.setPen(self.palette().color(self.foregroundRole()))
        painter.drawText(self.rect(), int(Qt.AlignmentFlag.AlignVCenter), words)


def bare(icon_name: str, tip: str, action: Callable[[], object] | None = None, *, toggles: bool = False) -> QToolButton:
    """Return a button that is only an icon."""
    button = QToolButton()
    button.setProperty("bare", "true")
    give_icon(button, icon_name)
    button.setIconSize(QSize(16, 16))
    button.setFixedSize(26, 24)
    button.setToolTip(tip)
    button.setAccessibleName(tip.split(".")[0])
    button.setCheckable(toggles)
    if action is not None:
        button.clicked.connect(lambda: action())
    return button


def worded(text: str, tip: str, action: Callable[[], object], icon_name: str = "") -> QPushButton:
    """Return a small button with words."""
    button = QPushButton(text)
    if icon_name:
        give_icon(button, icon_name)
        button.setIconSize(QSize(13, 13))
    button.setFixedHeight(22)
    button.setToolTip(tip)
    button.setAccessibleName(text)  # its words go where there is no room for them
    button.clicked.connect(lambda: action())
    return button


def linked(words: str, tip: str, action: Callable[[], object]) -> QToolButton:
    """Return a button that is only underlined words; it is reached by Tab and takes no keys by a click."""
    button = QToolButton()
    button.setProperty("bare", "true")
    button.setText(words)
    button.setToolTip(tip)
    button.setAccessibleName(words)
    underlined = font(11)
    underlined.setUnderline(True)
    button.setFont(underlined)
    button.setStyleSheet("padding: 0; margin: 0;")
    button.setFixedHeight(18)
    button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    button.clicked.connect(lambda: action())
    return button


def line(*widgets: QWidget | int | None, height: int = 28, margins: tuple[int, int] = (8, 8)) -> QWidget:
    """Return widgets in a row of a fixed height; a number is a gap, None a stretch."""
    holder = QWidget()
    holder.setFixedHeight(height)
    row = QHBoxLayout(holder)
    row.setContentsMargins(margins[0], 0, margins[1], 0)
    row.setSpacing(4)
    for widget in widgets:
        if widget is None:
            row.addStretch(1)
        elif isinstance(widget, int):
            row.addSpacing(widget)
        else:
            row.addWidget(widget, 0, Qt.AlignmentFlag.AlignVCenter)
    return holder


QUESTION = "What is this?"
ABOUT = "helpPage"
"""A widget's property: what it is about, and all that lies in it: a help page's name, or "family/kind"."""


def add_question(menu: QMenu, ask: Callable[[str], object], about: str) -> None:
    """Add *What is this?* to a menu. about: a path of the shot, or the name of a help page."""
    if not menu.isEmpty():
        menu.addSeparator()
    action = menu.addAction(QUESTION, partial(ask, about))
    if action is not None:
        action.setToolTip("Opens the help on it, as F1 does for what lies under the pointer")
