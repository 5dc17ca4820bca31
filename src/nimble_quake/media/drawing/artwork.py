"""Artwork: SVG, drawn sharp at any size. Nothing in it is run or fetched."""

from __future__ import annotations

import re
import threading
from pathlib import Path

import numpy as np
import skia

from nimble_quake.conventions import Picture, Seconds
from nimble_quake.errors import MediaError
from nimble_quake.files.plain import plain_file
from nimble_quake.media.drawing.drawn_apart import drawn_apart
from nimble_quake.media.drawing.svg_check import check
from nimble_quake.raster.geometry.grid import refuse_enormous

MOST_BYTES = 8_000_000
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


class Artwork:
    """An SVG drawing. What may take long to draw is drawn by a helper that can be stopped."""

    bits8 = False
    seconds = 0.0

    def __init__(self, path: Path) -> None:
        self._data, self._where = _read(path), str(path)
        self.width, self.height = own_size(self._data)
        refuse_enormous(self.width, self.height, path.name)
        self._apart = check(self._data, self._where)
        try:
            self._drawing = None if self._apart else Drawing(self._data)
        except MediaError as wrong:
            raise MediaError(wrong.what, where=self._where, cure=wrong.cure) from wrong

    def picture(self, seconds: Seconds, width: int, height: int) -> Picture:
        return self.drawn(width / self.width, height / self.height)

    def drawn(self, zoom_x: float, zoom_y: float) -> Picture:
        """Return the drawing at a zoom, (H, W, 4) premultiplied. Raises MediaError where it takes too long."""
        width, height = max(1, round(self.width * zoom_x)), max(1, round(self.height * zoom_y))
        refuse_enormous(width, height, "the artwork")
        if self._drawing is None:
            return drawn_apart(self._data, width, height, self._where)
        return self._drawing.drawn(width, height)

    @property
    def nbytes(self) -> int:
        """Memory held."""
        return len(self._data)


def _read(path: Path) -> bytes:
    try:
        if plain_file(path).st_size > MOST_BYTES:
            raise MediaError("the SVG is larger than 8 MB", where=str(path), cure="simplify it")
        data = path.read_bytes()
    except OSError as wrong:
        raise MediaError("the file is not there or cannot be read", where=str(path), cure="find it") from wrong
    if b"<svg" not in data:
        raise MediaError("cannot be read as SVG", where=str(path), cure="save it again as plain SVG")
    if re.search(rb"<!(ENTITY|DOCTYPE[^>]*\[)", data, re.IGNORECASE):
        raise MediaError("the SVG declares entities, which we do not read", where=str(path), cure="save as plain SVG")
    if data.count(b"<") > 200_000:
        raise MediaError("the SVG has too many parts", where=str(path), cure="simplify it")
    return data


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
