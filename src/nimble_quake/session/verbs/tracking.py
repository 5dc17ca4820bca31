"""Tracking a clip, and what is done with its points, by name."""

from __future__ import annotations

import contextlib
from collections.abc import Iterable
from dataclasses import replace
from pathlib import Path

import numpy as np

from nimble_quake.analysis.store import TrackStore
from nimble_quake.analysis.tracking import LONGEST_SIDE, Settings, Tracks, greys, track
from nimble_quake.errors import MediaError, SaveFailed
from nimble_quake.media.drawing import faces
from nimble_quake.media.pool import is_shot, open_clip, sort_of
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.render.engine import Engine
from nimble_quake.session.state import Session
from nimble_quake.session.storage.fonts import fonts_for
from nimble_quake.session.storage.preferences import folder
from nimble_quake.session.work import Work
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import find, id_of, owner_id, value_path


def track_folders(path: Path | None) -> tuple[Path, ...]:
    """Return where what is found in the media of a shot is kept: beside it, if it has a file, and in the cache."""
    beside = () if path is None else (path.absolute().with_suffix(".tracks"),)
    return (*beside, folder("state") / "tracks")


def look_beside(engine: Engine, path: Path | None) -> None:
    """Let an engine find what was found before in a shot's media, and the fonts that lie beside it."""
    engine.look_beside(*track_folders(path))
    faces.look_in(*fonts_for(path))


def clip_file(session: Session, path: str) -> str:
    """Return the clip of a plate; empty where it has none."""
    operator = session.operator_now(path) if path else None
    if not isinstance(operator, PlateKind) or not operator.media_param:
        return ""
    file = operator.media_file()
    return file if sort_of(file) == "clip" and not is_shot(file) else ""


def tracked_clip(session: Session, path: str) -> str:
    """Return the path of the plate whose points count for a plate: its own clip, or the one it is pinned to."""
    if clip_file(session, path):
        return path
    pin = session.shown(value_path(path, "pin")) if path and session.param(value_path(path, "pin")) else ""
    return f"plates/{pin}" if pin and session.shot.plate(str(pin)) is not None else ""


def track_file(file: str, settings: Settings, work: Work, store: TrackStore) -> Tracks | None:
    """Track a clip and keep what was found; None where it was stopped. Raises MediaError or SaveFailed."""
    clip = open_clip(file)  # a decoder of its own: what is shown meanwhile is not disturbed
    work.total = clip.frames
    scale = max(1.0, max(clip.width, clip.height) / LONGEST_SIDE)
    size = (round(clip.width / scale), round(clip.height / scale))

    def read(number: int) -> np.ndarray:
        return clip.picture(clip.seconds_of(number), *size)

    found = track(work.counted(greys(read, clip.frames)), clip.width / size[0], settings)
    if work.stopped:
        return None
    store.keep(file, found)
    return found


def keep_tracks(session: Session) -> None:
    """Look for what was found before beside the shot, opened or saved; when saved, bring along what it has."""
    look_beside(session.engine, session.path)
    session.stored.connect(lambda path, saved: _keep_beside(session, path, saved))


def _keep_beside(session: Session, path: Path | None, saved: bool) -> None:
    store, found = session.engine.tracks, {}
    for file in clips_in(session.shot) if saved else ():
        tracks = store.find(file)
        if tracks is not None:
            found[file] = tracks
    if store.folders != track_folders(path):
        look_beside(session.engine, path)
    if saved:
        session.engine.levels.keep(session.shot)
    for file, tracks in found.items():
        with contextlib.suppress(SaveFailed, MediaError, OSError):  # they are in the cache still
            store.keep(file, tracks)


def clips_in(shot: Shot) -> list[str]:
    """Return the clips that the plates of a shot show."""
    files = [str(plate.values.get("file") or "") for plate in shot.plates]
    return sorted({file for file in files if sort_of(file) == "clip" and not is_shot(file)})


def throw_out(session: Session, path: str, which: Iterable[int], *, out: bool = True) -> int:
    """Throw points of a clip out, or take them back. Returns how many."""
    file = clip_file(session, path)
    tracks = session.engine.tracks.find(file) if file else None
    numbers = [n for n in which if tracks is not None and 0 <= n < len(tracks.thrown)]
    if tracks is None or not numbers:
        return 0
    thrown = tracks.thrown.copy()
    thrown[numbers] = out
    session.engine.tracks.keep(file, replace(tracks, thrown=thrown))
    session.message.emit(f"{len(numbers)} points {'thrown out' if out else 'taken back'}")
    session.changed.emit(set())
    return len(numbers)


def short_ones(tracks: Tracks, seconds: float, rate: float) -> list[int]:
    """Return the points that are seen for less than a time."""
    return [int(n) for n in np.flatnonzero((tracks.seen < seconds * rate) & ~tracks.thrown)]


def uncertain_ones(tracks: Tracks, fraction: float = 0.1) -> list[int]:
    """Return the share of points with the largest error."""
    kept = np.flatnonzero(~tracks.thrown)
    count = int(len(kept) * fraction)
    return [int(n) for n in kept[np.argsort(tracks.errors[kept])[::-1][:count]]]


def pin_to(session: Session, path: str, clip_path: str, points: list[int]) -> None:
    """Pin a plate to points of a clip, so that it lies now where it does."""
    plate = find(session.shot, path)
    if not isinstance(plate, Plate) or session.param(value_path(path, "pin")) is None:
        session.message.emit("Choose a plate that has a place, then pin it")
        return
    if not points:
        session.message.emit("Pick points in the picture first: one holds its place, more turn and scale it")
        return
    session.begin(f"Pin {session.name_of(path)} to {len(points)} points of {session.name_of(clip_path)}")
    same = owner_id(path) == owner_id(clip_path)
    values = {
        "pin": id_of(clip_path),
        "pin_points": " ".join(str(n) for n in points),
        "pin_from": float(session.frame),
        "pin_way": "steady" if same else "follow",
    }
    for name, value in values.items():
        session.set(value_path(path, name), value)
    session.commit()
