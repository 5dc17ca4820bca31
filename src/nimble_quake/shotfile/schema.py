"""The JSON Schema of shot files, made from the declarations of the operators."""

from __future__ import annotations

import json
from collections import Counter
from typing import TypeAlias

import msgspec

from nimble_quake.conventions import Json
from nimble_quake.motion.driver import Driver, drivers
from nimble_quake.motion.kinds import AFTER, ANCHORS
from nimble_quake.operators.base import Operator
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Param
from nimble_quake.shot.fields import Items, OperatorValues, fields_of
from nimble_quake.shot.model import FORMAT, ITEMS, Map, Marker, Node, Shot, State

Object: TypeAlias = dict[str, object]
"""A JSON object."""


def schema() -> Object:
    """Return the JSON Schema (draft 2020-12) of a shot file. What occurs in many places is defined once."""
    structs: list[type[msgspec.Struct]] = [Shot, *ITEMS.values()]
    words = {field.item for struct in structs for field in _lists(struct)} - {"map", "marker", "state"}
    kinds = {word: registry().playing(word) for word in sorted(words)}
    operators = {operator for row in kinds.values() for operator in row}
    values = _values(sorted(operators, key=_values_of))
    moved = {f"moved-by-{kind}": _driver(driver) for kind, driver in drivers().items()} | {"moved": _moved()}
    pins: Object = {"after": {"enum": list(AFTER)}, "anchor": {"enum": list(ANCHORS)}}
    common = {_common_of(word): _common(word) for word in kinds}
    nodes = {word: {"anyOf": [*(_node(op, word) for op in row), _unknown(word)]} for word, row in kinds.items()}
    parts = {"map": _object(Map), "marker": _object(Marker), "state": _object(State)}
    mark = {"nimble_quake": {"type": "integer", "minimum": 1, "maximum": FORMAT}}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Nimble Quake shot",
        "type": "object",
        "required": ["nimble_quake"],
        "$defs": {**moved, **pins, **nodes, **common, **parts, **values},
        "properties": {**mark, **_properties(Shot)},
    }


def _lists(struct: type[msgspec.Struct]) -> list[Items]:
    return [field for field in fields_of(struct).values() if isinstance(field, Items)]


def _properties(struct: type[msgspec.Struct]) -> Object:
    """The fields of a part of the document; values of an operator are left out."""
    fields = fields_of(struct).items()
    return {name: field.schema(_reference) for name, field in fields if not isinstance(field, OperatorValues)}


def _reference(of: Items) -> Json:
    return {"$ref": f"#/$defs/{of.item}"}


def _object(struct: type[msgspec.Struct]) -> Object:
    required = [name for name in fields_of(struct) if name == "id"]
    return {"type": "object", "required": required, "properties": _properties(struct)}


def _values_of(operator: type[Operator]) -> str:
    """The name under which an operator's values are defined."""
    return f"{operator.family}-{operator.kind}-values"


def _driver(driver: type[Driver]) -> Object:
    """A value that is moved by a driver: base + amount x its course."""
    numbers = {"anyOf": [{"type": "number"}, {"type": "array", "items": {"type": "number"}}]}
    settings = {name: param.schema() | {"description": param.help} for name, param in driver.declared.items()}
    return {
        "type": "object",
        "title": driver.title,
        "description": driver.help,
        "required": ["driver", "amount"],
        "properties": {
            "driver": {"const": driver.kind},
            "base": numbers,
            "amount": numbers,
            "settings": {"type": "object", "properties": settings},
        },
    }


def _unknown(word: str) -> Object:
    """An operator of a newer version or an addition: kept as it is."""
    known = [op.kind for op in registry().all()]
    more = {name: shape for name, shape in _properties(ITEMS[word]).items() if name not in fields_of(Node)}
    kind = {"type": "string", "not": {"enum": known}}
    return {"type": "object", "required": ["id", "kind"], "properties": {"kind": kind, **more}}


def _node(operator: type[Operator], word: str) -> Object:
    values = {"$ref": f"#/$defs/{_values_of(operator)}"}
    return {
        "title": operator.title,
        "description": operator.help,
        "$ref": f"#/$defs/{_common_of(word)}",
        "properties": {"kind": {"const": operator.kind}, "values": values, "aside": values},
    }


def _common_of(word: str) -> str:
    """The name under which that is defined which all items of a sort have."""
    return f"any-{word}"


def _common(word: str) -> Object:
    return {"type": "object", "required": ["id", "kind"], "properties": _properties(ITEMS[word])}


def _values(operators: list[type[Operator]]) -> Object:
    """The values of each operator by their names; what several have alike is defined once, beside them."""
    found = {op: {name: _value(param) for name, param in op.declared.items()} for op in operators}
    often = Counter((name, _text(value)) for values in found.values() for name, value in values.items())
    names: dict[tuple[str, str], str] = {}
    alike: Object = {}
    for values in found.values():
        for name, value in values.items():
            same = (name, _text(value))
            if often[same] == 1:
                continue
            if same not in names:
                count = sum(other == name for other, _ in names)
                names[same] = f"value-{name}-{count + 1}" if count else f"value-{name}"
                alike[names[same]] = value
            values[name] = {"$ref": f"#/$defs/{names[same]}"}
    return {_values_of(op): {"type": "object", "properties": values} for op, values in found.items()} | alike


def _text(value: object) -> str:
    return json.dumps(value, sort_keys=True)


def _value(param: Param) -> Object:
    still: Object = {**param.schema(), "description": param.help}
    if not param.takes_keys:
        return still
    key = {
        "type": "object",
        "required": ["frame", "value"],
        "properties": {"frame": {"type": "number"}, "value": param.schema(), "after": {"$ref": "#/$defs/after"}},
    }
    properties = {"keys": {"type": "array", "items": key}, "anchor": {"$ref": "#/$defs/anchor"}}
    keys = {"type": "object", "required": ["keys"], "properties": properties}
    return {"anyOf": [still, keys, {"$ref": "#/$defs/moved"}] if param.animatable and param.size else [still, keys]}


def _moved() -> Object:
    """A number, or numbers, moved by anything but pins."""
    moving = [
        {"type": "object", "required": ["rate"]},
        {"type": "object", "required": ["formula"], "properties": {"formula": {"type": "string"}}},
        *({"$ref": f"#/$defs/moved-by-{kind}"} for kind in drivers()),
        {"type": "object", "required": ["first", "over"]},
        {"type": "object", "required": ["first", "times"]},
    ]
    return {"anyOf": moving}
