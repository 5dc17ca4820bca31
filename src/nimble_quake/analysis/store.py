"""Tracks kept in files: beside the shot, and in the cache. Each clip is tracked once."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path

import numpy as np

from nimble_quake.analysis.side_files import DAMAGES, content_name, loaded, written
from nimble_quake.analysis.tracking import MOST_TRACKS, Tracks
from nimble_quake.conventions import MAX_FRAMES
from nimble_quake.errors import MediaError, SaveFailed
from nimble_quake.media.pool import as_it_is

VERSION = 1


class TrackStore:
    """Tracks by clip. May be asked from any thread. local: as for MediaPool."""

    def __init__(self, local: Callable[[str], str] = as_it_is) -> None:
        self._local = local
        self.folders: tuple[Path, ...] = ()
        """Where they are looked for and written, the nearest first."""
        self._known: dict[tuple[str, int, int], Tracks | None] = {}
        self._count = 0
        self._lock = threading.Lock()
        self.faults: dict[str, str] = {}
        """What was wrong with side files, by clip."""
        self._under_way: list[str] = []

    def stamp(self) -> int:
        """Return a number that changes whenever any tracks do."""
        return self._count

    def begin(self, file: str) -> None:
        """Know that a clip is being tracked."""
        with self._lock:
            self._under_way.append(file)
            self._count += 1

    def end(self, file: str) -> None:
        """Know that a clip is tracked no more, whatever came of it."""
        with self._lock:
            self._under_way.remove(file)
            self._count += 1

    def is_under_way(self, file: str) -> bool:
        """Return whether a clip is being tracked now."""
        return file in self._under_way

    def look_in(self, *folders: Path) -> None:
        """Look for tracks in these folders from now on."""
        with self._lock:
            self.folders = folders
            self._known.clear()
            self._count += 1

    def find(self, file: str) -> Tracks | None:
        """Return the tracks of a clip; None where it was not tracked, or has changed since."""
        try:
            file = self._local(file)
            stat = Path(file).stat()
        except (OSError, ValueError, MediaError):
            return None
        key = (file, stat.st_mtime_ns, stat.st_size)
        with self._lock:
            if key not in self._known:
                self._known[key] = self._read(file)
            return self._known[key]

    def _read(self, file: str) -> Tracks | None:
        self.faults.pop(file, None)
        name = content_name(file)
        for folder in self.folders:
            path = folder / f"{name}.npz"
            if path.is_file():
                try:
                    return _loaded(path)
                except DAMAGES as wrong:
                    self.faults[file] = f"{path.name} is damaged ({type(wrong).__name__})"
        return None

    def keep(self, file: str, tracks: Tracks) -> None:
        """Keep the tracks of a clip, in all folders that can be written. Raises SaveFailed where none can."""
        name, failed, kept = content_name(file), None, False
        for folder in self.folders:
            try:
                folder.mkdir(parents=True, exist_ok=True)
                _written(folder / f"{name}.npz", tracks)
                kept = True
            except OSError as wrong:
                failed = wrong
        if failed is not None and not kept:
            raise SaveFailed("the tracks cannot be kept", where=str(self.folders[0]), cure=str(failed)) from failed
        stat = Path(file).stat()
        with self._lock:
            self._known[file, stat.st_mtime_ns, stat.st_size] = tracks
            self._count += 1


def _written(path: Path, tracks: Tracks) -> None:
    size = np.array(tracks.size, np.int64)
    written(path, VERSION, size=size, places=tracks.places, errors=tracks.errors, thrown=tracks.thrown)


def _loaded(path: Path) -> Tracks:
    """Read a file of tracks. Raises ValueError for one that holds anything else."""
    stored = loaded(path, VERSION, "places", "errors", "thrown", "size")
    places, errors, thrown, size = stored["places"], stored["errors"], stored["thrown"], stored["size"]
    good = places.ndim == 3 and places.shape[2] == 2 and places.dtype == np.float32
    good = good and 0 < places.shape[0] <= MAX_FRAMES and places.shape[1] <= MOST_TRACKS
    good = good and errors.shape == thrown.shape == (places.shape[1],) and thrown.dtype == bool and size.shape == (2,)
    far = np.asarray(places, np.float32) if good else np.zeros(0, np.float32)
    if not good or np.isinf(far).any() or np.abs(np.nan_to_num(far)).max(initial=0) > 1e6:
        raise ValueError("not tracks")
    return Tracks((int(size[0]), int(size[1])), far, errors.astype(np.float32), thrown.astype(bool))
