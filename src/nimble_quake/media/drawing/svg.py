"""SVG as Skia draws it, and the size it asks for."""

from __future__ import annotations

import re
import threading

import numpy as np
import skia

from nimble_quake.conventions import Picture
from nimble_quake.errors import MediaError

DEFAULT_SIZE = (512.0, 512.0)
UNITS = {"": 1.0, "px": 1.0, "pt": 4 / 3, "pc": 16.0, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96.0}
"""CSS Values 4: px per absolute unit."""


class Drawing:
    """An SVG as Skia reads it: no scripts, and without a resource provider nothing is loaded from outside."""

    def __init__(self, data: bytes) -> None:
        self.width, self.height = own_size(data)
        self._lock = threading.Lock()
        self._drawing = skia.SVGDOM.MakeFromStream(skia.MemoryStream(data))
        if self._drawing is None:
            raise MediaError("cannot be read as SVG", cure="save it again as plain SVG")
        self._drawing.setContainerSize(skia.Size(self.width, self.height))

    def drawn(self, width: int, height: int) -> Picture:
        """Return the drawing at a size, (H, W, 4) premultiplied."""
        out = np.zeros((height, width, 4), np.float32)
        with self._lock:
            info = skia.ImageInfo.Make(width, height, skia.kRGBA_F32_ColorType, skia.kPremul_AlphaType)
            surface = skia.Surface.MakeRasterDirect(info, out)
            canvas = surface.getCanvas()
            canvas.scale(width / self.width, height / self.height)
            self._drawing.render(canvas)
            del canvas, surface
        return out


def own_size(data: bytes) -> tuple[int, int]:
    """Return the size an SVG asks for, in whole pixels."""
    width, height = _own_size(data.decode("utf-8", "replace"))
    return max(1, round(width)), max(1, round(height))


def _own_size(text: str) -> tuple[float, float]:
    head = re.search(r"<svg\b[^>]*>", text, re.DOTALL)
    tag = head.group(0) if head else ""
    width, height = (_length(tag, name) for name in ("width", "height"))
    box = re.search(r"\bviewBox\s*=\s*[\"']\s*([-\d.eE+]+[\s,]+){2}([\d.eE+]+)[\s,]+([\d.eE+]+)", tag)
    if width and height:
        return width, height
    if box:
        across, down = float(box.group(2)), float(box.group(3))
        if width and across:
            return width, width * down / across
        return (across, down) if across > 0 and down > 0 else DEFAULT_SIZE
    return DEFAULT_SIZE


def _length(tag: str, name: str) -> float:
    found = re.search(rf"\s{name}\s*=\s*[\"']\s*([\d.]+)\s*([a-z]*)\s*[\"']", tag)
    return float(found.group(1)) * UNITS.get(found.group(2), 0.0) if found else 0.0
