"""TIFF pictures, 16 bit."""

from __future__ import annotations

from nimble_quake.conventions import Picture
from nimble_quake.export.formats import Format, Target
from nimble_quake.export.packing import DEFLATED, packed, to_rgba16
from nimble_quake.export.writers import PictureWriter


def pack(picture: Picture, target: Target) -> bytes:
    """Return straight 16-bit RGBA, packed without loss."""
    return packed(".tif", to_rgba16(picture), DEFLATED)


FORMAT = Format(
    "tiff16",
    "TIFF pictures, 16 bit",
    ".tif",
    "one file a frame, 65,536 levels; keeps transparency",
    True,
    lambda target: PictureWriter(target, pack),
    sequence=True,
    bits=16,
    rank=40,
)
