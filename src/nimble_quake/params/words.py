"""Parameters that are one of several things, a switch, a seed, words, or the name of something else."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from nimble_quake.conventions import Json
from nimble_quake.errors import OutOfLimits, ShotError
from nimble_quake.params.base import Holds, Param, Rename, finite, shown


@dataclass(frozen=True)
class Option:
    """One choice: the value in the file, the word on screen, and what it does."""

    value: str
    label: str
    help: str = ""


def options(**labels: str) -> tuple[Option, ...]:
    """Return options from `value="Label: help"` pairs."""
    parts = ((value, *text.partition(": ")) for value, text in labels.items())
    return tuple(Option(value.rstrip("_"), label, about) for value, label, _, about in parts)


@dataclass(frozen=True, kw_only=True)
class Choice(Param, Holds[str]):
    """One of a few named things. `row` asks for a segmented row instead of a list that opens."""

    default: str = ""
    options: tuple[Option, ...] = ()
    row: bool = False
    animatable = True
    kind = "choice"

    def check(self, raw: object) -> str:
        values = [option.value for option in self.options]
        if raw not in values:
            raise ShotError(f"{shown(raw)} is not a choice", cure="use one of " + ", ".join(values))
        return str(raw)

    def label_of(self, value: str) -> str:
        """Return the word on screen for a value."""
        return next((option.label for option in self.options if option.value == value), value)

    def schema(self) -> dict[str, Json]:
        return {"enum": [option.value for option in self.options], "default": self.default}


@dataclass(frozen=True, kw_only=True)
class Toggle(Param, Holds[bool]):
    """Yes or no."""

    default: bool = False
    animatable = True
    kind = "toggle"

    def check(self, raw: object) -> bool:
        if not isinstance(raw, bool):
            raise ShotError(f"expected true or false, got {shown(raw)}")
        return raw

    def schema(self) -> dict[str, Json]:
        return {"type": "boolean", "default": self.default}


class StillToggle(Toggle):
    """A switch that takes no pins: what it is for is worked out once for the whole shot."""

    animatable = False
    takes_keys = False


@dataclass(frozen=True, kw_only=True)
class Seed(Param, Holds[int]):
    """A whole number that picks one of many chance arrangements."""

    default: int = 1
    kind = "seed"
    most = 999_999

    def check(self, raw: object) -> int:
        number = finite(raw, "a seed")
        if not number.is_integer() or not 0 <= number <= self.most:
            within = min(max(round(number), 0), self.most)
            raise OutOfLimits(f"{number:g} is not a seed", within, cure=f"use a whole number from 0 to {self.most}")
        return int(number)

    def schema(self) -> dict[str, Json]:
        return {"type": "integer", "minimum": 0, "maximum": self.most, "default": self.default}


@dataclass(frozen=True, kw_only=True)
class Words(Param, Holds[str]):
    """Some text."""

    default: str = ""
    most: int = 5000
    lines: bool = False
    animatable = True
    kind = "words"

    def check(self, raw: object) -> str:
        if not isinstance(raw, str):
            raise ShotError(f"expected text, got {shown(raw)}")
        text = self.clean(raw)
        if len(text) > self.most:
            what = f"the text is {len(text)} characters long"
            raise OutOfLimits(what, text[: self.most], cure=f"keep it under {self.most}")
        return text

    @staticmethod
    def clean(text: str) -> str:
        """Return text that every file can hold: without NUL, carriage returns and half characters."""
        text = text.replace("\x00", "").replace("\r\n", "\n").replace("\r", "\n")
        return text.encode("utf-8", "replace").decode("utf-8")

    def schema(self) -> dict[str, Json]:
        return {"type": "string", "maxLength": self.most}


@dataclass(frozen=True, kw_only=True)
class Face(Words):
    """The name of a typeface family."""

    most: int = 200
    kind = "face"


@dataclass(frozen=True, kw_only=True)
class MediaFile(Words):
    """A file on disk: absolute while the shot is open, relative to the shot in its file."""

    animatable = False

    takes_keys = False

    most: int = 4096
    sort: str = "picture"
    """Which files the chooser shows: picture, artwork, clip, sound, or data (a map of places)."""
    kind = "file"

    @staticmethod
    def clean(text: str) -> str:
        """A file's name may hold bytes that are no text; they are kept as Python does (PEP 383)."""
        return text.replace("\x00", "")


@dataclass(frozen=True, kw_only=True)
class LayerName(Words):
    """The name of a layer in a file; empty for the picture itself."""

    most: int = 200
    of: str = "file"
    """The parameter that names the file."""
    kind = "layer"


@dataclass(frozen=True, kw_only=True)
class Ref(Words):
    """The id of something in a row of the shot; empty for none."""

    animatable = False

    row: ClassVar[str] = ""
    none: str = "None"
    """What an empty one is called."""

    def renamed(self, value: str, rename: Rename) -> str:
        return rename(self.path_of(value)).rpartition("/")[2] if value else value

    def path_of(self, value: str) -> str:
        """Return the path of what a value names."""
        return f"{self.row}/{value}"


@dataclass(frozen=True, kw_only=True)
class ValueRef(Words):
    """The path of a value of the shot; empty for none."""

    animatable = False
    takes_keys = False

    most: int = 300

    def renamed(self, value: str, rename: Rename) -> str:
        return rename(value) if value else value


@dataclass(frozen=True, kw_only=True)
class MapRef(Ref):
    """The id of a map; empty for none."""

    wanted: bool = False
    """Without one it does nothing: a new step begins with a map of the shot."""
    exceptions_by: str = ""
    """The parameter with values that are other ones while it is read; empty: it is read as it is."""
    row = "maps"
    most: int = 200
    kind = "map"


@dataclass(frozen=True, kw_only=True)
class PlateRef(Ref):
    """The id of a plate; empty for none."""

    row = "plates"
    effects_by: str = ""
    """The toggle that says whether the plate is read after its effects; empty: it is read before them."""
    as_shown: bool = False
    """The plate is read as the stack shows it: with its effects, its opacity, within its span."""
    tracked: bool = False
    """It is read for the points that were tracked in it."""
    most: int = 200
    kind = "plate"


class StillMapRef(MapRef):
    """The id of a map that takes no pins."""

    takes_keys = False


class StillPlateRef(PlateRef):
    """The id of a plate that takes no pins: the bars of the shot are laid out by it."""

    takes_keys = False


@dataclass(frozen=True, kw_only=True)
class BandRef(Ref):
    """The id of a band of the shot's sound; empty for none."""

    takes_keys = False
    row = "bands"
    most: int = 200
    kind = "band"


@dataclass(frozen=True, kw_only=True)
class SoundRef(Ref):
    """The id of a sound; empty for all of them."""

    takes_keys = False
    row = "sounds"
    most: int = 200
    kind = "sound"
