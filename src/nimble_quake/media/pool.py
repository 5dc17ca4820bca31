"""The open files of a shot: each opened once, opened again when it changed on disk, closed when not used."""

from __future__ import annotations

import contextlib
import os
import threading
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path
from typing import Any, ClassVar

from nimble_quake.conventions import SHOT_SUFFIX
from nimble_quake.errors import MediaError
from nimble_quake.media import clips, exr, flipbook, stills
from nimble_quake.media.data_file import DataFile, data_path, read_data
from nimble_quake.media.drawing import artwork
from nimble_quake.media.source import MediaSource, ShotFile

MOST_OPEN = 24
BUDGET = 192 * 2**20
"""Bytes that open files may hold together: pixels of stills, decoded frames of clips."""


def sort_of(path: str) -> str:
    """Return "still", "clip" or "artwork" by a file's ending; empty where we read no such file."""
    ending = os.path.splitext(path)[1].lower()  # asked for each plate of each frame
    if flipbook.is_pattern(path) or flipbook.is_animated(path):
        return "clip"
    if ending == ".svg":
        return "artwork"
    if ending in stills.SUFFIXES:
        return "still"
    return "clip" if ending in clips.SUFFIXES or ending == SHOT_SUFFIX else ""


def is_shot(path: str) -> bool:
    """Return whether a file is a shot, which is shown as a clip."""
    return path.lower().endswith(SHOT_SUFFIX)


def open_clip(path: str, fields: str = "tagged", layer: str = "") -> clips.Clip | flipbook.Flipbook:
    """Return footage, numbered pictures or an animation, opened anew. Raises MediaError.

    fields: of footage, which of each frame is shown: "both", "upper" or "lower", or as it is "tagged". layer: of
    OpenEXR pictures.
    """
    if flipbook.is_pattern(path) or Path(path).suffix.lower() in flipbook.ANIMATED:
        return flipbook.Flipbook(path, layer)
    return clips.Clip(Path(path), fields)


def as_it_is(path: str) -> str:
    """Return where the file of a path lies: there."""
    return path


def file_stamp(path: str) -> tuple[int, int]:
    """Return a file's time of change and size; zeros where it is not there."""
    try:
        if flipbook.is_pattern(path):
            return Path(path).parent.stat().st_mtime_ns, 0
        found = os.stat(path)  # asked for each plate of each frame: a Path takes as long again
        return found.st_mtime_ns, found.st_size
    except (OSError, ValueError):
        return 0, 0


class MediaPool:
    """Open files by path. `open` may be called from any thread.

    local: where the file of a path lies on this machine; raises MediaError for a path that must not be opened.
    """

    open_shot: ClassVar[Callable[[str, str, str, MediaPool], ShotFile] | None] = None
    """Opens a shot file as a clip: (path, where that lies here, layer, the pool of its own media). Set by `render`."""

    def __init__(self, budget: int = BUDGET, local: Callable[[str], str] = as_it_is) -> None:
        self.budget, self._local = budget, local
        self._open: OrderedDict[tuple[str, int, int, str], MediaSource | DataFile | MediaError] = OrderedDict()
        self._inside: dict[str, tuple[str, ...]] = {}
        """What open shot files name."""
        self._lock = threading.Lock()

    def stamp(self, path: str) -> tuple[str, int, int]:
        """Return what tells one state of a file from another: path, time of change, size.

        Of a shot file, that of whatever it names is counted in, once it has been opened.
        """
        own = self._own_stamp(path)
        if path not in self._inside:
            return own
        found = [own, *map(self._own_stamp, self._within(path))]
        return path, max(changed for _, changed, _ in found), sum(size for *_, size in found)

    def inside(self, path: str) -> frozenset[str]:
        """Return the files that a shot file names, with those that shots among them name; none for any other file."""
        todo, seen = [path], set[str]()
        while todo:
            file = todo.pop()
            if is_shot(file) and file not in seen:
                seen.add(file)
                with contextlib.suppress(MediaError):  # it is said where it is shown
                    self.open(file)
                    todo += self._inside.get(file, ())
        return self._within(path)

    def _within(self, path: str) -> frozenset[str]:
        """What is inside a shot file, as far as it and the shots among that have been opened."""
        found, todo = set[str](), [path]
        while todo:
            for file in self._inside.get(todo.pop(), ()):
                if file not in found:
                    found.add(file)
                    todo.append(file)
        return frozenset(found)

    def _own_stamp(self, path: str) -> tuple[str, int, int]:
        try:
            return path, *file_stamp(self._local(path))
        except MediaError:
            return path, 0, 0

    def open(self, path: str, sort: str = "", fields: str = "tagged", layer: str = "") -> MediaSource:
        """Return the open file, of one sort where one is named ("still", "clip", "artwork"). fields, layer: see
        `open_clip`.

        Raises MediaError; a file that failed is tried again once it has changed.
        """
        file = self._local(path)
        as_still = sort == "still" and flipbook.is_animated(file)  # its first picture
        if sort and path and not as_still and sort_of(path) not in ("", sort):
            here = sort_of(path)
            what = f"is {'an' if here[0] in 'aeiou' else 'a'} {here}, not {'an' if sort[0] in 'aeiou' else 'a'} {sort}"
            raise MediaError(what, where=path, cure=f"choose a file for {sort}, or add it as a plate of its own")
        variant = "still" if as_still else fields if fields != "tagged" and sort_of(path) == "clip" else ""
        layer = layer if file.lower().endswith((exr.SUFFIX, SHOT_SUFFIX)) else ""
        key = (*self._own_stamp(path), f"{variant}/{layer}" if layer else variant)
        found: MediaSource = self._kept(key, lambda: self._opened(path, file, as_still, fields, layer))
        return found

    def known(self, path: str) -> MediaSource | None:
        """Return a file that is open already, without waiting for it: None where it is not, or nobody can tell now."""
        key = (*self._own_stamp(path), "")
        if not self._lock.acquire(blocking=False):
            return None
        try:
            found = self._open.get(key)
        finally:
            self._lock.release()
        return None if found is None or isinstance(found, MediaError | DataFile) else found

    def data(self, path: str, frame: float = 0) -> DataFile:
        """Return a file of numbers, of numbered ones that of a frame. Raises MediaError."""
        file = data_path(self._local(path), frame)
        found: DataFile = self._kept((str(file), *file_stamp(str(file)), "data"), lambda: read_data(file))
        return found

    def _kept(self, key: tuple[str, int, int, str], make: Callable[[], Any]) -> Any:
        """What is open of a file, else what is made of it; a fault is kept and raised too."""
        with self._lock:
            found = self._open.get(key)
            if found is None:
                try:
                    found = make()
                except MediaError as wrong:
                    found = wrong
                if isinstance(found, MediaError):
                    found = found.anew()
                self._open[key] = found
                self._divide()
            self._open.move_to_end(key)
            self._let_go()
        if isinstance(found, MediaError):
            raise found.anew()
        return found

    def _let_go(self) -> None:
        """Close those not used for longest, until the others fit the budget; the one in use stays."""
        while len(self._open) > 1 and (len(self._open) > MOST_OPEN or self._open_bytes() > self.budget):
            self._open.popitem(last=False)
            self._divide()

    def _divide(self) -> None:
        """Let open clips keep as many decoded frames as all of them may, in equal shares."""
        open_clips = [source for source in self._open.values() if isinstance(source, clips.Clip)]
        for clip in open_clips:
            clip.most_bytes = clips.MOST_BYTES // len(open_clips)

    def _open_bytes(self) -> int:
        sources = (source for source in list(self._open.values()) if not isinstance(source, MediaError))
        return sum(source.nbytes for source in sources)

    def there(self, path: str) -> bool:
        """Return whether there is such a file, or such numbered pictures."""
        file = self._local(path)
        return bool(flipbook.numbered(file)) if flipbook.is_pattern(file) else Path(file).exists()

    def moves(self, path: str) -> bool:
        """Return whether a file shows something else over time: a clip. One that cannot be read does not."""
        try:
            return sort_of(path) == "clip" and self.open(path).seconds > 0
        except MediaError:
            return False

    def _opened(self, name: str, path: str, as_still: bool, fields: str, layer: str) -> MediaSource | MediaError:
        try:
            if not path:
                raise MediaError("no file is named", cure="choose one")
            if is_shot(path) and MediaPool.open_shot is not None:
                shot = MediaPool.open_shot(name, path, layer, self)
                self._inside[name] = shot.files
                return shot
            sort = "still" if as_still else sort_of(path)
            if sort == "artwork":
                return artwork.Artwork(Path(path))
            if sort == "still":
                file = Path(path)
                return exr.ExrStill(file, layer) if file.suffix.lower() == exr.SUFFIX else stills.Still(file)
            if sort == "clip":
                return open_clip(path, fields, layer)
            raise MediaError("is no kind of file we read", where=path, cure="use a picture, an SVG or a clip")
        except MediaError as wrong:
            return wrong
        except Exception as wrong:  # a decoder met something nobody foresaw; the shot goes on without the file
            return MediaError(f"cannot be read ({type(wrong).__name__})", where=path, cure="save it again")

    def nbytes(self) -> int:
        """Return the memory held by open files."""
        with self._lock:
            return self._open_bytes()
