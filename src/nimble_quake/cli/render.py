"""`nimble-quake render SHOT -o OUT`: render a range to a clip or numbered pictures."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Annotated

from nimble_quake.cli import outputs as take
from nimble_quake.cli.options import engine_of, in_folder, range_of, refuse_what_is_there, shot_given
from nimble_quake.cli.words import Argument, Option
from nimble_quake.errors import BadInput, one_of
from nimble_quake.export.encoders.y4m import PIPE
from nimble_quake.export.order import Order, refuse_impossible
from nimble_quake.export.outputs import file_beside, ordered
from nimble_quake.farm.where import Where
from nimble_quake.render.engine import Engine
from nimble_quake.session.queue.queue import Queue
from nimble_quake.session.storage import render_settings
from nimble_quake.shot.model import Shot


def run(
    shot: Annotated[Path, Argument("The shot (.nquake); - reads it from stdin")],
    out: Annotated[
        Path,
        Option("-o", "--out", help="name.mp4, .webm, .mkv, .gif; name_####.png, .exr, .tif for pictures; - for a pipe"),
    ],
    frames: take.FRAMES = "",
    every: take.EVERY = 1,
    size: take.SIZE = "100%",
    what: take.WHICH = "picture",
    deep: take.DEEP = False,
    kind: take.KIND = "",
    quality: take.QUALITY = "good",
    alpha: take.ALPHA = "",
    dither: take.DITHER = False,
    limit: take.LIMIT = False,
    overscan: take.OVERSCAN = 0,
    sound_rate: take.SOUND_RATE = 0,
    settings: Annotated[str, Option(help="All files of settings kept in the window, beside -o")] = "",
    queue: Annotated[bool, Option("--queue", help="Put it into the render queue and return")] = False,
    on: Annotated[
        str, Option(help="Let machines render it: tls://machine:8786 of their scheduler, or the file it wrote")
    ] = "",
    workers: Annotated[int, Option(help="Let so many processes here render it")] = 0,
    keys: Annotated[
        Path | None, Option(help="The folder of keys for tls, see farm-keys; left out, as dask is set up")
    ] = None,
    plain: Annotated[bool, Option("--plain", help="Allow a connection that others can read")] = False,
    threads: take.THREADS = 0,
    report: take.JSON = False,
    progress: take.PROGRESS = "",
    quiet: take.QUIET = False,
    no_clobber: take.NO_CLOBBER = False,
) -> int:
    """Render a shot. Example: nimble-quake render opener.nquake -o opener.mp4 --size 50%"""
    take.on_threads(threads)
    found = shot_given(shot)
    first, last = range_of(frames, found.length)
    where = Where(on, workers, keys.absolute() if keys else None, plain) if on or workers else None
    if settings:
        orders = _kept_orders(settings, found, out, first, last)
    else:
        written = take.Written(size, what, deep, kind, quality, alpha, dither, limit, overscan, sound_rate, every)
        orders = [written.order(found, out, first, last)]
    if where is not None and out == PIPE:
        raise BadInput("many machines do not write into a pipe", where="-o", cure="give a file's name")
    engine = engine_of(shot)
    for order in orders:
        if queue:
            _put_into_queue(order, shot, engine, where, no_clobber=no_clobber)
        else:
            take.write_range(order, engine, where, take.Saying(report, progress, quiet, no_clobber))
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


def _put_into_queue(order: Order, shot: Path, engine: Engine, where: Where | None, *, no_clobber: bool) -> None:
    """Put an order into the queue, and see that it is worked through."""
    if order.path == PIPE:
        raise BadInput("a pipe cannot wait in the queue", where="--queue", cure="give a file's name")
    if no_clobber:
        refuse_what_is_there(order)
    waiting = Queue()
    print(waiting.add(replace(order, path=order.path.absolute()), engine, shot.absolute(), where))
    waiting.start()
