"""Pictures, one file a frame."""

from __future__ import annotations

import errno
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from nimble_quake.conventions import Picture
from nimble_quake.export.formats import Format, Target, numbered
from nimble_quake.export.writers import Part, as_save_failed, give_name
from nimble_quake.files.unfinished import removed, unfinished_file


class StillWriter:
    """One picture's file."""

    def __init__(self, target: Target) -> None:
        self._path, self._temporary = target.path, unfinished_file(target.path)

    def write(self, frame: int, prepared: bytes) -> None:
        """Take the picture as its file's bytes."""
        with as_save_failed(self._path):
            self._temporary.write_bytes(prepared)

    def finish(self) -> None:
        """Give the file its name."""
        with as_save_failed(self._path):
            give_name(self._temporary, self._path)

    def discard(self) -> None:
        """Remove what was written."""
        removed(self._temporary)


def place(target: Target, parts: Sequence[Part]) -> list[Path]:
    """Give all pictures their names, or none: what stood there before comes back where one cannot be placed."""
    placed: list[Path] = []
    with as_save_failed(target.path):
        kept = parts[0].file.parent / "before"
        kept.mkdir(exist_ok=True)
        try:
            for part in parts:
                path = numbered(target.path, part.frames[0])
                if path.is_dir():
                    raise IsADirectoryError(errno.EISDIR, f"there is a folder called {path.name}")
                if path.exists():
                    path.replace(kept / path.name)
                placed.append(path)
                part.file.replace(path)
        except OSError:
            for path, part in zip(placed, parts, strict=False):
                if path.exists() and not part.file.exists():
                    path.replace(part.file)
                if (kept / path.name).exists():
                    (kept / path.name).replace(path)
            raise
    return placed


def write_still(target: Target, picture: Picture) -> Path:
    """Write one picture under its own name. Raises SaveFailed."""
    with as_save_failed(target.path):
        prepared = target.format.prepare(picture, target)
        writer = target.format.opens(target)
    try:
        writer.write(0, prepared)
        writer.finish()
    except BaseException:
        writer.discard()
        raise
    return target.path


def pictures(
    key: str,
    label: str,
    suffix: str,
    about: str,
    pack: Callable[[Picture, Target], bytes],
    *,
    alpha: bool = True,
    **more: Any,
) -> Format:
    """Return a kind of picture, one file a frame. pack: a picture as a file's bytes. more: fields of Format."""
    return Format(key, label, suffix, about, alpha, pack, StillWriter, place, sequence=True, **more)
