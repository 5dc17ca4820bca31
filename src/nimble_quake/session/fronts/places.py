"""Whether what was put into slots has room: words that reach beyond the frame are told before anything is rendered."""

from __future__ import annotations

from nimble_quake.errors import NimbleQuakeError
from nimble_quake.operators.front.turning import front_kind
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.params.drives import drives_in
from nimble_quake.params.kinds import Words
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.render.values.placement import in_frame
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import find, owner_path, plate_path


def beyond_frame(shot: Shot, engine: Engine) -> list[str]:
    """Return the names of words whose plate is wider or higher than the frame, at the frame the shot opens on."""
    found = []
    job = frame_job(engine, shot, shot.playhead)
    job.tolerant = True
    for node in shot.front:
        kind = front_kind(node)
        if kind is None or not kind.slot or not isinstance(kind.declared["value"], Words):
            continue
        for path in {owner_path(drive.path) for drive in drives_in(node.values)}:
            plate = find(shot, path)
            if isinstance(plate, Plate) and _is_beyond(shot, plate, job.operator("plate", plate, path), engine):
                found.append(node.name or node.id)
    return found


def _is_beyond(shot: Shot, plate: Plate, operator: object, engine: Engine) -> bool:
    if not isinstance(operator, PlateKind) or operator.endless or operator.gathers:
        return False
    job = frame_job(engine, shot, shot.playhead)
    try:
        box = operator.box(job.context(operator, plate, plate_path(plate.id)))
    except (NimbleQuakeError, OSError):
        return False
    placement = in_frame(operator, box, (float(shot.width), float(shot.height)))
    corners = [placement.shown(x, y) for x in (0.0, box[0]) for y in (0.0, box[1])]
    wide = max(x for x, _ in corners) - min(x for x, _ in corners)
    tall = max(y for _, y in corners) - min(y for _, y in corners)
    return wide > shot.width or tall > shot.height
