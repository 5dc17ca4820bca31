"""TIFF pictures, 16 bit."""

from __future__ import annotations

from nimble_quake.conventions import Picture
from nimble_quake.export.encoders.packing import tiff_of
from nimble_quake.export.encoders.stills import pictures
from nimble_quake.export.formats import Target
from nimble_quake.raster.colour.convert import to_rgba16


def pack(picture: Picture, target: Target) -> bytes:
    """Return straight 16-bit RGBA, packed without loss."""
    return tiff_of(to_rgba16(picture), target)


FORMAT = pictures(
    "tiff16",
    "TIFF pictures, 16 bit",
    ".tif",
    "one file a frame, 65,536 levels; keeps transparency",
    pack,
    bits=16,
    also=(".tiff",),
    rank=40,
)
