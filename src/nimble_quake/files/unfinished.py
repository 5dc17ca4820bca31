"""Files and folders that are being written: hidden, and locked for as long as their program runs.

What carries one of our names and is not locked was left by a program that was killed; `sweep` removes it. The lock is
flock(2), which the system lets go of however a program ends, on other machines of a shared disk too.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import re
import shutil
import tempfile
import time
from pathlib import Path

FILE, FOLDER = ".part", ".rendering"
LONGEST = 80
"""Characters of a file's own name that its unfinished one begins with."""
NAME = re.compile(rf"\..*-[a-z0-9_]{{8}}({re.escape(FILE)}(\.[^.]+)?|{re.escape(FOLDER)})")
SETTLED = 2.0
"""Seconds after its last change from which on a file without a lock is a leftover; it is made, then locked."""

_locks: dict[Path, int] = {}
"""The handles that hold the locks of this program's unfinished files."""


def unfinished_file(path: Path, folder: Path | None = None) -> Path:
    """Return a new hidden file that is to become `path`, beside it or in a folder of the same disk. Raises OSError."""
    where = path.parent if folder is None else folder
    handle, name = tempfile.mkstemp(prefix=f".{path.stem[:LONGEST]}-", suffix=FILE + path.suffix, dir=where)
    _hold(Path(name), handle)
    return Path(name)


def unfinished_folder(path: Path) -> Path:
    """Return a new hidden folder beside `path`, for its parts. Raises OSError."""
    name = tempfile.mkdtemp(prefix=f".{path.stem.strip('#_')[:LONGEST]}-", suffix=FOLDER, dir=path.parent)
    _hold(Path(name), os.open(name, os.O_RDONLY))
    return Path(name)


def finished(temporary: Path, path: Path) -> None:
    """Give a whole file its name. Raises OSError."""
    os.replace(temporary, path)
    _let_go(temporary)


def removed(temporary: Path) -> None:
    """Remove a file or folder that is not to be finished; one that is gone, or has its name, is nothing to do."""
    if temporary.is_dir():
        shutil.rmtree(temporary, ignore_errors=True)
    else:
        temporary.unlink(missing_ok=True)
    _let_go(temporary)


def sweep(folder: Path) -> int:
    """Remove what killed programs left unfinished in a folder. Returns how many files and folders that were."""
    count = 0
    with contextlib.suppress(OSError):
        for item in os.scandir(folder):
            if NAME.fullmatch(item.name) and _is_left(Path(item.path)):
                removed(Path(item.path))
                count += 1
    return count


def _is_left(path: Path) -> bool:
    """Whether nobody writes a file any more."""
    with contextlib.suppress(OSError):
        handle = os.open(path, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK)
        try:
            state = os.fstat(handle)
            if time.time() - max(state.st_mtime, state.st_ctime) < SETTLED:
                return False
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            return True
        finally:
            os.close(handle)
    return False


def _hold(path: Path, handle: int) -> None:
    with contextlib.suppress(OSError):  # a disk without locks: leftovers stay there
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    _locks[path] = handle


def _let_go(path: Path) -> None:
    handle = _locks.pop(path, None)
    if handle is not None:
        os.close(handle)
