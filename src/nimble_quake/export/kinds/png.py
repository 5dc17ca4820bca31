"""PNG pictures, 8 bit."""

from __future__ import annotations

import cv2

from nimble_quake.conventions import Picture
from nimble_quake.export.formats import Format, Target
from nimble_quake.export.packing import packed, to_rgba8
from nimble_quake.export.writers import PictureWriter


def pack(picture: Picture, target: Target) -> bytes:
    """Return straight 8-bit RGBA."""
    return packed(".png", to_rgba8(picture), (cv2.IMWRITE_PNG_COMPRESSION, 4))


FORMAT = Format(
    "png",
    "PNG pictures, 8 bit",
    ".png",
    "one file a frame; keeps transparency",
    True,
    lambda target: PictureWriter(target, pack),
    sequence=True,
    bits=8,
    rank=30,
)
