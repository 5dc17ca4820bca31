"""Maps as data: what a shot knows, as numbers that other programs can use.

picture          the picture
layers           the picture, every map, every mask, and every plate's displacement, one after the other
map:NAME         a map, as it is where the file can hold any number
mask:PLATE       how much of a plate is seen by its mask; mask:PLATE/EFFECT how much of an effect acts: 0 to 1
normal:NAME      a map's surface: its normals, red to the right, green up, 128 128 255 where it is flat
normal-down:NAME the same with green down, as other programs want it
moves:PLATE      how far from each pixel of a plate its source lies, shot pixels: red across, green down
st:PLATE         where each pixel of a plate looks, as shares of the frame: red 0 left to 1 right, green 0 top to 1
                 bottom, at pixel centres: (i + 0.5) / width is the pixel itself
st-up:PLATE      the same with green 0 at the bottom and 1 at the top, as other programs want it
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field, Picture, Warp
from nimble_quake.errors import BadInput
from nimble_quake.export.formats import Format
from nimble_quake.raster.colour.channels import as_rgba, channel
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plates.layers import mask_at
from nimble_quake.render.plates.warps import warp_of
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import kind_of, nested_path, plate_path

LAYERS = "layers"
Item = TypeVar("Item", Map, Plate)
WHAT = (
    "picture, layers, map:NAME, mask:PLATE, normal:NAME or normal-down:NAME, moves:PLATE (px), "
    "st:PLATE or st-up:PLATE (an ST map)"
)
TITLES = {
    "picture": "The picture",
    LAYERS: "All of it, in layers",
    "map": "A map",
    "normal": "A map's normals, green up",
    "normal-down": "A map's normals, green down",
    "mask": "A plate's mask",
    "moves": "A plate's displacement, in px",
    "st": "A plate's ST map, 0 at the top",
    "st-up": "A plate's ST map, 0 at the bottom",
}
"""What each is called where it is chosen."""
SHORT = {
    "map": "Map",
    "normal": "Normals",
    "normal-down": "Normals",
    "mask": "Mask",
    "moves": "Displacement",
    "st": "ST map",
    "st-up": "ST map",
}
"""What each is called with the name of what it is of."""
BEST = {LAYERS: "exr-half", "map": "exr-float", "moves": "exr-float", "st": "exr-float", "st-up": "exr-float"}
"""The format that holds each without loss; others are as good as 16 bits."""
WORDS = {
    LAYERS: "the picture; map.ID as it is; mask.ID 0 to 1; moves.ID in shot pixels, red to the right, green down",
    "mask": "how much is seen, 0 nothing to 1 all",
    "map": "values 0 black to 1 white; rest level 0.5 unless the coupling says otherwise",
    "normal": "n * 0.5 + 0.5; red to the right, green up",
    "normal-down": "n * 0.5 + 0.5; red to the right, green down",
    "moves": "shot pixels from a pixel to its source; red across to the right, green down",
    "st": "source place as a share of the frame; (i + 0.5) / width is the pixel itself; green 0 at the top",
    "st-up": "source place as a share of the frame; (i + 0.5) / width is the pixel itself; green 0 at the bottom",
}
"""The conventions, as files and the dialog say them."""
OF_MAPS = ("map", "normal", "normal-down")
"""What is rendered of a map; the rest is of a plate, or of the whole shot."""
WHOLE = ("picture", LAYERS)
"""What is rendered of the whole shot."""
STEEP = 8.0
"""A slope of one value in 8 px leans a normal by 45 degrees."""


def sort_of_data(what: str) -> tuple[str, str]:
    """Return what is asked for, and the name it is asked of. Raises BadInput."""
    sort, _, name = what.partition(":")
    if sort not in TITLES or bool(name) == (sort in WHOLE):
        raise BadInput(f'"{what}" cannot be rendered', cure=f"use {WHAT}")
    return sort, name


def described(shot: Shot, what: str) -> str:
    """Return what is asked for in a few words, such as "ST map of Lanterns"; empty for the picture."""
    items: list[Map | Plate] = [*(shot.maps if what.partition(":")[0] in OF_MAPS else shot.plates)]
    return in_words(what, {item.id: item.name for item in items})


def in_words(what: str, names: Mapping[str, str]) -> str:
    """As `described`, with the names of maps or plates by their ids."""
    sort, _, id = what.partition(":")
    if sort not in SHORT:
        return TITLES[LAYERS] if sort == LAYERS else ""
    id = id.split("/")[0]
    return f"{SHORT[sort]} of {names.get(id) or id}"


def fitting_format(sort: str) -> str:
    """Return the key of the format that suits a sort of data; the picture's is a clip's."""
    return "mp4" if sort == "picture" else BEST.get(sort, "png16")


def map_named(shot: Shot, name: str) -> Map:
    """Return the map of an id or a name. Raises BadInput that lists those there are."""
    return _named(shot.maps, name, "map")


def plate_named(shot: Shot, name: str) -> Plate:
    """Return the plate of an id or a name. Raises BadInput that lists those there are."""
    return _named(shot.plates, name, "plate")


def _named(items: tuple[Item, ...], name: str, word: str) -> Item:
    by_id = next((item for item in items if item.id == name), None)
    found = by_id or next((item for item in items if item.name.lower() == name.lower()), None)
    if found is None:
        there = ", ".join(item.id for item in items) or "none"
        raise BadInput(f'there is no {word} "{name}"', cure=f"the shot has: {there}")
    return found


def refuse_unknown(shot: Shot, what: str) -> None:
    """Raise BadInput where there is no such thing to render."""
    sort, name = sort_of_data(what)
    if sort in OF_MAPS:
        map_named(shot, name)
    elif sort == "mask":
        _masked(shot, name)
    elif sort not in WHOLE:
        plate_named(shot, name)


def _masked(shot: Shot, name: str) -> tuple[Plate, Node]:
    """The plate and, after a stroke, the effect whose mask is asked for. Raises BadInput."""
    plate_name, _, effect = name.partition("/")
    plate = plate_named(shot, plate_name)
    node = next((node for node in plate.effects if node.id == effect), None) if effect else plate
    if node is None or not node.values.get("mask"):
        raise BadInput(f'"{name}" has no mask', cure="give it one, or render a map")
    return plate, node


def layers_of(shot: Shot) -> dict[str, str]:
    """Return the layers of a shot: the name of each in a file, and what it is."""
    maps = {f"map.{map.id}": f"map:{map.id}" for map in shot.maps}
    moves = {f"moves.{plate.id}": f"moves:{plate.id}" for plate in shot.plates if plate.effects}
    masked = {f"mask.{plate.id}": f"mask:{plate.id}" for plate in shot.plates if plate.values.get("mask")}
    limited = {
        f"mask.{plate.id}.{effect.id}": f"mask:{plate.id}/{effect.id}"
        for plate in shot.plates
        for effect in plate.effects
        if effect.values.get("mask")
    }
    return {"": "picture", **maps, **masked, **limited, **moves}


def data_of(job: FrameJob, on: Grid | float, what: str) -> Picture:
    """Return the numbers asked for on a grid, or over the frame at a scale, (H, W, 4): any number, not clipped.

    Alpha is 1 but for a map's own. Layers lie side by side, (H, W, 4 x count).
    """
    sort, name = sort_of_data(what)
    grid = on if isinstance(on, Grid) else frame_grid(job.moment.width, job.moment.height, on)
    if sort == LAYERS:
        return np.concatenate([data_of(job, grid, one) for one in layers_of(job.shot).values()], axis=2)
    if sort == "picture":
        return frame_picture(job, grid=grid)
    if sort == "mask":
        return as_rgba(mask_of(job, grid, name))
    if sort == "map":
        return as_rgba(map_field(job, map_named(job.shot, name), grid))
    if sort in OF_MAPS:
        values = channel(map_field(job, map_named(job.shot, name), grid), "value")
        return normals(values, grid, down=sort == "normal-down")
    moves = moves_of(job, plate_named(job.shot, name), grid)
    if sort == "moves":
        return as_rgba(np.moveaxis(moves, 0, 2))
    return as_rgba(np.moveaxis(st_map(moves, grid, (job.moment.width, job.moment.height), up=sort == "st-up"), 0, 2))


def mask_of(job: FrameJob, grid: Grid, name: str) -> Field:
    """Return how much of a plate is seen by its mask, or of an effect acts, (H, W, 1) within 0...1."""
    plate, node = _masked(job.shot, name)
    path = plate_path(plate.id) if node is plate else nested_path(plate_path(plate.id), node.id)
    found = mask_at(job, path, grid)
    fractions = np.ones((*grid.shape, 1), np.float32) if found is None else found
    operator = job.operator(kind_of(path), node, path)
    return 1 - fractions if operator is not None and operator.values.get("mask_invert") else fractions


def moves_of(job: FrameJob, plate: Plate, grid: Grid) -> Warp:
    """Return how far from each sample of a grid its source in a plate lies, (2, H, W) shot pixels."""
    path = nested_path(plate_path(plate.id), plate.effects[-1].id) if plate.effects else ""
    warp = warp_of(job, path, grid, whole=True) if path else None
    return np.zeros((2, *grid.shape), np.float32) if warp is None else warp


def st_map(moves: Warp, grid: Grid, size: tuple[float, float], *, up: bool) -> NDArray[np.float32]:
    """Return where each sample looks as shares of the frame, (2, H, W)."""
    xs = (grid.xs() + moves[0]) / np.float32(size[0])
    ys = (grid.ys()[:, None] + moves[1]) / np.float32(size[1])
    return np.stack([xs, 1 - ys if up else ys]).astype(np.float32)


def normals(values: NDArray[np.float32], grid: Grid, *, down: bool = False) -> Picture:
    """Return a surface's normals as colours, (H, W, 4): n = (-s dz/dx, s dz/dy, 1), normalised, as n / 2 + 1 / 2.

    down: the second axis points down, n = (-s dz/dx, -s dz/dy, 1).
    """
    downwards, across = np.gradient(values) if min(values.shape) > 1 else (np.zeros_like(values),) * 2
    steep = STEEP * grid.scale
    n = np.stack([-across * steep, (-downwards if down else downwards) * steep, np.ones_like(values)], axis=2)
    n /= np.sqrt((n * n).sum(axis=2, keepdims=True))
    return as_rgba((n * 0.5 + 0.5).astype(np.float32))


def coarseness(format: Format, what: str, width: int) -> str:
    """Return a line where a format's steps are too coarse for places in a frame of so many px; empty where not."""
    sort, _ = sort_of_data(what)
    if sort == LAYERS and not format.layers:
        return f"{format.label}: it holds one layer; use OpenEXR"
    if sort not in ("st", "st-up"):
        return ""
    if format.data:
        step = width * 2.0**-11 if format.bits == 16 else 0.0  # a half's steps from 0.5 to 1
    else:
        step = width / (2**format.bits - 1)
    return f"{format.label}: places are exact to {step / 2:.2g} px only; use float" if step > 0.1 else ""


CUT_OFF = "places beyond the frame, or moves below 0, are cut off: the format holds 0 to 1 only"


def outside(what: str, values: Picture) -> bool:
    """Return whether places or moves go below 0 or above 1, by more than rounding."""
    red_green = values[..., :2]
    return sort_of_data(what)[0] in ("st", "st-up", "moves") and bool(
        ((red_green < -1e-4) | (red_green > 1.0001)).any()
    )


def notes_of(shot: Shot, what: str, overscan: int = 0) -> tuple[tuple[str, str], ...]:
    """Return what a data file says of itself in its attributes: (name, words) each."""
    beyond = f"{overscan} pixels on every side; the display window is the frame" if overscan else "none"
    return (*_notes_of(shot, what), ("nimbleQuakeOverscan", beyond))


def _notes_of(shot: Shot, what: str) -> tuple[tuple[str, str], ...]:
    sort, name = sort_of_data(what)
    if sort == LAYERS:
        return (("nimbleQuakeContent", LAYERS), ("nimbleQuakeConvention", WORDS[LAYERS]))
    if sort == "picture":
        return (("nimbleQuakeContent", "picture; linear light, associated alpha"),)
    size = f"{shot.width} x {shot.height}"
    return (
        ("nimbleQuakeContent", sort),
        ("nimbleQuakeOf", name),
        ("nimbleQuakeSize", size),
        ("nimbleQuakeConvention", WORDS[sort]),
    )
