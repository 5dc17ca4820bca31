"""YUV4MPEG2, the plain stream of frames that encoders read from a pipe (header grammar: mjpegtools, yuv4mpeg(5)).

4:4:4, 8 bits, BT.709 narrow range, over black. To the path "-" it goes to standard output, frame by frame.
"""

from __future__ import annotations

import os
import shutil
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import IO

import av
import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.export.encoders.clips import as_bt709
from nimble_quake.export.encoders.packing import over_black
from nimble_quake.export.formats import Target
from nimble_quake.export.writers import Part, as_save_failed, failed, give_name
from nimble_quake.files.unfinished import removed, unfinished_file

PIPE = Path("-")


def header(target: Target) -> bytes:
    """Return the line a stream begins with."""
    rate = target.rate
    words = (
        f"W{target.width}",
        f"H{target.height}",
        f"F{rate.numerator}:{rate.denominator}",
        "Ip",
        "A1:1",
        "C444",
        "XCOLORRANGE=LIMITED",
    )
    return f"YUV4MPEG2 {' '.join(words)}\n".encode("ascii")


def planes(picture: Picture, target: Target) -> bytes:
    """Return a frame as the bytes of its planes: Y, Cb, Cr."""
    frame = av.VideoFrame.from_ndarray(over_black(picture), "rgb24")
    return np.ascontiguousarray(as_bt709(frame, "yuv444p").to_ndarray()).tobytes()


class Y4mWriter:
    """A file that gets its name when it is whole, or a pipe."""

    def __init__(self, target: Target) -> None:
        self._path, self._temporary = target.path, None if target.path == PIPE else unfinished_file(target.path)
        self._out: IO[bytes] = sys.stdout.buffer if self._temporary is None else self._temporary.open("wb")
        self._put(header(target))

    def _put(self, data: bytes) -> None:
        try:
            self._out.write(data)
        except OSError as wrong:
            self.discard()
            raise failed(self._path, wrong) from wrong

    def write(self, frame: int, prepared: bytes) -> None:
        """Take the next frame's planes."""
        self._put(b"FRAME\n" + prepared)

    def finish(self) -> None:
        """Complete the file and give it its name; a pipe leaves no file."""
        try:
            self._out.flush()
            if self._temporary is not None:
                self._out.close()
                give_name(self._temporary, self._path)
        except OSError as wrong:
            self.discard()
            raise failed(self._path, wrong) from wrong

    def discard(self) -> None:
        """Remove what was written."""
        if self._temporary is None:  # what waits for a broken pipe goes nowhere, so that Python ends in peace
            os.dup2(os.open(os.devnull, os.O_WRONLY), self._out.fileno())
            return
        self._out.close()
        removed(self._temporary)


def join(target: Target, parts: Sequence[Part]) -> list[Path]:
    """Put segments into one stream: one header, then all frames. Raises SaveFailed."""
    temporary = unfinished_file(target.path)
    try:
        with as_save_failed(target.path):
            with temporary.open("wb") as out:
                out.write(header(target))
                for part in parts:
                    with part.file.open("rb") as segment:
                        segment.readline()
                        shutil.copyfileobj(segment, out)
            give_name(temporary, target.path)
    finally:
        removed(temporary)
    return [target.path]
