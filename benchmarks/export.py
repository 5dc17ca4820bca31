"""Rendering to files: computing, packing and encoding side by side."""

from __future__ import annotations

import os
import tempfile
import time
from pathlib import Path

import cv2
import numpy as np

from nimble_quake.export.formats import format_named
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import render
from nimble_quake.motion.kinds import Rate
from nimble_quake.render.engine import Engine
from nimble_quake.shot.model import Plate, Shot

FRAMES = 96


def moving_still(folder: Path) -> Shot:
    """A detailed still that travels: cheap to draw, much for an encoder."""
    rng = np.random.Generator(np.random.PCG64(3))
    rough = rng.integers(0, 255, (900, 1600, 3), np.uint8)
    cv2.imwrite(str(folder / "rough.png"), cv2.GaussianBlur(rough, (0, 0), 1.5))
    values = {"file": str(folder / "rough.png"), "fit": "centre", "position": Rate((640.0, 360.0), (30.0, 20.0))}
    return Shot(width=1280, height=720, length=FRAMES, plates=(Plate(id="s", kind="still", values=values),))


def share_of_cores(shot: Shot, key: str, folder: Path, frames: int = 48) -> float:
    """Return how busy a render keeps the cores: what computing, packing and encoding take, done side by side."""
    format = format_named(key)
    order = Order(shot, folder / f"p_##{format.suffix}", 0, frames - 1, format=format)
    render(order, Engine())
    began, used = time.perf_counter(), time.process_time()
    render(order, Engine())
    return (time.process_time() - used) / (time.perf_counter() - began) / (os.cpu_count() or 1)


def shares(shot: Shot) -> dict[str, float]:
    """Return the share for each row."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        still = moving_still(folder)
        return {
            "a still that travels to MP4": share_of_cores(still, "mp4", folder, FRAMES),
            "a still that travels to FFV1": share_of_cores(still, "ffv1", folder, FRAMES),
            **{f"the demo to {key}": share_of_cores(shot, key, folder) for key in ("mp4", "png", "exr-half")},
        }
