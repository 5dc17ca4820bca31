"""Slots filled and dials set, on a shot: what goes in, and what is said where it cannot."""

from __future__ import annotations

from pathlib import Path
from typing import TypeAlias

import msgspec

from nimble_quake.conventions import Value
from nimble_quake.errors import BadInput, NimbleQuakeError, one_of
from nimble_quake.media.pool import sort_of
from nimble_quake.motion.motion import Motion
from nimble_quake.operators.front.base import scaled
from nimble_quake.operators.front.turning import followed, front_kind, param_behind
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.operators.registry import registry
from nimble_quake.params.drives import drives_in
from nimble_quake.params.kinds import MapRef, Param
from nimble_quake.raster.geometry.fitting import fit_scale
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.shot.edits.add import add_map
from nimble_quake.shot.edits.remove import remove
from nimble_quake.shot.edits.set_value import set_field, set_value
from nimble_quake.shot.edits.swap import with_kind
from nimble_quake.shot.fragment import Landing, fragment_of, laid
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import find, id_of, nested_path, node_path, owner_path, path_in, value_path, with_node

Box: TypeAlias = tuple[float, float]
BLANK = (1.0, 1.0)


def front_path(node: Node) -> str:
    """Return the path of a dial or slot."""
    return path_in("front", node.id)


def named(shot: Shot, name: str) -> Node:
    """Return the dial or slot of a name, or of an id. Raises BadInput that names those there are."""
    plain = name.strip().casefold()
    known = [node for node in shot.front if (kind := front_kind(node)) is None or not kind.apart]
    for node in known:
        if plain in (node.id.casefold(), node.name.casefold()):
            return node
    cure = one_of([node.id for node in known], name) if known else "bring values to the front first"
    raise BadInput(f'there is no dial or slot "{name[:60]}"', cure=cure)


def shown_as(shot: Shot, node: Node) -> Param | None:
    """Return the declaration of a dial's or slot's value: its own name, range, standard and words."""
    kind, drives = front_kind(node), drives_in(node.values)
    if kind is None:
        return None
    behind = param_behind(shot, drives[0].path) if drives else None
    return kind.shown_as(node.values, node.name or kind.title, behind)


def with_dial(shot: Shot, node: Node, value: Value) -> Shot:
    """Return the shot with a dial or slot set, and what is behind it as it says. Raises BadInput, ShotError."""
    param = shown_as(shot, node)
    if param is None:
        raise BadInput(f'"{node.name or node.id}" is of a newer version', cure="use a newer Nimble Quake")
    if isinstance(param, MapRef) and value and shot.map(str(value)) is None:
        by_name = next((map.id for map in shot.maps if map.name == value), None)
        if by_name is None:
            raise BadInput(f'there is no map "{value}"', cure=one_of([map.id for map in shot.maps], str(value)))
        value = by_name
    clean = value if isinstance(value, Motion) else param.check(value)
    return followed(shot, set_value(shot, value_path(front_path(node), "value"), clean))


def filled(shot: Shot, node: Node, what: Value, engine: Engine | None = None) -> Shot:
    """Return the shot with a slot filled: a file or words for a picture, else a value. Raises NimbleQuakeError.

    A picture may be words too: "text:OPEN ALL NIGHT".
    """
    kind = front_kind(node)
    if kind is None or not kind.fills_plate:
        return with_dial(*_with_map_of(shot, node, what))
    words = str(what).removeprefix("text:") if str(what).startswith("text:") else ""
    try:
        for path in _plates_behind(shot, node):
            shot = _filled_plate(shot, path, node, str(what), words, engine or Engine())
    except NimbleQuakeError as wrong:
        raise type(wrong)(wrong.what, where=node.name or node.id, cure=wrong.cure) from wrong
    shot = set_value(shot, value_path(front_path(node), "filled"), True)
    return set_value(shot, value_path(front_path(node), "value"), None if words else str(Path(str(what)).absolute()))


def _with_map_of(shot: Shot, node: Node, what: Value) -> tuple[Shot, Node, Value]:
    """Where a map slot is given a picture or a clip, the shot with a map of it, and that map's id."""
    file = Path(str(what)) if isinstance(shown_as(shot, node), MapRef) and what else None
    if file is None or not sort_of(str(file)) or not file.is_file():
        return shot, node, what
    step = Node(id="picture", kind="picture", values={"file": str(file.absolute()), "take": "colour"})
    made, path = add_map(shot, Map(id=file.stem, name=file.stem, recipe=(step,)))
    return made, node, id_of(path)


def with_plate(shot: Shot, node: Node, path: str) -> Shot:
    """Return the shot with a plate of it in a slot: its picture and effects, then what the slot's plate does to it."""
    plates = _plates_behind(shot, node)
    other = find(shot, path)
    if not isinstance(other, Plate) or path in plates:
        return shot
    effects = [nested_path(path, effect.id) for effect in other.effects]
    piece = fragment_of(shot, effects, registry().get) if effects else None
    for slot in plates:

        def put(plate: Plate) -> Plate:
            fields = {"kind": other.kind, "version": other.version, "name": other.name}
            times = {"start": other.start, "end": other.end}
            values = {**other.values, **_own_to_slot(plate)}
            return msgspec.structs.replace(plate, values=values, **fields, **times)

        shot = with_node(shot, slot, put)
        if piece is not None:
            shot = laid(shot, piece, Landing(plate=slot, at=0, links=True), registry().get)[0]
    return set_value(remove(shot, path), value_path(front_path(node), "filled"), True)


def _own_to_slot(plate: Plate) -> dict[str, Value]:
    """What a slot's plate keeps whatever is in it: how it blends, its mask and matte, and a place that moves."""
    kept = {}
    for name, value in plate.values.items():
        param = PlateKind.declared.get(name)
        if param is not None and (param.group != "place" or isinstance(value, Motion)):
            kept[name] = value
    return kept


def _plates_behind(shot: Shot, node: Node) -> list[str]:
    paths = (owner_path(node_path(drive.path)) for drive in drives_in(node.values))
    return [path for path in dict.fromkeys(paths) if isinstance(find(shot, path), Plate)]


def _filled_plate(shot: Shot, path: str, node: Node, file: str, words: str, engine: Engine) -> Shot:
    """The plate of a slot showing a file, or words, in the box where the example lay."""
    sort = "text" if words else sort_of(file)
    if not sort:
        raise BadInput(f"{Path(file).name} is no picture or clip we read", cure="use a picture, an SVG or a clip")
    if not words and not engine.media.there(str(Path(file).absolute())):
        raise BadInput(f"{file} is not there", cure="choose a file that is")
    before, fit = _box(shot, path, engine), str(node.values.get("fit", "inside"))
    shot = with_kind(shot, path, sort, registry().get)
    kind = registry().get("plate", sort)
    assert kind is not None
    values: dict[str, Value] = {"words": words} if words else {kind.media_param: str(Path(file).absolute())}
    if fit == "own" and "fit" in kind.declared:
        values["fit"] = "centre"
    for name, value in values.items():
        shot = set_value(shot, value_path(path, name), value)
    shot = set_field(shot, path, name=words[:60] or Path(file).stem)
    after = _box(shot, path, engine)
    across, down = before[0] / max(after[0], 1e-6), before[1] / max(after[1], 1e-6)
    size = 1.0 if fit == "own" else max(across, down) if fit == "over" else min(across, down)
    return _sized(shot, path, size)


def _box(shot: Shot, path: str, engine: Engine) -> Box:
    """How wide and high a plate is in the frame at scale 1, px; the frame where it has no size of its own."""
    frame = (float(shot.width), float(shot.height))
    plate = shot.plate(id_of(path))
    job = frame_job(engine, shot, 0)
    job.tolerant = True
    operator = job.operator("plate", plate, path) if plate is not None else None
    if plate is None or not isinstance(operator, PlateKind) or operator.endless:
        return frame
    try:
        box = operator.box(job.context(operator, plate, path))
    except (NimbleQuakeError, OSError):
        return frame
    fit = fit_scale(operator.fit_in_frame(), box, frame) if operator.fits else BLANK
    return max(box[0] * fit[0], 1e-6), max(box[1] * fit[1], 1e-6)


def _sized(shot: Shot, path: str, size: float) -> Shot:
    plate = shot.plate(id_of(path))
    if plate is None or abs(size - 1) < 1e-9:
        return shot
    for name in ("scale_x", "scale_y"):
        if param_behind(shot, value_path(path, name)) is not None:
            shot = set_value(shot, value_path(path, name), scaled(plate.values.get(name, 1.0), size, 1.0))
    return shot
