"""Gradient."""

from __future__ import annotations

from nimble_quake.motion.kinds import Formula
from nimble_quake.operators.base import Context
from nimble_quake.operators.steps import Made, Source
from nimble_quake.params.kinds import Choice, Place, Stop, Stops, Toggle, options
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.shapes.gradient import along, colour_at, grey_at

WHITE, GREY, BLACK = (1.0,) * 4, (0.5, 0.5, 0.5, 1.0), (0.0, 0.0, 0.0, 1.0)


COLUMNS = (Stop(0.0, WHITE), Stop(0.3, BLACK), Stop(0.6, WHITE), Stop(1.0, BLACK))


class Gradient(Source):
    """A gradient between stops: white left, mid grey, black right pushes the two halves apart."""

    title = "Gradient"
    group = "Soft"
    rank = 10
    looks = (
        ("Lens", "Round, from a bright middle", {"shape": "radial", "start": (0.5, 0.5), "end": (0.5, 0.0)}),
        ("Turn", "Round a centre, as a clock's hand", {"shape": "conic", "start": (0.5, 0.5)}),
        ("Columns", "Four columns, soft", {"stops": COLUMNS, "even": True}),
    )
    meant_to_clip = True
    help = "Even slopes between stops: fades, sweeps, lens-like swells"
    lively = {"start": Formula("-400 + 500 * sin(t * 2), 360"), "end": Formula("1280 + 500 * sin(t * 2), 360")}

    shape = Choice(
        label="Shape",
        help="How it spreads",
        default="linear",
        row=True,
        options=options(linear="Linear", mirrored="Mirrored: to both sides", radial="Radial", conic="Conic"),
    )
    stops = Stops(
        label="Stops",
        help="Values along it, with midpoints between",
        default=(Stop(0.0, WHITE), Stop(0.5, GREY), Stop(1.0, BLACK)),
    )
    start = Place(label="Start", help="Where it begins; the centre when radial or conic", default=(0.0, 0.5))
    end = Place(label="End", help="Where it ends; the bearing of its seam when conic", default=(1.0, 0.5))
    repeat = Toggle(label="Repeat", help="Begins again beyond its end")
    even = Toggle(label="Evenly", help="Spreads the stops evenly from start to end, whatever their places")
    colour = Toggle(label="Colour", help="Keeps the stops' colours instead of their grey")

    def goes_round(self) -> bool:
        return self.shape in ("radial", "conic")

    def make(self, grid: Grid, ctx: Context) -> Made:
        t = along(grid, self.shape, self.start, self.end, repeats=self.repeat)
        stops = spread_evenly(self.stops) if self.even else self.stops
        if self.colour:
            return colour_at(stops, t)
        grey, alpha = grey_at(stops, t)
        return grey if alpha.size == 1 else (grey, alpha)

    @classmethod
    def handles(cls) -> tuple[tuple[str, str], ...]:
        return (("start", "end"),)


def spread_evenly(stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
    """Return the stops at even distances: four lie at 0, 1/3, 2/3 and 1."""
    last = max(1, len(stops) - 1)
    return tuple(Stop(n / last, stop.colour, stop.mid) for n, stop in enumerate(stops))
