"""Levels of sounds kept in files, beside the shot and in the cache: a band is filtered out of a sound once."""

from __future__ import annotations

import contextlib
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from nimble_quake.analysis.side_files import DAMAGES, content_name, loaded, written
from nimble_quake.errors import MediaError

VERSION = 1
MOST_BANDS = 32
"""Bands of a sound that its file holds, the latest kept first."""
MOST_SECONDS = 24 * 3600
Band = tuple[float, float]
Kept = dict[Band, NDArray[np.float32]]


class LevelStore:
    """Levels by sound and band. A file that cannot be read or written costs a filter, no more."""

    def __init__(self) -> None:
        self.folders: tuple[Path, ...] = ()
        """Where they are looked for and written, the nearest first."""
        self._known: dict[Path, Kept] = {}

    def look_in(self, *folders: Path) -> None:
        """Look for levels in these folders from now on."""
        self.folders = folders
        self._known = {}

    def find(self, file: str, band: Band, hops: int) -> NDArray[np.float32] | None:
        """Return the levels of a band of a sound (`analysis.bands.band_power`), `hops` of them; None if not kept."""
        with contextlib.suppress(MediaError):
            name = content_name(file) if self.folders else ""
            for folder in self.folders:
                levels = self._read(folder / f"{name}.levels.npz").get(band)
                if levels is not None and len(levels) == hops:
                    return levels
        return None

    def keep(self, file: str, found: Kept) -> None:
        """Keep levels of a sound in all folders, with those that were kept before."""
        with contextlib.suppress(MediaError):
            name = content_name(file)
            for folder in self.folders:
                path = folder / f"{name}.levels.npz"
                kept = self._read(path)
                same = {band: levels for band, levels in kept.items() if len(levels) == len(next(iter(found.values())))}
                both = dict(list({**found, **{b: v for b, v in same.items() if b not in found}}.items())[:MOST_BANDS])
                if set(both) == set(kept):
                    continue
                with contextlib.suppress(OSError):
                    folder.mkdir(parents=True, exist_ok=True)
                    written(path, VERSION, bands=np.array(list(both)), levels=np.stack(list(both.values())))
                    self._known[path] = both

    def _read(self, path: Path) -> Kept:
        if path not in self._known:
            self._known[path] = {}
            with contextlib.suppress(*DAMAGES):
                self._known[path] = _checked(path)
        return self._known[path]


def _checked(path: Path) -> Kept:
    stored = loaded(path, VERSION, "bands", "levels")
    bands, levels = stored["bands"], stored["levels"]
    good = bands.ndim == levels.ndim == 2 and bands.shape[1] == 2 and len(bands) == len(levels) <= MOST_BANDS
    good = good and bands.dtype == np.float64 and levels.dtype == np.float32 and levels.shape[1] <= MOST_SECONDS * 200
    values = np.asarray(levels, np.float32) if good else np.full(1, np.nan, np.float32)
    if not np.isfinite(values).all() or values.min(initial=0) < 0:
        raise ValueError("not levels")
    return {(float(low), float(high)): row for (low, high), row in zip(bands.tolist(), values, strict=True)}
