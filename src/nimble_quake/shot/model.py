"""The document: a shot and all in it, as frozen values that share what an edit did not touch.

Values of operators are kept by parameter name, and only where they differ from the default. What a file holds that
this version does not know is kept in `extra` and written back.
"""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import msgspec

from nimble_quake.conventions import Json

FORMAT = 2
"""The number of the file format; raised when an older program could misread a newer file."""


class Node(msgspec.Struct, frozen=True, kw_only=True):
    """An operator in the shot: a step of a recipe, an effect, or the base of a plate."""

    id: str
    kind: str
    version: int = 1
    name: str = ""
    on: bool = True
    inside: str = ""
    """The id of the bracket a step lies in (steps of recipes only); the bracket stands before it."""
    values: dict[str, Any] = {}
    shared: str = ""
    """The path of the effect whose kind and values this one has too: change one, and all follow."""
    side: str = "A"
    aside: dict[str, Any] = {}
    """The values of its other side, kept to be flipped to."""
    span: tuple[int, int] | None = None
    """When an effect acts: its first frame, and the one after its last; None: always."""
    fades: tuple[int, int] = (0, 0)
    """Over how many frames an effect comes in at the beginning of its span, and goes at its end."""
    extra: dict[str, Json] = {}


class Plate(Node, frozen=True, kw_only=True):
    """One thing that is seen; `start` and `end` are frames (end not included), None where it has no end of its own."""

    start: int | None = None
    end: int | None = None
    locked: bool = False
    effects: tuple[Node, ...] = ()
    """Quakes and finishes, in the order they act."""


class Map(msgspec.Struct, frozen=True, kw_only=True):
    """A named, animated data picture, made by the steps of its recipe in order."""

    id: str
    name: str
    recipe: tuple[Node, ...] = ()
    extra: dict[str, Json] = {}


class Marker(msgspec.Struct, frozen=True, kw_only=True):
    """A named moment on the ruler."""

    frame: int
    name: str = ""


class Shot(msgspec.Struct, frozen=True, kw_only=True):
    """The document. `plates`: the top one first. `loop`: the range that plays, end not included.

    `playhead`: the frame it opens on; set when it is saved, no edit of its own.
    """

    name: str = "Untitled"
    width: int = 1920
    height: int = 1080
    rate: Fraction = Fraction(30)
    length: int = 150
    ground: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 1.0)
    linear: bool = False
    """Pictures are blurred, lit, resampled and blended in linear light; maps stay as they are."""
    seamless: bool = False
    """It closes over its length: what swings, trembles and runs round does so a whole number of times."""
    plates: tuple[Plate, ...] = ()
    maps: tuple[Map, ...] = ()
    sounds: tuple[Node, ...] = ()
    """Recordings, each placed in time; one that is off is muted."""
    bands: tuple[Node, ...] = ()
    """Ranges of frequencies of the sounds, whose levels drive values."""
    beats: tuple[float, ...] = ()
    """The frames of beats, in order."""
    markers: tuple[Marker, ...] = ()
    loop: tuple[int, int] | None = None
    playhead: int = 0
    extra: dict[str, Json] = {}

    def plate(self, id: str) -> Plate | None:
        """Return the plate of this id."""
        return next((plate for plate in self.plates if plate.id == id), None)

    def map(self, id: str) -> Map | None:
        """Return the map of this id."""
        return next((map for map in self.maps if map.id == id), None)

    def users_of(self, map_id: str) -> list[tuple[Plate, Node]]:
        """Return the effects that read a map, each with its plate."""
        return [
            (plate, effect)
            for plate in self.plates
            for effect in plate.effects
            if map_id in (effect.values.get("map"), effect.values.get("mask"))
        ]
