"""Compile every kernel once, so that no window ever waits for a compiler: `python -m nimble_quake.render.warm_up`."""

from __future__ import annotations

import numpy as np

from nimble_quake.operators.base import Operator
from nimble_quake.operators.registry import registry
from nimble_quake.raster import affine
from nimble_quake.raster.blend import blend_onto, flat
from nimble_quake.raster.convert import premultiplied, to_rgba8, to_screen
from nimble_quake.raster.gradient import looked_up
from nimble_quake.raster.grid import Grid, frame_grid
from nimble_quake.raster.noise import noise3
from nimble_quake.raster.offsets import scaled_offsets
from nimble_quake.raster.sample import FILTERS, fetch
from nimble_quake.render.combine import combined
from nimble_quake.render.job import Engine, Job
from nimble_quake.render.maps import map_field
from nimble_quake.shot.model import Map, Node, Shot


def warm_up() -> None:
    """Call each kernel with the kinds of array it meets."""
    grid = frame_grid(48, 48)
    noise3(0.1, 0.2, 0.3)
    picture = flat(grid.shape, (0.1, 0.2, 0.3, 1.0))
    for mode in ("normal", "screen"):
        blend_onto(picture, picture[:40, :40].copy(), mode=mode)
        blend_onto(picture, picture[4:40, 4:40], mode=mode)
    warp = np.zeros((2, *grid.shape), np.float32)
    for filter in FILTERS:
        for moves in (None, warp):
            fetch(picture, grid, affine.IDENTITY, moves, filter=filter)
            fetch(picture[4:, 4:], grid, affine.IDENTITY, moves, filter=filter)
            fetch(picture, grid, affine.stretch(0.5, 0.5), moves, filter=filter)
    _maps(grid)
    to_screen(picture)
    to_screen(picture[4:, 4:])
    to_rgba8(picture)
    premultiplied(np.zeros((48, 48, 4), np.uint8))
    premultiplied(np.zeros((48, 48, 4), np.uint16))


def _maps(grid: Grid) -> None:
    """The kernels of maps, on the kinds of array a recipe hands them: whole and cut out of larger ones."""
    values = np.zeros((*grid.shape, 4), np.float32)
    table = np.zeros((9, 1), np.float32)
    t = np.zeros(grid.shape, np.float32)
    for channels in (1, 4):
        looked_up(np.repeat(table, channels, axis=1), t)
        field = np.ascontiguousarray(values[..., :channels])
        combined(field, field, "add", 0.5)
    for plane in (t, values[..., 0]):
        for other in (t, values[..., 0]):
            scaled_offsets(plane, other, 0.5, 1.0, 1.0)
    for operator in registry().all("source") + registry().all("shaper"):
        settings = [{}, {"turn": 30.0}, *(values for _, _, values in getattr(operator, "looks", ()))]
        for values in settings:
            _recipe(operator, {name: value for name, value in values.items() if name in operator.declared})
        if operator.family == "shaper":
            _recipe(operator, {}, before="colour_ramp")


def _recipe(operator: type[Operator], values: dict[str, object], before: str = "noise") -> None:
    """A small map that ends in an operator."""
    step = Node(id="s", kind=operator.kind, values=values)
    first = () if operator.family == "source" else (Node(id="b", kind="noise"), Node(id="c", kind=before))
    map = Map(id="m", name="", recipe=(*first, step))
    shot = Shot(width=96, height=72, maps=(map,))
    map_field(Job(Engine(), shot, 3), map, frame_grid(96, 72))


if __name__ == "__main__":
    warm_up()
