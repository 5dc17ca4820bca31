"""What the window asks for one frame, and what it gets: frozen request -> pure call -> response."""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field, replace
from functools import partial

from nimble_quake.conventions import REST, Bytes8, Field, Picture, Pixels, Warp
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.operators.graphs import Remark
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.render.caches.results import Same
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.job import FrameJob, Problem
from nimble_quake.render.plan.groups import seen_beneath
from nimble_quake.render.plates.layers import Layer, mask_at
from nimble_quake.render.plates.warps import warp_of
from nimble_quake.render.services import frame_job
from nimble_quake.render.shown.corners import enlarged
from nimble_quake.render.shown.mattes import moved_under_its_mask, opaque_matte
from nimble_quake.render.shown.overlays import folding, gaps_beyond, gaps_of, hatched, tinted
from nimble_quake.render.shown.reading import MapReading, counted_as, filled, map_box, reading_of, weights_of
from nimble_quake.render.shown.remarks import lacking_on_plate, remarks_on_map, remarks_on_plate
from nimble_quake.render.shown.unseen import why_unseen
from nimble_quake.render.shown.views import (
    hatched_clear,
    histogram,
    screen_of_difference,
    screen_of_distance,
    screen_of_map,
    screen_of_picture,
)
from nimble_quake.render.shown.whiteness import Whiter, whiter_than_footage
from nimble_quake.render.shown.why import why_still
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import plate_path

FEW = 160
"""Samples across a small frame that is enough to judge brightness by."""
AROUND = 0.18
"""How far the view beyond the frame goes on every side, of the frame's longer one."""
BEYOND = ("result", "untouched", "alpha")
"""The views of the picture that can show what lies round the frame."""


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
    """Only the map is there yet; the picture follows."""
    problems: list[Problem] = field(default_factory=list)
    error: str = ""
    milliseconds: float = 0.0

    @property
    def nbytes(self) -> int:
        """Memory held."""
        arrays = (self.picture, self.untouched, self.map, self.other_map, self.values, self.warp, self.needles)
        reading = 0 if self.reading is None else self.reading.nbytes
        return sum(array.nbytes for array in arrays if array is not None) + reading + 4000


def tolerant_job(engine: Engine, shot: Shot, frame: int) -> FrameJob:
    """Return a job that shows what it can: a value without a number is at its default."""
    job = frame_job(engine, shot, frame)
    job.tolerant = True
    return job


def answer(
    engine: Engine, request: BenchRequest, early: Callable[[BenchResponse], None] | None = None
) -> BenchResponse:
    """Compute a request. Never raises: what went wrong is in `error`. Runs on a render thread.

    early: is given the map as soon as it is there, before the picture that it drives.
    """
    began = time.perf_counter()
    response = BenchResponse(request)
    job = tolerant_job(engine, request.shot, request.frame)
    job.exaggerated = request.exaggerated
    wrong_map = _attempt(response, "the map", lambda: _map(job, request, response))
    if early is not None and response.map is not None:
        early(replace(response, partial=True))
    response.error = ""
    _attempt(response, "this frame", lambda: _picture(job, request, response))
    _attempt(response, "this frame", lambda: _explain(job, request, response))
    response.error = response.error or wrong_map
    response.problems = list(job.problems.values())
    response.costs = dict(job.costs)
    response.milliseconds = (time.perf_counter() - began) * 1000
    return response


def _attempt(response: BenchResponse, what: str, part: Callable[[], None]) -> str:
    """Compute a part of a response; what goes wrong is its error, and is returned. One bad frame ends no session."""
    wrong = ""
    try:
        part()
    except NimbleQuakeError as told:
        wrong = told.line()
    except MemoryError:
        wrong = "there is not enough memory for this frame - choose a smaller preview"
    except Exception as told:
        wrong = f"{what} failed in Nimble Quake itself ({type(told).__name__}: {told})"
    response.error = response.error or wrong
    return wrong


def _explain(job: FrameJob, request: BenchRequest, response: BenchResponse) -> None:
    """Say why nothing moves, and show the bending itself where that is looked at."""
    if request.probe:
        grid = frame_grid(request.shot.width, request.shot.height, request.scale)
        response.why = why_still(job, request.quake_path, response.reading, grid)
        response.unseen = why_unseen(job, request.finish_path, grid)
        response.opaque_matte = opaque_matte(job, request.plate_id, grid)
        response.under_mask = moved_under_its_mask(job, request.plate_id)
        plate = job.shot.plate(request.plate_id)
        response.map_box = map_box(job, request.quake_path)
        response.whiter = whiter_than_footage(job, request.plate_id, small_grid(request.shot, FEW))
        response.remarks = remarks_on_map(job, request.map_id, grid)
        response.remarks += remarks_on_plate(job, plate_path(request.plate_id), grid) if request.plate_id else []
        response.beneath = None if plate is None else seen_beneath(job, plate)
    if request.map_view in ("needles", "distance"):
        _bends(job, request, response)


def _picture(job: FrameJob, request: BenchRequest, response: BenchResponse) -> None:
    ground = request.shot.ground[:3]
    if request.beyond and request.picture_view in BEYOND and not request.probe:  # nothing else is asked for
        response.picture, response.beyond = _beyond(job, request)
        return
    if request.picture_view == "corners":
        shown = enlarged(job, request.scale, partial(tolerant_job, job.engine, request.shot), shutter=request.shutter)
        response.picture, response.enlarged = shown.picture, shown.factor
        return
    seen: dict[str, Layer] | None = {} if request.probe else None
    view = request.picture_view
    untouched: Picture | None = None
    result: Picture | None = None
    if view != "untouched":
        result = frame_picture(job, request.scale, seen=seen, upto=request.upto, shutter=request.shutter)
    if view in ("untouched", "split", "difference"):
        untouched = _compared(job, request)
    base = result if result is not None else untouched
    assert base is not None
    if request.masked or request.gaps:
        base = with_overlays(job, request, base, frame_grid(request.shot.width, request.shot.height, request.scale))
    if view == "loop" and result is not None:  # the frame that would follow the last one, against the first
        first, end = request.shot.loop or (0, request.shot.length)
        round_ = tolerant_job(job.engine, request.shot, request.frame + end - first)
        untouched = frame_picture(round_, request.scale, shutter=request.shutter)
    if view in ("difference", "loop") and result is not None and untouched is not None:
        response.picture, response.gain = screen_of_difference(result, untouched, ground)
    else:
        response.picture = screen_of_picture(base, view, ground)
    if request.beyond and view in BEYOND:
        response.picture, response.beyond = _beyond(job, request)
    if view == "split" and untouched is not None:
        response.untouched = screen_of_picture(untouched, "result", ground)
    layer = (seen or {}).get(request.plate_id)
    if layer is not None and layer.warp is not None:
        response.warp, response.warp_at = layer.warp, (layer.left, layer.top)
        response.folds = folding(layer.warp, request.scale)
        grid = frame_grid(request.shot.width, request.shot.height, request.scale)
        response.gaps = gaps_beyond(job, request.plate_id, grid, layer.warp, response.warp_at)


def _compared(job: FrameJob, request: BenchRequest) -> Picture:
    """The picture without effects, or as it was in a state of the shot."""
    if request.against is None or request.picture_view == "untouched":
        return frame_picture(job, request.scale, untouched=True, shutter=request.shutter)
    other = tolerant_job(job.engine, request.against, request.frame)
    return frame_picture(other, request.scale, shutter=request.shutter)


def _beyond(job: FrameJob, request: BenchRequest) -> tuple[Bytes8, Pixels]:
    """The picture with what lies round the frame, and how far that goes."""
    shot, view = request.shot, request.picture_view
    grid = frame_grid(shot.width, shot.height, request.scale)
    grid = grid.grown(max(1, round(AROUND * max(grid.shape))))
    picture = frame_picture(job, grid=grid, untouched=view == "untouched", upto=request.upto, shutter=request.shutter)
    if request.masked or request.gaps:
        picture = with_overlays(job, request, picture, grid)
    return screen_of_picture(picture, view, shot.ground[:3]), -grid.x0


def _map(job: FrameJob, request: BenchRequest, response: BenchResponse) -> None:
    grid = frame_grid(request.shot.width, request.shot.height, request.map_scale)
    if request.probe:
        response.reading = reading_of(job, request.quake_path, grid)
    map = request.shot.map(request.map_id)
    if map is None:
        return
    values = map_field(job, map, grid, upto=request.steps)
    clear, response.rest = counted_as(job, map, request.quake_path)
    shown = filled(values, clear, response.rest)
    response.map = _screen(values, shown, request.map_view, response.rest)
    if request.compare is not None:
        other = map_field(job, map, grid, upto=request.compare)
        response.other_map = _screen(other, filled(other, clear, response.rest), request.map_view, response.rest)
    other_map = request.shot.map(request.beside)
    if other_map is not None and response.other_map is None:
        other = map_field(job, other_map, grid)
        counts = counted_as(job, other_map, request.quake_path)
        response.other_map = _screen(other, filled(other, *counts), request.map_view, counts[1])
    weights = weights_of(values, clear)
    response.bars, response.mean, response.clipped = histogram(channel(shown, "value"), weights)
    if request.probe:
        response.values = shown


def _screen(values: Field, shown: Field, view: str, rest: float) -> Bytes8:
    """A map as it is seen: clear parts as they count, under a light hatch."""
    seen = screen_of_map(shown, view, rest)
    if values.shape[2] == 4 and view != "alpha" and bool((values[..., 3] < 0.5).any()):
        hatched_clear(seen, values[..., 3])
    return seen


def with_overlays(job: FrameJob, request: BenchRequest, picture: Picture, grid: Grid) -> Picture:
    """Return a picture, made on a grid, with the gaps of the selected plate hatched, and a mask tinted."""
    if request.masked:
        values = mask_at(job, request.masked, grid)
        picture = picture if values is None else tinted(picture, values)
    if request.gaps and request.plate_id:
        gaps = gaps_of(job, request.plate_id, grid)
        lacking = lacking_on_plate(job, plate_path(request.plate_id), grid)
        picture = hatched(picture, gaps if lacking is None else gaps | lacking, grid.scale)
    return picture


def _bends(job: FrameJob, request: BenchRequest, response: BenchResponse) -> None:
    """Show the bending itself: as needles, or how far it goes in false colour."""
    needles = request.map_view == "needles"
    if needles and not request.probe:
        return
    scale = min(request.map_scale, 0.5) if needles else request.map_scale
    grid = frame_grid(request.shot.width, request.shot.height, scale)
    warp = warp_of(job, request.quake_path, grid, whole=request.whole_warp)
    if needles:
        response.needles, response.needles_on = warp, grid
    else:
        response.map, response.max_displacement = screen_of_distance(warp, grid)


def thumbnail(engine: Engine, shot: Shot, frame: int, map_id: str, steps: int | None, width: int) -> Bytes8 | None:
    """Return a small picture of a map after so many steps, BGRX; None where it cannot be made."""
    map = shot.map(map_id)
    if map is None:
        return None
    try:
        job = tolerant_job(engine, shot, frame)
        grid = small_grid(shot, width)
        values = map_field(job, map, grid, upto=steps)
        return screen_of_map(filled(values, "rest", REST), "value", REST)
    except (NimbleQuakeError, ArithmeticError, ValueError):
        return None


def plate_thumbnail(
    engine: Engine, shot: Shot, frame: int, plate_id: str, width: int, *, with_effects: bool = False
) -> Bytes8 | None:
    """Return a small picture of one plate alone over black, BGRX; None where it cannot be made."""
    plate = shot.plate(plate_id)
    if plate is None:
        return None
    try:
        job = tolerant_job(engine, shot, frame)
        picture, _ = job.plate_picture(plate_id, small_grid(shot, width), with_effects=with_effects)
        return screen_of_picture(picture, "result", (0.1, 0.1, 0.1))
    except (NimbleQuakeError, ArithmeticError, ValueError):
        return None


def frame_thumbnail(engine: Engine, shot: Shot, frame: int, width: int) -> Bytes8 | None:
    """Return a small picture of a whole frame, BGRX; None where it cannot be made."""
    try:
        job = tolerant_job(engine, shot, frame)
        return screen_of_picture(
            frame_picture(job, grid=small_grid(shot, width), shutter=False), "result", shot.ground[:3]
        )
    except (NimbleQuakeError, ArithmeticError, ValueError):
        return None


def small_grid(shot: Shot, width: int) -> Grid:
    """Return the frame's grid at about this many columns."""
    scale = max(width / shot.width, 1 / min(shot.width, shot.height))
    return frame_grid(shot.width, shot.height, min(1.0, math.ceil(scale * 1000) / 1000))
