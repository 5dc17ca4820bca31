"""Put a plate, map, effect or step into a shot."""

from __future__ import annotations

from pathlib import Path

import msgspec

from nimble_quake.shot.edits.brackets import BRACKET
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import fresh_id, nested_path, path_in, with_node
from nimble_quake.shot.paths import map_path as path_of_map
from nimble_quake.shot.paths import plate_path as path_of_plate


def add_plate(shot: Shot, plate: Plate, at: int = 0) -> tuple[Shot, str]:
    """Put a plate at a place of the stack (0: on top). Returns the shot and the plate's path."""
    id = fresh_id(plate.id or plate.name or plate.kind, {p.id for p in shot.plates})
    plates = list(shot.plates)
    plates.insert(at, msgspec.structs.replace(plate, id=id))
    return msgspec.structs.replace(shot, plates=tuple(plates)), path_of_plate(id)


def add_map(shot: Shot, map: Map) -> tuple[Shot, str]:
    """Add a map at the end. Returns the shot and the map's path."""
    id = fresh_id(map.id or map.name, {m.id for m in shot.maps})
    added = msgspec.structs.replace(map, id=id)
    return msgspec.structs.replace(shot, maps=(*shot.maps, added)), path_of_map(id)


def add_effect(shot: Shot, plate_path: str, effect: Node, at: int | None = None) -> tuple[Shot, str]:
    """Add an effect after a plate's others, or before its effect number `at`. Returns the shot and its path."""
    id = ""

    def change(plate: Plate) -> Plate:
        nonlocal id
        id = fresh_id(effect.id or effect.name or effect.kind, {e.id for e in plate.effects})
        effects = list(plate.effects)
        effects.insert(len(effects) if at is None else at, msgspec.structs.replace(effect, id=id))
        return msgspec.structs.replace(plate, effects=tuple(effects))

    return with_node(shot, plate_path, change), nested_path(plate_path, id)


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
        recipe.insert(place, msgspec.structs.replace(step, id=id, inside="" if step.kind == BRACKET else inside))
        return msgspec.structs.replace(map, recipe=tuple(recipe))

    return with_node(shot, map_path, change), nested_path(map_path, id)


def with_sound(shot: Shot, file: str, **values: object) -> tuple[Shot, str]:
    """Return the shot with a recording more, from its start unless values say otherwise, and its path."""
    name = Path(file).stem[:60]
    id = fresh_id(name or "sound", {sound.id for sound in shot.sounds})
    node = Node(id=id, kind="sound", name=name, values={"file": file, **values})
    return msgspec.structs.replace(shot, sounds=(*shot.sounds, node)), path_in("sounds", id)
