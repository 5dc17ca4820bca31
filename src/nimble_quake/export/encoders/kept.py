"""Clips that are encoded from all their frames together: until then the frames are kept aside, without loss."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from nimble_quake.conventions import Picture
from nimble_quake.export.encoders.clips import ClipWriter, Encoding
from nimble_quake.export.encoders.packing import QUICK_PNG, packed
from nimble_quake.export.encoders.stills import StillWriter
from nimble_quake.export.formats import Format, Target
from nimble_quake.export.writers import Part, as_save_failed
from nimble_quake.raster.colour.convert import to_rgba8


def kept(picture: Picture, target: Target) -> bytes:
    """Return a picture as it is kept aside: straight 8-bit RGBA, packed quickly and without loss."""
    return packed(".png", to_rgba8(picture), QUICK_PNG)


def codes_of(part: Part) -> NDArray[np.uint8]:
    """Return the straight RGBA codes (H, W, 4) of a frame that was kept."""
    with Image.open(part.file) as image:
        return np.array(image.convert("RGBA"))


def kept_clips(
    key: str, label: str, suffix: str, about: str, join: Callable[[Target, Sequence[Part]], list[Path]], **more: Any
) -> Format:
    """Return a kind of clip that is made of all its frames together. more: fields of Format."""
    return Format(key, label, suffix, about, True, kept, StillWriter, join, part_suffix=".png", **more)


def encoded(way: Encoding) -> Callable[[Target, Sequence[Part]], list[Path]]:
    """Return what encodes all frames by one encoder."""

    def join(target: Target, parts: Sequence[Part]) -> list[Path]:
        with as_save_failed(target.path):
            writer = ClipWriter(target, way)
        try:
            for part in parts:
                writer.write(part.frames[0], way.frame(codes_of(part), target))
            writer.finish()
        except BaseException:
            writer.discard()
            raise
        return [target.path]

    return join
