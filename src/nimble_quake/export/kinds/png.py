"""PNG pictures, 8 bit."""

from __future__ import annotations

from nimble_quake.conventions import Picture
from nimble_quake.export.encoders.packing import png_of
from nimble_quake.export.encoders.stills import pictures
from nimble_quake.export.formats import Target
from nimble_quake.raster.colour.convert import to_rgba8


def pack(picture: Picture, target: Target) -> bytes:
    """Return straight 8-bit RGBA."""
    return png_of(to_rgba8(picture), target)


FORMAT = pictures("png", "PNG pictures, 8 bit", ".png", "one file a frame; keeps transparency", pack, rank=30)
