"""What a tremor mark opens: the motion of a value."""

from __future__ import annotations

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLabel, QLineEdit, QMenu, QWidget

from nimble_quake.desktop.widgets.arithmetic import typed_number
from nimble_quake.errors import FormulaError
from nimble_quake.motion.formula import FUNCTIONS, NAMES, evaluate
from nimble_quake.motion.kinds import Formula, Keys, Rate
from nimble_quake.params.kinds import Param
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.set_value import set_value


def motion_menu(session: Session, path: str, parent: QWidget) -> QMenu:
    """Return the menu of a value's motion: pins, kinds of motion, back to the default."""
    menu = QMenu(parent)
    raw, param = session.raw(path), session.param(path)
    if param is None:
        return menu
    if param.animatable:
        here = isinstance(raw, Keys) and any(key.frame == session.frame for key in raw.keys)
        menu.addAction("Take the pin away here" if here else "Set a pin here", lambda: session.start_moving(path))
        menu.addSeparator()
        kinds = {"still": "Still", "keys": "Keys", "rate": "Rate …", "formula": "Formula …"}
        if not param.size:  # a list of points has no speed
            kinds = {"still": "Still", "keys": "Keys"}
        names = {"Keys": "keys", "Rate": "rate", "Formula": "formula"}
        now = names.get(type(raw).__name__, "still")
        for kind, label in kinds.items():
            action = menu.addAction(label, lambda kind=kind: choose_motion(session, path, kind, parent))
            assert action is not None
            action.setCheckable(True)
            action.setChecked(kind == now)
        menu.addSeparator()
    label = f"Back to default: {session.label_of(path)}"
    menu.addAction("Back to its default", lambda: session.edit(label, set_value(session.shot, path, None)))
    return menu


def click_mark(session: Session, path: str, parent: QWidget) -> None:
    """A click on a tremor mark: a still value gets its first pin here, a moving one shows its motion."""
    if isinstance(session.raw(path), Keys | Rate | Formula):
        motion_menu(session, path, parent).exec(parent.mapToGlobal(QPoint(0, parent.height())))
    else:
        session.start_moving(path)


def choose_motion(session: Session, path: str, kind: str, parent: QWidget) -> None:
    """Give a value another kind of motion; a rate or formula is asked for."""
    param = session.param(path)
    if param is None:
        return
    if kind == "rate":
        RateDialog(session, path, param, parent).exec()
    elif kind == "formula":
        FormulaDialog(session, path, param, parent).exec()
    else:
        session.set_motion(path, kind)


class _MotionDialog(QDialog):
    """A dialog that tries the motion in the picture while it is typed."""

    def __init__(self, session: Session, path: str, param: Param, title: str, parent: QWidget) -> None:
        super().__init__(parent)
        self.session, self.path, self.param = session, path, param
        self.setWindowTitle(f"{title}: {session.label_of(path)}")
        self.setMinimumWidth(420)
        self.form = QFormLayout(self)
        self.said = QLabel()
        self.said.setWordWrap(True)
        buttons = QDialogButtonBox.StandardButton
        self.buttons = QDialogButtonBox(buttons.Ok | buttons.Cancel)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        session.begin(f"{title} of {session.label_of(path)}")

    def finish_form(self) -> None:
        """Put the line that says what is wrong, and the buttons, under the fields."""
        self.form.addRow(self.said)
        self.form.addRow(self.buttons)

    def try_value(self, value: object, said: str) -> None:
        """Show a motion in the picture; None leaves it as it is."""
        good = value is not None
        self.said.setText(said)
        button = self.buttons.button(QDialogButtonBox.StandardButton.Ok)
        if button:
            button.setEnabled(good)
        if good:
            self.session.change(set_value(self.session.shot, self.path, value))

    def accept(self) -> None:
        self.session.commit()
        super().accept()

    def reject(self) -> None:
        self.session.abort()
        super().reject()


class RateDialog(_MotionDialog):
    """A steady change per second that never ends."""

    def __init__(self, session: Session, path: str, param: Param, parent: QWidget) -> None:
        super().__init__(session, path, param, "Rate", parent)
        raw = session.raw(path)
        speed = raw.per_second if isinstance(raw, Rate) else (0.0,) * param.size if param.size > 1 else 0.0
        self._start = raw.start if isinstance(raw, Rate) else session.shown(path)
        factor, unit = getattr(param, "factor", 1.0), getattr(param, "unit", "")
        speeds = speed if isinstance(speed, tuple) else (speed,)
        names = ("x", "y") if param.size == 2 else ("red", "green", "blue", "alpha") if param.size == 4 else ("",)
        self._factor = factor
        self.edits = []
        for name, number in zip(names, speeds, strict=True):
            edit = QLineEdit(f"{number * factor:g}")
            edit.setAccessibleName(f"Change per second {name}".strip())
            edit.textChanged.connect(self._typed)
            self.form.addRow(f"Change of {name} per second ({unit})" if name else f"Change per second ({unit})", edit)
            self.edits.append(edit)
        self.finish_form()

    def _typed(self) -> None:
        numbers = [typed_number(edit.text(), 0.0) for edit in self.edits]
        good = [number / self._factor for number in numbers if number is not None]
        if len(good) < len(numbers):
            self.try_value(None, "Type a number or a sum")
        else:
            self.try_value(Rate(self._start, tuple(good) if len(good) > 1 else good[0]), "")


class FormulaDialog(_MotionDialog):
    """A value computed from time."""

    def __init__(self, session: Session, path: str, param: Param, parent: QWidget) -> None:
        super().__init__(session, path, param, "Formula", parent)
        raw = session.raw(path)
        now = session.shown(path)
        text = (
            raw.text if isinstance(raw, Formula) else ", ".join(f"{n:g}" for n in (now if param.size > 1 else (now,)))
        )
        self.edit = QLineEdit(text)
        self.edit.setAccessibleName("Formula")
        self.edit.setPlaceholderText("40 * sin(t * tau / 2)")
        self.edit.textChanged.connect(self._typed)
        self.form.addRow("Formula", self.edit)
        names = QLabel("Names: " + ", ".join(NAMES) + "\nFunctions: " + ", ".join(FUNCTIONS))
        names.setWordWrap(True)
        self.form.addRow(names)
        self.finish_form()

    def _typed(self) -> None:
        text = self.edit.text().strip()
        try:
            found = evaluate(text, self.session.moment.names(), self.param.size)
        except FormulaError as wrong:
            self.try_value(None, wrong.line())
            return
        self.try_value(Formula(text), "Now " + ", ".join(f"{n:.4g}" for n in found))
