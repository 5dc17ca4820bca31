"""`nimble-quake slots STARTER`: what of a starter can be filled and turned."""

from __future__ import annotations

import json
from typing import Annotated

from nimble_quake.cli.words import Argument, Option
from nimble_quake.conventions import Value
from nimble_quake.session.fronts.described import front_described, front_schema
from nimble_quake.session.starting.finding import find_starter


def run(
    starter: Annotated[str, Argument("A starter's name, or its file: see nimble-quake list starter")],
    json_: Annotated[bool, Option("--json", help="For programs")] = False,
    schema: Annotated[bool, Option("--schema", help="The JSON Schema of what fills it")] = False,
) -> int:
    """List what of a starter can be filled and turned. Example: nimble-quake slots shockwave"""
    shot = find_starter(starter).shot
    if schema:
        print(json.dumps(front_schema(shot), indent=1))
        return 0
    found = front_described(shot)
    if json_:
        print(json.dumps(found, indent=1))
        return 0
    print(
        f"{shot.name}: {shot.width} x {shot.height}, {float(shot.rate):.5g} fps, {shot.length / float(shot.rate):g} s"
    )
    for entry in found:
        print(f"    {entry['name']:18} {_line(entry)}")
    if not found:
        print("    nothing is at its front")
    return 0


def _line(entry: dict[str, Value]) -> str:
    said = f"{entry['is']}, {entry['sort']}"
    if "range" in entry:
        factor = 100 if entry["unit"] == "%" else 1
        low, high = (each * factor for each in entry["range"])
        now = entry["now"] * factor if isinstance(entry["now"], int | float) else entry["now"]
        said += f" {now if isinstance(now, str) else f'{now:g}'}{entry['unit']} [{low:g} to {high:g}]"
    elif "choices" in entry:
        said += f" {entry['now']} [{' | '.join(entry['choices'])}]"
    elif entry["now"] not in (None, ""):
        said += f" {json.dumps(entry['now'], ensure_ascii=False)}"
    return f"{said}  {entry['help']}"
