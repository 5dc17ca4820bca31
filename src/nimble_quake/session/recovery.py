"""Autosave, and finding what a crashed session left.

Each running program writes its unsaved shot to a file of its own; a clean end removes it. A file whose program no
longer runs is what was lost.
"""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path

import msgspec

from nimble_quake.errors import NimbleQuakeError, SaveFailed
from nimble_quake.session.preferences import folder
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.codec import decoded, encoded
from nimble_quake.shotfile.files import put_bytes, write_whole


@dataclass(frozen=True)
class Lost:
    """A shot left by a session that did not end well."""

    file: Path
    shot: Shot
    path: Path | None


def _file() -> Path:
    return folder("state") / f"unsaved-{os.getpid()}.json"


def autosave(shot: Shot, path: Path | None) -> None:
    """Write the shot where a later session will find it. Raises SaveFailed."""
    target = _file()
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
    except OSError as wrong:
        raise SaveFailed(f"cannot autosave: {wrong.strerror}", where=str(target), cure="free some room") from wrong
    data = msgspec.json.encode({"path": str(path) if path else "", "shot": encoded(shot)})
    write_whole(target, lambda part: put_bytes(part, data))


def forget() -> None:
    """Remove this session's autosave: all is saved, or given up on purpose."""
    _file().unlink(missing_ok=True)


def lost_shots() -> list[Lost]:
    """Return what sessions that no longer run have left, the newest first; damaged files are passed over."""
    found = []
    files = sorted(folder("state").glob("unsaved-*.json"), key=lambda file: -file.stat().st_mtime)
    for file in files:
        if _running(file):
            continue
        try:
            raw = msgspec.json.decode(file.read_bytes())
            found.append(Lost(file, decoded(raw["shot"]), Path(raw["path"]) if raw["path"] else None))
        except (OSError, msgspec.DecodeError, NimbleQuakeError, KeyError, TypeError):
            continue
    return found


def _running(file: Path) -> bool:
    number = file.stem.removeprefix("unsaved-")
    if not number.isdigit():
        return False
    try:
        os.kill(int(number), 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True
