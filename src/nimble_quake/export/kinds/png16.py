"""PNG pictures, 16 bit."""

from __future__ import annotations

from nimble_quake.conventions import Picture
from nimble_quake.export.encoders.packing import png_of
from nimble_quake.export.encoders.stills import pictures
from nimble_quake.export.formats import Target
from nimble_quake.raster.colour.convert import to_rgba16


def pack(picture: Picture, target: Target) -> bytes:
    """Return straight 16-bit RGBA."""
    return png_of(to_rgba16(picture), target)


FORMAT = pictures(
    "png16", "PNG pictures, 16 bit", ".png", "one file a frame, 65,536 levels; for maps", pack, bits=16, rank=32
)
