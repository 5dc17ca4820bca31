"""PNG pictures, 8 bit."""

from __future__ import annotations

from nimble_quake.conventions import Picture
from nimble_quake.export.encoders.packing import QUICK_PNG, packed
from nimble_quake.export.encoders.stills import pictures
from nimble_quake.export.formats import Target
from nimble_quake.raster.colour.convert import to_rgba8


def pack(picture: Picture, target: Target) -> bytes:
    """Return straight 8-bit RGBA."""
    return packed(".png", to_rgba8(picture), QUICK_PNG)


FORMAT = pictures("png", "PNG pictures, 8 bit", ".png", "one file a frame; keeps transparency", pack, rank=30)
