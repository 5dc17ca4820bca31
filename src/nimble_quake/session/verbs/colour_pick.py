"""The colour under a place of the picture, to be taken as a value."""

from __future__ import annotations

import numpy as np

from nimble_quake.errors import NimbleQuakeError
from nimble_quake.params.kinds import Rgba
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.render.plates.layers import on_whole, plate_layer
from nimble_quake.render.services import frame_job
from nimble_quake.session.state import Session
from nimble_quake.shot.model import Plate
from nimble_quake.shot.paths import find, kind_of, node_path, owner_path, siblings

SIDE = 3
"""So many shot pixels across are averaged: one alone may be noise."""


def colour_under(session: Session, path: str, x: float, y: float) -> Rgba | None:
    """Return the colour for the value at a path; None where there is none.

    For an effect's value it is that of its plate as the effects before it leave it: what a key is to take away.
    """
    owner = find(session.shot, owner_path(path))
    plates = [owner] if isinstance(owner, Plate) and kind_of(path) == "effect" else list(session.shot.plates)
    grid = Grid(float(round(x)) - SIDE // 2, float(round(y)) - SIDE // 2, SIDE, SIDE, 1.0)
    job = frame_job(session.engine, session.shot, session.frame)
    for plate in plates:
        if not isinstance(plate, Plate) or not plate.on:
            continue
        row = siblings(session.shot, node_path(path))
        upto = row.index(node_path(path)) if kind_of(path) == "effect" else None
        try:
            picture = on_whole(plate_layer(job, plate, grid, upto=upto), grid)
        except NimbleQuakeError:
            continue
        alpha = float(picture[..., 3].mean())
        if alpha > 0.05:
            r, g, b = (float(np.clip(n, 0, 1)) for n in picture[..., :3].mean(axis=(0, 1)) / alpha)
            return round(r, 4), round(g, 4), round(b, 4), 1.0
    return None
