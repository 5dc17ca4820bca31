"""`nimble-quake list [KIND]`: the operators and their parameters."""

from __future__ import annotations

import json
from typing import Annotated

from nimble_quake.cli.words import Argument, Option
from nimble_quake.declared.described import described, described_param
from nimble_quake.errors import BadInput, one_of
from nimble_quake.operators.registry import FAMILIES, registry
from nimble_quake.params.kinds import Param
from nimble_quake.session.starting.finding import all_starters


def run(
    kind: Annotated[str, Argument("source, shaper, quake, finish, plate, starter, or one operator's name")] = "",
    json_: Annotated[bool, Option("--json", help="For programs")] = False,
) -> int:
    """List what there is. Example: nimble-quake list noise, nimble-quake list starter"""
    if kind == "starter":
        return _list_starters(json_)
    found = [op for op in registry().all() if kind in ("", op.family, op.kind)]
    if not found:
        there = [*FAMILIES, *(op.kind for op in registry().all())]
        raise BadInput(f'there is no "{kind}"', cure=one_of(there, kind))
    if json_:
        print(json.dumps([described(op, op.family) for op in found], indent=1))
        return 0
    for op in found:
        print(f"{op.family} {op.kind}: {op.help}")
        for name, param in op.declared.items():
            print(f"    {name:16} {_line(param)}")
    return 0


def _list_starters(json_: bool) -> int:
    found = all_starters()
    if json_:
        print(
            json.dumps([{"name": s.name, "title": s.title, "group": s.sort, "does": s.note} for s in found], indent=1)
        )
        return 0
    for starter in found:
        print(f"{starter.name:22} {starter.sort:8} {starter.title}: {starter.note}")
    return 0


def _line(param: Param) -> str:
    entry = described_param(param)
    low, high = (each * param.factor for each in entry.get("limits", (0, 0)))
    limits = f" [{low:g} to {high:g}]" if "limits" in entry else ""
    choices = f" [{' | '.join(entry['choices'])}]" if "choices" in entry else ""
    unit = f" {entry['unit']}" if entry.get("unit") else ""
    return f"{_as_shown(param, entry['default'])}{unit}{limits}{choices}  {param.help}"


def _as_shown(param: Param, default: object) -> str:
    """A default as the window shows it: a fraction in per cent."""
    if param.factor == 1:
        return str(default)
    if isinstance(default, list):
        return str([round(float(each) * param.factor, 6) for each in default])
    return f"{float(str(default)) * param.factor:g}"
