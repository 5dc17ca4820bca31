"""`nimble-quake frame SHOT N -o OUT.png`: render one frame."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from nimble_quake.cli.options import engine_of, in_folder, shot_given, size_of
from nimble_quake.cli.pipes import into_pipe
from nimble_quake.cli.progress import progress_shown
from nimble_quake.errors import BadInput
from nimble_quake.export.data import WHAT
from nimble_quake.export.encoders.stills import write_still
from nimble_quake.export.encoders.y4m import PIPE
from nimble_quake.export.formats import format_named, format_of, formats
from nimble_quake.export.order import Order, frame_for, refuse_impossible

OUT = "The picture to write: .png, .tif, .exr, .webp, .jpg; - for PNG into a pipe"


def run(
    shot: Annotated[Path, typer.Argument(help="The shot (.nquake)")],
    number: Annotated[int, typer.Argument(help="The frame, from 0")],
    out: Annotated[Path, typer.Option("-o", "--out", help=OUT)],
    what: Annotated[str, typer.Option(help=WHAT)] = "picture",
    size: Annotated[str, typer.Option(help="Share of the shot's size, such as 50%")] = "100%",
    deep: Annotated[bool, typer.Option("--deep", help="16 bits a channel")] = False,
    format: Annotated[str, typer.Option(help="The kind of file where its ending has several, such as exr-float")] = "",
    quiet: Annotated[bool, typer.Option("-q", "--quiet", help="Say nothing but what goes wrong")] = False,
    no_clobber: Annotated[bool, typer.Option("--no-clobber", help="Refuse to write over a file")] = False,
) -> int:
    """Render one frame. Example: nimble-quake frame opener.nquake 74 -o still.png --what map:heat"""
    found = shot_given(shot)
    if not 0 <= number < found.length:
        raise BadInput(f"frame {number} is not in the shot", cure=f"it has frames 0-{found.length - 1}")
    chosen = (
        format_named("png16" if deep else format or "png")
        if out == PIPE
        else format_of(in_folder(out), deep=deep, key=format)
    )
    if not chosen.sequence:
        stills = [one for one in formats() if one.sequence and one.ends(out)]
        if not stills:
            raise BadInput("a frame is written as a picture", where=str(out), cure="end its name in .png, .exr or .tif")
        chosen = stills[0]
    engine = engine_of(shot)
    order = Order(found, out, number, number, size_of(size), what, chosen)
    refuse_impossible(order)
    if no_clobber and out != PIPE and out.exists():
        raise BadInput(f"{out.name} is there already", where="--no-clobber", cure="give another name")
    with progress_shown("none" if quiet else ""):
        picture, problems = frame_for(engine, order, number)
    for problem in problems:
        typer.echo(f"note: {problem.line()}", err=True)
    if out == PIPE:
        into_pipe(order.target(), picture)
    else:
        written = write_still(order.target(), picture)
        if not quiet:
            print(written)
    return 0
