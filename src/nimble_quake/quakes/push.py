"""Push."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field, Pixels, Warp
from nimble_quake.operators.base import FITS, Quake
from nimble_quake.params.kinds import Choice, MapRef, Number, Toggle, options
from nimble_quake.raster.colour import channel
from nimble_quake.raster.offsets import scaled_offsets

CHANNELS = options(
    value="Value: the grey of the map, or its own axis",
    red="Red", green="Green", blue="Blue", alpha="Alpha", luminance="Luminance: BT.709 of the values as given",
    lightness="Lightness", hue="Hue", saturation="Saturation", none="None: not moved",
)  # fmt: skip


def _reach(label: str, which: str, default: float) -> Number:
    return Number(
        label=label, help=f"How far pure white moves the picture {which}; black moves it the other way",
        default=default, hard=(-20000, 20000), usual=(-200, 200), unit="px",
    )  # fmt: skip


class Push(Quake):
    """Moves pixels by map values: p shows the picture at p + 2 reach (c - rest).

    W3C Filter Effects 1, feDisplacementMap, with scale = 2 reach.
    """

    title = "Push"
    help = "Moves pixels by the map's values"

    map = MapRef(label="Map", help="The map that drives it")
    mode = Choice(
        label="Push along", help="Two axes, or one bearing", default="axes", row=True,
        options=options(axes="Axes: across and down", bearing="Bearing: one direction"),
    )  # fmt: skip
    x_from = Choice(label="Across by", help="The channel that moves it across", default="value", options=CHANNELS)
    reach_x = _reach("Across reach", "left", 30.0)
    y_from = Choice(
        label="Down by", help="The channel that moves it down", default="value", options=CHANNELS,
        shown_when=("mode", "axes"),
    )  # fmt: skip
    reach_y = Number(
        label="Down reach", help="How far pure white moves the picture up; black moves it the other way",
        default=30.0, hard=(-20000, 20000), usual=(-200, 200), unit="px", shown_when=("mode", "axes"),
        follows=("linked", "reach_x"),
    )  # fmt: skip
    linked = Toggle(label="Linked", help="Down follows across: one reach for both axes", shown_when=("mode", "axes"))
    bearing = Number(
        label="Direction", help="The bearing white pushes towards; 0 is right, 90 is down", default=0.0,
        hard=(-36000, 36000), usual=(-180, 180), unit="°", ring=True, shown_when=("mode", "bearing"),
    )  # fmt: skip
    rest_by = Choice(
        label="Rest", help="Which map value moves nothing; the level below says where that is now", default="auto",
        options=options(
            auto="Automatic: mid grey (0.5), or code 128 after an 8-bit picture; not the mean of the map",
            two="Two-sided: mid grey rests",
            one="One-sided: black rests",
            picked="Picked: the level below",
        ),
    )  # fmt: skip
    rest = Number(
        label="Rest level", help="The map value that leaves the picture where it is; changing it picks it",
        default=0.5, hard=(-4, 5), usual=(0, 1), decimals=3, sets=("rest_by", "picked"),
    )  # fmt: skip
    edge = Choice(
        label="Edge", help="What is pulled in from beyond the plate's border; the last quake's edge counts",
        default="empty",
        options=options(
            empty="Empty: nothing", hold="Hold: the border's pixels go on", wrap="Wrap: the other side comes in",
            mirror="Mirror: it is folded back",
        ),
    )  # fmt: skip
    hook = Choice(
        label="Hook-up", help="Frame: things pass through the map. Plate: the map travels with it", default="frame",
        row=True, options=options(frame="Frame", plate="Plate"),
    )  # fmt: skip
    fit = Choice(
        label="Map fit", help="How the map is laid over the plate", default="stretch", options=FITS,
        shown_when=("hook", "plate"),
    )  # fmt: skip
    clear = Choice(
        label="Clear parts", help="What transparent parts of the map count as", default="rest",
        options=options(
            rest="Rest: they move nothing", black="Black", white="White", **{"as-is": "As is: their own colour"}
        ),
    )  # fmt: skip
    filter = Choice(
        label="Filter", help="How pixels are fetched between pixels", default="linear",
        options=options(linear="Linear", cubic="Cubic: sharper, slower", nearest="Nearest: no smoothing"),
    )  # fmt: skip
    strength = Number(
        label="Strength", help="Scales the whole push", default=1.0, hard=(-100, 100), usual=(0, 1), unit="%",
        factor=100, decimals=0,
    )  # fmt: skip

    def _reaches(self) -> tuple[float, float]:
        if self.mode == "bearing":
            angle = math.radians(self.bearing)
            return -self.reach_x * math.cos(angle) * self.strength, -self.reach_x * math.sin(angle) * self.strength
        down = self.reach_x if self.linked else self.reach_y
        x = 0.0 if self.x_from == "none" else self.reach_x
        y = 0.0 if self.y_from == "none" else down
        return x * self.strength, y * self.strength

    def idle(self) -> bool:
        return not self.map or self._reaches() == (0.0, 0.0) or (self.mode == "bearing" and self.x_from == "none")

    def farthest(self, field: Field, rest: float) -> Pixels:
        rest, far = self.rest_level(rest), 0.0
        for axis, (name, reach) in enumerate(zip((self.x_from, self._down_by()), self._reaches(), strict=True)):
            if reach and name != "none":
                levels = self._levels(field, name, axis, rest)
                far = max(far, 2 * abs(reach) * max(abs(float(levels.min()) - rest), abs(float(levels.max()) - rest)))
        return far

    def _down_by(self) -> str:
        """The channel that moves it down: along a bearing there is one for both axes."""
        return self.x_from if self.mode == "bearing" else self.y_from

    def rest_level(self, of_map: float) -> float:
        """Return the level that moves nothing; `of_map`: what the map itself rests at."""
        return {"auto": of_map, "two": 0.5, "one": 0.0}.get(self.rest_by, self.rest)

    def offsets(self, field: Field, rest: float) -> Warp:
        rest = self.rest_level(rest)
        reach_x, reach_y = self._reaches()
        across = self._levels(field, self.x_from, 0, rest)
        if self.mode == "bearing" or (self.y_from == self.x_from and field.shape[2] != 2):
            down = across
        else:
            down = self._levels(field, self.y_from, 1, rest)
        return scaled_offsets(across, down, rest, 2 * reach_x, 2 * reach_y)

    def _levels(self, field: Field, name: str, axis: int, rest: float) -> NDArray[np.float32]:
        """A channel's values, clear parts counted as asked."""
        values = channel(field, name, axis)
        if field.shape[2] == 4 and self.clear != "as-is" and name != "alpha":
            alpha = np.clip(field[..., 3], 0, 1)
            ground = np.float32({"white": 1.0, "black": 0.0}.get(self.clear, rest))
            values = ground + (values - ground) * alpha
        return values
