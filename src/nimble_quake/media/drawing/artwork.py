"""Artwork: SVG, drawn sharp at any size. Nothing in it is run or fetched."""

from __future__ import annotations

import re
from pathlib import Path

from nimble_quake.conventions import Picture, Seconds
from nimble_quake.errors import MediaError
from nimble_quake.files.plain import plain_file
from nimble_quake.media.drawing.drawn_apart import drawn_apart
from nimble_quake.media.drawing.svg import Drawing, own_size
from nimble_quake.media.drawing.svg_check import check
from nimble_quake.raster.geometry.grid import refuse_enormous

MOST_BYTES = 8_000_000


class Artwork:
    """An SVG drawing. What may take long to draw is drawn by a helper that can be stopped."""

    bits8 = False
    in_light = False
    trouble = ""
    seconds = 0.0
    rate = None
    frames = 1

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
