"""`nimble-quake check SHOT`: say what is wrong with a shot."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from nimble_quake.cli.options import engine_of, shot_given
from nimble_quake.errors import NimbleQuakeError, ShotError
from nimble_quake.export.soundtrack import soundtrack_of
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.shown.bench import tolerant_job


def run(shot: Annotated[Path, typer.Argument(help="The shot (.nquake)")]) -> int:
    """Read a shot, try a few frames, list all that is wrong. Example: nimble-quake check opener.nquake"""
    try:
        notes: list[str] = []
        found = shot_given(shot, notes)
    except ShotError as wrong:
        for error in wrong.all or [wrong]:
            print(f"nimble-quake: {error.line()}", file=sys.stderr)
        return 2
    engine, lines = engine_of(shot), set(notes)
    for frame in sorted({0, found.length // 2, found.length - 1}):
        job = tolerant_job(engine, found, frame)
        try:
            frame_picture(job, min(1.0, 160 / found.width))
        except NimbleQuakeError as wrong:
            lines.add(wrong.line())
        lines |= {problem.line() for problem in job.problems.values()}
    lines |= {problem.line() for problem in soundtrack_of(engine, found, 0, found.length - 1)[1]}
    for line in sorted(lines):
        print(f"nimble-quake: {line}", file=sys.stderr)
    if lines:
        return 2
    size = f"{found.width} x {found.height}, {float(found.rate):g} fps, {found.length} frames"
    print(f"{shot}: good ({size}, {len(found.plates)} plates, {len(found.maps)} maps)")
    return 0
