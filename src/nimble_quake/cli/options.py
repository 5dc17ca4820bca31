"""Reading what several subcommands take."""

from __future__ import annotations

import re
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from rich.console import Console
from rich.progress import BarColumn, Progress, TaskID, TextColumn, TimeRemainingColumn

from nimble_quake.errors import BadInput
from nimble_quake.export.order import SCALES, Order, is_folder, refuse_impossible
from nimble_quake.export.rendering import Progress as Done
from nimble_quake.export.rendering import Rendered, render
from nimble_quake.farm.where import Where
from nimble_quake.kernels import told_when_compiling
from nimble_quake.render.engine import Engine
from nimble_quake.session.verbs.tracking import track_folders
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.files import MOST_BYTES, read_shot, shot_from


def size_of(text: str) -> float:
    """Return the scale of "50%" or "0.5". Raises BadInput."""
    found = re.fullmatch(r"\s*([\d.]+)\s*(%?)\s*", text)
    try:
        scale = float(found.group(1)) / (100 if found.group(2) else 1) if found else 0.0
    except ValueError:
        scale = 0.0
    if not SCALES[0] <= scale <= SCALES[1]:
        raise BadInput(f'"{text}" is no size', where="--size", cure="use a share such as 50%, from 1% to 400%")
    return scale


def range_of(text: str, length: int) -> tuple[int, int]:
    """Return the first and last frame of "A-B" or "N"; empty for the whole shot. Raises BadInput."""
    if not text:
        return 0, length - 1
    found = re.fullmatch(r"\s*(\d{1,7})\s*(?:-\s*(\d{1,7}))?\s*", text)
    if not found:
        raise BadInput(f'"{text}" is no range of frames', where="--frames", cure="write it as 0-47")
    first = int(found.group(1))
    return first, int(found.group(2) or first)


def in_folder(path: Path) -> Path:
    """Return the path, its folder known to be there. Raises BadInput."""
    if not is_folder(path.absolute().parent):
        raise BadInput("its folder is not there", where=str(path), cure="make the folder first")
    return path


def engine_of(path: Path) -> Engine:
    """Return an engine that knows the tracks kept for a shot's clips."""
    engine = Engine()
    engine.look_beside(*track_folders(path))
    return engine


@contextmanager
def progress_shown() -> Iterator[Progress]:
    """Progress bars on stderr that go when all is done; one says so while kernels are compiled."""
    console = Console(stderr=True)
    columns = (TextColumn("{task.description}"), BarColumn(), TextColumn("{task.completed}/{task.total}"))
    bar = Progress(*columns, TimeRemainingColumn(), console=console, transient=True)
    with bar, told_when_compiling(lambda: _say_compiling(bar)):
        yield bar


def _say_compiling(bar: Progress) -> None:
    if bar.console.is_terminal:
        bar.add_task("Compiling for this machine, once", total=None)
    else:
        print("Compiling for this machine, once: the first frame takes a while", file=sys.stderr)


def render_shown(order: Order, engine: Engine | None = None, where: Where | None = None) -> Rendered:
    """Render with progress bars on stderr, then say what was written and what was not as it should be.

    where: other machines that render it; each has a bar of its own.
    """
    refuse_impossible(order)
    engine = engine or Engine()
    with progress_shown() as bar:
        task = bar.add_task(f"Rendering {order.path.name}", total=len(order.frames()))

        def show(done: Done) -> None:
            bar.update(task, completed=done.done)

        if where is None:
            result = render(order, engine, show)
        else:
            from nimble_quake.farm.connecting import connected

            with connected(where, engine, lambda line: bar.console.print(line, markup=False)) as farm:
                farm.moved = _Machines(bar).show
                result = render(order, engine, show, by=farm)
    for problem in result.problems:
        bar.console.print(f"note: {problem.line()}", highlight=False, markup=False, soft_wrap=True)
    return result


class _Machines:
    """A bar for each machine, that counts its frames."""

    def __init__(self, bar: Progress) -> None:
        self._bar = bar
        self._tasks: dict[str, TaskID] = {}

    def show(self, frames: dict[str, int]) -> None:
        """Show how many frames each machine has rendered."""
        for machine, count in frames.items():
            if machine not in self._tasks:
                self._tasks[machine] = self._bar.add_task(f"  {machine}", total=None)
            self._bar.update(self._tasks[machine], completed=count)


def shot_given(path: Path, notes: list[str] | None = None) -> Shot:
    """Return the shot of a file, or of stdin where the name is "-". Raises ShotError."""
    if str(path) != "-":
        return read_shot(path, notes)
    data = sys.stdin.buffer.read(MOST_BYTES + 1)
    if len(data) > MOST_BYTES:
        raise BadInput("stdin holds more than a shot may", where="-", cure="save it as a file and look at its size")
    return shot_from(data, Path("stdin"), notes)
