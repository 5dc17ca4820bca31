"""One frame for the window: a pure call that turns a request into a response. And small pictures of parts of it."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial

from nimble_quake.conventions import REST, Bytes8, Picture, Pixels
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.render.abandon import go_on
from nimble_quake.render.chain.maps import map_field, map_image
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plates.layers import Layer, mask_at
from nimble_quake.render.plates.warps import warp_of
from nimble_quake.render.services import frame_job
from nimble_quake.render.shown.corners import enlarged
from nimble_quake.render.shown.facts import FACTS, FACTS_OF_PLAYBACK
from nimble_quake.render.shown.overlays import gaps_of, hatched, tinted
from nimble_quake.render.shown.reading import counted_as, filled
from nimble_quake.render.shown.remarks import lacking_on_plate
from nimble_quake.render.shown.request import BenchRequest, BenchResponse
from nimble_quake.render.shown.views import (
    hatched_clear,
    screen_of_difference,
    screen_of_distance,
    screen_of_map,
    screen_of_picture,
    small_grid,
)
from nimble_quake.shot.model import Map, Shot
from nimble_quake.shot.paths import plate_path

AROUND = 0.18
"""How far the view beyond the frame goes on every side, of the frame's longer one."""
BENDINGS = ("needles", "distance")
"""The views of the map that show what it does to the picture: they are not there before that."""
BEYOND = ("result", "untouched", "alpha")
"""The views of the picture that can show what lies round the frame."""


def tolerant_job(engine: Engine, shot: Shot, frame: int) -> FrameJob:
    """Return a job that shows what it can: a value without a number is at its default."""
    job = frame_job(engine, shot, frame)
    job.tolerant = True
    return job


def answer(
    engine: Engine, request: BenchRequest, early: Callable[[BenchResponse], None] | None = None
) -> BenchResponse:
    """Compute a request. Never raises: what went wrong is in `error`. Runs on a render thread.

    early: is given the map as soon as it is there, before the picture that it drives; and both, before all that is
    said of them.
    """
    began = time.perf_counter()
    response = BenchResponse(request)
    job = tolerant_job(engine, request.shot, request.frame)
    job.exaggerated = request.exaggerated
    wrong_map = _attempt(response, "the map", lambda: _map(job, request, response))
    if early is not None and response.map is not None and request.map_view not in BENDINGS and not request.coarse:
        early(replace(response, partial=True))
    response.error = ""
    _attempt(response, "this frame", lambda: _picture(job, request, response))
    _attempt(response, "this frame", lambda: _bends(job, request, response))
    response.error = response.error or wrong_map
    response.problems = list(job.problems.values())
    response.milliseconds = (time.perf_counter() - began) * 1000
    if early is not None and response.picture is not None:
        early(replace(response, partial=True))
    for fact in FACTS if request.probe else FACTS_OF_PLAYBACK:
        go_on()
        _attempt(response, "this frame", partial(fact, job, request, response))
    response.problems = list(job.problems.values())
    response.costs = dict(job.costs)
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
    map = request.shot.map(request.map_id)
    if map is None:
        return
    grid = frame_grid(request.shot.width, request.shot.height, request.map_scale)
    counts = counted_as(job, map, request.quake_path)
    response.rest = counts[1]
    response.map = _screen(job, map, grid, request.map_view, counts, request.steps)
    if request.compare is not None:
        response.other_map = _screen(job, map, grid, request.map_view, counts, request.compare)
    other_map = request.shot.map(request.beside)
    if other_map is not None and response.other_map is None:
        counts = counted_as(job, other_map, request.quake_path)
        response.other_map = _screen(job, other_map, grid, request.map_view, counts, None)


def _screen(job: FrameJob, map: Map, grid: Grid, view: str, counts: tuple[str, float], upto: int | None) -> Bytes8:
    """A map as it is seen: clear parts as they count, under a light hatch. Remembered while it stays the same."""
    clear, rest = counts

    def made() -> Bytes8:
        values = map_field(job, map, grid, upto=upto)
        seen = screen_of_map(filled(values, clear, rest), view, rest)
        if values.shape[2] == 4 and view != "alpha" and bool((values[..., 3] < 0.5).any()):
            hatched_clear(seen, values[..., 3])
        return seen

    key = ("map on screen", map_image(job, map, upto=upto).key(), grid, view, clear, rest)
    return job.engine.cache.get_again(key, made)


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
    """Show the bending itself, where that is looked at: as needles, or how far it goes in false colour."""
    if request.map_view not in BENDINGS:
        return
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
