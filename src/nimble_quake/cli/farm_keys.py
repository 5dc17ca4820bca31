"""`nimble-quake farm-keys FOLDER`: certificates for machines that render together."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

from nimble_quake.cli.words import Argument, Option
from nimble_quake.farm.keys import make_keys


def run(
    folder: Annotated[Path, Argument("Where the keys are put; copy it to each machine")],
    report: Annotated[bool, Option("--json", help="Say what was written as JSON, for programs")] = False,
) -> int:
    """Make a set of keys: who holds them is trusted with every machine. Example: nimble-quake farm-keys ~/farm"""
    files = [str(file) for file in make_keys(folder)]
    print(json.dumps({"files": files}) if report else "\n".join(files))
    return 0
