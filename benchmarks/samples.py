"""How many frames a second each sample makes as it is played, at full and at half size: `python -m benchmarks.samples`.

Two frames at a time, thirty of them from a third of the shot on, with nothing kept from before.
"""

from __future__ import annotations

import statistics
import sys
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor

import cv2
import numpy as np

from nimble_quake.raster.threads.rows import on_one_thread
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.samples import sample_path, samples
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.files import read_shot

COUNT, WARM = 30, 6
FULL, HALF = 1.0, 0.5
LARGE = 3840 * 2160
"""The sample so large is asked for half its rate, at half size."""


def rate_of(shot: Shot, scale: float) -> float:
    """Return the frames a second of a shot at a scale."""
    engine, first = Engine(), shot.length // 3

    def frame(number: int) -> None:
        with on_one_thread():
            frame_picture(frame_job(engine, shot, (first + number) % shot.length), scale)

    with ThreadPoolExecutor(2) as pool:
        list(pool.map(frame, range(-WARM, 0)))
        began = time.perf_counter()
        list(pool.map(frame, range(COUNT)))
        return COUNT / (time.perf_counter() - began)


def rates(names: list[str] | None = None) -> Iterator[tuple[str, Shot, float, float]]:
    """Return of each sample its name, itself, and the frames a second that it makes at full and at half size."""
    for name in names or samples():
        path = sample_path(name)
        assert path is not None
        shot = read_shot(path)
        yield name, shot, rate_of(shot, FULL), rate_of(shot, HALF)


def reference() -> float:
    """Return the milliseconds of one bilinear remap of 1280x720 now: a machine that is slow for a while is seen."""
    source = np.zeros((720, 1280, 4), np.float32)
    ys, xs = np.mgrid[0:720, 0:1280].astype(np.float32)
    taken = []
    for _ in range(9):
        began = time.perf_counter()
        cv2.remap(source, xs + np.float32(0.5), ys, cv2.INTER_LINEAR)
        taken.append((time.perf_counter() - began) * 1000)
    return statistics.median(taken)


if __name__ == "__main__":
    for name, shot, full, half in rates(sys.argv[1:]):
        made = "  ".join(f"{found:6.1f}{'' if found >= float(shot.rate) else ' (slower)':9}" for found in (full, half))
        print(
            f"{name:26}{float(shot.rate):6.4g} fps; full and half size {made}  remap {reference():.1f} ms", flush=True
        )
