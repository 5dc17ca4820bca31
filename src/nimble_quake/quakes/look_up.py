"""Look up."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Pixels, Warp
from nimble_quake.errors import MediaError
from nimble_quake.media.data_file import DataFile
from nimble_quake.media.flipbook import is_pattern
from nimble_quake.operators.base import Context
from nimble_quake.operators.graphs import Curve, Graph
from nimble_quake.operators.quake import FreeQuake
from nimble_quake.operators.quantities import a_distance
from nimble_quake.params.kinds import Choice, MediaFile, When, options
from nimble_quake.raster.geometry.places import Places
from nimble_quake.raster.sampling.sample import fetch


@lru_cache(2)
def moves_in(
    data: DataFile, meaning: str, size: tuple[float, float], reach: Pixels
) -> tuple[NDArray[np.float32], Pixels]:
    """Return a file's own moves, (h, w, 2) shot pixels, and the longest along either axis."""
    values, turned = data.values, np.array([1, -1 if meaning.endswith("_up") else 1], np.float32)
    if meaning == "vector":
        moves = (values - np.float32(0.5)) * np.float32(2 * reach)
    elif meaning in ("moves", "moves_up"):
        moves = values * turned
    else:
        height, width = values.shape[:2]
        across = (np.arange(width) + 0.5 - data.corner[0]) / data.frame[0]
        down = (np.arange(height) + 0.5 - data.corner[1]) / data.frame[1]
        own = np.stack(np.meshgrid(across, 1 - down if meaning == "st_up" else down), axis=2)
        moves = ((values - own) * np.array(size) * turned).astype(np.float32)
    return moves, float(np.abs(moves).max(initial=0.0))


class LookUp(FreeQuake):
    """Every pixel looks where a file says: by an ST map (source places as shares of the frame) or by a vector map.

    The file lies over the whole frame, whatever its size; beyond it its border goes on. Pixel centres: of an ST map,
    (i + 0.5) / width is pixel i itself.
    """

    title = "Look up"
    group = "Move"
    rank = 2045
    help = "Bends as an ST map or a vector map from a file says"
    may_fold = False
    idle_because = "No file is chosen"
    simple = False

    file = MediaFile(
        label="File", help="The map: OpenEXR, TIFF or PNG of 16 bits; numbered files run with the shot", sort="data"
    )
    holds = Choice(
        label="Holds",
        help="What red and green of the file mean",
        default="file",
        options=options(
            file="As it says: what its attributes tell; else an ST map",
            st="ST map: places, 0 at the top",
            st_up="ST map up: places, 0 at the bottom",
            moves="Pixels: to the right and down",
            moves_up="Pixels up: to the right and up",
            vector="Vector: grey rests",
        ),
    )
    reach = a_distance(
        "Reach",
        "How far black and white of a vector map look aside",
        60.0,
        (0, 400),
        (0, 1e6),
        when=When("holds", "vector"),
    )

    def idle(self) -> bool:
        return self.strength == 0 or not self.file

    def timed(self) -> bool:
        return is_pattern(self.file)

    def _meaning(self, data: DataFile) -> str:
        if self.holds != "file":
            return str(self.holds)
        says = data.notes.get("nimbleQuakeContent", "st").replace("-", "_")
        return says if says in ("st", "st_up", "moves") else "st"

    def _data(self, ctx: Context) -> DataFile | None:
        try:
            found: DataFile = ctx.services.media.data(self.file, ctx.at.frame if self.timed() else 0.0)
        except MediaError as wrong:
            ctx.services.report_problem(wrong.line())
            return None
        return found

    def _moves(self, data: DataFile, ctx: Context) -> tuple[NDArray[np.float32], Pixels]:
        reach = self.reach if self.holds == "vector" else 0.0
        return moves_in(data, self._meaning(data), (float(ctx.at.width), float(ctx.at.height)), reach)

    def own_offsets(self, places: Places, ctx: Context) -> Warp:
        data = self._data(ctx)
        if data is None:
            return np.zeros((2, *places.grid.shape), np.float32)
        across, down = data.frame[0] / ctx.at.width, data.frame[1] / ctx.at.height
        to_file = (across, 0.0, float(data.corner[0]), 0.0, down, float(data.corner[1]))
        found = fetch(self._moves(data, ctx)[0], places.grid, to_file, places.warp, edge="hold")
        return np.ascontiguousarray(np.moveaxis(found, 2, 0)) * np.float32(self.strength)

    def reach_of_offsets(self, ctx: Context) -> Pixels:
        data = self._data(ctx)
        far = 0.0 if data is None else self._moves(data, ctx)[1]
        return far * abs(self.strength) * self.most_weight(ctx)

    def summary(self) -> str:
        return f"{self.strength * 100:.0f} %" if self.file else "no file"

    def graph(self, rest: float) -> Graph:
        """The way from where a pixel is to where it looks."""
        return Graph((Curve(((0.0, 0.0), (self.strength, 1.0))),), 1.0, "", "source", one_way=True)
