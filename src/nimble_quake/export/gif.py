"""Animated GIF: one palette for the whole clip, made from its own colours, with error diffusion."""

from __future__ import annotations

import os
import shutil
import tempfile
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from nimble_quake.conventions import Picture
from nimble_quake.export.formats import Target
from nimble_quake.export.writers import failed
from nimble_quake.raster.convert import to_rgba8

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


class GifWriter:
    """Keeps the frames aside until the palette of all of them is known."""

    def __init__(self, target: Target) -> None:
        self._target = target
        self._folder = Path(tempfile.mkdtemp(prefix=f".{target.path.stem}-", dir=target.path.parent))
        self._count = 0
        self._clear = False

    def _file(self, number: int) -> Path:
        return self._folder / f"{number:06d}.png"

    def write(self, frame: int, picture: Picture) -> None:
        """Take the next frame."""
        rgba = to_rgba8(picture)
        self._clear = self._clear or bool((rgba[..., 3] < 128).any())
        try:
            Image.fromarray(rgba, "RGBA").save(self._file(self._count), compress_level=1)
        except OSError as wrong:
            raise failed(self._target.path, wrong) from wrong
        self._count += 1

    def _palette(self) -> Image.Image:
        """The colours that show the clip best: median cut over some of its frames together."""
        numbers = np.unique(np.linspace(0, self._count - 1, min(MOST_SEEN, self._count)).astype(int))
        parts: list[NDArray[np.uint8]] = []
        for number in numbers.tolist():
            with Image.open(self._file(number)) as frame:
                small = frame.convert("RGBA")
                small.thumbnail((SAMPLE, SAMPLE))
                pixels = np.asarray(small).reshape(-1, 4)
            parts.append(pixels[pixels[:, 3] >= 128][:, :3])
        whole = np.concatenate(parts) if parts else np.zeros((1, 3), np.uint8)
        whole = whole if len(whole) else np.zeros((1, 3), np.uint8)
        strip = Image.fromarray(np.ascontiguousarray(whole[None]), "RGB")
        return strip.quantize(CLEAR if self._clear else 256, method=Image.Quantize.MEDIANCUT)

    def _shown(self, number: int, palette: Image.Image) -> Image.Image:
        with Image.open(self._file(number)) as frame:
            rgba = np.asarray(frame)
        found = Image.fromarray(np.ascontiguousarray(rgba[..., :3]), "RGB").quantize(
            palette=palette, dither=Image.Dither.FLOYDSTEINBERG
        )
        if self._clear:
            codes = np.array(found)
            codes[rgba[..., 3] < 128] = CLEAR
            kept = found.getpalette()
            found = Image.fromarray(codes, "P")
            found.putpalette((kept or [])[: 3 * CLEAR] + [0] * (3 * 256 - len((kept or [])[: 3 * CLEAR])))
        return found

    def finish(self) -> list[Path]:
        """Make the file and give it its name."""
        path, temporary = self._target.path, self._folder / "whole.gif"
        try:
            palette = self._palette()
            first, *others = (self._shown(number, palette) for number in range(self._count))
            more: dict[str, Any] = {"transparency": CLEAR, "disposal": 2} if self._clear else {}
            first.save(temporary, save_all=True, append_images=others, loop=0, optimize=False,
                       duration=delays(self._count, self._target.rate), **more)  # fmt: skip
            os.chmod(temporary, 0o644)
            temporary.replace(path)
        except (OSError, ValueError) as wrong:
            raise failed(path, wrong) from wrong
        finally:
            self.discard()
        return [path]

    def discard(self) -> None:
        """Remove what was written."""
        shutil.rmtree(self._folder, ignore_errors=True)
