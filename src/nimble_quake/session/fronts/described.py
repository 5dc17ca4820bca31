"""What is at the front of a shot, as plain data: for a shell, for programs, and as a JSON Schema."""

from __future__ import annotations

from nimble_quake.conventions import Value
from nimble_quake.operators.front.turning import front_kind
from nimble_quake.params.kinds import Choice, Number, Param
from nimble_quake.session.fronts.filling import shown_as
from nimble_quake.shot.model import Node, Shot


def front_described(shot: Shot) -> list[dict[str, Value]]:
    """Return every slot and dial with its name, sort, range, unit, what it is now, and what it does; slots first."""
    found = [_described(shot, node) for node in shot.front if (kind := front_kind(node)) and not kind.apart]
    return sorted(found, key=lambda entry: entry["is"] != "slot")


def _described(shot: Shot, node: Node) -> dict[str, Value]:
    kind, param = front_kind(node), shown_as(shot, node)
    assert kind is not None
    assert param is not None
    entry: dict[str, Value] = {"name": node.id, "label": node.name or kind.title, "is": "slot" if kind.slot else "dial"}
    entry |= {"sort": kind.kind, "now": None if kind.fills_plate else _plain(param, kind.now(node.values))}
    if isinstance(param, Number):
        entry |= {"range": list(param.usual), "unit": param.unit}
    elif isinstance(param, Choice):
        entry["choices"] = [option.value for option in param.options]
    return entry | {"group": str(node.values.get("heading") or ""), "help": param.help}


def _plain(param: Param, value: Value) -> Value:
    try:
        return param.encode(value)
    except (TypeError, AttributeError, ValueError):  # it moves
        return "moves"


def front_schema(shot: Shot) -> dict[str, Value]:
    """Return the JSON Schema of an object that fills slots and sets dials."""
    properties: dict[str, Value] = {}
    for node in shot.front:
        kind, param = front_kind(node), shown_as(shot, node)
        if kind is None or param is None or kind.apart:
            continue
        schema = {"type": "string"} if kind.fills_plate else dict(param.schema())
        schema.pop("default", None)
        properties[node.id] = {**schema, "title": node.name, "description": param.help}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": shot.name,
        "type": "object",
        "properties": properties,
        "additionalProperties": False,
    }
