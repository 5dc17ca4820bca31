"""Draw the pictures in docs/pictures/, rendered by the program itself: python tools/draw_page_pictures.py

`moving.webp`: the opener and three effects, as they move. `shutter.webp`: one frame with the shutter shut and open.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path

import numpy as np
from msgspec.structs import replace
from PIL import Image

from nimble_quake.conventions import Bytes8
from nimble_quake.raster.colour.convert import to_screen
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import render_frame
from nimble_quake.samples import sample_path
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.files import read_shot

FOLDER = Path(__file__).parents[1] / "docs" / "pictures"
SHOWN = (("lantern-row", 30), ("shockwave", 20), ("puddle-rings", 20), ("sign-glitch", 24))
"""What moves beside each other, and the frame it begins at."""
WIDTH, HEIGHT, GAP = 448, 252, 8
FRAMES, RATE = 36, 12
"""How many frames, and how many go by in a second."""
MOST = 1_500_000
"""Bytes; it is what a page is opened with."""


@cache
def _shot(name: str) -> Shot:
    path = sample_path(name)
    assert path is not None
    return read_shot(path)


@cache
def _engine() -> Engine:
    return Engine()


def _small(shot: Shot, frame: int) -> Bytes8:
    """A frame at the size of its place, RGB."""
    picture = render_frame(_engine(), shot, frame % shot.length, WIDTH / shot.width)
    return np.ascontiguousarray(to_screen(picture)[:HEIGHT, :WIDTH, 2::-1])


def moving(n: int) -> Bytes8:
    """Return frame n of the moving picture, RGB."""
    out = np.full((2 * HEIGHT + GAP, 2 * WIDTH + GAP, 3), 27, np.uint8)
    for place, (name, first) in enumerate(SHOWN):
        shot = _shot(name)
        small = _small(shot, first + round(n * float(shot.rate) / RATE))
        top, left = (place // 2) * (HEIGHT + GAP), (place % 2) * (WIDTH + GAP)
        out[top : top + small.shape[0], left : left + small.shape[1]] = small
    return out


def shutter() -> Bytes8:
    """Return a frame of a fast sample with the shutter shut, and open all of the frame."""
    shot = _shot("sign-glitch")
    both = [_small(replace(shot, shutter=angle, shutter_samples=0), 30) for angle in (0, 360)]
    return np.hstack([both[0], np.full((both[0].shape[0], GAP, 3), 27, np.uint8), both[1]])


def main() -> None:
    """Draw all."""
    FOLDER.mkdir(exist_ok=True)
    first, *rest = (Image.fromarray(moving(n)) for n in range(FRAMES))
    for quality in (70, 60, 50, 40, 30):
        target = FOLDER / "moving.webp"
        first.save(
            target, save_all=True, append_images=rest, duration=1000 // RATE, loop=0, quality=quality, method=4
        )
        if target.stat().st_size <= MOST:
            break
    Image.fromarray(shutter()).save(FOLDER / "shutter.webp", quality=85)
    for path in sorted(FOLDER.iterdir()):
        print(f"{path.name}: {path.stat().st_size / 1000:.0f} kB")


if __name__ == "__main__":
    main()
