"""The kinds of parameter an operator can declare.

A parameter is a descriptor: on the operator class it is its own declaration, on an instance it is the resolved value.

    class Blur(Shaper):
        radius = Number("Radius", default=6, hard=(0, 500), usual=(0, 60), unit="px", help="...")

    Blur.radius          -> the declaration
    Blur(radius=4).radius -> 4.0

`check` takes what a file or a hand typed and returns the clean value, or raises ShotError.
"""

from __future__ import annotations

from nimble_quake.params.base import Pair, Param, Rgba, shown
from nimble_quake.params.conditions import MoreThan, When
from nimble_quake.params.drives import Drive, Drives
from nimble_quake.params.lists import MAX_NET, MAX_POINTS, MAX_STOPS, Exceptions, Net, Outline, Stop, Stops
from nimble_quake.params.numbers import Colour, Number, Pairs, Place, StillNumber, Velocity, hex_of, parse_hex
from nimble_quake.params.words import (
    BandRef,
    Choice,
    Face,
    LayerName,
    MapRef,
    MediaFile,
    Option,
    PlateRef,
    Seed,
    SoundRef,
    StillMapRef,
    StillPlateRef,
    StillToggle,
    Toggle,
    ValueRef,
    Words,
    options,
)

__all__ = [
    "MAX_NET",
    "MAX_POINTS",
    "MAX_STOPS",
    "BandRef",
    "Choice",
    "Colour",
    "Drive",
    "Drives",
    "Exceptions",
    "Face",
    "LayerName",
    "MapRef",
    "MediaFile",
    "MoreThan",
    "Net",
    "Number",
    "Option",
    "Outline",
    "Pair",
    "Pairs",
    "Param",
    "Place",
    "PlateRef",
    "Rgba",
    "Seed",
    "SoundRef",
    "StillMapRef",
    "StillNumber",
    "StillPlateRef",
    "StillToggle",
    "Stop",
    "Stops",
    "Toggle",
    "ValueRef",
    "Velocity",
    "When",
    "Words",
    "hex_of",
    "options",
    "parse_hex",
    "shown",
]
