"""`nimble-quake displace PICTURE MAP -o OUT`: push a picture by a map, without a shot file."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Annotated

from nimble_quake.cli import outputs as take
from nimble_quake.cli.options import range_of
from nimble_quake.cli.pipes import from_pipe
from nimble_quake.cli.words import Argument, Option
from nimble_quake.errors import BadInput
from nimble_quake.export.encoders.y4m import PIPE
from nimble_quake.export.formats import format_of
from nimble_quake.media.pool import MediaPool, sort_of
from nimble_quake.quakes.push import Push
from nimble_quake.render.engine import Engine
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.sources.picture import PictureSource


def run(
    picture: Annotated[Path, Argument("The still, SVG or clip that is pushed; - for a pipe")],
    map: Annotated[Path, Argument("The still or clip that pushes; - for a pipe")],
    out: Annotated[Path, Option("-o", "--out", help="The still (.png) or clip to write; - for a pipe")],
    reach: Annotated[float, Option(help="How far white pushes, in px")],
    reach_y: Annotated[float | None, Option(help="Down reach in px; left out, as --reach")] = None,
    x_from: Annotated[str, Option(help="The channel that moves it across")] = "red",
    y_from: Annotated[str, Option(help="The channel that moves it down")] = "green",
    rest: Annotated[float | None, Option(help="The map value that moves nothing; left out, automatic")] = None,
    edge: Annotated[str, Option(help="empty, hold, wrap or mirror")] = "empty",
    fit: Annotated[str, Option(help="contain, cover, stretch, centre or tile")] = "stretch",
    filter: Annotated[str, Option(help="nearest, linear or cubic")] = "linear",
    transparent: Annotated[str, Option(help="Clear parts of the map: rest, black, white or as-is")] = "rest",
    frames: take.FRAMES = "",
    every: take.EVERY = 1,
    size: take.SIZE = "100%",
    deep: take.DEEP = False,
    kind: take.KIND = "",
    quality: take.QUALITY = "good",
    alpha: take.ALPHA = "",
    dither: take.DITHER = False,
    limit: take.LIMIT = False,
    overscan: take.OVERSCAN = 0,
    sound_rate: take.SOUND_RATE = 0,
    threads: take.THREADS = 0,
    report: take.JSON = False,
    progress: take.PROGRESS = "",
    quiet: take.QUIET = False,
    no_clobber: take.NO_CLOBBER = False,
) -> int:
    """Push a picture by a map. Example: nimble-quake displace sign.png noise.png -o out.png --reach 40 --edge hold"""
    take.on_threads(threads)
    numbers = {"reach_x": reach, "reach_y": reach if reach_y is None else reach_y, "edge": edge, "filter": filter}
    words = {"x_from": x_from, "y_from": y_from, "clear": transparent, "rest_by": "auto" if rest is None else "picked"}
    values = {"map": "map", **numbers, **words, "rest": 0.5 if rest is None else rest}
    for name, value in values.items():
        try:
            values[name] = Push.declared[name].check(value)
        except BadInput as wrong:
            raise BadInput(wrong.what, where=f"--{name.replace('_', '-')}", cure=wrong.cure) from wrong
    if picture == map == PIPE:
        raise BadInput("only one of them can come through the pipe", where="-", cure="give a file for the other")
    shot = _shot(from_pipe(picture), from_pipe(map), values, PictureSource.fit.check(fit))
    written = take.Written(size, "picture", deep, kind, quality, alpha, dither, limit, overscan, sound_rate, every)
    saying = take.Saying(report, progress, quiet, no_clobber)
    if shot.length == 1 and (out == PIPE or format_of(out).sequence):
        take.write_frame(written.order(shot, out, 0, 0, still=True), Engine(), saying, strict=True)
    else:
        first, last = range_of(frames, shot.length)
        take.write_range(written.order(shot, out, first, last), None, None, saying)
    return 0


def _shot(picture: Path, map: Path, values: dict[str, object], fit: str) -> Shot:
    """The shot that does it: as large and as long as the picture."""
    pool = MediaPool()
    source, driver = pool.open(str(picture)), pool.open(str(map))
    sort = sort_of(str(picture))
    lasting = source if source.seconds else driver
    rate = (lasting.rate or Fraction(25)).limit_denominator(100_000)
    length = max(1, round(lasting.seconds * rate)) if lasting.seconds else 1
    step = Node(id="file", kind="picture", values={"file": str(map), "take": "colour", "fit": fit})
    plate = Plate(
        id="picture",
        kind=sort,
        values={"file": str(picture), "fit": "centre"},
        effects=(Node(id="push", kind="push", values=values),),
    )
    return Shot(
        width=source.width,
        height=source.height,
        rate=rate,
        length=length,
        ground=(0.0, 0.0, 0.0, 0.0),
        plates=(plate,),
        maps=(Map(id="map", name=map.stem, recipe=(step,)),),
    )
