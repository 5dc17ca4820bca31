"""The JSON Schema of shot files, made from the declarations of the operators."""

from __future__ import annotations

from typing import Any

from nimble_quake.conventions import MAX_FRAMES, MAX_SIDE
from nimble_quake.motion.driver import Driver, drivers
from nimble_quake.motion.kinds import AFTER
from nimble_quake.operators.base import Operator
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Param
from nimble_quake.shot.model import FORMAT


def schema() -> dict[str, Any]:
    """Return the JSON Schema (draft 2020-12) of a shot file. What occurs in many places is defined once."""
    kinds = {role: registry().playing(role) for role in ("step", "effect", "plate", "sound")}
    operators = {op for row in kinds.values() for op in row}
    values = {
        _values_of(op): {"type": "object", "properties": {name: _value(param) for name, param in op.declared.items()}}
        for op in sorted(operators, key=_values_of)
    }
    frame = {"type": "integer", "minimum": 0, "maximum": MAX_FRAMES}
    span = {key: {"type": ["integer", "null"]} for key in ("start", "end")}
    effect = {"anyOf": [_node(op) for op in kinds["effect"]] + [_unknown()]}
    effects = {"type": "array", "items": {"$ref": "#/$defs/effect"}}
    plate_more = {**span, "locked": {"type": "boolean"}, "effects": effects}
    steps = [_node(op) for op in kinds["step"]] + [_unknown()]
    heard = [_node(op) for op in kinds["sound"]] + [_unknown()]
    map = {
        "type": "object",
        "required": ["id"],
        "properties": {
            "id": {"type": "string"},
            "name": {"type": "string"},
            "recipe": {"type": "array", "items": {"anyOf": steps}},
        },
    }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Nimble Quake shot",
        "type": "object",
        "required": ["nimble_quake"],
        "$defs": {**{kind: _driver(driver) for kind, driver in drivers().items()}, "effect": effect, **values},
        "properties": {
            "nimble_quake": {"type": "integer", "minimum": 1, "maximum": FORMAT},
            "name": {"type": "string"},
            "width": {"type": "integer", "minimum": 1, "maximum": MAX_SIDE},
            "height": {"type": "integer", "minimum": 1, "maximum": MAX_SIDE},
            "rate": {"type": "string", "description": 'frames per second, such as "25" or "24000/1001"'},
            "length": {"type": "integer", "minimum": 1, "maximum": MAX_FRAMES},
            "ground": {"type": "string"},
            "linear": {"type": "boolean"},
            "loop": {"type": "array", "items": frame, "minItems": 2, "maxItems": 2},
            "playhead": frame,
            "seamless": {"type": "boolean"},
            "sounds": {"type": "array", "items": {"anyOf": heard}},
            "bands": {"type": "array", "items": {"anyOf": heard}},
            "beats": {"type": "array", "items": {"type": "number", "minimum": 0, "maximum": MAX_FRAMES}},
            "markers": {"type": "array", "items": {"type": "object", "properties": {"frame": frame}}},
            "maps": {"type": "array", "items": map},
            "plates": {
                "type": "array",
                "items": {"anyOf": [_node(op, plate_more) for op in kinds["plate"]] + [_unknown(plate_more)]},
            },
        },
    }


def _values_of(operator: type[Operator]) -> str:
    """The name under which an operator's values are defined."""
    return f"{operator.family}-{operator.kind}-values"


def _driver(driver: type[Driver]) -> dict[str, Any]:
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


def _unknown(more: dict[str, Any] | None = None) -> dict[str, Any]:
    """An operator of a newer version or an addition: kept as it is."""
    known = [op.kind for op in registry().all()]
    return {
        "type": "object",
        "required": ["id", "kind"],
        "properties": {"kind": {"type": "string", "not": {"enum": known}}, **(more or {})},
    }


def _node(operator: type[Operator], more: dict[str, Any] | None = None) -> dict[str, Any]:
    values = {"$ref": f"#/$defs/{_values_of(operator)}"}
    return {
        "type": "object",
        "title": operator.title,
        "description": operator.help,
        "required": ["id", "kind"],
        "properties": {
            "id": {"type": "string"},
            "kind": {"const": operator.kind},
            "version": {"type": "integer", "minimum": 1},
            "name": {"type": "string"},
            "on": {"type": "boolean"},
            "inside": {"type": "string"},
            "values": values,
            "shared": {"type": "string"},
            "side": {"enum": ["A", "B"]},
            "aside": values,
            "span": {"type": "array", "items": {"type": "integer"}, "minItems": 2, "maxItems": 2},
            "fades": {"type": "array", "items": {"type": "integer", "minimum": 0}, "minItems": 2, "maxItems": 2},
            **(more or {}),
        },
    }


def _value(param: Param) -> dict[str, Any]:
    still = param.schema() | {"description": param.help}
    if not param.animatable:
        return still
    key = {
        "type": "object",
        "required": ["frame", "value"],
        "properties": {"frame": {"type": "number"}, "value": param.schema(), "after": {"enum": list(AFTER)}},
    }
    if not param.size:
        keys = {"type": "object", "required": ["keys"], "properties": {"keys": {"type": "array", "items": key}}}
        return {"anyOf": [still, keys]}
    moving = [
        {"type": "object", "required": ["keys"], "properties": {"keys": {"type": "array", "items": key}}},
        {"type": "object", "required": ["rate"]},
        {"type": "object", "required": ["formula"], "properties": {"formula": {"type": "string"}}},
        *({"$ref": f"#/$defs/{kind}"} for kind in drivers()),
        {"type": "object", "required": ["first", "over"]},
    ]
    return {"anyOf": [still, *moving]}
