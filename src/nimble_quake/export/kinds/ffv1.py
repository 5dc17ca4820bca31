"""Matroska with FFV1 (RFC 9043), 8 bit."""

from __future__ import annotations

from nimble_quake.export.encoders.clips import Encoding, clips

WAY = Encoding("ffv1", "bgra", lambda quality: {"level": "3", "slices": "4"}, rgb=True)

FORMAT = clips(
    "ffv1", "Matroska, FFV1", ".mkv", "lossless, with sound; keeps transparency", WAY, alpha=True, sound="flac", rank=18
)
