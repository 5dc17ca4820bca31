"""What of a seamless loop does not close, each with a cure; a click on one goes to it."""

from __future__ import annotations

import threading
from collections.abc import Callable

from PyQt6.QtGui import QCloseEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from nimble_quake.desktop.aside import on_window_thread
from nimble_quake.session.moving import seamless
from nimble_quake.session.moving.seamless import Leak
from nimble_quake.session.state import Session
from nimble_quake.shot.paths import value_name

WAITING = "Comparing the end with the beginning …"


class SeamlessDialog(QDialog):
    """Stays open beside the bench, and looks again after every change."""

    def __init__(self, session: Session, go: Callable[[str], None], parent: QWidget) -> None:
        super().__init__(parent)
        self.session, self._go = session, go
        self.setWindowTitle("Seamless loop")
        self.setMinimumWidth(460)
        self._look, self._leaks = 0, list[Leak]()
        self.switch = QCheckBox("Close over the shot's length: waves, jitter, noise and turns come round")
        self.switch.setChecked(session.shot.seamless)
        self.switch.clicked.connect(lambda: seamless.toggle(session))
        self.said = QLabel(WAITING)
        self.said.setWordWrap(True)
        self.list = QListWidget()
        self.list.setAccessibleName("What does not close")
        self.list.setWordWrap(True)
        self.list.itemActivated.connect(lambda item: self._take(self.list.row(item)))
        self.list.itemClicked.connect(lambda item: self._take(self.list.row(item)))
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(14, 14, 14, 12)
        outer.setSpacing(10)
        for widget in (self.switch, self.said, self.list, buttons):
            outer.addWidget(widget)
        self._hand_over = on_window_thread(self, self._show)
        session.changed.connect(self.look)
        self.look()

    def look(self, *_: object) -> None:
        """Compare the end with the beginning, aside."""
        if not self.isVisible() and self._look:
            return
        self._look += 1
        number, shot, engine, hand_over = self._look, self.session.shot, self.session.engine, self._hand_over
        self.switch.setChecked(shot.seamless)

        def work() -> None:
            found = seamless.leaks(engine, shot, lambda: number == self._look)
            if number == self._look:
                hand_over(number, found)

        threading.Thread(target=work, name="comparing ends", daemon=True).start()

    def _show(self, number: int, leaks: list[Leak]) -> None:
        if number != self._look:
            return
        self._leaks = leaks
        self.list.clear()
        count = len(leaks)
        self.said.setText(f"{count} that do not close:" if count else "All of it closes: the end is the beginning.")
        for leak in leaks:
            is_value = bool(value_name(leak.path))
            name = self.session.label_of(leak.path) if is_value else self.session.name_of(leak.path)
            self.list.addItem(QListWidgetItem(f"{name}: {leak.cure}"))

    def _take(self, row: int) -> None:
        if 0 <= row < len(self._leaks):
            self._go(self._leaks[row].path)

    def done(self, result: int) -> None:
        self._look += 1
        self.session.changed.disconnect(self.look)
        super().done(result)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.done(0)
