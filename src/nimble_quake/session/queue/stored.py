"""What is on disk of an order: the order itself, how far it is, and what is wished of it.

Each has a file of its own with a single writer: who orders, who renders, who looks on. All are replaced whole.
"""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any, TypeVar

import msgspec

from nimble_quake.export.formats import format_named
from nimble_quake.export.order import Order, Stamp
from nimble_quake.shotfile.codec import decoded, encoded
from nimble_quake.shotfile.names import name_of_text, text_of_name

WAITING, RUNNING, DONE, FAILED, INCOMPLETE = "waiting", "running", "done", "failed", "incomplete"
FINISHED = (DONE, FAILED, INCOMPLETE)
FORMAT = 1
Item = TypeVar("Item", bound=msgspec.Struct)


class Stored(msgspec.Struct, frozen=True):
    """An order, with the shot as it was."""

    name: str
    path: str
    kind: str
    first: int
    last: int
    scale: float
    what: str
    quality: int | None
    every: int
    alpha: str
    dither: bool
    limit: bool
    shot: Any
    stamps: tuple[Stamp, ...]
    home: str = ""
    """The shot's file; empty where it has none. Tracks of its clips are looked for beside it."""
    format: int = FORMAT

    def order(self) -> Order:
        """Return the order. Raises ShotError or BadInput where it cannot be read."""
        return Order(decoded(self.shot), self.file, self.first, self.last, self.scale, self.what,
                     format_named(self.kind), self.quality, self.every, self.alpha, self.dither,
                     self.limit)  # fmt: skip

    @property
    def file(self) -> Path:
        """The file that is asked for."""
        return Path(name_of_text(self.path))

    @property
    def count(self) -> int:
        """How many frames are asked for."""
        return len(range(self.first, self.last + 1, max(1, self.every)))


def stored(order: Order, stamps: tuple[Stamp, ...], home: Path | None) -> Stored:
    """Return an order as it is kept."""
    names = (text_of_name(str(order.path)), text_of_name(str(home)) if home else "")
    kept = tuple((text_of_name(path), time, size) for path, time, size in stamps)
    return Stored(order.shot.name, names[0], order.kind.key, order.first, order.last, order.scale, order.what,
                  order.quality, order.every, order.alpha, order.dither, order.limit, encoded(order.shot), kept,
                  names[1])  # fmt: skip


class Status(msgspec.Struct, frozen=True):
    """How far an order is: written by who renders it."""

    state: str = WAITING
    done: int = 0
    left: float | None = None
    """Seconds; None where nobody knows yet."""
    line: str = ""
    """What went wrong with all of it."""
    failures: dict[int, str] = {}
    """Frames that failed, each with the reason."""
    problems: tuple[str, ...] = ()
    files: tuple[str, ...] = ()
    answered: int = 0
    """The `again` of the wish that this answers."""


class Wish(msgspec.Struct, frozen=True):
    """What is wished of an order: written by who looks on."""

    rank: float = 0.0
    paused: bool = False
    cancelled: bool = False
    again: int = 0
    """How often it was asked to go on after it had ended."""


def put(file: Path, item: msgspec.Struct) -> None:
    """Replace a file. Raises OSError."""
    part = file.with_name(f".{file.name}-{os.getpid()}")
    part.write_bytes(msgspec.json.encode(item))
    part.replace(file)


def take(file: Path, kind: type[Item]) -> Item | None:
    """Return what is in a file; None where it is not there or damaged."""
    try:
        return msgspec.json.decode(file.read_bytes(), type=kind)
    except (OSError, msgspec.MsgspecError):
        return None
