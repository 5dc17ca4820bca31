"""Writing files: what a writer is, and files that get their name when they are whole."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol, TypeAlias

import av

from nimble_quake.errors import SaveFailed
from nimble_quake.files.unfinished import finished
from nimble_quake.shotfile.files import cure_of

Prepared: TypeAlias = Any
"""A frame as a writer takes it: made by its format's `prepare`."""


@dataclass(frozen=True)
class Part:
    """Frames that are written together, and the file they are in."""

    file: Path
    frames: tuple[int, ...]


class Writer(Protocol):
    """Takes the frames of a part in order; `finish` gives the file its name, `discard` leaves nothing behind."""

    def write(self, frame: int, prepared: Prepared) -> None:
        """Take the next frame."""

    def finish(self) -> None:
        """Complete the file."""

    def discard(self) -> None:
        """Remove all that was written."""


def give_name(temporary: Path, path: Path) -> None:
    """Give a whole file its name, readable by all."""
    temporary.chmod(0o644)
    finished(temporary, path)


@contextmanager
def as_save_failed(path: Path) -> Iterator[None]:
    """Raise SaveFailed for whatever the disk or an encoder refuses while a file is written."""
    try:
        yield
    except (av.FFmpegError, OSError, ValueError) as wrong:
        raise failed(path, wrong) from wrong


def failed(path: Path, wrong: Exception) -> SaveFailed:
    """Return what is told where a file cannot be written."""
    why = (wrong.strerror if isinstance(wrong, OSError | av.FFmpegError) else "") or str(wrong)
    cure = cure_of(wrong) if isinstance(wrong, OSError) else "choose another format or size"
    return SaveFailed(f"cannot be written: {why}", where=str(path), cure=cure)
