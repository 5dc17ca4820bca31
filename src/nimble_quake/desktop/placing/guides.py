"""Lines over the picture that help to place things: thirds, centre lines, safe areas, and the shot's own."""

from __future__ import annotations

from dataclasses import dataclass

import msgspec
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QMenu, QWidget

from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.session.state import Session
from nimble_quake.session.storage.preferences import Preferences

GRAB = 4.0
"""Screen pixels beside an own line that it is dragged by."""
OWN = "own"


@dataclass(frozen=True)
class Preset:
    """Lines at fractions of the frame, the same on both axes."""

    word: str
    at: tuple[float, ...]


PRESETS = {
    "thirds": Preset("Thirds", (1 / 3, 2 / 3)),
    "centre": Preset("Centre lines", (0.5,)),
    "safe": Preset("Safe areas: 93 % for what happens, 90 % for type", (0.035, 0.965, 0.05, 0.95)),
}
"""Safe areas: SMPTE ST 2046-1, action 93 % and title 90 % of width and height (from memory)."""
BOXES = frozenset({"safe"})
"""What is drawn as boxes, not as lines over the whole frame."""


class Guides:
    """Draws the lines that are switched on, and lets the own ones be dragged; one dragged off the frame is gone."""

    def __init__(self, session: Session, viewer: Viewer, preferences: Preferences) -> None:
        self.session, self.viewer, self.preferences = session, viewer, preferences
        self._drag: tuple[int, float] | None = None
        viewer.overlays.insert(0, self.paint)
        viewer.grips.append(self.take)

    def toggle(self, name: str) -> None:
        """Show the lines of a name, or hide them."""
        shown = self.preferences.guides
        self.preferences.guides = [other for other in shown if other != name] if name in shown else [*shown, name]
        word = PRESETS[name].word.partition(":")[0] if name in PRESETS else "Own guides"
        self.session.message.emit(f"{word} {'shown' if name in self.preferences.guides else 'hidden'}")
        self.viewer.update()

    def toggle_snapping(self) -> None:
        """Let what is dragged in the picture snap, or not."""
        self.preferences.snaps = not self.preferences.snaps
        snaps = self.preferences.snaps
        said = "to guides, plates and the frame; Ctrl lets go" if snaps else "to nothing"
        self.session.message.emit(f"What is dragged in the picture snaps {said}")

    def add(self, axis: int) -> None:
        """Add an own line through the middle of the frame: upright (0) or level (1)."""
        if OWN not in self.preferences.guides:
            self.preferences.guides = [*self.preferences.guides, OWN]
        side = (self.session.shot.width, self.session.shot.height)[axis]
        self._set("Add a guide", axis, (*self._own(axis), side / 2))
        self.session.message.emit("Drag the line in the picture; dragged off the frame it is gone")

    def clear(self) -> None:
        """Take all own lines away."""
        self.session.edit("Take guides away", msgspec.structs.replace(self.session.shot, guides_x=(), guides_y=()))

    def lines(self) -> tuple[list[float], list[float]]:
        """Return where the lines that are shown lie: their x, their y, in shot pixels."""
        shot, shown = self.session.shot, self.preferences.guides
        fractions = [at for name, preset in PRESETS.items() if name in shown for at in preset.at]
        found = [at * shot.width for at in fractions], [at * shot.height for at in fractions]
        if OWN in shown:
            found[0].extend(shot.guides_x)
            found[1].extend(shot.guides_y)
        return found

    def menu(self, owner: QWidget) -> QMenu:
        """Return the menu of lines."""
        menu = QMenu(owner)
        for name, word in {**{name: preset.word for name, preset in PRESETS.items()}, OWN: "Own lines"}.items():
            action = menu.addAction(word, lambda name=name: self.toggle(name))
            assert action is not None
            action.setCheckable(True)
            action.setChecked(name in self.preferences.guides)
        menu.addSeparator()
        menu.addAction("Add an upright line", lambda: self.add(0))
        menu.addAction("Add a level line", lambda: self.add(1))
        clear = menu.addAction("Take own lines away", self.clear)
        snaps = menu.addAction("What is dragged snaps", self.toggle_snapping)
        assert clear is not None
        assert snaps is not None
        clear.setEnabled(bool(self.session.shot.guides_x or self.session.shot.guides_y))
        snaps.setCheckable(True)
        snaps.setChecked(self.preferences.snaps)
        return menu

    # Mouse

    def take(self, what: str, place: QPointF, event: QMouseEvent) -> bool:
        """Handle a press, move or release in the viewer; True where an own line took it."""
        if what == "press" and OWN in self.preferences.guides:
            found = self._under(place)
            if found is not None:
                self._drag = found
                self.session.begin("Move a guide")
            return found is not None
        if self._drag is None:
            return False
        if what == "move":
            axis, old = self._drag
            now = round((place.x(), place.y())[axis], 1)
            self._change(axis, (*self._without(axis, old), now))
            self._drag = (axis, now)
        elif what == "release":
            (axis, at), self._drag = self._drag, None
            side = (self.session.shot.width, self.session.shot.height)[axis]
            if not 0 <= at <= side:
                self._change(axis, self._without(axis, at))
            self.session.commit()
        return True

    def _under(self, place: QPointF) -> tuple[int, float] | None:
        reach = GRAB / self.viewer.zoom()
        for axis in (0, 1):
            for at in self._own(axis):
                if abs((place.x(), place.y())[axis] - at) <= reach:
                    return axis, at
        return None

    def _own(self, axis: int) -> tuple[float, ...]:
        return self.session.shot.guides_y if axis else self.session.shot.guides_x

    def _without(self, axis: int, at: float) -> tuple[float, ...]:
        return tuple(other for other in self._own(axis) if other != at)

    def _set(self, label: str, axis: int, lines: tuple[float, ...]) -> None:
        self.session.begin(label)
        self._change(axis, lines)
        self.session.commit()

    def _change(self, axis: int, lines: tuple[float, ...]) -> None:
        ordered = tuple(sorted(set(lines)))
        name = "guides_y" if axis else "guides_x"
        self.session.change(msgspec.structs.replace(self.session.shot, **{name: ordered}))

    # Painting

    def paint(self, painter: QPainter, viewer: Viewer) -> None:
        """Draw the lines that are shown."""
        shown, frame = self.preferences.guides, viewer.frame_rect()
        for name, preset in PRESETS.items():
            if name not in shown:
                continue
            for pen in (QPen(colour("well", 130), 2.4), QPen(colour("chalk", 170), 1)):
                painter.setPen(pen)
                painter.setBrush(Qt.BrushStyle.NoBrush)
                if name in BOXES:
                    for low in (at for at in preset.at if at < 0.5):
                        across, down = low * frame.width(), low * frame.height()
                        painter.drawRect(frame.adjusted(across, down, -across, -down))
                    continue
                for at in preset.at:
                    x, y = frame.left() + at * frame.width(), frame.top() + at * frame.height()
                    painter.drawLine(QPointF(x, frame.top()), QPointF(x, frame.bottom()))
                    painter.drawLine(QPointF(frame.left(), y), QPointF(frame.right(), y))
        if OWN in shown:
            painter.setPen(QPen(colour("lagoon"), 1, Qt.PenStyle.DashLine))
            for x in self.session.shot.guides_x:
                at_x = viewer.to_widget(x, 0).x()
                painter.drawLine(QPointF(at_x, 0), QPointF(at_x, viewer.height()))
            for y in self.session.shot.guides_y:
                at_y = viewer.to_widget(0, y).y()
                painter.drawLine(QPointF(0, at_y), QPointF(viewer.width(), at_y))
