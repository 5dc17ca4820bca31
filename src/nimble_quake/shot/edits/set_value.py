"""Set a value of an operator."""

from __future__ import annotations

from typing import Any

import msgspec

from nimble_quake.conventions import Value
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import value_name, with_node


def set_value(shot: Shot, path: str, value: Value) -> Shot:
    """Set the value at a path; None goes back to the default."""
    name = value_name(path)

    def change(node: Any) -> Any:
        values = {key: kept for key, kept in node.values.items() if key != name}
        if value is not None:
            values[name] = value
        return msgspec.structs.replace(node, values=values)

    return with_node(shot, path, change)


def set_field(shot: Shot, path: str, **fields: Value) -> Shot:
    """Set fields of the plate, map, quake or step at a path (name, on, start, end, kind, ...)."""
    return with_node(shot, path, lambda node: msgspec.structs.replace(node, **fields))
