"""JPEG pictures."""

from __future__ import annotations

import cv2

from nimble_quake.conventions import Picture
from nimble_quake.export.encoders.colour_space import jpeg_in_srgb
from nimble_quake.export.encoders.packing import over_black, packed
from nimble_quake.export.encoders.stills import pictures
from nimble_quake.export.formats import Target


def pack(picture: Picture, target: Target) -> bytes:
    """Return 8-bit RGB over black."""
    data = packed(".jpg", over_black(picture), (cv2.IMWRITE_JPEG_QUALITY, target.quality or 92))
    return jpeg_in_srgb(data) if target.colours else data


FORMAT = pictures(
    "jpeg",
    "JPEG pictures",
    ".jpg",
    "one small file a frame; no transparency",
    pack,
    alpha=False,
    qualities=(("Best", 98), ("Good", 92), ("Small", 80)),
    lossy=True,
    also=(".jpeg",),
    rank=52,
)
