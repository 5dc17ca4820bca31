"""WebP pictures."""

from __future__ import annotations

import cv2

from nimble_quake.conventions import Picture
from nimble_quake.export.encoders.packing import packed
from nimble_quake.export.encoders.stills import pictures
from nimble_quake.export.formats import Target
from nimble_quake.raster.colour.convert import to_rgba8


def pack(picture: Picture, target: Target) -> bytes:
    """Return straight 8-bit RGBA; quality 101 is lossless."""
    return packed(".webp", to_rgba8(picture), (cv2.IMWRITE_WEBP_QUALITY, target.quality or 90))


FORMAT = pictures(
    "webp",
    "WebP pictures",
    ".webp",
    "one small file a frame; keeps transparency",
    pack,
    qualities=(("Best", 101), ("Good", 90), ("Small", 70)),
    lossy=True,
    rank=50,
)
