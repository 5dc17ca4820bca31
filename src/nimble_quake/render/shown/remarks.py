"""What steps and couplings say of themselves in the frame that is shown: one line each, and where it is so."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.operators.base import Context
from nimble_quake.operators.graphs import Remark
from nimble_quake.operators.steps import Step
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.render.chain.maps import map_image
from nimble_quake.render.chain.pictures import Clear
from nimble_quake.render.chain.pull import Chain, context
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.groups import in_time, plate_operator
from nimble_quake.render.plan.units import Unit, units_of
from nimble_quake.render.plates.grounds import placement_of
from nimble_quake.render.plates.layers import effects_chain
from nimble_quake.shot.model import Plate
from nimble_quake.shot.paths import find, owner_path


def remarks_on_map(job: FrameJob, map_id: str, grid: Grid) -> list[tuple[str, Remark]]:
    """Return what the steps of a map say of themselves now, each with its path."""
    map = job.shot.map(map_id) if map_id else None
    return [] if map is None else _remarks(map_image(job, map), grid)


def remarks_on_plate(job: FrameJob, path: str, grid: Grid) -> list[tuple[str, Remark]]:
    """Return what the effects of the plate at a path, or of the plate that holds it, say of themselves now."""
    chain = _effects(job, path)
    return [] if chain is None else _remarks(chain, grid)


def lacking_on_plate(job: FrameJob, path: str, grid: Grid) -> NDArray[np.bool_] | None:
    """Return where effects of a plate cannot show what they are asked for, (H, W); None where they can everywhere."""
    chain = _effects(job, path)
    found = [] if chain is None else [unit.operator.lacking(grid, _known(chain, n, grid)) for n, unit in _each(chain)]
    where = [each for each in found if each is not None]
    return np.logical_or.reduce(where) if where else None


def _effects(job: FrameJob, path: str) -> Chain | None:
    plate = find(job.shot, owner_path(path) or path) if path else None
    operator = plate_operator(job, plate) if isinstance(plate, Plate) else None
    if not isinstance(plate, Plate) or operator is None or not in_time(plate, job.moment.frame):
        return None
    return effects_chain(job, plate, units_of(job, plate), Clear(placement_of(job, plate, operator)))


def _each(chain: Chain) -> list[tuple[int, Unit]]:
    """The steps that are one, with their places; those inside others are left out."""
    return [(n, unit) for n, unit in enumerate(chain.units) if not unit.inner]


def _known(chain: Chain, number: int, grid: Grid) -> Context:
    """What a step of a chain knows besides its numbers."""
    return context(chain.lead(len(chain.units) - number - 1), chain.units[number], grid)


def _remarks(chain: Chain, grid: Grid) -> list[tuple[str, Remark]]:
    before: list[Step] = []
    found: list[tuple[str, Remark]] = []
    for number, unit in _each(chain):
        remark = unit.operator.remark(grid, _known(chain, number, grid), tuple(before))
        if remark is not None:
            found.append((unit.path, remark))
        before.append(unit.operator)
    return found
