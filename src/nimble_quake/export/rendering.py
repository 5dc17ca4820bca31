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

from nimble_quake.conventions import Picture
from nimble_quake.errors import BadInput, Cancelled, FailedWork, NimbleQuakeError
from nimble_quake.export.data import (
    CUT_OFF,
    LAYERS,
    WHOLE,
    coarseness,
    data_of,
    layers_of,
    notes_of,
    outside,
    refuse_unknown,
)
from nimble_quake.export.formats import Format, format_of, numbered
from nimble_quake.export.soundtrack import soundtrack_of
from nimble_quake.export.writers import open_writer
from nimble_quake.params.kinds import MediaFile
from nimble_quake.raster.grid import frame_grid
from nimble_quake.raster.light import to_linear
from nimble_quake.render.job import Engine, Job, Problem
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import all_nodes, kind_of


@dataclass(frozen=True)
class Order:
    """What to render. `what`: see `export.data`. `last` is included."""

    shot: Shot
    path: Path
    first: int
    last: int
    scale: float = 1.0
    what: str = "picture"
    format: Format | None = None
    quality: int | None = None
    every: int = 1
    """Of so many frames the first is rendered; a clip then runs at a rate so much lower."""

    def frames(self) -> range:
        """Return the frames that are rendered."""
        return range(self.first, self.last + 1, max(1, self.every))


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


def frame_for(engine: Engine, order: Order, frame: int) -> tuple[Picture, list[Problem]]:
    """Return one frame of an order as its format takes it, and its problems.

    Data is handed on as it is where the format holds any number, else held to 0...1; pictures become linear light
    where the format holds that.
    """
    job = Job(engine, order.shot, frame)
    found = data_of(job, order.scale, order.what)
    format = order.format or format_of(order.path)
    if order.what != "picture" and not format.data:
        if outside(order.what, found):
            job.path = order.path.name
            job.complain(CUT_OFF, "use a format of float")
        found = np.array(found)
        alpha = np.clip(found[..., 3:], 0, 1)
        found[..., :3] = np.clip(found[..., :3], 0, alpha)
        found[..., 3:] = alpha
    elif order.what in WHOLE and format.linear:
        light = to_linear(np.ascontiguousarray(found[..., :4]))
        found = np.concatenate([light, found[..., 4:]], axis=2)
    return found, list(job.problems.values())


def refuse_impossible(order: Order) -> None:
    """Raise BadInput where an order asks for frames or a map the shot does not have."""
    if not 0 <= order.first <= order.last < order.shot.length:
        raise BadInput(
            f"frames {order.first}-{order.last} are not in the shot", cure=f"it has frames 0-{order.shot.length - 1}"
        )
    format = order.format or format_of(order.path)
    if order.every < 1:
        raise BadInput(f"every {order.every}th frame cannot be rendered", cure="use 1 or more")
    frames = order.frames() if format.sequence else ()
    for path in (numbered(order.path, frame) for frame in frames) if format.sequence else (order.path,):
        if path.is_dir():
            raise BadInput("there is a folder of this name", where=str(path), cure="choose another name")
    refuse_unknown(order.shot, order.what)
    if order.what == LAYERS and not format.layers:
        raise BadInput(f"{format.label} holds one layer", where=str(order.path), cure="use OpenEXR")


def layer_names(order: Order) -> tuple[str, ...]:
    """Return the names of the pictures that each frame of an order holds."""
    return tuple(layers_of(order.shot)) if order.what == LAYERS else ("",)


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
    if coarse := coarseness(format, order.what, grid.width):
        problems[coarse] = Problem(order.path.name, coarse)
    rate = order.shot.rate / order.every
    writer = open_writer(order.path, format, rate, grid.width, grid.height, order.quality, sound,
                         notes_of(order.shot, order.what), layers=layer_names(order))  # fmt: skip
    began, total = time.monotonic(), len(order.frames())
    try:
        progress(Progress(0, total, 0.0))
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
        upcoming = iter(order.frames())
        try:
            while True:
                while len(waiting) < workers + 1 and (frame := next(upcoming, None)) is not None:
                    job = pool.submit(frame_for, engine, order, frame)
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
