"""The slide-field: a number with its unit, a foot line that shows where it lies, and a tremor mark for its motion."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFocusEvent,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPen,
    QWheelEvent,
)
from PyQt6.QtWidgets import QSizePolicy, QWidget

from nimble_quake.desktop.access.bases import SpokenNumber
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.arithmetic import shown_number, typed_number
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.desktop.widgets.typed_entry import TypedEntry
from nimble_quake.params.kinds import Number, shown

STILL, MOVING, PINNED = "still", "moving", "pinned"
MARK_WIDTH = 17
PADDING = 8


def with_gap(unit: str) -> str:
    """Return a unit with what parts it from its number."""
    return unit if unit in ("", "°") else f" {unit}"


def paint_tremor(painter: QPainter, at: QPointF, motion: str, tint: QColor) -> None:
    """Draw the tremor mark: a low wave while still, a zigzag while moving, with a dot where a pin stands here."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    path = QPainterPath(QPointF(at.x() - 4.5, at.y()))
    if motion == STILL:
        path.cubicTo(at.x() - 3, at.y() - 3, at.x() - 1.5, at.y() - 3, at.x(), at.y())
        path.cubicTo(at.x() + 1.5, at.y() + 3, at.x() + 3, at.y() + 3, at.x() + 4.5, at.y())
        painter.setPen(QPen(colour("dim"), 1.2))
    else:
        for x, y in ((-2.5, -4), (0.0, 4), (2.5, -4), (4.5, 2)):
            path.lineTo(at.x() + x, at.y() + y)
        painter.setPen(QPen(tint, 1.7))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(path)
    if motion == PINNED:
        painter.setBrush(tint)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawEllipse(QPointF(at.x() + 6.5, at.y() + 0.5), 2.1, 2.1)


class SlideField(SpokenNumber):
    """A number. Drag sideways (Shift fine, Ctrl coarse), wheel, arrow keys, or click and type a number or a sum."""

    began = pyqtSignal()
    changing = pyqtSignal(float)
    """The new value, in the document's unit (a share, not %)."""
    ended = pyqtSignal()
    mark_clicked = pyqtSignal()

    def __init__(
        self, param: Number, region: str = "chalk", parent: QWidget | None = None, *, mark: bool = True
    ) -> None:
        super().__init__(parent)
        self.param, self.region = param, region
        self._value, self._motion = param.default, STILL
        self._drag: tuple[float, float] | None = None
        self._dragged = self._active = False
        self._mark = mark and param.animatable
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setAccessibleName(param.label)
        unit = f" ({param.unit})" if param.unit else ""
        self.setToolTip(f"{param.help}{unit}")
        low, high = param.hard
        self.say_bounds(low * param.factor, high * param.factor, param.decimals, with_gap(param.unit))
        self.say_value(self._value * param.factor)

    def sizeHint(self) -> QSize:
        return QSize(78, 20)

    def minimumSizeHint(self) -> QSize:
        return QSize(48, 20)

    @property
    def number(self) -> float:
        """The value shown, in the document's unit."""
        return self._value

    def show_value(self, value: float, motion: str = STILL) -> None:
        """Show a value of the document; does not count as a change."""
        if (value, motion) != (self._value, self._motion):
            self._value, self._motion = value, motion
            said = self.param.zero if value == 0 and self.param.zero else f"{self.text()} {self.param.unit}"
            self.setAccessibleDescription(f"{said}, {motion}")
            self.say_value(value * self.param.factor)
            self.update()

    def text(self) -> str:
        """Return the number as shown, without its unit."""
        return shown_number(self._value * self.param.factor, self.param.decimals)

    def step_of(self, modifiers: Qt.KeyboardModifier) -> float:
        """Return how far a pixel of a drag, or a turn of the wheel, goes while these keys are down."""
        low, high = self.param.usual
        step = 1.0 if self.param.whole else (high - low) / 200
        shown = step * self.param.factor
        if not self.param.whole:
            power = 10 ** len(str(int(shown))) / 10 if shown >= 1 else 10.0**-self.param.decimals
            shown = max(round(shown / power) * power, 10.0**-self.param.decimals)
            step = shown / self.param.factor
        if modifiers & Qt.KeyboardModifier.ShiftModifier and not self.param.whole:
            return step / 10
        return step * 10 if modifiers & Qt.KeyboardModifier.ControlModifier else step

    def _change(self, value: float) -> None:
        value = self.param.clamp(value)
        if value == self._value:
            return
        if not self._active:
            self._active = True
            self.began.emit()
        self._value = value
        self.say_value(value * self.param.factor)
        self.update()
        self.changing.emit(value)

    def _end(self) -> None:
        if self._active:
            self._active = False
            self.ended.emit()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        if self._mark and event.position().x() < MARK_WIDTH:
            self.mark_clicked.emit()
            return
        self._drag, self._dragged = (event.position().x(), self._value), False

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._drag is None:
            return
        start, value = self._drag
        way = event.position().x() - start
        if not self._dragged and abs(way) < 3:
            return
        self._dragged = True
        self._change(value + round(way) * self.step_of(event.modifiers()))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._drag is None:
            return
        self._drag = None
        if self._dragged:
            self._end()
        else:
            self.edit_text()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        if not self.hasFocus():
            event.ignore()
            return
        self._change(self._value + event.angleDelta().y() / 120 * self.step_of(event.modifiers()))
        self._end()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        ways = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1}
        if event.key() in ways:
            self._change(self._value + ways[Qt.Key(event.key())] * self.step_of(event.modifiers()))
            self._end()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_F2):
            self.edit_text()
        elif event.text() and event.text() in "0123456789-.+*/(":
            self.edit_text(event.text())
        else:
            super().keyPressEvent(event)

    def edit_text(self, typed: str = "") -> None:
        """Open the field for typing."""
        for left in self.findChildren(TypedEntry):
            if left.isVisible():
                left.setFocus()
                return
        cover = QWidget(self)  # an entry that lies in a spin box itself is drawn as part of it, without a ground
        cover.setGeometry(self.rect())
        cover.show()
        editor = TypedEntry(self, typed or self.text().replace("−", "-"), self._typed, cover)
        editor.destroyed.connect(cover.deleteLater)
        editor.setAccessibleName(f"{self.param.label}, typed")
        editor.setAlignment(Qt.AlignmentFlag.AlignRight)
        editor.setGeometry(self.rect())
        editor.open(select=not typed)

    def _typed(self, text: str) -> str:
        """Take a typed number or sum; returns why it cannot be taken."""
        number = typed_number(text, self._value * self.param.factor)
        if number is None:
            return f"{shown(text)} is no number: type one, or a sum such as 1920/3"
        self._change(number / self.param.factor)
        self._end()
        return ""

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self.update()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        focused = self.hasFocus() or self._drag is not None
        painter.setBrush(colour("edited" if focused else "raised"))
        painter.setPen(colour("chalk") if focused else QColor(0, 0, 0, 0))
        painter.drawRoundedRect(box, 3, 3)
        self._paint_foot(painter, box)
        if self._mark:
            paint_tremor(painter, QPointF(10, box.center().y()), self._motion, colour(self.region))
        self._paint_text(painter, box)

    def _paint_foot(self, painter: QPainter, box: QRectF) -> None:
        low, high = self.param.usual
        left, right, y = box.left() + 4, box.right() - 4, box.bottom() - 2
        painter.setPen(QPen(colour("rail"), 1))
        painter.drawLine(QPointF(left, y), QPointF(right, y))

        def at(value: float) -> float:
            return left + (right - left) * min(max((value - low) / (high - low), 0.0), 1.0)

        here, zero = at(self._value), at(max(low, 0.0))
        painter.setPen(QPen(colour(self.region), 2))
        if abs(here - zero) >= 1:
            painter.drawLine(QPointF(zero, y), QPointF(here, y))
        else:
            painter.drawLine(QPointF(here - 1, y - 1), QPointF(here + 1, y - 1))

    def room(self) -> float:
        """Return how wide a number may be, in pixels of the screen: it stands beside the mark."""
        return self.width() - PADDING - (MARK_WIDTH if self._mark else 0)

    def fitted(self) -> tuple[str, str]:
        """Return the number and its unit as far as they fit beside the mark: decimals go first, then the unit."""
        text, unit, shown_as = self.text(), with_gap(self.param.unit), self._value * self.param.factor
        room = self.room()
        wide = QFontMetricsF(font()).horizontalAdvance
        if self._value == 0 and self.param.zero and wide(self.param.zero) <= room:
            return self.param.zero, ""
        if wide(text + unit) > room and "." in text and abs(shown_as) >= 10:
            text = text.split(".")[0]
        if wide(text) > room and abs(shown_as) >= 1e5:
            text = f"{shown_as:.1e}".replace("-", "−").replace("e+0", "e").replace(".0e", "e")
        return (text, unit) if wide(text + unit) <= room else (text, "")

    def _paint_text(self, painter: QPainter, box: QRectF) -> None:
        painter.setFont(font())
        text, unit = self.fitted()
        right = box.right() - 5
        if unit:
            wide = QFontMetricsF(font()).horizontalAdvance(unit)
            painter.setPen(colour("quiet"))
            painter.drawText(QRectF(right - wide, box.top(), wide, box.height() - 1), _MIDDLE_RIGHT, unit.strip())
            right -= wide
        painter.setPen(colour("text" if self.isEnabled() else "dim"))
        painter.drawText(QRectF(0, box.top(), right, box.height() - 1), _MIDDLE_RIGHT, text)


_MIDDLE_RIGHT = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
