"""What goes between machines: bytes, which hold JSON and the contents of files; no objects are made of what comes.

A message is a line of JSON, then the files it speaks of. Whatever a broken machine sends is refused with a line.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, TypeVar

import msgspec

from nimble_quake.errors import FailedWork

MOST_BYTES = 4 * 2**30
"""The largest message that is taken."""
Message = TypeVar("Message")


class Envelope(msgspec.Struct, frozen=True):
    """The head of a message: what it says, and how long each file behind it is."""

    says: msgspec.Raw
    sizes: tuple[int, ...] = ()


def packed(says: object, files: Sequence[bytes] = ()) -> bytes:
    """Return a message as bytes. says: a struct, a list, a text."""
    head = Envelope(msgspec.Raw(msgspec.json.encode(says)), tuple(len(file) for file in files))
    return b"".join([msgspec.json.encode(head), b"\n", *files])


def unpacked(data: object, kind: type[Message] | Any) -> tuple[Message, list[bytes]]:
    """Return what a message says, and its files. Raises FailedWork for anything that is none of that kind."""
    if type(data) is not bytes or len(data) > MOST_BYTES:
        raise FailedWork(f"it sent {type(data).__name__} where bytes were asked for", cure="leave that machine out")
    try:
        end = data.index(b"\n")
        head = msgspec.json.decode(data[:end], type=Envelope)
        says: Message = msgspec.json.decode(head.says, type=kind)
    except (ValueError, RecursionError) as wrong:
        raise FailedWork(f"it sent what cannot be read ({wrong})", cure="leave that machine out") from wrong
    if any(size < 0 for size in head.sizes) or sum(head.sizes) != len(data) - end - 1:
        raise FailedWork("it sent less than it said", cure="leave that machine out")
    files, at = [], end + 1
    for size in head.sizes:
        files.append(data[at : at + size])
        at += size
    return says, files
