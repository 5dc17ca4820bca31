"""The colour dialog: a square of saturation and brightness, bars of hue and opacity, numbers, the shot's colours."""

from __future__ import annotations

import colorsys
from collections.abc import Callable, Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QLinearGradient, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from nimble_quake.desktop.access.bases import SpokenButton, SpokenPicture
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.desktop.widgets.slide_field import SlideField
from nimble_quake.errors import ShotError
from nimble_quake.params.kinds import Number, Rgba, hex_of, parse_hex

MOST_SWATCHES = 16


def _field(label: str, help: str, unit: str, factor: float) -> Number:
    return Number(
        label=label, help=help, hard=(0, 1), usual=(0, 1), unit=unit, factor=factor, decimals=0 if factor > 1 else 3
    )


PARTS = (
    _field("Hue", "Which colour, round the circle from red back to red", "°", 360.0),
    _field("Saturation", "How much colour; 0 is grey", "%", 100.0),
    _field("Brightness", "How bright; 0 is black", "%", 100.0),
    _field("Opacity", "How much it covers; 0 is clear", "%", 100.0),
)


class _Pad(SpokenPicture):
    """A box in which a place is chosen, each axis 0...1; arrow keys move it."""

    moved = pyqtSignal(float, float)

    def __init__(self, name: str, tip: str) -> None:
        super().__init__()
        self.place = (0.0, 0.0)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.setToolTip(tip)
        self.setCursor(Qt.CursorShape.CrossCursor)

    def _take(self, event: QMouseEvent) -> None:
        x = min(max(event.position().x() / max(1, self.width() - 1), 0.0), 1.0)
        y = min(max(event.position().y() / max(1, self.height() - 1), 0.0), 1.0)
        self.moved.emit(x, y)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._take(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._take(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        ways = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        if event is not None and event.key() in ways:
            (dx, dy), (x, y) = ways[Qt.Key(event.key())], self.place
            self.moved.emit(min(max(x + dx / 100, 0.0), 1.0), min(max(y + dy / 100, 0.0), 1.0))
        elif event is not None:
            super().keyPressEvent(event)

    def _paint_mark(self, painter: QPainter, *, line: bool) -> None:
        x, y = self.place[0] * (self.width() - 1), self.place[1] * (self.height() - 1)
        for pen in (QPen(QColor("#101010"), 3), QPen(QColor("#ffffff"), 1.5)):
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if line:
                painter.drawRect(QRectF(x - 3, 0.5, 6, self.height() - 1))
            else:
                painter.drawEllipse(QPointF(x, y), 5, 5)
        if self.hasFocus():
            painter.setPen(QPen(colour("chalk"), 1))
            painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))


class ColourSquare(_Pad):
    """Saturation to the right, brightness up, in one hue."""

    def __init__(self) -> None:
        super().__init__("Saturation and brightness", "Right: more colour. Up: brighter")
        self.hue = 0.0
        self.setFixedSize(QSize(240, 180))

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        across = QLinearGradient(0, 0, self.width(), 0)
        across.setColorAt(0, QColor("#ffffff"))
        across.setColorAt(1, QColor.fromHsvF(min(self.hue, 0.9999), 1.0, 1.0))
        painter.fillRect(self.rect(), across)
        down = QLinearGradient(0, 0, 0, self.height())
        down.setColorAt(0, QColor(0, 0, 0, 0))
        down.setColorAt(1, QColor(0, 0, 0, 255))
        painter.fillRect(self.rect(), down)
        self._paint_mark(painter, line=False)


class ColourBar(_Pad):
    """One number along a bar: hue, or opacity."""

    def __init__(self, name: str, tip: str) -> None:
        super().__init__(name, tip)
        self.stops: list[QColor] = []
        self.setFixedSize(QSize(240, 16))

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for n in range(0, self.width(), 8):  # something to see through to
            painter.fillRect(n, 0, 8, self.height(), QColor("#777777" if n // 8 % 2 else "#999999"))
        run = QLinearGradient(0, 0, self.width(), 0)
        for n, tint in enumerate(self.stops):
            run.setColorAt(n / max(1, len(self.stops) - 1), tint)
        painter.fillRect(self.rect(), run)
        self._paint_mark(painter, line=True)


class Swatch(SpokenButton):
    """A colour of the shot; a click takes it."""

    def __init__(self, rgba: Rgba, take: Callable[[Rgba], None]) -> None:
        super().__init__()
        self.rgba, self._take = rgba, take
        self.setFixedSize(22, 18)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"Colour {hex_of(rgba)}")
        self.setToolTip(hex_of(rgba))
        self.clicked.connect(lambda: take(rgba))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self._take(self.rgba)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space):
            self._take(self.rgba)
        elif event is not None:
            super().keyPressEvent(event)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), QColor.fromRgbF(*self.rgba))
        painter.setPen(QPen(colour("chalk" if self.hasFocus() else "line"), 1))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))


class ColourDialog(QDialog):
    """Choose a colour; every change is told at once (`changed`), so that the picture shows it."""

    changed = pyqtSignal(tuple)

    def __init__(self, rgba: Rgba, title: str, own: Sequence[Rgba] = (), parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.rgba = rgba
        self._hsv = colorsys.rgb_to_hsv(*rgba[:3])
        self.square = ColourSquare()
        self.hue = ColourBar("Hue", "Which colour")
        self.hue.stops = [QColor.fromHsvF(min(n / 6, 0.9999), 1, 1) for n in range(7)]
        self.opacity = ColourBar("Opacity", "How much it covers")
        self.square.moved.connect(lambda x, y: self._set_hsv(self._hsv[0], x, 1 - y))
        self.hue.moved.connect(lambda x, _: self._set_hsv(x, *self._hsv[1:]))
        self.opacity.moved.connect(lambda x, _: self._set((*self.rgba[:3], x)))
        self.fields = [SlideField(part, "lagoon", mark=False) for part in PARTS]
        for number, field in enumerate(self.fields):
            field.changing.connect(lambda value, number=number: self._set_part(number, value))
        self.hex = QLineEdit()
        self.hex.setAccessibleName("Hexadecimal code")
        self.hex.setToolTip("Red, green and blue, two digits each, as in #ffcc00; two more for opacity")
        self.hex.textEdited.connect(self._typed)
        buttons = QDialogButtonBox.StandardButton
        self.buttons = QDialogButtonBox(buttons.Ok | buttons.Cancel)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        self._lay_out(own)
        self._show()

    def _lay_out(self, own: Sequence[Rgba]) -> None:
        left, right = QVBoxLayout(), QGridLayout()
        for pad in (self.square, self.hue, self.opacity):
            left.addWidget(pad)
        right.setHorizontalSpacing(8)
        for row, (part, field) in enumerate(zip(PARTS, self.fields, strict=True)):
            right.addWidget(QLabel(part.label), row, 0)
            right.addWidget(field, row, 1)
        right.addWidget(QLabel("Code"), len(PARTS), 0)
        right.addWidget(self.hex, len(PARTS), 1)
        right.setColumnMinimumWidth(1, 110)
        right.setRowStretch(len(PARTS) + 1, 1)
        if own:
            right.addWidget(QLabel("In this shot"), len(PARTS) + 2, 0, 1, 2)
            swatches = QGridLayout()
            swatches.setSpacing(4)
            for number, rgba in enumerate(list(dict.fromkeys(own))[:MOST_SWATCHES]):
                swatches.addWidget(Swatch(rgba, self._set), number // 8, number % 8)
            swatches.setColumnStretch(8, 1)
            right.addLayout(swatches, len(PARTS) + 3, 0, 1, 2)
        both = QHBoxLayout()
        both.setSpacing(16)
        both.addLayout(left)
        both.addLayout(right)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(16, 16, 16, 14)
        outer.setSpacing(12)
        outer.addLayout(both)
        outer.addWidget(self.buttons)

    def _set_hsv(self, hue: float, saturation: float, brightness: float) -> None:
        self._hsv = (hue, saturation, brightness)
        r, g, b = colorsys.hsv_to_rgb(hue, saturation, brightness)
        self._tell((r, g, b, self.rgba[3]))

    def _set_part(self, number: int, value: float) -> None:
        if number == 3:
            self._tell((*self.rgba[:3], value))
        else:
            hsv = list(self._hsv)
            hsv[number] = value
            self._set_hsv(hsv[0], hsv[1], hsv[2])

    def _set(self, rgba: Rgba) -> None:
        hue, saturation, brightness = colorsys.rgb_to_hsv(*rgba[:3])
        keeps = saturation == 0 or brightness == 0  # grey has no hue: keep the one there was
        self._hsv = (self._hsv[0] if keeps else hue, saturation, brightness)
        self._tell(rgba)

    def _typed(self, text: str) -> None:
        try:
            rgba = parse_hex(text if text.startswith("#") else f"#{text}")
        except ShotError:
            return
        self._set(rgba)

    def _tell(self, rgba: Rgba) -> None:
        self.rgba = rgba
        self._show()
        self.changed.emit(rgba)

    def _show(self) -> None:
        hue, saturation, brightness = self._hsv
        self.square.hue, self.square.place = hue, (saturation, 1 - brightness)
        self.hue.place, self.opacity.place = (hue, 0.5), (self.rgba[3], 0.5)
        clear, full = QColor.fromRgbF(*self.rgba[:3], 0.0), QColor.fromRgbF(*self.rgba[:3], 1.0)
        self.opacity.stops = [clear, full]
        for field, value in zip(self.fields, (*self._hsv, self.rgba[3]), strict=True):
            field.show_value(value)
        if not self.hex.hasFocus():
            self.hex.setText(hex_of(self.rgba))
        for pad in (self.square, self.hue, self.opacity):
            pad.update()
