"""The live small pictures of maps, steps and plates, made when no frame waits."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtGui import QImage

from nimble_quake.conventions import Bytes8
from nimble_quake.desktop.aside import on_window_thread
from nimble_quake.desktop.bays.map_bay import MapBay
from nimble_quake.desktop.bays.picture_bay import PictureBay
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.desktop.viewers.viewer import image_of
from nimble_quake.render.shown.bench import plate_thumbnail, thumbnail
from nimble_quake.session.state import Session
from nimble_quake.shot.groups import within
from nimble_quake.shot.model import Map, Shot
from nimble_quake.shot.paths import find, kind_of, map_path, nested_path, plate_path


class Thumbs(QObject):
    """Refreshes small pictures a moment after the document or the playhead changed."""

    made = pyqtSignal(str, QImage)
    """(path of a plate or map, its small picture)."""

    def __init__(self, session: Session, frames: Frames, map_bay: MapBay, picture_bay: PictureBay) -> None:
        super().__init__()
        self.session, self.frames = session, frames
        self.map_bay, self.picture_bay = map_bay, picture_bay
        self._seen: dict[str, object] = {}
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(160)
        self._timer.timeout.connect(self.refresh)
        self._hand_over = on_window_thread(self, self._show)
        session.changed.connect(lambda _: self._timer.start())
        session.selected.connect(self._timer.start)
        session.moved.connect(lambda: None if self._timer.isActive() else self._timer.start())

    def refresh(self) -> None:
        """Ask for the pictures that are out of date; while playing, only for those that were never made."""
        session, engine = self.session, self.session.engine
        shot, frame = session.shot, session.frame
        for map in shot.maps:
            self._later(map_path(map.id), (map, frame), partial(thumbnail, engine, shot, frame, map.id, None, 64))
        chosen = find(shot, session.selection.map) if session.selection.map else None
        if isinstance(chosen, Map):
            self._steps(chosen, shot, frame)
        for plate in shot.plates:
            depends = (plate, *within(shot.plates, plate.id), frame)
            self._later(plate_path(plate.id), depends, partial(plate_thumbnail, engine, shot, frame, plate.id, 64))

    def _steps(self, map: Map, shot: Shot, frame: int) -> None:
        engine = self.session.engine
        for number, step in enumerate(map.recipe, 1):
            path = nested_path(map_path(map.id), step.id)
            so_far = (map.recipe[:number], frame)
            self._later(path, so_far, partial(thumbnail, engine, shot, frame, map.id, number, 100))

    def _later(self, path: str, depends: object, make: Callable[[], Bytes8 | None]) -> None:
        if self._seen.get(path) == depends or (self.frames.playing and path in self._seen):
            return
        self._seen[path] = depends
        hand_over = self._hand_over

        def job() -> None:
            found = make()
            if found is not None:
                hand_over(path, image_of(found))

        self.frames.scheduler.later(path, job)

    def _show(self, path: str, image: QImage) -> None:
        self.made.emit(path, image)
        if kind_of(path) == "step":
            self.map_bay.recipe.show_thumb(path, image)
        elif kind_of(path) == "map":
            self.map_bay.tabs.thumbs[path] = image
            self.map_bay.tabs.update()
        else:
            self.picture_bay.stack.show_thumb(path, image)
