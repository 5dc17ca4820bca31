"""What every effect must hold, over all that are found: on a moving plate, with every reference filled in."""

from __future__ import annotations

import atexit
import shutil
import tempfile
from concurrent.futures import ThreadPoolExecutor
from fractions import Fraction
from functools import cache
from pathlib import Path
from typing import Any

import cv2
import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import rendered
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.operators.registry import registry
from nimble_quake.operators.steps import Step
from nimble_quake.params.kinds import Choice, MapRef, MediaFile, Net, Number, Pairs, PlateRef, Seed, Stop, Toggle
from nimble_quake.raster.threads import rows
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map, Node, Plate, Shot

KINDS = [op.kind for op in registry().playing("effect")]
QUAKES = [op.kind for op in registry().all("quake")]
SIZE = (240, 136)
WILD = Map(
    id="map",
    name="",
    recipe=(
        Node(id="n", kind="noise", values={"size_x": 60.0, "size_y": 44.0, "octaves": 2, "churn": 0.6}),
        Node(id="l", kind="levels", values={"low": -1.0, "high": 2.0, "clip": False}),
    ),
)
"""Values from about -1 to 2."""


SMALL: dict[str, dict[str, Any]] = {
    "twirl": {"radius": 90.0, "angle": 90.0, "centre": (120.0, 68.0)},
    "bulge": {"radius": 60.0},
}
"""Sizes that suit a small frame."""


def grey(id: str, level: float) -> Map:
    stop = (Stop(0.0, (level, level, level, 1.0)),)
    return Map(id=id, name="", recipe=(Node(id="g", kind="gradient", values={"stops": stop}),))


RAMP = Map(
    id="ramp", name="", recipe=(Node(id="g", kind="gradient", values={"start": (20.0, 0.0), "end": (220.0, 0.0)}),)
)
MOVES = Keys((Key(frame=0, value=(90.0, 60.0)), Key(frame=24, value=(150.0, 80.0), after="straight")))


@cache
def vector_maps() -> str:
    """Numbered vector maps, soft, another one every frame."""
    folder, random = Path(tempfile.mkdtemp(prefix="nimble-quake-test-")), np.random.default_rng(4)
    atexit.register(shutil.rmtree, folder, True)
    for number in range(12):
        values = cv2.GaussianBlur(random.normal(0.5, 2.0, (68, 120, 3)), (0, 0), 9)
        cv2.imwrite(str(folder / f"v_{number:02d}.png"), (np.clip(values, 0, 1) * 65535).astype(np.uint16))
    return str(folder / "v_##.png")


def filled(kind: str, **more: Any) -> dict[str, Any]:
    """Values that give an effect something to do, every reference filled in."""
    op = registry().get("effect", kind)
    assert op is not None
    values: dict[str, Any] = dict(getattr(op, "lively", {})) | SMALL.get(kind, {})
    for name, param in op.declared.items():
        if isinstance(param, MapRef):
            values[name] = "ramp" if name == "mask" else "map"
        elif isinstance(param, PlateRef):
            values[name] = "other"
        elif isinstance(param, MediaFile) and param.sort == "data":
            values |= {name: vector_maps(), "holds": "vector", "reach": 20.0}
        elif isinstance(param, Net):
            values[name] = tuple(float(v) for v in np.random.default_rng(2).normal(0, 5, 40))
    return values | more


def shot_with(kind: str, size: tuple[int, int] = SIZE, /, lens: bool = False, **values: Any) -> Shot:
    title = Plate(id="title", kind="text", values={"words": "ROW", "size": 70.0, "position": MOVES, "turn": 8.0})
    other = Plate(id="other", kind="fill", values={"colour": (0.2, 0.5, 0.7, 1.0)})
    effect = Node(id="e", kind=kind, values=values)
    plates: tuple[Plate, ...] = (msgspec.structs.replace(title, effects=(effect,)), other)
    if lens:
        plates = (Plate(id="lens", kind="lens", effects=(effect,)), title, other)
    return Shot(
        width=size[0],
        height=size[1],
        rate=Fraction(24),
        length=48,
        plates=plates,
        maps=(WILD, RAMP, grey("black", 0.0), grey("half", 0.5), grey("white", 1.0)),
    )


@pytest.mark.parametrize("kind", KINDS)
class TestEffects:
    def test_any_frame_alone_is_the_frame_in_sequence(self, kind):
        shot, engine = shot_with(kind, **filled(kind)), Engine()
        played = {frame: rendered(shot, frame, engine=engine) for frame in range(0, 30, 6)}
        for frame in (24, 6):
            assert np.array_equal(rendered(shot, frame), played[frame])

    def test_half_size_is_the_full_frame_made_smaller(self, kind):
        """Mean difference under 2 levels: hard edges fall between samples, and text is drawn at the size it has."""
        shot = shot_with(kind, **filled(kind))
        small = cv2.resize(rendered(shot, 10), (SIZE[0] // 2, SIZE[1] // 2), interpolation=cv2.INTER_AREA)
        assert np.abs(rendered(shot, 10, 0.5) - small).mean() * 255 < 2.0

    def test_same_bits_on_any_number_of_threads(self, kind, monkeypatch):
        shot = shot_with(kind, **filled(kind))
        many = rendered(shot, 10)
        monkeypatch.setattr(rows, "THREADS", 1)
        assert np.array_equal(rendered(shot, 10), many)
        with ThreadPoolExecutor(3) as pool:
            for got in pool.map(lambda _: rendered(shot, 10), range(3)):
                assert np.array_equal(got, many)

    def test_pictures_stay_premultiplied(self, kind):
        """Colour never exceeds its alpha by more than rounding, over maps from -1 to 2."""
        shot = shot_with(kind, **filled(kind))
        job = frame_job(Engine(), shot, 10)
        from nimble_quake.raster.geometry.grid import frame_grid

        picture, _ = job.plate_picture("title", frame_grid(*SIZE), with_effects=True)
        assert picture.shape == (SIZE[1], SIZE[0], 4)
        assert picture.dtype == np.float32
        if kind not in ("sharpen", "contrast", "levels", "colour_ramp"):
            assert float((picture[..., :3] - picture[..., 3:]).max()) < 0.02
        assert job.problems == {}

    def test_mix_0_off_and_black_mask_are_the_picture_before(self, kind):
        bare = rendered(msgspec.structs.replace(shot_with(kind), maps=()), 10, untouched=True)
        for values in ({"opacity": 0.0}, {"mask": "black"}, {"strength": 0.0}):
            op = registry().get("effect", kind)
            if next(iter(values)) in op.declared:
                got = rendered(shot_with(kind, **filled(kind, **values)), 10)
                assert np.abs(got - bare).max() <= (1e-6 if "mask" in values else 0.0), values

    def test_it_works_through_a_lens(self, kind):
        shot = shot_with(kind, SIZE, lens=True, **filled(kind))
        assert np.isfinite(rendered(shot, 10)).all()

    @given(data=st.data())
    def test_absurd_numbers_stay_finite(self, kind, data):
        op = registry().get("effect", kind)
        assert op is not None
        values: dict[str, Any] = {}
        for name, param in op.declared.items():
            if isinstance(param, Number):
                low, high = param.hard
                if name in ("steps", "stagger_times"):
                    high = {"steps": 8.0, "stagger_times": 3.0}[name]
                drawn = data.draw(st.one_of(st.sampled_from((low, high)), st.floats(low, high)), name)
                values[name] = param.clamp(float(drawn))
            elif isinstance(param, Pairs):
                values[name] = data.draw(st.tuples(st.floats(*param.hard), st.floats(*param.hard)), name)
            elif isinstance(param, Choice):
                values[name] = data.draw(st.sampled_from([o.value for o in param.options]), name)
            elif isinstance(param, Toggle):
                values[name] = data.draw(st.booleans(), name)
            elif isinstance(param, Seed):
                values[name] = data.draw(st.integers(0, param.most), name)
        shot = msgspec.structs.replace(shot_with(kind, (48, 27), **(filled(kind) | values)), length=6)
        with np.errstate(all="ignore"):
            got = rendered(shot, data.draw(st.integers(0, 5)))
        assert np.isfinite(got).all()


@pytest.mark.parametrize("kind", QUAKES)
class TestQuakes:
    def test_mask_on_result_at_one_half_is_the_mean_of_both(self, kind):
        """Common practice, no source: job's check values."""
        whole = rendered(shot_with(kind, **filled(kind, mask="")), 10)
        bare = rendered(shot_with(kind), 10, untouched=True)
        half = rendered(shot_with(kind, **filled(kind, mask="half", mask_on="result")), 10)
        # what a plate shows is mixed before it is laid over the fill, which is the same
        assert np.abs(half - (whole + bare) / 2).max() < 0.02

    def test_its_graph_summary_and_words_are_there(self, kind):
        op = registry().get("quake", kind)
        assert op is not None
        quake = op.with_defaults(**filled(kind))
        assert quake.summary()
        graph = quake.graph(0.5)
        assert graph.curves
        for curve in graph.curves:
            assert len(curve.points) >= 2
            assert np.isfinite(np.array(curve.points)).all()
        assert graph.reach > 0

    def test_it_bends_a_map_too(self, kind):
        from nimble_quake.raster.geometry.grid import frame_grid
        from nimble_quake.render.chain.maps import map_field

        op = registry().get("quake", kind)
        assert op is not None
        assert issubclass(op, Step)
        values = {k: v for k, v in filled(kind).items() if k not in ("mask", "map")}
        map = Map(id="bent", name="", recipe=(WILD.recipe[0], Node(id="e", kind=kind, values=values)))
        shot = msgspec.structs.replace(shot_with(kind), maps=(WILD, map))
        got = map_field(frame_job(Engine(), shot, 10), map, frame_grid(*SIZE))
        assert np.isfinite(got).all()
        before = map_field(
            frame_job(Engine(), shot, 10), msgspec.structs.replace(map, recipe=map.recipe[:1]), frame_grid(*SIZE)
        )
        assert np.abs(got[..., 0] - before[..., 0]).mean() > 1e-4

    def test_farthest_is_never_less_than_what_it_moves(self, kind):
        from nimble_quake.operators.quake import BendQuake
        from nimble_quake.raster.geometry.grid import frame_grid
        from nimble_quake.render.chain.pictures import Clear, bounded
        from nimble_quake.render.plan.groups import plate_operator
        from nimble_quake.render.plan.units import units_of
        from nimble_quake.render.plates.grounds import placement_of
        from nimble_quake.render.plates.layers import effects_chain
        from nimble_quake.render.plates.warps import warp_of

        op = registry().get("quake", kind)
        if op is None or not issubclass(op, BendQuake):
            return
        shot = shot_with(kind, **filled(kind, mask=""))
        job, grid = frame_job(Engine(), shot, 10), frame_grid(*SIZE)
        warp = warp_of(job, "plates/title/effects/e", grid)
        assert warp is not None
        plate = shot.plates[0]
        chain = effects_chain(
            job, plate, units_of(job, plate), Clear(placement_of(job, plate, plate_operator(job, plate)))
        )
        assert np.abs(warp).max() <= bounded(chain, grid) + 0.01
