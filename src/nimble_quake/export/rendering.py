"""Render a range of a shot, or a map of it, to files, with progress and a way to stop."""

from __future__ import annotations

import os
import time
from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from nimble_quake.conventions import Field, Picture
from nimble_quake.errors import BadInput, Cancelled, FailedWork, NimbleQuakeError
from nimble_quake.export.formats import Format, format_of, numbered
from nimble_quake.export.soundtrack import soundtrack_of
from nimble_quake.export.writers import open_writer
from nimble_quake.params.kinds import MediaFile
from nimble_quake.raster.colour import as_channels
from nimble_quake.raster.grid import frame_grid
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.job import Engine, Job, Problem
from nimble_quake.render.maps import map_field
from nimble_quake.shot.model import Map, Shot
from nimble_quake.shot.paths import all_nodes, kind_of


@dataclass(frozen=True)
class Order:
    """What to render. `what`: "picture" or "map:NAME". `last` is included."""

    shot: Shot
    path: Path
    first: int
    last: int
    scale: float = 1.0
    what: str = "picture"
    format: Format | None = None
    quality: int | None = None


@dataclass(frozen=True)
class Progress:
    """How far a render is."""

    done: int
    total: int
    seconds: float

    @property
    def left(self) -> float:
        """Estimated seconds left; infinite before the first frame."""
        return self.seconds / self.done * (self.total - self.done) if self.done else float("inf")


@dataclass(frozen=True)
class Rendered:
    """What a render left: its files, and what was not as it should be."""

    files: list[Path]
    problems: list[Problem]


def map_named(shot: Shot, name: str) -> Map:
    """Return the map of an id or a name. Raises BadInput that lists those there are."""
    found = shot.map(name) or next((map for map in shot.maps if map.name.lower() == name.lower()), None)
    if found is None:
        there = ", ".join(map.id for map in shot.maps) or "none"
        raise BadInput(f'there is no map "{name}"', cure=f"the shot has: {there}")
    return found


def map_as_picture(field: Field) -> Picture:
    """Return a map as a picture: values as grey, colours as they are (premultiplied)."""
    straight = as_channels(field, 4)
    out = np.empty_like(straight)
    alpha = np.clip(straight[..., 3:], 0, 1)
    out[..., :3] = np.clip(straight[..., :3], 0, 1) * alpha
    out[..., 3:] = alpha
    return out


def picture_of(engine: Engine, shot: Shot, frame: int, scale: float, what: str) -> tuple[Picture, list[Problem]]:
    """Return one frame of the picture or of a map, and its problems."""
    job = Job(engine, shot, frame)
    if what == "picture":
        picture = frame_picture(job, scale)
    elif what.startswith("map:"):
        grid = frame_grid(shot.width, shot.height, scale)
        picture = map_as_picture(map_field(job, map_named(shot, what[4:]), grid))
    else:
        raise BadInput(f'"{what}" cannot be rendered', cure='use "picture" or "map:NAME"')
    return picture, list(job.problems.values())


def refuse_impossible(order: Order) -> None:
    """Raise BadInput where an order asks for frames or a map the shot does not have."""
    if not 0 <= order.first <= order.last < order.shot.length:
        raise BadInput(
            f"frames {order.first}-{order.last} are not in the shot", cure=f"it has frames 0-{order.shot.length - 1}"
        )
    format = order.format or format_of(order.path)
    frames = range(order.first, order.last + 1) if format.sequence else ()
    for path in (numbered(order.path, frame) for frame in frames) if format.sequence else (order.path,):
        if path.is_dir():
            raise BadInput("there is a folder of this name", where=str(path), cure="choose another name")
    if order.what.startswith("map:"):
        map_named(order.shot, order.what[4:])
    elif order.what != "picture":
        raise BadInput(f'"{order.what}" cannot be rendered', cure='use "picture" or "map:NAME"')


class WatchedMedia:
    """The files a shot shows, as they were when its render began."""

    def __init__(self, shot: Shot, engine: Engine) -> None:
        self._media = engine.media
        self._stamps = [engine.media.stamp(path) for path in sorted(_files_of(shot, engine))]

    def refuse_changes(self) -> None:
        """Raise FailedWork where one has been changed, cut off or removed since: its frames would be wrong."""
        for stamp in self._stamps:
            if self._media.stamp(stamp[0]) != stamp:
                raise FailedWork("was changed while it was rendered", where=stamp[0], cure="render again")


def _files_of(shot: Shot, engine: Engine) -> set[str]:
    found = set()
    for path, node in all_nodes(shot):
        operator = engine.operators.get(kind_of(path), node.kind)
        for name, param in operator.declared.items() if operator else ():
            file = node.values.get(name)
            if isinstance(param, MediaFile) and isinstance(file, str) and file:
                found.add(file)
    return found


def render(
    order: Order,
    engine: Engine,
    progress: Callable[[Progress], None] = lambda _: None,
    stop: Callable[[], bool] = lambda: False,
) -> Rendered:
    """Render an order to its files. Raises Cancelled, SaveFailed or what a frame raised; then nothing is left."""
    refuse_impossible(order)
    format = order.format or format_of(order.path)
    grid = frame_grid(order.shot.width, order.shot.height, order.scale)
    media = WatchedMedia(order.shot, engine)
    wanted = bool(format.sound) and order.what == "picture"
    sound, unheard = soundtrack_of(engine, order.shot, order.first, order.last) if wanted else (None, [])
    problems = {problem.line(): problem for problem in unheard}
    writer = open_writer(order.path, format, order.shot.rate, grid.width, grid.height, order.quality, sound)
    began, total = time.monotonic(), order.last - order.first + 1
    progress(Progress(0, total, 0.0))
    try:
        for done, (frame, picture, found) in enumerate(_frames(order, engine, stop), 1):
            media.refuse_changes()
            writer.write(frame, picture)
            problems.update({problem.line(): problem for problem in found})
            progress(Progress(done, total, time.monotonic() - began))
        if stop():
            raise Cancelled("the render was stopped")
        media.refuse_changes()
        return Rendered(writer.finish(), list(problems.values()))
    except BaseException:
        writer.discard()
        raise


def _frames(order: Order, engine: Engine, stop: Callable[[], bool]) -> Iterator[tuple[int, Picture, list[Problem]]]:
    """The frames in order, a few prepared ahead on other threads."""
    workers = max(1, min(4, (os.cpu_count() or 1)))
    with ThreadPoolExecutor(workers, thread_name_prefix="export") as pool:
        waiting: deque[tuple[int, Future[tuple[Picture, list[Problem]]]]] = deque()
        upcoming = iter(range(order.first, order.last + 1))
        try:
            while True:
                while len(waiting) < workers + 1 and (frame := next(upcoming, None)) is not None:
                    job = pool.submit(picture_of, engine, order.shot, frame, order.scale, order.what)
                    waiting.append((frame, job))
                if not waiting:
                    return
                if stop():
                    raise Cancelled("the render was stopped")
                frame, future = waiting.popleft()
                try:
                    picture, problems = future.result()
                except NimbleQuakeError as wrong:
                    raise type(wrong)(f"frame {frame}: {wrong.what}", where=wrong.where, cure=wrong.cure) from wrong
                yield frame, picture, problems
        finally:
            for _, future in waiting:
                future.cancel()
