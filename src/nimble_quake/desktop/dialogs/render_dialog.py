"""The render dialog: what, where, how, how long it takes, and a way to stop."""

from __future__ import annotations

import threading
from pathlib import Path

from PyQt6.QtCore import QEventLoop, Qt, QUrl, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QDesktopServices
from PyQt6.QtWidgets import (
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMessageBox,
    QProgressBar,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from nimble_quake.desktop.theme.look import tone
from nimble_quake.errors import Cancelled, NimbleQuakeError
from nimble_quake.export.data import TITLES, WHOLE, WORDS, coarseness
from nimble_quake.export.formats import Format, formats
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import Progress, Rendered, render
from nimble_quake.render.job import Engine
from nimble_quake.session.state import Session
from nimble_quake.session.work import duration

OF_MAPS = ("map", "normal")
"""What is rendered of a map; the rest is of a plate."""
SIZES = {"Full": 1.0, "Half": 0.5, "Third": 1 / 3, "Double": 2.0}


def _keep_room(widget: QWidget) -> None:
    """Let a widget keep its room while it is hidden, so that nothing jumps when it is shown."""
    policy = widget.sizePolicy()
    policy.setRetainSizeWhenHidden(True)
    widget.setSizePolicy(policy)


class RenderDialog(QDialog):
    """Renders on a thread of its own; the bench stays usable."""

    moved = pyqtSignal(object)
    ended = pyqtSignal(object)

    def __init__(self, session: Session, cost: float, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self._cost = session, cost
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None
        self.result_files: list[Path] = []
        self.setWindowTitle("Render")
        self.setMinimumWidth(520)
        self._make_fields()
        self._lay_out()
        self.moved.connect(self._show_progress)
        self.ended.connect(self._show_end)
        self._choose_what()
        self._choose_format()

    def _make_fields(self) -> None:
        shot = self.session.shot
        self.what, self.of = QComboBox(), QComboBox()
        for sort, title in TITLES.items():
            if sort in WHOLE or (shot.maps if sort in OF_MAPS else shot.plates):
                self.what.addItem(title, sort)
        self.format = QComboBox()
        for format in formats():
            self.format.addItem(f"{format.label}: {format.about}", format.key)
        self.quality = QComboBox()
        self.size_box = QComboBox()
        for name, share in SIZES.items():
            self.size_box.addItem(f"{name}, {round(shot.width * share)} × {round(shot.height * share)}", share)
        self.first, self.last = QSpinBox(), QSpinBox()
        for box, value in ((self.first, 0), (self.last, shot.length - 1)):
            box.setRange(0, shot.length - 1)
            box.setValue(value)
            box.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        self.every = QSpinBox()
        self.every.setRange(1, max(1, shot.length))
        self.every.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        self.every.setToolTip("Of so many frames the first is rendered, 1 for all; a clip then runs at a lower rate")
        if shot.loop:
            self.first.setValue(shot.loop[0])
            self.last.setValue(shot.loop[1] - 1)
        start = self.session.path.with_suffix("") if self.session.path else Path.home() / (shot.name or "shot")
        self.where = QLineEdit(str(start.with_name(start.name.replace(" ", "-").lower())) + ".mp4")
        names = {"What": self.what, "Of": self.of, "Format": self.format, "Quality": self.quality,
                 "Size": self.size_box, "First frame": self.first, "Last frame": self.last, "Every": self.every,
                 "File": self.where}  # fmt: skip
        for name, widget in names.items():
            widget.setAccessibleName(name)
            widget.setMinimumHeight(24)
        self.what.currentIndexChanged.connect(self._choose_what)
        self.format.currentIndexChanged.connect(self._choose_format)
        for box in (self.first, self.last, self.every):
            box.valueChanged.connect(self._estimate)
        self.size_box.currentIndexChanged.connect(self._estimate)

    def _lay_out(self) -> None:
        form = QFormLayout()
        form.setSpacing(8)
        what = QHBoxLayout()
        what.addWidget(self.what, 3)
        what.addWidget(self.of, 2)
        form.addRow("What", what)
        form.addRow("Format", self.format)
        form.addRow("Quality", self.quality)
        form.addRow("Size", self.size_box)
        span = QHBoxLayout()
        for widget in (self.first, QLabel("to"), self.last, QLabel("every"), self.every):
            span.addWidget(widget)
        span.addStretch(1)
        form.addRow("Frames", span)
        where = QHBoxLayout()
        choose = QPushButton("Choose …")
        choose.clicked.connect(self._choose_file)
        where.addWidget(self.where, 1)
        where.addWidget(choose)
        form.addRow("File", where)
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
        buttons.addWidget(self.go)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(16, 16, 16, 14)
        outer.setSpacing(12)
        outer.addLayout(form)
        outer.addWidget(self.bar)
        outer.addWidget(self.said)
        outer.addLayout(buttons)

    def chosen_format(self) -> Format:
        """Return the format chosen."""
        return next(format for format in formats() if format.key == self.format.currentData())

    def _choose_what(self) -> None:
        """List the maps or plates that there are of it."""
        sort, shot = str(self.what.currentData()), self.session.shot
        self.of.clear()
        if sort not in WHOLE:
            region, items = ("maps", shot.maps) if sort in OF_MAPS else ("plates", shot.plates)
            for item in items:
                self.of.addItem(self.session.name_of(f"{region}/{item.id}"), item.id)
        self.of.setEnabled(sort not in WHOLE)
        self._estimate()

    def _what(self) -> str:
        sort = str(self.what.currentData())
        return sort if sort in WHOLE else f"{sort}:{self.of.currentData()}"

    def _choose_format(self) -> None:
        format = self.chosen_format()
        self.quality.clear()
        for name, number in format.qualities:
            self.quality.addItem(name, number)
        self.quality.setEnabled(bool(format.qualities))
        if format.qualities:
            self.quality.setCurrentIndex(1)
        else:
            self.quality.addItem("Lossless", None)
        path = Path(self.where.text())
        stem = path.stem.rstrip("#").rstrip("_")
        self.where.setText(
            str(path.with_name(f"{stem}_####{format.suffix}" if format.sequence else stem + format.suffix))
        )
        self._estimate()

    def _estimate(self) -> None:
        count = len(range(self.first.value(), self.last.value() + 1, self.every.value()))
        share = float(self.size_box.currentData() or 1.0)
        seconds = count * self._cost / 1000 * max(0.2, share * share) + count * 0.012
        said = f"{count} frames, about {duration(seconds)}" if count else "The last frame lies before the first"
        wide = round(self.session.shot.width * share)
        coarse = coarseness(self.chosen_format(), self._what(), wide)
        words = coarse or WORDS.get(str(self.what.currentData()), "")
        tone(self.said, "fault_text" if coarse or not count else "")
        self.said.setText(f"{said}\n{words[:1].upper()}{words[1:]}" if words else said)
        self.go.setEnabled(count > 0)

    def _choose_file(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Render to", self.where.text(), f"*{self.chosen_format().suffix}")
        if name:
            path = Path(name)
            self.where.setText(str(path if path.suffix else path.with_suffix(self.chosen_format().suffix)))

    def order(self) -> Order:
        """Return what the fields ask for."""
        return Order(
            self.session.shot,
            Path(self.where.text()).expanduser().absolute(),
            self.first.value(),
            self.last.value(),
            float(self.size_box.currentData()),
            self._what(),
            self.chosen_format(),
            self.quality.currentData(),
            self.every.value(),
        )

    def start(self) -> None:
        """Begin to render."""
        order = self.order()
        if not order.path.parent.is_dir():
            self._complain(f"The folder {order.path.parent} is not there: choose another")
            return
        self._stop.clear()
        self.go.setEnabled(False)
        self.cancel.setText("Cancel")
        self.bar.show()
        self.bar.setValue(0)
        self.show_folder.hide()
        self._thread = threading.Thread(target=self._work, args=(order,), name="render", daemon=True)
        self._thread.start()

    def _work(self, order: Order) -> None:
        try:
            engine = Engine(media=self.session.engine.media)
            self.ended.emit(render(order, engine, self.moved.emit, self._stop.is_set))
        except NimbleQuakeError as wrong:
            self.ended.emit(wrong)
        except Exception as wrong:  # told in the dialog; the bench goes on
            self.ended.emit(NimbleQuakeError(f"the render failed ({type(wrong).__name__}: {wrong})"))

    def _show_progress(self, progress: Progress) -> None:
        self.bar.setRange(0, progress.total)
        self.bar.setValue(progress.done)
        self.said.setText(f"Frame {progress.done} of {progress.total}, {duration(progress.left)} left")

    def _show_end(self, found: object) -> None:
        self._thread = None
        self.go.setEnabled(True)
        self.cancel.setText("Close")
        self.bar.hide()
        if isinstance(found, Rendered):
            self.result_files = found.files
            notes = f" {len(found.problems)} note(s): {found.problems[0].line()}" if found.problems else ""
            what = found.files[0].name if len(found.files) == 1 else f"{len(found.files)} pictures"
            tone(self.said, "")
            self.said.setText(f"Done: {what}.{notes}")
            self.show_folder.show()
        elif isinstance(found, Cancelled):
            self.said.setText("Stopped; nothing was written.")
        elif isinstance(found, NimbleQuakeError):
            self._complain(found.line())

    def _complain(self, text: str) -> None:
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
            self, "Rendering", "Stop the render? What was rendered so far is thrown away.",
            buttons.Discard | buttons.Cancel, buttons.Cancel,
        )  # fmt: skip
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
