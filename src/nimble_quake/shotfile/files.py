"""Shot files on disk: reading with limits, saving so that a crash or a full disk loses nothing."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable
from pathlib import Path

import msgspec

from nimble_quake.errors import SaveFailed, ShotError
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.codec import decoded, encoded

SUFFIX = ".nquake"
MOST_BYTES = 64_000_000


def read_shot(path: Path, notes: list[str] | None = None) -> Shot:
    """Return the shot in a file. Raises ShotError with the file's name. notes: as in `codec.decoded`."""
    try:
        if path.stat().st_size > MOST_BYTES:
            raise ShotError("the file is larger than 64 MB", where=str(path), cure="is it a shot?")
        data = path.read_bytes()
    except FileNotFoundError as wrong:
        raise ShotError("the file is not there", where=str(path), cure="check its name") from wrong
    except OSError as wrong:
        raise ShotError(
            f"the file cannot be read: {wrong.strerror}", where=str(path), cure="check its rights"
        ) from wrong
    return shot_from(data, path, notes)


def shot_from(data: bytes, path: Path, notes: list[str] | None = None) -> Shot:
    """Return the shot of a file's bytes; `path` names it in errors and is where its media are looked for."""
    try:
        raw = msgspec.json.decode(data)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as wrong:
        raise ShotError(f"the file is not whole JSON: {wrong}", where=str(path), cure="take its backup") from wrong
    try:
        return decoded(raw, path.parent.absolute(), notes)
    except ShotError as wrong:
        where = f"{path}: {wrong.where}" if wrong.where else str(path)
        named = ShotError(wrong.what, where=where, cure=wrong.cure)
        named.all = getattr(wrong, "all", [wrong])  # type: ignore[attr-defined]
        raise named from wrong


def shot_bytes(shot: Shot, folder: Path | None) -> bytes:
    """Return a shot as the bytes of its file."""
    return msgspec.json.format(msgspec.json.encode(encoded(shot, folder)), indent=1) + b"\n"


def write_shot(shot: Shot, path: Path, *, backup: bool = True) -> None:
    """Save a shot: written beside, flushed to the disk, then renamed. Raises SaveFailed; the old file stays."""
    data = shot_bytes(shot, path.parent.absolute())

    write_whole(path, lambda target: put_bytes(target, data), backup=backup)


def put_bytes(target: Path, data: bytes) -> None:
    """Write bytes to a file."""
    target.write_bytes(data)


def write_whole(path: Path, put: Callable[[Path], None], *, backup: bool = False) -> None:
    """Let `put` write a file under a temporary name, and give it its own name only when it is whole."""
    temporary = None
    try:
        handle, name = tempfile.mkstemp(prefix=f".{path.stem}-", suffix=".part" + path.suffix, dir=path.parent)
        os.close(handle)
        temporary = Path(name)
        put(temporary)
        with temporary.open("rb") as file:
            os.fsync(file.fileno())
        os.chmod(temporary, 0o666 & ~_umask())
        if backup and path.exists():
            os.replace(path, path.with_name(path.name + ".bak"))
        os.replace(temporary, path)
    except OSError as wrong:
        why = wrong.strerror or str(wrong)
        raise SaveFailed(
            f"cannot be saved: {why}", where=str(path), cure="free some room or choose another folder"
        ) from wrong
    finally:
        if temporary is not None:
            temporary.unlink(missing_ok=True)


def _umask() -> int:
    now = os.umask(0o022)
    os.umask(now)
    return now
