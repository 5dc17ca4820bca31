"""What an operator says of itself, as numbers and words: its graph, and remarks on the frame that is shown.

The desktop draws and writes them, and knows no kind.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from nimble_quake.conventions import Value


@dataclass(frozen=True)
class Curve:
    """A line through points (along the foot, up the side). A straight one whose ends set a value can be dragged."""

    points: tuple[tuple[float, float], ...]
    label: str = ""
    dashed: bool = False
    sets: str = ""
    """The parameter that its ends set; empty: it is only looked at."""
    per: float = 0.0
    """An end lies at value x per x (side - rest) along the foot."""


@dataclass(frozen=True)
class Remark:
    """One line on what is off with a step in the frame that is shown, and what mends it."""

    text: str
    cure: str = ""
    """What the button that mends it is called; empty: it has none."""
    values: tuple[tuple[str, Value], ...] = ()
    """The settings, by name, that mend it; none: switching it off does."""
    figure: float = 0.0
    """How much, in hundredths of the frame or in pixels."""


@dataclass(frozen=True)
class Graph:
    """Curves over a foot from -`reach` to `reach` (or from 0, where it is `one_way`) and a side from 0 to 1."""

    curves: tuple[Curve, ...] = ()
    reach: float = 1.0
    unit: str = "px"
    side: str = "map"
    """What lies up the side: "map" shows its histogram and its rest level; any other word is written there."""
    one_way: bool = False
    foot: str = ""
    """What the foot is called, where a unit does not say it."""
    notes: tuple[str, ...] = field(default=())


def plotted(
    function: Callable[[float], float], first: float, last: float, count: int = 49
) -> tuple[tuple[float, float], ...]:
    """Return (x, function(x)) at even steps."""
    steps = [first + (last - first) * n / (count - 1) for n in range(count)]
    return tuple((x, function(x)) for x in steps)


def profile(
    function: Callable[[float], float], reach: float, unit: str, foot: str = "", side: str = "strength"
) -> Graph:
    """Return the graph of something that depends on a distance: `function` of 0...`reach`, drawn within 0...1."""
    points = tuple(plotted(function, 0.0, max(reach, 1e-6)))
    return Graph((Curve(points),), max(reach, 1e-6), unit, side, one_way=True, foot=foot)
