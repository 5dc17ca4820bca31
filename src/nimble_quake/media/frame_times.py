"""How long each picture of an animation stands, found without decoding the pictures."""

from __future__ import annotations

import struct
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

import av

from nimble_quake.conventions import Seconds


def frame_lengths(path: Path) -> list[Seconds]:
    """Return how long each picture of a GIF, WebP or PNG stands, as the file says; empty for other files.

    Raises OSError, ValueError, struct.error or av.FFmpegError where the file is damaged.
    """
    with path.open("rb") as file:
        head = file.read(12)
        if head[:4] == b"GIF8":
            file.seek(0)
            with av.open(file, "r") as container:
                packets = [packet for packet in container.demux(video=0) if packet.size]
                return [float((packet.duration or 0) * packet.time_base) for packet in packets]
        if head[:4] == b"RIFF" and head[8:] == b"WEBP":
            return [int.from_bytes(data[12:15], "little") / 1000 for name, data in _riff(file) if name == b"ANMF"]
        if head[:8] == b"\x89PNG\r\n\x1a\n":
            file.seek(8)
            return [_of_control(data) for name, data in _png(file) if name == b"fcTL"]
    return []


def _riff(file: BinaryIO) -> Iterator[tuple[bytes, bytes]]:
    """The chunks of a WebP: name, and the first bytes of what it holds (RFC 9649, 2.3)."""
    while len(head := file.read(8)) == 8:
        size = int.from_bytes(head[4:], "little")
        data = file.read(min(size, 16))
        file.seek(size - len(data) + size % 2, 1)
        yield head[:4], data


def _png(file: BinaryIO) -> Iterator[tuple[bytes, bytes]]:
    """The chunks of a PNG: name, and the first bytes of what it holds (PNG, third edition, 5.3)."""
    while len(head := file.read(8)) == 8:
        size = int.from_bytes(head[:4], "big")
        data = file.read(min(size, 26))
        file.seek(size - len(data) + 4, 1)
        yield head[4:], data


def _of_control(data: bytes) -> Seconds:
    """The delay of a frame control chunk (PNG, third edition, 11.3.6.2): a fraction, hundredths where it names none."""
    above, below = struct.unpack(">HH", data[20:24])
    return float(above) / (below or 100)
