"""An operator of a shot swapped for another kind; what both have stays."""

from __future__ import annotations

from nimble_quake.conventions import Value
from nimble_quake.params.kinds import Choice, Param
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import found_node, kind_of
from nimble_quake.shot.refit import Kinds


def with_kind(shot: Shot, path: str, kind: str, kinds: Kinds) -> Shot:
    """Return the shot with a step swapped for another kind; values both kinds have stay."""
    role = kind_of(path)
    operator = kinds(role, kind)
    node = found_node(shot, path)
    old = kinds(role, node.kind)
    if operator is None:
        return shot
    kept = {
        name: value
        for name, value in node.values.items()
        if name in operator.declared
        and old is not None
        and name in old.declared
        and type(old.declared[name]) is type(operator.declared[name])
    }
    good = {name: value for name, value in kept.items() if _allowed(operator.declared[name], value)}
    return set_field(shot, path, kind=kind, values=good, version=operator.version)


def _allowed(param: Param, value: Value) -> bool:
    return not isinstance(param, Choice) or value in [option.value for option in param.options]
