"""A viewer: one picture of the frame, with zoom, pan, the probe's cross, and whatever is laid over it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFontMetricsF, QImage, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from nimble_quake.conventions import Bytes8
from nimble_quake.desktop.access.bases import SpokenPicture
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.viewers.view_state import ViewState
from nimble_quake.desktop.widgets.painting import painted

Overlay = Callable[[QPainter, "Viewer"], None]
NUDGES = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}

BGRX = QImage.Format.Format_RGB32
"""Looked up here, on the window's thread: PyQt makes an enumeration when it is first asked for, and two threads that
ask at once get two of them, of which it knows only one from then on."""


def image_of(bytes8: Bytes8) -> QImage:
    """Return a QImage over BGRX bytes; it keeps its own copy. On any thread."""
    height, width = bytes8.shape[:2]
    return QImage(bytes8.tobytes(), width, height, width * 4, BGRX).copy()


class Viewer(SpokenPicture):
    """Shows a frame. Mouse: wheel zooms about the pointer, the middle button pans."""

    probed = pyqtSignal(object)
    """The shot place under the pointer, or None."""
    pressed = pyqtSignal(object, object)
    """(shot place, event) of a left press no handle took."""

    def __init__(self, name: str, state: ViewState, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.state = state
        self.size_of_shot = (1920, 1080)
        self.image: QImage | None = None
        self.second: QImage | None = None
        self.split: float | None = None
        """The split's place as a share of the frame's width; None where nothing is split."""
        self.beyond = 0.0
        """How far the image goes on round the frame, shot pixels."""
        self.montage = False
        """The image is no frame but parts of it: nothing in it has a place of the shot."""
        self.notes: list[Overlay] = []
        """Painted beneath the overlays, and over parts of the frame too: what they show is said there."""
        self.overlays: list[Overlay] = []
        self.grips: list[Callable[[str, QPointF, QMouseEvent], bool]] = []
        self.tags = ("untouched", "result")
        """The names of the two sides of a split."""
        """Asked first on press, move and release; True takes the event."""
        self._shown: tuple[Bytes8 | None, Bytes8 | None] = None, None
        self._over: tuple[object, ...] = ()
        self.probe: QPointF | None = None
        self.tag = ""
        self.working = False
        """What is shown is not what was asked for: it is dimmed."""
        self._pan: QPointF | None = None
        self._splitting = False
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(240, 120)
        state.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(512, 288)

    def box(self) -> QRectF:
        """Return the area the frame may take."""
        return QRectF(self.rect())

    def frame_rect(self) -> QRectF:
        """Return where the frame lies in the widget."""
        return self.state.frame_rect(self.box(), *self.size_of_shot)

    def zoom(self) -> float:
        """Return widget pixels per shot pixel."""
        return self.state.zoom_in(self.box(), *self.size_of_shot)

    def to_shot(self, at: QPointF) -> QPointF:
        """Return the shot place at a widget place."""
        frame, zoom = self.frame_rect(), self.zoom()
        return QPointF((at.x() - frame.left()) / zoom, (at.y() - frame.top()) / zoom)

    def to_widget(self, x: float, y: float) -> QPointF:
        """Return the widget place of a shot place."""
        frame, zoom = self.frame_rect(), self.zoom()
        return QPointF(frame.left() + x * zoom, frame.top() + y * zoom)

    def show_picture(self, picture: Bytes8 | None, second: Bytes8 | None = None) -> None:
        """Show a picture of the frame, and the second one of a split; nothing is done where they are shown already."""
        if self._shown[0] is not picture or self._shown[1] is not second:
            self._shown = picture, second
            self.image, self.second = (None if each is None else image_of(each) for each in self._shown)
            self.update()

    def paint_where_new(self, *over: object) -> None:
        """Paint anew where what lies over the picture is something else than before; what shows itself tells itself."""
        over = (*over, self.tags, self.montage, self.beyond)
        if over != self._over:
            self._over = over
            self.update()

    def show_working(self, on: bool) -> None:
        """Dim what is shown while something newer is computed, or no more."""
        if on != self.working:
            self.working = on
            self.update()

    def show_probe(self, place: QPointF | None, tag: str) -> None:
        """Show the cross at a shot place, with a read-out."""
        if (place, tag) != (self.probe, self.tag):
            self.probe, self.tag = place, tag
            self.update()

    # Mouse and keys

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if event.button() == Qt.MouseButton.MiddleButton:
            self._pan = event.position()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
        elif event.button() == Qt.MouseButton.LeftButton:
            place = self.to_shot(event.position())
            if self.montage:
                return
            if self.split is not None and abs(self._split_x() - event.position().x()) < 8:
                self._splitting = True
            elif not any(grip("press", place, event) for grip in self.grips):
                self.pressed.emit(place, event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        place = self.to_shot(event.position())
        if self._pan is not None:
            self.state.pan(event.position() - self._pan, self.box(), *self.size_of_shot)
            self._pan = event.position()
            return
        if self._splitting:
            frame = self.frame_rect()
            self.split = min(max((event.position().x() - frame.left()) / frame.width(), 0.0), 1.0)
            self.update()
            return
        for grip in self.grips if not self.montage else ():
            grip("move", place, event)
        self.probed.emit(None if self.montage else place)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if event.button() == Qt.MouseButton.MiddleButton:
            self._pan = None
            self.unsetCursor()
        elif self._splitting:
            self._splitting = False
        else:
            for grip in self.grips:
                grip("release", self.to_shot(event.position()), event)

    def leaveEvent(self, event: QEvent | None) -> None:
        self.probed.emit(None)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            factor = 1.25 ** (event.angleDelta().y() / 120)
            self.state.zoom_about(event.position(), factor, self.box(), *self.size_of_shot)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() in NUDGES and self.probe is not None:
            far = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            dx, dy = NUDGES[Qt.Key(event.key())]
            self.probed.emit(self.probe + QPointF(dx * far, dy * far))
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            factor = 0.8 if event.key() == Qt.Key.Key_Minus else 1.25
            self.state.zoom_about(self.box().center(), factor, self.box(), *self.size_of_shot)
        else:
            super().keyPressEvent(event)

    # Painting

    def _split_x(self) -> float:
        frame = self.frame_rect()
        return frame.left() + frame.width() * (self.split or 0.0)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), colour("well"))
        frame = self.frame_rect()
        smooth = self.zoom() * self.devicePixelRatioF() < 3
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, smooth)
        if self.image is not None:
            painter.drawImage(self._image_rect(frame), self.image)
        if self.split is not None and self.second is not None:
            self._paint_split(painter, frame)
        if self.working:
            painter.fillRect(frame, colour("well", 110))
        if self.beyond:
            self._paint_frame(painter, frame)
        elif not self.state.fit:
            painter.setPen(QPen(colour("rail"), 1, Qt.PenStyle.DashLine))
            painter.drawRect(frame)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(11))
        for overlay in self.notes if self.montage else (*self.notes, *self.overlays):
            painter.save()
            overlay(painter, self)
            painter.restore()
        if self.working:
            self.paint_tag(painter, QPointF(self.width() - 8, self.height() - 26), "working", right=True)
        if self.probe is not None:
            self._paint_cross(painter, self.to_widget(self.probe.x(), self.probe.y()))

    def _image_rect(self, frame: QRectF) -> QRectF:
        far = self.beyond * self.zoom()
        return frame.adjusted(-far, -far, far, far)

    def _paint_frame(self, painter: QPainter, frame: QRectF) -> None:
        """Outline the frame, and dim what lies outside."""
        outside = QPainterPath()
        outside.addRect(self._image_rect(frame))
        outside.addRect(frame)  # the rule of odd and even leaves it out
        painter.fillPath(outside, colour("well", 150))
        painter.setPen(QPen(colour("chalk"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(frame)

    def _paint_split(self, painter: QPainter, frame: QRectF) -> None:
        x = self._split_x()
        painter.save()
        painter.setClipRect(QRectF(frame.left(), frame.top(), x - frame.left(), frame.height()))
        if self.second is not None:
            painter.drawImage(frame, self.second)
        painter.restore()
        painter.setPen(QPen(colour("chalk"), 1.5))
        painter.drawLine(QPointF(x, frame.top()), QPointF(x, frame.bottom()))
        painter.setBrush(colour("chalk"))
        painter.drawEllipse(QPointF(x, frame.center().y()), 4, 4)
        self.paint_tag(painter, QPointF(x - 8, frame.top() + 8), self.tags[0], right=True)
        self.paint_tag(painter, QPointF(x + 8, frame.top() + 8), self.tags[1])

    def _paint_cross(self, painter: QPainter, at: QPointF) -> None:
        """A cross with a gap in its middle and a dark casing, readable on anything."""
        for pen in (QPen(colour("well"), 4), QPen(colour("chalk"), 1.6)):
            painter.setPen(pen)
            for dx, dy in ((1, 0), (-1, 0), (0, 1), (0, -1)):
                painter.drawLine(QPointF(at.x() + dx * 4, at.y() + dy * 4), QPointF(at.x() + dx * 9, at.y() + dy * 9))
        if self.tag:
            right = at.x() > self.width() * 0.62
            above = at.y() > 50
            self.paint_tag(
                painter,
                QPointF(at.x() + (-16 if right else 16), at.y() - 30 if above else at.y() + 14),
                self.tag,
                right=right,
            )

    @staticmethod
    def paint_tag(painter: QPainter, at: QPointF, text: str, *, right: bool = False) -> QRectF:
        """Draw words on a dark plate, its upper left (or right) corner at a place; returns the plate."""
        metrics = QFontMetricsF(font(11))
        wide = metrics.horizontalAdvance(text) + 12
        rect = QRectF(at.x() - wide if right else at.x(), at.y(), wide, 18)
        ground = colour("ink")
        ground.setRgb(18, 18, 18, 224)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ground)
        painter.drawRoundedRect(rect, 3, 3)
        painter.setFont(font(11))
        painter.setPen(QColor(232, 230, 225))
        painter.drawText(rect, int(Qt.AlignmentFlag.AlignCenter), text)
        return rect
