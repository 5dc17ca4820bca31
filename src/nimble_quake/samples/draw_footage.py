"""Draw the demo footage: lanterns swaying, steam over a stall, rain on an awning, a crowd of silhouettes.

    python -m nimble_quake.samples.draw_footage [FOLDER [NAME ...]]

All of it is drawn here; nothing is filmed or borrowed. The files in `media/` were made with it.
"""

from __future__ import annotations

import math
import sys
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import numpy as np
import skia

from nimble_quake.export.formats import Target, format_named
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.raster.noise.fractal import Recipe, fractal

WIDTH, HEIGHT, RATE = 1280, 720, Fraction(24)
RANDOM = np.random.Generator(np.random.PCG64(7))
LAMPS = [(255, 120, 70), (255, 200, 90), (90, 200, 190), (255, 90, 110), (250, 225, 160)]


def _paint(r: int, g: int, b: int, a: float = 1.0, blur: float = 0.0, add: bool = False) -> skia.Paint:
    paint = skia.Paint(AntiAlias=True, Color=skia.ColorSetARGB(round(a * 255), r, g, b))
    if blur:
        paint.setMaskFilter(skia.MaskFilter.MakeBlur(skia.kNormal_BlurStyle, blur))
    if add:
        paint.setBlendMode(skia.BlendMode.kPlus)
    return paint


def _sky(canvas: skia.Canvas, top: tuple[int, int, int], low: tuple[int, int, int]) -> None:
    colours = [skia.ColorSetRGB(*top), skia.ColorSetRGB(*low)]
    shader = skia.GradientShader.MakeLinear([(0, 0), (0, HEIGHT)], colours)
    canvas.drawPaint(skia.Paint(Shader=shader))


def _stalls(canvas: skia.Canvas) -> None:
    """Two rows of awnings that run to a point, and wet ground between them."""
    middle = WIDTH / 2
    for side in (-1, 1):
        for row in range(9, -1, -1):
            near, far = 0.82**row, 0.82 ** (row + 1)
            x0, x1 = middle + side * (110 + 560 * near), middle + side * (110 + 560 * far)
            y0, y1 = 372 - 60 * near, 372 - 60 * far
            light = 0.35 + 0.65 * near
            stripe = (200, 70, 52) if row % 2 else (232, 205, 160)
            r, g, b = (round(c * light * 0.62) for c in stripe)
            roof = skia.Path()
            roof.addPoly([(x0, y0 - 90 * near), (x1, y1 - 90 * far), (x1, y1), (x0, y0)], True)
            canvas.drawPath(roof, _paint(r, g, b))
            front = skia.Path()
            front.addPoly([(x0, y0), (x1, y1), (x1, 372 + 60 * far), (x0, 372 + 100 * near)], True)
            canvas.drawPath(front, _paint(round(150 * light), round(84 * light), round(40 * light)))
    ground = skia.Path()
    ground.addPoly([(middle - 90, 390), (middle + 90, 390), (WIDTH + 200, HEIGHT), (-200, HEIGHT)], True)
    colours = [skia.ColorSetRGB(196, 110, 58), skia.ColorSetRGB(52, 28, 58), skia.ColorSetRGB(22, 16, 38)]
    shader = skia.GradientShader.MakeLinear([(0, 380), (0, HEIGHT)], colours, [0, 0.45, 1])
    canvas.drawPath(ground, skia.Paint(Shader=shader, AntiAlias=True))


def _lamp(canvas: skia.Canvas, x: float, y: float, r: float, rgb: tuple[int, int, int], glow: float) -> None:
    canvas.drawCircle(x, y, r * 2.6, _paint(*rgb, 0.28 * glow, r * 1.3, add=True))
    canvas.drawCircle(x, y, r, _paint(*rgb))
    red, green, blue = (min(255, round(c * 0.5 + 140)) for c in rgb)
    canvas.drawCircle(x, y + r * 0.1, r * 0.55, _paint(red, green, blue, 0.85, r * 0.3))
    canvas.drawRect(skia.Rect.MakeXYWH(x - r * 0.4, y - r * 1.12, r * 0.8, r * 0.22), _paint(60, 30, 22))


def lanterns(canvas: skia.Canvas, t: float, length: float) -> None:
    """A street of swaying lanterns between stalls, reflected in wet ground; loops."""
    turn = 2 * math.pi * t / length
    _sky(canvas, (14, 14, 44), (86, 40, 74))
    for n in range(70):
        star = (n * 397) % WIDTH, (n * 211) % 260
        canvas.drawCircle(*star, 1.1, _paint(220, 220, 255, 0.25 + 0.2 * math.sin(3 * turn + n)))
    _stalls(canvas)
    for row in range(5, -1, -1):
        near = 0.72**row
        for n in range(-4, 5):
            sway = math.sin(turn * (1 + (n + row) % 2) + n * 1.3 + row) * 16 * near
            x = WIDTH / 2 + n * 176 * near + sway
            y = 372 - (252 - 14 * abs(n) + 10 * math.sin(turn + n)) * near
            rgb = LAMPS[(n + row * 2) % 5]
            _lamp(canvas, x, y, 27 * near, rgb, 1.0)
            foot = 398 + 300 * near
            canvas.drawOval(
                skia.Rect.MakeXYWH(x - 20 * near, foot - 70 * near, 40 * near, 150 * near),
                _paint(*rgb, 0.20, 14 * near + 1, add=True),
            )
    for n in range(13):
        x = WIDTH / 2 + (n - 6) * 26 + 9 * math.sin(turn + n)
        canvas.drawOval(skia.Rect.MakeXYWH(x, 350, 13, 40), _paint(16, 10, 22, 0.9, 1))
        canvas.drawCircle(x + 6, 346 + math.sin(2 * turn + n), 6, _paint(16, 10, 22, 0.95))


def stall(canvas: skia.Canvas, t: float, length: float) -> None:
    """A food stall with pots; the steam is added as a field afterwards."""
    turn = 2 * math.pi * t / length
    _sky(canvas, (30, 16, 34), (96, 44, 34))
    for n in range(9):
        _lamp(canvas, 90 + n * 140 + 6 * math.sin(turn + n), 92 + 26 * (n % 2), 30, LAMPS[n % 5], 1.1)
    for n in range(16):
        rgb = (196, 62, 50) if n % 2 else (238, 212, 170)
        scallop = skia.Path()
        scallop.addPoly(
            [(n * 80, 160), (n * 80 + 80, 160), (n * 80 + 80, 214), (n * 80 + 40, 236), (n * 80, 214)], True
        )
        canvas.drawPath(scallop, _paint(*rgb))
    for n in range(9):
        x = 60 + n * 136
        canvas.drawRect(skia.Rect.MakeXYWH(x, 292, 96, 128), _paint(120 + 30 * (n % 3), 66 + 10 * (n % 4), 40))
        canvas.drawRect(skia.Rect.MakeXYWH(x + 14, 310, 68, 16), _paint(240, 200, 130, 0.75))
        canvas.drawRect(skia.Rect.MakeXYWH(x + 14, 338, 50, 8), _paint(240, 200, 130, 0.5))
        canvas.drawRect(skia.Rect.MakeXYWH(x + 14, 356, 60, 8), _paint(240, 200, 130, 0.5))
    canvas.drawRect(skia.Rect.MakeXYWH(0, 540, WIDTH, 180), _paint(74, 38, 26))
    for n in range(18):
        canvas.drawRect(skia.Rect.MakeXYWH(n * 76 + 2, 556, 70, 164), _paint(96, 50, 32))
    for n, x in enumerate((200, 520, 840, 1120)):
        flame = 12 + 4 * math.sin(6 * turn + n)
        canvas.drawOval(skia.Rect.MakeXYWH(x - 60, 530 - flame / 2, 120, 26), _paint(255, 150, 60, 0.9, 9, add=True))
        canvas.drawRect(skia.Rect.MakeXYWH(x - 96, 430, 192, 104), _paint(54, 52, 60))
        canvas.drawRect(skia.Rect.MakeXYWH(x - 96, 446, 192, 10), _paint(96, 94, 104))
        canvas.drawOval(skia.Rect.MakeXYWH(x - 96, 412, 192, 38), _paint(82, 80, 88))
        canvas.drawOval(skia.Rect.MakeXYWH(x - 84, 418, 168, 26), _paint(214, 150, 84))


def rain(canvas: skia.Canvas, t: float, length: float) -> None:
    """Rain in front of a striped awning with the market's light behind; loops."""
    fraction = t / length
    _sky(canvas, (16, 18, 42), (64, 36, 62))
    for n in range(8):
        _lamp(canvas, 70 + n * 165, 470 + 40 * (n % 3), 34, LAMPS[n % 5], 1.3)
    for n in range(13):
        rgb = (60, 128, 130) if n % 2 else (226, 214, 190)
        panel = skia.Path()
        panel.addPoly([(n * 100, 0), (n * 100 + 100, 0), (n * 108 + 70, 220), (n * 108 - 38, 220)], True)
        canvas.drawPath(panel, _paint(*rgb, 0.9))
    canvas.drawRect(skia.Rect.MakeXYWH(0, 214, WIDTH, 12), _paint(30, 30, 40))
    rng = np.random.Generator(np.random.PCG64(3))
    for _ in range(420):
        speed = int(rng.integers(3, 7))
        x, start, size = rng.random() * WIDTH, rng.random(), 0.5 + rng.random()
        y = ((start + fraction * speed) % 1) * (HEIGHT + 80) - 40
        canvas.drawRect(skia.Rect.MakeXYWH(x, y, 1.4 * size, 34 * size), _paint(210, 225, 255, 0.30 * size))
    for n in range(34):
        grow = (fraction * 3 + n * 0.37) % 1
        canvas.drawOval(
            skia.Rect.MakeXYWH(n * 38 - 20 * grow, 690 - 5 * grow, 40 * grow, 10 * grow),
            skia.Paint(
                AntiAlias=True,
                Style=skia.Paint.kStroke_Style,
                StrokeWidth=1.6,
                Color=skia.ColorSetARGB(round(140 * (1 - grow)), 210, 225, 255),
            ),
        )


def crowd(canvas: skia.Canvas, t: float, length: float) -> None:
    """Silhouettes that walk past lit stalls; loops."""
    fraction = t / length
    _sky(canvas, (60, 26, 50), (236, 138, 70))
    for n in range(11):
        canvas.drawCircle(60 + n * 118, 150 + 46 * (n % 3), 34, _paint(*LAMPS[n % 5], 0.9, 5))
    for size, tone, way in ((0.62, 92, 1), (0.8, 52, -1), (1.05, 18, 1)):
        for n in range(9):
            x = ((n / 9 + way * fraction) % 1) * (WIDTH + 300) - 150
            bob = 7 * size * math.sin(2 * math.pi * (fraction * 12 + n * 0.31))
            foot, tall = 720, 420 * size
            rgb = (tone, round(tone * 0.5), round(tone * 0.55) + 8)
            canvas.drawCircle(x, foot - tall + bob, 34 * size, _paint(*rgb))
            canvas.drawRoundRect(
                skia.Rect.MakeXYWH(x - 58 * size, foot - tall + 36 * size + bob, 116 * size, tall), 44, 60, _paint(*rgb)
            )


def windows(canvas: skia.Canvas, t: float, length: float) -> None:
    """House fronts with lit windows, signs and cables, passed slowly by; made to be tracked."""
    _sky(canvas, (18, 18, 46), (70, 40, 74))
    rng = np.random.Generator(np.random.PCG64(21))
    canvas.save()
    fraction = t / length
    canvas.translate(-210 * fraction, -24 * math.sin(math.pi * fraction))
    canvas.scale(1 + 0.06 * fraction, 1 + 0.06 * fraction)
    x = -40.0
    while x < WIDTH + 420:
        wide, tall = float(rng.integers(150, 260)), float(rng.integers(380, 600))
        top, tone = HEIGHT - tall, rng.integers(34, 70)
        canvas.drawRect(
            skia.Rect.MakeXYWH(x, top, wide - 6, tall), _paint(int(tone) + 14, int(tone) - 4, int(tone) + 18)
        )
        for row in range(int(tall // 76)):
            for column in range(int(wide // 58)):
                lit = rng.random() < 0.6
                rgb = LAMPS[int(rng.integers(0, 5))] if lit else (40, 36, 58)
                px, py = x + 14 + column * 56, top + 22 + row * 74
                canvas.drawRect(skia.Rect.MakeXYWH(px, py, 32, 44), _paint(*rgb, 0.9 if lit else 1.0))
                canvas.drawRect(skia.Rect.MakeXYWH(px + 15, py, 2, 44), _paint(20, 16, 30))
                canvas.drawRect(skia.Rect.MakeXYWH(px, py + 21, 32, 2), _paint(20, 16, 30))
        canvas.drawRect(skia.Rect.MakeXYWH(x + 10, HEIGHT - 96, wide - 26, 26), _paint(*LAMPS[int(rng.integers(0, 5))]))
        x += wide
    for n in range(7):
        canvas.drawLine(
            n * 260.0,
            60,
            n * 260.0 + 320,
            120 + 18 * (n % 2),
            skia.Paint(
                AntiAlias=True, StrokeWidth=2.5, Color=skia.ColorSetRGB(14, 12, 24), Style=skia.Paint.kStroke_Style
            ),
        )
    canvas.restore()


def walker(canvas: skia.Canvas, t: float, length: float) -> None:
    """A figure that walks on the spot, clear all round; loops."""
    swing = 2 * math.pi * t / length * 2
    middle, hip = WIDTH / 2, 400 - 9 * abs(math.sin(swing))
    cloth, skin, dark = _paint(196, 84, 66), _paint(226, 168, 130), _paint(44, 34, 60)

    def limb(x: float, y: float, first: float, second: float, length: float, width: float, ink: skia.Paint) -> None:
        ink.setStyle(skia.Paint.kStroke_Style)
        ink.setStrokeCap(skia.Paint.kRound_Cap)
        ink.setStrokeWidth(width)
        knee = (x + length * math.sin(first), y + length * math.cos(first))
        foot = (knee[0] + length * math.sin(second), knee[1] + length * math.cos(second))
        canvas.drawLine(x, y, *knee, ink)
        canvas.drawLine(*knee, *foot, ink)

    for phase, shade in ((math.pi, 0.7), (0.0, 1.0)):
        a = 0.55 * math.sin(swing + phase)
        bend = 0.5 + 0.5 * math.cos(swing + phase)
        limb(middle, hip, a, a - 0.75 * bend, 104, 50, _paint(round(44 * shade), round(34 * shade), round(60 * shade)))
        limb(
            middle,
            hip - 176,
            -0.8 * a,
            -0.8 * a + 0.45,
            78,
            34,
            _paint(round(196 * shade), round(84 * shade), round(66 * shade)),
        )
    canvas.drawRoundRect(skia.Rect.MakeXYWH(middle - 54, hip - 206, 108, 232), 50, 60, cloth)
    canvas.drawCircle(middle + 6, hip - 252, 46, skin)
    canvas.drawOval(skia.Rect.MakeXYWH(middle - 62, hip - 300, 132, 40), dark)
    canvas.drawRoundRect(skia.Rect.MakeXYWH(middle - 36, hip - 330, 84, 52), 22, 22, dark)


def _steam(out: np.ndarray, t: float, length: float) -> None:
    """Rising noise over the pots, faded in and out at the loop's ends."""
    grid = frame_grid(WIDTH, HEIGHT, 0.5)
    fraction = t / length
    way = 110.0 * length
    weight = math.cos(fraction * math.pi / 2), math.sin(fraction * math.pi / 2)
    total = np.zeros((*grid.shape, 1), np.float32)
    for amount, back in zip(weight, (0.0, 1.0), strict=True):
        place = affine.compose(affine.shift(0, way * (fraction - back)), affine.stretch(1 / 150, 1 / 210))
        total += amount * fractal(grid, place, Recipe(z=t * 0.25 % 256, seed=11))
    import cv2

    steam = cv2.resize(total[..., 0], (WIDTH, HEIGHT), interpolation=cv2.INTER_LINEAR)
    ys = np.arange(HEIGHT, dtype=np.float32)[:, None]
    fade = np.clip((ys - 60) / 240, 0, 1) * np.clip((440 - ys) / 60, 0, 1)
    amount = (np.clip(0.25 + steam, 0, 1) * fade * 0.62)[..., None]
    out[..., :3] += (np.array([0.93, 0.86, 0.80], np.float32) - out[..., :3]) * amount


SCENES: dict[str, tuple[Callable[[skia.Canvas, float, float], None], float, int]] = {
    "lanterns": (lanterns, 6.0, 26),
    "stall": (stall, 5.0, 26),
    "rain": (rain, 4.0, 30),
    "crowd": (crowd, 5.0, 26),
    "windows": (windows, 4.0, 27),
    "walker": (walker, 2.0, 30),
}
CLEAR = ("walker",)
"""Scenes that are clear round what is drawn: WebM with alpha."""


def draw(name: str, folder: Path) -> Path:
    """Draw a scene into a clip."""
    scene, length, quality = SCENES[name]

    def at(frame: int) -> np.ndarray:
        out = np.zeros((HEIGHT, WIDTH, 4), np.float32)
        info = skia.ImageInfo.Make(WIDTH, HEIGHT, skia.kRGBA_F32_ColorType, skia.kPremul_AlphaType)
        surface = skia.Surface.MakeRasterDirect(info, out)
        scene(surface.getCanvas(), float(frame / RATE), length)
        del surface
        if name == "stall":
            _steam(out, float(frame / RATE), length)
        return out

    return written(name, folder, round(length * RATE), at, quality)


def written(name: str, folder: Path, frames: int, at: Callable[[int], np.ndarray], quality: int = 30) -> Path:
    """Write frames, (H, W, 4) float32 each, to a clip, and return its file."""
    format = format_named("webm" if name in CLEAR else "mp4")
    target = Target(folder / f"{name}{format.suffix}", format, RATE, WIDTH, HEIGHT, quality)
    writer = format.opens(target)
    for frame in range(frames):
        writer.write(frame, format.prepare(np.clip(at(frame), 0, 1), target))
    writer.finish()
    return target.path


if __name__ == "__main__":
    target = Path(sys.argv[1]) if len(sys.argv) > 1 else Path(__file__).parent / "media"
    target.mkdir(parents=True, exist_ok=True)
    for scene_name in sys.argv[2:] or SCENES:
        print(draw(scene_name, target))
