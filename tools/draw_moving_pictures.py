"""Draw the moving pictures of the samples that the start page shows: python tools/draw_moving_pictures.py [NAME ...]

Each is one JPEG with all its frames beside and below each other, so that nothing has to be computed to show it.
"""

from __future__ import annotations

import sys

import cv2
import numpy as np

from nimble_quake.raster.colour.convert import to_screen
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import render_frame
from nimble_quake.samples import moving_picture, sample_path, samples
from nimble_quake.session.starters import COLUMNS, FRAMES, HEIGHT, RATE, WIDTH
from nimble_quake.shotfile.files import read_shot

QUALITY = 76


def drawn(name: str) -> np.ndarray:
    """The frames of a sample from a fourth of it on, in one picture, BGR."""
    path = sample_path(name)
    assert path is not None
    shot, engine = read_shot(path), Engine()
    step = float(shot.rate) / RATE
    rows = []
    for row in range(0, FRAMES, COLUMNS):
        row_of = []
        for number in range(row, row + COLUMNS):
            frame = round(shot.length / 4 + number * step) % shot.length
            picture = render_frame(engine, shot, frame, 2 * max(WIDTH / shot.width, HEIGHT / shot.height))
            seen = np.ascontiguousarray(to_screen(picture)[..., :3])
            row_of.append(cv2.resize(seen, (WIDTH, HEIGHT), interpolation=cv2.INTER_AREA))
        rows.append(np.hstack(row_of))
    return np.vstack(rows)


def main(names: list[str]) -> None:
    """Draw all, or those named."""
    for name in names or samples():
        target = moving_picture(name)
        target.parent.mkdir(exist_ok=True)
        cv2.imwrite(str(target), drawn(name), [cv2.IMWRITE_JPEG_QUALITY, QUALITY])
        print(f"{target.name}: {target.stat().st_size / 1000:.0f} kB")


if __name__ == "__main__":
    main(sys.argv[1:])
