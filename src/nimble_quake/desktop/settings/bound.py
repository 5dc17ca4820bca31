"""The base of editors, and what is known of a value's motion."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from nimble_quake.desktop.access.bases import SpokenButton
from nimble_quake.desktop.motions.menu import click_mark, motion_menu
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.desktop.widgets.slide_field import MARK_WIDTH, STILL, paint_tremor
from nimble_quake.motion.kinds import is_moving, keys_of
from nimble_quake.params.kinds import Param
from nimble_quake.session.state import Session


def motion_of(session: Session, path: str) -> str:
    """Return "still", "moving" or "pinned" for a value at the playhead."""
    raw = session.raw(path)
    keys = keys_of(raw)
    if keys is not None:
        return "pinned" if any(round(key.frame) == session.frame for key in keys.keys) else "moving"
    return "moving" if is_moving(raw) else "still"


class Mark(SpokenButton):
    """The tremor mark of a value that is no number: a click sets a pin here, which holds until the next one."""

    def __init__(self, editor: Bound, *, always: bool) -> None:
        """always: it is seen while the value is still too."""
        super().__init__(editor)
        self.editor, self._always = editor, always
        self.setFixedSize(MARK_WIDTH, 20)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setToolTip("Click: a pin here; it holds, or goes over to the next one where it can")
        self.setAccessibleName(f"Motion of {editor.param.label}")
        self._motion = ""
        self.clicked.connect(editor.mark)

    def show_motion(self, motion: str) -> None:
        """Show how the value moves now."""
        if motion != self._motion:
            self._motion = motion
            self.setAccessibleDescription(motion)
            self.setVisible(self._always or motion != STILL)
            self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.editor.mark()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.editor.mark()
        elif event is not None:
            super().keyPressEvent(event)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        paint_tremor(painter, QPointF(10, 10), self._motion or STILL, colour(self.editor.region))
        if self.hasFocus():
            painter.setPen(QPen(colour("chalk"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(self.rect().adjusted(0, 0, -1, -1), 3, 3)


class Bound(QWidget):
    """The base of editors: it knows its session, path and parameter."""

    def __init__(self, session: Session, path: str, param: Param, region: str) -> None:
        super().__init__()
        self.session, self.path, self.param, self.region = session, path, param, region
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self.row = row
        self._mark: Mark | None = None

    def add_mark(self, *, always: bool) -> None:
        """Put a mark before the editor. always: it is seen while the value is still too."""
        self._mark = Mark(self, always=always)
        self.row.insertWidget(0, self._mark, 0, Qt.AlignmentFlag.AlignTop)
        self.show_mark()

    def show_mark(self) -> None:
        """Show how the value moves now, where a mark says it."""
        if self._mark is not None:
            self._mark.show_motion(motion_of(self.session, self.path))

    def refresh(self) -> None:
        """Show the document's value, which does not count as a change."""

    def begin(self) -> None:
        self.session.begin(f"Change {self.session.label_of(self.path)}")

    def send(self, value: object) -> None:
        self.session.set(self.path, value)

    def end(self) -> None:
        self.session.commit()

    def mark(self) -> None:
        click_mark(self.session, self.path, self)

    def gesture(self, widget: Any) -> None:
        """Join a widget's began, changing and ended."""
        widget.began.connect(self.begin)
        widget.changing.connect(self.send)
        widget.ended.connect(self.end)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event:
            motion_menu(self.session, self.path, self).exec(event.globalPos())
