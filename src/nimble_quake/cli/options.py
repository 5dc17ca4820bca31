"""Reading what several subcommands take."""

from __future__ import annotations

import re
import sys
from pathlib import Path

from nimble_quake.cli.progress import progress_shown
from nimble_quake.errors import BadInput
from nimble_quake.export.formats import numbered
from nimble_quake.export.order import SCALES, Order, is_folder, refuse_impossible
from nimble_quake.export.rendering import Rendered, render
from nimble_quake.farm.where import Where
from nimble_quake.render.engine import Engine
from nimble_quake.session.verbs.tracking import look_beside
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
    look_beside(engine, path)
    return engine


def render_shown(
    order: Order, engine: Engine | None = None, where: Where | None = None, progress: str = ""
) -> Rendered:
    """Render, saying on stderr how far it is (`cli.progress.WAYS`) and at the end what was not as it should be.

    where: other machines that render it; each is counted by itself.
    """
    refuse_impossible(order)
    engine = engine or Engine()
    with progress_shown(progress) as said:
        said.begins(order.path.name, len(order.frames()))
        if where is None:
            result = render(order, engine, said.moves)
        else:
            from nimble_quake.farm.connecting import connected

            with connected(where, engine, said.line) as farm:
                farm.moved = said.machines
                result = render(order, engine, said.moves, by=farm)
        for problem in result.problems:
            said.line(f"note: {problem.line()}")
    return result


def refuse_what_is_there(order: Order) -> None:
    """Raise BadInput where a file that an order would write is there already."""
    path, kind = order.path, order.kind
    files = [numbered(path, frame) for frame in order.frames()] if kind.sequence else [path]
    there = [file for file in files if file.exists()]
    if there:
        more = f" and {len(there) - 1} more are" if len(there) > 1 else " is"
        raise BadInput(f"{there[0].name}{more} there already", where="--no-clobber", cure="give another name")


def shot_given(path: Path, notes: list[str] | None = None) -> Shot:
    """Return the shot of a file, or of stdin where the name is "-". Raises ShotError."""
    if str(path) != "-":
        return read_shot(path, notes)
    data = sys.stdin.buffer.read(MOST_BYTES + 1)
    if len(data) > MOST_BYTES:
        raise BadInput("stdin holds more than a shot may", where="-", cure="save it as a file and look at its size")
    return shot_from(data, Path("stdin"), notes)
