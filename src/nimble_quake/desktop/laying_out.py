"""How the bench's regions share the window."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QScrollArea, QSplitter, QWidget


def side_by_side(map_bay: QWidget, middle: QWidget, picture_bay: QWidget) -> QSplitter:
    """Return the map, what drives what, and the picture in a row; a wider window goes to the outer two."""
    bays = QSplitter(Qt.Orientation.Horizontal)
    for bay in (map_bay, middle, picture_bay):
        bays.addWidget(bay)
    bays.setHandleWidth(6)
    bays.setSizes([528, 212, 528])
    for index, stretch in enumerate((1, 0, 1)):
        bays.setStretchFactor(index, stretch)
        bays.setCollapsible(index, False)
    middle.setMinimumWidth(176)
    map_bay.setMinimumWidth(290)
    picture_bay.setMinimumWidth(290)
    return bays


def one_above_the_other(rows: QSplitter, bays: QWidget, time: QWidget) -> None:
    """Put the bays over the time strip; a taller window goes to the bays."""
    rows.addWidget(bays)
    rows.addWidget(time)
    rows.setHandleWidth(6)
    rows.setSizes([552, 192])
    rows.setStretchFactor(0, 1)
    rows.setStretchFactor(1, 0)
    rows.setCollapsible(0, False)


def show_in_area(widget: QWidget) -> None:
    """Scroll the panel a widget lies in so far that it is seen."""
    parent = widget.parentWidget()
    while parent is not None:
        if isinstance(parent, QScrollArea):
            parent.ensureWidgetVisible(widget, 8, 8)
            return
        parent = parent.parentWidget()
