"""OpenEXR pictures, float."""

from __future__ import annotations

from nimble_quake.export.encoders.exr import packer
from nimble_quake.export.encoders.stills import pictures

FORMAT = pictures(
    "exr-float",
    "OpenEXR pictures, float",
    ".exr",
    "linear light, 32-bit float; for maps as data",
    packer(half=False),
    bits=32,
    data=True,
    layers=True,
    overscan=True,
    linear=True,
    rank=46,
)
