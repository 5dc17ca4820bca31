"""The base of all kinds of plate: how a plate's picture is made, and where it lies."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar, TypeAlias

import numpy as np

from nimble_quake.conventions import Affine, Field, Picture, Pixels, Seconds, Value, Values
from nimble_quake.motion.motion import Motion
from nimble_quake.operators.base import ACTS, FITS, Context, Operator
from nimble_quake.operators.steps import MASK_HOOK
from nimble_quake.params.kinds import Choice, MapRef, Number, Pairs, Place, PlateRef, Toggle, When, Words, options
from nimble_quake.params.refit import Refit
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.part import Patch

Point3: TypeAlias = tuple[float, float, float]
"""x right, y down (shot pixels), z towards the eye."""


@dataclass(frozen=True, slots=True)
class Raster:
    """A plate's picture and where it lies: `to_px` maps the plate's own place to raster pixels."""

    picture: Picture
    to_px: Affine
    bits8: bool = True
    whole: tuple[int, int, int, int] | None = None
    """The columns and rows of the whole picture, and where in it `picture` begins: all the rest is clear."""

    def padded(self) -> Raster:
        """Return the whole picture."""
        if self.whole is None:
            return self
        width, height, left, top = self.whole
        out = np.zeros((height, width, 4), np.float32)
        out[top : top + self.picture.shape[0], left : left + self.picture.shape[1]] = self.picture
        return Raster(out, affine.compose(self.to_px, affine.shift(left, top)), self.bits8)


BLENDS = options(
    **{
        "normal": "Normal",
        "multiply": "Multiply: darkens",
        "screen": "Screen: lightens",
        "overlay": "Overlay",
        "darken": "Darken",
        "lighten": "Lighten",
        "color-dodge": "Colour dodge",
        "color-burn": "Colour burn",
        "hard-light": "Hard light",
        "soft-light": "Soft light",
        "difference": "Difference",
        "exclusion": "Exclusion",
        "hue": "Hue",
        "saturation": "Saturation",
        "color": "Colour",
        "luminosity": "Luminosity",
        "plus-lighter": "Add: adds light, clips at white",
    }
)

BLENDING = "Blend and mask"
DEPTH, CROP, MATTE, PIN = "Depth", "Crop", "Matte", "Pin"
"""The sections of a plate's settings that turn it in depth, cut it, take a matte, or stick it to tracked points."""


def _crop(label: str, help: str) -> Pairs:
    return Pairs(
        label=label,
        help=f"{help}, shares of its own size",
        default=(0.0, 0.0),
        unit="%",
        factor=100,
        hard=(0, 1),
        section=CROP,
    )


class PlateKind(Operator):
    """A kind of plate: how its picture is made. Where it lies is declared here, once for all kinds."""

    family = "plate"
    sections: ClassVar[tuple[str, ...]] = (BLENDING, DEPTH, CROP, MATTE, PIN)
    endless: ClassVar[bool] = False
    """It fills any area it is asked for; edges never show. It is not placed: see `UNPLACED`."""
    fits: ClassVar[bool] = False
    """It has a size of its own that is fitted to the frame."""
    shows_param: ClassVar[str] = ""
    """The parameter that names the plate it shows: a new one shows what is selected."""
    asks_for: ClassVar[str] = ""
    """The parameter that is typed as soon as one is added."""
    beneath: ClassVar[bool] = False
    """It has no picture of its own: it shows what lies beneath it."""
    gathers: ClassVar[bool] = False
    """It is made of other plates or maps, on the part of the frame that is asked for: see `gathered`."""
    plays: ClassVar[bool] = False
    """Its file is a clip: see `clip_time`."""
    sounds: ClassVar[bool] = False
    """Its file may have sound, heard along its bar: it declares heard, gain, trim, speed and beyond (render.heard)."""
    takes_plates: ClassVar[bool] = False
    """It shows other plates in their place: see `takes_in`."""
    with_bar: ClassVar[tuple[str, ...]] = ()
    """Its values that are made from its bar: they have no rows of their own in the time strip."""
    course: ClassVar[str] = ""
    """Its value whose course is drawn in its bar; empty: none."""
    flat_colour: ClassVar[str] = ""
    """The parameter that is its colour all over, while it counts; empty: it has none."""
    is_eye: ClassVar[bool] = False
    """Other plates are seen by it: see `seen_from`."""
    holds: ClassVar[bool] = False
    """Other plates lie in it."""

    acts = ACTS
    position = Place(label="Place", help="Where the anchor lies in the frame", group="place")
    anchor = Pairs(
        label="Anchor",
        help="The point it is placed and turned by, as a share of its own size",
        default=(0.5, 0.5),
        unit="%",
        factor=100,
        hard=(-20, 20),
        group="place",
    )
    scale_x = Number(
        label="Scale x",
        help="Its width, in % of its own",
        default=1.0,
        neutral=1.0,
        hard=(-100, 100),
        usual=(0, 2),
        unit="%",
        factor=100,
        decimals=1,
        group="place",
    )
    scale_y = Number(
        partner="scale_x",
        linked=True,
        label="Scale y",
        help="Its height, in % of its own",
        default=1.0,
        neutral=1.0,
        hard=(-100, 100),
        usual=(0, 2),
        unit="%",
        factor=100,
        decimals=1,
        group="place",
    )
    turn = Number(
        label="Turn",
        help="Turns it clockwise",
        default=0.0,
        hard=(-36000, 36000),
        usual=(-180, 180),
        unit="°",
        ring=True,
        group="place",
    )
    blend = Choice(
        label="Blend",
        help="How it meets the plates beneath (W3C modes)",
        called="composite mode, screen, add, multiply",
        default="normal",
        options=BLENDS,
        section=BLENDING,
    )
    opacity = Number(
        label="Opacity",
        help="How much it covers",
        called="fade, transparency",
        section=BLENDING,
        default=1.0,
        neutral=1.0,
        gone=0.0,
        hard=(0, 1),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
    )
    mask = MapRef(
        label="Mask", help="A map that says where it is seen: wholly at white, not at all at black", section=BLENDING
    )
    mask_invert = Toggle(
        label="Inverted", help="It is seen where the mask is black", shown_when=When("mask"), section=BLENDING
    )
    mask_hook = replace(MASK_HOOK, section=BLENDING)
    tilt = Number(
        label="Tilt",
        help="Turns its top away from you, about its place",
        default=0.0,
        hard=(-36000, 36000),
        usual=(-90, 90),
        unit="°",
        ring=True,
        section=DEPTH,
    )
    swing = Number(
        label="Swing",
        help="Turns its right side away from you, about its place",
        default=0.0,
        hard=(-36000, 36000),
        usual=(-90, 90),
        unit="°",
        ring=True,
        section=DEPTH,
    )
    away = Number(
        label="Away",
        help="How far behind the other plates it lies; below 0 nearer",
        default=0.0,
        hard=(-100_000, 1_000_000),
        usual=(-500, 2000),
        unit="px",
        decimals=0,
        section=DEPTH,
    )
    crop_sides = _crop("Left, right", "How much is cut away at the left and at the right")
    crop_ends = _crop("Top, bottom", "How much is cut away at the top and at the bottom")
    crop_soft = Number(
        label="Soft",
        help="Over how much of what is kept it fades",
        default=0.0,
        hard=(0, 20000),
        usual=(0, 200),
        unit="px",
        decimals=1,
        section=CROP,
    )
    matte = PlateRef(
        label="Matte",
        help="Another plate: this one is seen only where that one is, switched off too",
        effects_by="matte_effects",
        section=MATTE,
    )
    matte_by = Choice(
        label="By",
        help="What of the other plate counts",
        default="alpha",
        row=True,
        section=MATTE,
        options=options(alpha="Alpha", luminance="Luminance"),
        shown_when=When("matte"),
    )
    matte_invert = Toggle(
        label="Inverted", help="It is seen only where the other plate is not", section=MATTE, shown_when=When("matte")
    )
    matte_effects = Toggle(
        label="Effects too",
        help="The other plate counts as its effects leave it",
        default=True,
        section=MATTE,
        shown_when=When("matte"),
    )

    pin = PlateRef(label="Pin to", help="A tracked clip whose points it sticks to", tracked=True, section=PIN)
    pin_points = Words(
        label="Points",
        help="Numbers of the points it is pinned by: one moves it, more turn it",
        section=PIN,
        shown_when=When("pin"),
    )
    pin_from = Number(
        label="As it lies at",
        help="The frame at which it lies where it was put",
        default=0,
        hard=(0, 1e6),
        usual=(0, 240),
        whole=True,
        decimals=0,
        section=PIN,
        shown_when=When("pin"),
    )
    pin_way = Choice(
        label="Way",
        help="It follows the points, or is moved against them: that steadies a clip pinned to itself",
        default="follow",
        row=True,
        options=options(follow="Follow", steady="Steady"),
        section=PIN,
        shown_when=When("pin"),
    )
    pin_as = Choice(
        label="Takes",
        help="What it takes from the points",
        default="all",
        section=PIN,
        options=options(place="Place", turn="And turn", all="And scale", corners="And perspective: by four points"),
        shown_when=When("pin"),
    )

    def box(self, ctx: Context) -> tuple[float, float]:
        """Return the plate's own width and height, in its own pixels."""
        return ctx.at.width, ctx.at.height

    def raster(self, ctx: Context, zoom: tuple[float, float], bleed: Pixels) -> Raster | None:
        """Return its picture, made for being shown at `zoom` (grid samples per own pixel); None for nothing."""
        raise NotImplementedError

    def shows_plainly(self) -> tuple[str, bool, tuple[tuple[str, str], ...]] | None:
        """Return the plate whose picture it shows as it is, whether with its effects, and values that differ there;
        None where it shows anything else. It is sampled once, where both places are put together."""
        return None

    def gathered(self, ctx: Context, grid: Grid) -> Patch | None:
        """Return what it is made of, before it is placed, on a grid or where anything is of it; None for nothing."""
        raise NotImplementedError

    def plain(self, frame: tuple[float, float]) -> bool:
        """Return whether what it shows lies over the frame just as it is made."""
        unmoved = self.position == (frame[0] / 2, frame[1] / 2) and self.anchor == (0.5, 0.5) and self.turn == 0
        whole = self.opacity >= 1 and self.blend == "normal" and not self.mask and not self.matte and not self.pin
        flat = self.tilt == self.swing == self.away == 0
        return unmoved and whole and flat and self.scale_x == self.scale_y == 1 and not self.crop()

    def crop(self) -> tuple[float, float, float, float] | None:
        """Return what shares are cut away at the left, right, top and bottom; None for nothing."""
        sides = (*self.crop_sides, *self.crop_ends)
        return sides if any(sides) else None

    def passes(self, frame: tuple[float, float]) -> bool:
        """Return whether the plates that lie in it blend with what is beneath it, as if it were not there."""
        return False

    def takes_in(self) -> tuple[str, ...]:
        """Return the ids of plates that are not seen by themselves while it is: it shows them."""
        return ()

    def fit_in_frame(self) -> str:
        """Return how it is laid into the frame (operators.base.FITS)."""
        return "centre"

    def clip_time(self, length: Seconds, rate: float) -> Seconds | None:
        """Return the own time of the clip it shows; None where it shows none.

        length: of the clip, s; rate: frames a second of the shot.
        """
        return None

    def seen_from(self, frame: tuple[float, float]) -> tuple[Point3, Point3, float, float] | None:
        """Return the eye that plates are seen by, what it looks at, its field and roll (degrees); None for no eye."""
        return None

    def own_points(self) -> dict[str, list[tuple[float, float]]]:
        """Return where the points of its lists lie, own pixels, by parameter, to be dragged in the picture."""
        return {}

    def with_own_point(self, name: str, number: int, place: tuple[float, float]) -> Value:
        """Return a list of points with one of them dragged to a place, own pixels."""
        raise NotImplementedError

    @classmethod
    def refit_rest(cls, values: Values, by: Refit) -> Values:
        """What lies at its own size is scaled with the frame."""
        fit = cls.given(values, "fit") if "fit" in cls.declared else ""
        if by.fills and fit == "contain":
            return {**values, "fit": "cover"}
        if fit not in ("centre", "tile") or by.scale == 1:
            return values
        found, scaling = dict(values), by.length()
        for name in ("scale_x", "scale_y"):
            value = values.get(name, 1.0)
            found[name] = value.refitted(scaling, by, 1) if isinstance(value, Motion) else scaling.of(value)
        return found

    def seen_through(self, place: Affine, grid: Grid) -> Field | None:
        """Return where a plate that shows what is beneath it is seen, (H, W, 1); None: everywhere."""
        return None


UNPLACED = frozenset(
    {
        "position",
        "anchor",
        "scale_x",
        "scale_y",
        "turn",
        "tilt",
        "swing",
        "away",
        "pin",
        "pin_points",
        "pin_from",
        "pin_way",
        "pin_as",
        "crop_sides",
        "crop_ends",
        "crop_soft",
    }
)
"""What a plate that fills everything does without."""

FIT = Choice(label="Fit", help="How it is laid into the frame", default="contain", options=FITS, group="place")
