"""What several commands take alike of what they write, and how they write it and say so."""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

from nimble_quake.cli.options import in_folder, refuse_what_is_there, render_shown, size_of
from nimble_quake.cli.pipes import into_pipe
from nimble_quake.cli.progress import HELP, progress_shown
from nimble_quake.cli.words import Option
from nimble_quake.errors import BadInput
from nimble_quake.export.data import WHAT
from nimble_quake.export.encoders.stills import write_still
from nimble_quake.export.encoders.y4m import PIPE
from nimble_quake.export.formats import Format, format_named, format_of, formats
from nimble_quake.export.order import Order, frame_for, refuse_impossible
from nimble_quake.farm.where import Where
from nimble_quake.raster.threads.rows import use_threads
from nimble_quake.render.engine import Engine
from nimble_quake.render.job import Problem
from nimble_quake.shot.model import Shot

FRAMES = Annotated[str, Option(help="First and last frame, such as 0-47")]
EVERY = Annotated[int, Option(help="Render the first of so many frames only")]
SIZE = Annotated[str, Option(help="Share of the shot's size, such as 50%")]
WHICH = Annotated[str, Option(help=WHAT)]
DEEP = Annotated[bool, Option("--deep", help="PNG with 16 bits a channel")]
KIND = Annotated[str, Option("--format", help="The kind of file where its ending has several: ffv1-16, exr-float …")]
QUALITY = Annotated[str, Option(help="best, good or small, where the format can choose")]
ALPHA = Annotated[str, Option(help="straight or premultiplied; left out, as the format has it")]
DITHER = Annotated[bool, Option("--dither", help="Soften the steps of soft gradients in 8 bits")]
LIMIT = Annotated[bool, Option("--limit", help="Keep colours within broadcast limits, 16-235")]
OVERSCAN = Annotated[int, Option(help="Pixels beyond the frame on every side, in OpenEXR")]
SOUND_RATE = Annotated[int, Option(help="Samples a second of its sound, such as 48000")]
THREADS = Annotated[int, Option(help="So many threads compute frames; left out, as many as there are cores")]
JSON = Annotated[bool, Option("--json", help="Say what was written as JSON, for programs")]
PROGRESS = Annotated[str, Option(help=HELP)]
QUIET = Annotated[bool, Option("-q", "--quiet", help="Say nothing but what goes wrong")]
NO_CLOBBER = Annotated[bool, Option("--no-clobber", help="Refuse to write over a file")]

MOST_THREADS = 64
"""Of what is asked for; no more than eight are used for one frame."""


@dataclass(frozen=True)
class Written:
    """How a file is written: what the options of those names say."""

    size: str = "100%"
    what: str = "picture"
    deep: bool = False
    kind: str = ""
    quality: str = "good"
    alpha: str = ""
    dither: bool = False
    limit: bool = False
    overscan: int = 0
    sound_rate: int = 0
    every: int = 1

    def order(self, shot: Shot, out: Path, first: int, last: int, *, still: bool = False) -> Order:
        """Return the order for a range of frames, or for one picture. Raises BadInput."""
        format = self._picture(out) if still else self._clip(out)
        order = Order(
            shot,
            out,
            first,
            last,
            size_of(self.size),
            self.what,
            format,
            format.quality_named(self.quality, "--quality"),
            self.every,
            self.alpha,
            self.dither,
            self.limit,
            self.overscan,
            self.sound_rate,
        )
        refuse_impossible(order)
        return order

    def _clip(self, out: Path) -> Format:
        return format_named("y4m") if out == PIPE else format_of(in_folder(out), deep=self.deep, key=self.kind)

    def _picture(self, out: Path) -> Format:
        if out == PIPE:
            return format_named("png16" if self.deep else self.kind or "png")
        chosen = format_of(in_folder(out), deep=self.deep, key=self.kind)
        found = chosen if chosen.sequence else next((one for one in formats() if one.sequence and one.ends(out)), None)
        if found is None:
            raise BadInput("a frame is written as a picture", where=str(out), cure="end its name in .png, .exr or .tif")
        return found


@dataclass(frozen=True)
class Saying:
    """What is said of it, and whether it may be written over what is there."""

    json: bool = False
    progress: str = ""
    quiet: bool = False
    no_clobber: bool = False

    @property
    def shown(self) -> str:
        """How it is said how far it is (`cli.progress.WAYS`)."""
        return self.progress or ("none" if self.quiet else "")

    def files(self, order: Order, files: list[Path], problems: list[Problem]) -> None:
        """Say what was written."""
        if order.path == PIPE or (self.quiet and not self.json):
            return
        if self.json:
            said = {
                "files": [str(file) for file in files],
                "frames": len(order.frames()),
                "format": order.kind.key,
                "problems": [problem.line() for problem in problems],
            }
            print(json.dumps(said))
        else:
            print(in_words(files))


def in_words(files: list[Path]) -> str:
    """Return the line that says what was written."""
    return str(files[0]) if len(files) == 1 else f"{files[0]} ... {files[-1].name} ({len(files)} pictures)"


def on_threads(count: int) -> None:
    """Compute frames on so many threads; 0: as many as there are cores. Raises BadInput."""
    if not 0 <= count <= MOST_THREADS:
        raise BadInput(f"{count} threads are not possible", where="--threads", cure=f"use 1 to {MOST_THREADS}")
    if count:
        use_threads(count)


def write_range(order: Order, engine: Engine | None, where: Where | None, saying: Saying) -> None:
    """Render a range of frames into a clip or numbered pictures, and say so. Raises NimbleQuakeError."""
    if saying.no_clobber and order.path != PIPE:
        refuse_what_is_there(order)
    done = render_shown(order, engine, where, saying.shown)
    saying.files(order, done.files, done.problems)


def write_frame(order: Order, engine: Engine, saying: Saying, *, strict: bool = False) -> None:
    """Render one frame into a picture, and say so. strict: what is not as it should be is an error, not a note."""
    if saying.no_clobber and order.path != PIPE and order.path.exists():
        raise BadInput(f"{order.path.name} is there already", where="--no-clobber", cure="give another name")
    with progress_shown(saying.shown) as said:
        picture, problems = frame_for(engine, order, order.first)
        if strict and problems:
            raise BadInput(problems[0].what, where=problems[0].path, cure=problems[0].cure)
        for problem in problems:
            said.line(f"note: {problem.line()}")
    if order.path == PIPE:
        into_pipe(order.target(), picture)
        return
    saying.files(order, [write_still(order.target(), picture)], problems)
