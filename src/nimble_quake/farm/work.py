"""What a machine does of a job. Everything here runs on the machine that was asked."""

from __future__ import annotations

import hashlib
import importlib.metadata
import platform
import shutil
import tempfile
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

import msgspec
import numpy as np

from nimble_quake import __version__
from nimble_quake.export.order import Order, frame_for
from nimble_quake.export.rendering import render_part
from nimble_quake.export.stored import Stored
from nimble_quake.export.writers import Part
from nimble_quake.farm import media
from nimble_quake.farm.media import Held, Job
from nimble_quake.render.job import Engine, Problem

LIBRARIES = ("numpy", "scipy", "opencv-python-headless", "numba", "skia-python", "av", "OpenEXR")
"""What the numbers of a frame depend on, beside ourselves."""
ASKED_EVERY = 0.5
"""Seconds between two questions whether to stop."""

_jobs: dict[str, tuple[Order, Engine]] = {}
_lock = threading.Lock()


@dataclass(frozen=True)
class Load:
    """Parts that are rendered together on one machine. proof: the digest of this frame is asked for too."""

    number: int
    parts: tuple[Part, ...]
    proof: int | None = None

    @property
    def count(self) -> int:
        """How many frames it has."""
        return sum(len(part.frames) for part in self.parts)


@dataclass(frozen=True)
class Done:
    """What comes back of a load: the bytes of each part's file, none where a frame failed."""

    machine: str
    files: tuple[bytes | None, ...]
    digests: tuple[str, ...]
    """SHA-256 of each file; what comes over the network is held against it."""
    problems: tuple[Problem, ...]
    failures: tuple[tuple[int, str], ...]
    proof: str = ""
    seconds: float = 0.0


def versions() -> dict[str, str]:
    """Return what the numbers of a frame depend on, on this machine."""
    found = {name: importlib.metadata.version(name) for name in LIBRARIES}
    return {"nimble-quake": __version__, "python": platform.python_version(), "machine": platform.machine(), **found}


def check_media(job: Job) -> list[str]:
    """Return the digests of the files that are not here."""
    return media.missing(job)


def take_media(held: Held, data: bytes) -> None:
    """Keep a file that was sent."""
    media.keep_sent(held, data)


def forget(id: str) -> None:
    """Remove what was kept for a job; files stay, by what they hold, for the next one."""
    with _lock:
        _jobs.pop(id, None)
    shutil.rmtree(media.kept_folder() / id, ignore_errors=True)


def frame_digest(order: Order, engine: Engine, frame: int) -> str:
    """Return the SHA-256 of a frame's numbers."""
    return hashlib.sha256(np.ascontiguousarray(frame_for(engine, order, frame)[0]).tobytes()).hexdigest()


def _ready(job: Job) -> tuple[Order, Engine]:
    """The order and an engine for it, kept from load to load. Raises MediaError where a file is not here."""
    with _lock:
        if job.id not in _jobs:
            order = msgspec.json.decode(job.order, type=Stored).order()
            _jobs[job.id] = order, media.engine_of(job, media.places(job))
        return _jobs[job.id]


def render_load(job: Job, load: Load, machine: str, stop: Callable[[], bool]) -> Done:
    """Render a load. Raises Cancelled when it is asked to stop, MediaError where a file is not here."""
    began = time.monotonic()
    order, engine = _ready(job)
    problems: dict[str, Problem] = {}
    failures: dict[int, str] = {}
    files: list[bytes | None] = []
    with tempfile.TemporaryDirectory(prefix="nimble-quake-") as name:
        local = replace(order, path=Path(name) / order.path.name)
        for part in load.parts:
            file = Path(name) / part.file.name
            noted, failed = render_part(local, engine, Part(file, part.frames), _now_and_then(stop))
            problems |= {problem.line(): problem for problem in noted}
            failures |= failed
            files.append(file.read_bytes() if file.exists() else None)
    proof = "" if load.proof is None else frame_digest(order, engine, load.proof)
    digests = tuple(hashlib.sha256(data or b"").hexdigest() for data in files)
    return Done(machine, tuple(files), digests, tuple(problems.values()), tuple(failures.items()), proof,
                time.monotonic() - began)  # fmt: skip


def _now_and_then(stop: Callable[[], bool]) -> Callable[[], bool]:
    """A question that is asked over the network, not more often than it need be."""
    asked, answer = time.monotonic(), False

    def found() -> bool:
        nonlocal asked, answer
        if not answer and time.monotonic() - asked > ASKED_EVERY:
            asked, answer = time.monotonic(), stop()
        return answer

    return found
