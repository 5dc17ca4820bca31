"""Animated WebP."""

from __future__ import annotations

from nimble_quake.export.formats import Format
from nimble_quake.export.writers import ClipWriter, Encoding

WAY = Encoding("libwebp_anim", "bgra", lambda quality: {"lossless": "1" if quality > 100 else "0",
                                                        "quality": str(min(quality, 100))},
               rgb=True, container={"loop": "0"})  # fmt: skip

FORMAT = Format(
    "webp-moving",
    "WebP, animated",
    ".webp",
    "short loops for the web; keeps transparency",
    True,
    lambda target: ClipWriter(target, WAY),
    qualities=(("Best", 101), ("Good", 85), ("Small", 60)),
    rank=26,
)
