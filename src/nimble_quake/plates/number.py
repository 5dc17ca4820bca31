"""Number."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Pixels
from nimble_quake.media.drawing.type import draw_text, text_box, text_coverage
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.lettering import Lettered, lettered
from nimble_quake.operators.plate_kind import PlateKind, Raster
from nimble_quake.operators.quantities import a_count
from nimble_quake.params.kinds import Choice, Number, Pairs, PlateRef, Seed, When, Words, options
from nimble_quake.raster.colour.blend import blend_onto
from nimble_quake.raster.geometry.grid import refuse_enormous
from nimble_quake.raster.noise.hashes import mixed

FIGURES, LETTERS = "0123456789", "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
RANDOM = ("figures", "letters", "own")
MOST_LABELS = 200


class NumberPlate(Lettered, PlateKind):
    """A number that is counted, a clock, or signs that flicker; as one label, or several strewn over an area."""

    title = "Number"
    rank = 30
    help = "A counter, a clock, or flickering figures and letters"

    form = Choice(
        label="Shows",
        help="What is shown",
        default="value",
        options=options(
            value="A value: set it moving",
            clock="A clock",
            figures="Random figures",
            letters="Random letters",
            own="Random: your own",
        ),
    )
    value = Number(
        label="Value",
        help="The number that is shown: give it pins, or a rate to count by",
        default=0.0,
        hard=(-1e12, 1e12),
        usual=(0, 1000),
        decimals=2,
        shown_when=When("form", "value"),
    )
    places = Number(
        label="Decimals",
        help="Figures after the point",
        default=0,
        hard=(0, 6),
        usual=(0, 3),
        whole=True,
        decimals=0,
        shown_when=When("form", "value"),
    )
    digits = Number(
        label="Figures",
        help="At least so many figures before the point, filled with zeros; of random signs: how many",
        default=4,
        hard=(1, 40),
        usual=(1, 12),
        whole=True,
        decimals=0,
        shown_when=When("form", "value", *RANDOM),
    )
    thousands = Choice(
        label="Thousands",
        help="What parts thousands",
        default="none",
        options=options(none="None", space="Space", comma="Comma", point="Point"),
        shown_when=When("form", "value"),
    )
    clock = Choice(
        label="Clock",
        help="How time is shown",
        default="ms",
        options=options(ms="m:ss", hms="h:mm:ss", hmsf="hh:mm:ss:ff, with frames", tenths="m:ss.t"),
        shown_when=When("form", "clock"),
    )
    begins = Number(
        label="Begins at",
        help="The time it shows when it begins",
        default=0.0,
        hard=(-359999, 359999),
        usual=(0, 3600),
        unit="s",
        decimals=1,
        shown_when=When("form", "clock"),
    )
    speed = Number(
        label="Speed",
        help="How fast it runs; below 0 it counts down",
        default=1.0,
        hard=(-1000, 1000),
        usual=(-2, 2),
        unit="%",
        factor=100,
        decimals=0,
        shown_when=When("form", "clock"),
    )
    signs = Words(label="Signs", help="What it flickers between", default="01", shown_when=When("form", "own"))
    often = Number(
        label="Changes",
        help="How often a second the signs change; 0: they stand",
        default=12.0,
        hard=(0, 240),
        usual=(0, 30),
        unit="/s",
        decimals=1,
        shown_when=When("form", *RANDOM),
    )
    seed = Seed(label="Seed", help="Other random signs and places")
    before = Words(label="Before", help="Words before it", default="")
    after = Words(label="After", help="Words behind it", default="")
    labels = a_count("Labels", "How many of it there are, strewn over an area", 1, MOST_LABELS, (1, 24))
    rides = PlateRef(
        label="Ride on",
        help="A tracked clip: each label sticks to a point of it, where the plate lies in the middle of the frame",
        tracked=True,
    )
    area = Pairs(
        label="Area",
        help="Over how wide and high an area the labels are strewn",
        default=(800.0, 400.0),
        unit="px",
        hard=(0, 20000),
    )

    def timed(self) -> bool:
        return bool(self.rides) or self.form == "clock" or (self.form != "value" and self.often > 0)

    def text(self, at: Moment, label: int = 0) -> str:
        """Return what it says at a moment (frames since the plate's start)."""
        if self.form == "value":
            body = self._value()
        elif self.form == "clock":
            body = self._clock(at)
        else:
            body = self._random(at, label)
        return f"{self.before}{body}{self.after}"

    def _value(self) -> str:
        places = int(self.places)
        text = f"{abs(round(self.value, places)):.{places}f}"
        whole, _, rest = text.partition(".")
        plain = whole.zfill(int(self.digits))
        sign = {"space": "\u2009", "comma": ",", "point": "."}.get(self.thousands, "")
        minus = "\u2212" if round(self.value, places) < 0 else ""
        point = "," if self.thousands == "point" else "."
        return minus + _grouped(plain, sign) + (point + rest if rest else "")

    def _clock(self, at: Moment) -> str:
        seconds = self.begins + at.seconds * self.speed
        minus, seconds = ("\u2212" if seconds < 0 else ""), abs(seconds)
        whole = math.floor(seconds + 1e-9)
        part = max(0.0, seconds - whole)
        hours, minutes, rest = whole // 3600, whole // 60 % 60, whole % 60
        if self.clock == "hms":
            return f"{minus}{hours}:{minutes:02d}:{rest:02d}"
        if self.clock == "hmsf":
            frames = min(math.floor(part * float(at.rate) + 1e-6), math.ceil(at.rate) - 1)
            return f"{minus}{hours:02d}:{minutes:02d}:{rest:02d}:{frames:02d}"
        tail = f".{math.floor(part * 10 + 1e-6)}" if self.clock == "tenths" else ""
        return f"{minus}{whole // 60}:{rest:02d}{tail}"

    def _random(self, at: Moment, label: int) -> str:
        signs = {"figures": FIGURES, "letters": LETTERS}.get(self.form, self.signs) or " "
        tick = math.floor(at.seconds * self.often + 1e-6) if self.often > 0 else 0
        chances = (mixed(n, label, tick, int(self.seed)) for n in range(int(self.digits)))
        return "".join(signs[min(int(draw * len(signs)), len(signs) - 1)] for draw in chances)

    def box(self, ctx: Context) -> tuple[float, float]:
        if self.rides:
            return ctx.at.width, ctx.at.height
        if int(self.labels) > 1:
            return max(1.0, self.area[0]), max(1.0, self.area[1])
        return text_box(self.look_of(self.text(ctx.at)))

    def raster(self, ctx: Context, zoom: tuple[float, float], bleed: Pixels) -> Raster | None:
        if self.rides:
            return self._riding(ctx, zoom)
        texts = [self.text(ctx.at, label) for label in range(int(self.labels))]
        self.tell_missing(self.look_of("".join(sorted(set("".join(texts))))), ctx)
        if len(texts) == 1:
            look = self.look_of(texts[0])
            return lettered(*text_coverage(look, *zoom), zoom, look.rgba)
        return self._strewn(texts, zoom)

    def _riding(self, ctx: Context, zoom: tuple[float, float]) -> Raster | None:
        """Labels on tracked points, each on one of its own for as long as it is seen; which ones is by chance."""
        points = ctx.services.tracked(self.rides)
        if points is None or not len(points.ids):
            return None
        luck = np.array([mixed(int(id), 3, 7, int(self.seed)) for id in points.ids])
        wide, high = math.ceil(ctx.at.width * zoom[0]), math.ceil(ctx.at.height * zoom[1])
        refuse_enormous(wide, high, "the labels")
        out = np.zeros((high, wide, 4), np.float32)
        for n in np.argsort(luck)[: int(self.labels)]:
            picture, _ = draw_text(self.look_of(self.text(ctx.at, int(points.ids[n]))), *zoom)
            left = round(points.places[n, 0] * zoom[0] - picture.shape[1] / 2)
            top = round(points.places[n, 1] * zoom[1] - picture.shape[0] / 2)
            blend_onto(out, picture, mode="normal", opacity=1.0, left=left, up=top)
        return Raster(out, (zoom[0], 0.0, 0.0, 0.0, zoom[1], 0.0), bits8=False)

    def _strewn(self, texts: list[str], zoom: tuple[float, float]) -> Raster:
        """Labels at random places of the area, drawn over each other."""
        drawn = [draw_text(self.look_of(text), *zoom)[0] for text in texts]
        room = (max(p.shape[1] for p in drawn), max(p.shape[0] for p in drawn))
        wide, high = (math.ceil(side * z) + r for side, z, r in zip(self.area, zoom, room, strict=True))
        refuse_enormous(wide, high, "the labels")
        out = np.zeros((high, wide, 4), np.float32)
        for number, picture in enumerate(drawn):
            across, down = (mixed(number, axis, 7, int(self.seed)) for axis in (1, 2))
            left = round(across * (wide - room[0]) + (room[0] - picture.shape[1]) / 2)
            top = round(down * (high - room[1]) + (room[1] - picture.shape[0]) / 2)
            blend_onto(out, picture, mode="normal", opacity=1.0, left=left, up=top)
        return Raster(out, (zoom[0], 0.0, room[0] / 2, 0.0, zoom[1], room[1] / 2), bits8=False)


def _grouped(figures: str, sign: str) -> str:
    """Figures with a sign between thousands."""
    first = len(figures) % 3
    return sign.join(
        part for part in (figures[:first], *(figures[n : n + 3] for n in range(first, len(figures), 3))) if part
    )
