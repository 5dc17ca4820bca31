"""Size, rate and length of a shot: for a new one, or the open one."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

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

from nimble_quake.conventions import MAX_FRAMES, MAX_SIDE
from nimble_quake.desktop.widgets.arithmetic import typed_number
from nimble_quake.shot.model import Shot

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


class ShotDialog(QDialog):
    """`fields()` returns what was chosen."""

    def __init__(self, shot: Shot, title: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
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
        for label, rate in RATES.items():
            self.rate.addItem(label, rate)
        if self.rate.findData(str(shot.rate)) < 0:
            self.rate.addItem(str(shot.rate), str(shot.rate))
        self.rate.setCurrentIndex(self.rate.findData(str(shot.rate)))
        self.seconds = QLineEdit(f"{float(shot.length / shot.rate):g}")
        self.frames = QLabel()
        self.seconds.textChanged.connect(self._show_frames)
        self.rate.currentIndexChanged.connect(self._show_frames)
        self.sizes.activated.connect(self._take_size)
        self.linear = QCheckBox("Blur, glow and blend in linear light")
        self.linear.setChecked(shot.linear)
        self.linear.setToolTip("As light itself adds: brighter glows and cleaner edges. Maps stay as they are")
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
        form.addRow(self.buttons)
        names = {
            "Name": self.name,
            "Size": self.sizes,
            "Width": self.width_box,
            "Height": self.height_box,
            "Frames a second": self.rate,
            "Length in seconds": self.seconds,
            "Linear light": self.linear,
        }
        for name, widget in names.items():
            widget.setAccessibleName(name)
            widget.setMinimumHeight(24)
        self._show_size()
        self._show_frames()
        self.name.setFocus()
        self.name.selectAll()

    def _take_size(self) -> None:
        size = SIZES.get(self.sizes.currentText())
        if size:
            self.width_box.setValue(size[0])
            self.height_box.setValue(size[1])

    def _show_size(self) -> None:
        now = (self.width_box.value(), self.height_box.value())
        self.sizes.setCurrentText(next((name for name, size in SIZES.items() if size == now), "Own size"))

    def _length(self) -> int | None:
        seconds = typed_number(self.seconds.text(), 0.0)
        if seconds is None or not 0 < seconds * Fraction(self.rate.currentData()) <= MAX_FRAMES:
            return None
        return max(1, round(seconds * Fraction(self.rate.currentData())))

    def _show_frames(self) -> None:
        length = self._length()
        self.frames.setText(f"{length} frames" if length else "type a length")
        button = self.buttons.button(QDialogButtonBox.StandardButton.Ok)
        if button:
            button.setEnabled(length is not None)

    def fields(self) -> dict[str, Any]:
        """Return the shot's fields as chosen."""
        return {
            "name": self.name.text().strip()[:200] or "Untitled",
            "width": self.width_box.value(),
            "height": self.height_box.value(),
            "rate": Fraction(self.rate.currentData()),
            "length": self._length() or 1,
            "linear": self.linear.isChecked(),
        }


def _row(*widgets: QWidget) -> QHBoxLayout:
    row = QHBoxLayout()
    for widget in widgets:
        row.addWidget(widget)
    row.addStretch(1)
    return row
