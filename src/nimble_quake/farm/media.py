"""The files of a job: what they hold, whether a machine has them, and engines that open nothing else."""

from __future__ import annotations

import hashlib
import os
import tempfile
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import platformdirs

from nimble_quake.analysis.side_files import content_name
from nimble_quake.analysis.store import TrackStore
from nimble_quake.errors import MediaError
from nimble_quake.export.order import files_of
from nimble_quake.media import flipbook
from nimble_quake.media.pool import MediaPool
from nimble_quake.media.sound import Recordings
from nimble_quake.render.job import Engine
from nimble_quake.shot.model import Shot

MOST_SENT = 512 * 2**20
"""Bytes of a file that is sent to a machine that does not have it; larger ones have to be on a shared disk."""
CHUNK = 2**20


@dataclass(frozen=True)
class Held:
    """A file and the SHA-256 of what it holds."""

    path: str
    digest: str
    size: int


@dataclass(frozen=True)
class Item:
    """What a shot names by a path: one file, or numbered ones."""

    path: str
    files: tuple[Held, ...]


@dataclass(frozen=True)
class Job:
    """All that the machines are told once: the order, its files, and the tracks of its clips."""

    id: str
    order: bytes
    """An `export.stored.Stored` as JSON."""
    items: tuple[Item, ...]
    tracks: tuple[Held, ...]

    def digests(self) -> dict[str, Held]:
        """Return every file by its digest."""
        return {held.digest: held for held in (*(file for item in self.items for file in item.files), *self.tracks)}


def digest_of(path: str) -> str:
    """Return the SHA-256 of what a file holds; remembered while the file stays as it is. Raises OSError."""
    stat = os.stat(path)
    return _digest(path, stat.st_mtime_ns, stat.st_size)


@lru_cache(maxsize=4096)
def _digest(path: str, changed: int, size: int) -> str:
    found = hashlib.sha256()
    with open(path, "rb") as file:
        while data := file.read(CHUNK):
            found.update(data)
    return found.hexdigest()


def _held(path: Path) -> Held:
    return Held(str(path), digest_of(str(path)), path.stat().st_size)


def items_of(shot: Shot, engine: Engine) -> tuple[Item, ...]:
    """Return the files that a shot needs; one that is not there has none, here as elsewhere."""
    found = []
    for path in sorted(files_of(shot, engine)):
        names = [file for _, file in flipbook.numbered(path)] if flipbook.is_pattern(path) else [Path(path)]
        found.append(Item(path, tuple(_held(name) for name in names if name.is_file())))
    return tuple(found)


def tracks_of(items: tuple[Item, ...], engine: Engine) -> tuple[Held, ...]:
    """Return the side files of the tracks of a job's clips."""
    found = []
    for item in items:
        if len(item.files) == 1 and engine.tracks.find(item.path) is not None:
            name = f"{content_name(item.path)}.npz"
            found += [_held(folder / name) for folder in engine.tracks.folders if (folder / name).is_file()][:1]
    return tuple(found)


def kept_folder() -> Path:
    """Return where a machine keeps the files that were sent to it."""
    home = os.environ.get("NIMBLE_QUAKE_HOME")
    return (Path(home) if home else platformdirs.user_cache_path("nimble-quake")) / "farm"


def kept_file(held: Held) -> Path:
    """Return where a file that was sent lies: by what it holds, under its own name."""
    return kept_folder() / held.digest / Path(held.path).name


def keep_sent(held: Held, data: bytes) -> None:
    """Keep a file that was sent. Raises MediaError where it does not hold what it should."""
    if hashlib.sha256(data).hexdigest() != held.digest:
        raise MediaError("came damaged", where=held.path, cure="send it again")
    target = kept_file(held)
    target.parent.mkdir(parents=True, exist_ok=True)
    handle, name = tempfile.mkstemp(prefix=".part-", dir=target.parent)
    with os.fdopen(handle, "wb") as file:
        file.write(data)
    os.replace(name, target)


def here(held: Held) -> Path | None:
    """Return where a file lies on this machine: on a shared disk or sent; None where neither holds the same."""
    for path in (Path(held.path), kept_file(held)):
        try:
            if path.is_file() and path.stat().st_size == held.size and digest_of(str(path)) == held.digest:
                return path
        except OSError:
            continue
    return None


def missing(job: Job) -> list[str]:
    """Return the digests of the files that this machine does not have."""
    return [digest for digest, held in job.digests().items() if here(held) is None]


def places(job: Job) -> dict[str, str]:
    """Return where each path of a job lies here. Raises MediaError where a file is not here."""
    return {item.path: _place(job, item) for item in job.items}


def _place(job: Job, item: Item) -> str:
    if not item.files:
        return ""
    found = [here(held) for held in item.files]
    if None in found:
        raise MediaError("is not on this machine", where=item.path, cure="share its folder")
    if not flipbook.is_pattern(item.path):
        return str(found[0])
    folder = kept_folder() / job.id / hashlib.sha256(item.path.encode()).hexdigest()[:16]
    folder.mkdir(parents=True, exist_ok=True)
    for held, path in zip(item.files, found, strict=True):
        link = folder / Path(held.path).name
        if path is not None and not link.exists():
            link.symlink_to(path)
    return str(folder / Path(item.path).name)


def engine_of(job: Job, places: dict[str, str]) -> Engine:
    """Return an engine that opens what belongs to a job and nothing else. places: of `places`."""

    def local(path: str) -> str:
        if path and path not in places:
            raise MediaError("is not part of the job", where=path, cure="name it in the shot")
        return places.get(path, "")

    engine = Engine(media=MediaPool(local=local), recordings=Recordings(local), tracks=TrackStore(local))
    tracks = kept_folder() / job.id / "tracks"
    tracks.mkdir(parents=True, exist_ok=True)
    for held in job.tracks:
        found, link = here(held), tracks / Path(held.path).name
        if found is not None and not link.exists():
            link.symlink_to(found)
    engine.tracks.look_in(tracks)
    return engine
