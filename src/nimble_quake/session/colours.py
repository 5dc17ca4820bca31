"""The colours a shot uses, to be used again."""

from __future__ import annotations

from nimble_quake.conventions import Value
from nimble_quake.motion.kinds import keys_of
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Colour, Rgba, Stops
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import all_nodes, kind_of


def colours_of(shot: Shot) -> list[Rgba]:
    """Return the colours of a shot, each once, in the order they are met; the ground's last."""
    found: list[Rgba] = []
    for path, node in all_nodes(shot):
        family = kind_of(path)
        operator = registry().get(family, node.kind)
        for name, param in operator.declared.items() if operator else ():
            if name in node.values and isinstance(param, Colour | Stops):
                found += _of_value(node.values[name])
    return list(dict.fromkeys([*found, shot.ground]))


def _of_value(value: Value) -> list[Rgba]:
    """The colours in a still colour, its keys, or stops."""
    keys = keys_of(value)
    if keys is not None:
        return [colour for key in keys.keys for colour in _of_value(key.value)]
    if isinstance(value, tuple) and value and all(isinstance(part, float) for part in value):
        return [value] if len(value) == 4 else []
    return [part.colour for part in value if hasattr(part, "colour")] if isinstance(value, tuple) else []
