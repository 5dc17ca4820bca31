"""Animated GIF: one palette for the whole clip, made from its own colours, with error diffusion."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from nimble_quake.export.encoders.kept import codes_of
from nimble_quake.export.formats import Target
from nimble_quake.export.writers import Part, as_save_failed, give_name
from nimble_quake.files.unfinished import removed, unfinished_file

MOST_SEEN = 24
"""Frames that the palette is made from."""
SAMPLE = 160
"""Their longest side while it is made."""
CLEAR = 255
"""The colour that is clear."""


def delays(count: int, rate: Fraction) -> list[int]:
    """Return how long each frame stands, in ms, whole hundredths of a second as GIF89a counts them, right in sum."""
    ends = [round(Fraction(n + 1) * 100 / rate) for n in range(count)]
    return [10 * max(1, b - a) for a, b in zip([0, *ends], ends, strict=False)]


def write_gif(target: Target, parts: Sequence[Part]) -> list[Path]:
    """Make a GIF of frames that were kept. Raises SaveFailed."""
    temporary = unfinished_file(target.path)
    try:
        with as_save_failed(target.path):
            clear = any((codes_of(part)[..., 3] < 128).any() for part in parts)
            palette = _palette(parts, clear=clear)
            first, *others = (_shown(codes_of(part), palette, clear=clear) for part in parts)
            more: dict[str, Any] = {"transparency": CLEAR, "disposal": 2} if clear else {}
            first.save(
                temporary,
                save_all=True,
                append_images=others,
                loop=0,
                optimize=False,
                duration=delays(len(parts), target.rate),
                **more,
            )
            give_name(temporary, target.path)
    finally:
        removed(temporary)
    return [target.path]


def _palette(parts: Sequence[Part], *, clear: bool) -> Image.Image:
    """The colours that show the clip best: median cut over some of its frames together."""
    numbers = np.unique(np.linspace(0, len(parts) - 1, min(MOST_SEEN, len(parts))).astype(int))
    seen: list[NDArray[np.uint8]] = []
    for number in numbers.tolist():
        small = Image.fromarray(codes_of(parts[number]), "RGBA")
        small.thumbnail((SAMPLE, SAMPLE))
        pixels = np.asarray(small).reshape(-1, 4)
        seen.append(pixels[pixels[:, 3] >= 128][:, :3])
    whole = np.concatenate(seen)
    whole = whole if len(whole) else np.zeros((1, 3), np.uint8)
    strip = Image.fromarray(np.ascontiguousarray(whole[None]), "RGB")
    return strip.quantize(CLEAR if clear else 256, method=Image.Quantize.MEDIANCUT)


def _shown(rgba: NDArray[np.uint8], palette: Image.Image, *, clear: bool) -> Image.Image:
    """A frame in the palette's colours."""
    found = Image.fromarray(np.ascontiguousarray(rgba[..., :3]), "RGB").quantize(
        palette=palette, dither=Image.Dither.FLOYDSTEINBERG
    )
    if clear:
        codes = np.array(found)
        codes[rgba[..., 3] < 128] = CLEAR
        kept = (found.getpalette() or [])[: 3 * CLEAR]
        found = Image.fromarray(codes, "P")
        found.putpalette(kept + [0] * (3 * 256 - len(kept)))
    return found
