"""Type: text shaped and drawn with its face's own kerning and ligatures."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace
from functools import lru_cache, wraps
from typing import TypeAlias

import numpy as np
import skia

from nimble_quake.conventions import Bytes8, Picture
from nimble_quake.media.drawing.faces import LOCK, Axes, Style, collection, forgotten_with_faces, known_face, own_height
from nimble_quake.raster.colour.convert import inked
from nimble_quake.raster.geometry.grid import refuse_enormous

_ENDLESS = 1e6


@dataclass(frozen=True)
class TextLook:
    """How a text is set. Sizes in shot pixels; `line_spacing` times the face's own line height."""

    words: str
    face: str
    size: float
    letter_spacing: float = 0.0
    line_spacing: float = 1.0
    align: str = "centre"
    rgba: tuple[float, float, float, float] = (1.0, 1.0, 1.0, 1.0)
    width: float = 0.0
    """Lines are broken at this width; 0: only where the words break them."""
    stroke: float = 0.0
    """Letters are drawn as outlines so wide; 0: filled."""
    aligns: tuple[str, ...] = ()
    """How each line lies, where they differ; those after the last one lie as `align` says."""
    weight: float = 400.0
    italic: bool = False
    axes: Axes = ()
    """Positions on other axes of a variable font."""

    @property
    def style(self) -> Style:
        """The style of its face."""
        return Style(self.face, self.weight, self.italic, self.axes)


@lru_cache(maxsize=256)
def paragraph_of(look: TextLook) -> skia.textlayout.Paragraph:
    layout = skia.textlayout
    family = known_face(look.face)
    style = layout.TextStyle()
    style.setFontFamilies([family])
    style.setFontSize(look.size)
    style.setLetterSpacing(look.letter_spacing)
    style.setHeightOverride(True)
    style.setHeight(look.line_spacing * own_height(look.style))
    r, g, b, a = look.rgba
    paint = skia.Paint(skia.Color4f(r, g, b, a), None)
    paint.setAntiAlias(True)
    if look.stroke > 0:
        paint.setStyle(skia.Paint.kStroke_Style)
        paint.setStrokeWidth(look.stroke)
        paint.setStrokeJoin(skia.Paint.kRound_Join)
    style.setForegroundPaint(paint)
    block = layout.ParagraphStyle()
    block.setTextStyle(style)
    aligns = {"left": layout.TextAlign.kLeft, "right": layout.TextAlign.kRight}
    block.setTextAlign(aligns.get(look.align, layout.TextAlign.kCenter))
    builder = layout.ParagraphBuilder.make(block, collection(look.style), skia.Unicodes.ICU.Make())
    builder.pushStyle(style)
    builder.addText(look.words or " ")
    paragraph = builder.Build()
    paragraph.layout(look.width if look.width > 0 else _ENDLESS)
    if look.width <= 0:
        paragraph.layout(paragraph.LongestLine + 1)
    return paragraph


@lru_cache(maxsize=256)
def text_box(look: TextLook) -> tuple[float, float]:
    """Return the width and height of the laid-out text in px."""
    with LOCK:
        paragraph = paragraph_of(look)
        return max(1.0, look.width or paragraph.LongestLine), max(1.0, paragraph.Height)


def text_margin(look: TextLook) -> float:
    """Return how far ink may reach out of the box, in px."""
    return look.size * 0.5 + abs(look.letter_spacing) + look.stroke


def begin_text(
    size: tuple[float, float], margin: float, zoom_x: float, zoom_y: float, *, mask: bool = False
) -> tuple[np.ndarray, skia.Canvas, skia.Surface]:
    """Return a clear picture with room for a text of a size (px), and what draws on it: delete both when done.

    mask: (H, W) uint8, of which a pixel's coverage is kept, which is exact for opaque ink; else (H, W, 4) float32.
    """
    width = max(1, int(np.ceil((size[0] + 2 * margin) * zoom_x)))
    height = max(1, int(np.ceil((size[1] + 2 * margin) * zoom_y)))
    refuse_enormous(width, height, "the text")
    out = np.zeros((height, width), np.uint8) if mask else np.zeros((height, width, 4), np.float32)
    kind = skia.kAlpha_8_ColorType if mask else skia.kRGBA_F32_ColorType
    surface = skia.Surface.MakeRasterDirect(skia.ImageInfo.Make(width, height, kind, skia.kPremul_AlphaType), out)
    canvas = surface.getCanvas()
    canvas.scale(zoom_x, zoom_y)
    # The faintest perspective makes Skia draw outlines instead of glyph masks: no hinting and no contrast curve,
    # so that a title at half size is the full one made smaller.
    canvas.concat(skia.Matrix.MakeAll(1, 0, 0, 0, 1, 0, 1e-10, 0, 1))
    return out, canvas, surface


def opaque(look: TextLook) -> TextLook:
    """Return a look in opaque white: what is drawn so is the coverage."""
    return replace(look, rgba=(1.0, 1.0, 1.0, 1.0))


KEPT = 8
"""Texts whose coverage is kept: one that moves, or changes its colour, is not drawn again."""
MOST_BYTES = 4_000_000
"""A larger one is not kept."""
Covered: TypeAlias = tuple[Bytes8, float]
"""How much of each pixel is covered, (H, W) of 255, and the margin on every side, px of the text, not zoomed."""
_known: OrderedDict[tuple[Hashable, ...], Covered] = OrderedDict()
for _forget in (_known.clear, paragraph_of.cache_clear, text_box.cache_clear):
    forgotten_with_faces(_forget)


def once_drawn(draw: Callable[[TextLook, float, float], Covered]) -> Callable[[TextLook, float, float], Covered]:
    """Let a function draw a text at a zoom in opaque ink, and only when it was not among the last ones drawn."""

    def covered(look: TextLook, zoom_x: float, zoom_y: float) -> Covered:
        key = (draw, opaque(look), zoom_x, zoom_y)
        with LOCK:
            found = _known.pop(key, None) or draw(key[1], zoom_x, zoom_y)
            if found[0].nbytes <= MOST_BYTES:
                _known[key] = found
            while len(_known) > KEPT:
                _known.popitem(last=False)
        return found

    return wraps(draw)(covered)


@once_drawn
def text_coverage(look: TextLook, zoom_x: float, zoom_y: float) -> Covered:
    """Return how much of each pixel a text covers at a zoom. Do not write to it."""
    paragraph = paragraph_of(look)
    margin = text_margin(look)
    longest = max(paragraph.LongestLine, look.width)
    coverage, canvas, surface = begin_text((longest, paragraph.Height), margin, zoom_x, zoom_y, mask=True)
    paragraph.paint(canvas, margin, margin)
    del canvas, surface
    return coverage, margin


def draw_text(look: TextLook, zoom_x: float, zoom_y: float) -> tuple[Picture, float]:
    """Return the text drawn at a zoom, and its margin on every side (px of the text, not zoomed)."""
    coverage, margin = text_coverage(look, zoom_x, zoom_y)
    return inked(coverage, look.rgba), margin
