"""Particles."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TypeAlias

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import REST, Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.graphs import Remark
from nimble_quake.operators.quantities import a_distance, a_fraction, a_rate, a_size, a_time, an_angle
from nimble_quake.operators.steps import Made, Source, Step
from nimble_quake.params.kinds import (
    Choice,
    Colour,
    MapRef,
    Number,
    Pairs,
    Place,
    PlateRef,
    Seed,
    Toggle,
    When,
    options,
)
from nimble_quake.raster.colour.channels import channel, luminance
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.raster.noise.births import born, knots, step_for
from nimble_quake.raster.shapes.particles import (
    Flock,
    Numbers,
    as_many_as_fit,
    drawn_by_weight,
    flown,
    paint,
    sprite,
    uniform,
)

Luck: TypeAlias = Callable[[int], Numbers]

MOST = 60_000
"""How many particles are shown at most: the youngest."""
WHITE, CLOUD = (1.0, 1.0, 1.0, 1.0), (0.75, 0.75, 0.75, 1.0)


BRIEF = 0.04
"""Seconds: what fades in less is seen to end at once."""
OLD = 0.9
"""The fraction of its life from which a particle is about to end."""
AT_BIRTH = frozenset(("rate", "place", "width", "height", "turn", "speed", "speed_spread", "bearing", "spread", "wind"))
"""What a particle keeps from its birth; the wind, what it had gone by then."""


class Particles(Source):
    """Many small things that are born, fly and fade; any frame is found alone, and nothing restarts."""

    title = "Particles"
    group = "Moving matter"
    help = "Sparks, rising heat, snow, dust: many small things in flight"
    looks = (
        (
            "Rising heat",
            "Large soft spots from a wide box below the frame",
            {
                "emitter": "box",
                "place": (0.5, 1.1),
                "width": 1400.0,
                "height": 60.0,
                "rate": 120.0,
                "speed": 60.0,
                "bearing": -90.0,
                "wind": (0.0, -620.0),
                "size": 90.0,
                "size_end": 160.0,
                "opacity": 0.35,
                "soft": 1.0,
                "life": 2.0,
                "pre": 5.0,
            },
        ),
        (
            "Snow",
            "Slow flakes from above",
            {
                "emitter": "line",
                "place": (0.5, -0.05),
                "width": 1600.0,
                "rate": 90.0,
                "bearing": 90.0,
                "speed": 110.0,
                "spread": 40.0,
                "life": 9.0,
                "size": 5.0,
                "turbulence": 30.0,
                "pre": 10.0,
            },
        ),
        (
            "Sparks",
            "Streaks thrown up, pulled down",
            {
                "emitter": "point",
                "place": (0.5, 0.8),
                "rate": 140.0,
                "bearing": -90.0,
                "spread": 50.0,
                "speed": 620.0,
                "gravity": 700.0,
                "size": 4.0,
                "stretch": 0.05,
                "life": 1.6,
            },
        ),
    )

    emitter = Choice(
        label="From",
        help="Where they are born",
        default="ellipse",
        options=options(
            point="Point",
            line="Line",
            box="Box",
            ellipse="Ellipse",
            outline="Outline: along a plate's edge",
            map="Map: where another map is bright",
        ),
    )
    place = Place(
        label="Place",
        help="Middle of where they are born; may lie outside the frame",
        shown_when=When("emitter", "point", "line", "box", "ellipse"),
    )
    width = a_distance(
        "Width",
        "Width of the line, box or ellipse",
        400.0,
        (0, 2000),
        (0, 20000),
        When("emitter", "line", "box", "ellipse"),
    )
    across = Toggle(
        label="Whole width",
        help="The line, box or ellipse is as wide as the frame, whatever its size, and one particle more to each side",
        shown_when=When("emitter", "line", "box", "ellipse"),
    )
    height = a_distance(
        "Height", "Height of the box or ellipse", 240.0, (0, 1200), (0, 20000), When("emitter", "box", "ellipse")
    )
    turn = an_angle("Turns the line, box or ellipse", when=When("emitter", "line", "box", "ellipse"))
    plate = PlateRef(label="Plate", help="Whose outline they come from", shown_when=When("emitter", "outline"))
    map = MapRef(label="Map", help="Born where it is bright", shown_when=When("emitter", "map"))
    rate = replace(a_rate("Rate", "How many are born a second", 200.0, (1, 2000)), accumulates=True)
    burst = Number(
        label="At once",
        help="How many are born in the first moment, besides",
        default=0.0,
        hard=(0, 50_000),
        usual=(0, 500),
        whole=True,
        decimals=0,
    )
    life = a_time("Life", "How long each lives", 2.0, (0.2, 10), low=0.02)
    life_spread = a_fraction("Life spread", "How much lives differ", 0.3)
    speed = Number(
        label="Speed",
        help="How fast they set out",
        default=90.0,
        hard=(0, 50000),
        usual=(0, 800),
        unit="px/s",
        decimals=0,
    )
    speed_spread = a_fraction("Uneven", "How much speeds differ", 0.4)
    bearing = an_angle("Which way they set out; 0 to the right, clockwise", -90.0, "Bearing")
    spread = Number(
        label="Spread",
        help="How far bearings differ; 360 goes all ways",
        default=360.0,
        hard=(0, 360),
        usual=(0, 360),
        unit="°",
        decimals=0,
    )
    wind = Pairs(label="Wind", help="A steady push that carries them", unit="px/s", decimals=0, accumulates=True)
    gravity = Number(
        label="Gravity",
        help="Pulls them down",
        default=0.0,
        hard=(-50000, 50000),
        usual=(-500, 1500),
        unit="px/s²",
        decimals=0,
    )
    drag = a_rate("Drag", "How soon the wind has them: 1 takes about a second", 0.0, (0, 5))
    drag = replace(drag, hard=(0, 100), decimals=2)
    turbulence = a_distance("Turbulence", "How far they wander off their way", 0.0, (0, 120))
    size = a_size("Size", "Diameter at birth", 26.0, (2, 200))
    size_end = a_size("Size at end", "Diameter when life ends", 8.0, (1, 200), low=0.0)
    size_spread = a_fraction("Size spread", "How much sizes differ", 0.5)
    stretch = Number(
        label="Stretch",
        help="Draws them long along their way: the way of so many seconds",
        default=0.0,
        hard=(0, 5),
        usual=(0, 0.2),
        unit="s",
        decimals=3,
    )
    opacity = a_fraction("Opacity", "How much each covers", 1.0)
    opacity_spread = a_fraction("Fainter", "How much less some of them cover, by chance", 0.0)
    fade_in = a_fraction("Fade in", "Share of its life that a particle takes to appear", 0.1)
    fade_out = a_fraction("Fade out", "Share of its life that a particle takes to go", 0.5)
    soft = a_fraction("Softness", "How soft a particle is, from its rim inwards", 0.8)
    sprite = PlateRef(label="Sprite", help="A plate whose picture each of them shows, instead of a soft spot")
    first = Colour(label="At birth", help="Its value or colour at birth", default=WHITE)
    last = Colour(label="At end", help="Its value or colour when life ends", default=CLOUD)
    colour = Toggle(label="Colour", help="Keeps colours instead of their grey")
    pre = a_time("Pre-run", "How long it has been going when the shot begins", 0.0, (0, 10))
    clear = Toggle(label="Clear", help="What no particle touches is clear; else it is at rest")
    seed = Seed(label="Seed", help="Other chance values", default=1)

    @classmethod
    def boxes(cls) -> tuple[tuple[str, str, str], ...]:
        return (("place", "width", "height"),)

    def timed(self) -> bool:
        return True

    def looks_back(self) -> bool:
        return True

    def make(self, grid: Grid, ctx: Context) -> Made:
        flock = self._living(ctx)
        spots, colours = np.zeros((0, 7)), np.zeros((0, 3 if self.colour else 1))
        if len(flock.numbers):
            spots, colours = self._spots(flock, ctx), self._colours(flock.age / flock.life)
            fit = as_many_as_fit(spots, ctx.at.width, ctx.at.height)
            if fit < len(spots):
                ctx.services.report_problem(
                    f"only {fit} of {len(spots)} particles are drawn, they are so large", "use fewer"
                )
                spots, colours = spots[-fit:], colours[-fit:]
        values, cover = paint(grid, spots, colours, self.soft, self._sprite(ctx))
        return self._finished(values, cover)

    def remark(self, grid: Grid, ctx: Context, before: tuple[Step, ...]) -> Remark | None:
        """Particles that end at once, where one sees it."""
        flock = self._living(ctx)
        if not len(flock.numbers) or self.fade_out * self.life > BRIEF or self.size_end < 1 or self.opacity == 0:
            return None
        old = flock.age > OLD * flock.life
        x, y = self._spots(flock, ctx)[old, :2].T
        inside = int(((x >= 0) & (x < ctx.at.width) & (y >= 0) & (y < ctx.at.height)).sum())
        if not inside:
            return None
        words = "1 particle ends" if inside == 1 else f"{inside} particles end"
        return Remark(f"{words} within the frame at once, soon", "Fade them out", (("fade_out", 0.3),), inside)

    def _finished(self, values: Field, cover: Field) -> Made:
        if not self.clear:
            values += (1 - cover) * np.float32(REST)
            return np.concatenate([values, np.ones_like(cover)], axis=2) if self.colour else values
        straight = np.divide(values, cover, out=np.full_like(values, REST), where=cover > 1e-6)
        return np.concatenate([straight, cover], axis=2) if self.colour else (straight, cover)

    def _longest(self) -> float:
        return float(self.life * (1 + self.life_spread))

    def _living(self, ctx: Context) -> Flock:
        """Return those alive, the oldest first. Each keeps the numbers it was born with, whatever they are now."""
        now, begin = ctx.at.seconds, -self.pre
        longest = self._longest()
        first = max(now - longest, begin)
        step = step_for(longest, 1 / float(ctx.at.rate), 64)
        times = knots(first, now, step) if ctx.moving & AT_BIRTH else np.array([first, max(now, first + step)])
        past = [ctx.other(float(t)) for t in times]
        counts = np.array([then.rate for then in past]) - ctx.other(begin).rate
        numbers, births = born(times, counts, first, now, MOST)
        if self.burst and now - begin <= longest:
            numbers = np.concatenate([numbers, -1 - np.arange(int(self.burst), dtype=np.int64)])
            births = np.concatenate([births, np.full(int(self.burst), begin)])
        life = self.life * (1 + (uniform(numbers, 1, self.seed) * 2 - 1) * self.life_spread)
        life = np.maximum(life, 1e-3)
        age = now - births
        alive = (age >= 0) & (age < life)
        return Flock(numbers[alive], births[alive], age[alive], life[alive], times, [then.values for then in past])

    def _spots(self, flock: Flock, ctx: Context) -> Numbers:
        age, life = flock.age, flock.life

        def luck(which: int) -> Numbers:
            return uniform(flock.numbers, which, self.seed)

        x, y = self._births(flock, ctx)
        angle = np.radians(flock.then("bearing") + (luck(2) - 0.5) * flock.then("spread"))
        speed = flock.then("speed") * (1 + (luck(3) * 2 - 1) * flock.then("speed_spread"))
        vx, vy = speed * np.cos(angle), speed * np.sin(angle)
        carried = tuple((self.wind[n] - flock.then("wind", n)) / np.maximum(age, 1e-6) for n in range(2))
        now_x, now_y = self._flight(age, x, y, vx, vy, carried, luck)
        size = self.size + (self.size_end - self.size) * age / life
        half = 0.5 * size * (1 + (luck(4) * 2 - 1) * self.size_spread)
        out = np.zeros((len(age), 7))
        long, cos, sin = half, np.ones_like(half), np.zeros_like(half)
        if self.stretch > 0:
            back_x, back_y = self._flight(age - self.stretch, x, y, vx, vy, carried, luck)
            dx, dy = now_x - back_x, now_y - back_y
            way = np.hypot(dx, dy)
            safe = np.maximum(way, 1e-9)
            long, cos, sin = half + 0.5 * way, np.where(way > 0, dx / safe, 1.0), dy / safe
            now_x, now_y = now_x - 0.5 * dx, now_y - 0.5 * dy
        grown = np.clip(age / np.maximum(self.fade_in * life, 1e-9), 0, 1)
        going = np.clip((life - age) / np.maximum(self.fade_out * life, 1e-9), 0, 1)
        opacity = self.opacity * (1 - luck(14) * self.opacity_spread)
        for n, column in enumerate((now_x, now_y, long, half, cos, sin, opacity * grown * going)):
            out[:, n] = column
        return out

    def _flight(
        self, age: Numbers, x: Numbers, y: Numbers, vx: Numbers, vy: Numbers, wind: tuple[Numbers, ...], luck: Luck
    ) -> tuple[Numbers, Numbers]:
        now_x = flown(age, x, vx, 0.0, wind[0], self.drag)
        now_y = flown(age, y, vy, self.gravity, wind[1], self.drag)
        if self.turbulence > 0:
            grow = np.minimum(np.maximum(age, 0), 1.0) * self.turbulence
            for speed, which in ((1.1, 5), (2.7, 7)):
                turns = luck(which) * 2 * np.pi
                now_x = now_x + grow * 0.6 * np.sin(age * speed * (1 + luck(which + 1)) + turns)
                now_y = now_y + grow * 0.6 * np.cos(age * speed * 0.9 * (1 + luck(which + 1)) + turns)
        return now_x, now_y

    def _colours(self, fraction: Numbers) -> Numbers:
        first, last = np.array(self.first[:3]), np.array(self.last[:3])
        mixed: Numbers = first + (last - first) * fraction[:, None]
        if not self.colour:
            mixed = luminance(mixed[None].astype(np.float32))[0][:, None].astype(np.float64)
        return mixed

    def _births(self, flock: Flock, ctx: Context) -> tuple[Numbers, Numbers]:
        u, v = uniform(flock.numbers, 11, self.seed), uniform(flock.numbers, 12, self.seed)
        if self.emitter == "map" and self.map:
            return self._on_map(flock, u, v, ctx)
        if self.emitter == "outline" and self.plate:
            return drawn_by_weight(
                self._rim(ctx), u, v, uniform(flock.numbers, 13, self.seed), (ctx.at.width, ctx.at.height)
            )
        width, height = flock.then("width"), flock.then("height")
        if self.across:
            width = np.full_like(width, ctx.at.width + 2 * max(self.size, self.size_end))
        across, down = (u - 0.5) * width, (v - 0.5) * height
        if self.emitter == "point":
            across, down = across * 0, down * 0
        elif self.emitter == "line":
            down = down * 0
        elif self.emitter == "ellipse":
            radius, turn = np.sqrt(u), v * 2 * np.pi
            across, down = 0.5 * width * radius * np.cos(turn), 0.5 * height * radius * np.sin(turn)
        turn = np.radians(flock.then("turn"))
        c, s = np.cos(turn), np.sin(turn)
        x, y = flock.then("place", 0), flock.then("place", 1)
        return x + across * c - down * s, y + across * s + down * c

    def _on_map(self, flock: Flock, u: Numbers, v: Numbers, ctx: Context) -> tuple[Numbers, Numbers]:
        """Births where another map was bright then, looked at a few times in the longest life; none without the map."""
        grid, size, w = _small(ctx), (ctx.at.width, ctx.at.height), uniform(flock.numbers, 13, self.seed)
        step = step_for(self._longest(), 1 / float(ctx.at.rate), 40)
        times = knots(float(flock.births.min()), ctx.at.seconds, step)
        x, y = np.full(len(u), -1e5), np.full(len(u), -1e5)
        groups = np.searchsorted(times, flock.births, side="right") - 1
        for n in np.unique(groups):
            found = ctx.map_values(self.map, grid, float(times[n]))
            part = groups == n
            if found is not None:
                x[part], y[part] = drawn_by_weight(
                    np.clip(channel(found, "value") - 0.5, 0, 1), u[part], v[part], w[part], size
                )
        return x, y

    def _rim(self, ctx: Context) -> Field:
        """How likely a birth is at each place of a small grid of the frame, at a plate's rim."""
        alpha = ctx.services.plate_alpha(self.plate, _small(ctx), with_effects=False)[..., 0]
        return np.asarray(cv2.morphologyEx(alpha, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)), np.float32)

    def _sprite(self, ctx: Context) -> NDArray[np.float32] | None:
        if not self.sprite:
            return None
        grid = frame_grid(ctx.at.width, ctx.at.height, min(1.0, 320 / max(ctx.at.width, ctx.at.height)))
        alpha = ctx.services.plate_alpha(self.sprite, grid, with_effects=False)[..., 0]
        return sprite(alpha)


def _small(ctx: Context) -> Grid:
    return frame_grid(ctx.at.width, ctx.at.height, min(1.0, 240 / max(ctx.at.width, ctx.at.height)))
