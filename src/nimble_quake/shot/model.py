"""The document: a shot and all in it, as frozen values that share what an edit did not touch.

Values of operators are kept by parameter name, and only where they differ from the default. What a file holds that
this version does not know is kept in `extra` and written back.
"""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated, TypeAlias

import msgspec

from nimble_quake.conventions import MAX_FRAMES, MAX_SIDE, Json, Values
from nimble_quake.motion.kinds import said_by
from nimble_quake.shot.fields import (
    Extra,
    Fades,
    FlatColour,
    Id,
    Items,
    Lines,
    Moments,
    OneOf,
    OperatorValues,
    Range,
    Rate,
    Reference,
    Switch,
    Text,
    Whole,
)

FORMAT = 3
"""The number of the file format; raised when an older program could misread a newer file."""

Unknown: TypeAlias = Annotated[dict[str, Json], Extra()]
Frame: TypeAlias = Annotated[
    int | None, Whole(low=-MAX_FRAMES, high=MAX_FRAMES, optional=True, listed=True, frame=True)
]


class Node(msgspec.Struct, frozen=True, kw_only=True):
    """An operator in the shot: a step of a recipe, an effect, or the base of a plate."""

    id: Annotated[str, Id(written=True, listed=True)]
    kind: Annotated[str, Reference(written=True, listed=True)]
    version: Annotated[int, Whole(low=1, high=10_000, written=True)] = 1
    name: Annotated[str, Text(listed=True)] = ""
    on: Annotated[bool, Switch(listed=True)] = True
    inside: Annotated[str, Reference(most=100, listed=True)] = ""
    """The id of the bracket a step lies in, which stands before it; of the plate a dial or a slot belongs to."""
    shared: Annotated[str, Reference(most=300, listed=True)] = ""
    """The path of the effect whose kind and values this one has too: change one, and all follow."""
    side: Annotated[str, OneOf(words=("A", "B"), listed=True)] = "A"
    aside: Annotated[Values, OperatorValues()] = {}
    """The values of its other side, kept to be flipped to."""
    span: Annotated[tuple[int, int] | None, Range(listed=True)] = None
    """When an effect acts: its first frame, and the one after its last; None: always."""
    fades: Annotated[tuple[int, int], Fades(listed=True)] = (0, 0)
    """Over how many frames an effect comes in at the beginning of its span, and goes at its end."""
    values: Annotated[Values, OperatorValues(written=True)] = {}
    extra: Unknown = {}


class Plate(Node, frozen=True, kw_only=True):
    """One thing that is seen; `start` and `end` are frames (end not included), None where it has no end of its own."""

    start: Frame = None
    end: Frame = None
    locked: Annotated[bool, Switch(listed=True)] = False
    sharp: Annotated[bool, Switch(listed=True)] = False
    """The shutter leaves it out: it is asked at the frame's own moment."""
    effects: Annotated[tuple[Node, ...], Items(item="effect", most=100, word="effects", written=True)] = ()
    """Quakes and finishes, in the order they act."""


class Map(msgspec.Struct, frozen=True, kw_only=True):
    """A named, animated data picture, made by the steps of its recipe in order."""

    id: Annotated[str, Id(written=True, listed=True)]
    name: Annotated[str, Text(written=True, listed=True)] = ""
    recipe: Annotated[tuple[Node, ...], Items(item="step", most=200, word="steps", written=True)] = ()
    extra: Unknown = {}


class Marker(msgspec.Struct, frozen=True, kw_only=True):
    """A named moment on the ruler."""

    frame: Annotated[int, Whole(low=0, high=MAX_FRAMES, written=True, frame=True)] = 0
    name: Annotated[str, Text(written=True)] = ""
    extra: Unknown = {}


class State(msgspec.Struct, frozen=True, kw_only=True):
    """All values of a shot as they were once, to be gone back to or compared with; what there is, is not part of it.

    `shared` of each item is the path of what its values were taken from.
    """

    id: Annotated[str, Id(written=True)]
    name: Annotated[str, Text(written=True)] = ""
    plates: Annotated[tuple[Plate, ...], Items(item="plate", most=1000, word="plates")] = ()
    effects: Annotated[tuple[Node, ...], Items(item="effect", most=100_000, word="effects")] = ()
    steps: Annotated[tuple[Node, ...], Items(item="step", most=100_000, word="steps")] = ()
    sounds: Annotated[tuple[Node, ...], Items(item="sound", most=300, word="sounds")] = ()
    front: Annotated[tuple[Node, ...], Items(item="front", most=300, word="dials and slots")] = ()
    extra: Unknown = {}


ITEMS: dict[str, type[msgspec.Struct]] = {
    "plate": Plate,
    "map": Map,
    "effect": Node,
    "step": Node,
    "sound": Node,
    "front": Node,
    "marker": Marker,
    "state": State,
}
"""What the items of a field are, by their word."""


class Shot(msgspec.Struct, frozen=True, kw_only=True):
    """The document. `plates`: the top one first. `loop`: the range that plays, end not included.

    `playhead`: the frame it opens on; set when it is saved, no edit of its own.
    """

    name: Annotated[str, Text(written=True)] = "Untitled"
    width: Annotated[int, Whole(low=1, high=MAX_SIDE, written=True)] = 1920
    height: Annotated[int, Whole(low=1, high=MAX_SIDE, written=True)] = 1080
    rate: Annotated[Fraction, Rate(written=True)] = Fraction(30)
    length: Annotated[int, Whole(low=1, high=MAX_FRAMES, written=True)] = 150
    ground: Annotated[tuple[float, float, float, float], FlatColour(written=True)] = (0.0, 0.0, 0.0, 1.0)
    linear: Annotated[bool, Switch()] = False
    """Pictures are blurred, lit, resampled and blended in linear light; maps stay as they are."""
    shutter: Annotated[int, Whole(low=0, high=360)] = 0
    """How long each frame is open, in degrees of a turning shutter; 0: a moment, nothing smears."""
    shutter_phase: Annotated[int, Whole(low=-360, high=360)] = 0
    """By how much it opens after the frame begins, in degrees."""
    shutter_samples: Annotated[int, Whole(low=0, high=64)] = 16
    """At how many moments a frame is asked while it is open."""
    loop: Annotated[tuple[int, int] | None, Range(low=0)] = None
    playhead: Annotated[int, Whole(low=0, high=MAX_FRAMES, edited=False, frame=True)] = 0
    markers: Annotated[tuple[Marker, ...], Items(item="marker", most=10_000, word="markers", written=True)] = ()
    maps: Annotated[tuple[Map, ...], Items(item="map", most=500, word="maps", written=True)] = ()
    plates: Annotated[tuple[Plate, ...], Items(item="plate", most=1000, word="plates", written=True)] = ()
    sounds: Annotated[tuple[Node, ...], Items(item="sound", most=100, word="sounds")] = ()
    """Recordings, each placed in time; one that is off is muted."""
    bands: Annotated[tuple[Node, ...], Items(item="sound", most=200, word="bands")] = ()
    """Ranges of frequencies of the sounds, whose levels drive values."""
    front: Annotated[tuple[Node, ...], Items(item="front", most=300, word="dials and slots")] = ()
    """Dials and slots: what of the shot is brought to the front, each with the values that go along with it.

    `inside`: the id of the plate or group they belong to; empty: to the whole shot.
    """
    beats: Annotated[tuple[float, ...], Moments(most=100_000)] = ()
    """The frames of beats, in order."""
    seamless: Annotated[bool, Switch()] = False
    """It closes over its length: what swings, trembles and runs round does so a whole number of times."""
    guides_x: Annotated[tuple[float, ...], Lines(axis=0)] = ()
    """Where upright lines lie that help to place things, px; never rendered."""
    guides_y: Annotated[tuple[float, ...], Lines(axis=1)] = ()
    """Where level ones lie."""
    states: Annotated[tuple[State, ...], Items(item="state", most=100, word="states")] = ()
    """Kept to be compared, the oldest first."""
    extra: Unknown = {}

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
            if any(map_id in said_by(effect.values.get(name)) for name in ("map", "mask"))
        ]
