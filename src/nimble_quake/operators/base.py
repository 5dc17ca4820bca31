"""The base classes of operators.

An operator is one file with one class: its parameters as class attributes (see `params.kinds`), its names and help as
class variables, and one pure function of the resolved numbers. An instance holds resolved numbers, so a method reads
`self.size_x` as a plain float. Same numbers, same inputs, same grid: same bits.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Protocol

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import REST, Affine, Field, Picture, Pixels, Seconds, Warp
from nimble_quake.motion.timing import Moment
from nimble_quake.params.kinds import (
    Choice,
    Drift,
    MapRef,
    MediaFile,
    Number,
    Pairs,
    Param,
    Place,
    PlateRef,
    Toggle,
    options,
)
from nimble_quake.raster.grid import Grid
from nimble_quake.raster.places import Places


class Feed(Protocol):
    """What an operator may ask of the renderer."""

    @property
    def media(self) -> Any:
        """The open files (media.pool.MediaPool)."""

    def plate_picture(self, plate_id: str, grid: Grid, *, with_effects: bool) -> tuple[Picture, bool]:
        """Return a plate's finished picture on a grid, and whether it comes from 8-bit media."""

    def map_values(self, map_id: str, grid: Grid, seconds: Seconds | None = None) -> Field | None:
        """Return another map's finished values on a grid, now or at another time; None where there is no such map."""

    def members_picture(self, plate_path: str, grid: Grid) -> Picture:
        """Return what the plates that lie in a group make together, on a grid."""

    def complain(self, what: str, cure: str = "") -> None:
        """Say in one line that something is not as it should be; the frame goes on without it."""


class Operator:
    """Resolved numbers of one operator. Subclasses declare the parameters."""

    family: ClassVar[str] = ""
    title: ClassVar[str] = ""
    help: ClassVar[str] = ""
    group: ClassVar[str] = ""
    version: ClassVar[int] = 1
    kind: ClassVar[str] = ""
    declared: ClassVar[dict[str, Param]] = {}
    file_names: ClassVar[tuple[str, ...]] = ()
    """Its parameters that name files, found from the declarations."""
    reference_params: ClassVar[tuple[tuple[str, Param], ...]] = ()
    """Its parameters that name a map or a plate."""
    speed_names: ClassVar[frozenset[str]] = frozenset()
    """Its parameters that are speeds, of which it is handed the integral."""
    without: ClassVar[frozenset[str]] = frozenset()
    """Parameters of its base that it does not have."""
    histogram: ClassVar[bool] = False
    """Its black, middle and white are set on the live histogram."""
    rank: ClassVar[int] = 100
    """Where it stands among others of its group on the board: low comes first."""
    sections: ClassVar[tuple[str, ...]] = ()
    """The folding sections of its settings, in order."""
    upgrades: ClassVar[tuple[Callable[[dict[str, Any]], dict[str, Any]], ...]] = ()
    """What turns the values of version 1, 2, ... as a file holds them into those of the next version."""

    def __init_subclass__(cls, **kwargs: Any) -> None:
        super().__init_subclass__(**kwargs)
        cls.kind = cls.__module__.rsplit(".", 1)[-1]
        found: dict[str, Param] = {}
        for base in cls.__mro__:  # its own first, then those of what is mixed in
            for name, value in vars(base).items():
                if isinstance(value, Param):
                    found.setdefault(name, value)
        order = {section: n for n, section in enumerate(cls.sections)}
        kept = {name: param for name, param in found.items() if name not in cls.without}
        cls.declared = dict(sorted(kept.items(), key=lambda item: order.get(item[1].section, -1)))
        if len(cls.upgrades) != cls.version - 1:
            raise TypeError(f"{cls.kind} is of version {cls.version}, so it needs {cls.version - 1} upgrades")
        cls.file_names = tuple(name for name, param in cls.declared.items() if isinstance(param, MediaFile))
        cls.reference_params = tuple((n, p) for n, p in cls.declared.items() if isinstance(p, MapRef | PlateRef))
        speeds = (name for name, param in cls.declared.items() if getattr(param, "accumulates", False))
        cls.speed_names = frozenset(speeds)

    def __init__(self, values: Mapping[str, Any]) -> None:
        self._values = dict(values)

    @property
    def values(self) -> Mapping[str, Any]:
        """Its resolved numbers, by name."""
        return self._values

    def timed(self) -> bool:
        """Whether the result depends on the moment beyond the resolved numbers: it asks for it."""
        return False

    @classmethod
    def with_defaults(cls, width: float = 1920, height: float = 1080, /, **values: Any) -> Any:
        """Return an instance at its defaults, save for the values given."""
        start = {}
        for name, param in cls.declared.items():
            speed = isinstance(param, Number | Pairs) and param.accumulates
            start[name] = _nothing(param) if speed else param.start(width, height)
        return cls({**start, **values})

    @classmethod
    def upgraded(cls, values: dict[str, Any], version: int) -> dict[str, Any]:
        """Return the values of an older version, as a file holds them, as those of today's."""
        for upgrade in cls.upgrades[version - 1 :]:
            values = upgrade(values)
        return values

    def key(self) -> tuple[Any, ...]:
        """Return what the result depends on: kind, version and every resolved number."""
        return (type(self).__module__, type(self).__name__, type(self).version, *self._values.items())


def _nothing(param: Param) -> Any:
    return (0.0, 0.0) if param.size == 2 else 0.0


@dataclass(frozen=True)
class MadeOf:
    """What a coupling makes of a map before it reads it, such as its slope: `make(values, outer, grid)`, where the
    values lie on `outer`, the grid grown by `margin` shot pixels; `key` says what it depends on besides the map."""

    make: Callable[[Field, Grid, Grid], Field]
    margin: Pixels
    key: tuple[Any, ...]


class MapReader(Protocol):
    """How a coupling reads a map. An empty id stands, in a recipe, for what the steps before made."""

    def at(
        self, map_id: str, places: Places, hook: str = "frame", fit: str = "stretch", made: MadeOf | None = None
    ) -> Field:
        """Return a map's values (H, W, C), or what is made of them, at the places that are looked at."""

    def whole(self, map_id: str) -> Field:
        """Return a map's values over the whole frame, as coarse as the result is."""

    def rest(self, map_id: str) -> float:
        """Return what a map rests at."""

    def turned(self, moves: Warp, hook: str) -> Warp:
        """Return offsets (2, H, W) turned and scaled with the plate, where the map is hooked up to it."""

    def stretched(self, distance: Pixels, hook: str) -> Pixels:
        """Return the longest that a push of a length becomes by `turned`."""


@dataclass(frozen=True, slots=True)
class Context:
    """What a step knows besides its numbers."""

    at: Moment
    feed: Feed
    rest: float = REST
    resolve: Callable[[float], Any] | None = None
    moving: frozenset[str] = frozenset()
    """The numbers that change over time, by name."""
    steps_before: Callable[[Grid, Seconds | None], Field] | None = None
    path: str = ""
    """The path of its node in the shot."""
    picture: bool = False
    """It works on a picture: premultiplied RGBA (H, W, 4), not map values."""
    maps: MapReader | None = None
    """How a coupling reads its map and its mask."""
    under_plate: Callable[[Grid], Picture] | None = None
    """How a finish sees what lies beneath its plate."""
    at_frames: Callable[[Grid, NDArray[np.int32]], Field] | None = None
    """How a delay sees the steps before it at many moments at once."""
    most_moments: Callable[[Grid], int] = lambda grid: 2
    """How many moments of a grid memory holds."""

    def moments(self, grid: Grid, frames: NDArray[np.int32]) -> Field:
        """Return the steps before, each pixel at a frame of its own, (H, W)."""
        if self.at_frames is None:
            raise RuntimeError("a step asks for other moments without saying so: `sees_other_times` must tell it")
        return self.at_frames(grid, frames)

    @property
    def reads(self) -> MapReader:
        """How a coupling reads its map and its mask."""
        if self.maps is None:
            raise RuntimeError("this context reads no maps")
        return self.maps

    def beneath(self, grid: Grid) -> Picture:
        """Return what lies beneath the plate, on a grid. Do not write to it."""
        if self.under_plate is None:
            raise RuntimeError("a step asks for what lies beneath without saying so: `sees_beneath` must tell it")
        return self.under_plate(grid)

    def below(self, grid: Grid, seconds: Seconds | None = None) -> Field:
        """Return what the steps before this one made, on any grid, now or at another time. Do not write to it."""
        if self.steps_before is None:
            return np.full((*grid.shape, 1), self.rest, np.float32)
        return self.steps_before(grid, seconds)

    def map_values(self, map_id: str, grid: Grid, seconds: Seconds | None = None) -> Field | None:
        """Return another map's values on a grid, now or at another time; None where there is no such map."""
        if seconds is not None and self.resolve is None:
            raise RuntimeError("a step asks for another map's past without saying so: `looks_back` must tell it")
        return self.feed.map_values(map_id, grid, seconds)

    def other(self, seconds: Seconds) -> Any:
        """Return this operator with its numbers as they are at another time."""
        if self.resolve is None:
            raise RuntimeError("a step asks for its own past without saying so: `looks_back` must tell it")
        return self.resolve(seconds)


@dataclass(frozen=True, slots=True)
class Raster:
    """A plate's picture and where it lies: `to_px` maps the plate's own place to raster pixels."""

    picture: Picture
    to_px: Affine
    bits8: bool = True


BLENDS = options(
    **{
        "normal": "Normal", "multiply": "Multiply: darkens", "screen": "Screen: lightens", "overlay": "Overlay",
        "darken": "Darken", "lighten": "Lighten", "color-dodge": "Colour dodge", "color-burn": "Colour burn",
        "hard-light": "Hard light", "soft-light": "Soft light", "difference": "Difference", "exclusion": "Exclusion",
        "hue": "Hue", "saturation": "Saturation", "color": "Colour", "luminosity": "Luminosity",
        "plus-lighter": "Add: adds light, clips at white",
    }
)  # fmt: skip

FITS = options(
    contain="Inside: whole, as large as fits",
    cover="Cover: fills, cut where it is too wide",
    stretch="Stretch: fills, out of proportion",
    centre="Centre: at its own size",
    tile="Tile: repeated at its own size",
)


MATTE = "Matte"
"""The section of a plate's settings that takes another plate as its matte."""


class PlateKind(Operator):
    """A kind of plate: how its picture is made. Where it lies is declared here, once for all kinds."""

    family = "plate"
    sections: ClassVar[tuple[str, ...]] = (MATTE,)
    media_param: ClassVar[str] = ""
    """The parameter that names its file, if it has one."""
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
    holds: ClassVar[bool] = False
    """Other plates lie in it."""

    position = Place(label="Place", help="Where the anchor lies in the frame", group="place")
    anchor = Pairs(
        label="Anchor", help="The point it is placed and turned by, as a share of its own size",
        default=(0.5, 0.5), unit="%", factor=100, hard=(-20, 20), group="place",
    )  # fmt: skip
    scale_x = Number(
        label="Scale x", help="Its width, in % of its own", default=1.0, hard=(-100, 100), usual=(0, 2), unit="%",
        factor=100, decimals=1, group="place",
    )  # fmt: skip
    scale_y = Number(
        label="Scale y", help="Its height, in % of its own", default=1.0, hard=(-100, 100), usual=(0, 2), unit="%",
        factor=100, decimals=1, group="place",
    )  # fmt: skip
    turn = Number(
        label="Turn", help="Turns it clockwise", default=0.0, hard=(-36000, 36000), usual=(-180, 180), unit="°",
        ring=True, group="place",
    )  # fmt: skip
    blend = Choice(label="Blend", help="How it meets the plates beneath (W3C modes)", default="normal", options=BLENDS)
    opacity = Number(
        label="Opacity", help="How much it covers", default=1.0, hard=(0, 1), usual=(0, 1), unit="%", factor=100,
        decimals=0,
    )  # fmt: skip
    mask = MapRef(label="Mask", help="A map that says where it is seen: wholly at white, not at all at black")
    mask_invert = Toggle(label="Inverted", help="It is seen where the mask is black", shown_when=("mask", "*"))
    matte = PlateRef(label="Matte", help="Another plate: this one is seen only where that one is, switched off too",
                     effects_by="matte_effects", section=MATTE)  # fmt: skip
    matte_by = Choice(
        label="By", help="What of the other plate counts", default="alpha", row=True, section=MATTE,
        options=options(alpha="Alpha", luminance="Luminance"), shown_when=("matte", "*"),
    )  # fmt: skip
    matte_invert = Toggle(label="Inverted", help="It is seen only where the other plate is not", section=MATTE,
                          shown_when=("matte", "*"))  # fmt: skip
    matte_effects = Toggle(label="Effects too", help="The other plate counts as its effects leave it", default=True,
                           section=MATTE, shown_when=("matte", "*"))  # fmt: skip

    def box(self, ctx: Context) -> tuple[float, float]:
        """Return the plate's own width and height, in its own pixels."""
        return ctx.at.width, ctx.at.height

    def raster(self, ctx: Context, zoom: tuple[float, float], bleed: Pixels) -> Raster | None:
        """Return its picture, made for being shown at `zoom` (grid samples per own pixel); None for nothing."""
        raise NotImplementedError

    def gathered(self, ctx: Context, grid: Grid) -> Picture | None:
        """Return what it is made of, on a part of the frame before it is placed; None for nothing."""
        raise NotImplementedError

    def plain(self, frame: tuple[float, float]) -> bool:
        """Return whether what it shows lies over the frame just as it is made."""
        lies = self.position == (frame[0] / 2, frame[1] / 2) and self.anchor == (0.5, 0.5) and self.turn == 0
        whole = self.opacity >= 1 and self.blend == "normal" and not self.mask and not self.matte
        return lies and whole and self.scale_x == self.scale_y == 1

    def passes(self, frame: tuple[float, float]) -> bool:
        """Return whether the plates that lie in it blend with what is beneath it, as if it were not there."""
        return False

    def own_points(self) -> dict[str, list[tuple[float, float]]]:
        """Return where the points of its lists lie, own pixels, by parameter, to be dragged in the picture."""
        return {}

    def with_own_point(self, name: str, number: int, place: tuple[float, float]) -> Any:
        """Return a list of points with one of them dragged to a place, own pixels."""
        raise NotImplementedError

    def seen_through(self, place: Affine, grid: Grid) -> Field | None:
        """Return where a plate that shows what is beneath it is seen, (H, W, 1); None: everywhere."""
        return None


UNPLACED = frozenset({"position", "anchor", "scale_x", "scale_y", "turn"})
"""What a plate that fills everything does without."""

FIT = Choice(label="Fit", help="How it is laid into the frame", default="contain", options=FITS, group="place")

__all__ = [
    "BLENDS",
    "FIT",
    "FITS",
    "MATTE",
    "UNPLACED",
    "Context",
    "Drift",
    "Feed",
    "MadeOf",
    "MapReader",
    "Operator",
    "PlateKind",
    "Raster",
]
