"""Draw the clip with the detail of a photograph: a brick wall with ivy, water before it, grain, and a slow pan.

    python -m nimble_quake.samples.draw_wall [FOLDER]

Made of noise alone; nothing is filmed or borrowed. What drawn footage hides is seen on it: soft edges, fine structure,
grain, many colours close to each other.
"""

from __future__ import annotations

import sys
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.samples.draw_footage import HEIGHT, RATE, WIDTH, written

FRAMES, PAN = 96, 220
"""How many frames, and how many pixels the view goes over the wall."""
WATER = 560
"""The row the water begins at."""
RANDOM = np.random.Generator(np.random.PCG64(23))
Plane = NDArray[np.float32]


def _noise(size: float, octaves: int = 4, seed: int = 0, wide: int = WIDTH + PAN) -> Plane:
    """Smooth noise, 0...1, with features of so many pixels."""
    generator, total = np.random.Generator(np.random.PCG64(seed)), np.zeros((HEIGHT, wide), np.float32)
    for octave in range(octaves):
        cells = max(size / 2**octave, 1.5)
        small = generator.random((int(HEIGHT / cells) + 3, int(wide / cells) + 3), np.float32)
        total += cv2.resize(small, (wide, HEIGHT), interpolation=cv2.INTER_CUBIC) / 2**octave
    total -= total.min()
    return np.asarray(total / total.max(), np.float32)


def _bricks() -> Plane:
    """The wall, (H, W, 3): bricks of many reds, mortar, dirt, light from the left."""
    wide, tall = 92.0, 34.0
    y, x = np.mgrid[0:HEIGHT, 0 : WIDTH + PAN].astype(np.float32)
    x = x + 3 * (_noise(60, 3, 1) - 0.5)
    y = y + 3 * (_noise(60, 3, 2) - 0.5)
    row = np.floor(y / tall)
    across = x / wide + 0.5 * (row % 2)
    column = np.floor(across)
    edge = np.minimum(np.minimum(across % 1, 1 - across % 1) * wide, np.minimum(y / tall % 1, 1 - y / tall % 1) * tall)
    brick = np.clip((edge - 2.6 - 1.5 * _noise(7, 2, 3)) / 1.6, 0, 1)[..., None]
    each = np.abs(np.sin(column * 12.9898 + row * 78.233) * 43758.547) % 1
    tone = 0.55 + 0.35 * each + 0.35 * (_noise(9, 4, 4) - 0.5) + 0.2 * (_noise(180, 3, 5) - 0.5)
    red = np.stack([tone * 0.64, tone * (0.27 + 0.08 * each), tone * (0.2 + 0.05 * each)], axis=2)
    grey = 0.42 + 0.25 * (_noise(5, 3, 6)[..., None] - 0.5) + np.zeros(3, np.float32)
    lit = red * brick + grey * (1 - brick)
    height = cv2.GaussianBlur(brick[..., 0] + 0.5 * _noise(6, 3, 7), (0, 0), 1.0)
    relief = height - np.roll(np.roll(height, 1, 1), 1, 0)
    lit = lit * (1 + 0.9 * relief[..., None]) * (0.75 + 0.45 * _noise(420, 2, 8)[..., None])
    return np.asarray(lit, np.float32)


def _ivy(wall: Plane) -> Plane:
    """Leaves over the wall, each with its own green, its vein and its shadow."""
    out = wall.copy()
    where = _noise(260, 3, 9) + 0.25 * np.linspace(0.7, -0.6, HEIGHT, dtype=np.float32)[:, None]
    for _ in range(5200):
        cx, cy = RANDOM.uniform(0, WIDTH + PAN), RANDOM.uniform(0, WATER)
        if where[min(int(cy), HEIGHT - 1), min(int(cx), WIDTH + PAN - 1)] < 0.56:
            continue
        size, turn = RANDOM.uniform(5, 15), RANDOM.uniform(0, 360)
        green = np.array([0.1, 0.3, 0.08]) * RANDOM.uniform(0.5, 1.7) + RANDOM.uniform(0, 0.06, 3)
        for shift, colour in ((2.5, green * 0.15), (0.0, green)):
            middle = (round((cx + shift) * 16), round((cy + shift) * 16))
            axes = (round(size * 16), round(size * 9))
            cv2.ellipse(out, middle, axes, turn, 0, 360, tuple(float(c) for c in colour), -1, cv2.LINE_AA, 4)
        way = np.array([np.cos(np.radians(turn)), np.sin(np.radians(turn))]) * size
        ends = [(round((cx + s * way[0]) * 16), round((cy + s * way[1]) * 16)) for s in (-0.9, 0.9)]
        cv2.line(out, ends[0], ends[1], tuple(float(c) for c in green * 1.5), 1, cv2.LINE_AA, 4)
    return out


def _frame(scene: Plane, waves: tuple[Plane, Plane], n: int) -> Plane:
    """The view at a frame: the wall where the pan is, and its trembling picture in the water."""
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH].astype(np.float32)
    along = x + PAN * n / FRAMES
    depth = np.clip((y - WATER) / (HEIGHT - WATER), 0, 1)
    goes = 6.0 * n
    ripple = [
        np.roll(np.roll(wave, round(way * goes), 1), round(0.4 * goes), 0)[:, :WIDTH] - 0.5
        for wave, way in zip(waves, (1, -0.6), strict=True)
    ]
    bend = (ripple[0] + ripple[1]) * (4 + 40 * depth)
    mirrored = np.where(y > WATER, 2 * WATER - y - 30 * depth, y)
    down = np.where(y > WATER, mirrored + bend, y)
    over = np.where(y > WATER, along + 0.5 * bend, along)
    seen = cv2.remap(scene, over, down, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT)
    water = (y > WATER)[..., None]
    glint = np.clip((ripple[0] * ripple[1] * 16), 0, 1)[..., None] ** 2
    deep = seen * np.array([0.5, 0.62, 0.68], np.float32) * (0.95 - 0.35 * depth[..., None]) + 0.02 + 0.25 * glint
    return np.asarray(np.where(water, deep, seen), np.float32)


def wall(folder: Path) -> Path:
    """Draw the clip into a folder, and return its file."""
    scene = _ivy(_bricks())
    waves = (_noise(90, 3, 11), _noise(50, 3, 12))
    grain = [RANDOM.normal(0, 0.012, (HEIGHT, WIDTH, 1)).astype(np.float32) for _ in range(5)]

    def at(n: int) -> Plane:
        rgb = np.clip(_frame(scene, waves, n) + grain[n % 5], 0, 1)
        return np.dstack([rgb, np.ones((HEIGHT, WIDTH), np.float32)])

    return written("wall", folder, FRAMES, at)


if __name__ == "__main__":
    print(wall(Path(sys.argv[1]) if len(sys.argv) > 1 else Path(__file__).parent / "media"), RATE)
