"""The warp of a plate's effects, without its picture: for needles, read-outs, and the enlargement that hides gaps."""

from __future__ import annotations

from nimble_quake.conventions import Warp
from nimble_quake.operators.coordinates import Coordinate
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.render.chain.pictures import Clear, composed
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.groups import plate_operator
from nimble_quake.render.plan.units import Unit, units_of
from nimble_quake.render.plates.grounds import placement_of
from nimble_quake.render.plates.layers import effects_chain
from nimble_quake.shot.model import Plate
from nimble_quake.shot.paths import find, node_path, owner_path


def warp_of(job: FrameJob, path: str, grid: Grid, *, whole: bool = False) -> Warp | None:
    """Return how far the samples of a grid look, (2, H, W) shot pixels: by one effect, or by all of its plate.

    None where nothing moves. Steps that make new images between are passed over.
    """
    plate = find(job.shot, owner_path(path)) if path else None
    operator = plate_operator(job, plate) if isinstance(plate, Plate) else None
    if not isinstance(plate, Plate) or operator is None:
        return None
    units = _flat(units_of(job, plate))
    moving = tuple(
        unit for unit in units if isinstance(unit.operator, Coordinate) and (whole or unit.path == node_path(path))
    )
    if not moving:
        return None
    chain = effects_chain(job, plate, (), Clear(placement_of(job, plate, operator)))
    return composed(chain, moving, grid)[0].warp


def _flat(units: tuple[Unit, ...]) -> list[Unit]:
    return [inner for unit in units for inner in (unit.inner or (unit,))]
