"""What all plates share that are set in type."""

from __future__ import annotations

import re

import numpy as np

from nimble_quake.conventions import Bytes8, Pixels
from nimble_quake.media.drawing.faces import DEFAULT_FACE, axes_of, axis_tags, known_face, missing_glyphs, styles_of
from nimble_quake.media.drawing.type import TextLook
from nimble_quake.operators.base import Context, Operator
from nimble_quake.operators.plate_kind import Raster
from nimble_quake.params.kinds import Choice, Colour, Face, Number, Toggle, Words, options
from nimble_quake.raster.colour.convert import inked
from nimble_quake.raster.sampling.cropping import drawn_box

ALIGNS = ("left", "centre", "right")


class Lettered(Operator):
    """Mixed into plates that are set in type."""

    face = Face(label="Face", help="The typeface: a family of fonts", default=DEFAULT_FACE)
    weight = Number(
        label="Weight",
        called="bold, light, black",
        help="400 is regular, 700 bold; the nearest the face has, a variable font has all between",
        default=400.0,
        hard=(1, 1000),
        usual=(100, 900),
        decimals=0,
    )
    italic = Toggle(label="Italic", help="The face's slanted letters, where it has them")
    size = Number(
        label="Size",
        help="The size of the letters",
        default=160.0,
        hard=(1, 5000),
        usual=(10, 500),
        unit="px",
        decimals=0,
    )
    flat_colour = "colour"
    colour = Colour(label="Colour", help="The colour of the letters")
    letter_spacing = Number(
        label="Letter gap",
        help="Extra room between letters",
        default=0.0,
        hard=(-2000, 5000),
        usual=(-20, 100),
        unit="px",
    )
    line_spacing = Number(
        label="Line gap",
        help="The distance of lines, in % of the face's own",
        default=1.0,
        hard=(0.1, 20),
        usual=(0.6, 2),
        unit="%",
        factor=100,
        decimals=0,
    )
    align = Choice(
        label="Align",
        help="How lines lie to each other",
        default="centre",
        row=True,
        options=options(left="Left", centre="Centre", right="Right"),
    )
    aligns = Words(
        label="Line by line", help="How each line lies where they differ: left, centre, right, one for each", most=200
    )
    outlined = Number(
        label="Outline",
        help="Letters as outlines so wide; 0: filled",
        default=0.0,
        zero="filled",
        hard=(0, 1000),
        usual=(0, 30),
        unit="px",
        decimals=1,
    )
    wrap = Number(
        label="Wrap at",
        help="Lines are broken at this width; 0: only where you break them",
        default=0.0,
        zero="none",
        hard=(0, 50000),
        usual=(0, 1920),
        unit="px",
        decimals=0,
    )

    axes = Words(label="Axes", help="Other axes of a variable font by their tags, as wdth 80, opsz 12", most=200)

    def look_of(self, words: str) -> TextLook:
        """Return some words set as it is."""
        own = tuple(word for word in re.findall(r"[a-z]+", self.aligns.lower()) if word in ALIGNS)
        return TextLook(
            words,
            self.face,
            self.size,
            self.letter_spacing,
            self.line_spacing,
            self.align,
            self.colour,
            self.wrap,
            self.outlined,
            own if self.wrap <= 0 else (),
            self.weight,
            self.italic,
            axes_of(self.axes),
        )

    def tell_missing(self, look: TextLook, ctx: Context) -> None:
        """Say where the face is not installed, or lacks a sign for some of the words, the slant, or an axis."""
        if known_face(self.face) != self.face:
            ctx.services.report_problem(f'the face "{self.face}" is not installed', "choose another; Bungee stands in")
            return
        missing = missing_glyphs(look.words, look.style)
        if missing:
            ctx.services.report_problem(f"the face has no {missing[:8]!r}", "choose a face that has these letters")
        if self.italic and not any(italic for _, italic in styles_of(self.face)):
            ctx.services.report_problem(f'the face "{self.face}" has no italic', "choose one that has")
        unknown = [tag for tag, _ in look.axes if tag not in axis_tags(self.face)]
        if unknown or (self.axes.strip() and not look.axes):
            tags = ", ".join(axis_tags(self.face)) or "none"
            what = f"the face has no axis {unknown[0]!r}" if unknown else f"no axis is named in {self.axes[:20]!r}"
            ctx.services.report_problem(what, f"its axes: {tags}; written as wdth 80")


def lettered(
    coverage: Bytes8, margin: Pixels, zoom: tuple[float, float], rgba: tuple[float, float, float, float]
) -> Raster:
    """Return what is set in type as a raster of no more than what is drawn. coverage: the whole, margins included."""
    left, top, right, low = drawn_box(coverage)
    picture = inked(np.ascontiguousarray(coverage[top:low, left:right]), rgba)
    to_px = (zoom[0], 0.0, margin * zoom[0] - left, 0.0, zoom[1], margin * zoom[1] - top)
    height, width = coverage.shape
    return Raster(picture, to_px, bits8=False, whole=(width, height, left, top))
