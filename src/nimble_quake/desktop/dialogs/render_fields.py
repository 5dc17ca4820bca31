"""What the render dialog asks: what, how and where, and how long it may take."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QSpinBox,
    QWidget,
)

from nimble_quake.desktop.dialogs.machine_fields import MachineFields
from nimble_quake.export.data import OF_MAPS, TITLES, WHOLE, WORDS, coarseness, described, fitting_format
from nimble_quake.export.finals import ALPHAS
from nimble_quake.export.formats import Format, formats
from nimble_quake.export.order import MOST_OVERSCAN, Order
from nimble_quake.export.outputs import Output
from nimble_quake.export.soundtrack import FOR_EDITORS, ONLY_RATE
from nimble_quake.session.state import Session
from nimble_quake.session.work import duration
from nimble_quake.shotfile.names import file_stem

SIZES = {"Full": 1.0, "Half": 0.5, "Third": 1 / 3, "Double": 2.0}


@dataclass(frozen=True)
class Kept:
    """What the dialog asked for when it was closed. An empty `where` is a name that the dialog finds itself."""

    boxes: tuple[object, object, object]
    size: int
    frames: tuple[int, int, int]
    where: str


class RenderFields(QWidget):
    """The fields of an order."""

    changed = pyqtSignal()
    """Something else is asked for: see `estimate`."""

    def __init__(self, session: Session, cost: float) -> None:
        super().__init__()
        self.session, self._cost = session, cost
        self._make_fields()
        self._lay_out()
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
        for name, fraction in SIZES.items():
            self.size_box.addItem(f"{name}, {round(shot.width * fraction)} × {round(shot.height * fraction)}", fraction)
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
        start = self.session.path.with_suffix("") if self.session.path else Path.home() / file_stem(shot.name)
        self._folder, self._stem, self._own_name = start.parent, start.name, True
        self.alpha = QComboBox()
        for key, label in ALPHAS.items():
            self.alpha.addItem(label, key)
        self.alpha.setMinimumWidth(150)
        self.alpha.setToolTip("How colours are held where they are partly clear: as they are, or times their alpha")
        self.dither = QCheckBox("Dither")
        self.dither.setToolTip("Soft gradients keep their steps apart in 8 bits, by random amounts of half a step")
        self.limit = QCheckBox("Broadcast limit")
        self.limit.setToolTip("Colours are kept between 16 and 235 of 255")
        self.overscan = QSpinBox()
        self.overscan.setRange(0, MOST_OVERSCAN)
        self.overscan.setSuffix(" px")
        self.overscan.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        self.overscan.setToolTip("Pixels beyond the frame that are rendered too on every side (OpenEXR)")
        self.for_editors = QCheckBox("At 48 kHz")
        self.for_editors.setToolTip("As editors take it; else as it was recorded")
        self.machines = MachineFields()
        self.where = QLineEdit(str(start.with_name(start.name.replace(" ", "-").lower())) + ".mp4")
        names = {
            "What": self.what,
            "Of": self.of,
            "Format": self.format,
            "Quality": self.quality,
            "Size": self.size_box,
            "First frame": self.first,
            "Last frame": self.last,
            "Every": self.every,
            "Alpha": self.alpha,
            "Dither": self.dither,
            "Broadcast limit": self.limit,
            "Overscan": self.overscan,
            "Sound at 48 kHz": self.for_editors,
            "File": self.where,
        }
        for name, widget in names.items():
            widget.setAccessibleName(name)
            widget.setMinimumHeight(24)
        self.where.textEdited.connect(self._name_by_hand)
        self.of.currentIndexChanged.connect(lambda _: self._name_file())
        self.what.currentIndexChanged.connect(self._choose_what)
        self.format.currentIndexChanged.connect(self._choose_format)
        for box in (self.first, self.last, self.every):
            box.valueChanged.connect(lambda _: self.changed.emit())
        self.size_box.currentIndexChanged.connect(lambda _: self.changed.emit())

    def _lay_out(self) -> None:
        form = QFormLayout(self)
        form.setContentsMargins(0, 0, 0, 0)
        form.setSpacing(8)
        what = QHBoxLayout()
        what.addWidget(self.what, 3)
        what.addWidget(self.of, 2)
        form.addRow("What", what)
        form.addRow("Format", self.format)
        form.addRow("Quality", self.quality)
        form.addRow("Size", self.size_box)
        span = QHBoxLayout()
        beyond = QLabel("overscan")
        for widget in (self.first, QLabel("to"), self.last, QLabel("every"), self.every, beyond, self.overscan):
            span.addWidget(widget)
        span.addStretch(1)
        form.addRow("Frames", span)
        finals = QHBoxLayout()
        finals.setSpacing(16)
        for choice in (self.alpha, self.dither, self.limit):
            finals.addWidget(choice)
        finals.addStretch(1)
        form.addRow("Alpha", finals)
        form.addRow("Sound", self.for_editors)
        where = QHBoxLayout()
        choose = QPushButton("Choose …")
        choose.clicked.connect(self._choose_file)
        where.addWidget(self.where, 1)
        where.addWidget(choose)
        form.addRow("File", where)
        form.addRow("Rendered by", self.machines)

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
        self.format.setCurrentIndex(max(0, self.format.findData(fitting_format(sort))))
        self._name_file()
        self.of.setEnabled(sort not in WHOLE)
        self.of.setVisible(sort not in WHOLE)  # an empty box says nothing
        self._allow()
        self.changed.emit()

    def _what(self) -> str:
        sort = str(self.what.currentData())
        return sort if sort in WHOLE else f"{sort}:{self.of.currentData()}"

    def _name_by_hand(self) -> None:
        self._own_name = False

    def _name_file(self) -> None:
        """A file of its own for each sort of data, until one is named by hand."""
        if not self._own_name:
            return
        said = described(self.session.shot, self._what()).replace(" of ", " ")
        name = f"{self._stem} {said}".strip().replace(" ", "-").lower()
        format = self.chosen_format()
        ending = f"_####{format.suffix}" if format.sequence else format.suffix
        self.where.setText(str(self._folder / f"{re.sub(r'[^a-z0-9._-]+', '-', name)}{ending}"))

    def say(self, output: Output) -> None:
        """Say what an output asks for, as far as the shot has it; the file's ending goes along."""
        sort, _, of = output.what.partition(":")
        for box, data in ((self.what, sort), (self.of, of), (self.format, output.format), (self.alpha, output.alpha)):
            box.setCurrentIndex(max(0, box.findData(data)))
        near = min(range(self.size_box.count()), key=lambda n: abs(self.size_box.itemData(n) - output.scale))
        self.size_box.setCurrentIndex(near)
        if output.quality is not None:
            self.quality.setCurrentIndex(max(0, self.quality.findData(output.quality)))
        self.every.setValue(output.every)
        self.overscan.setValue(output.overscan)
        self.dither.setChecked(output.dither)
        self.limit.setChecked(output.limit)
        if self.for_editors.isEnabled():
            self.for_editors.setChecked(output.sound_rate == FOR_EDITORS)
        self.changed.emit()

    def kept(self) -> Kept:
        """Return what is to be as it is when the dialog opens again."""
        boxes = (self.what.currentData(), self.of.currentData(), self.format.currentData())
        frames = (self.first.value(), self.last.value(), self.every.value())
        return Kept(boxes, self.size_box.currentIndex(), frames, "" if self._own_name else self.where.text())

    def restore(self, kept: Kept) -> None:
        """Be as the dialog was when it was closed, as far as the shot still has it."""
        for box, data in zip((self.what, self.of, self.format), kept.boxes, strict=True):
            box.setCurrentIndex(max(0, box.findData(data)))
        self.size_box.setCurrentIndex(kept.size)
        for field, value in zip((self.first, self.last, self.every), kept.frames, strict=True):
            field.setValue(value)
        if kept.where:
            self._own_name = False
            self.where.setText(kept.where)

    def _choose_format(self) -> None:
        format = self.chosen_format()
        self.quality.clear()
        for name, number in format.qualities:
            self.quality.addItem(name, number)
        self.quality.setEnabled(bool(format.qualities))
        if format.qualities:
            self.quality.setCurrentIndex(1)
        else:
            self.quality.addItem("As the format has it" if format.lossy else "Lossless", None)
        path = Path(self.where.text())
        stem = path.stem.rstrip("#").rstrip("_")
        self.where.setText(
            str(path.with_name(f"{stem}_####{format.suffix}" if format.sequence else stem + format.suffix))
        )
        self._allow()
        self.changed.emit()

    def _allow(self) -> None:
        """Let only what the format and the kind of data can have be chosen."""
        format, seen = self.chosen_format(), self.what.currentData() == "picture"
        self.alpha.setEnabled(format.alpha and seen)
        if not self.alpha.isEnabled():
            self.alpha.setCurrentIndex(0)
        self.dither.setEnabled(format.bits == 8 and seen)
        self.limit.setEnabled(seen)
        self.overscan.setEnabled(format.overscan)
        free = bool(format.sound) and seen and format.sound not in ONLY_RATE
        if not free or not self.for_editors.isEnabled():
            self.for_editors.setChecked(ONLY_RATE.get(format.sound) == FOR_EDITORS)
        self.for_editors.setEnabled(free)

    def count(self) -> int:
        """Return how many frames are asked for."""
        return len(range(self.first.value(), self.last.value() + 1, self.every.value()))

    def estimate(self) -> tuple[str, bool]:
        """Return what is said of the order in two lines, and whether it is a warning."""
        fraction = float(self.size_box.currentData() or 1.0)
        count = self.count()
        seconds = count * self._cost / 1000 * max(0.2, fraction * fraction) + count * 0.012
        said = f"{count} frames, about {duration(seconds)}" if count else "The last frame lies before the first"
        wide = round(self.session.shot.width * fraction)
        coarse = coarseness(self.chosen_format(), self._what(), wide)
        words = coarse or WORDS.get(str(self.what.currentData()), "")
        return f"{said}\n{words[:1].upper()}{words[1:]}" if words else said, bool(coarse or not count)

    def _choose_file(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Render to", self.where.text(), f"*{self.chosen_format().suffix}")
        if name:
            path, self._own_name = Path(name), False
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
            str(self.alpha.currentData()),
            self.dither.isEnabled() and self.dither.isChecked(),
            self.limit.isEnabled() and self.limit.isChecked(),
            self.overscan.value() if self.overscan.isEnabled() else 0,
            FOR_EDITORS if self.for_editors.isEnabled() and self.for_editors.isChecked() else 0,
        )
