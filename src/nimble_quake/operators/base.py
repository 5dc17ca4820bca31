"""The base classes of operators.

An operator is one file with one class: its parameters as class attributes (see `params.kinds`), its names and help as
class variables, and one pure function of the resolved numbers. An instance holds resolved numbers, so a method reads
`self.size_x` as a plain float. Same numbers, same inputs, same grid: same bits.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, field
from typing import Any, ClassVar, Protocol, TypeAlias, TypeVar

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import REST, SHOT_SUFFIX, Field, Frames, Picture, Pixels, Seconds, Value, Values, Warp
from nimble_quake.declared.declared import Declared
from nimble_quake.motion.timing import Moment
from nimble_quake.params.kinds import (
    BandRef,
    Face,
    LayerName,
    MapRef,
    MediaFile,
    Number,
    Pairs,
    Param,
    PlateRef,
    Toggle,
    When,
    options,
)
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.part import Patch
from nimble_quake.raster.geometry.places import Places

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Tracked:
    """Points of a clip that are seen at a moment. ids: (n,); places: (n, 2) shot pixels; ages: (n,) seconds."""

    ids: NDArray[np.int64]
    places: NDArray[np.float64]
    ages: NDArray[np.float64]


class RenderServices(Protocol):
    """What an operator may ask of the renderer."""

    @property
    def media(self) -> Any:
        """The open files (media.pool.MediaPool)."""

    def plate_picture(
        self,
        plate_id: str,
        grid: Grid,
        *,
        with_effects: bool,
        seconds: Seconds | None = None,
        exceptions: tuple[tuple[str, str], ...] = (),
    ) -> tuple[Picture, bool]:
        """Return a plate's finished picture on a grid, now or at another time, and whether it is of 8-bit media.

        exceptions: values of the shot that are other ones meanwhile, (path, value as JSON) each.
        """

    def map_values(
        self, map_id: str, grid: Grid, seconds: Seconds | None = None, exceptions: tuple[tuple[str, str], ...] = ()
    ) -> Field | None:
        """Return another map's finished values on a grid, now or at another time; None where there is no such map.

        exceptions: as in `plate_picture`.
        """

    def map_rest(self, map_id: str, exceptions: tuple[tuple[str, str], ...] = ()) -> float:
        """Return what another map rests at. exceptions: as in `map_values`."""

    def plate_alpha(self, plate_id: str, grid: Grid, *, with_effects: bool) -> Field:
        """Return the alpha of a plate's finished picture on a grid, (H, W, 1), without the rest of it."""

    def plate_outline(self, plate_id: str, grid: Grid) -> Field:
        """Return how much a plate covers where it lies, without its effects; of a lens its shape: (H, W, 1)."""

    def members_part(self, plate_path: str, grid: Grid) -> Patch | None:
        """Return what the plates that lie in a group make together, on the part of a grid where there is anything."""

    def shown_part(self, plate_id: str, grid: Grid) -> Patch | None:
        """Return what the stack shows of a plate, over nothing, on the part of a grid where it shows anything.

        In the light of the shot; None where it shows nothing there.
        """

    def tracked(self, plate_id: str, seconds: Seconds | None = None) -> Tracked | None:
        """Return the points tracked in a clip, where it lies, now or at another time; None where it is not tracked."""

    def report_problem(self, what: str, cure: str = "") -> None:
        """Say in one line that something is not as it should be; the frame goes on without it."""


Look: TypeAlias = tuple[str, str, Values]
"""A named way to set an operator, shown beside it on the board: name, help, values; places as shares of the frame."""


ACTS = Toggle(
    label="On",
    help="Whether it acts, or is there; pins switch it over time",
    called="visible, enabled, toggle",
    default=True,
    in_row=True,
)


class Operator(Declared):
    """Resolved numbers of one operator. Subclasses declare the parameters."""

    family: ClassVar[str] = ""
    file_names: ClassVar[tuple[str, ...]] = ()
    """Its parameters that name files, found from the declarations."""
    reference_params: ClassVar[tuple[tuple[str, Param], ...]] = ()
    """Its parameters that name a map or a plate."""
    set_in_type: ClassVar[bool] = False
    """It names a typeface: what it draws depends on the fonts there are."""
    speed_names: ClassVar[frozenset[str]] = frozenset()
    """Its parameters that are speeds, of which it is handed the integral."""
    media_param: ClassVar[str] = ""
    """The parameter that names its file, if it has one."""
    needs_map: ClassVar[bool] = False
    """Without a map it does nothing; in a recipe it then reads what the steps before made."""
    in_light: ClassVar[bool] = False
    """On a picture it mixes light: in a shot in linear light it is handed linear colours, others encoded ones."""
    brightness_names: ClassVar[tuple[str, ...]] = ()
    """Its parameters that are brightnesses, which become linear with the colours."""
    looks: ClassVar[tuple[Look, ...]] = ()
    """Named settings that are worth a place of their own on the board."""
    lively: ClassVar[Values] = {}
    """What makes its thumbnail on the board move; places as shares of the frame."""
    meant_to_clip: ClassVar[bool] = False
    """Black and white are what it is there for: no sign is shown for them."""
    histogram: ClassVar[bool] = False
    """Its black, middle and white are set on the live histogram."""

    def __init_subclass__(cls, **kwargs: object) -> None:
        super().__init_subclass__(**kwargs)
        params = tuple(cls.declared.items())
        cls.file_names = tuple(name for name, param in params if isinstance(param, MediaFile))
        cls.set_in_type = any(isinstance(param, Face) for _, param in params)
        cls.reference_params = tuple(item for item in params if isinstance(item[1], BandRef | MapRef | PlateRef))
        cls.speed_names = frozenset(name for name, param in params if param.accumulates)

    @classmethod
    def begins_with(cls, width: float, height: float) -> dict[str, object]:
        """Return the values a new one begins with in a shot of this size, beside its defaults: it is seen at once."""
        return {}

    def timed(self) -> bool:
        """Whether the result depends on the moment beyond the resolved numbers: it asks for it."""
        return False

    def hears_beats(self) -> bool:
        """Whether the result depends on the beats or markers of the shot."""
        return False

    def looks_back(self) -> bool:
        """Whether it asks for its own numbers, or for other maps and plates, at other moments than now."""
        return False

    def media_file(self) -> str:
        """Return the file it shows; empty where it shows none."""
        return str(self._values[self.media_param] or "") if self.media_param else ""

    def summary(self) -> str:
        """Return how strong it is, in a few letters; empty where its first number says it."""
        return ""

    @classmethod
    def handles(cls) -> tuple[tuple[str, str], ...]:
        """Return pairs of place parameters that are shown as the ends of a line."""
        return ()

    @classmethod
    def boxes(cls) -> tuple[tuple[str, str, str], ...]:
        """Return (place, width, height) parameters that are shown as a box round the place."""
        return ()

    traced: ClassVar[Traced | None] = None
    """Its outline that can be drawn in the picture, point by point."""

    @classmethod
    def with_defaults(cls, width: float = 1920, height: float = 1080, /, **values: Value) -> Value:
        """Return an instance at its defaults, save for the values given."""
        start = {}
        for name, param in cls.declared.items():
            speed = isinstance(param, Number | Pairs) and param.accumulates
            start[name] = _nothing(param) if speed else param.start(width, height)
        return cls({**start, **values})

    def key(self) -> tuple[Hashable, ...]:
        """Return what the result depends on: kind, version and every resolved number."""
        return (type(self).__module__, type(self).__name__, type(self).version, *self._values.items())


def _nothing(param: Param) -> Value:
    return (0.0, 0.0) if param.size == 2 else 0.0


@dataclass(frozen=True)
class MadeOf:
    """What a coupling makes of a map before it reads it, such as its slope: `make(values, outer, grid)`, where the
    values lie on `outer`, the grid grown by `margin` shot pixels; `key` says what it depends on besides the map."""

    make: Callable[[Field, Grid, Grid], Field]
    margin: Pixels
    key: tuple[Hashable, ...]


AS_DRAWN = "drawn"
"""A map hooked up to a plate lies where it is drawn while the plate is at its own place: in the middle of the frame, as
large as it is laid, not turned. It goes from there as the plate does. Masks are hooked up so."""


class MapReader(Protocol):
    """How a coupling reads a map. An empty id stands, in a recipe, for what the steps before made."""

    def at(
        self, map_id: str, places: Places, hook: str = "frame", fit: str = "stretch", made: MadeOf | None = None
    ) -> Field:
        """Return a map's values (H, W, C), or what is made of them, at the places that are looked at."""

    def whole(self, map_id: str, made: MadeOf | None = None) -> Field:
        """Return a map's values over the whole frame, or what is made of them, as coarse as the result is."""

    def remembered(self, map_id: str, key: tuple[Hashable, ...], make: Callable[[], T]) -> T:
        """Return what is found of a whole map; found once as long as the map stands. key: what it depends on too."""

    def rest(self, map_id: str) -> float:
        """Return what a map rests at."""

    def turned(self, moves: Warp, hook: str) -> Warp:
        """Return offsets (2, H, W) turned and scaled with the plate, where the map is hooked up to it."""

    def stretched(self, distance: Pixels, hook: str) -> Pixels:
        """Return the longest that a push of a length becomes by `turned`."""


@dataclass(frozen=True)
class Traced:
    """The parameters that say where an outline lies: its points are fractions of a box, from -0.5 to 0.5."""

    outline: str
    place: str = "place"
    width: str = "width"
    height: str = "height"
    plain: Values = field(default_factory=lambda: {"turn": 0.0})
    """What is set with it, so that the points lie where they were set."""

    def values(self, points: Sequence[tuple[float, float]]) -> Values:
        """Return the values of an outline through points, shot pixels."""
        across, down = zip(*points, strict=True)
        width, height = max(max(across) - min(across), 1.0), max(max(down) - min(down), 1.0)
        x, y = (max(across) + min(across)) / 2, (max(down) + min(down)) / 2
        own = tuple((round((u - x) / width, 4), round((v - y) / height, 4)) for u, v in points)
        return {self.place: (x, y), self.width: width, self.height: height, self.outline: own, **self.plain}


class Around:
    """What a step may ask of what lies round it. A step that asks for what it has not declared is refused it."""

    @property
    def maps(self) -> MapReader:
        """How a coupling reads its map and its mask."""
        raise RuntimeError("this context reads no maps")

    def below(self, grid: Grid, seconds: Seconds | None) -> Field:
        """Return what the steps before made, now or at another time."""
        return np.full((*grid.shape, 1), REST, np.float32)

    def moments(self, grid: Grid, frames: NDArray[np.int32]) -> Field:
        """Return what the steps before made, each pixel at a frame of its own, (H, W)."""
        raise RuntimeError("a step asks for other moments without saying so: `sees_other_times` must tell it")

    def most_moments(self, grid: Grid) -> int:
        """Return how many moments of a grid memory holds."""
        return 2

    def beneath(self, grid: Grid) -> Picture:
        """Return what lies beneath the plate."""
        raise RuntimeError("a step asks for what lies beneath without saying so: `sees_beneath` must tell it")

    def untouched(self, grid: Grid) -> Picture | None:
        """Return what a lens shows where it does nothing; None for what has a picture of its own."""
        return None

    @property
    def looks_back(self) -> bool:
        """Whether it may ask for its numbers, and for maps, at other times."""
        return False

    def pin_frames(self, name: str) -> tuple[Frames, ...]:
        """Return the frames of the pins of one of its values; none where it has none."""
        raise RuntimeError("a step asks for its own pins without saying so: `looks_back` must tell it")

    def other(self, seconds: Seconds) -> Operator:
        """Return the operator with its numbers as they are at another time."""
        raise RuntimeError("a step asks for its own past without saying so: `looks_back` must tell it")


@dataclass(frozen=True, slots=True)
class Context:
    """What a step knows besides its numbers."""

    at: Moment
    services: RenderServices
    rest: float = REST
    moving: frozenset[str] = frozenset()
    """The numbers that change over time, by name."""
    path: str = ""
    """The path of its node in the shot."""
    picture: bool = False
    """It works on a picture: premultiplied RGBA (H, W, 4), not map values."""
    linear: bool = False
    """The picture's colours are linear light, so that light added is a sum."""
    around: Around = field(default_factory=Around)

    def moments(self, grid: Grid, frames: NDArray[np.int32]) -> Field:
        """Return the steps before, each pixel at a frame of its own, (H, W)."""
        return self.around.moments(grid, frames)

    def most_moments(self, grid: Grid) -> int:
        """Return how many moments of a grid memory holds."""
        return self.around.most_moments(grid)

    @property
    def reads(self) -> MapReader:
        """How a coupling reads its map and its mask."""
        return self.around.maps

    def beneath(self, grid: Grid) -> Picture:
        """Return what lies beneath the plate, on a grid. Do not write to it."""
        return self.around.beneath(grid)

    def untouched(self, grid: Grid) -> Picture | None:
        """Return what a lens shows where it does nothing; None on other plates, and on maps. Do not write to it."""
        return self.around.untouched(grid)

    def below(self, grid: Grid, seconds: Seconds | None = None) -> Field:
        """Return what the steps before this one made, on any grid, now or at another time. Do not write to it."""
        return self.around.below(grid, seconds)

    def map_values(
        self, map_id: str, grid: Grid, seconds: Seconds | None = None, exceptions: tuple[tuple[str, str], ...] = ()
    ) -> Field | None:
        """Return another map's values on a grid, now or at another time; None where there is no such map.

        exceptions: (path, value as JSON) of values that are other ones meanwhile.
        """
        if seconds is not None and not self.around.looks_back:
            raise RuntimeError("a step asks for another map's past without saying so: `looks_back` must tell it")
        return self.services.map_values(map_id, grid, seconds, exceptions)

    def pin_frames(self, name: str) -> tuple[Frames, ...]:
        """Return the frames of the pins of one of this operator's values; none where it has none."""
        return self.around.pin_frames(name)

    def other(self, seconds: Seconds) -> Any:
        """Return this operator with its numbers as they are at another time."""
        return self.around.other(seconds)


FITS = options(
    contain="Inside: whole, as large as fits",
    cover="Cover: fills, cut where it is too wide",
    stretch="Stretch: fills, out of proportion",
    centre="Centre: at its own size",
    tile="Tile: repeated at its own size",
)


class HasLayers(When):
    """A file is an OpenEXR picture, or numbered ones, or a shot with its maps."""

    def holds(self, value: object) -> bool:
        return str(value).lower().endswith((".exr", SHOT_SUFFIX))


LAYER = LayerName(
    label="Layer",
    help="Of an OpenEXR file what stands before the dot in its channels, of a shot the name of a map; or the picture",
    shown_when=HasLayers("file"),
)

__all__ = ["FITS", "Around", "Context", "MadeOf", "MapReader", "Operator", "RenderServices", "Tracked"]
