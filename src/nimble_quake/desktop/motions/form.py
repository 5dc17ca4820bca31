"""The fields of a driver, made from its declaration: base and amount in the value's unit, then its own settings."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QWidget

from nimble_quake.desktop.motions.plain_fields import plain_field
from nimble_quake.desktop.theme.look import font, tone
from nimble_quake.desktop.widgets.slide_field import SlideField
from nimble_quake.motion.driver import Driver
from nimble_quake.motion.kinds import Driven
from nimble_quake.params.kinds import Number, Param
from nimble_quake.session.moving.motions import usual_of
from nimble_quake.session.state import Session

LIMIT = 1e9
PARTS = {2: ("x", "y"), 4: ("red", "green", "blue", "alpha")}


class MotionForm(QWidget):
    """Fields of one driven value. `changed` tells the whole of it whenever a field changes."""

    changed = pyqtSignal(object)

    def __init__(self, session: Session, param: Param, motion: Driven, region: str, *, over: bool = False) -> None:
        super().__init__()
        self.session, self.param, self.motion, self.region = session, param, motion, region
        self._rows: dict[str, tuple[QLabel, QWidget]] = {}
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(5)
        self._grid.setColumnMinimumWidth(0, 84)
        driver = type(motion.driver)
        if not over:
            self._numbers("base", driver.base, motion.base)
        self._numbers("amount", driver.amount, motion.amount, factor=driver.factor)
        for name, declared in driver.declared.items():
            self._add(name, declared, motion.driver.values[name])
        self._show_wanted()

    def _row(self, name: str, words: str, help: str, widget: QWidget) -> None:
        label = QLabel(words)
        label.setFont(font())
        tone(label, "quiet")
        label.setToolTip(help)
        label.setBuddy(widget)
        row = self._grid.rowCount()
        self._grid.addWidget(label, row, 0)
        self._grid.addWidget(widget, row, 1)
        self._rows[name] = (label, widget)

    def _numbers(self, name: str, words: tuple[str, str], value: object, *, factor: bool = False) -> None:
        """A field for each number of the value."""
        numbers = value if isinstance(value, tuple) else (value,)
        low, high = (-2.0, 2.0) if factor else usual_of(self.param)
        unit = "" if factor else self.param.unit
        own = Number(
            label=words[0],
            help=words[1],
            hard=(-LIMIT, LIMIT),
            usual=(min(low, -high), high),
            unit=unit,
            decimals=2 if factor else self.param.decimals,
            factor=1.0 if factor else self.param.factor,
        )
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        fields: list[SlideField] = []
        for n, number in enumerate(numbers):
            part = PARTS.get(len(numbers), ("",) * len(numbers))[n]
            field = SlideField(replace(own, label=f"{own.label} {part}".strip()), self.region, mark=False)
            field.show_value(number)
            field.changing.connect(lambda _: self._numbers_changed(name, fields))
            fields.append(field)
            row.addWidget(field)
        holder.setFocusProxy(fields[0])
        self._row(name, *words, holder)

    def _numbers_changed(self, name: str, fields: list[SlideField]) -> None:
        values = tuple(field.number for field in fields)
        whole = values if len(values) > 1 else values[0]
        base, amount = (whole, self.motion.amount) if name == "base" else (self.motion.base, whole)
        self._take(Driven(base, amount, self.motion.driver))

    def _add(self, name: str, declared: Param, value: object) -> None:
        widget = plain_field(self.session, declared, value, self.region, lambda new: self._set(name, new))
        self._row(name, declared.label, declared.help, widget)

    def _set(self, name: str, value: object) -> None:
        driver: Driver = type(self.motion.driver)({**self.motion.driver.values, name: value})
        self._take(Driven(self.motion.base, self.motion.amount, driver))
        self._show_wanted()

    def _take(self, motion: Driven) -> None:
        self.motion = motion
        self.changed.emit(motion)

    def _show_wanted(self) -> None:
        """Show only the fields that count now."""
        for name, declared in type(self.motion.driver).declared.items():
            if declared.shown_when is None or name not in self._rows:
                continue
            counts = declared.shown_when.holds(self.motion.driver.values[declared.shown_when.name])
            for widget in self._rows[name]:
                widget.setVisible(counts)

    def focus_first(self) -> None:
        """Put the keyboard focus on the amount."""
        self._rows["amount"][1].setFocus()
