"""Drawing in a process of its own, which can be stopped: for artwork that may take long, or end the program.

The helper (`python -m` this module) reads a line `BYTES WIDTH HEIGHT`, then the SVG, and answers
with the picture's float32 samples. It has limits on time and memory of its own; one that does not answer is ended.
"""

from __future__ import annotations

import atexit
import contextlib
import resource
import select
import subprocess
import sys
import threading
import time
from io import BufferedReader
from typing import IO, cast

import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.errors import MediaError
from nimble_quake.media.drawing.svg import Drawing

PATIENCE = 12.0
"""Seconds a drawing may take."""
MOST_MEMORY = 6 * 2**30
"""Bytes of address space the helper may have."""

_lock = threading.Lock()
_helper: subprocess.Popen[bytes] | None = None


def drawn_apart(data: bytes, width: int, height: int, where: str) -> Picture:
    """Return an SVG drawn at a size, (H, W, 4) premultiplied. Raises MediaError where it takes too long or fails."""
    global _helper
    with _lock:
        if _helper is None or _helper.poll() is not None:
            command, pipe = [sys.executable, "-m", "nimble_quake.media.drawing.drawn_apart"], subprocess.PIPE
            _helper = subprocess.Popen(command, stdin=pipe, stdout=pipe, stderr=subprocess.DEVNULL)
        assert _helper.stdin is not None
        assert _helper.stdout is not None
        try:
            _helper.stdin.write(f"{len(data)} {width} {height}\n".encode() + data)
            _helper.stdin.flush()
            answer = _read(_helper.stdout, width * height * 16, time.monotonic() + PATIENCE)
        except (OSError, TimeoutError) as wrong:
            _end_helper()
            slow = isinstance(wrong, TimeoutError)
            what = f"the SVG takes longer than {PATIENCE:.0f} s to draw" if slow else "the SVG cannot be drawn"
            raise MediaError(what, where=where, cure="simplify its strokes, dashes and filters") from wrong
    return np.frombuffer(answer, np.float32).reshape(height, width, 4)


@atexit.register
def _end_helper() -> None:
    global _helper
    if _helper is not None:
        _helper.kill()
        for pipe in (_helper.stdin, _helper.stdout):
            if pipe is not None:
                with contextlib.suppress(OSError):
                    pipe.close()
        _helper.wait()
        _helper = None


def _read(pipe: IO[bytes], count: int, until: float) -> bytes:
    """Read so many bytes by a time. Raises TimeoutError, or OSError where the helper has ended."""
    found = bytearray()
    while len(found) < count:
        left = until - time.monotonic()
        if left <= 0 or not select.select([pipe], [], [], left)[0]:
            raise TimeoutError
        part = cast(BufferedReader, pipe).read1(min(count - len(found), 1 << 20))
        if not part:
            raise OSError("the helper has ended")
        found += part
    return bytes(found)


def serve() -> None:
    """Draw whatever is asked for on standard input, until it ends."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    while line := sys.stdin.buffer.readline():
        count, width, height = (int(word) for word in line.split())
        drawing = Drawing(sys.stdin.buffer.read(count))
        sys.stdout.buffer.write(drawing.drawn(width, height).tobytes())
        sys.stdout.buffer.flush()


if __name__ == "__main__":
    serve()
