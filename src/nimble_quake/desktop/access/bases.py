"""Bases for what paints itself: Qt's own widgets, so that assistive technology finds a role and a value.

PyQt has no QAccessible: over AT-SPI a class of ours is a "filler", unless it stands on a class that Qt knows. These
take the role and the value from there, and nothing else: painting, mouse, keys and sizes are those of a plain widget,
and its subclass's own.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QStringListModel
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QComboBox, QDoubleSpinBox, QFrame, QLabel, QListView, QPushButton, QWidget

Handler = Callable[..., object]


def _plainly(handler: Handler) -> Handler:
    """Return a plain widget's handler, as one that another class can have."""

    def handle(self: QWidget, *args: object) -> object:
        return handler(self, *args)

    return handle


class PlainWidget:
    """Handles everything as a QWidget does, whatever it stands on."""


for _handler in (
    QWidget.event,
    QWidget.mousePressEvent,
    QWidget.mouseMoveEvent,
    QWidget.mouseReleaseEvent,
    QWidget.mouseDoubleClickEvent,
    QWidget.wheelEvent,
    QWidget.keyPressEvent,
    QWidget.keyReleaseEvent,
    QWidget.focusInEvent,
    QWidget.focusOutEvent,
    QWidget.enterEvent,
    QWidget.leaveEvent,
    QWidget.contextMenuEvent,
    QWidget.dragEnterEvent,
    QWidget.dragMoveEvent,
    QWidget.dragLeaveEvent,
    QWidget.dropEvent,
    QWidget.paintEvent,
    QWidget.resizeEvent,
    QWidget.showEvent,
    QWidget.hideEvent,
    QWidget.closeEvent,
    QWidget.changeEvent,
    QWidget.timerEvent,
    QWidget.inputMethodEvent,
    QWidget.sizeHint,
    QWidget.minimumSizeHint,
    QWidget.update,
):
    setattr(PlainWidget, _handler.__name__, _plainly(_handler))


class SpokenNumber(PlainWidget, QDoubleSpinBox):
    """A number: role "spin button", with its value, bounds and unit."""

    def say_bounds(self, low: float, high: float, decimals: int, unit: str) -> None:
        """Say what it can be, in the unit that is shown."""
        entry = self.lineEdit()
        if entry is not None:
            entry.hide()
        self.setDecimals(decimals)
        self.setRange(low, high)
        self.setSuffix(unit)

    def say_value(self, value: float) -> None:
        """Say what it is now."""
        self.setValue(value)


class SpokenChoice(PlainWidget, QComboBox):
    """One of a few: role "combo box", with what is chosen."""

    def say_choice(self, label: str) -> None:
        """Say what is chosen; what else there is, is read where it is painted."""
        if not self.count():
            self.addItem(label)
        elif label != self.itemText(0):
            self.setItemText(0, label)


class SpokenButton(PlainWidget, QPushButton):
    """What is pressed: role "push button"; `clicked` comes when it is pressed by name."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAutoDefault(False)


class SpokenPicture(PlainWidget, QLabel):
    """A picture: role "image"; what is seen stands in its description."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setPixmap(QPixmap(1, 1))

    def say(self, seen: str) -> None:
        """Say what is seen."""
        if seen != self.accessibleDescription():
            self.setAccessibleDescription(seen)


class SpokenList(PlainWidget, QListView):
    """Items of which one is current: role "list", with their names."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._names = QStringListModel(self)
        self.setModel(self._names)
        self.setFrameShape(QFrame.Shape.NoFrame)
        for inner in (self.viewport(), self.verticalScrollBar(), self.horizontalScrollBar()):
            if inner is not None:
                inner.hide()

    def say_items(self, names: Sequence[str], current: int) -> None:
        """Say what it holds, and which of them is current; -1 for none."""
        if self._names.stringList() != list(names):
            self._names.setStringList(names)
        self.setCurrentIndex(self._names.index(current))
