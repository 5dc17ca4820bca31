"""Asks how a clip is tracked."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QDialog, QDialogButtonBox, QFormLayout, QLabel, QSpinBox, QWidget

from nimble_quake.analysis.tracking import MOST_POINTS, Settings


class TrackingDialog(QDialog):
    """How many points, how close, how thoroughly."""

    def __init__(self, name: str, known: int, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Track {name}")
        self.setMinimumWidth(380)
        self.count, self.spacing = QSpinBox(), QSpinBox()
        self.thorough = QCheckBox("Look more closely, at half the speed")
        self.count.setRange(4, MOST_POINTS)
        self.count.setValue(400)
        self.count.setToolTip("How many points are followed at once; more cost time, too few are the usual failure")
        self.spacing.setRange(2, 500)
        self.spacing.setValue(14)
        self.spacing.setSuffix(" px")
        self.spacing.setToolTip("How far apart two points are at least, in pixels of the clip")
        self.thorough.setToolTip("Fainter corners too, larger patches, twice as many points")
        form = QFormLayout(self)
        form.setContentsMargins(16, 16, 16, 14)
        form.setSpacing(10)
        for label, widget in (("Points", self.count), ("Apart", self.spacing), ("Thorough", self.thorough)):
            widget.setAccessibleName(label)
            form.addRow(label, widget)
        if known:
            form.addRow(QLabel(f"It is tracked already, with {known} points; they are replaced."))
        for box in (self.count, self.spacing):
            box.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        ok = buttons.button(QDialogButtonBox.StandardButton.Ok)
        if ok is not None:
            ok.setText("Track")
            ok.setProperty("main", "true")
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)

    def settings(self) -> Settings:
        """Return what was chosen."""
        return Settings(self.count.value(), float(self.spacing.value()), self.thorough.isChecked())
