"""`nimble-quake render SHOT -o OUT`: render a range to a clip or numbered pictures."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from nimble_quake.cli.options import engine_of, in_folder, range_of, render_shown, size_of
from nimble_quake.errors import BadInput
from nimble_quake.export.formats import format_of
from nimble_quake.export.rendering import Order
from nimble_quake.shotfile.files import read_shot


def run(
    shot: Annotated[Path, typer.Argument(help="The shot (.nquake)")],
    out: Annotated[Path, typer.Option("-o", "--out", help="name.mp4, .webm, .mkv, or name_####.png for pictures")],
    frames: Annotated[str, typer.Option(help="First and last frame, such as 0-47")] = "",
    size: Annotated[str, typer.Option(help="Share of the shot's size, such as 50%")] = "100%",
    what: Annotated[str, typer.Option(help="picture, or map:NAME")] = "picture",
    deep: Annotated[bool, typer.Option("--deep", help="PNG with 16 bits a channel")] = False,
    quality: Annotated[str, typer.Option(help="best, good or small, where the format can choose")] = "good",
) -> int:
    """Render a shot. Example: nimble-quake render opener.nquake -o opener.mp4 --size 50%"""
    found = read_shot(shot)
    first, last = range_of(frames, found.length)
    format = format_of(in_folder(out), deep=deep)
    qualities = {name.lower(): number for name, number in format.qualities}
    if qualities and quality.lower() not in qualities:
        raise BadInput(f'"{quality}" is no quality', where="--quality", cure="use best, good or small")
    order = Order(found, out, first, last, size_of(size), what, format, qualities.get(quality.lower()))
    files = render_shown(order, engine_of(shot)).files
    print(files[0] if len(files) == 1 else f"{files[0]} ... {files[-1].name} ({len(files)} pictures)")
    return 0
