"""Shapes."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TypeVar

import cv2
import numpy as np

from nimble_quake.conventions import REST
from nimble_quake.operators import hits
from nimble_quake.operators.base import Context, Traced
from nimble_quake.operators.quantities import (
    a_count,
    a_distance,
    a_fraction,
    a_level,
    a_size,
    a_time,
    an_angle,
    linked_to,
)
from nimble_quake.operators.steps import Made
from nimble_quake.params.kinds import Choice, Number, Outline, Param, Place, PlateRef, Seed, Toggle, When, options
from nimble_quake.raster.blur.filters import gaussian
from nimble_quake.raster.geometry.figures import Fill, figures, regular, smooth_outline
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.noise.hashes import mixed

AnyParam = TypeVar("AnyParam", bound=Param)

DRAWN = When("form", "ellipse", "rectangle", "polygon", "star", "curve")
"""A plate's outline has its place, size and life from the plate."""


def drawn(param: AnyParam) -> AnyParam:
    """Return a parameter that counts for figures that are drawn, not for a plate's outline."""
    return param if param.shown_when is not None else replace(param, shown_when=DRAWN)


class Shape(hits.ByHits):
    """A lighter or darker figure on rest, alone or born again and again, growing and fading over its life."""

    title = "Shape"
    group = "Shapes"
    help = "Ellipses, boxes, stars, curves, or a plate's own outline"
    lively = {"spin": 0.15}
    looks = (
        (
            "Swelling ellipses",
            "Grey ellipses that grow and fade, one after another",
            {
                "life": 1.6,
                "spin": 0.0,
                "grow": 2.6,
                "again": 1.5,
                "count": 3,
                "stagger": 0.5,
                "width": 220.0,
                "height": 90.0,
                "soft": 60.0,
                "spread": 420.0,
            },
        ),
        ("Star", "Five points", {"form": "star", "width": 420.0, "height": 420.0, "soft": 30.0}),
        (
            "Lens dome",
            "A round hill, for a glass lens",
            {"width": 420.0, "height": 420.0, "edge": 0.5, "soft": 4.0, "spin": 0.0},
        ),
        ("Curve", "A free closed curve", {"form": "curve", "soft": 30.0}),
    )

    form = Choice(
        label="Figure",
        help="What is drawn",
        default="ellipse",
        options=options(
            ellipse="Ellipse",
            rectangle="Rectangle",
            polygon="Polygon",
            star="Star",
            curve="Curve: through points of your own",
            plate="Plate: a plate's own outline, followed",
        ),
    )
    place = Place(label="Place", help="Its middle", shown_when=DRAWN)
    width = drawn(a_size("Width", "Width of the figure", 480.0, (10, 1600)))
    height = drawn(linked_to("width", a_size("Height", "Height of the figure", 270.0, (10, 900))))
    turn = an_angle(when=DRAWN)
    corners = a_count("Corners", "Of a polygon or star", 5, 64, (3, 12), When("form", "polygon", "star"))
    notch = a_fraction("Notch", "How deep a star's notches are", 0.5, when=When("form", "star"))
    outline = Outline(label="Points", help="The curve's points", shown_when=When("form", "curve"))
    plate = PlateRef(label="Plate", help="Whose outline it follows", shown_when=When("form", "plate"))
    middle = a_level("Middle", "Value inmost", 1.0)
    edge = a_level("Edge", "Value at the rim; the same as the middle fills it flat", 1.0)
    rises = Choice(
        label="Rises",
        help="How it goes from the rim to the middle",
        default="straight",
        row=True,
        options=options(straight="Straight", dome="As a dome"),
    )
    rim = a_distance(
        "Rise over",
        "How far inwards the middle's value is reached; 0 is twice the softness",
        0.0,
        (0, 400),
        when=When("form", "plate"),
    )
    soft = a_distance("Softness", "Width of its edge", 40.0, (0, 200))
    spin = Number(
        label="Spin",
        help="Turns a second",
        default=0.0,
        hard=(-100, 100),
        usual=(-1, 1),
        unit="/s",
        decimals=2,
        accumulates=True,
        shown_when=DRAWN,
    )
    life = drawn(a_time("Life", "How long each lives; 0 stays for ever", 0.0, (0, 4)))
    grow = Number(
        label="Grow",
        help="Its size when life ends, in its first size",
        default=2.0,
        hard=(0, 100),
        usual=(0, 4),
        decimals=2,
        shown_when=DRAWN,
    )
    fade = a_fraction("Fade", "How much it weakens over its life", 1.0, when=DRAWN)
    when = drawn(hits.WHEN)
    first = drawn(hits.FIRST)
    count = drawn(hits.COUNT)
    named = drawn(hits.NAMED)
    each = drawn(hits.EACH)
    stagger = drawn(hits.STAGGER)
    again = drawn(hits.EVERY)
    spread = a_distance("Spread", "How far from its place each is born, by chance", 0.0, (0, 600), when=DRAWN)
    clear = Toggle(label="Clear", help="What it does not cover is clear, so that what lies beneath shows")
    seed = Seed(label="Seed", help="Other chance places", default=1, shown_when=DRAWN)

    def timed(self) -> bool:
        return self.life > 0

    traced = Traced("outline")
    placed_by = "place"

    @classmethod
    def boxes(cls) -> tuple[tuple[str, str, str], ...]:
        return (("place", "width", "height"),)

    def make(self, grid: Grid, ctx: Context) -> Made:
        if self.form == "plate":
            return self._followed(grid, ctx)
        each = np.array(self._each(ctx), np.float64).reshape(-1, 8)
        points = self._points(ctx)
        form = "polygon" if self.form == "star" else self.form
        fill = Fill(self.middle, self.edge, REST, self.rises == "dome")
        found = figures(grid, form, each, points, self.soft, fill)
        return found if self.clear else found[0]

    def _points(self, ctx: Context) -> np.ndarray:
        """The figure's corners in units of half its height, for figures that have any."""
        aspect = np.array([self.width / self.height, 1.0])
        if self.form == "curve":
            return np.asarray(smooth_outline(np.array(self.outline, np.float64) * 2, 6) * aspect)
        if self.form in ("polygon", "star"):
            return np.asarray(
                regular(max(3, int(self.corners)), 1 - self.notch if self.form == "star" else 1.0) * aspect
            )
        return np.zeros((1, 2))

    def _each(self, ctx: Context) -> list[tuple[float, ...]]:
        if self.life <= 0:
            return [self._one(1.0, 1.0, self.place)]
        found = []
        for hit in hits.living_at(self, ctx, self.life):
            fraction = hit.age / self.life
            rise = min(1.0, fraction / 0.12)
            aside = [(mixed(hit.number, axis, 9, self.seed) - 0.5) * self.spread for axis in (0, 1)]
            x, y = hits.place_of(self, hit, ctx)
            place = (x + aside[0], y + aside[1])
            found.append(self._one(1 + (self.grow - 1) * fraction, rise * (1 - self.fade * fraction), place))
        return found

    def _one(self, grown: float, power: float, place: tuple[float, float]) -> tuple[float, ...]:
        angle = math.radians(self.turn + 360 * self.spin)
        a, b = max(0.5 * self.width * grown, 1e-3), max(0.5 * self.height * grown, 1e-3)
        return (*place, a, b, math.cos(angle), math.sin(angle), max(power, 0.0), 1 / b)

    def _followed(self, grid: Grid, ctx: Context) -> Made:
        """A plate's outline: its alpha, softened inwards and outwards alike; the middle's value rises inwards."""
        room = grid.samples(2 * self.soft)
        outer = grid.grown(min(room, max(grid.shape)))
        if not self.plate:
            return np.full((*grid.shape, 1), REST, np.float32)
        alpha = ctx.services.plate_outline(self.plate, outer)
        sigma = self.soft * grid.scale / 2.5
        cover = gaussian(alpha, sigma, sigma) if sigma > 0.05 else alpha
        value: np.ndarray = np.full_like(cover, self.middle)
        if self.edge != self.middle:
            solid = (alpha[..., 0] > 0.5).astype(np.uint8)
            inner = cv2.distanceTransform(solid, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)[..., None] * np.float32(grid.step)
            rise = np.clip(inner / np.float32(self.rim or max(self.soft, 1.0) * 2), 0, 1)
            if self.rises == "dome":
                rise = np.sqrt(rise * (2 - rise))
            value = (self.edge + (self.middle - self.edge) * rise).astype(np.float32)
        inside = grid.inside(outer)
        value, cover = np.ascontiguousarray(value[inside]), np.ascontiguousarray(cover[inside])
        return (value, cover) if self.clear else (np.float32(REST) + (value - np.float32(REST)) * cover)
