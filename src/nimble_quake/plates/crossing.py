"""Crossing."""

from __future__ import annotations

import cv2
import numpy as np

from nimble_quake.conventions import Field, Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.params.kinds import Choice, Colour, MapRef, Number, PlateRef, Toggle, When, options
from nimble_quake.raster.geometry.grid import Grid

EASES = options(
    straight="Straight: evenly",
    eased="Eased: slow at both ends",
    late="Late: slowly, then fast",
    early="Early: fast, then slowly",
)
THROUGH = "Through"
BY_MAP = "By a map"
"""Sections of its settings."""


class Crossing(PlateKind):
    """A transition between two plates: while it is there, it shows both in their place.

    Each is what the stack shows of it, with its own effects, blended by itself; w = mix is how much of the second is
    seen: first x (1 - w) + second x w, a sum of weights (W3C plus-lighter), premultiplied, in the light of the shot.
    By a map v with softness s, w = clamp((mix (1 + s) - v) / s): dark parts first. At progress 0 only the first is
    there, untouched. Its bar is its span: outside of it it is not there, and costs nothing.
    """

    title = "Crossing"
    rank = 85
    help = "A transition: shows two plates in their place, and how one becomes the other"
    called = "transition, dissolve, wipe, cut"
    sections = (BY_MAP, THROUGH, *PlateKind.sections)
    gathers = True
    takes_plates = True
    in_light = True
    with_bar = ("progress", "mix", "strength")
    course = "strength"

    before = PlateRef(label="From", help="The plate that goes; none: the other one arrives alone", as_shown=True)
    after = PlateRef(label="To", help="The plate that comes; none: the other one leaves alone", as_shown=True)
    strongest = Number(
        label="Strongest",
        help="Where in it its strength is highest",
        default=0.5,
        hard=(0, 1),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
    )
    ease = Choice(label="Ease", help="How progress and mix go over it", default="straight", options=EASES)
    progress = Number(
        label="Progress",
        help="How far it is; other values follow it",
        hard=(0, 1),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
    )
    strength = Number(
        label="Strength",
        help="Nothing, most at its strongest moment, nothing; other values follow it",
        hard=(0, 1),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
    )
    mix = Number(
        label="Mix", help="How much of the second is seen", hard=(0, 1), usual=(0, 1), unit="%", factor=100, decimals=0
    )
    by = MapRef(label="Map", help="Where the second is seen first: dark parts before light ones", section=BY_MAP)
    soft = Number(
        label="Softness",
        help="How soft its border is: of the map's whole range",
        default=0.15,
        hard=(0.001, 4),
        usual=(0.01, 1),
        unit="%",
        factor=100,
        decimals=0,
        section=BY_MAP,
        shown_when=When("by"),
    )
    turned = Toggle(label="Light first", help="Light parts of the map come first", section=BY_MAP)
    through = Toggle(
        label="Through", help="The first goes into a colour, and the second comes out of it", section=THROUGH
    )
    colour = Colour(
        label="Colour",
        help="What it goes through",
        default=(0.0, 0.0, 0.0, 1.0),
        section=THROUGH,
        shown_when=When("through"),
    )

    def takes_in(self) -> tuple[str, ...]:
        """Return the plates it shows in their place; at its beginning the first is there by itself."""
        begun = self.progress > 0 or self.mix > 0
        return (self.before, self.after) if begun else (self.after,)

    def gathered(self, ctx: Context, grid: Grid) -> Picture | None:
        if self.progress <= 0 and self.mix <= 0:
            return None
        first, second = (self._side(ctx, id, grid) for id in (self.before, self.after))
        if self.through:
            return self._through(first, second, grid)
        w = self._weights(ctx, grid)
        return _weighed(first, np.float32(1) - w, second, w, grid)

    def _side(self, ctx: Context, id: str, grid: Grid) -> Picture | None:
        return ctx.services.shown_picture(id, grid) if id else None

    def _weights(self, ctx: Context, grid: Grid) -> Field:
        """How much of the second is seen, (H, W, 1) or one number."""
        values = ctx.services.map_values(self.by, grid) if self.by else None
        if values is None:
            return np.full((1, 1, 1), self.mix, np.float32)
        v = values[..., :1] if values.shape[2] < 3 else values[..., :3].mean(axis=2, keepdims=True)
        v = np.clip(np.float32(1) - v if self.turned else v, 0, 1)
        w = (np.float32(self.mix * (1 + self.soft)) - v) / np.float32(self.soft)
        return np.asarray(np.clip(w, 0, 1), np.float32)

    def _through(self, first: Picture | None, second: Picture | None, grid: Grid) -> Picture:
        """The first weighs 1 - 2 mix, the second 2 mix - 1, the colour what is left."""
        one = np.full((1, 1, 1), max(0.0, 1 - 2 * self.mix), np.float32)
        two = np.full((1, 1, 1), max(0.0, 2 * self.mix - 1), np.float32)
        out = _weighed(first, one, second, two, grid)
        r, g, b, a = self.colour
        left = np.float32(1 - abs(1 - 2 * self.mix))
        return np.asarray(out + np.array([r * a, g * a, b * a, a], np.float32) * left, np.float32)


def _weighed(first: Picture | None, one: Field, second: Picture | None, two: Field, grid: Grid) -> Picture:
    """Return first x one + second x two. The weights of a crossing without a map are one number each."""
    zeros = np.zeros((*grid.shape, 4), np.float32) if first is None or second is None else None
    a, b = (zeros if picture is None else picture for picture in (first, second))
    assert a is not None
    assert b is not None
    if one.size == two.size == 1:
        return np.asarray(cv2.addWeighted(a, float(one.flat[0]), b, float(two.flat[0]), 0.0), np.float32)
    out = b - a
    out *= two  # one = 1 - two
    out += a
    return out
