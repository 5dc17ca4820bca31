"""What every operator must hold, over all that are found: nothing here names one, save to make its values lively."""

from __future__ import annotations

import inspect
import math
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from helpers import moment, operator_at, rendered
from nimble_quake.errors import LimitError, ShotError
from nimble_quake.motion.kinds import Formula
from nimble_quake.operators.base import Operator
from nimble_quake.operators.registry import FAMILIES, registry
from nimble_quake.operators.steps import placed_values
from nimble_quake.params.kinds import Choice, Number, Pairs, Param, Seed, Toggle
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.raster.threads import rows
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.shapers.pixelate import hexagon_numbers
from nimble_quake.shot.model import Map, Marker, Node, Plate, Shot

STEPS = [(op.family, op.kind) for op in registry().all() if op.family in ("source", "shaper")]
SOFT: dict[str, Any] = {
    "halftone": {"size": 40.0},
    "static": {"size_x": 8.0, "size_y": 8.0},
    "noise": {"size_x": 60.0, "size_y": 40.0, "octaves": 3, "churn": 1.0, "drift": (20.0, 5.0)},
}
"""Values that give an operator something to do in a small frame."""
BASE = Node(id="base", kind="noise", values={"size_x": 70.0, "size_y": 50.0, "octaves": 2, "churn": 0.5})


def shot_with(family: str, kind: str, size: tuple[int, int] = (320, 180), /, **values) -> Shot:
    """A shot whose only map ends in the step."""
    node = Node(id="step", kind=kind, values=SOFT.get(kind, {}) | values)
    recipe = (node,) if family == "source" else (BASE, node)
    title = Plate(id="title", kind="text", values={"size": 60.0, "words": "ROW"})
    return Shot(
        width=size[0],
        height=size[1],
        length=240,
        plates=(title,),
        maps=(Map(id="map", name="", recipe=recipe),),
        markers=(Marker(frame=3, name="here"), Marker(frame=60)),
        beats=(6.0, 18.5),
    )


def field(shot: Shot, frame: float, grid: Grid | None = None, engine: Engine | None = None) -> np.ndarray:
    map = shot.maps[0]
    return map_field(frame_job(engine or Engine(), shot, frame), map, grid or frame_grid(shot.width, shot.height))


def test_every_family_has_operators():
    assert {op.family for op in registry().all()} == set(FAMILIES)
    for op in registry().all():
        assert issubclass(op, Operator)
        assert op.title
        assert op.help
        assert op.__doc__


def test_a_value_is_found_under_its_own_name_and_hides_nothing_else():
    """Values lie in the operator itself, before its class is asked: a method of that name would be hidden."""
    for op in registry().all():
        made = op.with_defaults()
        for name in op.declared:
            assert isinstance(inspect.getattr_static(op, name), Param), f"{op.kind}.{name}"
            assert getattr(made, name) is made.values[name]


@pytest.mark.parametrize(("family", "kind"), STEPS)
class TestSteps:
    def test_any_frame_alone_is_the_frame_in_sequence(self, family, kind):
        shot, engine = shot_with(family, kind), Engine()
        played = [field(shot, frame, engine=engine) for frame in range(0, 60, 7)]
        for index in (8, 3, 5):
            assert np.array_equal(field(shot, index * 7), played[index])

    def test_half_size_is_the_full_frame_made_smaller(self, family, kind):
        """Mean difference under 1.5 levels (hard edges may fall between samples)."""
        shot = shot_with(family, kind)
        full = field(shot, 20)
        half = field(shot, 20, frame_grid(320, 180, 0.5))
        smaller = cv2.resize(full, (160, 90), interpolation=cv2.INTER_AREA).reshape(half.shape)
        assert np.abs(half - smaller).mean() * 255 < 1.5

    def test_a_larger_grid_holds_the_smaller_one(self, family, kind):
        """Bleed: what is computed beyond the frame does not change what is in it (by a quarter of an 8-bit level)."""
        shot = shot_with(family, kind)
        grid = frame_grid(320, 180)
        outer = grid.grown(40)
        assert np.abs(field(shot, 20, outer)[grid.inside(outer)] - field(shot, 20, grid)).max() < 1e-3

    def test_same_bits_on_any_number_of_threads(self, family, kind, monkeypatch):
        shot = shot_with(family, kind)
        many = field(shot, 20)
        monkeypatch.setattr(rows, "THREADS", 1)
        assert np.array_equal(field(shot, 20), many)
        with ThreadPoolExecutor(3) as pool:
            for got in pool.map(lambda _: field(shot, 20), range(4)):
                assert np.array_equal(got, many)

    def test_shape_and_type(self, family, kind):
        got = field(shot_with(family, kind), 3)
        assert got.dtype == np.float32
        assert got.shape[:2] == (180, 320)
        assert got.shape[2] in (1, 2, 4)

    def test_mix_0_and_off_are_the_step_before(self, family, kind):
        shot = shot_with(family, kind, opacity=0.0)
        before = Shot(width=320, height=180, length=240, maps=(Map(id="map", name="", recipe=(BASE,)),))
        wanted = field(before, 20) if family == "shaper" else np.full((180, 320, 1), 0.5, np.float32)
        assert np.array_equal(field(shot, 20), wanted)
        engine = Engine()
        field(shot, 20, engine=engine)
        assert engine.cache.misses <= (1 if family == "shaper" else 0)

    def test_two_frames_are_cached_apart(self, family, kind):
        engine, shot = Engine(), shot_with(family, kind)
        first = field(shot, 5, engine=engine)
        assert field(shot, 5, engine=engine) is first

    @given(data=st.data())
    def test_absurd_numbers_stay_finite(self, family, kind, data):
        """Every number anywhere within its hard limits: finite values, and no more memory than the grid's."""
        op = registry().get("step", kind)
        assert op is not None
        values: dict[str, Any] = {}
        for name, param in op.declared.items():
            if isinstance(param, Number):
                low, high = param.hard if name != "stagger_times" else (1.0, 3.0)  # it costs as often, no more
                values[name] = data.draw(st.one_of(st.sampled_from((low, high)), st.floats(low, high)), name)
                values[name] = param.clamp(float(values[name]))
            elif isinstance(param, Pairs):
                values[name] = data.draw(st.tuples(st.floats(*param.hard), st.floats(*param.hard)), name)
            elif isinstance(param, Choice):
                values[name] = data.draw(st.sampled_from([o.value for o in param.options]), name)
            elif isinstance(param, Toggle):
                values[name] = data.draw(st.booleans(), name)
            elif isinstance(param, Seed):
                values[name] = data.draw(st.integers(0, param.most), name)
        shot = shot_with(family, kind, (48, 27), **values)
        with np.errstate(all="ignore"):
            got = field(shot, data.draw(st.integers(0, 200)))
        assert np.isfinite(got).all()


def dressed(kind: str, size: tuple[int, int], values: dict[str, Any]) -> np.ndarray:
    """A text with a finish, small."""
    finish = Node(id="f", kind=kind, values=values)
    plate = Plate(id="p", kind="text", values={"colour": (0.9, 0.5, 0.2, 1.0)}, effects=(finish,))
    shot = Shot(width=size[0], height=size[1], ground=(0.5, 0.6, 0.7, 1.0), plates=(plate,))
    job = frame_job(Engine(), shot, 20)
    got = frame_picture(job, 0.25)
    assert not job.problems
    return got


LOOKS = [
    (op.family, op.kind, title)
    for op in registry().all()
    for title, _, _ in getattr(op, "looks", ())
    if op.kind != "bracket" and (op.group != "Pictures" or op.file_names)
]


@pytest.mark.parametrize(("family", "kind", "title"), LOOKS)
def test_every_look_shows_something(family, kind, title):
    """A look computes without a complaint, differs from the kind's defaults, and is not flat for ever."""
    op: Any = registry().get(family, kind)
    values = next(found for name, _, found in op.looks if name == title)
    for name, value in values.items():
        op.declared[name].check(value)
    size, grid = (1280, 720), frame_grid(1280, 720, 0.125)
    if "map" not in op.works_on:
        both: list[dict[str, Any]] = [values, {}]
        seen = [dressed(kind, size, placed_values(op, settings, *size)) for settings in both]
        assert (seen[0] != seen[1]).any()
        assert seen[0].std() > 0.003
        return
    shot = shot_with(family, kind, size, **placed_values(op, values, *size))
    plain = shot_with(family, kind, size)
    differs, most = False, 0.0
    for frame in (6, 20, 50):
        job = frame_job(Engine(), shot, frame)
        got, usual = map_field(job, shot.maps[0], grid), field(plain, frame, grid)
        assert not job.problems
        most = max(most, float(got.std()))
        differs = differs or got.shape != usual.shape or not np.array_equal(got, usual)
    assert most > 0.003
    assert differs


def test_masks_mix_as_opacity_does():
    """Common practice, no source: a mask at one half is half the step; black is none of it, bit for bit."""
    blur = Node(id="step", kind="blur", values={"radius": 12.0})
    for level, share in ((0.0, 0.0), (0.5, 0.5), (1.0, 1.0)):
        flat_map = Map(
            id="mask", name="", recipe=(Node(id="f", kind="flat", values={"at_rest": False, "value": level}),)
        )
        masked = Node(id="step", kind="blur", values={"radius": 12.0, "mask": "mask"})
        shots = [
            Shot(width=320, height=180, maps=(Map(id="map", name="", recipe=(BASE, *steps)), flat_map))
            for steps in ((), (blur,), (masked,))
        ]
        before, after, got = (field(shot, 5) for shot in shots)
        assert np.abs(got - (before + (after - before) * share)).max() < 1e-6


def test_looks_at_other_times_are_those_frames():
    """Hold, time shift and echo show what the steps before make at those moments."""
    shot = shot_with("shaper", "time_shift", later=0.5, speed=2.0)
    plain = Shot(width=320, height=180, length=240, maps=(Map(id="map", name="", recipe=(BASE,)),))
    assert np.array_equal(field(shot, 20), field(plain, 2 * 20 + 15))
    held = shot_with("shaper", "hold", rate=10.0)
    assert np.array_equal(field(held, 20), field(held, 18))
    assert np.array_equal(field(held, 20), field(plain, 18))


def test_endless_echoes_end():
    """Echoes of echoes of echoes would look at thousands of times: refused with one line."""
    steps = tuple(Node(id=f"e{n}", kind="echo", values={"copies": 12, "decay": 1.0}) for n in range(4))
    shot = Shot(width=64, height=36, maps=(Map(id="map", name="", recipe=(BASE, *steps)),))
    with pytest.raises(LimitError, match="other times"):
        field(shot, 100, frame_grid(64, 36))


def test_a_map_that_masks_itself_is_refused_with_its_path():
    shot = shot_with("shaper", "blur", radius=5.0, mask="map")
    with pytest.raises(ShotError, match="maps/map -> maps/map"):
        field(shot, 3)


def test_a_loop_closes():
    """The last frame leads into the first: frame 0 equals frame N, and the seam is no larger than other steps."""
    shot = shot_with("source", "noise", churn=1.0, drift=(30.0, -10.0), loop=2.0)
    frames = [field(shot, n) for n in range(61)]
    assert np.abs(frames[60] - frames[0]).max() < 1e-5
    steps = [float(np.abs(b - a).max()) for a, b in zip(frames, frames[1:], strict=False)]
    assert steps[59] <= max(steps[:59]) * 1.25


def test_keyed_churn_is_summed_not_jumped():
    """A churn that is keyed up runs faster; it does not jump."""
    shot = shot_with("source", "noise", churn=Formula("t"), drift=(0.0, 0.0))
    steps = [float(np.abs(field(shot, n + 1) - field(shot, n)).mean()) for n in (10, 100, 200)]
    assert steps[0] < steps[1] < steps[2] < 0.2


def test_plates_at_half_size():
    """Every kind of plate that needs no file: half-size preview equals the full frame made smaller."""
    for op in registry().all("plate"):
        if getattr(op, "media_param", ""):
            continue
        values = {"size": 60.0, "words": "ROW"} if "size" in op.declared else {"shape": "linear"}
        shot = Shot(width=320, height=180, plates=(Plate(id="p", kind=op.kind, values=values | {"turn": 10.0}),))
        half = cv2.resize(rendered(shot), (160, 90), interpolation=cv2.INTER_AREA)
        assert np.abs(rendered(shot, scale=0.5) - half).mean() * 255 < 1.0


def test_idle_quakes_cost_nothing():
    """Reach 0, strength 0 or off: the same bits, and the map is never asked for."""
    for values in ({"reach_x": 0.0, "reach_y": 0.0}, {"strength": 0.0}, {"x_from": "none", "y_from": "none"}):
        quake = Node(id="q", kind="push", values={"map": "map", **values})
        shot = shot_with("source", "noise")
        plain, engine = shot, Engine()
        shot = Shot(
            width=320,
            height=180,
            length=240,
            maps=shot.maps,
            plates=(Plate(id="title", kind="text", values=shot.plates[0].values, effects=(quake,)),),
        )
        assert np.array_equal(frame_picture(frame_job(engine, shot, 3)), rendered(plain, 3))
        assert not [key for key in engine.cache.stored() if isinstance(key, tuple) and key[0] == "map"]


def test_invert_keeps_rest_and_turns_the_rest_round():
    made, ctx = operator_at("shaper", "invert", moment())
    grid = frame_grid(4, 4)
    ramp = np.linspace(0, 1, 16, dtype=np.float32).reshape(4, 4, 1)
    once = made.shape(ramp, grid, grid, ctx)
    assert np.allclose(once, ramp[::-1, ::-1], atol=1e-7)
    assert np.allclose(made.shape(once, grid, grid, ctx), ramp, atol=1e-7)
    assert made.shape(np.full((4, 4, 1), 0.5, np.float32), grid, grid, ctx)[0, 0, 0] == 0.5


def test_pixelate_fills_exactly():
    """40 px cells asked for in 320 x 180: 8 whole columns, and rows of 180/4 or so without a rest."""
    shot = shot_with("shaper", "pixelate", size_x=41.0, size_y=41.0)
    got = field(shot, 10)[..., 0]
    edges = np.flatnonzero(np.abs(np.diff(got, axis=1)).max(axis=0) > 1e-6) + 1
    assert list(edges) == [40, 80, 120, 160, 200, 240, 280]
    assert got[:, :40].std(axis=1).max() < 1e-6


@pytest.mark.parametrize(("wide", "high"), [(40.0, 46.19), (31.0, 31.0), (60.0, 25.0)])
def test_a_hexagon_holds_the_places_nearest_to_its_middle(wide, high):
    """Voronoi cells of a triangular lattice, found by SciPy's k-d tree where hexagons are regular."""
    xs, ys = np.arange(0.5, 200, dtype=np.float32), np.arange(0.5, 120, dtype=np.float32)
    found = hexagon_numbers(xs, ys, wide, high)
    row, tall = 0.75 * high, wide * math.sqrt(3) / 2
    lattice = [((c + 0.5 * (r % 2)) * wide, r * tall, (r << 24) + c) for r in range(-3, 40) for c in range(-3, 40)]
    tree = cKDTree([(x, y) for x, y, _ in lattice])
    places = np.stack(np.meshgrid(xs, ys * (tall / row)), axis=-1).reshape(-1, 2)
    near, nearest = (np.asarray(each) for each in tree.query(places, k=2))
    sure = near[:, 1] - near[:, 0] > 1e-3
    numbers = np.array([number for *_, number in lattice])[nearest[:, 0]]
    assert sure.mean() > 0.98
    assert (numbers[sure] == found.ravel()[sure]).all()


def test_hexagons_are_flat_and_as_large_as_asked():
    got = field(shot_with("shaper", "pixelate", cells="hexagons", size_x=40.0, size_y=46.19), 10)[..., 0]
    cells = hexagon_numbers(frame_grid(320, 180).xs(), frame_grid(320, 180).ys(), 40.0, 46.19)
    for number in np.unique(cells):
        assert got[cells == number].std() < 1e-6
    whole = np.bincount(np.unique(cells, return_inverse=True)[1].ravel()).max()
    assert whole == pytest.approx(40 * 0.75 * 46.19, rel=0.03)


def test_levels_against_their_formula():
    made, ctx = operator_at("shaper", "levels", moment(), black=0.2, white=0.6, middle=0.25)
    grid = frame_grid(5, 1)
    got = made.shape(np.array([[[0.1], [0.2], [0.3], [0.6], [0.9]]], np.float32), grid, grid, ctx)[0, :, 0]
    assert got.tolist() == pytest.approx([0, 0, 0.5, 1, 1], abs=1e-6)
