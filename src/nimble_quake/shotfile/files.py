"""Shot files on disk: reading with limits, saving so that a crash or a full disk loses nothing."""

from __future__ import annotations

import contextlib
import errno
import os
import shutil
import stat
from collections.abc import Callable
from pathlib import Path

import msgspec

from nimble_quake.conventions import SHOT_SUFFIX
from nimble_quake.errors import SaveFailed, ShotError
from nimble_quake.files.unfinished import finished, removed, unfinished_file
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.codec import decoded, encoded

SUFFIX = SHOT_SUFFIX
MOST_BYTES = 64_000_000


def read_shot(path: Path, notes: list[str] | None = None) -> Shot:
    """Return the shot in a file. Raises ShotError with the file's name. notes: as in `codec.decoded`."""
    try:
        data = read_plain(path, MOST_BYTES)
    except FileNotFoundError as wrong:
        if backup_of(path).is_file():
            cure = f"its backup is there: open {backup_of(path).name}"
            raise LostShot("the file is not there", where=str(path), cure=cure) from wrong
        raise ShotError("the file is not there", where=str(path), cure="check its name") from wrong
    return shot_from(data, path, notes)


class LostShot(ShotError):
    """A shot that cannot be opened, while its backup is there (see `backup_of`)."""


def read_plain(path: Path, most: int) -> bytes:
    """Return the bytes of a plain file of at most so many. Raises ShotError, FileNotFoundError.

    Pipes and devices are not read: they may never end.
    """
    try:
        found = path.stat()
        if stat.S_ISDIR(found.st_mode):
            raise ShotError("is a folder", where=str(path), cure="choose a file in it")
        if not stat.S_ISREG(found.st_mode):
            raise ShotError("is no plain file", where=str(path), cure="choose a file on a disk")
        if found.st_size > most:
            raise ShotError(
                f"the file is larger than {most // 1_000_000} MB", where=str(path), cure="is it one of ours?"
            )
        return path.read_bytes()
    except FileNotFoundError:
        raise
    except (OSError, ValueError) as wrong:
        why = getattr(wrong, "strerror", None) or str(wrong)
        raise ShotError(f"the file cannot be read: {why}", where=str(path), cure="check its rights") from wrong


def shot_from(data: bytes, path: Path, notes: list[str] | None = None) -> Shot:
    """Return the shot of a file's bytes; `path` names it in errors and is where its media are looked for."""
    try:
        raw = msgspec.json.decode(data)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as wrong:
        what = f"the file is not whole JSON: {wrong}"
        if path.suffix != ".bak" and backup_of(path).is_file():
            raise LostShot(what, where=str(path), cure=f"its backup is there: open {backup_of(path).name}") from wrong
        raise ShotError(what, where=str(path), cure="it is no shot, or was cut off; take another copy") from wrong
    try:
        return decoded(raw, path.parent.absolute(), notes)
    except ShotError as wrong:
        where = f"{path}: {wrong.where}" if wrong.where else str(path)
        named = ShotError(wrong.what, where=where, cure=wrong.cure)
        named.all = wrong.all or [wrong]
        raise named from wrong


def shot_bytes(shot: Shot, folder: Path | None) -> bytes:
    """Return a shot as the bytes of its file."""
    return msgspec.json.format(msgspec.json.encode(encoded(shot, folder)), indent=1) + b"\n"


def write_shot(shot: Shot, path: Path, *, backup: bool = True) -> None:
    """Save a shot: written beside, flushed to the disk, then renamed. Raises SaveFailed; the old file stays."""
    data = shot_bytes(shot, path.parent.absolute())

    write_whole(path, lambda target: put_bytes(target, data), backup=backup)


def kept_aside(path: Path, since: tuple[int, int]) -> Path | None:
    """Give a file a second name beside it, where it is not as it was any more: another program has saved it meanwhile.

    since: its time of change (ns) and size then. Returns the name, None where it is as it was, or gone. Raises OSError.
    """
    try:
        state = path.stat()
    except FileNotFoundError:
        return None
    if (state.st_mtime_ns, state.st_size) == since:
        return None
    number = 1
    while (other := path.with_name(f"{path.stem} (another {number}){path.suffix}")).exists():
        number += 1
    shutil.copy2(path, other)
    return other


def put_bytes(target: Path, data: bytes) -> None:
    """Write bytes to a file."""
    target.write_bytes(data)


def write_whole(path: Path, put: Callable[[Path], None], *, backup: bool = False, flush: bool = True) -> None:
    """Let `put` write a file under a temporary name, and give it its own name only when it is whole.

    A link is followed, so that it stays one; the old file's permissions stay. With `backup` the old file gets a
    second name, `.bak`, before the new one takes its place: at no moment is there no file under the name.
    flush: have it on the disk before it gets its name; without, a machine that fails may leave an empty file.
    Raises SaveFailed; the old file is as it was then.
    """
    temporary = None
    try:
        target = Path(os.path.realpath(path))
        if target.is_dir():
            raise SaveFailed("is a folder", where=str(path), cure="choose another name")
        temporary = unfinished_file(target)
        put(temporary)
        if flush:
            with temporary.open("rb") as file:
                os.fsync(file.fileno())
        os.chmod(temporary, _permissions(target))
        if backup and target.exists():
            _keep_backup(target)
        finished(temporary, target)
        if flush:
            _flush_folder(target.parent)
    except OSError as wrong:
        raise SaveFailed(f"cannot be saved: {wrong.strerror or wrong}", where=str(path), cure=cure_of(wrong)) from wrong
    finally:
        if temporary is not None:
            removed(temporary)


def backup_of(path: Path) -> Path:
    """Return where the backup of a file lies."""
    return path.with_name(path.name + ".bak")


def _keep_backup(target: Path) -> None:
    """Give the old file its second name; where the disk knows no hard links, copy it."""
    beside = unfinished_file(backup_of(target))
    removed(beside)  # its name is free, and only ours
    try:
        os.link(target, beside)
    except OSError:
        shutil.copy2(target, beside)
    os.replace(beside, backup_of(target))


def _permissions(target: Path) -> int:
    try:
        return stat.S_IMODE(target.stat().st_mode)
    except OSError:
        return 0o666 & ~_umask()


def _flush_folder(folder: Path) -> None:
    """Have the new name itself on the disk; some file systems will not, and that is no failure."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


CURES = {
    errno.ENOSPC: "free some room, or choose another disk",
    errno.EDQUOT: "your share of the disk is full: free some room",
    errno.EROFS: "this disk can only be read: choose another folder",
    errno.EACCES: "you may not write here: choose another folder, or change its rights",
    errno.EPERM: "you may not write here: choose another folder, or change its rights",
    errno.ENOENT: "the folder is not there: choose another",
    errno.ENOTDIR: "a part of the path is a file, not a folder: choose another",
    errno.EISDIR: "there is a folder of this name: choose another name",
    errno.ENAMETOOLONG: "the name is too long: choose a shorter one",
    errno.EIO: "the disk may be failing: save to another one",
}


def cure_of(wrong: OSError) -> str:
    """Return what to do about an error of the disk."""
    return CURES.get(wrong.errno or 0, "choose another folder")


def _umask() -> int:
    now = os.umask(0o022)
    os.umask(now)
    return now
