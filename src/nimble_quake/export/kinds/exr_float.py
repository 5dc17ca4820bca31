"""OpenEXR pictures, float."""

from __future__ import annotations

from nimble_quake.conventions import Picture
from nimble_quake.export.exr import exr_of
from nimble_quake.export.formats import Format, Target
from nimble_quake.export.writers import PictureWriter


def pack(picture: Picture, target: Target) -> bytes:
    """Return premultiplied linear light, float."""
    return exr_of(picture, half=False, notes=target.notes, layers=target.layers)


FORMAT = Format(
    "exr-float",
    "OpenEXR pictures, float",
    ".exr",
    "linear light, 32-bit float; for maps as data",
    True,
    lambda target: PictureWriter(target, pack),
    sequence=True,
    bits=32,
    data=True,
    layers=True,
    linear=True,
    rank=46,
)
