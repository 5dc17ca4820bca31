"""An order as a value that can be kept in a file or sent to another machine: it holds the shot as it was."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec

from nimble_quake.errors import BadInput
from nimble_quake.export.data import OF_MAPS, in_words
from nimble_quake.export.order import Order, Stamp
from nimble_quake.export.outputs import Output, ordered, output_of
from nimble_quake.shotfile.codec import decoded, encoded
from nimble_quake.shotfile.names import name_of_text, text_of_name

FORMAT = 1


class Stored(msgspec.Struct, frozen=True):
    """An order, with the shot as it was: the fields of `Output` under their own names, its format as kind."""

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
    overscan: int = 0
    format: int = FORMAT
    sound_rate: int = 0

    @property
    def words(self) -> str:
        """What is asked for, such as "ST map of Lanterns"; empty for the picture."""
        row = "maps" if self.what.partition(":")[0] in OF_MAPS else "plates"
        items = self.shot.get(row, []) if isinstance(self.shot, dict) else []
        return in_words(self.what, {str(i.get("id")): str(i.get("name", "")) for i in items if isinstance(i, dict)})

    def order(self) -> Order:
        """Return the order. Raises ShotError or BadInput where it cannot be read."""
        if not is_placed(self.file):
            raise BadInput(f'"{self.file}" is no place for a file', cure="give the order again")
        mine = msgspec.structs.asdict(self)
        asked = {name: mine[name] for name in Output.__struct_fields__ if name != "format"}
        return ordered(Output(self.kind, **asked), decoded(self.shot), self.file, self.first, self.last)

    @property
    def file(self) -> Path:
        """The file that is asked for."""
        return Path(name_of_text(self.path))

    @property
    def count(self) -> int:
        """How many frames are asked for."""
        return len(range(self.first, self.last + 1, max(1, self.every)))


def is_placed(file: Path) -> bool:
    """Return whether an order's file lies at one place, wherever it is read: from the root, without steps back."""
    return file.is_absolute() and bool(file.name) and ".." not in file.parts


def stored(order: Order, stamps: tuple[Stamp, ...], home: Path | None) -> Stored:
    """Return an order as it is kept."""
    names = (text_of_name(str(order.path)), text_of_name(str(home)) if home else "")
    kept = tuple((text_of_name(path), time, size) for path, time, size in stamps)
    asked = msgspec.structs.asdict(output_of(order))
    return Stored(
        name=order.shot.name,
        path=names[0],
        kind=asked.pop("format"),
        first=order.first,
        last=order.last,
        shot=encoded(order.shot),
        stamps=kept,
        home=names[1],
        **asked,
    )
