"""Size, rate and length of a shot: for a new one, or the open one."""

from __future__ import annotations

import re
from fractions import Fraction

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QSpinBox,
    QWidget,
)

from nimble_quake.conventions import MAX_FRAMES, MAX_SIDE, Values
from nimble_quake.desktop.widgets.arithmetic import typed_number
from nimble_quake.desktop.widgets.chooser import name_entry
from nimble_quake.shot.model import Shot
from nimble_quake.shot.refit import Change

SIZES = {
    "1920 × 1080": (1920, 1080),
    "1280 × 720": (1280, 720),
    "3840 × 2160": (3840, 2160),
    "1080 × 1350 (4:5)": (1080, 1350),
    "1080 × 1080 (square)": (1080, 1080),
    "1080 × 1920 (upright)": (1080, 1920),
}
RATES = {
    "24": "24",
    "23.976 (24000/1001)": "24000/1001",
    "25": "25",
    "29.97 (30000/1001)": "30000/1001",
    "30": "30",
    "50": "50",
    "60": "60",
}


SHAPES = (
    ("fit", "Fit: all of it lies inside"),
    ("fill", "Fill: it covers the frame"),
    ("keep", "Keep: its size stays"),
)
PLACES = (("centre", "About the centre"), ("edges", "Kept to the edge they lie at"))
RATE_TEXT = re.compile(r"\s*(\d+(?:\.\d+)?)\s*(?:/\s*(\d+)\s*)?")
LOW, HIGH = Fraction(1, 10), 1000


def rate_of(text: str) -> Fraction | None:
    """Return the rate that was typed or chosen, as in "59.94", "12" or "30000/1001"; None where it is none."""
    found = RATE_TEXT.fullmatch(RATES.get(text, text))
    if found is None or (found[2] and int(found[2]) == 0):
        return None
    rate = (Fraction(found[1]) / int(found[2] or 1)).limit_denominator(100_000)
    return rate if LOW <= rate <= HIGH else None


class ShotDialog(QDialog):
    """`fields()` returns what was chosen, `change()` how what is in the shot goes along."""

    changed = pyqtSignal()

    def __init__(self, shot: Shot, title: str, parent: QWidget | None = None, *, refits: bool = False) -> None:
        """refits: it is of a shot that holds something, which goes along."""
        super().__init__(parent)
        self._shot, self._refits = shot, refits
        self.setWindowTitle(title)
        self.setMinimumWidth(380)
        self.name = QLineEdit(shot.name)
        self.sizes = QComboBox()
        self.sizes.addItem("Own size")
        self.sizes.addItems(list(SIZES))
        self.width_box, self.height_box = QSpinBox(), QSpinBox()
        for box, value in ((self.width_box, shot.width), (self.height_box, shot.height)):
            box.setRange(1, MAX_SIDE)
            box.setValue(value)
            box.setSuffix(" px")
            box.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
            box.valueChanged.connect(self._show_size)
        self.rate = QComboBox()
        self.rate.setEditable(True)
        self.rate.setAccessibleName("Frames a second")
        name_entry(self.rate)
        self.rate.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self.rate.addItems(list(RATES))
        self.rate.setEditText(next((name for name, rate in RATES.items() if rate == str(shot.rate)), str(shot.rate)))
        self.rate.setToolTip("A number or a fraction, as 59.94, 12 or 30000/1001")
        self.seconds = QLineEdit(f"{float(shot.length / shot.rate):g}")
        self.frames = QLabel()
        self.seconds.textChanged.connect(self._show_frames)
        self.rate.editTextChanged.connect(self._show_frames)
        self.sizes.activated.connect(self._take_size)
        self.linear = QCheckBox("Blur, glow and blend in linear light")
        self.linear.setChecked(shot.linear)
        self.linear.toggled.connect(lambda: self._tell())
        self.linear.setToolTip("As light itself adds: brighter glows and cleaner edges. Maps stay as they are")
        self.shutter, self.phase, self.samples = (QSpinBox() for _ in range(3))
        for box, low, high, value, suffix, tip in (
            (self.shutter, 0, 360, shot.shutter, "°", "How long each frame is open: 180° as film does, 360° all of it"),
            (self.phase, -360, 360, shot.shutter_phase, "° later", "By how much it opens after the frame begins"),
            (
                self.samples,
                0,
                64,
                shot.shutter_samples,
                " moments",
                "At how many moments it looks: more are smoother, slower; 0 by how far anything moves",
            ),
        ):
            box.setRange(low, high)
            box.setValue(value)
            box.setSuffix(suffix)
            box.setToolTip(f"{tip}. What moves fast smears")
            box.setAccessibleName(tip.split(":")[0])
            box.valueChanged.connect(lambda _: self._tell())
        self.shutter.setSpecialValueText("off")
        self.samples.setSpecialValueText("by motion")
        self._lay_out()
        self._show_size()
        self._show_frames()
        self.name.setFocus()
        self.name.selectAll()

    def _lay_out(self) -> None:
        buttons = QDialogButtonBox.StandardButton
        self.buttons = QDialogButtonBox(buttons.Ok | buttons.Cancel)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        form = QFormLayout(self)
        form.setContentsMargins(16, 16, 16, 14)
        form.setSpacing(9)
        form.addRow("Name", self.name)
        form.addRow("Size", self.sizes)
        form.addRow("", _row(self.width_box, QLabel("×"), self.height_box))
        form.addRow("Frames a second", self.rate)
        form.addRow("Length in seconds", _row(self.seconds, self.frames))
        form.addRow("Light", self.linear)
        form.addRow("Shutter", _row(self.shutter, self.phase, self.samples))
        self._add_what_goes_along(form)
        form.addRow(self.buttons)
        names = {
            "Name": self.name,
            "Size": self.sizes,
            "Width": self.width_box,
            "Height": self.height_box,
            "Frames a second": self.rate,
            "Length in seconds": self.seconds,
            "Linear light": self.linear,
            "Scale what is in it": self.scales,
            "Keep times in seconds": self.keeps_seconds,
            "Stretch times": self.stretches,
            "Other shape": self.shape,
            "Places": self.places,
        }
        typed = self.rate.lineEdit()
        if typed is not None:
            typed.returnPressed.connect(self._take)
        for name, widget in names.items():
            widget.setAccessibleName(name)
            widget.setMinimumHeight(24)

    def _take(self) -> None:
        if self._length() is not None:
            self.accept()

    def _add_what_goes_along(self, form: QFormLayout) -> None:
        """What becomes of all that is in the shot."""
        self.scales, self.keeps_seconds = QCheckBox("Scale what is in it"), QCheckBox("Keep times in seconds")
        self.stretches = QCheckBox("Stretch times to the new length")
        self.shape, self.places = QComboBox(), QComboBox()
        for chooser, choices in ((self.shape, SHAPES), (self.places, PLACES)):
            for key, label in choices:
                chooser.addItem(label, key)
            chooser.currentIndexChanged.connect(self._tell)
        self.scales.setToolTip("Places, sizes and reaches in px, still or moving, go with the frame")
        self.keeps_seconds.setToolTip("Pins, spans, fades, markers and beats stay at their seconds at another rate")
        kept = "Pins, spans and markers are spread over the new length, but for pins kept from an end; else they stay"
        self.stretches.setToolTip(kept)
        for box, on in ((self.scales, True), (self.keeps_seconds, True), (self.stretches, False)):
            box.setChecked(on)
            box.toggled.connect(self._tell)
        if not self._refits:
            return
        form.addRow("Goes along", self.scales)
        form.addRow("", self.keeps_seconds)
        form.addRow("", self.stretches)
        form.addRow("Other shape", self.shape)
        form.addRow("Places", self.places)

    def _tell(self) -> None:
        """Say what was changed, and which choices count."""
        other = self.width_box.value() * self._shot.height != self.height_box.value() * self._shot.width
        for chooser in (self.shape, self.places):
            chooser.setEnabled(other and self.scales.isChecked())
        if self._length() is not None:
            self.changed.emit()

    def _take_size(self) -> None:
        size = SIZES.get(self.sizes.currentText())
        if size:
            self.width_box.setValue(size[0])
            self.height_box.setValue(size[1])

    def _show_size(self) -> None:
        now = (self.width_box.value(), self.height_box.value())
        self.sizes.setCurrentText(next((name for name, size in SIZES.items() if size == now), "Own size"))
        self._tell()

    def _length(self) -> int | None:
        seconds, rate = typed_number(self.seconds.text(), 0.0), rate_of(self.rate.currentText())
        if seconds is None or rate is None or not 0 < seconds * rate <= MAX_FRAMES:
            return None
        return max(1, round(seconds * rate))

    def _show_frames(self) -> None:
        length, rate = self._length(), rate_of(self.rate.currentText())
        self.frames.setText(f"{length} frames" if length else "type a length" if rate else "type a rate")
        self._tell()
        button = self.buttons.button(QDialogButtonBox.StandardButton.Ok)
        if button:
            button.setEnabled(length is not None)

    def fields(self) -> Values:
        """Return the shot's fields as chosen."""
        return {
            "name": self.name.text().strip()[:200] or "Untitled",
            "width": self.width_box.value(),
            "height": self.height_box.value(),
            "rate": rate_of(self.rate.currentText()) or self._shot.rate,
            "length": self._length() or 1,
            "linear": self.linear.isChecked(),
            "shutter": self.shutter.value(),
            "shutter_phase": self.phase.value(),
            "shutter_samples": self.samples.value(),
        }

    def change(self) -> Change:
        """Return what the shot is to become, and how what is in it goes along."""
        fields = self.fields()
        return Change(
            fields["width"],
            fields["height"],
            fields["rate"],
            fields["length"],
            scales=self.scales.isChecked(),
            shape=str(self.shape.currentData()),
            places=str(self.places.currentData()),
            keeps_seconds=self.keeps_seconds.isChecked(),
            stretches=self.stretches.isChecked(),
        )


def _row(*widgets: QWidget) -> QHBoxLayout:
    row = QHBoxLayout()
    for widget in widgets:
        row.addWidget(widget)
    row.addStretch(1)
    return row
