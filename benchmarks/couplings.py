"""Speed of the couplings: each on one opaque picture of 1280x720, its map given and still, nothing else remembered."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from typing import Any

import numpy as np
from msgspec.structs import replace

from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.pictures import PlacedRaster
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.plan.units import units_of
from nimble_quake.render.plates.layers import effects_chain
from nimble_quake.render.services import frame_job
from nimble_quake.render.values.placement import Placement
from nimble_quake.shot.model import Map, Node, Plate, Shot

SIZE = (1280, 720)
GRID = frame_grid(*SIZE)
SOFT = Map(id="m", name="", recipe=(Node(id="n", kind="noise", values={"size_x": 200.0, "size_y": 200.0}),))
NET = tuple(float(v) for v in np.random.Generator(np.random.PCG64(3)).normal(0, 14, 40))

Rows = tuple[tuple[str, tuple[Node, ...], float], ...]


def node(kind: str, number: int = 0, /, **values: Any) -> Node:
    return Node(id=f"{kind}{number}", kind=kind, values=values)


SPLIT = {"split": True, "split_red": -0.2, "split_blue": 0.2}
COUPLINGS: Rows = (
    ("push", (node("push", map="m", reach_x=40.0, reach_y=20.0),), 2),
    ("slope", (node("slope", map="m"),), 4),
    ("slope, glass", (node("slope", map="m", bends_by="glass"),), 4),
    ("bulge", (node("bulge", radius=500.0),), 2.5),
    ("twirl", (node("twirl", radius=400.0, angle=60.0),), 2.5),
    ("wave", (node("wave"),), 2.5),
    ("mesh", (node("mesh", net=NET),), 3),
    (
        "four chained warps",
        (
            node("push", 1, map="m"),
            node("wave", 2),
            node("bulge", 3, radius=400.0),
            node("push", 4, map="m", reach_x=15.0),
        ),
        6,
    ),
    ("push, colours split in 3", (node("push", map="m", reach_x=40.0, **SPLIT),), 4.5),
    ("scatter", (node("scatter"),), 3),
    ("soften, up to 40 px", (node("soften", map="m", radius=40.0),), 10),
)


def coupled(effects: tuple[Node, ...], engine: Engine | None = None, frame: int = 20) -> Callable[[], object]:
    """Return work that makes what effects show of one picture; only the map is remembered."""
    engine = engine or Engine()
    picture = np.random.Generator(np.random.PCG64(2)).random((720, 1280, 4)).astype(np.float32)
    picture[..., 3] = 1.0
    plate = Plate(id="p", kind="fill", effects=effects)
    shot = Shot(width=SIZE[0], height=SIZE[1], rate=Fraction(24), length=144, plates=(plate,), maps=(SOFT,))
    lies = Placement((1280.0, 720.0), affine.IDENTITY, affine.IDENTITY)

    def work() -> object:
        job = frame_job(engine, shot, frame)
        ground = PlacedRaster(picture, affine.IDENTITY, "hold", lies, ("picture",), lambda seconds: ground)
        engine.last_frames.clear()
        engine.cache._asked.clear()  # nothing but the map is asked for twice
        return effects_chain(job, plate, units_of(job, plate), ground).on(GRID)

    return work


def step_by_step(effects: tuple[Node, ...]) -> Callable[[], object]:
    """Return work that makes the same effects one after another, each sampled as sharply as it can be: cubic."""
    works = [coupled((replace(effect, values={**effect.values, "filter": "best"}),)) for effect in effects]

    def work() -> None:
        for each in works:
            each()

    return work


def lens_shots() -> tuple[Callable[[], object], Callable[[], object]]:
    """Return work that makes a frame of five plates with an effect on one, and with it on a lens over them all."""
    effect = node("push", map="m", reach_x=20.0, reach_y=12.0)
    fills = [
        Plate(id=f"f{n}", kind="fill", values={"shape": "linear", "opacity": 0.6, "colour": (0.1 * n, 0.3, 0.6, 1.0)})
        for n in range(4)
    ]
    text = Plate(id="t", kind="text", values={"size": 240.0})
    lens = Plate(id="l", kind="lens", effects=(effect,))
    base = Shot(width=SIZE[0], height=SIZE[1], rate=Fraction(24), length=144, maps=(SOFT,))
    one = replace(base, plates=(text, replace(fills[0], effects=(effect,)), *fills[1:]))
    all_ = replace(base, plates=(lens, text, *fills))

    def frame(shot: Shot) -> Callable[[], object]:
        engine = Engine()

        def work() -> object:
            engine.last_frames.clear()
            engine.cache._asked.clear()
            return frame_picture(frame_job(engine, shot, 20))

        return work

    return frame(one), frame(all_)


def delayed() -> Callable[[], object]:
    """Return work that delays a moving picture by up to 3 s, one frame later each time; all moments are warm."""
    ramp = Map(id="r", name="", recipe=(Node(id="g", kind="gradient", values={"end": (1280.0, 0.0)}),))
    effects = (node("wave", 1, length=300.0), node("delay", 2, map="r", seconds=3.0, rest_by="two"))
    plate = Plate(id="p", kind="text", values={"size": 240.0}, effects=effects)
    shot = Shot(width=SIZE[0], height=SIZE[1], rate=Fraction(24), length=200, plates=(plate,), maps=(ramp,))
    engine, numbers = Engine(), iter(range(80, 10_000))

    def work() -> object:
        engine.last_frames.clear()
        engine.cache._asked.clear()
        return frame_picture(frame_job(engine, shot, 80 + next(numbers) % 24))

    for _ in range(24):
        work()
    return work
