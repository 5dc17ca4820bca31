"""Matroska with FFV1 (RFC 9043), 10 bit."""

from __future__ import annotations

from nimble_quake.export.encoders.clips import Encoding, clips

WAY = Encoding("ffv1", "gbrap10le", lambda quality: {"level": "3", "slices": "4"}, rgb=True, bits=10)

FORMAT = clips(
    "ffv1-10",
    "Matroska, FFV1, 10 bit",
    ".mkv",
    "lossless with 1,024 levels, with sound; keeps transparency",
    WAY,
    alpha=True,
    bits=10,
    sound="flac",
    rank=20,
)
