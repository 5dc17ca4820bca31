"""What is on disk beside an order: how far it is, and what is wished of it.

The order and each of these have a file of their own with a single writer: who orders, who renders, who looks on. All
are replaced whole.
"""

from __future__ import annotations

from pathlib import Path
from typing import TypeVar

import msgspec

from nimble_quake.errors import NimbleQuakeError
from nimble_quake.shotfile.files import MOST_BYTES, put_bytes, read_plain, write_whole
from nimble_quake.shotfile.names import name_of_text, text_of_name

WAITING, RUNNING, DONE, FAILED, INCOMPLETE = "waiting", "running", "done", "failed", "incomplete"
FINISHED = (DONE, FAILED, INCOMPLETE)
Item = TypeVar("Item")


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


def put(file: Path, item: object, *, flush: bool = True) -> None:
    """Replace a file by a struct or dataclass. Raises SaveFailed. flush: as in `write_whole`."""
    data = msgspec.json.encode(item, enc_hook=lambda path: text_of_name(str(path)))
    write_whole(file, lambda target: put_bytes(target, data), flush=flush)


def take(file: Path, kind: type[Item]) -> Item | None:
    """Return what is in a file; None where it is not there or damaged."""
    try:
        data = read_plain(file, MOST_BYTES)
        return msgspec.json.decode(data, type=kind, dec_hook=lambda _, name: Path(name_of_text(name)))
    except (OSError, NimbleQuakeError, msgspec.MsgspecError, RecursionError):
        return None


def wish_of(folder: Path) -> Wish | None:
    """Return what is wished of an order: nothing special where that is damaged; None where the order is gone."""
    wish = take(folder / "wish.json", Wish)
    return Wish() if wish is None and (folder / "order.json").exists() else wish
