"""Live copies that differ: a shot in which some values are other ones, for as long as a copy is made."""

from __future__ import annotations

import msgspec

from nimble_quake.errors import NimbleQuakeError
from nimble_quake.motion.files import decoded_value
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Param
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Node, Shot
from nimble_quake.shot.paths import find, kind_of, value_name

Exceptions = tuple[tuple[str, str], ...]


def param_at(shot: Shot, path: str) -> Param | None:
    """Return the declaration of the value at a path; None where there is none."""
    node = find(shot, path)
    operator = registry().get(kind_of(path), node.kind) if isinstance(node, Node) else None
    return operator.declared.get(value_name(path)) if operator is not None else None


def with_exceptions(shot: Shot, exceptions: Exceptions) -> Shot:
    """Return the shot with these values in place of its own; what is not there, or makes no sense, is left out.

    exceptions: (path of a value, its value as a file holds it) each.
    """
    for path, text in exceptions:
        param = param_at(shot, path)
        if param is None:
            continue
        try:
            shot = set_value(shot, path, decoded_value(param, msgspec.json.decode(text)))
        except (NimbleQuakeError, ValueError):
            continue
    return shot
