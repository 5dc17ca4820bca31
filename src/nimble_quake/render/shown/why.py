"""Why a quake moves nothing, in one line."""

from __future__ import annotations

import numpy as np

from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.operators.quake import Quake
from nimble_quake.operators.steps import Step
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field, map_rest
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.groups import in_time
from nimble_quake.shot.model import Node, Plate
from nimble_quake.shot.paths import find, owner_path, plate_path


def why_still(job: FrameJob, path: str) -> str:
    """Return why the quake at a path moves nothing now; empty where it does move the picture."""
    why = why_by_settings(job, path)
    node = find(job.shot, path) if path else None
    if why or not isinstance(node, Node):
        return why
    quake = job.operator("effect", node, path)
    if not isinstance(quake, Quake):
        return ""
    masked = job.shot.map(quake.mask) if quake.mask else None
    grid = frame_grid(job.shot.width, job.shot.height, min(1.0, 96 / max(job.shot.width, job.shot.height)))
    if masked is not None and float(channel(map_field(job, masked, grid), "value").max(initial=0)) <= 0.002:
        return "Its mask is black everywhere"
    map = job.shot.map(quake.map_read())
    if map is None:
        return ""
    values = channel(map_field(job, map, grid), quake.channels_read()[0])
    rest = quake.rest_level(map_rest(job, map))
    if quake.flat_is_still:
        rest = float(values.mean())
    return "The map is flat at its rest level" if float(np.abs(values - rest).max()) < 0.002 else ""


def why_by_settings(job: FrameJob, path: str) -> str:
    """Return why the quake at a path moves nothing now, as far as that is seen without computing its map."""
    node = find(job.shot, path) if path else None
    plate = find(job.shot, owner_path(path)) if path else None
    if not isinstance(node, Node) or not isinstance(plate, Plate):
        return ""
    if not node.on:
        return "It is switched off"
    if not plate.on:
        return "Its plate is switched off"
    if not in_time(plate, job.moment.frame):
        return "Its plate is not there at this time"
    quake = job.operator("effect", node, path)
    if not isinstance(quake, Step):
        return "Its kind is not known here"
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
