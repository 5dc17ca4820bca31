"""A list that opens."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPaintEvent, QWheelEvent
from PyQt6.QtWidgets import QComboBox, QStyle, QStyleOptionComboBox, QStylePainter

TALL, NARROWEST = 20, 22


def name_entry(box: QComboBox) -> None:
    """Call what is typed into a list as the list is called."""
    entry = box.lineEdit()
    if entry is not None:
        entry.setAccessibleName(box.accessibleName())


class Chooser(QComboBox):
    """A list that opens; the wheel only turns it when it has the focus, and long words do not widen it."""

    opens = pyqtSignal()
    """It is about to open: what it lists can be looked at once more."""

    def __init__(self, name: str, wide: int = 0) -> None:
        """wide: how many pixels it has where there are as many; in a narrow bay it gives way."""
        super().__init__()
        self._wide = wide
        if wide:
            self.setMaximumWidth(wide)
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumWidth(40)
        self.setFixedHeight(TALL)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and not self.hasFocus():
            event.ignore()
        else:
            super().wheelEvent(event)

    def sizeHint(self) -> QSize:
        """As wide as it is meant to be, if that is said; else as wide as the place it is given.

        Not by a size policy of Qt's: to set one makes the list that opens, of each chooser there is.
        """
        return QSize(self._wide or NARROWEST, TALL)

    def minimumSizeHint(self) -> QSize:
        return QSize(NARROWEST, TALL)

    def room(self) -> int:
        """Return the pixels its words have."""
        return self.width() - 21

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, option = QStylePainter(self), QStyleOptionComboBox()
        self.initStyleOption(option)
        option.currentText = self.fontMetrics().elidedText(
            option.currentText, Qt.TextElideMode.ElideRight, max(0, self.room())
        )
        painter.drawComplexControl(QStyle.ComplexControl.CC_ComboBox, option)
        painter.drawControl(QStyle.ControlElement.CE_ComboBoxLabel, option)
        painter.end()

    def showPopup(self) -> None:
        self.opens.emit()
        view = self.view()
        if view is not None:
            view.setMinimumWidth(max(self.width(), view.sizeHintForColumn(0) + 28))
        super().showPopup()
