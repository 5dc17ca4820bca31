"""WebP pictures."""

from __future__ import annotations

import io

from PIL import Image

from nimble_quake.conventions import Picture
from nimble_quake.export.encoders.colour_space import srgb_profile
from nimble_quake.export.encoders.stills import pictures
from nimble_quake.export.formats import Target
from nimble_quake.raster.colour.convert import to_rgba8

LOSSLESS = 101


def pack(picture: Picture, target: Target) -> bytes:
    """Return straight 8-bit RGBA; quality 101 is lossless."""
    quality, file = target.quality or 90, io.BytesIO()
    profile = srgb_profile() if target.colours else None
    lossless = quality >= LOSSLESS
    image = Image.fromarray(to_rgba8(picture), "RGBA")
    image.save(file, "WEBP", quality=75 if lossless else quality, lossless=lossless, icc_profile=profile)
    return file.getvalue()


FORMAT = pictures(
    "webp",
    "WebP pictures",
    ".webp",
    "one small file a frame; keeps transparency",
    pack,
    qualities=(("Best", LOSSLESS), ("Good", 90), ("Small", 70)),
    lossy=True,
    rank=50,
)
