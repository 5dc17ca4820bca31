"""The status line: what is under the pointer and its hint, the frame's time, memory."""

from __future__ import annotations

import time

from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QCursor, QPainter
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QLabel, QMessageBox, QSizePolicy, QWidget

from nimble_quake.desktop.lines.work_line import WorkLine
from nimble_quake.desktop.theme.look import font, tone
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.desktop.widgets.parts import quiet
from nimble_quake.raster.threads.memory import memory_mb
from nimble_quake.render.shown.request import BenchResponse
from nimble_quake.session.work import Work


class StatusLine(QWidget):
    """Shows the tooltip's words of what the pointer is on, so that nobody has to wait for them."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(20)
        self.name, self.hint, self.cost = QLabel(), quiet(""), quiet("")
        self.name.setFont(font(12, strong=True))
        self.hint.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.work = WorkLine()
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 0, 8, 0)
        row.setSpacing(10)
        row.addWidget(self.name)
        row.addWidget(self.hint, 1)
        row.addWidget(self.work)
        row.addWidget(self.cost)
        self._said = QTimer(self)
        self._said.setSingleShot(True)
        self._said.timeout.connect(lambda: self._show("", ""))
        self._counted = 0.0
        self._under: QWidget | None = None
        self._look = QTimer(self)
        self._look.setInterval(120)
        self._look.timeout.connect(self._look_under)
        self._look.start()

    def _look_under(self) -> None:
        """Show the tip of what the pointer rests on. Looking now and then spares every event a filter in Python."""
        under = QApplication.widgetAt(QCursor.pos())
        if under is self._under or self._said.isActive():
            return
        self._under = under
        parent = under.parentWidget() if under is not None else None
        tip = (under.toolTip() if under is not None else "") or (parent.toolTip() if parent is not None else "")
        named = under.accessibleName() if under is not None and tip else ""
        self._show(named, tip.split("\n")[0])  # it ends with what it belongs to

    def _show(self, name: str, hint: str) -> None:
        self.name.setText(name)
        self.name.setVisible(bool(name))
        self.hint.setText(hint)
        tone(self.hint, "quiet")

    def say(self, text: str, role: str = "text") -> None:
        """Say something for a while."""
        self._show("", text)
        tone(self.hint, role)
        self._said.start(6000)

    def report_problem(self, text: str) -> None:
        """Say what went wrong, here and in a box that waits."""
        self.say(text, "fault_text")
        box = QMessageBox(QMessageBox.Icon.NoIcon, "Nimble Quake", text, QMessageBox.StandardButton.Ok, self.window())
        box.open()

    def keep(self, widget: QWidget) -> None:
        """Give a widget a place of its own, before what frames cost."""
        row = self.layout()
        assert isinstance(row, QHBoxLayout)
        row.insertWidget(row.count() - 1, widget)

    def keep_first(self, widget: QWidget) -> None:
        """Give a widget the place at the left; the tips make room for it."""
        row = self.layout()
        assert isinstance(row, QHBoxLayout)
        row.insertWidget(0, widget)

    def show_work(self, work: Work) -> None:
        """Show work that is under way until it ends."""
        self.work.follow(work)

    def show_cost(self, response: BenchResponse) -> None:
        """Show what a frame took, and the memory held."""
        now = time.monotonic()
        if now - self._counted > 0.5 and not response.request.coarse:
            self._counted = now
            self.cost.setText(f"frame in {response.milliseconds:.0f} ms · {memory_mb():.0f} MB")

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), colour("window"))
