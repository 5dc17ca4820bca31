"""Autosave, and finding what a crashed session left.

Each running program writes its unsaved shot to a file of its own and holds a lock beside it (`storage.locks`). A file
whose lock is free is what was lost; it is kept until its shot has been saved again by another session, or is thrown
away on purpose.
"""

from __future__ import annotations

import os
import secrets
from dataclasses import dataclass
from pathlib import Path

import msgspec

from nimble_quake.errors import NimbleQuakeError, SaveFailed
from nimble_quake.session.storage.locks import is_locked, take_lock
from nimble_quake.session.storage.preferences import folder
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.codec import decoded, encoded
from nimble_quake.shotfile.files import MOST_BYTES, cure_of, put_bytes, read_plain, write_whole
from nimble_quake.shotfile.names import name_of_text, text_of_name


@dataclass(frozen=True)
class Lost:
    """A shot left by a session that did not end well."""

    file: Path
    shot: Shot
    path: Path | None

    @property
    def kept_at(self) -> float:
        """When it was written last, in seconds since 1970."""
        return _changed(self.file)

    def throw_away(self) -> None:
        """Remove it for good."""
        self.file.unlink(missing_ok=True)
        _lock_of(self.file).unlink(missing_ok=True)


class Autosave:
    """This session's own file of unsaved work."""

    def __init__(self) -> None:
        self._file: Path | None = None
        self._lock: int | None = None

    def _own_file(self) -> Path:
        """The file of this session, locked for as long as the program runs."""
        if self._file is None or not self._file.parent.is_dir():
            folder("state").mkdir(parents=True, exist_ok=True)
            self._file = folder("state") / f"unsaved-{secrets.token_hex(8)}.json"
            self._lock = take_lock(_lock_of(self._file))
        return self._file

    def write(self, shot: Shot, path: Path | None) -> None:
        """Write the shot where a later session will find it. Raises SaveFailed."""
        try:
            target = self._own_file()
        except OSError as wrong:
            where = str(folder("state"))
            raise SaveFailed(f"cannot autosave: {wrong.strerror}", where=where, cure=cure_of(wrong)) from wrong
        data = msgspec.json.encode({"path": text_of_name(str(path)) if path else "", "shot": encoded(shot)})
        write_whole(target, lambda part: put_bytes(part, data))

    def forget(self) -> None:
        """Remove this session's file: all is saved, or given up on purpose."""
        if self._file is not None:
            self._file.unlink(missing_ok=True)

    def close(self) -> None:
        """Remove the file and its lock: the session ends well."""
        self.forget()
        if self._file is not None:
            _lock_of(self._file).unlink(missing_ok=True)
        self.abandon()

    def abandon(self) -> None:
        """Let go of the lock and leave the file, as a crash would."""
        if self._lock is not None:
            os.close(self._lock)
        self._file = self._lock = None


def lost_shots() -> list[Lost]:
    """Return what sessions that no longer run have left, the newest first; damaged files are passed over."""
    found = []
    for file in sorted(folder("state").glob("unsaved-*.json"), key=_changed, reverse=True):
        if is_locked(_lock_of(file)):
            continue
        try:
            raw = msgspec.json.decode(read_plain(file, MOST_BYTES))
            path = Path(name_of_text(raw["path"])) if raw["path"] else None
            found.append(Lost(file, decoded(raw["shot"]), path))
        except (OSError, msgspec.DecodeError, NimbleQuakeError, KeyError, TypeError, ValueError, RecursionError):
            continue
    return found


def remove_locks() -> None:
    """Remove the locks of sessions that ended without one, and left no shot."""
    for lock in folder("state").glob("unsaved-*.lock"):
        if not lock.with_suffix(".json").exists() and not is_locked(lock):
            lock.unlink(missing_ok=True)


def _changed(file: Path) -> float:
    try:
        return file.stat().st_mtime
    except OSError:
        return 0.0


def _lock_of(file: Path) -> Path:
    return file.with_suffix(".lock")
