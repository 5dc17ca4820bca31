"""Small dialogs: preferences and the list of shortcuts."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QGridLayout,
    QLabel,
    QScrollArea,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from nimble_quake.desktop.viewers.frames import PREVIEWS
from nimble_quake.desktop.widgets.parts import heading, quiet
from nimble_quake.motion.timecode import CLOCKS
from nimble_quake.session.actions import ACTIONS, MENUS
from nimble_quake.session.storage.preferences import Preferences

PASTED = (("", "Ask once"), ("keep", "Keep their frames"), ("move", "Move with the playhead"))


def _whole(value: int, ends: tuple[int, int], unit: str, tip: str) -> QSpinBox:
    box = QSpinBox()
    box.setRange(*ends)
    box.setSuffix(unit)
    box.setValue(value)
    box.setToolTip(tip)
    box.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
    return box


class PreferencesDialog(QDialog):
    """Changes the preferences when accepted."""

    def __init__(self, preferences: Preferences, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Preferences")
        self.setMinimumWidth(380)
        self.preferences = preferences
        self.theme = QComboBox()
        self.theme.addItem("Dark", "dark")
        self.theme.addItem("Light", "light")
        self.theme.setCurrentIndex(self.theme.findData(preferences.theme))
        self.preview = QComboBox()
        for key, label in PREVIEWS.items():
            self.preview.addItem(label, key)
        self.preview.setCurrentIndex(self.preview.findData(preferences.preview))
        self.clock = QComboBox()
        for key, label in CLOCKS.items():
            self.clock.addItem(label, key)
        self.clock.setCurrentIndex(self.clock.findData(preferences.clock))
        self.autosave = _whole(preferences.autosave_seconds, (5, 600), " s", "Saves beside the shot while you work")
        self.cache = _whole(
            preferences.cache_mb,
            (32, 8192),
            " MB",
            "How much memory remembered maps and pictures may take; more lets long loops play smoothly",
        )
        self.frames = _whole(
            preferences.frames_mb,
            (32, 65_536),
            " MB",
            "How much memory frames may take that are ready to be played; at half of 1920 x 1080 one takes 2 to 4 MB",
        )
        self.prepares = QCheckBox("While you do nothing")
        self.prepares.setChecked(preferences.prepares)
        self.prepares.setToolTip("Computes the range that plays beforehand, so that it plays at once and at its rate")
        self.pasted = QComboBox()
        for key, label in PASTED:
            self.pasted.addItem(label, key)
        self.pasted.setCurrentIndex(self.pasted.findData(preferences.pasted_pins))
        form = QFormLayout(self)
        form.setContentsMargins(16, 16, 16, 14)
        form.setSpacing(10)
        rows = {
            "Theme": self.theme,
            "Preview at the start": self.preview,
            "Time is shown as": self.clock,
            "Autosave after": self.autosave,
            "Memory for caches": self.cache,
            "Memory for prepared frames": self.frames,
            "Prepare the range that plays": self.prepares,
            "Pins that are pasted": self.pasted,
        }
        for name, widget in rows.items():
            widget.setAccessibleName(name)
            widget.setMinimumHeight(24)
            form.addRow(name, widget)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)

    def accept(self) -> None:
        p = self.preferences
        p.theme, p.preview = self.theme.currentData(), self.preview.currentData()
        p.clock, p.pasted_pins = self.clock.currentData(), self.pasted.currentData()
        p.autosave_seconds, p.cache_mb = self.autosave.value(), self.cache.value()
        p.frames_mb, p.prepares = self.frames.value(), self.prepares.isChecked()
        super().accept()


class ShortcutsDialog(QDialog):
    """Every action with its shortcut, and what the mouse does."""

    MOUSE = (
        ("Drag a number sideways", "change it; Shift is finer, Ctrl coarser; click to type a number or a sum"),
        ("Click the wave beside a number", "set its first pin; right-click for rate, formula and default"),
        ("Double-click a name", "back to its default"),
        ("Wheel over a viewer", "zoom about the pointer; the middle button pans"),
        ("Shift-drag on the ruler", "set the loop range"),
        ("Double-click a row of the time strip", "set a pin there"),
        ("Ctrl-wheel over the time strip", "zoom in time; Shift-wheel moves along"),
    )

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Shortcuts")
        self.resize(620, 560)
        body = QWidget()
        grid = QGridLayout(body)
        grid.setHorizontalSpacing(24)
        row = 0
        for menu in MENUS:
            actions = [action for action in ACTIONS if action.menu == menu and action.shortcut]
            if actions:
                grid.addWidget(heading(menu), row, 0)
                row += 1
            for action in actions:
                grid.addWidget(QLabel(action.title), row, 0)
                grid.addWidget(quiet(action.shortcut), row, 1)
                row += 1
        grid.addWidget(heading("Mouse"), row, 0)
        for what, does in self.MOUSE:
            row += 1
            grid.addWidget(QLabel(what), row, 0, Qt.AlignmentFlag.AlignTop)
            words = quiet(does)
            words.setWordWrap(True)
            grid.addWidget(words, row, 1)
        grid.setColumnStretch(1, 1)
        area = QScrollArea()
        area.setWidget(body)
        area.setWidgetResizable(True)
        area.setAccessibleName("Shortcuts")
        outer = QVBoxLayout(self)
        outer.addWidget(area)
