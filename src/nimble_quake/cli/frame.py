"""`nimble-quake frame SHOT N -o OUT.png`: render one frame."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from nimble_quake.cli.options import engine_of, in_folder, size_of
from nimble_quake.errors import BadInput
from nimble_quake.export.formats import FORMATS
from nimble_quake.export.rendering import picture_of
from nimble_quake.export.writers import SequenceWriter
from nimble_quake.shotfile.files import read_shot


def run(
    shot: Annotated[Path, typer.Argument(help="The shot (.nquake)")],
    number: Annotated[int, typer.Argument(help="The frame, from 0")],
    out: Annotated[Path, typer.Option("-o", "--out", help="The picture to write (.png)")],
    what: Annotated[str, typer.Option(help="picture, or map:NAME")] = "picture",
    size: Annotated[str, typer.Option(help="Share of the shot's size, such as 50%")] = "100%",
    deep: Annotated[bool, typer.Option("--deep", help="16 bits a channel")] = False,
) -> int:
    """Render one frame. Example: nimble-quake frame opener.nquake 74 -o still.png --what map:heat"""
    found = read_shot(shot)
    if not 0 <= number < found.length:
        raise BadInput(f"frame {number} is not in the shot", cure=f"it has frames 0-{found.length - 1}")
    if out.suffix.lower() != ".png":
        raise BadInput("a frame is written as PNG", where=str(out), cure="end its name in .png")
    picture, problems = picture_of(engine_of(shot), found, number, size_of(size), what)
    for problem in problems:
        typer.echo(f"note: {problem.line()}", err=True)
    writer = SequenceWriter(in_folder(out), FORMATS[4 if deep else 3], single=True)
    writer.write(number, picture)
    print(writer.finish()[0])
    return 0
