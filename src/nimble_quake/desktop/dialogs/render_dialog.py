"""The render dialog: what, where, how, how long it takes, and a way to stop."""

from __future__ import annotations

import threading
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QEventLoop, Qt, QUrl
from PyQt6.QtGui import QCloseEvent, QDesktopServices
from PyQt6.QtWidgets import (
    QApplication,
    QDialog,
    QHBoxLayout,
    QLabel,
    QMessageBox,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from nimble_quake.desktop.aside import on_window_thread
from nimble_quake.desktop.dialogs.render_fields import RenderFields
from nimble_quake.desktop.dialogs.render_outputs import RenderOutputs
from nimble_quake.desktop.theme.look import tone
from nimble_quake.errors import BadInput, Cancelled, NimbleQuakeError
from nimble_quake.export.order import Order, is_folder, refuse_impossible
from nimble_quake.export.outputs import file_beside, ordered, output_of
from nimble_quake.export.rendering import Maker, Progress, Rendered, render
from nimble_quake.farm.where import Where
from nimble_quake.render.engine import Engine
from nimble_quake.session.queue.queue import Queue
from nimble_quake.session.state import Session
from nimble_quake.session.work import duration

LONGEST_END = 5.0
"""Seconds that the end of the program waits for a render to stop."""


def _keep_room(widget: QWidget) -> None:
    """Let a widget keep its room while it is hidden, so that nothing jumps when it is shown."""
    policy = widget.sizePolicy()
    policy.setRetainSizeWhenHidden(True)
    widget.setSizePolicy(policy)


class RenderDialog(QDialog):
    """Renders on a thread of its own; the bench stays usable."""

    def __init__(self, session: Session, queue: Queue, cost: float, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self._queue = session, queue
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None
        self._machines: Where | None = None
        self.result_files: list[Path] = []
        self.setWindowTitle("Render")
        self.setMinimumWidth(600)
        self.fields = RenderFields(session, cost)
        self.fields.changed.connect(self._estimate)
        self.outputs = RenderOutputs(lambda: output_of(self.fields.order()))
        self.outputs.chosen.connect(self.fields.say)
        self.outputs.changed.connect(self._estimate)
        self.outputs.wrong.connect(self._report_problem)
        self._lay_out()
        self._progress_later = on_window_thread(self, self._show_progress)
        self._end_later = on_window_thread(self, self._show_end)
        self._estimate()

    def _lay_out(self) -> None:
        self.said = QLabel()
        self.said.setWordWrap(True)
        self.said.setFixedHeight(50)
        self.said.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setFixedHeight(8)
        _keep_room(self.bar)
        self.bar.hide()
        self.go = QPushButton("Render")
        self.go.setProperty("main", "true")
        self.go.setDefault(True)
        self.go.clicked.connect(self.start)
        self.later = QPushButton("Add to queue")
        self.later.setToolTip("Render it in the background while you go on; the shot is kept as it is now")
        self.later.clicked.connect(self.add_to_queue)
        self.cancel = QPushButton("Close")
        self.cancel.clicked.connect(self._cancel_or_close)
        self.show_folder = QPushButton("Show in folder")
        self.show_folder.clicked.connect(self._show_folder)
        _keep_room(self.show_folder)
        self.show_folder.hide()
        buttons = QHBoxLayout()
        buttons.addWidget(self.show_folder)
        buttons.addStretch(1)
        buttons.addWidget(self.cancel)
        buttons.addWidget(self.later)
        buttons.addWidget(self.go)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(16, 16, 16, 14)
        outer.setSpacing(12)
        outer.addWidget(self.outputs)
        outer.addWidget(self.fields)
        outer.addWidget(self.bar)
        outer.addWidget(self.said)
        outer.addLayout(buttons)

    def _estimate(self) -> None:
        """Say how many frames there are, how long they may take, and what is off."""
        said, warns = self.fields.estimate()
        more = len(self.outputs.others)
        tone(self.said, "fault_text" if warns else "")
        self.said.setText(f"{said}\nand {more} {'file' if more == 1 else 'files'} more" if more else said)
        self.go.setText(f"Render {more + 1}" if more else "Render")
        for button in (self.go, self.later):
            button.setEnabled(self.fields.count() > 0 and not self.running())

    def _checked(self) -> list[Order]:
        """What is asked for; nothing where any of it cannot be rendered, which is said."""
        own, taken = self.fields.order(), set[Path]()
        orders = [own]
        try:
            if not is_folder(own.path.parent):
                raise BadInput(f"The folder {own.path.parent} is not there", cure="choose another")
            for output in self.outputs.others:
                taken.add(orders[-1].path)
                path = file_beside(own.path, output, taken)
                orders.append(ordered(output, own.shot, path, own.first, own.last))
            for order in orders:
                refuse_impossible(order)
            self._machines = self.fields.machines.where()
        except NimbleQuakeError as wrong:
            self._report_problem(wrong.line())
            return []
        self.outputs.remember()
        return orders

    def add_to_queue(self) -> None:
        """Let the queue render it, and close."""
        orders = self._checked()
        if not orders:
            return
        try:
            for order in orders:
                self._queue.add(order, self.session.engine, self.session.path, self.fields.machines.where())
            self._queue.start()
        except (NimbleQuakeError, OSError) as wrong:
            self._report_problem(wrong.line() if isinstance(wrong, NimbleQuakeError) else str(wrong))
            return
        names = ", ".join(order.path.name for order in orders)
        self.session.message.emit(f"{names} {'waits' if len(orders) == 1 else 'wait'} in the queue")
        self.accept()

    def start(self) -> None:
        """Begin to render."""
        orders = self._checked()
        if not orders:
            return
        self._stop.clear()
        self.go.setEnabled(False)
        self.later.setEnabled(False)
        self.cancel.setText("Cancel")
        if self._machines is not None:
            self.said.setText("Connecting to the machines …")
        self.bar.show()
        self.bar.setValue(0)
        self.show_folder.hide()
        self._thread = threading.Thread(target=self._work, args=(orders,), name="render", daemon=True)
        self._thread.start()

    def _work(self, orders: list[Order]) -> None:
        try:
            engine = Engine(media=self.session.engine.media)
            if self._machines is None:
                self._end_later([self._rendered(orders, number, engine) for number in range(len(orders))])
                return
            from nimble_quake.farm.connecting import connected  # an extra, and slow to import

            with connected(self._machines, engine) as farm:
                found = [self._rendered(orders, number, engine, farm) for number in range(len(orders))]
            self._end_later(found)
        except NimbleQuakeError as wrong:
            self._end_later(wrong)
        except Exception as wrong:  # told in the dialog; the bench goes on
            self._end_later(NimbleQuakeError(f"the render failed ({type(wrong).__name__}: {wrong})"))

    def _rendered(self, orders: list[Order], number: int, engine: Engine, by: Maker | None = None) -> Rendered:
        order = orders[number]
        which = f"{order.path.name}, {number + 1} of {len(orders)}: " if len(orders) > 1 else ""
        return render(order, engine, partial(self._progress_later, which), self._stop.is_set, by=by)

    def _show_progress(self, which: str, progress: Progress) -> None:
        self.bar.setRange(0, progress.total)
        self.bar.setValue(progress.done)
        self.said.setText(f"{which}Frame {progress.done} of {progress.total}, {duration(progress.left)} left")

    def _show_end(self, found: object) -> None:
        self._thread = None
        self.go.setEnabled(True)
        self.later.setEnabled(True)
        self.cancel.setText("Close")
        self.bar.hide()
        if isinstance(found, list):
            self.result_files = [file for rendered in found for file in rendered.files]
            problems = [problem for rendered in found for problem in rendered.problems]
            notes = f" {len(problems)} note(s): {problems[0].line()}" if problems else ""
            what = ", ".join(
                each.files[0].name if len(each.files) == 1 else f"{len(each.files)} pictures" for each in found
            )
            tone(self.said, "")
            self.said.setText(f"Done: {what}.{notes}")
            self.show_folder.show()
        elif isinstance(found, Cancelled):
            self.said.setText("Stopped; nothing was written.")
        elif isinstance(found, NimbleQuakeError):
            self._report_problem(found.line())

    def _report_problem(self, text: str) -> None:
        tone(self.said, "fault_text")
        self.said.setText(text)

    def _show_folder(self) -> None:
        if self.result_files:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(self.result_files[0].parent)))

    def running(self) -> bool:
        """Return whether a render is under way."""
        return self._thread is not None

    def ask_to_stop(self) -> bool:
        """Ask whether to stop the render that is under way; stops it and waits. Returns whether none is left."""
        if not self.running():
            return True
        buttons = QMessageBox.StandardButton
        asked = QMessageBox.question(
            self,
            "Rendering",
            "Stop the render? What was rendered so far is thrown away.",
            buttons.Discard | buttons.Cancel,
            buttons.Cancel,
        )
        if asked != buttons.Discard:
            return False
        self.stop()
        while self.running():
            QApplication.processEvents(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents, 50)
        return True

    def stop(self) -> None:
        """Stop the render that is under way; its end is told when it comes."""
        self._stop.set()
        self.said.setText("Stopping …")

    def end(self) -> None:
        """Stop, and wait a little until nothing half-made is left: the program ends."""
        thread = self._thread
        self._stop.set()
        if thread is not None:
            thread.join(LONGEST_END)

    def _cancel_or_close(self) -> None:
        if self.running():
            self.stop()
        else:
            self.close()

    def reject(self) -> None:
        """Escape: close, but never leave a render behind that nobody can see."""
        if self.ask_to_stop():
            super().reject()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is not None and not self.ask_to_stop():
            event.ignore()
            return
        super().closeEvent(event)
