"""The picture alone: over the whole screen, or in a window of its own on another one; looped at true rate."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QHideEvent, QKeyEvent, QMouseEvent, QPainter, QResizeEvent, QScreen
from PyQt6.QtWidgets import QApplication, QVBoxLayout, QWidget

from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.desktop.viewers.view_state import ViewState
from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.render.shown.request import BenchResponse
from nimble_quake.session.state import Session
from nimble_quake.session.states.sides import flip

HINT = "Space plays · arrows step · Home, End · U untouched · A the other side · F whole screen · Escape leaves"


class Show(QWidget):
    """Shows each frame as it comes. `resized` is called when it needs frames of another size, or none any more."""

    def __init__(
        self, session: Session, frames: Frames, resized: Callable[[], object], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self.session, self.frames, self._resized = session, frames, resized
        self.setWindowTitle("Show - Nimble Quake")
        self.viewer = Viewer("Show", ViewState())
        self.viewer.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.viewer.overlays.append(self._paint_hint)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.viewer)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._hint = True
        self._before = "result"
        frames.arrived.connect(self._take)
        frames.partly_arrived.connect(self._take)

    def open(self, screen: QScreen | None) -> None:
        """Show on a screen of its own where there is one, else over the whole of this one."""
        screens = QApplication.screens()
        other = next((each for each in screens if each is not screen), screen)
        self._hint, self._before = True, self.frames.picture_view
        if other is not None:
            self.setGeometry(other.geometry())
        self.showFullScreen()
        self.activateWindow()
        self.setFocus()
        self._fit()

    def scale(self) -> float:
        """Return the scale at which frames are wanted, device pixels a shot pixel; 0 while it is hidden."""
        return 0.0 if not self.isVisible() else self.viewer.zoom() * self.devicePixelRatioF()

    def _fit(self) -> None:
        shot = self.session.shot
        self.viewer.size_of_shot = (shot.width, shot.height)
        self._resized()

    def _take(self, response: BenchResponse) -> None:
        if not self.isVisible():
            return
        shot = response.request.shot
        self.viewer.size_of_shot = (shot.width, shot.height)
        if response.picture is not None:
            self.viewer.show_picture(response.picture, response.untouched)

    def _paint_hint(self, painter: QPainter, viewer: Viewer) -> None:
        if self._hint:
            middle = viewer.rect().center().x() - painter.fontMetrics().horizontalAdvance(HINT) / 2
            at = viewer.rect().bottomLeft().toPointF()
            at.setX(middle)
            at.setY(at.y() - 40)
            viewer.paint_tag(painter, at, HINT)

    def _view(self, view: str) -> None:
        self.frames.picture_view = view
        self.frames.ask()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        last = self.session.shot.length - 1
        does: dict[int, Callable[[], object]] = {
            Qt.Key.Key_Escape: self.close,
            Qt.Key.Key_Space: self.frames.toggle,
            Qt.Key.Key_Left: lambda: self.session.set_frame(self.session.frame - 1),
            Qt.Key.Key_Right: lambda: self.session.set_frame(self.session.frame + 1),
            Qt.Key.Key_Home: lambda: self.session.set_frame(0),
            Qt.Key.Key_End: lambda: self.session.set_frame(last),
            Qt.Key.Key_U: lambda: self._view("untouched" if self.frames.picture_view != "untouched" else "result"),
            Qt.Key.Key_A: lambda: flip(self.session),
            Qt.Key.Key_F: lambda: self.showNormal() if self.isFullScreen() else self.showFullScreen(),
        }
        run = does.get(event.key())
        if run is None:
            super().keyPressEvent(event)
            return
        self._hint = False
        run()
        self.viewer.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self._hint = False
        self.viewer.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._fit()

    def hideEvent(self, event: QHideEvent | None) -> None:
        self.frames.picture_view = self._before
        self._resized()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), colour("well"))
