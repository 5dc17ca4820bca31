"""Matroska with FFV1 (RFC 9043), 8 bit."""

from __future__ import annotations

from nimble_quake.export.formats import Format
from nimble_quake.export.writers import ClipWriter, Encoding

WAY = Encoding("ffv1", "bgra", lambda quality: {"level": "3", "slices": "4"}, rgb=True, deep=False)

FORMAT = Format(
    "ffv1",
    "Matroska, FFV1",
    ".mkv",
    "lossless, with sound; keeps transparency",
    True,
    lambda target: ClipWriter(target, WAY),
    bits=8,
    sound="flac",
    rank=18,
)
