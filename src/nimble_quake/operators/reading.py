"""What couplings share in reading a map: which one, which channel, where it rests, and where it is fixed."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field, Pixels, Value
from nimble_quake.operators.base import FITS, Context, MadeOf
from nimble_quake.operators.steps import Step
from nimble_quake.params.kinds import Choice, MapRef, Number, When, options
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.colour.clear import has_clear_for_good
from nimble_quake.raster.geometry.places import Places
from nimble_quake.raster.threads.extremes import ends_of
from nimble_quake.raster.threads.rows import in_bands

CHANNELS = options(
    value="Value: the grey of the map, or its own axis",
    red="Red",
    green="Green",
    blue="Blue",
    alpha="Alpha",
    luminance="Luminance: BT.709 of the values as given",
    lightness="Lightness",
    hue="Hue",
    saturation="Saturation",
    constant="Constant: white everywhere",
    none="None: not moved",
)
READING = "Reading the map"


def a_channel(label: str, help: str, **more: Value) -> Choice:
    """Which channel of the map is read."""
    return Choice(label=label, help=help, default="value", options=CHANNELS, **more)


class ReadsMap(Step):
    """Mixed into couplings that read a map."""

    map = MapRef(label="Map", help="The map that drives it")
    rest_by = Choice(
        label="Rest",
        help="Which map value moves nothing; the level below says where that is now",
        default="auto",
        section=READING,
        options=options(
            auto="Automatic: mid grey (0.5), or code 128 after an 8-bit picture; not the mean of the map",
            two="Two-sided: mid grey rests",
            one="One-sided: black rests",
            picked="Picked: the level below",
        ),
    )
    rest = Number(
        label="Rest level",
        help="The map value that leaves the picture where it is; changing it picks it",
        default=0.5,
        hard=(-4, 5),
        usual=(0, 1),
        decimals=3,
        sets=("rest_by", "picked"),
        section=READING,
    )
    white = Number(
        label="White level",
        help="The map value that counts as white; what is lighter goes farther",
        default=1.0,
        hard=(-4, 5),
        usual=(0, 1),
        decimals=3,
        section=READING,
    )
    clear = Choice(
        label="Clear parts",
        help="What transparent parts of the map count as",
        default="rest",
        section=READING,
        options=options(
            rest="Rest: they move nothing", black="Black", white="White", **{"as-is": "As is: their own colour"}
        ),
    )
    hook = Choice(
        label="Hook-up",
        help="Frame: things pass through the map. Plate: the map travels with it",
        default="frame",
        row=True,
        options=options(frame="Frame", plate="Plate"),
        section=READING,
    )
    fit = Choice(
        label="Map fit",
        help="How the map is laid over the plate",
        default="stretch",
        options=FITS,
        shown_when=When("hook", "plate"),
        section=READING,
    )

    def map_read(self) -> str:
        return self.map

    def rest_level(self, of_map: float) -> float:
        """Return the level that moves nothing; `of_map`: what the map itself rests at."""
        return {"auto": of_map, "two": 0.5, "one": 0.0}.get(self.rest_by, self.rest)

    def level_now(self, ctx: Context) -> float:
        """Return the level that moves nothing, with the map it reads."""
        return self.rest_level(ctx.reads.rest(self.map))

    def field_at(self, places: Places, ctx: Context, made: MadeOf | None = None) -> Field:
        """Return the map (H, W, C), or what is made of it, at the places that are looked at."""
        return ctx.reads.at(self.map, places, self.hook, self.fit, made)

    def reading_margin(self) -> Pixels:
        """Return how far round the frame it reads its map: what else is read of it there is cut from that."""
        return 0.0

    def levels(self, field: Field, name: str, axis: int, rest: float) -> NDArray[np.float32]:
        """Return a channel's values (H, W) as they count: clear parts as asked, 1 at the white level."""
        values = self.read_levels(field, name, axis, rest)
        return (
            values if self.white == 1 else np.float32(rest) + (values - np.float32(rest)) * np.float32(self.gain(rest))
        )

    def counted(self, level: float, rest: float) -> float:
        """Return what a map value counts as: itself at rest, 1 at the white level."""
        return level if self.white == 1 else rest + (level - rest) * self.gain(rest)

    def level_of(self, counted: float, rest: float) -> float:
        """Return the map value that counts as so much."""
        return counted if self.white == 1 else rest + (counted - rest) / self.gain(rest)

    def gain(self, rest: float) -> float:
        """Return by how much its white level stretches the map about rest."""
        return 1.0 if self.white == 1 else _no_less(1 - rest) / _no_less(self.white - rest)

    def read_levels(self, field: Field, name: str, axis: int, rest: float) -> NDArray[np.float32]:
        """Return a channel's values (H, W) as the map has them, clear parts counted as asked."""
        if name == "constant":
            return np.ones(field.shape[:2], np.float32)
        values = channel(field, name, axis)
        if self.clear != "as-is" and name != "alpha" and has_clear_for_good(field):
            ground = np.float32({"white": 1.0, "black": 0.0}.get(self.clear, rest))
            values = in_bands(lambda v, a: ground + (v - ground) * np.clip(a, 0, 1), values, field[..., 3])
        return values

    def extremes(self, name: str, axis: int, rest: float, ctx: Context) -> tuple[float, float]:
        """Return the least and the greatest value of a channel, clear parts counted as asked, over the frame."""

        def make() -> tuple[tuple[float, float], tuple[float, float]]:
            field = ctx.reads.whole(self.map)
            across = ends_of(self.levels(field, name, 0, rest))
            return across, ends_of(self.levels(field, name, 1, rest)) if field.shape[2] == 2 else across

        found: tuple[tuple[float, float], ...] = ctx.reads.remembered(
            self.map, ("ends", name, rest, self.clear, self.white), make
        )
        return found[axis]


def _no_less(span: float) -> float:
    """A span of map values that can be divided by."""
    return span if abs(span) > 1e-3 else 1e-3


class Weighted(ReadsMap):
    """Mixed into couplings that need no map: with one, its values say how strongly they act, 1 at white, 0 at rest."""

    map = MapRef(label="Map", help="A map that says how strongly it acts: wholly at white, not at all at rest")
    by = a_channel("Map channel", "The channel that says how strongly it acts", section=READING)
    rest_by = replace(ReadsMap.rest_by, default="one")

    def weights_at(self, places: Places, ctx: Context) -> NDArray[np.float32] | None:
        """Return how strongly it acts at places, (H, W); None: wholly everywhere."""
        if not self.map:
            return None
        rest = self.level_now(ctx)
        return self._weights(self.field_at(places, ctx), rest)

    def most_weight(self, ctx: Context) -> float:
        """Return the largest weight anywhere in the frame."""
        if not self.map:
            return 1.0
        found = self._weights(ctx.reads.whole(self.map), self.level_now(ctx))
        return float(np.abs(found).max(initial=0.0))

    def _weights(self, field: Field, rest: float) -> NDArray[np.float32]:
        return (self.levels(field, self.by, 0, rest) - np.float32(rest)) * np.float32(1 / _no_less(1 - rest))
