"""Parameters made of numbers: numbers, pairs, places, drifts, colours."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from nimble_quake.conventions import Json, Value
from nimble_quake.errors import OutOfLimits, ShotError
from nimble_quake.params.base import Holds, Pair, Param, Rgba, array_schema, finite, numbers_of, shown
from nimble_quake.params.refit import Refit, Scaling


@dataclass(frozen=True, kw_only=True)
class Number(Param, Holds[float]):
    """A number with a unit. `hard` limits are never passed; `usual` is what the slide-field's foot line spans."""

    default: float = 0.0
    hard: Pair = (-1e6, 1e6)
    usual: Pair = (0.0, 1.0)
    unit: str = ""
    whole: bool = False
    decimals: int = 1
    factor: float = 1.0
    """What is shown = value x factor (a share of 0...1 shown in %)."""
    accumulates: bool = False
    """A speed: the operator is handed its integral from frame 0 (value x seconds while still)."""
    ring: bool = False
    """An angle in degrees: shown with an angle ring."""
    neutral: float = 0.0
    """The value that changes nothing: gestures come from it and go back to it."""
    gone: float | None = None
    """The value at which what it belongs to is not there: leaving goes to it, and arriving comes from it."""
    nothing_at: float | None = None
    """The value at which the section it stands in does nothing, and says so while it is folded."""
    partner: str = ""
    """The same along the other axis, declared on the second of the two: linked, one is scaled as the other is."""
    linked: bool = False
    """They are linked from the start, as long as they are alike."""
    zero: str = ""
    """What stands in its field at 0, where that is no amount but something else: "never", "as the shot"."""

    animatable = True
    size = 1
    kind = "number"

    def check(self, raw: object) -> float:
        number = finite(raw, "a number")
        low, high = self.hard
        if not low <= number <= high:
            what, cure = f"{number:g} is outside {low:g} to {high:g}", f"use a value from {low:g} to {high:g}"
            raise OutOfLimits(what, self.clamp(number), cure=cure)
        return float(round(number)) if self.whole else number

    def hangs_on(self) -> list[str]:
        """Return what any parameter hangs on, and the number it is linked with."""
        return [*super().hangs_on(), self.partner]

    def clamp(self, number: float) -> float:
        """Return `number` held inside the hard limits (a moving value may leave them)."""
        if math.isnan(number):
            return self.default
        within = min(max(number, self.hard[0]), self.hard[1])
        return float(round(within)) if self.whole else within

    def encode(self, value: float) -> float | int:
        return int(value) if float(value).is_integer() and abs(value) < 2**53 else value

    def schema(self) -> dict[str, Json]:
        kind = "integer" if self.whole else "number"
        return {"type": kind, "minimum": self.hard[0], "maximum": self.hard[1], "default": self.default}


class StillNumber(Number):
    """A number that takes no pins: what it is for is worked out once for the whole shot."""

    animatable = False
    takes_keys = False


@dataclass(frozen=True, kw_only=True)
class Pairs(Param, Holds[Pair]):
    """Two numbers that belong together; the base of places and drifts."""

    default: Pair = (0.0, 0.0)
    hard: Pair = (-1e5, 1e5)
    unit: str = "px"
    accumulates: bool = False
    decimals: int = 1
    factor: float = 1.0

    animatable = True
    size = 2
    kind = "pair"

    def check(self, raw: object) -> Pair:
        x, y = numbers_of(raw, 2, "two numbers [x, y]")
        low, high = self.hard
        if not (low <= x <= high and low <= y <= high):
            cure = f"use values from {low:g} to {high:g}"
            raise OutOfLimits(f"[{x:g}, {y:g}] is outside {low:g} to {high:g}", self.clamp((x, y)), cure=cure)
        return x, y

    def clamp(self, pair: Pair) -> Pair:
        """Return the pair held inside the hard limits."""
        low, high = self.hard
        x, y = (min(max(v, low), high) if math.isfinite(v) else 0.0 for v in pair)
        return x, y

    def schema(self) -> dict[str, Json]:
        return {"type": "array", "items": {"type": "number"}, "minItems": 2, "maxItems": 2}


@dataclass(frozen=True, kw_only=True)
class Place(Pairs):
    """A place in shot pixels. `default` is a share of the frame: (0.5, 0.5) is its middle."""

    default: Pair = (0.5, 0.5)
    kind = "place"

    def start(self, width: float, height: float) -> Pair:
        return self.default[0] * width, self.default[1] * height

    def refit(self, by: Refit, like: Value) -> Scaling:
        return by.place(like)


@dataclass(frozen=True, kw_only=True)
class Velocity(Pairs):
    """A velocity (x, y) in px/s, set with a drift pad; the operator is handed the way gone since frame 0."""

    unit: str = "px/s"
    accumulates: bool = True
    usual: float = 400.0
    """The speed at the drift pad's border, in px/s."""
    kind = "drift"


@dataclass(frozen=True, kw_only=True)
class Colour(Param, Holds[Rgba]):
    """A colour: straight RGBA, 0...1, sRGB-encoded."""

    default: Rgba = (1.0, 1.0, 1.0, 1.0)
    animatable = True
    size = 4
    kind = "colour"

    def check(self, raw: object) -> Rgba:
        if isinstance(raw, str):
            return parse_hex(raw)
        r, g, b, a = numbers_of(raw, 4, "a colour (#rrggbb or four numbers)")
        return self.clamp((r, g, b, a))

    def clamp(self, rgba: Rgba) -> Rgba:
        """Return the colour held to 0...1."""
        r, g, b, a = (min(max(v, 0.0), 1.0) if math.isfinite(v) else 0.0 for v in rgba)
        return r, g, b, a

    def encode(self, value: Rgba) -> Json:
        text = hex_of(value)
        return text if parse_hex(text) == tuple(value) else list(value)

    def schema(self) -> dict[str, Json]:
        return {"anyOf": [{"type": "string", "pattern": "^#[0-9a-fA-F]{6}([0-9a-fA-F]{2})?$"}, array_schema(4)]}


def parse_hex(text: str) -> Rgba:
    """Return the colour of `#rrggbb` or `#rrggbbaa`."""
    if not re.fullmatch(r"#[0-9a-fA-F]{6}([0-9a-fA-F]{2})?", text):
        raise ShotError(f"expected a colour like #ffcc00, got {shown(text)}")
    r, g, b, a = (int((text[1:] + "ff")[i : i + 2], 16) / 255 for i in (0, 2, 4, 6))
    return r, g, b, a


def hex_of(rgba: Rgba) -> str:
    """Return `#rrggbb`, with the alpha added where it is not full."""
    digits = "".join(f"{round(min(max(v, 0), 1) * 255):02x}" for v in rgba)
    return "#" + (digits[:6] if digits.endswith("ff") else digits)
