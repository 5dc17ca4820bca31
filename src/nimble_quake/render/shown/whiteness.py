"""A plate that is whiter than the footage it lies on: it looks pasted on, and grades with it no more."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.raster.colour.channels import luminance
from nimble_quake.raster.colour.light import to_encoded
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.render.caches.results import Same
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.groups import in_time, is_there, plate_operator
from nimble_quake.shot.model import Plate

WHITE = 0.9
"""A colour of less luminance is no white that is meant as one."""
MORE = 0.04
"""A white that is whiter by less is not told apart."""
NEARLY_ALL = 0.998
"""The fraction of footage that is no lighter than its white: a lamp's few samples do not count."""


class Whiter(NamedTuple):
    """A white, and the white of what lies beneath it: luminance of encoded colours."""

    own: float
    beneath: float
    param: str
    """The parameter that is the colour."""


def whiter_than_footage(job: FrameJob, plate_id: str, grid: Grid) -> Whiter | None:
    """Return how much whiter a plate of a flat colour is than the footage it lies on now; None where it is not."""
    plate = job.shot.plate(plate_id)
    operator = None if plate is None else plate_operator(job, plate)
    if plate is None or operator is None or not in_time(plate, job.moment.frame):
        return None
    own = _white(operator, linear=job.shot.linear and operator.in_light)
    beneath = job.shot.plates[job.shot.plates.index(plate) + 1 :]
    there = [plate_operator(job, each) for each in beneath if is_there(each, job.moment.frame)]
    if own < WHITE or not any(kind is not None and _is_footage(kind) for kind in there):
        return None
    key = ("white", tuple(map(Same, beneath)), Same(job.shot.maps), job.moment.frame, grid)
    white = float(job.engine.cache.get(key, lambda: _white_of(job, beneath, grid)))
    return Whiter(own, white, operator.flat_colour) if own - white > MORE else None


def _white_of(job: FrameJob, plates: tuple[Plate, ...], grid: Grid) -> np.float64:
    """The white of plates by themselves; endless where they show nothing."""
    below = replace(job.shot, plates=plates, ground=(0.0, 0.0, 0.0, 0.0))
    then = FrameJob(job.engine, below, job.moment.frame, job.services)
    then.tolerant = True
    picture = frame_picture(then, grid=grid, shutter=False)
    seen = picture[..., 3] > 0.5
    if not seen.any():
        return np.float64(np.inf)
    return np.float64(np.quantile(luminance(picture[seen][None, ..., :3]), NEARLY_ALL))


def _white(operator: PlateKind, *, linear: bool) -> float:
    """The luminance of a plate's one colour, encoded; 0 where it has none, or another fill counts."""
    param = operator.declared.get(operator.flat_colour)
    if param is None or (param.shown_when and not param.shown_when.holds(operator.values[param.shown_when.name])):
        return 0.0
    picture = np.array((*operator.values[param.name][:3], 1.0), np.float32)[None, None]
    return float(luminance(to_encoded(picture) if linear else picture)[0, 0])


def _is_footage(operator: PlateKind) -> bool:
    return any(operator.values.get(name) for name in type(operator).file_names)
