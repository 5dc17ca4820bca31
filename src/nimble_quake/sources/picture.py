"""A plate, or a file, as a map."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np

from nimble_quake.conventions import REST, REST_OF_8_BIT, Affine, Field, Picture, Seconds
from nimble_quake.errors import MediaError
from nimble_quake.media.flipbook import times_its_rate
from nimble_quake.media.source import MediaSource
from nimble_quake.operators.base import FITS, LAYER, Context
from nimble_quake.operators.steps import Source
from nimble_quake.params.kinds import Choice, MediaFile, Number, PlateRef, Toggle, options
from nimble_quake.raster.colour.channels import luminance
from nimble_quake.raster.colour.clear import has_clear_for_good, unweighted
from nimble_quake.raster.colour.light import to_linear
from nimble_quake.raster.finishes.rims import border_extended
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.fitting import fitted
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.raster.sampling.sample import averaged_over, fetch

MOST_AT_FULL_SIZE = 9_000_000
"""Shot pixels that are computed to be averaged for a preview; of more a preview is made from the file itself."""


def _at_full_size(grid: Grid, place: Affine) -> Grid:
    """The grid of the shot's pixels a preview stands for, where each is a mixture of the file's; else itself."""
    fits = all(abs(along - 1) < 1e-9 for along in affine.scales(place))
    width, height = (math.ceil(n / grid.scale) for n in (grid.width, grid.height))
    if fits or grid.scale >= 1 or width * height > MOST_AT_FULL_SIZE:
        return grid
    return Grid(grid.x0, grid.y0, width, height)


class PictureSource(Source):
    """Reads the finished picture of a plate, or a file, as map values."""

    title = "Picture"
    group = "Pictures"
    help = "A plate of this shot, a still or a clip as map"
    lively = {"plate": "title"}

    plate = PlateRef(
        label="Plate", help="The plate it reads, finished but without its effects", effects_by="with_quakes"
    )
    file = MediaFile(label="File", help="A still or clip to read where no plate is named", sort="media")
    layer = LAYER
    take = Choice(
        label="Take",
        help="What it keeps",
        default="grey",
        row=True,
        options=options(
            grey="Grey: its luminance (BT.709)", colour="Colour: all channels", alpha="Alpha: how much it covers"
        ),
    )
    fit = Choice(label="Fit", help="How a file of another size is laid into the frame", default="cover", options=FITS)
    with_quakes = Toggle(label="With effects", help="Reads the plate after its own effects")
    speed = Number(
        label="Speed",
        help="How fast it runs beside the shot, in % of its own rate",
        default=1.0,
        hard=(-100, 100),
        usual=(0, 2),
        unit="%",
        factor=100,
        decimals=0,
    )
    ends = Choice(
        label="Ends",
        help="What is read before a clip begins and after it ends",
        default="loop",
        row=True,
        options=options(loop="Loop", hold="Hold", mirror="There and back"),
    )
    offset = Number(
        label="Time shift",
        help="Reads a clip this much later",
        default=0.0,
        hard=(-36000, 36000),
        usual=(-5, 5),
        unit="s",
        decimals=2,
    )

    def make(self, grid: Grid, ctx: Context) -> Field:
        picture = self._picture(grid, ctx)
        if picture is None:
            return np.full((*grid.shape, 1), self.rest(ctx), np.float32)
        if self.take == "alpha":
            return np.ascontiguousarray(picture[..., -1:])
        if not has_clear_for_good(picture):
            return luminance(picture)[..., None] if self.take == "grey" else picture
        straight = unweighted(picture, 0.0)
        if self.take == "grey":
            straight[..., :3] = luminance(straight)[..., None]
        return straight

    def _picture(self, grid: Grid, ctx: Context) -> Picture | None:
        """The picture on a grid, its alpha last; beyond the frame, where it shows nothing, its border goes on."""
        picture = self._as_it_is(grid, ctx)
        frame = frame_grid(ctx.at.width, ctx.at.height, grid.scale)
        rows, columns = grid.inside(frame)
        within = rows.start >= 0 and columns.start >= 0 and rows.stop <= frame.height and columns.stop <= frame.width
        if picture is None or within:
            return picture
        covers = rows.start <= 0 and columns.start <= 0 and rows.stop >= frame.height and columns.stop >= frame.width
        if covers:
            return border_extended(picture, grid, (ctx.at.width, ctx.at.height))
        border = self._as_it_is(frame, ctx)
        if border is None:
            return picture
        down = np.clip(np.arange(rows.start, rows.stop), 0, frame.height - 1)
        across = np.clip(np.arange(columns.start, columns.stop), 0, frame.width - 1)
        out = picture.copy()
        for part in grid.beyond((ctx.at.width, ctx.at.height)):  # within the frame it is what it is
            there = part.inside(grid)
            out[there] += border[down[there[0]]][:, across[there[1]]] * (1 - picture[there][..., -1:])
        return out

    def _as_it_is(self, grid: Grid, ctx: Context) -> Picture | None:
        """Of a plate no more than what is taken of it."""
        if self.plate and self.take == "alpha":
            return ctx.services.plate_alpha(self.plate, grid, with_effects=self.with_quakes)
        if self.plate:
            return ctx.services.plate_picture(self.plate, grid, with_effects=self.with_quakes)[0]
        if not self.file:
            return None
        try:
            source = ctx.services.media.open(self.file, layer=self.layer)
            size = (float(source.width), float(source.height))
            place = fitted(self.fit, size, (ctx.at.width, ctx.at.height))
            now = ctx.at.seconds if ctx.services.media.moves(self.file) else 0.0
            times = times_its_rate(self.file, float(ctx.at.rate))
            seconds = self._seconds((now * self.speed + self.offset) * times, source.seconds)
            whole = _at_full_size(grid, place)
            laid = self._laid(source, seconds, place, whole)
        except MediaError as wrong:
            ctx.services.report_problem(wrong.line())
            return None
        if source.trouble:
            ctx.services.report_problem(f"in {Path(self.file).name}: {source.trouble}")
        smaller = None if whole is grid else averaged_over(laid, grid, whole.index_affine())
        return laid if smaller is None else smaller

    def _laid(self, source: MediaSource, seconds: Seconds, place: Affine, grid: Grid) -> Picture:
        """The file's picture on a grid; much larger ones are made smaller by halves as they are read."""
        size = (float(source.width), float(source.height))
        times = [max(along / grid.scale, 1.0) for along in affine.scales(place)]
        halves = [2.0 ** -max(0, math.floor(math.log2(time)) - 1) for time in times]
        picture = source.picture(seconds, *(math.ceil(n * half) for n, half in zip(size, halves, strict=True)))
        picture = to_linear(picture) if source.in_light else picture  # data are numbers as the file holds them
        height, width = picture.shape[:2]
        to_px = affine.compose(place, affine.stretch(width / size[0], height / size[1]))
        edge = "wrap" if self.fit == "tile" else "empty"
        smaller = averaged_over(picture, grid, to_px, edge)
        return fetch(picture, grid, to_px, edge=edge) if smaller is None else smaller

    def _seconds(self, at: float, length: float) -> float:
        """The clip's time at a time; stills have no length."""
        if length <= 0 or self.ends == "hold":
            return at
        turn, rest = divmod(at, length)
        return length - rest if self.ends == "mirror" and turn % 2 else rest

    def rest(self, ctx: Context) -> float:
        if self.plate or not self.file:
            return REST
        try:
            return REST_OF_8_BIT if ctx.services.media.open(self.file, layer=self.layer).bits8 else REST
        except MediaError:
            return REST
