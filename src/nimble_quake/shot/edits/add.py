"""Put a plate, map, quake or step into a shot."""

from __future__ import annotations

import msgspec

from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import fresh_id, with_node


def add_plate(shot: Shot, plate: Plate, at: int = 0) -> tuple[Shot, str]:
    """Put a plate at a place of the stack (0: on top). Returns the shot and the plate's path."""
    id = fresh_id(plate.id or plate.name or plate.kind, {p.id for p in shot.plates})
    plates = list(shot.plates)
    plates.insert(at, msgspec.structs.replace(plate, id=id))
    return msgspec.structs.replace(shot, plates=tuple(plates)), f"plates/{id}"


def add_map(shot: Shot, map: Map) -> tuple[Shot, str]:
    """Add a map at the end. Returns the shot and the map's path."""
    id = fresh_id(map.id or map.name, {m.id for m in shot.maps})
    added = msgspec.structs.replace(map, id=id)
    return msgspec.structs.replace(shot, maps=(*shot.maps, added)), f"maps/{id}"


def add_quake(shot: Shot, plate_path: str, quake: Node) -> tuple[Shot, str]:
    """Add a quake after a plate's others. Returns the shot and the quake's path."""
    id = ""

    def change(plate: Plate) -> Plate:
        nonlocal id
        id = fresh_id(quake.id or quake.name or quake.kind, {q.id for q in plate.quakes})
        return msgspec.structs.replace(plate, quakes=(*plate.quakes, msgspec.structs.replace(quake, id=id)))

    return with_node(shot, plate_path, change), f"{plate_path}/quakes/{id}"


def add_step(shot: Shot, map_path: str, step: Node, at: int | None = None) -> tuple[Shot, str]:
    """Add a step to a recipe, at its end or before the step number `at`. Returns the shot and the step's path."""
    id = ""

    def change(map: Map) -> Map:
        nonlocal id
        id = fresh_id(step.id or step.name or step.kind, {s.id for s in map.recipe})
        recipe = list(map.recipe)
        place = len(recipe) if at is None else at
        after = recipe[place] if place < len(recipe) else None
        inside = step.inside or (after.inside if after is not None else "")  # between a bracket's steps: one of them
        recipe.insert(place, msgspec.structs.replace(step, id=id, inside="" if step.kind == "bracket" else inside))
        return msgspec.structs.replace(map, recipe=tuple(recipe))

    return with_node(shot, map_path, change), f"{map_path}/steps/{id}"
