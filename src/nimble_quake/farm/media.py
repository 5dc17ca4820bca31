"""The files of a job: what they hold, whether a machine has them, and engines that open nothing else."""

from __future__ import annotations

import contextlib
import hashlib
import os
import shutil
import time
from functools import lru_cache
from pathlib import Path
from typing import Annotated

import msgspec
import platformdirs

from nimble_quake.analysis.side_files import content_name
from nimble_quake.analysis.store import TrackStore
from nimble_quake.errors import MediaError
from nimble_quake.export.order import files_of
from nimble_quake.files.plain import plain_file
from nimble_quake.files.unfinished import finished, removed, unfinished_file
from nimble_quake.media import flipbook
from nimble_quake.media.pool import MediaPool
from nimble_quake.media.sound import Recordings
from nimble_quake.render.engine import Engine
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.names import name_of_text, text_of_name

MOST_SENT = 512 * 2**20
"""Bytes of a file that is sent to a machine that does not have it; larger ones have to be on a shared disk."""
CHUNK = 2**20


class SentFile(msgspec.Struct, frozen=True):
    """A file and the SHA-256 of what it holds."""

    name: str
    """Its path as text (`shotfile.names`), so that any path goes into JSON."""
    digest: Annotated[str, msgspec.Meta(pattern=r"^[0-9a-f]{64}$")]
    size: int

    @property
    def path(self) -> str:
        """Its path."""
        return name_of_text(self.name)


class Item(msgspec.Struct, frozen=True):
    """What a shot names by a path: one file, or numbered ones."""

    name: str
    """The path as text."""
    files: tuple[SentFile, ...]

    @property
    def path(self) -> str:
        """The path."""
        return name_of_text(self.name)


class Job(msgspec.Struct, frozen=True):
    """All that the machines are told once: the order, its files, and the tracks of its clips."""

    id: Annotated[str, msgspec.Meta(pattern=r"^job-[0-9a-f]{16}$")]
    order: msgspec.Raw
    """An `export.stored.Stored`."""
    items: tuple[Item, ...]
    tracks: tuple[SentFile, ...]

    def digests(self) -> dict[str, SentFile]:
        """Return every file by its digest."""
        return {sent.digest: sent for sent in (*(file for item in self.items for file in item.files), *self.tracks)}


def digest_of(path: str) -> str:
    """Return the SHA-256 of what a file holds; remembered while the file stays as it is. Raises OSError."""
    stat = plain_file(path)
    return _digest(path, stat.st_mtime_ns, stat.st_size)


def digest_of_bytes(data: bytes) -> str:
    """Return the SHA-256 of bytes."""
    return hashlib.sha256(data).hexdigest()


@lru_cache(maxsize=4096)
def _digest(path: str, changed: int, size: int) -> str:
    found = hashlib.sha256()
    with open(path, "rb") as file:
        while data := file.read(CHUNK):
            found.update(data)
    return found.hexdigest()


def _sent_file(path: Path) -> SentFile:
    return SentFile(text_of_name(str(path)), digest_of(str(path)), path.stat().st_size)


def items_of(shot: Shot, engine: Engine) -> tuple[Item, ...]:
    """Return the files that a shot needs; one that is not there has none, here as elsewhere."""
    found = []
    for path in sorted(files_of(shot, engine)):
        names = [file for _, file in flipbook.numbered(path)] if flipbook.is_pattern(path) else [Path(path)]
        found.append(Item(text_of_name(path), tuple(_sent_file(name) for name in names if name.is_file())))
    return tuple(found)


def tracks_of(items: tuple[Item, ...], engine: Engine) -> tuple[SentFile, ...]:
    """Return the side files of the tracks of a job's clips."""
    found = []
    for item in items:
        if len(item.files) == 1 and engine.tracks.find(item.path) is not None:
            name = f"{content_name(item.path)}.npz"
            found += [_sent_file(folder / name) for folder in engine.tracks.folders if (folder / name).is_file()][:1]
    return tuple(found)


JOB_DAYS = 14
"""The folder of a job is removed after so many days, if nobody said that the job has ended."""


def sweep_jobs() -> None:
    """Remove the folders of jobs that nobody ended: links to files, and tracks."""
    for folder in kept_folder().glob("job-*/"):
        with contextlib.suppress(OSError):
            if time.time() - folder.stat().st_mtime > JOB_DAYS * 86_400:
                shutil.rmtree(folder, ignore_errors=True)


def kept_folder() -> Path:
    """Return where a machine keeps the files that were sent to it."""
    home = os.environ.get("NIMBLE_QUAKE_HOME")
    return (Path(home) if home else platformdirs.user_cache_path("nimble-quake")) / "farm"


def kept_file(sent: SentFile) -> Path:
    """Return where a file that was sent lies: by what it holds, under its own name."""
    return kept_folder() / sent.digest / Path(sent.path).name


def keep_sent(sent: SentFile, data: bytes) -> None:
    """Keep a file that was sent. Raises MediaError where it does not hold what it should."""
    if digest_of_bytes(data) != sent.digest:
        raise MediaError("came damaged", where=sent.path, cure="send it again")
    target = kept_file(sent)
    target.parent.mkdir(parents=True, exist_ok=True)
    temporary = unfinished_file(target)
    try:
        temporary.write_bytes(data)
        finished(temporary, target)
    finally:
        removed(temporary)


def here(sent: SentFile) -> Path | None:
    """Return where a file lies on this machine: on a shared disk or sent; None where neither holds the same."""
    for path in (Path(sent.path), kept_file(sent)):
        try:
            if path.is_file() and path.stat().st_size == sent.size and digest_of(str(path)) == sent.digest:
                return path
        except OSError:
            continue
    return None


def missing(job: Job) -> list[str]:
    """Return the digests of the files that this machine does not have."""
    return [digest for digest, sent in job.digests().items() if here(sent) is None]


def places(job: Job) -> dict[str, str]:
    """Return where each path of a job lies here. Raises MediaError where a file is not here."""
    return {item.path: _place(job, item) for item in job.items}


def _place(job: Job, item: Item) -> str:
    if not item.files:
        return ""
    found = [here(sent) for sent in item.files]
    if None in found:
        raise MediaError("is not on this machine", where=item.path, cure="share its folder")
    if not flipbook.is_pattern(item.path):
        return str(found[0])
    folder = kept_folder() / job.id / hashlib.sha256(item.path.encode()).hexdigest()[:16]
    folder.mkdir(parents=True, exist_ok=True)
    for sent, path in zip(item.files, found, strict=True):
        link = folder / Path(sent.path).name
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
    for sent in job.tracks:
        found, link = here(sent), tracks / Path(sent.path).name
        if found is not None and not link.exists():
            link.symlink_to(found)
    engine.tracks.look_in(tracks)
    return engine
