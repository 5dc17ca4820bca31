"""A shot file as a medium: its picture, or one of its maps, at a time of its own. It is read, never changed."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from fractions import Fraction
from pathlib import Path

from nimble_quake.conventions import Picture, Seconds
from nimble_quake.errors import MediaError, NimbleQuakeError
from nimble_quake.media.pool import MediaPool
from nimble_quake.raster.colour.channels import as_rgba
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.caches.results import ResultCache
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map
from nimble_quake.shotfile.files import MOST_BYTES, read_plain, shot_from
from nimble_quake.shotfile.starter_file import files_in

BUDGET = 48 * 2**20
"""Bytes that results of a shot within a shot may take."""
DEEPEST = 6
"""Shots within shots; more are taken for a mistake."""


class _Here(threading.local):
    """The shot files whose frames this thread is computing, the outermost first."""

    paths: tuple[str, ...] = ()


_HERE = _Here()


class ShotSource:
    """A shot file that is open as a clip.

    path: what it is called, by which its own media are named; here: where it lies on this machine. layer: the name of a
    map; empty for the picture.
    """

    bits8 = False
    in_light = False

    def __init__(self, path: str, here: str, layer: str, media: MediaPool) -> None:
        """Raises MediaError."""
        try:
            self._shot = shot_from(read_plain(Path(here), MOST_BYTES), Path(path))
        except FileNotFoundError as wrong:
            raise MediaError("the file is not there", where=path, cure="find it, or choose another") from wrong
        except NimbleQuakeError as wrong:
            inside = (wrong.where or "").removeprefix(path).strip(": ")
            place = f", {inside}" if inside else ""
            raise MediaError(f"{Path(path).name}{place}: {wrong.what}", where=path, cure=wrong.cure) from wrong
        self._path = str(Path(path).resolve())
        self.width, self.height = self._shot.width, self._shot.height
        self.rate: Fraction | None = self._shot.rate
        self.frames = self._shot.length
        self.seconds = self.frames / float(self._shot.rate)
        self.trouble = ""
        self.files = tuple(files_in(self._shot))
        """The files that it names."""
        self._map = self._named(layer) if layer else None
        self._engine = Engine(media=media, cache=ResultCache(BUDGET))

    def _named(self, layer: str) -> Map:
        maps = self._shot.maps
        found = next((map for map in maps if layer in (map.id, map.name)), None)
        if found is None:
            names = ", ".join(map.name or map.id for map in maps[:12]) or "it has none"
            raise MediaError(f'has no map "{layer}"', where=self._shot.name, cure=f"its maps: {names}")
        return found

    def frame_at(self, seconds: Seconds) -> int:
        """Return the number of the frame shown at a time, held at both ends."""
        return min(max(int(seconds * float(self._shot.rate) + 1e-6), 0), self.frames - 1)

    def seconds_of(self, number: int) -> Seconds:
        """Return the time at which a frame begins."""
        return min(max(number, 0), self.frames - 1) / float(self._shot.rate)

    def picture(self, seconds: Seconds, width: int, height: int) -> Picture:
        """Return a frame, premultiplied RGBA, or a map's values as colours. Raises MediaError for a loop."""
        scale = min(1.0, max(width / self.width, height / self.height, 1 / min(self.width, self.height)))
        with self._entered():
            job = frame_job(self._engine, self._shot, self.frame_at(seconds))
            job.tolerant = True
            if self._map is None:
                made = frame_picture(job, scale)
            else:
                made = as_rgba(map_field(job, self._map, frame_grid(self.width, self.height, scale)))
            self.trouble = next((problem.line() for problem in job.problems.values()), "")
        return made

    @contextmanager
    def _entered(self) -> Iterator[None]:
        before = _HERE.paths
        if self._path in before:
            raise MediaError("this shot shows itself", where=self._path, cure="take it out of one of the two")
        if len(before) >= DEEPEST:
            what = f"shots lie in shots {DEEPEST} deep"
            raise MediaError(what, where=self._path, cure="render one of them to a clip")
        _HERE.paths = (*before, self._path)
        try:
            yield
        finally:
            _HERE.paths = before

    @property
    def nbytes(self) -> int:
        """Memory held."""
        return self._engine.cache.nbytes
