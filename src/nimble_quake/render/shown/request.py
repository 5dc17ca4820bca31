"""What the window asks for one frame, and what it gets: a frozen request, and the response of a pure call."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass, field, replace

from nimble_quake.conventions import REST, Bytes8, Field, Pixels, Warp
from nimble_quake.operators.graphs import Remark
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.render.caches.results import Same
from nimble_quake.render.job import Problem
from nimble_quake.render.shown.reading import MapReading
from nimble_quake.render.shown.whiteness import Whiter
from nimble_quake.shot.model import Shot


@dataclass(frozen=True)
class BenchRequest:
    """One frame for the bench. `steps`: look at the map after so many steps (None: finished); `compare`: and beside it
    as it is after so many. `probe`: hand out the
    map's values and the plate's warp, for read-outs; without, the response is small enough to keep many."""

    shot: Shot
    frame: int
    scale: float
    map_scale: float
    map_id: str = ""
    steps: int | None = None
    compare: int | None = None
    beside: str = ""
    """The id of another map that is shown beside it."""
    plate_id: str = ""
    quake_path: str = ""
    finish_path: str = ""
    map_view: str = "value"
    picture_view: str = "result"
    exaggerated: tuple[str, float] | None = None
    """The path of an effect that is shown so many times stronger than it is; never rendered so."""
    upto: tuple[str, int] | None = None
    """A plate's id, and after how many of its effects it is seen."""
    gaps: bool = False
    """Hatch what the selected plate covered before its effects, and does not cover now."""
    masked: str = ""
    """Tint the picture where the mask of the plate or effect at this path is."""
    whole_warp: bool = False
    """Needles show all effects of the plate together, not the selected quake alone."""
    probe: bool = True
    against: Shot | None = None
    """What split and difference compare with; None: the shot without effects."""
    beyond: bool = False
    """Show what lies round the frame, too."""
    shutter: bool = False
    """What moves smears, where the shot asks for it: slow, so it is shown on request."""

    dragged: bool = field(default=False, compare=False)
    """Something is being dragged: the next request is near."""
    coarse: bool = field(default=False, compare=False)
    """It is shown until the frame itself is there: a number is being dragged, and that takes too long to follow it."""
    refines: bool = field(default=False, compare=False)
    """It follows a coarse one: it is given up when another is asked for."""

    def coarser(self) -> BenchRequest:
        """Return the same at half the scale, to be shown at once."""
        return replace(self, scale=self.scale / 2, map_scale=self.map_scale / 2, coarse=True)

    def key(self) -> Hashable:
        """What a remembered response is found by."""
        maps = (self.map_id, self.steps, self.compare, self.beside, self.map_view)
        views = (*maps, self.picture_view, self.exaggerated, self.beyond, Same(self.against))
        overlays = (self.shutter, self.upto, self.gaps and self.plate_id, self.masked)
        return (Same(self.shot), self.frame, self.scale, self.map_scale, *views, *overlays)


@dataclass
class BenchResponse:
    """What is shown for a request. Pictures are BGRX bytes (H, W, 4)."""

    request: BenchRequest
    picture: Bytes8 | None = None
    untouched: Bytes8 | None = None
    map: Bytes8 | None = None
    other_map: Bytes8 | None = None
    """The map after the step it is compared with."""
    costs: dict[str, float] = field(default_factory=dict)
    """Milliseconds of each step that was computed, by path."""
    values: Field | None = None
    """The map that is looked at, clear parts at what they count as."""
    reading: MapReading | None = None
    """What the selected quake reads of its own map."""
    rest: float = REST
    bars: list[float] = field(default_factory=list)
    mean: float = REST
    clipped: float = 0.0
    warp: Warp | None = None
    warp_at: tuple[int, int] = (0, 0)
    needles: Warp | None = None
    """How far places of `needles_on` look: by the selected quake, or by all effects of its plate."""
    needles_on: Grid | None = None
    max_displacement: Pixels = 0.0
    """The largest distance shown in false colour."""
    folds: float = 0.0
    """The share of the selected plate where its picture folds over itself."""
    gaps: float = 0.0
    """The fraction of the frame where the selected plate shows through because it looks beyond the frame."""
    beyond: Pixels = 0.0
    """How far `picture` goes on round the frame."""
    enlarged: float = 0.0
    """What is shown is no frame but parts of it, so many times enlarged; 0 where it is the frame."""
    gain: float = 1.0
    """What a difference is multiplied by so that it is seen."""
    why: str = ""
    """Why the selected quake moves nothing."""
    unseen: str = ""
    """Why nothing is seen of the selected finish."""
    opaque_matte: bool = False
    """The selected plate's matte is opaque all over the frame."""
    under_mask: float = 0.0
    """How far the selected plate has moved, in px, under a mask that stands still."""
    map_box: tuple[tuple[float, float], ...] = ()
    """The corners, shot pixels, of where the map of the selected quake is laid on its plate."""
    whiter: Whiter | None = None
    """How much whiter the selected plate is than the footage it lies on."""
    remarks: list[tuple[str, Remark]] = field(default_factory=list)
    """What steps of the map and effects of the selected plate say of themselves, with their paths."""
    beneath: int | None = None
    """How many plates the selected one acts on now, where it is one that acts on what lies beneath it."""
    partial: bool = False
    """Only the map is there yet, or only it and the picture: what is said of them follows."""
    problems: list[Problem] = field(default_factory=list)
    error: str = ""
    milliseconds: float = 0.0
    """Until the picture was there; what is said of it takes no part in it."""

    @property
    def nbytes(self) -> int:
        """Memory held."""
        arrays = (self.picture, self.untouched, self.map, self.other_map, self.values, self.warp, self.needles)
        reading = 0 if self.reading is None else self.reading.nbytes
        return sum(array.nbytes for array in arrays if array is not None) + reading + 4000
