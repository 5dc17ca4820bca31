"""TIFF pictures, float."""

from __future__ import annotations

from nimble_quake.conventions import Picture
from nimble_quake.export.formats import Format, Target
from nimble_quake.export.packing import DEFLATED, packed, straight
from nimble_quake.export.writers import PictureWriter


def pack(picture: Picture, target: Target) -> bytes:
    """Return straight 32-bit float RGBA, as it is."""
    return packed(".tif", straight(picture), DEFLATED)


FORMAT = Format(
    "tiff-float",
    "TIFF pictures, float",
    ".tif",
    "one file a frame, any number; for maps as data",
    True,
    lambda target: PictureWriter(target, pack),
    sequence=True,
    bits=32,
    data=True,
    rank=42,
)
