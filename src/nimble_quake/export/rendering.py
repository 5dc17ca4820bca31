"""Render a range of a shot, or a map of it, to files, with progress and a way to stop.

Frames are computed and prepared on several threads, encoded in order on the one that asked. What is whole is kept in a
folder of parts beside the file: a render that was stopped goes on from there.
"""

from __future__ import annotations

import shutil
import time
from collections import deque
from collections.abc import Callable, Generator, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import closing, contextmanager
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TypeAlias

from nimble_quake.errors import Cancelled, FailedWork, NimbleQuakeError
from nimble_quake.export.data import coarseness
from nimble_quake.export.encoders.y4m import PIPE
from nimble_quake.export.formats import Target
from nimble_quake.export.order import Order, Stamp, prepared_frame, refuse_changed, refuse_impossible, stamps_of
from nimble_quake.export.soundtrack import soundtrack_of
from nimble_quake.export.writers import Part, Prepared, as_save_failed, failed
from nimble_quake.files.unfinished import removed, sweep, unfinished_folder
from nimble_quake.raster.threads import rows
from nimble_quake.render.engine import Engine
from nimble_quake.render.job import Problem

RECENT = 24
"""Frames that the time left is reckoned from."""


@dataclass(frozen=True)
class Progress:
    """How far a render is. `fresh`: frames that were done since it began or went on, in so many seconds."""

    done: int
    total: int
    seconds: float
    fresh: int = -1
    pace: float = 0.0
    """Seconds a frame of late; 0 where it is not known yet."""

    @property
    def left(self) -> float:
        """Estimated seconds left; infinite before the first frame."""
        fresh = self.done if self.fresh < 0 else self.fresh
        if not fresh:
            return float("inf")
        mean = self.seconds / fresh
        return ((self.pace + mean) / 2 if self.pace else mean) * (self.total - self.done)


@dataclass(frozen=True)
class Failure:
    """A frame that could not be made, and why."""

    reason: str


@dataclass(frozen=True)
class Made:
    """A part that somebody else rendered into its file, or the frames of it that failed."""

    part: Part
    problems: tuple[Problem, ...] = ()
    failures: tuple[tuple[int, str], ...] = ()
    again: bool = False
    """It was made before by somebody who is not believed any more."""


Maker: TypeAlias = Callable[[Order, Sequence[Part], Callable[[], bool]], Iterator[Made]]
"""Renders parts of an order into their files elsewhere; asks now and then whether to stop. Raises as `render`."""


@dataclass(frozen=True)
class Rendered:
    """What a render left: its files, what was not as it should be, and the frames that failed, each with the reason.

    Where frames failed there are no files yet; the parts that are whole are kept.
    """

    files: list[Path]
    problems: list[Problem]
    failures: dict[int, str] = field(default_factory=dict)


def parts_of(order: Order, folder: Path) -> list[Part]:
    """Return the parts of an order and where their files lie."""
    format, frames = order.kind, order.frames()
    suffix = format.part_suffix or format.suffix
    step = format.part_length(len(frames))
    runs = [tuple(frames[at : at + step]) for at in range(0, len(frames), step)]
    return [Part(folder / f"{run[0]:07d}{suffix}", run) for run in runs]


@contextmanager
def _own_folder(order: Order) -> Iterator[Path]:
    """A hidden folder beside the file, gone again at the end."""
    with as_save_failed(order.path):
        sweep(order.path.parent)
        folder = unfinished_folder(order.path)
    try:
        yield folder
    finally:
        removed(folder)


def render(
    order: Order,
    engine: Engine,
    progress: Callable[[Progress], None] = lambda _: None,
    stop: Callable[[], bool] = lambda: False,
    by: Maker | None = None,
) -> Rendered:
    """Render an order to its files. Raises Cancelled, SaveFailed or what a frame raised; then nothing is left.

    by: who renders the parts, where it is not this machine.
    """
    refuse_impossible(order)
    if order.path == PIPE:
        return _Run(order, engine, progress, stop).stream()
    with _own_folder(order) as folder:
        return _Run(order, engine, progress, stop, by=by).into(folder)


def render_on(
    order: Order,
    engine: Engine,
    folder: Path,
    stamps: tuple[Stamp, ...],
    progress: Callable[[Progress], None] = lambda _: None,
    stop: Callable[[], bool] = lambda: False,
    by: Maker | None = None,
) -> Rendered:
    """Render what is missing of an order, whose parts are kept in a folder. Frames that fail are named; the rest goes
    on. stamps: the shot's files as they were when it was ordered. Raises Cancelled, SaveFailed, FailedWork.
    """
    refuse_impossible(order)
    refuse_changed(engine, stamps)
    with as_save_failed(order.path):
        folder.mkdir(exist_ok=True)
    return _Run(order, engine, progress, stop, stamps=stamps, tolerant=True, by=by).into(folder)


def render_part(
    order: Order, engine: Engine, part: Part, stop: Callable[[], bool] = lambda: False
) -> tuple[list[Problem], dict[int, str]]:
    """Render one part of an order into its file; returns what was not as it should be, and the frames that failed.

    Where one failed the file is not there. Raises Cancelled, SaveFailed.
    """
    run = _Run(order, engine, lambda _: None, stop, stamps=(), tolerant=True)
    run.write([part], order.target())
    return list(run.problems.values()), run.failures


class _Run:
    """One render under way."""

    def __init__(
        self,
        order: Order,
        engine: Engine,
        progress: Callable[[Progress], None],
        stop: Callable[[], bool],
        *,
        stamps: tuple[Stamp, ...] | None = None,
        tolerant: bool = False,
        by: Maker | None = None,
    ) -> None:
        self.order, self.engine, self.stop = order, engine, stop
        self.problems: dict[str, Problem] = {}
        self.failures: dict[int, str] = {}
        self._progress, self._tolerant, self._by = progress, tolerant, by
        self._stamps = stamps_of(order.shot, engine) if stamps is None else stamps
        self._total, self._kept, self._fresh = len(order.frames()), 0, 0
        self._began = time.monotonic()
        self._times: deque[float] = deque(maxlen=RECENT + 1)

    def _target(self) -> Target:
        order = self.order
        wanted = bool(order.kind.sound) and order.what == "picture"
        span = (order.first, order.last, order.sound_rate)
        sound, unheard = soundtrack_of(self.engine, order.shot, *span) if wanted else (None, [])
        target = order.target(sound)
        self.problems |= {problem.line(): problem for problem in unheard}
        if coarse := coarseness(order.kind, order.what, target.width):
            self.problems[coarse] = Problem(order.path.name, coarse)
        return target

    def _report(self) -> None:
        """Say how far it is."""
        now = time.monotonic()
        self._times.append(now)
        pace = (now - self._times[0]) / (len(self._times) - 1) if len(self._times) > 1 else 0.0
        self._progress(Progress(self._kept + self._fresh, self._total, now - self._began, self._fresh, pace))

    def into(self, folder: Path) -> Rendered:
        """Render the parts that are missing in a folder, and join all; remove the folder where that is done."""
        target = self._target()
        parts = parts_of(self.order, folder)
        missing = [part for part in parts if not part.file.exists()]
        self._kept = self._total - sum(len(part.frames) for part in missing)
        if self._by is None:
            self.write(missing, target)
        else:
            self._gather(self._by(self.order, missing, self.stop))
        if self.stop():
            raise Cancelled("the render was stopped")
        refuse_changed(self.engine, self._stamps)
        if self.failures:
            return Rendered([], list(self.problems.values()), self.failures)
        files = target.format.join(target, parts)
        shutil.rmtree(folder, ignore_errors=True)
        return Rendered(files, list(self.problems.values()))

    def stream(self) -> Rendered:
        """Render into a pipe, frame by frame."""
        self.write([Part(self.order.path, tuple(self.order.frames()))], self._target())
        return Rendered([], list(self.problems.values()))

    def _gather(self, made: Iterator[Made]) -> None:
        """Take parts as others have made them."""
        self._report()
        for found in made:
            refuse_changed(self.engine, self._stamps)
            self.problems |= {problem.line(): problem for problem in found.problems}
            self.failures |= dict(found.failures)
            if found.failures and not self._tolerant:
                frame, why = found.failures[0]
                raise FailedWork(f"frame {frame}: {why}", where=self.order.path.name)
            self._fresh += 0 if found.again else len(found.part.frames)
            self._report()

    def write(self, parts: Sequence[Part], target: Target) -> None:
        """Render parts, each into its file."""
        self._report()
        with closing(self._frames(parts, target)) as frames:
            for part in parts:
                self._write(part, frames, target)

    def _write(self, part: Part, frames: Iterator[Prepared | Failure], target: Target) -> None:
        """Write the next frames into a part's file; a part of which one failed is left out."""
        with as_save_failed(target.path):
            writer = target.format.opens(replace(target, path=part.file))
        whole = True
        try:
            for frame in part.frames:
                found = next(frames)
                refuse_changed(self.engine, self._stamps)
                if isinstance(found, Failure):
                    self.failures[frame], whole = found.reason, False
                elif whole:
                    writer.write(frame, found)
                self._fresh += 1
                self._report()
            if whole:
                writer.finish()
            else:
                writer.discard()
        except BaseException:
            writer.discard()
            raise

    def _frames(self, parts: Sequence[Part], target: Target) -> Generator[Prepared | Failure]:
        """The frames in order, or the reasons they failed, a few prepared ahead on other threads."""
        workers = min(4, rows.THREADS)
        upcoming = iter([frame for part in parts for frame in part.frames])
        with ThreadPoolExecutor(workers, thread_name_prefix="export") as pool:
            waiting: deque[tuple[int, Future[tuple[Prepared, list[Problem]]]]] = deque()
            try:
                while True:
                    while len(waiting) < workers + 4 and (frame := next(upcoming, None)) is not None:
                        waiting.append((frame, pool.submit(prepared_frame, self.engine, self.order, frame, target)))
                    if not waiting:
                        return
                    if self.stop():
                        raise Cancelled("the render was stopped")
                    yield self._outcome(*waiting.popleft())
            finally:
                for _, future in waiting:
                    future.cancel()

    def _outcome(self, frame: int, future: Future[tuple[Prepared, list[Problem]]]) -> Prepared | Failure:
        """A frame that is ready, or the reason it failed where the rest goes on."""
        try:
            prepared, problems = future.result()
        except Exception as wrong:
            if self._tolerant:
                return Failure(
                    wrong.line() if isinstance(wrong, NimbleQuakeError) else f"{type(wrong).__name__}: {wrong}"
                )
            if isinstance(wrong, NimbleQuakeError):
                raise type(wrong)(f"frame {frame}: {wrong.what}", where=wrong.where, cure=wrong.cure) from wrong
            if isinstance(wrong, OSError | ValueError):
                raise failed(self.order.path, wrong) from wrong
            raise
        self.problems |= {problem.line(): problem for problem in problems}
        return prepared
