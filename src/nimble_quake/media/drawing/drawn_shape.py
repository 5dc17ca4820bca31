"""Shapes drawn by Skia: a path with a fill and a stroke, each flat or a gradient, repeated with steps between."""

from __future__ import annotations

import math
import threading
from dataclasses import dataclass

import numpy as np
import skia
from numpy.typing import NDArray

from nimble_quake.conventions import Picture
from nimble_quake.params.kinds import Stop
from nimble_quake.raster.geometry.grid import refuse_enormous
from nimble_quake.raster.shapes.gradient import stop_colours
from nimble_quake.raster.shapes.layered_circle import paint_layers

_LOCK = threading.RLock()
STEPS = 128
"""A gradient is handed to Skia as so many colours."""
PIECES, LAYERS = 240, 48
"""A stroke whose colour changes along it is drawn in so many pieces; across it, in so many narrower ones."""
MOST_COPIES = 500


@dataclass(frozen=True)
class Paint:
    """How a fill or stroke is coloured. form: "none", "flat", "linear", "radial", "conic"; "along", "across"."""

    form: str = "none"
    colour: tuple[float, float, float, float] = (1.0, 1.0, 1.0, 1.0)
    stops: tuple[Stop, ...] = ()
    angle: float = 0.0


@dataclass(frozen=True)
class Stroke:
    """A stroke's width, dashes (lengths in px; 0: none) and the part of its length that is drawn, from 0 to 1."""

    width: float = 0.0
    dash: float = 0.0
    gap: float = 0.0
    begin: float = 0.0
    end: float = 1.0
    shift: float = 0.0
    round: bool = False


@dataclass(frozen=True)
class Repeat:
    """Copies: how many there are in all, and what is added from each to the next, about the shape's middle."""

    count: int = 1
    step: tuple[float, float] = (0.0, 0.0)
    turn: float = 0.0
    scale: float = 1.0
    opacity: float = 1.0


@dataclass(frozen=True)
class Shape:
    """A shape about its middle. points: (N, 2) px of a polygon, or empty for an ellipse or a rounded rectangle."""

    size: tuple[float, float]
    form: str
    points: tuple[tuple[float, float], ...] = ()
    closed: bool = True
    corner: float = 0.0


def _path(shape: Shape) -> skia.Path:
    half_w, half_h = shape.size[0] / 2, shape.size[1] / 2
    rect = skia.Rect.MakeLTRB(-half_w, -half_h, half_w, half_h)
    path = skia.Path()
    if shape.form == "ellipse":
        path.addOval(rect)
    elif shape.form == "rectangle":
        corner = min(shape.corner, half_w, half_h)
        path.addRRect(skia.RRect.MakeRectXY(rect, corner, corner))
    else:
        path.addPoly([skia.Point(x, y) for x, y in shape.points], shape.closed)
    return path


def _paint(corner: float) -> skia.Paint:
    paint = skia.Paint()
    paint.setAntiAlias(True)
    if corner > 0:
        paint.setPathEffect(skia.CornerPathEffect.Make(corner))
    return paint


def _ints(colours: NDArray[np.float64]) -> list[int]:
    """Straight RGBA as Skia's 8-bit ARGB."""
    levels = np.clip(np.rint(colours * 255), 0, 255).astype(np.int64)
    return [int(a << 24 | r << 16 | g << 8 | b) for r, g, b, a in levels]


def _shader(paint: Paint, size: tuple[float, float]) -> skia.Shader:
    """A gradient over a box about the middle, to the corner that lies farthest that way (CSS Images 3)."""
    colours = _ints(stop_colours(paint.stops, np.linspace(0, 1, STEPS + 1)))
    places = [n / STEPS for n in range(STEPS + 1)]
    c, s = math.cos(math.radians(paint.angle)), math.sin(math.radians(paint.angle))
    premultiplied = 1
    if paint.form == "linear":
        far = abs(size[0] / 2 * c) + abs(size[1] / 2 * s)
        ends = [skia.Point(-far * c, -far * s), skia.Point(far * c, far * s)]
        return skia.GradientShader.MakeLinear(ends, colours, places, skia.TileMode.kClamp, premultiplied)
    if paint.form == "radial":
        radius = max(max(size) / 2, 1e-3)
        return skia.GradientShader.MakeRadial(
            skia.Point(0, 0), radius, colours, places, skia.TileMode.kClamp, premultiplied
        )
    matrix = skia.Matrix.RotateDeg(paint.angle)
    return skia.GradientShader.MakeSweep(0, 0, colours, places, skia.TileMode.kClamp, 0, 360, premultiplied, matrix)


def _fill(canvas: skia.Canvas, shape: Shape, path: skia.Path, fill: Paint) -> None:
    paint = _paint(shape.corner if shape.points else 0.0)
    if fill.form == "flat":
        paint.setColor4f(skia.Color4f(*fill.colour), None)
    else:
        paint.setShader(_shader(fill, shape.size))
    canvas.drawPath(path, paint)


def _stroke(canvas: skia.Canvas, shape: Shape, path: skia.Path, stroke: Stroke, look: Paint) -> None:
    paint = _paint(0.0)
    paint.setStyle(skia.Paint.kStroke_Style)
    paint.setStrokeWidth(stroke.width)
    paint.setStrokeJoin(skia.Paint.kRound_Join if stroke.round or shape.corner > 0 else skia.Paint.kMiter_Join)
    paint.setStrokeCap(skia.Paint.kRound_Cap if stroke.round else skia.Paint.kButt_Cap)
    if shape.points and shape.corner > 0:
        path = _rounded(path, shape.corner)
    drawn = _parts(path, stroke)
    if stroke.dash > 0:
        paint.setPathEffect(skia.DashPathEffect.Make([stroke.dash, max(stroke.gap, 0.01)], 0))
    if look.form == "along":
        _draw_along(canvas, drawn, paint, look)
    elif look.form == "across":
        colours = stop_colours(look.stops, np.linspace(0, 1, LAYERS))
        for n, colour in enumerate(colours):
            paint.setStrokeWidth(stroke.width * (1 - n / LAYERS))
            paint.setColor4f(skia.Color4f(*map(float, colour)), None)
            for part in drawn:
                canvas.drawPath(part, paint)
    else:
        paint.setColor4f(skia.Color4f(*look.colour), None)
        for part in drawn:
            canvas.drawPath(part, paint)


def _rounded(path: skia.Path, corner: float) -> skia.Path:
    paint = _paint(corner)
    paint.setStyle(skia.Paint.kFill_Style)
    out = skia.Path()
    record = skia.StrokeRec(skia.StrokeRec.InitStyle.kHairline_InitStyle)
    effect = skia.CornerPathEffect.Make(corner)
    return out if effect.filterPath(out, path, record, path.computeTightBounds()) else path


def _parts(path: skia.Path, stroke: Stroke) -> list[skia.Path]:
    """The parts of a path that are drawn: whole, or from `begin` to `end` of its length, moved on by `shift`."""
    length = min(max(stroke.end, 0.0), 1.0) - min(max(stroke.begin, 0.0), 1.0)
    if length >= 1:
        return [path]
    if length <= 0:
        return []
    first = (min(max(stroke.begin, 0.0), 1.0) + stroke.shift) % 1.0
    spans = [(first, min(first + length, 1.0))] + ([(0.0, first + length - 1)] if first + length > 1 else [])
    return [part for begin, end in spans if (part := _between(path, begin, end)) is not None]


def _between(path: skia.Path, begin: float, end: float) -> skia.Path | None:
    measure = skia.PathMeasure(path, False)
    length, out = measure.getLength(), skia.Path()
    return out if measure.getSegment(begin * length, end * length, out, True) else None


def _draw_along(canvas: skia.Canvas, parts: list[skia.Path], paint: skia.Paint, look: Paint) -> None:
    """Piece by piece; each reaches a little under the next, so that no seam shows."""
    colours = stop_colours(look.stops, (np.arange(PIECES) + 0.5) / PIECES)
    lengths = [skia.PathMeasure(part, False).getLength() for part in parts]
    total, done = max(sum(lengths), 1e-6), 0.0
    for part, length in zip(parts, lengths, strict=True):
        measure, at = skia.PathMeasure(part, False), 0.0
        while at < length - 1e-6:
            step = min(total / PIECES, length - at)
            piece = skia.Path()
            measure.getSegment(at, min(at + step + 0.75, length), piece, True)
            number = min(int((done + at) / total * PIECES), PIECES - 1)
            paint.setColor4f(skia.Color4f(*map(float, colours[number])), None)
            canvas.drawPath(piece, paint)
            at += step
        done += length


def _matrices(repeat: Repeat) -> list[tuple[skia.Matrix, float]]:
    """Where each copy lies about the first one's middle, and its opacity; the first one comes last, on top."""
    found = []
    for n in range(min(max(1, repeat.count), MOST_COPIES)):
        matrix = skia.Matrix()
        matrix.setTranslate(repeat.step[0] * n, repeat.step[1] * n)
        matrix.preRotate(repeat.turn * n)
        size = min(repeat.scale**n, 1000.0) if n * abs(math.log(max(repeat.scale, 1e-6))) < 100 else 0.0
        matrix.preScale(size, size)
        found.append((matrix, repeat.opacity**n))
    return found[::-1]


def shape_bounds(shape: Shape, stroke: Stroke, repeat: Repeat) -> tuple[float, float, float, float]:
    """Return what a drawn shape covers about its middle: left, top, right, low, in px."""
    with _LOCK:
        path = _path(shape)
        reach = stroke.width * 2 + 2
        rect = path.computeTightBounds().makeOutset(reach, reach)
        ends = [matrix.mapRect(rect) for matrix, _ in _matrices(repeat)]
    return (
        min(r.left() for r in ends),
        min(r.top() for r in ends),
        max(r.right() for r in ends),
        max(r.bottom() for r in ends),
    )


def draw_shape(
    shape: Shape, fill: Paint, stroke: Stroke, edge: Paint, repeat: Repeat, zoom: tuple[float, float]
) -> tuple[Picture, tuple[float, float]]:
    """Return a shape drawn at a zoom, (H, W, 4) premultiplied, and where the picture begins about its middle, px."""
    left, top, right, low = shape_bounds(shape, stroke, repeat)
    width = max(1, math.ceil((right - left) * zoom[0]))
    height = max(1, math.ceil((low - top) * zoom[1]))
    refuse_enormous(width, height, "the shape")
    out = np.zeros((height, width, 4), np.float32)
    at_once = edge.form == "across" and repeat.count <= 1 and zoom[0] == zoom[1] and _is_whole_circle(shape, stroke)
    with _LOCK:
        info = skia.ImageInfo.Make(width, height, skia.kRGBA_F32_ColorType, skia.kPremul_AlphaType)
        surface = skia.Surface.MakeRasterDirect(info, out)
        canvas = surface.getCanvas()
        canvas.scale(*zoom)
        canvas.translate(-left, -top)
        path = _path(shape)
        for matrix, opacity in _matrices(repeat):
            canvas.save()
            canvas.concat(matrix)
            if opacity < 1:
                canvas.saveLayerAlpha(None, round(255 * opacity))
            if fill.form != "none" and shape.closed:
                _fill(canvas, shape, path, fill)
            if edge.form != "none" and stroke.width > 0 and not at_once:
                _stroke(canvas, shape, path, stroke, edge)
            if opacity < 1:
                canvas.restore()
            canvas.restore()
        del canvas, surface
    if at_once:
        colours = stop_colours(edge.stops, np.linspace(0, 1, LAYERS))
        paint_layers(out, (left, top), 1 / zoom[0], shape.size[0] / 2, stroke.width, colours)
    return out, (left, top)


def _is_whole_circle(shape: Shape, stroke: Stroke) -> bool:
    """Whether a stroke goes all round a circle without gaps: its layers are painted at once, not one after another."""
    whole = stroke.width > 0 and stroke.end - stroke.begin >= 1 and stroke.dash <= 0
    return whole and shape.form == "ellipse" and shape.size[0] == shape.size[1] > 0
