"""`nimble-quake check SHOT`: say what is wrong with a shot."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Annotated

from nimble_quake.cli.options import engine_of, shot_given
from nimble_quake.cli.words import Argument, Option
from nimble_quake.conventions import Json
from nimble_quake.errors import NimbleQuakeError, ShotError
from nimble_quake.export.soundtrack import soundtrack_of
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.shown.bench import tolerant_job
from nimble_quake.shot.model import Shot


def run(
    shot: Annotated[Path, Argument("The shot (.nquake); - reads it from stdin")],
    report: Annotated[bool, Option("--json", help="Say what was found as JSON, for programs")] = False,
) -> int:
    """Read a shot, try a few frames, list all that is wrong. Example: nimble-quake check opener.nquake"""
    notes: list[str] = []
    found: Shot | None = None
    try:
        found = opened = shot_given(shot, notes)
        lines = sorted({*notes, *_wrong_with(opened, engine_of(shot))})
    except ShotError as wrong:
        lines = [error.line() for error in wrong.all or [wrong]]
    if report:
        measures = {} if found is None else _measures(found)
        print(json.dumps({"good": not lines, "problems": lines, **measures}))
    else:
        for line in lines:
            print(f"nimble-quake: {line}", file=sys.stderr)
    if lines or found is None:
        return 2
    if not report:
        size = f"{found.width} x {found.height}, {float(found.rate):g} fps, {found.length} frames"
        print(f"{shot}: good ({size}, {len(found.plates)} plates, {len(found.maps)} maps)")
    return 0


def _wrong_with(shot: Shot, engine: Engine) -> set[str]:
    """What is wrong with a shot that can be read, tried at three frames, small."""
    lines = set[str]()
    for frame in sorted({0, shot.length // 2, shot.length - 1}):
        job = tolerant_job(engine, shot, frame)
        try:
            frame_picture(job, min(1.0, 160 / shot.width))
        except NimbleQuakeError as wrong:
            lines.add(wrong.line())
        lines |= {problem.line() for problem in job.problems.values()}
    return lines | {problem.line() for problem in soundtrack_of(engine, shot, 0, shot.length - 1)[1]}


def _measures(shot: Shot) -> dict[str, Json]:
    measures: dict[str, Json] = {"width": shot.width, "height": shot.height, "rate": str(shot.rate)}
    return measures | {"frames": shot.length, "plates": len(shot.plates), "maps": len(shot.maps)}
