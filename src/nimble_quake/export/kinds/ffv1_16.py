"""Matroska with FFV1 (RFC 9043), 16 bit."""

from __future__ import annotations

from nimble_quake.export.encoders.clips import Encoding, clips

WAY = Encoding("ffv1", "rgba64le", lambda quality: {"level": "3", "slices": "4"}, rgb=True, bits=16)

FORMAT = clips(
    "ffv1-16",
    "Matroska, FFV1, 16 bit",
    ".mkv",
    "lossless with 65,536 levels, with sound; keeps transparency",
    WAY,
    alpha=True,
    bits=16,
    sound="flac",
    rank=22,
)
