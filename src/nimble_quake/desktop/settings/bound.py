"""The base of editors, and what is known of a value's motion."""

from __future__ import annotations

from typing import Any

from PyQt6.QtGui import QContextMenuEvent
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from nimble_quake.desktop.motions.menu import click_mark, motion_menu
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


class Bound(QWidget):
    """The base of editors: it knows its session, path and parameter."""

    def __init__(self, session: Session, path: str, param: Param, region: str) -> None:
        super().__init__()
        self.session, self.path, self.param, self.region = session, path, param, region
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self.row = row

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
