"""What the next press in the picture does: draws a new shape, or picks a colour."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent

from nimble_quake.desktop.viewers.tracing import Points, Tracing
from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import effects
from nimble_quake.session.verbs.colour_pick import colour_under
from nimble_quake.shot.edits.add import add_plate
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Plate
from nimble_quake.shot.paths import find, parts_of, value_path

LEAST = 4.0
"""Shot pixels: a shorter drag is a click, which draws a shape of its usual size."""


class Drawing:
    """Waits for one press in the viewer. `begin_shape` and `begin_colour` say what it is for; Escape ends it."""

    def __init__(self, session: Session, viewer: Viewer) -> None:
        self.session, self.viewer = session, viewer
        self.waits_for = ""
        """"shape", or the path of a colour; empty for nothing."""
        self._path, self._from = "", QPointF()
        viewer.grips.insert(0, self.take)
        self.tracing = Tracing(viewer, session.message.emit)
        session.colour_asked.connect(self.begin_colour)
        session.outline_asked.connect(self.begin_outline)

    def begin_shape(self) -> None:
        """Let the next drag draw a shape."""
        self._wait("shape", "Drag in the picture to draw a shape; Shift keeps it as high as wide")

    def begin_colour(self, path: str) -> None:
        """Let the next click pick a colour."""
        self._wait(path, "Click in the picture on the colour to take")

    def begin_outline(self, path: str) -> None:
        """Let clicks set the points of an outline that is there, by the path of its value."""
        self.tracing.begin(lambda points: effects.trace(self.session, path, points))

    def begin_mask(self) -> None:
        """Let clicks set the corners of a new mask."""
        self.tracing.begin(self._add_mask)

    def _add_mask(self, points: Points) -> None:
        effects.draw_mask(self.session, points=points)

    def _wait(self, what: str, said: str) -> None:
        self.waits_for = what
        self.viewer.setCursor(Qt.CursorShape.CrossCursor)
        self.session.message.emit(said)

    def end(self) -> None:
        """Wait no more."""
        self.tracing.end()
        self.waits_for, self._path = "", ""
        self.viewer.unsetCursor()

    def take(self, what: str, place: QPointF, event: QMouseEvent) -> bool:
        """Handle a press, move or release in the viewer; True where it took it."""
        if not self.waits_for:
            return False
        if what == "press" and self.waits_for != "shape":
            self._pick(place)
        elif what == "press":
            self._from = place
            self._draw(place)
        elif what == "move" and self._path:
            self._stretch(place, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        elif what == "release" and self._path:
            self.session.commit()
            path = self._path
            self.end()
            self.session.select(plate=path, quake="")
        return True

    def _pick(self, place: QPointF) -> None:
        path = self.waits_for
        self.end()
        if parts_of(path) is not None and find(self.session.shot, path) is None:
            self.session.message.emit("What the colour was for is not there any more")
            return
        found = colour_under(self.session, path, place.x(), place.y())
        if found is None:
            self.session.message.emit("There is no colour there: click on the picture")
        else:
            self.session.set(path, found)

    def _draw(self, place: QPointF) -> None:
        plate = Plate(id="", name="Shape", kind="shape", values={"position": (place.x(), place.y())})
        self.session.begin("Draw a shape")
        shot, self._path = add_plate(self.session.shot, plate)
        self.session.change(shot)

    def _stretch(self, place: QPointF, even: bool) -> None:
        across, down = abs(place.x() - self._from.x()), abs(place.y() - self._from.y())
        if max(across, down) < LEAST:
            return
        if even:
            across = down = max(across, down)
        right, low = place.x() >= self._from.x(), place.y() >= self._from.y()
        middle = (self._from.x() + (across if right else -across) / 2, self._from.y() + (down if low else -down) / 2)
        shot = self.session.shot
        sizes = {"width": max(1.0, round(across)), "height": max(1.0, round(down))}
        for name, value in {"position": tuple(round(v, 1) for v in middle), **sizes}.items():
            shot = set_value(shot, value_path(self._path, name), value)
        self.session.change(shot)
