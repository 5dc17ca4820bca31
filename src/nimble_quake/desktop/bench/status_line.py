"""The status line: what is under the pointer and its hint, the frame's time, memory."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QEvent, QObject, QTimer
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QLabel, QSizePolicy, QWidget

from nimble_quake.desktop.bench.parts import quiet
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.render.bench import BenchResponse


def memory_mb() -> float:
    """Return the memory this program holds, in MB."""
    try:
        pages = int(Path("/proc/self/statm").read_text(encoding="ascii").split()[1])
    except (OSError, ValueError, IndexError):
        return 0.0
    return pages * 4096 / 1e6


class StatusLine(QWidget):
    """Shows the tooltip's words of what the pointer is on, so that nobody has to wait for them."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(20)
        self.name, self.hint, self.cost = QLabel(), quiet(""), quiet("")
        self.name.setFont(font(12, strong=True))
        self.hint.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 0, 8, 0)
        row.setSpacing(10)
        row.addWidget(self.name)
        row.addWidget(self.hint, 1)
        row.addWidget(self.cost)
        self._said = QTimer(self)
        self._said.setSingleShot(True)
        self._said.timeout.connect(lambda: self._show("", ""))
        app = QApplication.instance()
        if app is not None:
            app.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Enter and isinstance(watched, QWidget):
            parent = watched.parentWidget()
            tip = watched.toolTip() or (parent.toolTip() if parent is not None else "")
            if tip and not self._said.isActive():
                self._show(watched.accessibleName() or "", tip.split("\n")[0])
        return False

    def _show(self, name: str, hint: str) -> None:
        self.name.setText(name)
        self.name.setVisible(bool(name))
        self.hint.setText(hint)
        self.hint.setStyleSheet(f"color: {colour('quiet').name()}")

    def say(self, text: str, role: str = "text") -> None:
        """Say something for a while."""
        self._show("", text)
        self.hint.setStyleSheet(f"color: {colour(role).name()}")
        self._said.start(6000)

    def show_cost(self, response: BenchResponse) -> None:
        """Show what a frame took, and the memory held."""
        self.cost.setText(f"frame in {response.milliseconds:.0f} ms · {memory_mb():.0f} MB")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        QPainter(self).fillRect(self.rect(), colour("window"))
