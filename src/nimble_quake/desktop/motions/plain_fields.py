"""A field for a value that is no part of the open shot yet: of a driver's settings, or of an exception."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QLineEdit, QPushButton, QWidget

from nimble_quake.conventions import Value
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.desktop.widgets.colour_dialog import ColourDialog
from nimble_quake.desktop.widgets.segments import Segments
from nimble_quake.desktop.widgets.slide_field import SlideField
from nimble_quake.motion.kinds import is_moving
from nimble_quake.params.kinds import (
    BandRef,
    Choice,
    Colour,
    MapRef,
    Number,
    Pairs,
    Param,
    PlateRef,
    Seed,
    Toggle,
    hex_of,
)
from nimble_quake.session.colours import colours_of
from nimble_quake.session.state import Session
from nimble_quake.shot.paths import map_path, plate_path

Changed = Callable[[Value], None]


def plain_field(session: Session, declared: Param, value: Value, region: str, changed: Changed) -> QWidget:
    """Return a field that shows a value and tells every new one."""
    if is_moving(value):
        widget: QWidget = QPushButton("moves as the original did")
        widget.setEnabled(False)
    elif isinstance(declared, Number):
        widget = _number(declared, value, region, changed)
    elif isinstance(declared, Seed):
        number = Number(
            label=declared.label, help=declared.help, hard=(0, declared.most), usual=(0, 100), whole=True, decimals=0
        )
        widget = _number(number, float(value), region, lambda new: changed(int(new)))
    elif isinstance(declared, Pairs):
        widget = _pair(declared, value, region, changed)
    elif isinstance(declared, Colour):
        widget = _colour(session, declared, value, changed)
    elif isinstance(declared, Toggle):
        widget = QCheckBox()
        widget.setChecked(bool(value))
        widget.toggled.connect(changed)
    elif isinstance(declared, Choice) and declared.row:
        widget = Segments([(o.value, o.label) for o in declared.options], region, declared.label)
        widget.show_value(value)
        widget.chosen.connect(changed)
    elif isinstance(declared, Choice | BandRef | PlateRef | MapRef):
        widget = _chooser(session, declared, value, changed)
    elif isinstance(value, str):
        widget = QLineEdit(value)
        widget.setFixedHeight(22)
        widget.textChanged.connect(changed)
    else:
        widget = QPushButton("as it was")
        widget.setEnabled(False)
    widget.setAccessibleName(declared.label)
    widget.setToolTip(declared.help)
    return widget


def _number(declared: Number, value: float, region: str, changed: Changed) -> SlideField:
    field = SlideField(declared, region, mark=False)
    field.show_value(value)
    field.changing.connect(changed)
    return field


def _pair(declared: Pairs, value: tuple[float, float], region: str, changed: Changed) -> QWidget:
    holder, now = QWidget(), list(value)
    row = QHBoxLayout(holder)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(4)

    def take(number: int, new: float) -> None:
        now[number] = new
        changed((now[0], now[1]))

    usual = (0.0, 1.0) if declared.factor != 1 else (0.0, 1920.0)
    number = Number(
        label=declared.label,
        help=declared.help,
        unit=declared.unit,
        hard=declared.hard,
        usual=usual,
        decimals=declared.decimals,
        factor=declared.factor,
    )
    for n, axis in enumerate("xy"):
        own = replace(number, label=f"{declared.label} {axis}")
        row.addWidget(_number(own, value[n], region, partial(take, n)))
    return holder


def _colour(session: Session, declared: Colour, value: Value, changed: Changed) -> QPushButton:
    button = QPushButton(hex_of(value))

    def ask() -> None:
        dialog = ColourDialog(value, declared.label, colours_of(session.shot), button)
        dialog.changed.connect(changed)
        dialog.changed.connect(lambda new: button.setText(hex_of(new)))
        dialog.exec()

    button.clicked.connect(ask)
    return button


def _chooser(session: Session, declared: Param, value: str, changed: Changed) -> Chooser:
    box = Chooser(declared.label)
    if isinstance(declared, Choice):
        for option in declared.options:
            box.addItem(f"{option.label}: {option.help}" if option.help else option.label, option.value)
    else:
        box.addItem("None", "")
        for id, name in _items(session, declared):
            box.addItem(name, id)
    box.setCurrentIndex(max(0, box.findData(value)))
    box.currentIndexChanged.connect(lambda n: changed(box.itemData(n)))
    return box


def _items(session: Session, declared: Param) -> list[tuple[str, str]]:
    """What of the shot a parameter may name: (id, name) each."""
    shot = session.shot
    if isinstance(declared, BandRef):
        return [(band.id, session.name_of(f"bands/{band.id}")) for band in shot.bands]
    if isinstance(declared, MapRef):
        return [(map.id, session.name_of(map_path(map.id))) for map in shot.maps]
    return [(plate.id, session.name_of(plate_path(plate.id))) for plate in shot.plates]
