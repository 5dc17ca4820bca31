"""Why a quake moves nothing, in one line."""

from __future__ import annotations

import numpy as np

from nimble_quake.operators.base import Quake
from nimble_quake.raster.colour import channel
from nimble_quake.raster.grid import frame_grid
from nimble_quake.render.job import Job
from nimble_quake.render.maps import map_field, map_rest
from nimble_quake.render.plates import in_time
from nimble_quake.shot.model import Node, Plate
from nimble_quake.shot.paths import find, owner_path


def why_still(job: Job, quake_path: str) -> str:
    """Return why the quake at a path moves nothing now; empty where it does move the picture."""
    why = why_by_settings(job, quake_path)
    node = find(job.shot, quake_path) if quake_path else None
    if why or not isinstance(node, Node):
        return why
    quake = job.operator("quake", node, quake_path)
    map = job.shot.map(getattr(quake, "map", ""))
    if not isinstance(quake, Quake) or map is None:
        return ""
    grid = frame_grid(job.shot.width, job.shot.height, min(1.0, 96 / max(job.shot.width, job.shot.height)))
    values = channel(map_field(job, map, grid), getattr(quake, "x_from", "value"))
    rest = quake.rest_level(map_rest(job, map)) if hasattr(quake, "rest_level") else 0.5
    return "The map is flat at its rest level" if float(np.abs(values - rest).max()) < 0.002 else ""


def why_by_settings(job: Job, quake_path: str) -> str:
    """Return why the quake at a path moves nothing now, as far as that is seen without computing its map."""
    node = find(job.shot, quake_path) if quake_path else None
    plate = find(job.shot, owner_path(quake_path)) if quake_path else None
    if not isinstance(node, Node) or not isinstance(plate, Plate):
        return ""
    if not node.on:
        return "It is switched off"
    if not plate.on:
        return "Its plate is switched off"
    if not in_time(plate, job.moment.frame):
        return "Its plate is not there at this time"
    quake = job.operator("quake", node, quake_path)
    if not isinstance(quake, Quake):
        return "Its kind is not known here"
    map = job.shot.map(getattr(quake, "map", ""))
    if map is None:
        return "No map: choose one above"
    if not any(step.on for step in map.recipe):
        return "Its map has no step that is on"
    if getattr(quake, "strength", 1) == 0:
        return "Strength is 0"
    if quake.idle():
        return "Reach is 0, or no channel is chosen"
    opacity = job.operator("plate", plate, f"plates/{plate.id}")
    if getattr(opacity, "opacity", 1) <= 0:
        return "Its plate's opacity is 0"
    return ""
