"""The one check that a file may be opened: pipes, devices and folders are not read, they may never end."""

from __future__ import annotations

import os
import stat
from pathlib import Path

from nimble_quake.errors import MediaError


def plain_file(path: str | Path) -> os.stat_result:
    """Return a file's state. Raises MediaError where it is no plain file, OSError where it is not there."""
    found = os.stat(path)
    if not stat.S_ISREG(found.st_mode):
        raise MediaError("is no plain file", where=str(path), cure="choose a file on a disk")
    return found
