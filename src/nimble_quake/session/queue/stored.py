"""What is on disk beside an order: how far it is, and what is wished of it.

The order and each of these have a file of their own with a single writer: who orders, who renders, who looks on. All
are replaced whole.
"""

from __future__ import annotations

import os
from pathlib import Path
from typing import TypeVar

import msgspec

from nimble_quake.farm.where import Where
from nimble_quake.shotfile.names import name_of_text, text_of_name

WAITING, RUNNING, DONE, FAILED, INCOMPLETE = "waiting", "running", "done", "failed", "incomplete"
FINISHED = (DONE, FAILED, INCOMPLETE)
Item = TypeVar("Item", bound=msgspec.Struct)


class Machines(msgspec.Struct, frozen=True):
    """Who renders an order, where it is not this machine alone: as `farm.where.Where`."""

    address: str = ""
    workers: int = 0
    keys: str = ""
    plain: bool = False

    def where(self) -> Where:
        """Return the machines."""
        keys = Path(name_of_text(self.keys)) if self.keys else None
        return Where(self.address, self.workers, keys, self.plain)


def machines(where: Where) -> Machines:
    """Return machines as they are kept."""
    keys = text_of_name(str(where.keys.absolute())) if where.keys else ""
    return Machines(where.address, where.workers, keys, where.plain)


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
