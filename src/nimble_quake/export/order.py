"""What to render: an order, what it cannot ask for, its frames as their format takes them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from typing import TypeAlias

import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.errors import BadInput, FailedWork
from nimble_quake.export.data import CUT_OFF, LAYERS, WHOLE, data_of, layers_of, notes_of, outside, refuse_unknown
from nimble_quake.export.finals import PREMULTIPLIED, STRAIGHT, alpha_for, dithered, limited, refuse_impossible_alpha
from nimble_quake.export.formats import Format, Target, format_of, numbered
from nimble_quake.export.soundtrack import RATES, Soundtrack
from nimble_quake.export.writers import Prepared
from nimble_quake.motion.files import from_text
from nimble_quake.params.kinds import MediaFile
from nimble_quake.params.lists import Exceptions
from nimble_quake.raster.colour.light import to_linear
from nimble_quake.raster.geometry.grid import Grid, frame_grid, refuse_enormous
from nimble_quake.render.engine import Engine
from nimble_quake.render.job import Problem
from nimble_quake.render.services import frame_job
from nimble_quake.render.values.exceptions import param_at
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import all_nodes, kind_of

MOST_OVERSCAN = 4096
SCALES = (0.01, 4.0)
"""The smallest and the largest share of the shot's size that is rendered."""


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
    alpha: str = ""
    """How colours are held where they are partly clear: see `finals.ALPHAS`."""
    dither: bool = False
    """Soft gradients keep their steps apart when 8 bits are written."""
    limit: bool = False
    """Colours are kept within what broadcast allows: 16 to 235 of 8 bits."""
    overscan: int = 0
    """How many pixels beyond the frame are rendered on every side."""
    sound_rate: int = 0
    """Samples a second of its sound: one of `soundtrack.RATES`; 0: as it was recorded, where the format takes that."""

    def frames(self) -> range:
        """Return the frames that are rendered."""
        return range(self.first, self.last + 1, max(1, self.every))

    @property
    def kind(self) -> Format:
        """The format that is written."""
        return self.format or format_of(self.path)

    def target(self, sound: Soundtrack | None = None) -> Target:
        """Return the file that is asked for."""
        grid = self.grid()
        format = self.kind
        quality = dict(format.qualities).get("Good", 0) if self.quality is None else self.quality
        notes = notes_of(self.shot, self.what, self.overscan)
        if self.alpha == STRAIGHT:
            notes = tuple((name, words.replace("associated alpha", "straight alpha")) for name, words in notes)
        return Target(
            self.path,
            format,
            Fraction(self.shot.rate) / self.every,
            grid.width,
            grid.height,
            quality,
            sound,
            notes,
            layer_names(self),
            self.overscan,
            colours=self.what in WHOLE,
            associated=self.alpha == PREMULTIPLIED,
        )

    def grid(self) -> Grid:
        """Return the samples that are rendered. Raises LimitError where they are too many."""
        return frame_grid(self.shot.width, self.shot.height, self.scale).grown(self.overscan)


def frame_for(engine: Engine, order: Order, frame: int) -> tuple[Picture, list[Problem]]:
    """Return one frame of an order as its format takes it, and its problems.

    Data is handed on as it is where the format holds any number, else held to 0...1; pictures become linear light
    where the format holds that.
    """
    job = frame_job(engine, order.shot, frame)
    found, format = data_of(job, order.grid(), order.what), order.kind
    if order.what == "picture":
        found = _final(found, order, frame)
    elif order.what in WHOLE and format.linear:
        found = _in_light(found)
    elif not format.data:
        if outside(order.what, found):
            job.path = order.path.name
            job.report_problem(CUT_OFF, "use a format of float")
        found = _clamped(found)
    return found, list(job.problems.values())


def _final(picture: Picture, order: Order, frame: int) -> Picture:
    """A picture with the last changes that are asked for."""
    if order.limit:
        picture = limited(picture)
    if order.dither and order.kind.bits == 8:
        picture = dithered(picture, frame)
    return alpha_for(_in_light(picture) if order.kind.linear else picture, order.kind, order.alpha)


def _in_light(found: Picture) -> Picture:
    """A picture in linear light; the layers beside it stay as they are."""
    return np.concatenate([to_linear(np.ascontiguousarray(found[..., :4])), found[..., 4:]], axis=2)


def _clamped(found: Picture) -> Picture:
    """Data held to what a format of codes can hold: 0...1, colours within their alpha."""
    found = np.array(found)
    alpha = np.clip(found[..., 3:], 0, 1)
    found[..., :3] = np.clip(found[..., :3], 0, alpha)
    found[..., 3:] = alpha
    return found


def prepared_frame(engine: Engine, order: Order, frame: int, target: Target) -> tuple[Prepared, list[Problem]]:
    """Return one frame of an order as its writer takes it, and its problems."""
    picture, problems = frame_for(engine, order, frame)
    return target.format.prepare(picture, replace(target, frame=frame)), problems


def is_folder(path: Path) -> bool:
    """Return whether there is a folder of this name. Raises BadInput where no file could have the name."""
    try:
        return path.is_dir()
    except OSError as wrong:  # such as one that is too long for the disk
        raise BadInput(f"no file can have this name: {wrong.strerror}", cure="choose another") from wrong


def refuse_impossible(order: Order) -> None:
    """Raise BadInput where an order asks for frames or a map the shot does not have."""
    if not 0 <= order.first <= order.last < order.shot.length:
        raise BadInput(
            f"frames {order.first}-{order.last} are not in the shot", cure=f"it has frames 0-{order.shot.length - 1}"
        )
    format = order.kind
    if not SCALES[0] <= order.scale <= SCALES[1]:
        raise BadInput(f"a size of {order.scale:g}", where="size", cure="use a share such as 50%, from 1% to 400%")
    if order.every < 1:
        raise BadInput(f"every {order.every}th frame cannot be rendered", cure="use 1 or more")
    frames = order.frames() if format.sequence else ()
    for path in (numbered(order.path, frame) for frame in frames) if format.sequence else (order.path,):
        if is_folder(path):
            raise BadInput("there is a folder of this name", where=str(path), cure="choose another name")
    if order.sound_rate and order.sound_rate not in RATES:
        known = ", ".join(map(str, RATES))
        raise BadInput(f"sound is not written at {order.sound_rate} Hz", where="sound", cure=f"use one of {known}")
    refuse_unknown(order.shot, order.what)
    refuse_impossible_alpha(format, order.alpha)
    if order.overscan and not format.overscan:
        raise BadInput(f"{format.label} holds no more than the frame", where=str(order.path), cure="use OpenEXR")
    if not 0 <= order.overscan <= MOST_OVERSCAN:
        raise BadInput(f"an overscan of {order.overscan} pixels", cure=f"use 0 to {MOST_OVERSCAN}")
    refuse_enormous(order.grid().width, order.grid().height, "the frame with its overscan")
    if order.what == LAYERS and not format.layers:
        raise BadInput(f"{format.label} holds one layer", where=str(order.path), cure="use OpenEXR")


def layer_names(order: Order) -> tuple[str, ...]:
    """Return the names of the pictures that each frame of an order holds."""
    return tuple(layers_of(order.shot)) if order.what == LAYERS else ("",)


Stamp: TypeAlias = tuple[str, int, int]
"""A file's path, its time of change, its size."""


def stamps_of(shot: Shot, engine: Engine) -> tuple[Stamp, ...]:
    """Return the files a shot shows, as they are now."""
    return tuple(engine.media.stamp(path) for path in sorted(files_of(shot, engine)))


def refuse_changed(engine: Engine, stamps: tuple[Stamp, ...]) -> None:
    """Raise FailedWork where a file has been changed, cut off or removed since: its frames would be wrong."""
    for stamp in stamps:
        if engine.media.stamp(stamp[0]) != stamp:
            raise FailedWork("was changed while it was rendered", where=stamp[0], cure="render again")


def files_of(shot: Shot, engine: Engine) -> set[str]:
    """Return the files that a shot shows or plays: those too that live copies show in place of the original's, and
    those inside of shot files."""
    found = set()
    for path, node in all_nodes(shot):
        operator = engine.operators.get(kind_of(path), node.kind)
        for name, param in operator.declared.items() if operator else ():
            file = node.values.get(name)
            if isinstance(param, MediaFile) and isinstance(file, str) and file:
                found.add(file)
            elif isinstance(param, Exceptions) and file:
                found |= {text for other, word in file if isinstance(text := _exception(shot, other, word), str)}
    return found.union(*map(engine.media.inside, found))


def _exception(shot: Shot, path: str, text: str) -> object:
    """The file that an exception names; None where it names none."""
    param = param_at(shot, path)
    return (from_text(param, text) or None) if isinstance(param, MediaFile) else None
