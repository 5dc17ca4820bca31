"""OpenEXR pictures, half."""

from __future__ import annotations

from nimble_quake.conventions import Picture
from nimble_quake.export.exr import exr_of
from nimble_quake.export.formats import Format, Target
from nimble_quake.export.writers import PictureWriter


def pack(picture: Picture, target: Target) -> bytes:
    """Return premultiplied linear light, half."""
    return exr_of(picture, half=True, notes=target.notes, layers=target.layers)


FORMAT = Format(
    "exr-half",
    "OpenEXR pictures, half",
    ".exr",
    "linear light, 16-bit float; for compositing",
    True,
    lambda target: PictureWriter(target, pack),
    sequence=True,
    bits=16,
    data=True,
    layers=True,
    linear=True,
    rank=44,
)
