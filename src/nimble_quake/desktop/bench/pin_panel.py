"""The fields of a pin, in the head of its tall row: when, how much, how it goes on."""

from __future__ import annotations

import msgspec
from PyQt6.QtCore import QRect, Qt
from PyQt6.QtWidgets import QGridLayout, QLabel, QWidget

from nimble_quake.conventions import MAX_FRAMES
from nimble_quake.desktop.bench.parts import heading, quiet
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.desktop.widgets.slide_field import SlideField
from nimble_quake.motion.kinds import AFTER, Key, keys_of
from nimble_quake.params.kinds import Number
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.keys import change_keys

FRAME = Number(
    label="Frame", help="The frame the pin stands on", hard=(0, MAX_FRAMES), usual=(0, 240), whole=True, decimals=0
)


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
