"""OpenEXR pictures, half."""

from __future__ import annotations

from nimble_quake.export.encoders.exr import packer
from nimble_quake.export.encoders.stills import pictures

FORMAT = pictures(
    "exr-half",
    "OpenEXR pictures, half",
    ".exr",
    "linear light, 16-bit float; for compositing",
    packer(half=True),
    bits=16,
    data=True,
    layers=True,
    overscan=True,
    linear=True,
    rank=44,
)
