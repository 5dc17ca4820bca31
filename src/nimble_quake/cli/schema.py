"""`nimble-quake schema`: the JSON Schema of shot files."""

from __future__ import annotations

import json

from nimble_quake.shotfile import schema as shot_schema


def run() -> int:
    """Print the JSON Schema of shot files. Example: nimble-quake schema > nquake.schema.json"""
    print(json.dumps(shot_schema.schema(), indent=1))
    return 0
