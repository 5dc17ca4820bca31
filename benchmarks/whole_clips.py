"""A clip pushed by a clip and encoded, as `nimble-quake displace` does, beside the barest script that does the same.

The script has no colour management, no edges, no alpha and 8 bits: OpenCV and PyAV, with the same encoder.
"""

from __future__ import annotations

import tempfile
import time
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np

from nimble_quake.export.formats import format_named
from nimble_quake.export.kinds.mp4 import options
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import render
from nimble_quake.render.engine import Engine
from nimble_quake.samples import FOLDER
from nimble_quake.shot.model import Map, Node, Plate, Shot

CLIP, MAP = (str(FOLDER / "media" / name) for name in ("lanterns.mp4", "crowd.mp4"))
FRAMES, REACH, QUALITY = 144, 40.0, 18
TURNS = 3


def pushed() -> Shot:
    """The clip, pushed across by the other one's red and down by its green."""
    step = Node(id="file", kind="picture", values={"file": MAP, "take": "colour", "fit": "stretch"})
    values = {"map": "map", "reach_x": REACH, "reach_y": REACH, "x_from": "red", "y_from": "green", "edge": "hold"}
    plate = Plate(
        id="clip",
        kind="clip",
        values={"file": CLIP, "fit": "centre"},
        effects=(Node(id="push", kind="push", values=values),),
    )
    maps = (Map(id="map", name="Map", recipe=(step,)),)
    return Shot(width=1280, height=720, rate=Fraction(24), length=FRAMES, plates=(plate,), maps=maps)


def ours(folder: Path) -> None:
    """Write it with the product."""
    format = format_named("mp4")
    render(Order(pushed(), folder / "ours.mp4", 0, FRAMES - 1, format=format, quality=QUALITY), Engine())


def bare(folder: Path) -> None:
    """Write it with the script."""
    ys, xs = np.mgrid[0:720, 0:1280].astype(np.float32)
    with av.open(CLIP) as clip, av.open(MAP) as map, av.open(str(folder / "bare.mp4"), "w") as out:
        for source in (clip, map):
            source.streams.video[0].thread_type = "AUTO"
        stream = out.add_stream("libx264", rate=24, options=options(QUALITY))
        stream.width, stream.height, stream.pix_fmt = 1280, 720, "yuv420p"
        maps = map.decode(video=0)
        last = next(maps)
        for frame in clip.decode(video=0):
            moves = (last.to_ndarray(format="rgb24").astype(np.float32) / 255 - 0.5) * REACH
            picture = frame.to_ndarray(format="rgb24")
            seen = cv2.remap(
                picture, xs - moves[..., 0], ys - moves[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
            )
            out.mux(stream.encode(av.VideoFrame.from_ndarray(np.asarray(seen, np.uint8), "rgb24")))
            last = next(maps, last)
        out.mux(stream.encode())


def per_frame() -> tuple[float, float]:
    """Return the milliseconds a frame of ours and of the script, by turns: the least of a few."""
    taken: dict[str, list[float]] = {"ours": [], "bare": []}
    with tempfile.TemporaryDirectory() as name:
        for _ in range(TURNS):
            for what, work in (("ours", ours), ("bare", bare)):
                began = time.perf_counter()
                work(Path(name))
                taken[what].append((time.perf_counter() - began) * 1000 / FRAMES)
    return min(taken["ours"]), min(taken["bare"])


if __name__ == "__main__":
    own, script = per_frame()
    print(f"a clip pushed by a clip to MP4: {own:.1f} ms a frame, the script {script:.1f} ms: {own / script:.2f} x")
