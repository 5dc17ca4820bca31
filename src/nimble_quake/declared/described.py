"""Operators and their values as plain data, as the command line and scripts are told of them."""

from __future__ import annotations

from nimble_quake.conventions import Values
from nimble_quake.declared.declared import Declared
from nimble_quake.params.kinds import Choice, Number, Pairs, Param


def described(op: type[Declared], family: str) -> dict[str, object]:
    """Return an operator's declaration as plain data."""
    return {
        "family": family,
        "kind": op.kind,
        "title": op.title,
        "version": op.version,
        "help": op.help,
        "parameters": [described_param(param) for param in op.declared.values()],
    }


def described_param(param: Param) -> Values:
    """Return a parameter's declaration as plain data."""
    entry: Values = {"name": param.name, "kind": param.kind, "label": param.label}
    entry["default"] = param.encode(param.default)
    if isinstance(param, Number):
        entry |= {"unit": param.unit, "limits": list(param.hard), "usual": list(param.usual)}
        if param.factor != 1:
            entry["shown_times"] = param.factor
    elif isinstance(param, Pairs):
        entry |= {"unit": param.unit, "limits": list(param.hard)}
    elif isinstance(param, Choice):
        entry["choices"] = [option.value for option in param.options]
    entry["moves"] = param.animatable
    return entry | {"help": param.help}
