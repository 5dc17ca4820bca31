"""A map as it is read: clear parts at what they count as, the level that rests, and what its values come to.

All of it are values of the map, not what they count as beside the coupling's white level.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from nimble_quake.conventions import REST, Field
from nimble_quake.operators.quake import Quake
from nimble_quake.operators.reading import ReadsMap
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.fitting import fitted
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.render.chain.maps import map_field, map_rest
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.groups import plate_operator
from nimble_quake.render.plates.grounds import placement_of
from nimble_quake.render.shown.views import histogram
from nimble_quake.shot.model import Map, Node, Plate
from nimble_quake.shot.paths import find, owner_path


@dataclass(frozen=True)
class MapReading:
    """What the selected quake reads of its own map, whichever map is looked at."""

    map_id: str
    values: Field
    """(H, W, 2): what moves it across and down, on the grid the maps are shown on, clear parts as they count."""
    rest: float = REST
    means: tuple[float, float] = (REST, REST)
    """Of both, without the clear parts that count as rest."""
    bars: list[float] = field(default_factory=list)
    common: tuple[float, float] = (REST, 0.0)
    """The level that most of it has, across, and which fraction of it has that."""
    lightest: float = 1.0
    """The value across that hardly any of it goes beyond."""
    two_axes: bool = False
    """The map itself holds a value for each axis."""

    @property
    def nbytes(self) -> int:
        """Memory held."""
        return self.values.nbytes

    def flat(self, still: bool) -> bool:
        """Return whether it moves nothing anywhere. still: whatever its level, if only it is the same everywhere."""
        values = self.values
        rest = values.mean(axis=(0, 1)) if still else np.float32(self.rest)
        return float(np.abs(values - rest).max(initial=0.0)) < FLAT


NEARLY_ALL = 0.999
"""The fraction of a map that lies at or below its lightest value: a few stray samples do not count."""
FLAT = 0.002
"""Values that differ by less from rest move nothing that is seen."""


def reading_of(job: FrameJob, quake_path: str, grid: Grid) -> MapReading | None:
    """Return what a quake reads of its map now; None where it reads none."""
    node = find(job.shot, quake_path) if quake_path else None
    quake = job.operator("effect", node, quake_path) if isinstance(node, Node) else None
    map = job.shot.map(quake.map_read()) if isinstance(quake, Quake) else None
    if map is None or not isinstance(quake, Quake) or not isinstance(quake, ReadsMap):
        return None
    read, rest = map_field(job, map, grid), quake.rest_level(map_rest(job, map))
    names = quake.channels_read()
    alike = names[0] == names[1] and read.shape[2] != 2
    across = quake.read_levels(read, names[0], 0, rest)
    down = across if alike else quake.read_levels(read, names[1], 1, rest)
    weights = weights_of(read, quake.clear)
    means = (_mean(across, weights), _mean(down, weights))
    return MapReading(
        map.id,
        np.stack([across, down], axis=-1),
        rest,
        means,
        histogram(across, weights)[0],
        common_level(across, weights),
        float(np.quantile(across[::2, ::2], NEARLY_ALL)),
        read.shape[2] == 2,
    )


MUCH = 0.25
"""A level that more than this fraction of a map has is its ground."""


def map_box(job: FrameJob, quake_path: str) -> tuple[tuple[float, float], ...]:
    """Return the corners, shot pixels, of where a quake's map is laid on its plate; none where it is on the frame."""
    node = find(job.shot, quake_path) if quake_path else None
    plate = find(job.shot, owner_path(quake_path)) if quake_path else None
    quake = job.operator("effect", node, quake_path) if isinstance(node, Node) else None
    operator = plate_operator(job, plate) if isinstance(plate, Plate) else None
    if not isinstance(plate, Plate) or operator is None or not isinstance(quake, ReadsMap):
        return ()
    if quake.hook != "plate" or job.shot.map(quake.map_read()) is None:
        return ()
    width, height = job.shot.width, job.shot.height
    placement = placement_of(job, plate, operator)
    laid = affine.inverse(fitted(quake.fit, (width, height), placement.box))
    if laid is None:
        return ()
    corners = ((0, 0), (width, 0), (width, height), (0, height))
    return tuple(placement.shown(*affine.apply(laid, x, y)) for x, y in corners)


LEVELS = 64
"""Levels that are told apart from 0 to 1, to find the one that most of a map has."""


def common_level(values: Field, weights: Field | None) -> tuple[float, float]:
    """Return the level that most samples of a map (H, W) have, and which fraction of them has it.

    weights: how much each counts. Levels are told apart to 1/64; what lies beyond 0...1 counts at its border.
    """
    few, counted = values[::2, ::2].ravel(), None if weights is None else weights[::2, ::2].ravel()
    total = float(few.size if counted is None else counted.sum())
    if total <= 0:
        return REST, 0.0
    bins = np.clip(few * LEVELS, 0, LEVELS - 1).astype(np.intp)
    counts = np.bincount(bins, counted, minlength=LEVELS)
    fullest = int(counts.argmax())
    inside = bins == fullest
    level = float(np.average(few[inside], weights=None if counted is None else counted[inside]))
    return level, float(counts[fullest]) / total


def counted_as(job: FrameJob, map: Map, quake_path: str) -> tuple[str, float]:
    """Return what clear parts of a map count as, and its rest level: as the selected quake reads it, if it does."""
    node = find(job.shot, quake_path) if quake_path else None
    quake = job.operator("effect", node, quake_path) if isinstance(node, Node) else None
    rest = map_rest(job, map)
    if isinstance(quake, ReadsMap) and quake.map_read() == map.id:
        return quake.clear, quake.rest_level(rest)
    return "rest", rest


def filled(values: Field, clear: str, rest: float) -> Field:
    """Return a map's values with its clear parts at what they count as; its alpha is left."""
    if values.shape[2] != 4 or clear == "as-is":
        return values
    alpha = np.clip(values[..., 3:], 0, 1)
    if bool((alpha >= 1).all()):
        return values
    ground = np.float32({"white": 1.0, "black": 0.0}.get(clear, rest))
    out = values.copy()
    out[..., :3] = ground + (values[..., :3] - ground) * alpha
    return out


def weights_of(values: Field, clear: str) -> Field | None:
    """Return how much each sample counts in a mean, (H, W): clear parts that rest do not. None: all count alike."""
    if values.shape[2] != 4 or clear != "rest":
        return None
    alpha = np.clip(values[..., 3], 0, 1)
    return None if bool((alpha >= 1).all()) else alpha


def _mean(values: Field, weights: Field | None) -> float:
    if weights is None:
        return float(values.mean())
    total = float(weights.sum())
    return float((values * weights).sum() / total) if total > 0 else REST
