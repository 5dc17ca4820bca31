"""Push."""

from __future__ import annotations

import math
from dataclasses import replace

from nimble_quake.conventions import Pixels, Warp
from nimble_quake.operators.base import Context
from nimble_quake.operators.graphs import Curve, Graph
from nimble_quake.operators.quake import BendQuake
from nimble_quake.operators.reading import ReadsMap, a_channel
from nimble_quake.params.base import Joined
from nimble_quake.params.kinds import Choice, Number, Option, Place, Toggle, When, options
from nimble_quake.raster.geometry.places import Places
from nimble_quake.raster.warps.offsets import round_offsets, scaled_offsets


def _reach(label: str, help: str) -> Number:
    return Number(label=label, help=help, default=30.0, hard=(-1e6, 1e6), usual=(-200, 200), unit="px")


def _reach_line(name: str, reach: float, rest: float, strength: float, dashed: bool = False) -> Curve:
    """What moves left lies left: white, at the top, goes by the reach."""
    per = steepness(rest)
    ends = tuple((-per * reach * (v - rest), v) for v in (1.0, 0.0))
    return Curve(ends, dashed=dashed, sets=name, per=-per * (strength or 1.0))


def steepness(rest: float) -> float:
    """Return by how much of the reach a map value of 1 above rest pushes: white goes by the whole of it.

    2 where mid grey rests, 1 where black does. Where the rest lies above mid grey, it is black that goes so far.
    """
    return 1 / max(rest, 1 - rest, 0.5)


class Push(BendQuake):
    """Moves pixels by map values: p shows the picture at p + reach (c - rest) / (1 - rest).

    W3C Filter Effects 1, feDisplacementMap, with scale = 2 reach where mid grey rests. White goes left and up, along
    the bearing, away from the centre, or clockwise round it.
    """

    title = "Push"
    called = "displacement"
    group = "Move"
    help = "Moves pixels by the map's values"
    idle_because = "Reach is 0, or no channel is chosen"
    rank = 2000
    lively = {"reach_x": 90.0, "reach_y": 90.0}

    mode = Choice(
        label="Push along",
        help="Two axes, one bearing, out of a centre, or round it",
        default="axes",
        options=options(
            axes="Axes: across and down",
            bearing="Bearing: one direction",
            out="Out of a centre",
            round="Round a centre",
        ),
    )
    x_from = replace(
        a_channel("Across by", "The channel that moves it across, or along the one way it goes"),
        joined=Joined("reach_x", "Across", When("mode", "axes"), "Reach"),
    )
    reach_x = _reach("Across reach", "How far pure white moves the picture left (or along); black the other way")
    y_from = replace(
        a_channel("Down by", "The channel that moves it down", shown_when=When("mode", "axes")),
        joined=Joined("reach_y", "Down", link="linked"),
    )
    reach_y = Number(
        label="Down reach",
        help="How far pure white moves the picture up; black moves it the other way",
        default=30.0,
        hard=(-1e6, 1e6),
        usual=(-200, 200),
        unit="px",
        shown_when=When("mode", "axes"),
        follows=("linked", "reach_x"),
    )
    linked = Toggle(
        label="Linked", help="Down follows across: one reach for both axes", shown_when=When("mode", "axes")
    )
    bearing = Number(
        label="Direction",
        help="The bearing white pushes towards; 0 is right, 90 is down",
        default=0.0,
        hard=(-36000, 36000),
        usual=(-180, 180),
        unit="°",
        ring=True,
        shown_when=When("mode", "bearing"),
    )
    centre = Place(label="Centre", help="What it pushes away from, or round", shown_when=When("mode", "out", "round"))
    rest_by = replace(
        ReadsMap.rest_by,
        options=(
            *ReadsMap.rest_by.options,
            Option("ground", "As recipe", "What the steps before rest at; sampled by itself"),
        ),
    )

    sure = True

    @classmethod
    def begins_with(cls, width: float, height: float) -> dict[str, object]:
        reach = float(round(0.03 * width))
        return {"reach_x": reach, "reach_y": reach}

    @property
    def alone(self) -> bool:
        return bool(self.rest_by == "ground")

    def _reaches(self) -> tuple[float, float]:
        """How far white pushes across and down; along one way, the first is that way's."""
        if self.mode != "axes":
            return (0.0 if self.x_from == "none" else self.reach_x * self.strength), 0.0
        down = self.reach_x if self.linked else self.reach_y
        x = 0.0 if self.x_from == "none" else self.reach_x
        y = 0.0 if self.y_from == "none" else down
        return x * self.strength, y * self.strength

    def idle(self) -> bool:
        return self._reaches() == (0.0, 0.0)

    def _rest(self, ctx: Context) -> float:
        return ctx.rest if self.rest_by == "ground" else self.level_now(ctx)

    def reach_of_offsets(self, ctx: Context) -> Pixels:
        rest, far = self._rest(ctx), 0.0
        for axis, (name, reach) in enumerate(zip((self.x_from, self.y_from), self._reaches(), strict=True)):
            if reach and name != "none":
                low, high = self.extremes(name, axis, rest, ctx)
                far = max(far, steepness(rest) * abs(reach) * max(abs(low - rest), abs(high - rest)))
        return ctx.reads.stretched(far, self.hook)

    def summary(self) -> str:
        x, y = self._reaches()
        return f"{max((x, y), key=abs):.0f} px"

    def graph(self, rest: float) -> Graph:
        x, y = self._reaches()
        alike = self.mode != "axes"
        curves = [_reach_line("reach_x", -x if alike else x, rest, self.strength * (-1 if alike else 1))]
        if y:
            name = "reach_x" if self.linked else "reach_y"
            curves.insert(0, _reach_line(name, y, rest, self.strength, dashed=True))
        axes = (("red", "across", self.x_from), ("green", "down", self.y_from))
        notes = [f"{word} {axis}" for word, axis, name in axes if name == "value"]
        largest = max(abs(x), abs(y), 1.0)
        return Graph(tuple(curves), largest, notes=() if alike else tuple(notes))

    def white_goes(self) -> tuple[float, float]:
        if self.mode in ("out", "round"):
            return 0.0, 0.0
        x, y = self._reaches()
        if self.mode == "bearing":
            angle, sign = math.radians(self.bearing), math.copysign(1.0, x)
            return (math.cos(angle) * sign, math.sin(angle) * sign) if x else (0.0, 0.0)
        far = math.hypot(x, y)
        return (-x / far, -y / far) if far else (0.0, 0.0)

    def goes_round(self) -> bool:
        return self.mode in ("out", "round")

    def slide(self, means: tuple[float, float], rest: float) -> tuple[float, float]:
        if self.rest_by == "one" or self.mode in ("out", "round"):
            return 0.0, 0.0
        (x, y), per = self._reaches(), steepness(rest)
        if self.mode == "bearing":
            angle, along = math.radians(self.bearing), -per * x * (means[0] - rest)
            return along * math.cos(angle), along * math.sin(angle)
        return per * x * (means[0] - rest), per * y * (means[1] - rest)

    def does_at(self, level: float, rest: float) -> tuple[str, float]:
        if self.rest_by == "one" or self.mode not in ("out", "round"):
            return super().does_at(level, rest)
        far = steepness(rest) * self._reaches()[0] * (level - rest)
        ways = ("outwards", "inwards") if self.mode == "out" else ("clockwise", "anticlockwise")
        return (f"it goes {abs(far):.0f} px {ways[far < 0]}", abs(far)) if abs(far) > 1 else ("", 0.0)

    def channels_read(self) -> tuple[str, str]:
        return self.x_from, self.y_from if self.mode == "axes" else self.x_from

    def offsets(self, places: Places, ctx: Context) -> Warp:
        field, rest = self.field_at(places, ctx), self._rest(ctx)
        reach_x, reach_y = self._reaches()
        across, per = self.levels(field, self.x_from, 0, rest), steepness(rest)
        if self.mode in ("out", "round"):
            return round_offsets(across, places.absolute(), self.centre, rest, -per * reach_x, self.mode == "round")
        if self.mode == "bearing":
            way = (math.cos(math.radians(self.bearing)), math.sin(math.radians(self.bearing)))
            moves = scaled_offsets(across, across, rest, *(-per * reach_x * part for part in way))
        else:
            alike = self.y_from == self.x_from and field.shape[2] != 2
            down = across if alike else self.levels(field, self.y_from, 1, rest)
            moves = scaled_offsets(across, down, rest, per * reach_x, per * reach_y)
        return ctx.reads.turned(moves, self.hook)
