"""What a kind of file is, and the names of numbered files. The kinds themselves are files of `export.kinds`."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

from nimble_quake.declared.discovery import values_added, values_in
from nimble_quake.errors import BadInput

if TYPE_CHECKING:
    from nimble_quake.conventions import Picture
    from nimble_quake.export.soundtrack import Soundtrack
    from nimble_quake.export.writers import Part, Prepared, Writer

SEGMENT = 48
"""Frames of a clip that are encoded by themselves and joined to the rest without a second encoding."""
SHORTEST_SEGMENT = 12
"""The same for short clips: each begins with a picture of its own, which costs size."""
PARTS_AT_LEAST = 8
"""Into so many parts a clip falls, where they do not become too short."""


@dataclass(frozen=True)
class Target:
    """A file that is to be written."""

    path: Path
    format: Format
    rate: Fraction
    width: int
    height: int
    quality: int = 0
    sound: Soundtrack | None = None
    notes: tuple[tuple[str, str], ...] = ()
    """What is said in the file's own attributes: (name, words) each."""
    layers: tuple[str, ...] = ("",)
    """The names of the pictures that are handed on, side by side."""
    overscan: int = 0
    """How many pixels more than the frame is wide and high there are on every side; width and height count them."""
    colours: bool = True
    """It holds colours, which are sRGB where the format is not linear; else numbers, of no colour space."""
    associated: bool = False
    """Its colours are multiplied by its alpha, although the format holds them straight by itself."""
    frame: int = 0
    """The number of the picture that is handed on."""


@dataclass(frozen=True)
class Format:
    """A kind of output. `qualities`: shown name -> the encoder's own number, the best first.

    A render is made of parts, each a file: `prepare` makes of a picture what is written, on any thread; the writer
    that `opens` gives takes the frames of one part in order; `join` makes the files that were asked for of all parts.
    """

    key: str
    label: str
    suffix: str
    about: str
    alpha: bool
    prepare: Callable[[Picture, Target], Prepared]
    opens: Callable[[Target], Writer]
    join: Callable[[Target, Sequence[Part]], list[Path]]
    segment: int = 1
    """Frames to a part, at most: see `part_length`."""
    part_suffix: str = ""
    """The ending of a part's file, where it is not the format's own."""
    sequence: bool = False
    bits: int = 8
    qualities: tuple[tuple[str, int], ...] = ()
    sound: str = ""
    """The encoder of its sound; empty where it has none."""
    data: bool = False
    """It holds any number, also below 0 and above 1: maps go into it as they are."""
    rank: int = 100
    """Where it stands among the others: low comes first. Of several with one ending the first is taken
    by its name, our own before what is added."""
    layers: bool = False
    """It holds several pictures by name."""
    overscan: bool = False
    """It can hold more than the frame, and says which part of it the frame is."""
    linear: bool = False
    """It holds linear light: pictures are turned into it."""
    lossy: bool = False
    """What is decoded of it is not quite what was encoded."""
    also: tuple[str, ...] = ()
    """Other endings of the same kind of file."""

    def ends(self, path: Path) -> bool:
        """Return whether a file's name ends as this kind does."""
        return path.suffix.lower() in (self.suffix, *self.also)

    def quality_named(self, word: str, where: str = "") -> int | None:
        """Return the encoder's number of a quality such as "good"; None where there is no choice. Raises BadInput."""
        numbers = {name.lower(): number for name, number in self.qualities}
        if numbers and word.lower() not in numbers:
            raise BadInput(f'"{word}" is no quality', where=where, cure=f"use one of {', '.join(numbers)}")
        return numbers.get(word.lower())

    def part_length(self, count: int) -> int:
        """Return how many frames a part has, of so many frames in all.

        It hangs on nothing else, so that a file has the same bits however many machines made it; short clips have
        short parts, so that all machines have something to do.
        """
        return min(self.segment, max(SHORTEST_SEGMENT, -(-count // PARTS_AT_LEAST))) if self.segment > 1 else 1


ENTRY_POINTS = "nimble_quake.formats"


@cache
def formats() -> tuple[Format, ...]:
    """Return every kind of file, in order. Raises TypeError where a module holds none, or two have one name."""
    found = [*_ours(), *values_added(ENTRY_POINTS, Format)]
    if len({format.key for format in found}) < len(found):
        raise TypeError("there are two formats of one name")
    return _in_order(found)


@cache
def _ours() -> tuple[Format, ...]:
    """Those that come along: what was added is looked for only where none of them will do."""
    return _in_order(values_in("nimble_quake.export.kinds", Format))


def _in_order(found: list[Format]) -> tuple[Format, ...]:
    return tuple(sorted(found, key=lambda format: (format.rank, format.key)))


def _fitting(fits: Callable[[Format], bool]) -> list[Format]:
    return [format for format in _ours() if fits(format)] or [format for format in formats() if fits(format)]


def format_named(key: str) -> Format:
    """Return a kind of file by its key. Raises BadInput."""
    found = _fitting(lambda format: format.key == key)
    if not found:
        known = ", ".join(format.key for format in formats())
        raise BadInput(f'"{key}" is no format', cure=f"use one of {known}")
    return found[0]


def format_of(path: Path, *, deep: bool = False, key: str = "") -> Format:
    """Return the format that a file name asks for; deep: with 16 bits; key: this one, whose ending it must have.

    Raises BadInput.
    """
    if key:
        named = format_named(key)
        if not named.ends(path):
            raise BadInput(f"the format {key} ends in {named.suffix}", where=str(path), cure="give it that ending")
        return named
    fitting = _fitting(lambda format: format.ends(path))
    deeper = [format for format in fitting if format.bits == 16]
    if deep and deeper:
        return deeper[0]
    if fitting:
        return fitting[0]
    known = ", ".join(sorted({format.suffix for format in formats()}))
    raise BadInput(f'"{path.suffix}" is no kind of file we write', where=str(path), cure=f"end its name in {known}")


def numbered(path: Path, frame: int) -> Path:
    """Return the file of a frame: a run of # in the name becomes the number, else it is put before the ending."""
    name = path.name
    hashes = next((run for run in _runs(name)), "")
    if not hashes:
        return path.with_name(f"{path.stem}_{frame:04d}{path.suffix}")
    return path.with_name(name.replace(hashes, f"{frame:0{len(hashes)}d}", 1))


def _runs(name: str) -> list[str]:
    runs, here = [], ""
    for character in name + " ":
        if character == "#":
            here += "#"
        elif here:
            runs.append(here)
            here = ""
    return sorted(runs, key=len, reverse=True)
