"""`nimble-quake collect SHOT -o FOLDER`: a shot with all its media in one folder or zip."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Annotated

from nimble_quake.cli.options import shot_given
from nimble_quake.cli.words import Argument, Option
from nimble_quake.session.verbs.collecting import needed_by
from nimble_quake.shotfile.collected import collect


def run(
    shot: Annotated[Path, Argument("The shot (.nquake)")],
    out: Annotated[Path, Option("-o", "--out", help="A new folder, or a .zip")],
    report: Annotated[bool, Option("--json", help="Say what was copied as JSON, for programs")] = False,
    quiet: Annotated[bool, Option("-q", "--quiet", help="Say nothing but what goes wrong")] = False,
) -> int:
    """Copy a shot with all its media into a folder or zip. Example: nimble-quake collect opener.nquake -o opener.zip"""
    what = needed_by(shot_given(shot), shot)
    made = collect(what, out.absolute())
    if report:
        print(json.dumps({"made": str(made), "files": [name for name, _ in what.files], "missing": what.missing}))
    elif not quiet:
        print(f"{out}: {len(what.files)} files, {what.size / 1e6:.1f} MB")
    for file in what.missing:
        print(f"nimble-quake: {file}: is not there", file=sys.stderr)
    return 1 if what.missing else 0
