"""A window brought inside what its screen has free."""

from __future__ import annotations

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QMainWindow


def show_fitted(window: QMainWindow) -> None:
    """Show the window, its frame included, inside what the screen has free."""
    screen = window.screen()
    if screen is not None:
        free = screen.availableGeometry()
        window.resize(min(window.width(), free.width() - 4), min(window.height(), free.height() - 32))
    window.show()
    QTimer.singleShot(200, lambda: _fit_frame(window))  # by then the window manager has put its frame round it


def _fit_frame(window: QMainWindow) -> None:
    screen = window.screen()
    if screen is None or window.isMaximized() or window.isFullScreen():
        return
    free, frame = screen.availableGeometry(), window.frameGeometry()
    wide, tall = frame.width() - window.width(), frame.height() - window.height()
    window.resize(min(window.width(), free.width() - wide), min(window.height(), free.height() - tall))
    frame = window.frameGeometry()
    window.move(
        max(free.left(), min(frame.left(), free.right() + 1 - frame.width())),
        max(free.top(), min(frame.top(), free.bottom() + 1 - frame.height())),
    )
