"""The one check every edit passes: what is in the shot afterwards can be saved, and opened again as the same shot."""

from __future__ import annotations

from typing import Any, TypeVar

import msgspec

from nimble_quake.conventions import MAX_FRAMES
from nimble_quake.errors import LimitError
from nimble_quake.motion.motion import Motion
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Colour, MediaFile, Param, Words
from nimble_quake.shot.model import Map, Marker, Node, Plate, Shot
from nimble_quake.shotfile.codec import MOST, MOST_BEATS
from nimble_quake.shotfile.names import plain_name

LONGEST_NAME = 200
Item = TypeVar("Item", bound=msgspec.Struct)


def clamped(before: Shot, after: Shot) -> Shot:
    """Return `after` with every changed value held inside its limits. Raises LimitError past the counts we open."""
    known = {id(plate) for plate in before.plates} | {id(map) for map in before.maps}
    _count(after.plates, "plates", "this shot")
    _count(after.maps, "maps", "this shot")
    _count(after.markers, "markers", "this shot")
    plates = tuple(plate if id(plate) in known else _plate(plate) for plate in after.plates)
    maps = tuple(map if id(map) in known else _map(map) for map in after.maps)
    fields: dict[str, Any] = {"plates": plates, "maps": maps}
    for row in ("sounds", "bands"):
        nodes, old = getattr(after, row), getattr(before, row)
        if nodes is not old:
            _count(nodes, row, "this shot")
            fields[row] = tuple(_node(node, "sound") for node in nodes)
    if after.beats is not before.beats:
        fields["beats"] = tuple(sorted({min(max(float(n), 0.0), MAX_FRAMES) for n in after.beats})[:MOST_BEATS])
    if after.markers is not before.markers:
        fields["markers"] = tuple(_marker(marker) for marker in after.markers)
    fields["name"] = _name(after.name)
    fields["ground"] = Colour().clamp(after.ground)
    if after.loop is not None and not 0 <= after.loop[0] < after.loop[1] <= after.length:
        fields["loop"] = None
    kept = {name: value for name, value in fields.items() if not _same(getattr(after, name), value)}
    return msgspec.structs.replace(after, **kept) if kept else after


def _same(old: Any, new: Any) -> bool:
    if isinstance(new, tuple) and isinstance(old, tuple):
        return len(old) == len(new) and all(a is b or a == b for a, b in zip(old, new, strict=True))
    return bool(old == new)


def _count(items: tuple[Any, ...], key: str, where: str) -> None:
    if len(items) > MOST[key]:
        word = "steps" if key == "recipe" else key
        raise LimitError(f"{where} has {MOST[key]} {word}, more are not opened again", cure="remove some first")


def _name(text: str) -> str:
    return Words.clean(text)[:LONGEST_NAME]


def _marker(marker: Marker) -> Marker:
    return Marker(frame=min(max(marker.frame, 0), MAX_FRAMES), name=_name(marker.name))


def _map(map: Map) -> Map:
    _count(map.recipe, "recipe", map.name)
    return _replaced(map, name=_name(map.name), recipe=tuple(_node(step, "step") for step in map.recipe))


def _plate(plate: Plate) -> Plate:
    _count(plate.effects, "effects", plate.name or plate.id)
    start, end = (None if f is None else min(max(f, -MAX_FRAMES), MAX_FRAMES) for f in (plate.start, plate.end))
    effects = tuple(_node(effect, "effect") for effect in plate.effects)
    clean = _node(plate, "plate")
    return _replaced(plate, name=clean.name, values=clean.values, start=start, end=end, effects=effects)


def _node(node: Node, family: str) -> Node:
    operator = registry().get(family, node.kind)
    name = _name(node.name)
    if operator is None or node.version > operator.version:
        return _replaced(node, name=name)
    values = {}
    for key, value in node.values.items():
        param = operator.declared.get(key)
        clean = value if param is None else _value(param, value)
        if clean is not None:
            values[key] = clean
    aside = {}
    for key, value in node.aside.items():
        param = operator.declared.get(key)
        clean = value if param is None else _value(param, value)
        if clean is not None:
            aside[key] = clean
    return _replaced(node, name=name, values=values, aside=aside, **_span(node))


def _span(node: Node) -> dict[str, Any]:
    """A span and fades that a file can hold."""
    span, fades = node.span, node.fades
    if span is not None:
        first = min(max(span[0], -MAX_FRAMES), MAX_FRAMES - 1)
        span = (first, min(max(span[1], first + 1), MAX_FRAMES))
    return {"span": span, "fades": (min(max(fades[0], 0), MAX_FRAMES), min(max(fades[1], 0), MAX_FRAMES))}


def _replaced(item: Item, **fields: Any) -> Item:
    """The item with these fields; the very same one where nothing differs, so that it stays shared."""
    changed = {name: value for name, value in fields.items() if not _same(getattr(item, name), value)}
    return msgspec.structs.replace(item, **changed) if changed else item


def _value(param: Param, value: Any) -> Any:
    """The nearest value or motion a file can hold; None, the default, where there is none."""
    if isinstance(value, Motion):
        return value.clamped(param)
    clean = param.clamped(value)
    return plain_name(clean) if isinstance(param, MediaFile) and clean else clean
