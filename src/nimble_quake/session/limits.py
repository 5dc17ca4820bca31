"""The one check every edit passes: what is in the shot afterwards can be saved, and opened again as the same shot."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TypeVar

import msgspec

from nimble_quake.conventions import Value, Values
from nimble_quake.errors import LimitError
from nimble_quake.motion.motion import Motion
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import MediaFile, Param
from nimble_quake.shot.fields import Items, OperatorValues, fields_of
from nimble_quake.shot.model import Map, Node, Shot
from nimble_quake.shot.paths import Row
from nimble_quake.shotfile.names import plain_name

Item = TypeVar("Item", bound=msgspec.Struct)


def clamped(before: Shot, after: Shot) -> Shot:
    """Return `after` with every changed value held inside its limits. Raises LimitError past the counts we open."""
    shot = _item(after, before, "this shot")
    loop = None if shot.loop is None or shot.loop[1] > shot.length else shot.loop
    playhead = min(shot.playhead, shot.length - 1)
    if (loop, playhead) == (shot.loop, shot.playhead):
        return shot
    return msgspec.structs.replace(shot, loop=loop, playhead=playhead)


def _item(item: Item, before: Item | None, owner: str) -> Item:
    """An item whose fields are within their limits; the very same where nothing differs, so that it stays shared."""
    now = msgspec.structs.asdict(item)
    old = {} if before is None else msgspec.structs.asdict(before)
    clean: Values = {}
    for name, field in fields_of(type(item)).items():
        value = now[name]
        if name in old and old[name] is value:
            continue
        if isinstance(field, Items):
            clean[name] = _items(field, value, old.get(name, ()), owner)
        elif not isinstance(field, OperatorValues):
            clean[name] = field.clamped(value)
    changed = {name: value for name, value in clean.items() if not _same(now[name], value)}
    return msgspec.structs.replace(item, **changed) if changed else item


def _items(field: Items, items: Row, before: Row, owner: str) -> Row:
    if len(items) > field.most:
        what = f"{owner} has {field.most} {field.word}, more are not opened again"
        raise LimitError(what, cure="remove some first")
    known = {id(item) for item in before}
    return tuple(item if id(item) in known else _inner(field.item, item) for item in items)


def _inner(word: str, item: msgspec.Struct) -> Value:
    """An item of a list: a plate, a map, a marker, or an operator of this family."""
    if isinstance(item, Map):
        return _item(item, None, item.name)
    if not isinstance(item, Node):
        return _item(item, None, "")
    clean = _item(item, None, item.name or item.id)
    operator = registry().get(word, item.kind)
    if operator is None or item.version > operator.version:
        return clean
    values = {name: _values(operator.declared, now) for name, now in (("values", item.values), ("aside", item.aside))}
    changed = {name: value for name, value in values.items() if value != msgspec.structs.asdict(item)[name]}
    return msgspec.structs.replace(clean, **changed) if changed else clean


def _values(declared: Mapping[str, Param], values: Values) -> Values:
    cleaned = {}
    for key, value in values.items():
        param = declared.get(key)
        clean = value if param is None else _value(param, value)
        if clean is not None:
            cleaned[key] = clean
    return cleaned


def _same(old: Value, new: Value) -> bool:
    if isinstance(new, tuple) and isinstance(old, tuple):
        return len(old) == len(new) and all(a is b or a == b for a, b in zip(old, new, strict=True))
    return bool(old == new)


def _value(param: Param, value: Value) -> Value:
    """The nearest value or motion a file can hold; None, the default, where there is none."""
    if isinstance(value, Motion):
        return value.clamped(param)
    clean = param.clamped(value)
    return plain_name(clean) if isinstance(param, MediaFile) and clean else clean
