"""What a person does to the effects of plates, by name: each is one undoable step."""

from __future__ import annotations

import math
from collections.abc import Sequence

import msgspec
import numpy as np

from nimble_quake.conventions import Values
from nimble_quake.motion.kinds import Key, Keys, is_moving, keys_of, with_keys_of
from nimble_quake.operators.registry import registry
from nimble_quake.operators.steps import placed_values
from nimble_quake.render.plan.groups import plate_operator
from nimble_quake.render.plates.grounds import placement_of
from nimble_quake.render.services import frame_job
from nimble_quake.render.values.placement import Matrix, inverse, through
from nimble_quake.session.state import Session
from nimble_quake.session.verbs.maps import own_map
from nimble_quake.shot.edits.add import add_effect, add_map
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.edits.share import parted, share
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import find, id_of, kind_of, node_path, owner_id, owner_path, value_path

MASK = "drawn_mask"
"""The source that a mask is drawn with."""


def new_quake(session: Session, kind: str = "", values: Values | None = None, name: str = "") -> str:
    """Add a quake to the selected plate, driven by the selected map; without a map one is made. It moves at once."""
    operator = registry().get("quake", kind) or min(registry().all("quake"), key=lambda op: op.rank)
    if not session.selection.plate:
        session.message.emit("Choose a plate first, then add a quake to it")
        return ""
    shot, path = with_effect(session, session.selection.plate, operator.kind, values, name)
    session.edit(f"New quake: {operator.title}", shot)
    session.select(quake=path)
    return path


def new_finish(session: Session, kind: str, values: Values | None = None, name: str = "") -> str:
    """Add a finish to the selected plate, after the selected effect. Returns its path."""
    if not session.selection.plate:
        session.message.emit("Choose a plate first, then add a finish to it")
        return ""
    shot, path = with_effect(session, session.selection.plate, kind, values, name)
    session.edit(f"New finish: {session.operator_title(kind)}", shot)
    session.select(effect=path)
    return path


def new_effect(session: Session, kind: str, values: Values | None = None, name: str = "") -> str:
    """Add a quake or a finish to the selected plate. Returns its path."""
    if registry().get("quake", kind) is not None:
        return new_quake(session, kind, values, name)
    return new_finish(session, kind, values, name)


def with_effect(
    session: Session, plate: str, kind: str, values: Values | None = None, name: str = ""
) -> tuple[Shot, str]:
    """Return the open shot with an effect added to a plate, and the effect's path; nothing is changed yet.

    One that needs a map is driven by the selected one where nothing reads that yet, else by a map of its own.
    """
    operator, shot = registry().get("effect", kind), session.shot
    placed = placed_values(operator, values or {}, shot.width, shot.height) if operator else dict(values or {})
    if operator is not None:
        placed = operator.begins_with(shot.width, shot.height) | placed
    if operator is not None and operator.needs_map and "map" not in placed:
        chosen = find(shot, session.selection.map) if session.selection.map else None
        free = isinstance(chosen, Map) and bool(chosen.recipe) and not shot.users_of(chosen.id)
        shot, map_path = (shot, session.selection.map) if free else own_map(shot)
        placed = {"map": id_of(map_path), **placed}
    version = operator.version if operator else 1
    return add_effect(shot, plate, Node(id=kind, kind=kind, name=name, version=version, values=placed))


def travel_of(session: Session, path: str) -> Matrix | None:
    """Return how the plate at a path, or that an effect lies on, has come from its own place to where it is seen now.

    (3, 3), shot pixels; None where it has no place of its own.
    """
    plate = find(session.shot, owner_path(path))
    if not isinstance(plate, Plate):
        return None
    job = frame_job(session.engine, session.shot, session.frame)
    operator = plate_operator(job, plate)
    if operator is None or operator.endless:
        return None
    travel = placement_of(job, plate, operator).travel()
    return travel if abs(float(np.linalg.det(travel))) > 1e-9 else None


def travel_of_mask(session: Session, map_path: str) -> Matrix | None:
    """Return how the mask a map is, of what is selected, has come from where it is drawn to where it is seen now.

    None where it stays in the frame, or nothing selected has it as its mask.
    """
    chosen = session.selection
    for path in (chosen.finish, chosen.quake, chosen.plate):
        if (
            path
            and session.shown(f"{path}/mask") == owner_id(map_path)
            and session.shown(f"{path}/mask_hook") == "plate"
        ):
            return travel_of(session, path)
    return None


def draw_mask(session: Session, of: str = "", points: Sequence[tuple[float, float]] = ()) -> str:
    """Add a map with a shape to be drawn in the picture, as the mask of what was chosen. Returns the map's path.

    A plate's row means the plate, an effect's row the effect. of: the path of what it is the mask of instead. The mask
    of a plate travels with it. points: of a polygon, shot pixels where they are seen; none: an ellipse.
    """
    target = of or session.selection.aimed or session.selection.plate
    travel = travel_of(session, target) if target and target == node_path(target) else None
    travels = travel is not None and kind_of(target) == "plate"
    if travel is not None and travels:
        points = [through(inverse(travel), *point) for point in points]
    kind = session.engine.operators.get("step", MASK)
    traced = kind.traced if kind is not None else None
    values = {"form": "polygon", **traced.values(points)} if points and traced is not None else {}
    step = Node(id=MASK, kind=MASK, values=values)
    shot, path = add_map(
        session.shot, Map(id="mask", name=f"Mask of {session.name_of(target)}" if target else "Mask", recipe=(step,))
    )
    if target:
        shot = set_value(shot, value_path(target, "mask"), owner_id(path))
    if travels:
        shot = set_value(shot, value_path(target, "mask_hook"), "plate")
    session.edit("Draw a mask", shot)
    session.select(map=path)
    return path


def trace(session: Session, path: str, points: Sequence[tuple[float, float]]) -> None:
    """Lay an outline, by the path of its value, through points, shot pixels where they are seen."""
    node = node_path(path)
    operator, travel = session.operator(node), travel_of_mask(session, owner_path(path))
    if operator is None or operator.traced is None:
        return
    if travel is not None:
        points = [through(inverse(travel), *point) for point in points]
    shot = session.shot
    for name, value in operator.traced.values(points).items():
        shot = set_value(shot, value_path(node, name), value)
    session.edit(f"Draw the outline of {session.name_of(node)}", shot)


def share_with(session: Session, path: str, plate_path: str) -> None:
    """Let another plate have an effect too: change one, and all follow."""
    shot, found = share(session.shot, path, plate_path)
    session.edit(f"Share {session.name_of(path)} with {session.name_of(plate_path)}", shot)
    session.select(effect=found)


def part(session: Session, path: str) -> None:
    """Give a shared effect values of its own."""
    session.edit(f"Part {session.name_of(path)}", parted(session.shot, path))


def cover_plate(session: Session, path: str, needed: dict[float, float], *, moving: bool) -> None:
    """Enlarge a plate so that no gap shows: by the most it ever needs, or moving, by what each frame needs."""
    most = max(needed.values(), default=1.0)
    if most <= 1.0:
        session.message.emit("Nothing shows through: it covers the frame already")
        return
    shot = session.shot
    for name in ("scale_x", "scale_y"):
        at = value_path(path, name)
        raw, now = session.raw(at), float(session.shown(at))
        if moving and not is_moving(raw):
            keys = [
                Key(frame=float(frame), value=round(now * times, 5), after="straight")
                for frame, times in needed.items()
            ]
            shot = set_value(shot, at, Keys(tuple(sorted(keys, key=lambda key: key.frame))))
        elif (keyed := keys_of(raw)) is not None:
            grown = [msgspec.structs.replace(key, value=key.value * most) for key in keyed.keys]
            shot = set_value(shot, at, with_keys_of(raw, keyed.of(grown)))
        else:
            shot = set_value(shot, at, math.ceil(now * most * 1e4) / 1e4)
    session.edit(f"Cover the gaps of {session.name_of(path)}: {most * 100:.1f} %", shot)


LEAST_SPAN = 0.02
"""A map that is lighter than its rest by less holds no white to be measured."""


def pick_rest(session: Session, path: str, level: float) -> None:
    """Make a level the rest level, picked by hand."""
    shot = set_value(session.shot, f"{path}/rest_by", "picked")
    shot = set_value(shot, f"{path}/rest", round(level, 3))
    if session.history.gesturing:
        session.change(shot)
    else:
        session.edit("Pick the rest level", shot)


def measure_levels(session: Session, path: str, rest: float, white: float) -> None:
    """Take a map's own levels: the one that moves nothing, and its lightest as white; 1 where that is at rest."""
    shot = set_value(session.shot, f"{path}/rest_by", "picked")
    shot = set_value(shot, f"{path}/rest", round(rest, 3))
    white = round(white, 3) if abs(white - rest) > LEAST_SPAN else 1.0
    session.edit(f"Rest {rest:.2f}, white {white:.2f}", set_value(shot, f"{path}/white", white))
