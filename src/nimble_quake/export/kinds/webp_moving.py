"""Animated WebP."""

from __future__ import annotations

from nimble_quake.export.encoders.clips import Encoding
from nimble_quake.export.encoders.kept import encoded, kept_clips

WAY = Encoding(
    "libwebp_anim",
    "bgra",
    lambda quality: {"lossless": "1" if quality > 100 else "0", "quality": str(min(quality, 100))},
    rgb=True,
    container={"loop": "0"},
)

FORMAT = kept_clips(
    "webp-moving",
    "WebP, animated",
    ".webp",
    "short loops for the web; keeps transparency",
    encoded(WAY),
    qualities=(("Best", 101), ("Good", 85), ("Small", 60)),
    rank=26,
)
