"""What a machine does of a job, on the machine that was asked. All of it takes and gives bytes (`wire`)."""

from __future__ import annotations

import importlib.metadata
import platform
import shutil
import tempfile
import threading
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import msgspec

from nimble_quake import __version__
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import render_part
from nimble_quake.export.stored import Stored
from nimble_quake.export.writers import Part
from nimble_quake.farm import media
from nimble_quake.farm.media import Job, SentFile
from nimble_quake.farm.wire import packed, unpacked
from nimble_quake.render.engine import Engine
from nimble_quake.render.job import Problem

LIBRARIES = ("numpy", "scipy", "opencv-python-headless", "numba", "skia-python", "av", "OpenEXR")
"""What the numbers of a frame depend on, beside ourselves."""
ASKED_EVERY = 0.5
"""Seconds between two questions whether to stop."""

_jobs: dict[str, tuple[Order, Engine]] = {}
_lock = threading.Lock()


class Load(msgspec.Struct, frozen=True):
    """Parts that are rendered together on one machine: the frames of each."""

    number: int
    parts: tuple[tuple[int, ...], ...]


class Notice(msgspec.Struct, frozen=True):
    """A problem, as it is told."""

    path: str
    what: str
    cure: str = ""


class Done(msgspec.Struct, frozen=True):
    """What comes back of a load, beside the files of its parts, which are empty where a frame failed."""

    digests: tuple[str, ...]
    """SHA-256 of each file; what comes over the network is held against it."""
    problems: tuple[Notice, ...]
    failures: tuple[tuple[int, str], ...]
    seconds: float = 0.0


def versions() -> bytes:
    """Return what the numbers of a frame depend on, on this machine."""
    found = {name: importlib.metadata.version(name) for name in LIBRARIES}
    own = {"nimble-quake": __version__, "python": platform.python_version(), "machine": platform.machine()}
    return packed(own | found)


def check_media(job: bytes) -> bytes:
    """Return the digests of the files that are not here."""
    media.sweep_jobs()
    notify: Job = unpacked(job, Job)[0]
    return packed(media.missing(notify))


def take_media(archive: bytes) -> bytes:
    """Keep a file that was sent."""
    notify: SentFile
    notify, (data,) = unpacked(archive, SentFile)
    media.keep_sent(notify, data)
    return packed(True)


def forget(job: bytes) -> bytes:
    """Remove what was kept for a job; files stay, by what they hold, for the next one."""
    notify: Job = unpacked(job, Job)[0]
    with _lock:
        _jobs.pop(notify.id, None)
    shutil.rmtree(media.kept_folder() / notify.id, ignore_errors=True)
    return packed(True)


def _ready(job: Job) -> tuple[Order, Engine]:
    """The order and an engine for it, kept from load to load. Raises MediaError where a file is not here."""
    with _lock:
        if job.id not in _jobs:
            order = msgspec.json.decode(job.order, type=Stored).order()
            _jobs[job.id] = order, media.engine_of(job, media.places(job))
        return _jobs[job.id]


def render_load(job: bytes, load: bytes, stop: Callable[[], bool] = lambda: False) -> bytes:
    """Render a load. Raises Cancelled when it is asked to stop, MediaError where a file is not here."""
    began = time.monotonic()
    notify: Load = unpacked(load, Load)[0]
    asked: Job = unpacked(job, Job)[0]
    order, engine = _ready(asked)
    suffix = order.kind.part_suffix or order.kind.suffix
    problems: dict[str, Problem] = {}
    failures: dict[int, str] = {}
    files: list[bytes] = []
    with tempfile.TemporaryDirectory(prefix="nimble-quake-") as name:
        local = replace(order, path=Path(name) / order.path.name)
        for number, frames in enumerate(notify.parts):
            file = Path(name) / f"{number:07d}{suffix}"
            noted, failed = render_part(local, engine, Part(file, frames), _now_and_then(stop))
            problems |= {problem.line(): problem for problem in noted}
            failures |= failed
            files.append(file.read_bytes() if file.exists() else b"")
    said = tuple(Notice(problem.path, problem.what, problem.cure) for problem in problems.values())
    digests = tuple(media.digest_of_bytes(file) for file in files)
    return packed(Done(digests, said, tuple(failures.items()), time.monotonic() - began), files)


def _now_and_then(stop: Callable[[], bool]) -> Callable[[], bool]:
    """A question that is asked over the network, not more often than it need be."""
    asked, answer = time.monotonic(), False

    def found() -> bool:
        nonlocal asked, answer
        if not answer and time.monotonic() - asked > ASKED_EVERY:
            asked, answer = time.monotonic(), stop()
        return answer

    return found


def on_machine(job: bytes, load: bytes) -> bytes:
    """Render a load on the worker this is called by."""
    from distributed import Event, get_worker

    worker = get_worker()
    notify: Job = unpacked(job, Job)[0]
    halt = Event(notify.id, client=getattr(worker, "client", None))
    return render_load(job, load, halt.is_set)
