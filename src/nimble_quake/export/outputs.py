"""What is asked of one file of a render, without the shot: it can be kept, named, and asked for again."""

from __future__ import annotations

from pathlib import Path

import msgspec

from nimble_quake.errors import BadInput
from nimble_quake.export.formats import format_named
from nimble_quake.export.order import Order
from nimble_quake.shot.model import Shot


class Output(msgspec.Struct, frozen=True):
    """How a file is written: the fields of `order.Order` under their names there. format: its key."""

    format: str
    what: str = "picture"
    scale: float = 1.0
    quality: int | None = None
    every: int = 1
    alpha: str = ""
    dither: bool = False
    limit: bool = False
    overscan: int = 0
    sound_rate: int = 0

    @property
    def known(self) -> bool:
        """Whether there is such a format here."""
        try:
            format_named(self.format)
        except BadInput:
            return False
        return True


def output_of(order: Order) -> Output:
    """Return what an order asks for, without its shot, its frames and its file."""
    return Output(
        order.kind.key,
        order.what,
        order.scale,
        order.quality,
        order.every,
        order.alpha,
        order.dither,
        order.limit,
        order.overscan,
        order.sound_rate,
    )


def ordered(output: Output, shot: Shot, path: Path, first: int, last: int) -> Order:
    """Return an order for an output. Raises BadInput where there is no such format."""
    asked = {**msgspec.structs.asdict(output), "format": format_named(output.format)}
    return Order(shot, path, first, last, **asked)


def file_beside(path: Path, output: Output, taken: set[Path]) -> Path:
    """Return the file of an output beside another one's: the same name, with the format's key where that is taken.

    Raises BadInput where there is no such format.
    """
    format, stem = format_named(output.format), path.stem.split("#")[0].rstrip("_")
    number = "_####" if format.sequence else ""
    names = [stem, f"{stem}-{format.key}", *(f"{stem}-{format.key}-{n}" for n in range(2, 1000))]
    found = (path.with_name(f"{name}{number}{format.suffix}") for name in names)
    return next(each for each in found if each not in taken)
