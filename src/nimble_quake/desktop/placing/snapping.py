"""What is dragged in the picture snaps to lines: of the guides, of other plates, of the frame."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter, QPen

from nimble_quake.desktop.placing.guides import Guides
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.render.plates.grounds import placement_of
from nimble_quake.render.services import frame_job
from nimble_quake.render.values.placement import Placement
from nimble_quake.session.state import Session
from nimble_quake.shot.paths import plate_path

NEAR = 6.0
"""Screen pixels from which something snaps."""

Axes = tuple[list[float], list[float]]
"""Places on x and on y, shot pixels."""


class Snapping:
    """Finds how much what is dragged is shifted so that one of its lines lies on another. Shows which."""

    def __init__(self, session: Session, viewer: Viewer, guides: Guides) -> None:
        self.session, self.viewer, self.guides = session, viewer, guides
        self._targets: Axes = ([], [])
        self._hit: list[tuple[int, float]] = []
        viewer.overlays.append(self.paint)

    def begin(self, path: str) -> None:
        """Something is dragged from now on: what it may snap to is found. path: of what is dragged."""
        shot = self.session.shot
        xs, ys = self.guides.lines()
        xs += [0.0, shot.width / 2, float(shot.width)]
        ys += [0.0, shot.height / 2, float(shot.height)]
        for plate in shot.plates:
            if plate_path(plate.id) == path or not plate.on:
                continue
            box = self._box_of(plate.id)
            if box is not None:
                xs += [box[0], (box[0] + box[2]) / 2, box[2]]
                ys += [box[1], (box[1] + box[3]) / 2, box[3]]
        self._targets, self._hit = (xs, ys), []

    def _box_of(self, plate_id: str) -> tuple[float, float, float, float] | None:
        """Where a plate that is there now is seen: left, top, right, bottom."""
        plate, session = self.session.shot.plate(plate_id), self.session
        if plate is None or not (plate.start or 0) <= session.frame < (plate.end or session.shot.length):
            return None
        try:
            job = frame_job(session.engine, session.shot, session.frame)
            operator = job.operator("plate", plate, plate_path(plate.id))
            if not isinstance(operator, PlateKind) or operator.endless or operator.beneath:
                return None
            return box_of(placement_of(job, plate, operator))
        except NimbleQuakeError:
            return None

    def shift(self, xs: Sequence[float], ys: Sequence[float], *, free: bool) -> tuple[float, float]:
        """Return by how much to shift what has lines there. free: it does not snap now."""
        self._hit = []
        if free or not self.guides.preferences.snaps:
            return 0.0, 0.0
        found = []
        for axis, own in ((0, xs), (1, ys)):
            reach = NEAR / self.viewer.zoom()
            ways = [(abs(target - at), target - at, target) for at in own for target in self._targets[axis]]
            nearest = min(ways, default=(reach + 1, 0.0, 0.0))
            found.append(nearest[1] if nearest[0] <= reach else 0.0)
            if nearest[0] <= reach:
                self._hit.append((axis, nearest[2]))
        return found[0], found[1]

    def end(self) -> None:
        """Nothing is dragged any more."""
        self._hit = []
        self.viewer.update()

    def paint(self, painter: QPainter, viewer: Viewer) -> None:
        """Draw the lines that what is dragged lies on."""
        painter.setPen(QPen(colour("ember"), 1))
        for axis, at in self._hit:
            on = viewer.to_widget(at, at)
            ends = (
                (QPointF(on.x(), 0), QPointF(on.x(), viewer.height()))
                if axis == 0
                else (QPointF(0, on.y()), QPointF(viewer.width(), on.y()))
            )
            painter.drawLine(*ends)


def box_of(placement: Placement) -> tuple[float, float, float, float]:
    """Return the box round where a plate is seen: left, top, right, bottom."""
    w, h = placement.box
    corners = [placement.shown(x, y) for x, y in ((0, 0), (w, 0), (w, h), (0, h))]
    xs, ys = [x for x, _ in corners], [y for _, y in corners]
    return min(xs), min(ys), max(xs), max(ys)
