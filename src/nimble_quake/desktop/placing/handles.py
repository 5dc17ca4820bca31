"""Handles in the picture and on the map: place, scale and turn of a plate; places, boxes and points of steps."""

from __future__ import annotations

import math
from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from functools import partial

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent

from nimble_quake.desktop.placing.handle_marks import Grip, HandleMarks
from nimble_quake.desktop.placing.place_paths import Carrying, PlacePaths
from nimble_quake.desktop.placing.snapping import Snapping, box_of
from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.operators.base import Operator
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.operators.steps import Step
from nimble_quake.params.kinds import Number, Outline, Param, Place
from nimble_quake.render.plates.grounds import placement_of
from nimble_quake.render.plates.pins import carried_on, may_be_carried
from nimble_quake.render.services import frame_job
from nimble_quake.render.values.placement import Matrix, Placement, inverse, through
from nimble_quake.session.state import Session
from nimble_quake.session.summaries import is_shown
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import find, kind_of, node_path, value_name

GRAB = 9.0


def carried_at(session: Session, plate: Plate, path: str, frame: float) -> Matrix | None:
    """How what lies where a plate says it does is seen at a frame; None where it is seen there, or not at all."""
    with suppress(NimbleQuakeError):
        job = frame_job(session.engine, session.shot, frame)
        operator = job.operator("plate", plate, path)
        return carried_on(job, operator, plate) if isinstance(operator, PlateKind) else None
    return None


class Handles:
    """Draws and drags the handles of one viewer. `node`: returns the path of the node whose handles are shown."""

    def __init__(self, session: Session, viewer: Viewer, region: str, node: Callable[[], str]) -> None:
        self.session, self.viewer, self.region, self.node = session, viewer, region, node
        self.on = True
        self.travels: Callable[[str], Matrix | None] = lambda path: None
        """How a step of a map has come from where it is drawn to where it is seen here; None: it is seen there."""
        self.travel: Matrix | None = None
        self._drag: Grip | None = None
        self._found: tuple[Shot, object, list[Grip]] | None = None
        """The shot, the rest that grips hang on, and they."""
        self._from = QPointF()
        self._placed: Placement | None = None
        self.last = ""
        """The point of a list that was dragged last: its own handles are shown."""
        self.snapping: Snapping | None = None
        """What it snaps to while it is dragged; None: to nothing."""
        self.pick: Callable[[QPointF], None] | None = None
        """Set by a place picker: takes the next click."""
        self.paths = PlacePaths(session, viewer, region, node, self._carried)
        viewer.overlays.append(HandleMarks(self).paint)
        viewer.grips.append(self.take)

    def _placement(self) -> Placement | None:
        plate = find(self.session.shot, self.node())
        if not isinstance(plate, Plate):
            return None
        try:
            job = frame_job(self.session.engine, self.session.shot, self.session.frame)
            operator = job.operator("plate", plate, self.node())
            if not isinstance(operator, PlateKind) or operator.endless:
                return None
            return placement_of(job, plate, operator)
        except NimbleQuakeError:
            return None

    def show(self, on: bool) -> None:
        """Show the handles and the paths, or none of them."""
        self.on = self.paths.on = on

    def _carried(self, value: str) -> Carrying | None:
        """What tells how the places of a value are seen at a frame: a step's as they are now."""
        path, session = node_path(value), self.session
        plate = find(session.shot, path)
        if not isinstance(plate, Plate):
            travel = self.travels(path) if kind_of(path) == "step" else None
            return None if travel is None else lambda frame: travel
        if value_name(value) != "position":
            return None
        job = frame_job(session.engine, session.shot, session.frame)
        return partial(carried_at, session, plate, path) if may_be_carried(job, plate) else None

    def grips(self) -> list[Grip]:
        """Return what can be dragged now; kept while shot, playhead and view stand: it is asked for with each paint."""
        session = self.session
        view = (self.on, self.last, self.viewer.zoom(), session.engine.tracks.stamp())
        at = (session.frame, session.selection, self.node(), view)
        if self._found is None or self._found[0] is not session.shot or self._found[1] != at:
            self._found = session.shot, at, self._grips()
        return self._found[2]

    def _grips(self) -> list[Grip]:
        path = self.node()
        operator = self.session.operator(path) if path else None
        if operator is None or not self.on:
            return []
        self.travel = self.travels(path) if kind_of(path) == "step" else None
        found = [replace(grip, at=self.seen(grip.at)) for grip in self._places(path, operator) + self._listed(path)]
        placement = self._placement() if isinstance(find(self.session.shot, path), Plate) else None
        if placement is not None:
            w, h = placement.box
            corners = [QPointF(*placement.shown(x, y)) for x, y in ((0, 0), (w, 0), (w, h), (0, h))]
            found += [Grip("scale", path, corner) for corner in corners]
            top = QPointF(*placement.shown(w / 2, 0))
            middle = QPointF(*placement.shown(w / 2, h / 2))
            way = top - middle
            far = math.hypot(way.x(), way.y()) or 1.0
            found.append(Grip("turn", path, top + way * (24 / self.viewer.zoom() / far)))
        return found

    def seen(self, at: QPointF) -> QPointF:
        """Where a place of a step is seen."""
        return at if self.travel is None else QPointF(*through(self.travel, at.x(), at.y()))

    def drawn(self, at: QPointF) -> QPointF:
        """Which place of a step is seen there."""
        return at if self.travel is None else QPointF(*through(inverse(self.travel), at.x(), at.y()))

    def _listed(self, path: str) -> list[Grip]:
        """The points of lists that the operator says can be dragged: of a net, of an outline."""
        operator = self.session.operator_now(path)
        placement = self._placement() if isinstance(operator, PlateKind) else None
        if isinstance(operator, PlateKind) and placement is not None:
            return [
                Grip("listed", f"{path}/{name}|{n}", QPointF(*placement.shown(*place)))
                for name, places in operator.own_points().items()
                for n, place in enumerate(places)
            ]
        if not isinstance(operator, Step):
            return []
        lists, tied = operator.dragged_points(self.session.moment), operator.tied_points
        return [
            Grip("tied" if name in tied else "listed", f"{path}/{name}|{n}", QPointF(*place))
            for name, places in lists.items()
            for n, place in enumerate(places)
            if name not in tied or f"{path}/{tied[name]}|{n}" == self.last
        ]

    def _places(self, path: str, operator: type[Operator]) -> list[Grip]:
        """Every place of a step (or a fill) that counts now, box corners, and the points of an outline."""
        step = not isinstance(find(self.session.shot, path), Plate)
        joined = {name for pair in operator.handles() for name in pair}
        found = []
        for name, param in operator.declared.items():
            if isinstance(param, Place) and (step or name in joined) and self._counts(path, param):
                found.append(Grip("place", f"{path}/{name}", QPointF(*self.session.shown(f"{path}/{name}"))))
        for place, wide, high in operator.boxes():
            sides = [self._counts(path, operator.declared[name]) for name in (wide, high)]
            if not any(sides):
                continue
            x, y = self.session.shown(f"{path}/{place}")
            w, h = (
                self.session.shown(f"{path}/{name}") if counts else 0.0
                for name, counts in zip((wide, high), sides, strict=True)
            )
            found.append(Grip("box", f"{path}/{wide}|{high}|{place}", QPointF(x + w / 2, y + h / 2)))
            for param in operator.declared.values():
                if isinstance(param, Outline) and self._counts(path, param):
                    for n, (u, v) in enumerate(self.session.shown(f"{path}/{param.name}")):
                        found.append(
                            Grip(
                                "point", f"{path}/{param.name}|{n}|{place}|{wide}|{high}", QPointF(x + u * w, y + v * h)
                            )
                        )
        return found

    def _counts(self, path: str, param: Param) -> bool:
        return is_shown(self.session, path, param)

    def take(self, what: str, place: QPointF, event: QMouseEvent) -> bool:
        """Handle a press, move or release in the viewer; True where a handle took it."""
        if what == "press":
            return self._press(place, event)
        if what == "move" and self._drag is not None:
            self._move(place, event)
            return True
        if what == "release" and self._drag is not None:
            self._drag = None
            if self.snapping is not None:
                self.snapping.end()
            self.session.commit()
            return True
        return False

    def _press(self, place: QPointF, event: QMouseEvent) -> bool:
        if self.pick is not None:
            pick, self.pick = self.pick, None
            self.viewer.unsetCursor()
            pick(place)
            return True
        if not self.on:
            return False
        reach = GRAB / self.viewer.zoom()
        for grip in self.grips():
            way = grip.at - place
            if math.hypot(way.x(), way.y()) <= reach:
                return self._start(grip, place)
        plate = find(self.session.shot, self.node())
        placement = self._placement() if isinstance(plate, Plate) and not plate.locked else None
        own = placement.own(place.x(), place.y()) if placement else None
        if placement and own:
            x, y = own
            if 0 <= x <= placement.box[0] and 0 <= y <= placement.box[1]:
                return self._start(Grip("move", self.node(), place), place)
        return False

    def _start(self, grip: Grip, place: QPointF) -> bool:
        self._drag, self._from, self._placed = grip, place, self._placement()
        if self.snapping is not None:
            self.snapping.begin(self.node())
        names = {
            "place": "Move {}",
            "move": "Move {}",
            "scale": "Scale {}",
            "turn": "Turn {}",
            "box": "Size {}",
            "point": "Shape {}",
            "listed": "Shape {}",
            "tied": "Bend {}",
        }
        if grip.sort == "listed":
            self.last = grip.path
            self.viewer.update()
        self._values = {
            name: self.session.shown(f"{self.node()}/{name}")
            for name in ("position", "scale_x", "scale_y", "turn")
            if self.session.param(f"{self.node()}/{name}")
        }
        self.session.begin(names[grip.sort].format(self.session.name_of(self.node())))
        return True

    def _move(self, place: QPointF, event: QMouseEvent) -> None:
        assert self._drag is not None
        drag, straight = self._drag, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        free = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if drag.sort in ("place", "listed", "tied", "box", "point"):
            place = self.drawn(place)
        if drag.sort == "place":
            if self.snapping is not None and self.travel is None:
                place = place + QPointF(*self.snapping.shift([place.x()], [place.y()], free=free))
            self.session.set(drag.path, (round(place.x(), 1), round(place.y(), 1)))
            return
        if drag.sort in ("listed", "tied"):
            self._move_listed(drag, place)
            return
        if drag.sort in ("box", "point"):
            self._move_part(drag, place)
            return
        x0, y0 = self._values["position"]
        if drag.sort == "move":
            dx, dy = place.x() - self._from.x(), place.y() - self._from.y()
            if straight:
                dx, dy = (dx, 0.0) if abs(dx) > abs(dy) else (0.0, dy)
            elif self.snapping is not None and self._placed is not None:
                left, top, right, low = box_of(self._placed)
                xs, ys = (
                    [dx + at for at in ends]
                    for ends in ((left, (left + right) / 2, right), (top, (top + low) / 2, low))
                )
                snap = self.snapping.shift(xs, ys, free=free)
                dx, dy = dx + snap[0], dy + snap[1]
            self.session.set(f"{drag.path}/position", (round(x0 + dx, 1), round(y0 + dy, 1)))
        elif drag.sort == "scale":
            before = math.hypot(drag.at.x() - x0, drag.at.y() - y0)
            now = math.hypot(place.x() - x0, place.y() - y0)
            factor = now / before if before > 1 else 1.0
            for name in ("scale_x", "scale_y"):
                self.session.set(f"{drag.path}/{name}", round(self._values[name] * factor, 3))
        else:
            first = math.atan2(drag.at.y() - y0, drag.at.x() - x0)
            turn = math.degrees(math.atan2(place.y() - y0, place.x() - x0) - first)
            turn = self._values["turn"] + (turn + 180) % 360 - 180
            self.session.set(f"{drag.path}/turn", round(turn / 15) * 15.0 if straight else round(turn, 1))

    def _move_listed(self, drag: Grip, place: QPointF) -> None:
        path, number = drag.path.split("|")
        operator = self.session.operator_now(node_path(path))
        own = self._placed.own(place.x(), place.y()) if self._placed else None
        if isinstance(operator, PlateKind) and own is not None:
            self.session.set(path, operator.with_own_point(value_name(path), int(number), own))
        elif isinstance(operator, Step):
            at, moment = (place.x(), place.y()), self.session.moment
            self.session.set(path, operator.with_point(value_name(path), int(number), at, moment))

    def _move_part(self, drag: Grip, place: QPointF) -> None:
        """Drag a box's corner (its middle stays), or a point of an outline."""
        path, *rest = drag.path.split("|")
        node = node_path(path)
        x, y = self.session.shown(f"{node}/{rest[-1] if drag.sort == 'box' else rest[1]}")
        if drag.sort == "box":
            for value, name in ((2 * abs(place.x() - x), path), (2 * abs(place.y() - y), f"{node}/{rest[0]}")):
                param = self.session.param(name)
                if param is None or not self._counts(node, param):
                    continue
                self.session.set(name, param.clamp(round(value)) if isinstance(param, Number) else value)
            return
        wide, high = (max(float(self.session.shown(f"{node}/{name}")), 1.0) for name in rest[2:])
        points = list(self.session.shown(path))
        points[int(rest[0])] = (round((place.x() - x) / wide, 4), round((place.y() - y) / high, 4))
        self.session.set(path, tuple(points))
