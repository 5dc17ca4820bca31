"""Why a quake moves nothing, in one line."""

from __future__ import annotations

import numpy as np

from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.operators.quake import BendQuake, Quake
from nimble_quake.operators.steps import Step
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.groups import in_time
from nimble_quake.render.plates.warps import warp_of
from nimble_quake.render.shown.reading import MapReading
from nimble_quake.shot.model import Node, Plate
from nimble_quake.shot.paths import find, owner_path, plate_path, with_shared
from nimble_quake.shot.spans import acts_at, faded

LEAST = 0.02
"""Shot pixels: what moves by less is not seen."""


def why_still(job: FrameJob, path: str, reading: MapReading | None, grid: Grid) -> str:
    """Return why the quake at a path moves nothing now; empty where it does move the picture.

    reading: what it reads of its map, as it is shown. grid: of the picture that is shown.
    """
    why = why_by_settings(job, path)
    node = find(job.shot, path) if path else None
    if why or not isinstance(node, Node):
        return why
    quake = job.operator("effect", node, path)
    if not isinstance(quake, Quake):
        return ""
    if masked_out(job, quake.mask, grid):
        return MASKED_OUT
    if reading is None or not reading.flat(quake.flat_is_still):
        return ""
    if isinstance(quake, BendQuake):  # a very long reach moves by little
        moves = warp_of(job, path, grid)
        if moves is not None and float(np.abs(moves).max(initial=0.0)) > LEAST:
            return ""
    return "The map is flat" if quake.flat_is_still else "The map is flat at its rest level"


def why_by_settings(job: FrameJob, path: str) -> str:
    """Return why the quake at a path moves nothing now, as far as that is seen without computing its map."""
    found = effect_at(job, path)
    if found is None:
        return ""
    node, plate = found
    off = effect_off(job, node, plate)
    quake = job.operator("effect", node, path)
    if off or not isinstance(quake, Step):
        return off or "Its kind is not known here"
    map = job.shot.map(quake.map_read())
    if map is None and quake.needs_map:
        return "No map: choose one above"
    if map is not None and not any(step.on for step in map.recipe):
        return "Its map has no step that is on"
    if isinstance(quake, Quake) and quake.strength == 0:
        return "Strength is 0"
    if quake.opacity == 0:
        return "Mix is 0"
    if isinstance(quake, Quake) and not quake.parts():
        return quake.idle_because
    operator = job.operator("plate", plate, plate_path(plate.id))
    if isinstance(operator, PlateKind) and operator.opacity <= 0:
        return "Its plate's opacity is 0"
    return ""


def effect_at(job: FrameJob, path: str) -> tuple[Node, Plate] | None:
    """Return the effect at a path and the plate that it is on; None where there is none."""
    node = find(job.shot, path) if path else None
    plate = find(job.shot, owner_path(path)) if path else None
    return (node, plate) if isinstance(node, Node) and isinstance(plate, Plate) else None


MASKED_OUT = "Its mask is black everywhere"


def masked_out(job: FrameJob, mask: str, grid: Grid) -> bool:
    """Return whether a mask, the id of a map, lets nothing act on a grid."""
    map = job.shot.map(mask) if mask else None
    return map is not None and float(channel(map_field(job, map, grid), "value").max(initial=0)) <= 0.002


def effect_off(job: FrameJob, node: Node, plate: Plate) -> str:
    """Return why an effect does not act at all now: switched off, or not there at this time; empty where it acts."""
    if not node.on:
        return "It is switched off"
    if not plate.on:
        return "Its plate is switched off"
    at, node = job.moment.frame, with_shared(job.shot, node)
    if not acts_at(node, at) or not acts_at(plate, at):
        return f"{'It' if acts_at(plate, at) else 'Its plate'} is switched off here, by a pin"
    if not in_time(plate, at):
        return "Its plate is not there at this time"
    return "" if faded(node, job.moment.frame, job.moment.length) > 0 else "It is not there at this time"
