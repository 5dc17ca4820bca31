"""`nimble-quake frame SHOT N -o OUT.png`: render one frame."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from nimble_quake.cli import outputs as take
from nimble_quake.cli.options import engine_of, shot_given
from nimble_quake.cli.words import Argument, Option
from nimble_quake.errors import BadInput

OUT = "The picture to write: .png, .tif, .exr, .webp, .jpg; - for PNG into a pipe"


def run(
    shot: Annotated[Path, Argument("The shot (.nquake); - reads it from stdin")],
    number: Annotated[int, Argument("The frame, from 0")],
    out: Annotated[Path, Option("-o", "--out", help=OUT)],
    size: take.SIZE = "100%",
    what: take.WHICH = "picture",
    deep: take.DEEP = False,
    kind: take.KIND = "",
    quality: take.QUALITY = "good",
    alpha: take.ALPHA = "",
    dither: take.DITHER = False,
    limit: take.LIMIT = False,
    overscan: take.OVERSCAN = 0,
    threads: take.THREADS = 0,
    report: take.JSON = False,
    progress: take.PROGRESS = "",
    quiet: take.QUIET = False,
    no_clobber: take.NO_CLOBBER = False,
) -> int:
    """Render one frame. Example: nimble-quake frame opener.nquake 74 -o still.png --what map:heat"""
    take.on_threads(threads)
    found = shot_given(shot)
    if not 0 <= number < found.length:
        raise BadInput(f"frame {number} is not in the shot", cure=f"it has frames 0-{found.length - 1}")
    written = take.Written(size, what, deep, kind, quality, alpha, dither, limit, overscan)
    order = written.order(found, out, number, number, still=True)
    take.write_frame(order, engine_of(shot), take.Saying(report, progress, quiet, no_clobber))
    return 0
