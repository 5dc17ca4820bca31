"""What is said of a frame that is shown: signs, read-outs, the histogram. Each is found once the picture is there."""

from __future__ import annotations

from collections.abc import Callable

from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.groups import seen_beneath
from nimble_quake.render.shown.mattes import moved_under_its_mask, opaque_matte
from nimble_quake.render.shown.overlays import folding, gaps_beyond
from nimble_quake.render.shown.reading import counted_as, filled, map_box, reading_of, weights_of
from nimble_quake.render.shown.remarks import remarks_on_map, remarks_on_plate
from nimble_quake.render.shown.request import BenchRequest, BenchResponse
from nimble_quake.render.shown.unseen import why_unseen
from nimble_quake.render.shown.views import histogram, small_grid
from nimble_quake.render.shown.whiteness import whiter_than_footage
from nimble_quake.render.shown.why import why_still
from nimble_quake.shot.paths import plate_path

Fact = Callable[[FrameJob, BenchRequest, BenchResponse], None]
"""Finds something of a frame, and writes it into the response."""

FEW = 160
"""Samples across a small frame that is enough to judge brightness by."""


def _grid(request: BenchRequest) -> Grid:
    return frame_grid(request.shot.width, request.shot.height, request.scale)


def _map_grid(request: BenchRequest) -> Grid:
    return frame_grid(request.shot.width, request.shot.height, request.map_scale)


def _counted(job: FrameJob, request: BenchRequest, response: BenchResponse) -> None:
    """The values of the map that is looked at, and its histogram."""
    map = request.shot.map(request.map_id)
    if map is None:
        return
    values = map_field(job, map, _map_grid(request), upto=request.steps)
    clear, rest = counted_as(job, map, request.quake_path)
    shown = filled(values, clear, rest)
    counted = histogram(channel(shown, "value"), weights_of(values, clear))
    response.bars, response.mean, response.clipped = counted
    if request.probe:
        response.values = shown


def _read(job: FrameJob, request: BenchRequest, response: BenchResponse) -> None:
    """What the selected quake reads of its map, where that is laid, and why nothing moves."""
    response.reading = reading_of(job, request.quake_path, _map_grid(request))
    response.why = why_still(job, request.quake_path, response.reading, _grid(request))
    response.map_box = map_box(job, request.quake_path)


def _moved(job: FrameJob, request: BenchRequest, response: BenchResponse) -> None:
    """Whether the selected plate folds over itself, or lets through what lies beneath it."""
    if response.warp is not None:
        response.folds = folding(response.warp, request.scale)
        response.gaps = gaps_beyond(job, request.plate_id, _grid(request), response.warp, response.warp_at)


def _covered(job: FrameJob, request: BenchRequest, response: BenchResponse) -> None:
    """What hides an effect, or the bottom of the shot."""
    response.unseen = why_unseen(job, request.finish_path, _grid(request))
    response.opaque_matte = opaque_matte(job, request.plate_id, _grid(request))
    response.under_mask = moved_under_its_mask(job, request.plate_id)
    response.whiter = whiter_than_footage(job, request.plate_id, small_grid(request.shot, FEW))


def _remarks(job: FrameJob, request: BenchRequest, response: BenchResponse) -> None:
    """What steps and effects say of themselves, and how many plates the selected one acts on."""
    plate = job.shot.plate(request.plate_id)
    response.remarks = remarks_on_map(job, request.map_id, _grid(request))
    response.remarks += remarks_on_plate(job, plate_path(request.plate_id), _grid(request)) if request.plate_id else []
    response.beneath = None if plate is None else seen_beneath(job, plate)


FACTS_OF_PLAYBACK: tuple[Fact, ...] = (_counted,)
"""Of a frame that is one of many, and is kept."""
FACTS: tuple[Fact, ...] = (*FACTS_OF_PLAYBACK, _read, _moved, _covered, _remarks)
"""Of the frame one works at; the quick ones and those that one looks at first come first."""
