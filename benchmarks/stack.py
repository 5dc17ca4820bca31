"""Speed of the stack: finishes, groups, live copies, tracking, and a tall stack played."""

from __future__ import annotations

import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from fractions import Fraction
from typing import Any

import numpy as np
from msgspec.structs import replace

from benchmarks.couplings import GRID, SIZE, node
from nimble_quake.analysis.tracking import Settings, track
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.threads.rows import on_one_thread
from nimble_quake.render.chain.pictures import PlacedRaster
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.plan.units import units_of
from nimble_quake.render.plates.layers import effects_chain
from nimble_quake.render.services import frame_job
from nimble_quake.render.values.placement import Placement
from nimble_quake.samples import FOLDER
from nimble_quake.shot.model import Map, Node, Plate, Shot

FINISHES: tuple[tuple[str, dict[str, Any], float], ...] = (
    ("glow", {"radius": 24.0}, 4),
    ("outline", {"width": 8.0}, 4),
    ("line_drawing", {}, 4),
    ("grain", {"rate": 0.0}, 1),
    ("worn_film", {"rate": 0.0}, 3),
    ("defocus", {"radius": 20.0}, 8),
)
TEXT = Plate(id="t", kind="text", values={"size": 240.0})
CLIP = str(FOLDER / "media" / "windows.mp4")


def finished(kind: str, values: dict[str, Any]) -> Callable[[], object]:
    """Return work that makes what a finish makes of one picture with a soft hole in it."""
    engine, rng = Engine(), np.random.Generator(np.random.PCG64(2))
    picture = rng.random((SIZE[1], SIZE[0], 4)).astype(np.float32)
    ys, xs = np.mgrid[: SIZE[1], : SIZE[0]]
    alpha = np.clip((np.hypot(xs - 640, ys - 360) - 200) / 6, 0, 1).astype(np.float32)
    picture[..., 3] = 1
    picture *= alpha[..., None]
    plate = Plate(id="p", kind="fill", effects=(node(kind, **values),))
    shot = Shot(width=SIZE[0], height=SIZE[1], rate=Fraction(24), length=144, plates=(plate,))
    lies = Placement((float(SIZE[0]), float(SIZE[1])), affine.IDENTITY, affine.IDENTITY)

    def work() -> object:
        job = frame_job(engine, shot, 20)
        ground = PlacedRaster(picture, affine.IDENTITY, "hold", lies, ("picture",), lambda seconds: ground)
        engine.last_frames.clear()
        engine.cache._asked.clear()
        return effects_chain(job, plate, units_of(job, plate), ground).on(GRID)

    return work


def fills(count: int) -> list[Plate]:
    return [
        Plate(id=f"f{n}", kind="fill", values={"shape": "linear", "opacity": 0.6, "colour": (0.1 * n, 0.3, 0.6, 1.0)})
        for n in range(count)
    ]


def frame_of(shot: Shot, frames: int = 1) -> Callable[[], object]:
    """Return work that makes frames of a shot; only what was kept on purpose is remembered."""
    engine = Engine()
    numbers = iter(range(10**6))

    def work() -> object:
        engine.last_frames.clear()
        engine.cache._asked.clear()
        return frame_picture(frame_job(engine, shot, 20 + next(numbers) % frames))

    return work


def group_shots() -> tuple[Callable[[], object], Callable[[], object]]:
    """Return work that makes a frame of five plates, and of the same five in a group."""
    base = Shot(width=SIZE[0], height=SIZE[1], rate=Fraction(24), length=144)
    plates = (TEXT, *fills(4))
    held = tuple(replace(plate, inside="g") for plate in plates)
    return (
        frame_of(replace(base, plates=plates)),
        frame_of(replace(base, plates=(Plate(id="g", kind="group"), *held))),
    )


def copy_shots() -> tuple[Callable[[], object], Callable[[], object]]:
    """Return work that makes a frame of a clip, and of the clip with a live copy, smaller, over it."""
    clip = Plate(id="c", kind="clip", values={"file": CLIP, "fit": "cover"})
    copy = Plate(id="d", kind="copy", values={"of": "c", "scale_x": 0.7, "scale_y": 0.7})
    base = Shot(width=SIZE[0], height=SIZE[1], rate=Fraction(24), length=96)
    return frame_of(replace(base, plates=(clip,))), frame_of(replace(base, plates=(copy, clip)))


def tracked_fps() -> float:
    """Return how many frames a second 400 points are followed through a picture that slides, at 1280x720."""
    rng = np.random.Generator(np.random.PCG64(4))
    wide = np.kron(rng.integers(0, 255, (92, 172)), np.ones((8, 8))).astype(np.uint8)
    frames = [np.ascontiguousarray(wide[: SIZE[1], 2 * n : 2 * n + SIZE[0]]) for n in range(40)]
    began = time.perf_counter()
    track(iter(frames), 1.0, Settings(400))
    return len(frames) / (time.perf_counter() - began)


def tall_stack() -> Shot:
    """Return a shot of 12 plates with 20 effects."""
    soft = Map(
        id="m", name="", recipe=(Node(id="n", kind="noise", values={"size_x": 200.0, "size_y": 120.0, "churn": 0.3}),)
    )
    kinds = ("drop_shadow", "outline", "inner_glow", "saturation", "tint")
    plates = [
        Plate(
            id=f"p{n}",
            kind="shape",
            values={
                "form": "star",
                "width": 150.0,
                "height": 150.0,
                "turn": 10.0 * n,
                "position": (120.0 + 110 * n, 180.0 + 40 * (n % 5)),
            },
            effects=(node("push", n, map="m", reach_x=14.0), node(kinds[n % 5], n)),
        )
        for n in range(10)
    ]
    clip = Plate(id="c", kind="clip", values={"file": CLIP, "fit": "cover"})
    return Shot(width=SIZE[0], height=SIZE[1], rate=Fraction(24), length=96, plates=(TEXT, *plates, clip), maps=(soft,))


def played_fps(shot: Shot, scale: float) -> float:
    """Return how many frames a second of a shot are made in order, as while it plays: two at once, a core each."""
    engine = Engine()

    def make(frame: int) -> None:
        with on_one_thread():
            frame_picture(frame_job(engine, shot, frame), scale)

    for frame in range(4):
        make(frame)
    with ThreadPoolExecutor(2) as pool:
        began = time.perf_counter()
        list(pool.map(make, range(4, 64)))
        return 60 / (time.perf_counter() - began)
