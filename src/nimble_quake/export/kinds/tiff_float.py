"""TIFF pictures, float."""

from __future__ import annotations

from nimble_quake.conventions import Picture
from nimble_quake.export.encoders.packing import straight, tiff_of
from nimble_quake.export.encoders.stills import pictures
from nimble_quake.export.formats import Target


def pack(picture: Picture, target: Target) -> bytes:
    """Return straight 32-bit float RGBA, as it is."""
    return tiff_of(straight(picture), target)


FORMAT = pictures(
    "tiff-float",
    "TIFF pictures, float",
    ".tif",
    "one file a frame, any number; for maps as data",
    pack,
    bits=32,
    data=True,
    also=(".tiff",),
    rank=42,
)
