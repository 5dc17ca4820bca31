"""Work under way, in the status line: what it is, how far, the time left, and a way to stop it."""

from __future__ import annotations

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QWidget

from nimble_quake.desktop.widgets.parts import bare
from nimble_quake.session.work import Work, duration

WIDEST = 9999
"""There is room for so many."""


class WorkLine(QWidget):
    """Looks at the work now and then; hidden while there is none."""

    def __init__(self) -> None:
        super().__init__()
        self._work: Work | None = None
        self.said, self.bar = QLabel(), QProgressBar()
        self.halt = bare("close", "Stop this work: nothing is changed", self.stop)
        self.bar.setTextVisible(False)
        self.bar.setFixedSize(90, 6)
        self.halt.setFixedSize(22, 20)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        for widget in (self.said, self.bar, self.halt):
            row.addWidget(widget)
        self.hide()
        self._look = QTimer(self)
        self._look.setInterval(150)
        self._look.timeout.connect(self._show)

    def follow(self, work: Work) -> None:
        """Show this work from now on."""
        self._work = work
        widest = _said(work.title, WIDEST, WIDEST, 599)
        self.said.setFixedWidth(self.said.fontMetrics().horizontalAdvance(widest))
        self._show()
        self.show()
        self._look.start()

    def stop(self) -> None:
        """Stop the work that is shown."""
        if self._work is not None:
            self._work.stop()
            self._show()

    def _show(self) -> None:
        work = self._work
        if work is None or work.ended or work.stopped:
            self._look.stop()
            self.hide()
            return
        self.said.setText(_said(work.title, work.done, work.total, work.left))
        self.bar.setRange(0, work.total)
        self.bar.setValue(work.done)


def _said(title: str, done: int, total: int, left: float) -> str:
    return f"{title}: {done} of {total}, {duration(left)} left"
