"""Crossing."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.params.kinds import Choice, Colour, MapRef, Number, StillPlateRef, Toggle, When, options
from nimble_quake.raster.colour.mix import mixed, mixed_by_map
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.part import Patch, around

EASES = options(
    straight="Straight: evenly",
    eased="Eased: slow at both ends",
    late="Late: slowly, then fast",
    early="Early: fast, then slowly",
)
THROUGH = "Through"
BY_MAP = "By a map"
"""Sections of its settings."""

CLEAR = np.zeros((1, 1, 4), np.float32)


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

    before = StillPlateRef(label="From", help="The plate that goes; none: the other one arrives alone", as_shown=True)
    after = StillPlateRef(label="To", help="The plate that comes; none: the other one leaves alone", as_shown=True)
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

    sound = Choice(
        label="Sound",
        help="What it does with the clips' own sounds",
        default="fade",
        options=options(fade="Cross-fade: as loud throughout", none="None: both are heard"),
    )

    def takes_in(self) -> tuple[str, ...]:
        """Return the plates it shows in their place; at its beginning the first is there by itself."""
        begun = self.progress > 0 or self.mix > 0
        return (self.before, self.after) if begun else (self.after,)

    def gathered(self, ctx: Context, grid: Grid) -> Patch | None:
        if self.progress <= 0 and self.mix <= 0:
            return None
        if self.through:
            return self._through(ctx, grid)
        first = self._side(ctx, self.before, grid) if self.mix < 1 else None
        second = self._side(ctx, self.after, grid) if self.mix > 0 else None
        sides = [side.grid for side in (first, second) if side is not None]
        if not sides:
            return None
        part = around(grid, *sides)
        one, two = (CLEAR if side is None else side.on(part) for side in (first, second))
        return Patch(self._mixed(ctx, one, two, part), part)

    def _mixed(self, ctx: Context, one: Picture, two: Picture, grid: Grid) -> Picture:
        """Both sides by how much of the second is seen."""
        values = ctx.services.map_values(self.by, grid) if self.by else None
        if values is not None:
            return mixed_by_map(one, two, values, self.mix, self.soft, light_first=self.turned)
        return mixed(one, two, np.full((1, 1, 1), self.mix, np.float32), grid.shape)

    def _side(self, ctx: Context, id: str, grid: Grid) -> Patch | None:
        return ctx.services.shown_part(id, grid) if id else None

    def _through(self, ctx: Context, grid: Grid) -> Patch:
        """The first goes into the colour until the middle, the second comes out of it from there on."""
        away = abs(1 - 2 * self.mix)
        side = self._side(ctx, self.before if self.mix < 0.5 else self.after, grid) if away > 0 else None
        seen = CLEAR if side is None else side.on(grid)
        r, g, b, a = self.colour
        colour = np.array([[[r * a, g * a, b * a, a]]], np.float32)
        return Patch(mixed(seen, colour, np.full((1, 1, 1), 1 - away, np.float32), grid.shape), grid)
