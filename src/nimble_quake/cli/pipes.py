"""Pictures and clips through pipes: "-" for a file's name."""

from __future__ import annotations

import atexit
import os
import sys
import tempfile
from pathlib import Path

from nimble_quake.conventions import Picture
from nimble_quake.errors import BadInput, FailedWork
from nimble_quake.export.encoders.y4m import PIPE
from nimble_quake.export.formats import Target

KINDS = {b"\x89PNG": ".png", b"YUV4": ".y4m"}
"""What comes through a pipe, by its first bytes."""
CHUNK = 2**20


def from_pipe(path: Path) -> Path:
    """Return a file that holds what comes through standard input, where "-" is asked for; else the path.

    The file is gone when the program ends. Raises BadInput where it is neither PNG nor YUV4MPEG2.
    """
    if path != PIPE:
        return path
    begun = sys.stdin.buffer.read(4)
    if begun not in KINDS:
        what = "nothing came through the pipe" if not begun else "neither PNG nor YUV4MPEG2 came through the pipe"
        raise BadInput(what, where="-", cure="send one of these")
    handle, name = tempfile.mkstemp(prefix="nimble-quake-", suffix=KINDS[begun])
    atexit.register(Path(name).unlink, missing_ok=True)
    with os.fdopen(handle, "wb") as file:
        file.write(begun)
        while data := sys.stdin.buffer.read(CHUNK):
            file.write(data)
    return Path(name)


def into_pipe(target: Target, picture: Picture) -> None:
    """Write a picture to standard output. Raises FailedWork where nobody reads it."""
    try:
        sys.stdout.buffer.write(target.format.prepare(picture, target))
        sys.stdout.buffer.flush()
    except BrokenPipeError as wrong:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        raise FailedWork("the pipe was closed", where="-", cure="let the other end read on") from wrong
