"""The fields of a pin, in the head of its tall row: when, how much, how it goes on."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PyQt6.QtCore import QRect, Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QWidget

from nimble_quake.conventions import MAX_FRAMES
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.desktop.widgets.parts import heading, quiet, worded
from nimble_quake.desktop.widgets.slide_field import SlideField
from nimble_quake.motion import handles
from nimble_quake.motion.kinds import AFTER, Key, keys_of
from nimble_quake.params.kinds import Number
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.keys import change_keys, keys_at, with_keys

FRAME = Number(
    label="Frame", help="The frame the pin stands on", hard=(0, MAX_FRAMES), usual=(0, 240), whole=True, decimals=0
)


WEIGHTS = {
    "out": Number(
        label="Out",
        help="How far the handle after the pin reaches, of the way to the next one",
        hard=(0, 1),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
    ),
    "in": Number(
        label="In",
        help="How far the handle before it reaches, of the way to the pin before",
        hard=(0, 1),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
    ),
}
TALLEST = 164
"""The height of the fields."""


class PinPanel(QWidget):
    """Shows the chosen pin of a value; without one, the last pin at or before the playhead."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.session = session
        self.path, self.at = "", 0.0
        self._made_for = ""
        self.title = heading("")
        self.frame = SlideField(FRAME, "chalk", mark=False)
        self.value: SlideField | None = None
        self.after = Chooser("How the value goes on after the pin")
        for word in AFTER:
            self.after.addItem(word.capitalize(), word)
        self.after.activated.connect(lambda n: self._change(after=self.after.itemData(n)))
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setSpacing(4)
        self.grid.addWidget(self.title, 0, 0, 1, 2)
        for row, (name, widget) in enumerate((("Frame", self.frame), ("After", self.after)), 1):
            self.grid.addWidget(quiet(name), row * 2, 0)
            self.grid.addWidget(widget, row * 2, 1)
        self._join(self.frame, "frame")
        self.weights = {end: SlideField(param, "chalk", mark=False) for end, param in WEIGHTS.items()}
        for row, (end, field) in enumerate(self.weights.items(), 5):
            self.grid.addWidget(quiet(WEIGHTS[end].label), row, 0)
            self.grid.addWidget(field, row, 1)
            field.began.connect(lambda: self.session.begin("Shape the curve"))
            field.changing.connect(lambda weight, end=end: self._reshape(handles.with_weight, end, weight))
            field.ended.connect(self.session.commit)
        self.level = worded(
            "Level",
            "Both handles level: the value rests at the pin for a moment",
            lambda: self._reshape(handles.levelled),
        )
        self.join = worded(
            "In one line",
            "Both handles in one line: no corner at the pin; dragged with Alt they part",
            lambda: self._reshape(handles.joined),
        )
        row_of_both = QHBoxLayout()
        row_of_both.setSpacing(4)
        row_of_both.addWidget(self.level)
        row_of_both.addWidget(self.join, 1)
        self.grid.addLayout(row_of_both, 7, 0, 1, 2)
        self.hide()

    def _join(self, field: SlideField, name: str) -> None:
        field.began.connect(lambda: self.session.begin("Change pin"))
        field.changing.connect(lambda number: self._change(**{name: number}))
        field.ended.connect(self.session.commit)

    def show_pin(self, path: str, chosen: float | None, where: QRect) -> None:
        """Show a pin of the value at a path, at a place of the strip."""
        raw, param = keys_of(self.session.raw(path)), self.session.param(path)
        if raw is None:  # it moves by a rate, a formula or a driver: it has no pins
            self.hide()
            return
        now = float(self.session.frame)
        before = [key for key in raw.keys if key.frame <= now] or [raw.keys[0]]
        key = next((key for key in raw.keys if key.frame == chosen), before[-1])
        self.path, self.at = path, key.frame
        if self._made_for != path and isinstance(param, Number):
            self._make_value(param)
        self._made_for = path
        self.title.setText(f"Pin {raw.keys.index(key) + 1} of {len(raw.keys)}")
        self.frame.show_value(key.frame)
        self.after.setCurrentIndex(self.after.findData(key.after))
        if self.value is not None and isinstance(key.value, float):
            self.value.show_value(key.value)
        number = raw.keys.index(key)
        for end, field in self.weights.items():
            weight = handles.weight_of(raw.keys, number, end)
            field.setEnabled(weight is not None)
            field.show_value(weight or 0.0)
        both = all(field.isEnabled() for field in self.weights.values())
        self.join.setEnabled(both and not handles.is_joined(raw.keys, number))
        self.level.setEnabled(any(field.isEnabled() for field in self.weights.values()))
        where.setHeight(TALLEST)
        if self.geometry() != where:
            self.setGeometry(where)
        if not self.isVisible():
            self.show()

    def _make_value(self, param: Number) -> None:
        if self.value is not None:
            self.grid.removeWidget(self.value)
            self.value.deleteLater()
        else:
            label: QLabel = quiet("Value")
            self.grid.addWidget(label, 3, 0, Qt.AlignmentFlag.AlignVCenter)
        self.value = SlideField(param, "chalk", mark=False)
        self.grid.addWidget(self.value, 3, 1)
        self._join(self.value, "value")

    def _reshape(self, how: Callable[..., tuple[Key, ...]], *asked: object) -> None:
        """Change the curves that meet in the pin."""
        keys = keys_at(self.session.shot, self.path)
        number = next((n for n, key in enumerate(keys) if key.frame == self.at), None)
        if number is None:
            return
        shot = with_keys(self.session.shot, self.path, how(keys, number, *asked))
        if self.session.history.gesturing:
            self.session.change(shot)
        else:
            self.session.edit("Shape the curve", shot)

    def _change(self, **fields: object) -> None:
        def changed(key: Key) -> Key:
            return msgspec.structs.replace(key, **fields)

        shot = change_keys(self.session.shot, self.path, {self.at}, changed)
        if "frame" in fields:
            self.at = float(str(fields["frame"]))
        if self.session.history.gesturing:
            self.session.change(shot)
        else:
            self.session.edit("Change pin", shot)
