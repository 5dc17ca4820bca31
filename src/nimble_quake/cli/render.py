"""`nimble-quake render SHOT -o OUT`: render a range to a clip or numbered pictures."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path
from typing import Annotated

import typer

from nimble_quake.cli.options import (
    engine_of,
    in_folder,
    range_of,
    refuse_what_is_there,
    render_shown,
    shot_given,
    size_of,
)
from nimble_quake.cli.progress import HELP
from nimble_quake.errors import BadInput, one_of
from nimble_quake.export.data import WHAT
from nimble_quake.export.encoders.y4m import PIPE
from nimble_quake.export.formats import format_named, format_of
from nimble_quake.export.order import Order, refuse_impossible
from nimble_quake.export.outputs import file_beside, ordered
from nimble_quake.farm.where import Where
from nimble_quake.session.queue.queue import Queue
from nimble_quake.session.storage import render_settings
from nimble_quake.shot.model import Shot


def run(
    shot: Annotated[Path, typer.Argument(help="The shot (.nquake); - reads it from stdin")],
    out: Annotated[
        Path,
        typer.Option(
            "-o", "--out", help="name.mp4, .webm, .mkv, .gif; name_####.png, .exr, .tif for pictures; - for a pipe"
        ),
    ],
    frames: Annotated[str, typer.Option(help="First and last frame, such as 0-47")] = "",
    every: Annotated[int, typer.Option(help="Render the first of so many frames only")] = 1,
    size: Annotated[str, typer.Option(help="Share of the shot's size, such as 50%")] = "100%",
    what: Annotated[str, typer.Option(help=WHAT)] = "picture",
    deep: Annotated[bool, typer.Option("--deep", help="PNG with 16 bits a channel")] = False,
    kind: Annotated[
        str, typer.Option("--format", help="The kind of file where its ending has several: ffv1-16, exr-float …")
    ] = "",
    quality: Annotated[str, typer.Option(help="best, good or small, where the format can choose")] = "good",
    alpha: Annotated[str, typer.Option(help="straight or premultiplied; left out, as the format has it")] = "",
    dither: Annotated[bool, typer.Option("--dither", help="Soften the steps of soft gradients in 8 bits")] = False,
    limit: Annotated[bool, typer.Option("--limit", help="Keep colours within broadcast limits, 16-235")] = False,
    overscan: Annotated[int, typer.Option(help="Pixels beyond the frame on every side, in OpenEXR")] = 0,
    sound_rate: Annotated[int, typer.Option(help="Samples a second of its sound, such as 48000")] = 0,
    settings: Annotated[str, typer.Option(help="All files of settings kept in the window, beside -o")] = "",
    queue: Annotated[bool, typer.Option("--queue", help="Put it into the render queue and return")] = False,
    on: Annotated[
        str, typer.Option(help="Let machines render it: tls://machine:8786 of their scheduler, or the file it wrote")
    ] = "",
    workers: Annotated[int, typer.Option(help="Let so many processes here render it")] = 0,
    keys: Annotated[
        Path | None, typer.Option(help="The folder of keys for tls, see farm-keys; left out, as dask is set up")
    ] = None,
    plain: Annotated[bool, typer.Option("--plain", help="Allow a connection that others can read")] = False,
    report: Annotated[bool, typer.Option("--json", help="Say what was written as JSON, for programs")] = False,
    progress: Annotated[str, typer.Option(help=HELP)] = "",
    quiet: Annotated[bool, typer.Option("-q", "--quiet", help="Say nothing but what goes wrong")] = False,
    no_clobber: Annotated[bool, typer.Option("--no-clobber", help="Refuse to write over a file")] = False,
) -> int:
    """Render a shot. Example: nimble-quake render opener.nquake -o opener.mp4 --size 50%"""
    found = shot_given(shot)
    first, last = range_of(frames, found.length)
    where = Where(on, workers, keys.absolute() if keys else None, plain) if on or workers else None
    shown = progress or ("none" if quiet else "")
    if settings:
        orders = _kept_orders(settings, found, out, first, last)
        return max(_one(order, shot, where, shown, (queue, report, quiet, no_clobber)) for order in orders)
    format = format_named("y4m") if out == PIPE else format_of(in_folder(out), deep=deep, key=kind)
    qualities = {name.lower(): number for name, number in format.qualities}
    if qualities and quality.lower() not in qualities:
        raise BadInput(f'"{quality}" is no quality', where="--quality", cure="use best, good or small")
    order = Order(
        found,
        out,
        first,
        last,
        size_of(size),
        what,
        format,
        qualities.get(quality.lower()),
        every,
        alpha,
        dither,
        limit,
        overscan,
        sound_rate,
    )
    return _one(order, shot, where, shown, (queue, report, quiet, no_clobber))


Ways = tuple[bool, bool, bool, bool]
"""Into the queue; said as JSON; said not at all; nothing written over."""


def _one(order: Order, shot: Path, where: Where | None, shown: str, ways: Ways) -> int:
    """Render an order, or put it into the queue, and say what was written."""
    queue, report, quiet, no_clobber = ways
    if no_clobber and order.path != PIPE:
        refuse_what_is_there(order)
    if where is not None and order.path == PIPE:
        raise BadInput("many machines do not write into a pipe", where="-o", cure="give a file's name")
    if queue:
        return _queued(order, shot, where)
    done = render_shown(order, engine_of(shot), where, shown)
    files = done.files
    if order.path == PIPE or (quiet and not report):
        return 0
    if report:
        said = {
            "files": [str(file) for file in files],
            "frames": len(order.frames()),
            "format": order.kind.key,
            "problems": [problem.line() for problem in done.problems],
        }
        print(json.dumps(said))
        return 0
    print(files[0] if len(files) == 1 else f"{files[0]} ... {files[-1].name} ({len(files)} pictures)")
    return 0


def _kept_orders(name: str, shot: Shot, out: Path, first: int, last: int) -> list[Order]:
    """What was kept under a name, each to a file beside `out`. Raises BadInput."""
    kept = render_settings.settings()
    if name not in kept or not name:
        known = [each for each in kept if each]
        cure = one_of(known, name) if known else "keep some in the render dialog first"
        raise BadInput(f'there are no settings "{name[:60]}"', where="--settings", cure=cure)
    taken, orders = set[Path](), []
    for output in reversed(kept[name]):  # the one that was asked for last has the name itself
        path = file_beside(in_folder(out), output, taken)
        taken.add(path)
        orders.append(ordered(output, shot, path, first, last))
    for order in orders:
        refuse_impossible(order)
    return orders


def _queued(order: Order, shot: Path, where: Where | None) -> int:
    """Put an order into the queue, and see that it is worked through."""
    if order.path == PIPE:
        raise BadInput("a pipe cannot wait in the queue", where="--queue", cure="give a file's name")
    waiting = Queue()
    print(waiting.add(replace(order, path=order.path.absolute()), engine_of(shot), shot.absolute(), where))
    waiting.start()
    return 0
