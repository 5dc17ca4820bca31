"""A shot with all its media, in a new folder or a zip: to be handed on, or put away.

NAME.nquake       the shot; its media relative to it
NAME.tracks/…     what was tracked in its clips
media/…           its files, under their own names
fonts/…           fonts of one's own that it is set in
contents.txt      what lies here, what is missing, which typefaces it names
"""

from __future__ import annotations

import shutil
import zipfile
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import IO

from nimble_quake.errors import BadInput, Cancelled, NimbleQuakeError, SaveFailed
from nimble_quake.files.unfinished import finished, removed, unfinished_file, unfinished_folder
from nimble_quake.media.drawing import faces
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.files import SUFFIX, read_shot, shot_bytes
from nimble_quake.shotfile.starter_file import faces_in, with_media

ZIP, MEDIA, FONTS, TRACKS, CONTENTS = ".zip", "media", "fonts", ".tracks", "contents.txt"
_HERE = Path("/nimble-quake-collected")
"""Stands for the folder the shot lies in, while it is written."""
CHUNK = 1 << 20
Step = Callable[[int], bool]
"""Is told how many bytes more were copied; returns whether to go on."""


@dataclass(frozen=True)
class Collection:
    """What is to be copied: each file's name beside the shot, and where it lies; files that are not there."""

    shot: Shot
    name: str
    files: tuple[tuple[str, Path], ...]
    missing: tuple[str, ...]
    inner: tuple[tuple[str, bytes], ...] = ()
    """Shot files that it shows, as they will lie: their media lie beside them."""

    @property
    def size(self) -> int:
        """How many bytes there are to copy."""
        return sum(path.stat().st_size for _, path in self.files)


def collection(shot: Shot, name: str, tracks: Iterable[Path] = ()) -> Collection:
    """Return what a shot needs, with its media named as they will lie. name: of the shot's file, without its ending."""
    taken: set[str] = set()
    moved, files, missing = with_media(shot, _HERE, partial(_free_folder, taken))
    files += [(f"{name}{TRACKS}/{path.name}", path) for path in tracks]
    files, inner, more = _with_inner(files, ())
    missing += more
    files += [(f"{FONTS}/{path.name}", path) for face in faces_in(shot) for path in faces.files_of(face)]
    return Collection(moved, name, tuple(files), tuple(missing), tuple(inner))


Files = list[tuple[str, Path]]


def _with_inner(files: Files, outer: tuple[Path, ...]) -> tuple[Files, list[tuple[str, bytes]], list[str]]:
    """Files with those that shots among them need; these shots as they will lie; and what else is missing."""
    found, inner, lost = Files(), list[tuple[str, bytes]](), list[str]()
    for name, path in files:
        if path.suffix != SUFFIX or path in outer:
            found.append((name, path))
            continue
        try:
            shot = read_shot(path)
        except NimbleQuakeError:
            found.append((name, path))  # as it is: nobody can read it
            continue
        folder, taken = f"{name.removesuffix(SUFFIX)} files", set[str]()
        beside = Path(name).parent
        own, its, gone = with_media(shot, _HERE / folder, partial(_free_folder, taken))
        within = [(f"{folder}/{each}", at) for each, at in its]
        deeper, more, also = _with_inner(within, (*outer, path))
        found += deeper
        inner += [(name, shot_bytes(own, _HERE / beside)), *more]
        lost += [*gone, *also]
    return found, inner, lost


def _free_folder(taken: set[str], name: str, parts: list[Path]) -> str:
    """A folder in which a file's name, or the names of a sequence, are free: small and capital letters are alike."""
    file, number = Path(name), 1
    folder = f"{MEDIA}/{file.stem.split('#')[0].rstrip('_-. ') or 'pictures'}" if len(parts) > 1 else MEDIA
    inner = folder
    while any(f"{inner}/{part.name}".casefold() in taken for part in parts):
        number += 1
        inner = f"{folder}/{number}"
    taken |= {f"{inner}/{part.name}".casefold() for part in parts}
    return inner


def collect(what: Collection, to: Path, step: Step = lambda _: True) -> Path:
    """Copy a shot and its files into a new folder, or a .zip, whole or not at all. Returns that.

    Raises BadInput where there is one of the name, SaveFailed, Cancelled.
    """
    if to.exists():
        raise BadInput("there is something of this name", where=str(to), cure="choose another name")
    if not to.parent.is_dir():
        raise BadInput("its folder is not there", where=str(to), cure="make the folder first")
    zipped = to.suffix.lower() == ZIP
    try:
        free, need = shutil.disk_usage(to.parent).free, what.size
        if need > free:
            cure = f"free {(need - free) / 1e9:.1f} GB, or choose another disk"
            raise SaveFailed("there is no room for its media", where=str(to), cure=cure)
        beside = unfinished_file(to) if zipped else unfinished_folder(to)
    except OSError as wrong:
        raise _failed(to, wrong) from wrong
    try:
        (_into_zip if zipped else _into_folder)(what, beside, step)
        finished(beside, to)
    except OSError as wrong:
        raise _failed(to, wrong) from wrong
    finally:
        removed(beside)
    return to


def _failed(to: Path, wrong: OSError) -> SaveFailed:
    where = str(wrong.filename or to)
    return SaveFailed(f"it cannot be collected: {wrong.strerror or wrong}", where=where, cure="choose another place")


def _into_folder(what: Collection, folder: Path, step: Step) -> None:
    for name, data in _written(what).items():
        (folder / name).parent.mkdir(parents=True, exist_ok=True)
        (folder / name).write_bytes(data)
    for name, path in what.files:
        target = folder / name
        target.parent.mkdir(parents=True, exist_ok=True)
        with path.open("rb") as source, target.open("wb") as out:
            _copy(source, out, step)
        shutil.copystat(path, target)


def _into_zip(what: Collection, file: Path, step: Step) -> None:
    """Media are packed as they are: nearly all of them are compressed already."""
    with zipfile.ZipFile(file, "w", zipfile.ZIP_STORED) as out:
        for name, data in _written(what).items():
            out.writestr(f"{what.name}/{name}", data, zipfile.ZIP_DEFLATED)
        for name, path in what.files:
            entry = zipfile.ZipInfo.from_file(path, f"{what.name}/{name}", strict_timestamps=False)
            with path.open("rb") as source, out.open(entry, "w", force_zip64=True) as inside:
                _copy(source, inside, step)


def _copy(source: IO[bytes], out: IO[bytes], step: Step) -> None:
    while data := source.read(CHUNK):
        out.write(data)
        if not step(len(data)):
            raise Cancelled("collecting was stopped")


def _written(what: Collection) -> dict[str, bytes]:
    lines = [f"{what.name}{SUFFIX}, with {len(what.files)} files."]
    lines += ["", *(f"{name}    from {path}" for name, path in what.files)]
    if what.missing:
        lines += ["", "Not there when it was collected:", *what.missing]
    if wanted := [face for face in faces_in(what.shot) if not faces.files_of(face)]:
        lines += ["", "Typefaces it names, which have to be installed:", *wanted]
    words = "\n".join([*lines, ""]).encode("utf-8", "surrogateescape")
    return {f"{what.name}{SUFFIX}": shot_bytes(what.shot, _HERE), CONTENTS: words, **dict(what.inner)}
