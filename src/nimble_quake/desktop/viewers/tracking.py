"""Tracking in the window: the points of a clip over the picture, picked by click or box; the work done aside."""

from __future__ import annotations

import threading

from PyQt6.QtCore import QObject, QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPen

from nimble_quake.analysis.tracking import Settings, Tracks
from nimble_quake.desktop.aside import on_window_thread
from nimble_quake.desktop.lines.status_line import StatusLine
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.operators.base import Tracked
from nimble_quake.render.services import frame_job
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import tracking
from nimble_quake.session.work import Work
from nimble_quake.shot.paths import owner_id

REACH = 9.0
"""Widget pixels round a point that a click may hit."""


class Tracking(QObject):
    """The points of the selected plate's clip, or of the clip it is pinned to."""

    def __init__(self, session: Session, viewer: Viewer, status: StatusLine) -> None:
        super().__init__(viewer)
        self.session, self.viewer, self.status = session, viewer, status
        self.shown = False
        self.picked: dict[str, set[int]] = {}
        """Numbers of the picked points, by path of their clip's plate."""
        self._work: Work | None = None
        self._box: tuple[QPointF, QPointF] | None = None
        self._last: tuple[object, Tracked | None] | None = None
        viewer.overlays.append(self.paint)
        viewer.grips.insert(0, self.take)
        self._hand_over = on_window_thread(self, self._ended)

    @property
    def clip(self) -> str:
        """The path of the plate whose points are shown; empty for none."""
        path = self.session.selection.plate
        return tracking.tracked_clip(self.session, path) if path else ""

    def tracks(self) -> Tracks | None:
        """Return the tracks of the clip."""
        file = tracking.clip_file(self.session, self.clip)
        return self.session.engine.tracks.find(file) if file else None

    def begin(self, settings: Settings) -> None:
        """Track the selected plate's clip aside; what was under way for another is stopped."""
        path = self.clip
        file = tracking.clip_file(self.session, path)
        if not file:
            self.session.message.emit("Choose a plate with a clip, then track it")
            return
        self.stop()
        work = self._work = Work(f"Tracking {self.session.name_of(path)}", 1)  # how many frames, its thread finds out
        store, hand_over = self.session.engine.tracks, self._hand_over
        self.status.show_work(work)
        store.begin(file)
        self.session.changed.emit(set())

        def follow() -> None:
            wrong = ""
            try:
                tracking.track_file(file, settings, work, store)
            except NimbleQuakeError as failed:
                wrong = failed.line()
            finally:
                work.end()
                store.end(file)
            hand_over(path, wrong, work.stopped)

        threading.Thread(target=follow, name="tracking", daemon=True).start()

    def stop(self) -> None:
        """Stop what is under way; nothing is kept of it."""
        if self._work is not None:
            self._work.stop()

    def _ended(self, path: str, wrong: str, stopped: bool) -> None:
        if stopped:
            self.session.changed.emit(set())
            return
        file = tracking.clip_file(self.session, path)
        tracks = self.session.engine.tracks.find(file) if file else None
        count = 0 if tracks is None else tracks.places.shape[1]
        self.session.message.emit(wrong or f"{count} points tracked in {self.session.name_of(path)}")
        self.picked.pop(path, None)
        self.session.changed.emit(set())
        self.viewer.update()

    # Points over the picture

    def points_now(self) -> Tracked | None:
        path = self.clip
        if not self.shown or not path or self.tracks() is None:
            return None
        depends = (self.session.shot, self.session.frame, path, self.session.engine.tracks.stamp())
        if self._last is None or self._last[0] != depends:
            job = frame_job(self.session.engine, self.session.shot, self.session.frame)
            self._last = (depends, job.tracked(owner_id(path)))
        return self._last[1]

    def paint(self, painter: QPainter, viewer: Viewer) -> None:
        """Draw the points; picked ones are larger and filled."""
        points = self.points_now()
        if points is None:
            return
        chosen = self.picked.get(self.clip, set())
        for casing in (True, False):
            for id, (x, y) in zip(points.ids.tolist(), points.places.tolist(), strict=True):
                at, picked = viewer.to_widget(x, y), id in chosen
                half = 4.5 if picked else 2.5
                painter.setPen(
                    QPen(colour("well" if casing else "chalk" if picked else "lagoon"), 3 if casing else 1.3)
                )
                painter.setBrush(colour("chalk") if picked and not casing else Qt.BrushStyle.NoBrush)
                painter.drawRect(QRectF(at.x() - half, at.y() - half, 2 * half, 2 * half))
        if self._box is not None:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(colour("chalk"), 1, Qt.PenStyle.DashLine))
            painter.drawRect(QRectF(*(viewer.to_widget(p.x(), p.y()) for p in self._box)).normalized())
        words = f"{len(points.ids)} points in this frame, {len(chosen)} picked"
        viewer.paint_tag(painter, QPointF(viewer.width() - 8, 8), words, right=True)

    def take(self, what: str, place: QPointF, event: QMouseEvent) -> bool:
        """Handle a press, move or release in the viewer: a click picks a point, a drag a box of them."""
        if what == "press" and event.button() == Qt.MouseButton.LeftButton and self.points_now() is not None:
            self._box = (place, place)
            return True
        if self._box is None:
            return False
        if what == "move":
            self._box = (self._box[0], place)
        elif what == "release":
            self._pick(self._box, more=bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
            self._box = None
        self.viewer.update()
        return True

    def _pick(self, box: tuple[QPointF, QPointF], *, more: bool) -> None:
        points, reach = self.points_now(), REACH / self.viewer.zoom()
        if points is None:
            return
        (x0, x1), (y0, y1) = (sorted((getattr(box[0], axis)(), getattr(box[1], axis)())) for axis in "xy")
        single = x1 - x0 < reach and y1 - y0 < reach
        room = reach if single else 0.0
        inside = {
            id: abs(x - x0) + abs(y - y0)
            for id, (x, y) in zip(points.ids.tolist(), points.places.tolist(), strict=True)
            if x0 - room <= x <= x1 + room and y0 - room <= y <= y1 + room
        }
        found = {min(inside, key=lambda id: inside[id])} if single and inside else set(inside)
        before = self.picked.get(self.clip, set())
        self.picked[self.clip] = before ^ found if more or single else found

    # What actions do

    def throw_out(self) -> None:
        """Throw the picked points out."""
        tracking.throw_out(self.session, self.clip, self.picked.pop(self.clip, set()))

    def throw_out_short(self) -> None:
        """Throw out points that are seen for less than half a second, and those that are least certain."""
        tracks = self.tracks()
        if tracks is not None:
            weak = {*tracking.short_ones(tracks, 0.5, float(self.session.shot.rate)), *tracking.uncertain_ones(tracks)}
            tracking.throw_out(self.session, self.clip, weak)

    def take_back(self) -> None:
        """Take all points back that were thrown out."""
        tracks = self.tracks()
        if tracks is not None:
            tracking.throw_out(self.session, self.clip, range(len(tracks.thrown)), out=False)

    def pin(self) -> None:
        """Pin the selected plate to the points that were picked last in any clip."""
        path = self.session.selection.plate
        clip = next((clip for clip in reversed(self.picked) if self.picked[clip]), "")
        tracking.pin_to(self.session, path, clip, sorted(self.picked.get(clip, ())))
