"""The dialogs of a value's motion: a rate, a formula, or what drives it. Each is tried in the picture meanwhile."""

from __future__ import annotations

from PyQt6.QtCore import QPoint
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from nimble_quake.conventions import Value
from nimble_quake.desktop.motions.form import MotionForm
from nimble_quake.desktop.motions.formula_list import FormulaHelp
from nimble_quake.desktop.widgets.arithmetic import typed_number
from nimble_quake.desktop.widgets.course_plot import CoursePlot
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.motion.formula import parsed
from nimble_quake.motion.kinds import Driven, Formula, Layered, Rate
from nimble_quake.motion.motion import value_at
from nimble_quake.params.kinds import Param
from nimble_quake.session.moving import motions
from nimble_quake.session.state import Session
from nimble_quake.session.traces import bounds_of, curve
from nimble_quake.shot.edits.set_value import set_value

CORNER = QPoint(24, 84)
POINTS = 320
"""Values of the drawn course."""


class _MotionDialog(QDialog):
    """A dialog that tries the motion in the picture, and draws its course, while it is changed."""

    def __init__(self, session: Session, path: str, param: Param, title: str, region: str, parent: QWidget) -> None:
        super().__init__(parent)
        self.session, self.path, self.param = session, path, param
        self.setWindowTitle(f"{title}: {session.label_of(path)}")
        self.setMinimumWidth(440)
        self.outer = QVBoxLayout(self)
        self.outer.setContentsMargins(14, 14, 14, 12)
        self.outer.setSpacing(10)
        self.said = QLabel()
        self.said.setWordWrap(True)
        self.said.setMinimumHeight(18)
        self.plot = CoursePlot(region)
        buttons = QDialogButtonBox.StandardButton
        self.buttons = QDialogButtonBox(buttons.Ok | buttons.Cancel)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        session.begin(f"{title} of {session.label_of(path)}")

    def finish_form(self, fields: QWidget | QFormLayout) -> None:
        """Put the course, the line that says what is wrong, and the buttons, under the fields."""
        if isinstance(fields, QWidget):
            self.outer.addWidget(fields)
        else:
            self.outer.addLayout(fields)
        for widget in (self.plot, self.said, self.buttons):
            self.outer.addWidget(widget)
        self.draw()

    def try_value(self, value: object, said: str) -> None:
        """Show a motion in the picture; None leaves it as it is."""
        good = value is not None
        self.said.setText(said)
        button = self.buttons.button(QDialogButtonBox.StandardButton.Ok)
        if button:
            button.setEnabled(good)
        if good:
            self.session.change(set_value(self.session.shot, self.path, value))
        self.draw()

    def showEvent(self, event: QShowEvent | None) -> None:
        """Open over the left of the window: the picture, which shows what is tried, stays in view."""
        super().showEvent(event)
        parent = self.parentWidget()
        window = parent.window() if parent is not None else None
        if window is not None:
            self.move(window.mapToGlobal(CORNER))

    def draw(self) -> None:
        """Draw the course of the value as it is now."""
        length = self.session.shot.length
        lists = curve(self.session, self.path, 0, length, POINTS)
        factor, unit = self.param.factor, self.param.unit
        bounds = bounds_of(lists, self.param)
        self.plot.show_course(lists, bounds, self.session.frame / max(1, length), factor, unit)

    def accept(self) -> None:
        self.session.commit()
        super().accept()

    def reject(self) -> None:
        self.session.abort()
        super().reject()


class RateDialog(_MotionDialog):
    """A steady change per second that never ends."""

    def __init__(self, session: Session, path: str, param: Param, region: str, parent: QWidget) -> None:
        super().__init__(session, path, param, "Rate", region, parent)
        raw = session.raw(path)
        speed = raw.per_second if isinstance(raw, Rate) else (0.0,) * param.size if param.size > 1 else 0.0
        self._start = raw.start if isinstance(raw, Rate) else session.shown(path)
        factor, unit = param.factor, param.unit
        speeds = speed if isinstance(speed, tuple) else (speed,)
        names = ("x", "y") if param.size == 2 else ("red", "green", "blue", "alpha") if param.size == 4 else ("",)
        self._factor = factor
        self.edits = []
        form = QFormLayout()
        for name, number in zip(names, speeds, strict=True):
            edit = QLineEdit(f"{number * factor:g}")
            edit.setAccessibleName(f"Change per second {name}".strip())
            edit.textChanged.connect(self._typed)
            form.addRow(f"Change of {name} per second ({unit})" if name else f"Change per second ({unit})", edit)
            self.edits.append(edit)
        self.finish_form(form)

    def _typed(self) -> None:
        numbers = [typed_number(edit.text(), 0.0) for edit in self.edits]
        good = [number / self._factor for number in numbers if number is not None]
        if len(good) < len(numbers):
            self.try_value(None, "Type a number or a sum")
        else:
            self.try_value(Rate(self._start, tuple(good) if len(good) > 1 else good[0]), "")


class FormulaDialog(_MotionDialog):
    """A value computed from time, and from other values of the shot."""

    def __init__(self, session: Session, path: str, param: Param, region: str, parent: QWidget) -> None:
        super().__init__(session, path, param, "Formula", region, parent)
        raw = session.raw(path)
        now = session.shown(path)
        text = (
            raw.text if isinstance(raw, Formula) else ", ".join(f"{n:g}" for n in (now if param.size > 1 else (now,)))
        )
        self.edit = QLineEdit(text)
        self.edit.setAccessibleName("Formula")
        self.edit.setPlaceholderText("40 * sin(t * tau / 2)")
        self.edit.textChanged.connect(self._typed)
        form = QFormLayout()
        form.addRow("Formula", self.edit)
        self.outer.addLayout(form)
        self.finish_form(FormulaHelp(self.edit))

    def _typed(self) -> None:
        text, before = self.edit.text().strip(), self.session.raw(self.path)
        try:
            parsed(text, self.param.size)
            self.try_value(Formula(text), "")
            found = value_at(Formula(text), self.session.moment, self.param.size)
        except NimbleQuakeError as wrong:
            self.session.change(set_value(self.session.shot, self.path, before))
            self.try_value(None, wrong.line())
            return
        self.said.setText("Now " + ", ".join(f"{n:.4g}" for n in (found if isinstance(found, tuple) else (found,))))


class DriverDialog(_MotionDialog):
    """What drives a value, or one of the motions laid over it."""

    def __init__(
        self,
        session: Session,
        path: str,
        param: Param,
        kind: str,
        region: str,
        parent: QWidget,
        layer: int = -1,
        over: bool = False,
    ) -> None:
        raw = session.raw(path)
        motion_now = raw.over[layer] if isinstance(raw, Layered) and layer >= 0 else raw
        if isinstance(motion_now, Layered) and not over:
            motion_now = motion_now.first
        known = isinstance(motion_now, Driven) and motion_now.driver.kind == kind and not (over and layer < 0)
        motion = motion_now if known else motions.driven(session, path, kind, over=over)
        assert isinstance(motion, Driven)
        super().__init__(session, path, param, type(motion.driver).title, region, parent)
        self._raw = raw if raw is not None else session.shown(path)
        self._layer, self._over = layer, over
        self.form = MotionForm(session, param, motion, region, over=over)
        self.form.changed.connect(self._changed)
        self.finish_form(self.form)
        self._changed(motion)
        self.form.focus_first()

    def _changed(self, motion: Driven) -> None:
        raw = self._raw
        if self._over:
            first, layers = (raw.first, list(raw.over)) if isinstance(raw, Layered) else (raw, [])
            if self._layer >= 0:
                layers[self._layer] = motion
            else:
                layers.append(motion)
            value: Value = Layered(first, tuple(layers))
        else:
            value = Layered(motion, raw.over) if isinstance(raw, Layered) else motion
        self.try_value(value, "")
        try:
            value_at(value, self.session.moment, self.param.size)
        except NimbleQuakeError as wrong:
            self.said.setText(wrong.line())
