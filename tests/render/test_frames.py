"""Whole frames: plates in time, missing files, loops refused, half-size previews, one sampling."""

from __future__ import annotations

import gc
import weakref
from fractions import Fraction

import cv2
import msgspec
import numpy as np
import pytest

from helpers import (
    coded,
    flat_map,
    noise_map,
    number_in,
    numbered_frame,
    pushed_still,
    rendered,
    speckled,
    write_clip,
    write_png,
)
from nimble_quake.cli.options import engine_of
from nimble_quake.errors import FormulaError, ShotError
from nimble_quake.motion.kinds import Formula
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.caches.results import ResultCache, Same
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.render.shown.bench import answer
from nimble_quake.render.shown.request import BenchRequest
from nimble_quake.samples import sample_path, samples
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shotfile.files import read_shot


@pytest.mark.sampled(10)
@pytest.mark.parametrize("name", samples())
def test_a_frame_that_is_made_holds_no_memory(name):
    """No circle of references keeps a job and its pictures until the garbage collector comes by."""
    path = sample_path(name)
    assert path is not None
    shot, engine = read_shot(path), Engine()
    gc.collect()
    gc.disable()
    try:
        job = frame_job(engine, shot, 12)
        frame_picture(job, 0.25)
        gone = weakref.ref(job)
        del job
        assert gone() is None
    finally:
        gc.enable()


@pytest.mark.sampled(10)
@pytest.mark.parametrize("name", samples())
def test_samples_any_frame_alone_and_half_size(name):
    """Every demo shot: no problems; a frame alone equals the frame in sequence; half size equals full made smaller."""
    path = sample_path(name)
    assert path is not None
    shot, engine = read_shot(path), engine_of(path)
    for frame in (0, 20, 21, 35):
        job = frame_job(engine, shot, frame)
        played = frame_picture(job, 0.5)
        assert not job.problems
    assert np.array_equal(rendered(shot, 35, 0.5, engine_of(path)), played)
    height, width = played.shape[:2]
    smaller = cv2.resize(rendered(shot, 35, 1.0, engine), (width, height), interpolation=cv2.INTER_AREA)
    assert np.abs(smaller - played).mean() * 255 < 3.0


def test_plates_come_and_go():
    plate = Plate(id="p", kind="fill", start=5, end=10, values={"colour": (1.0, 1.0, 1.0, 1.0)})
    shot = Shot(width=8, height=8, plates=(plate,))
    assert [bool(rendered(shot, f)[0, 0, 0]) for f in (4, 5, 9, 10)] == [False, True, True, False]


def test_clips_are_timed_from_their_plate(tmp_path):
    """A clip of 24 frames a second in a shot of 48: twice each, from the plate's start; trim, loop, hold, empty."""
    file = write_clip(tmp_path / "c.mkv", [numbered_frame(n) for n in range(12)], Fraction(24), "ffv1", "bgr0")

    def shown(frame: int, **values) -> int:
        plate = Plate(id="c", kind="clip", start=10, values={"file": str(file), "fit": "centre", **values})
        shot = Shot(width=64, height=48, rate=Fraction(48), length=200, plates=(plate,), ground=(0, 0, 0, 0))
        picture = rendered(shot, frame)
        return number_in(picture) if picture[..., 3].any() else -1

    assert [shown(f) for f in (10, 11, 12, 13, 14)] == [0, 0, 1, 1, 2]
    assert shown(10, trim=0.25) == 6
    assert shown(10 + 26) == 1
    assert shown(10 + 40, beyond="hold") == 11
    assert shown(10 + 40, beyond="empty") == -1
    assert shown(12, speed=2.0) == 2
    assert shown(14, speed=-1.0, trim=0.25) == 4


def test_a_missing_file_leaves_a_mark(tmp_path):
    shot = pushed_still(tmp_path / "gone.png", flat_map(0.7), (64, 48))
    job = frame_job(Engine(), shot, 0)
    picture = frame_picture(job)
    assert picture[..., 3].all()
    (problem,) = job.problems.values()
    assert problem.path == "plates/still"
    assert "not there" in problem.line()


def test_a_loop_is_refused_with_its_path():
    """A map that reads the plate it pushes, quakes and all."""
    map = Map(id="m", name="M", recipe=(Node(id="s", kind="picture", values={"plate": "p", "with_quakes": True}),))
    plate = Plate(id="p", kind="text", effects=(Node(id="q", kind="push", values={"map": "m"}),))
    with pytest.raises(ShotError, match="plates/p -> maps/m -> plates/p"):
        rendered(Shot(width=64, height=48, plates=(plate,), maps=(map,)))
    fine = Map(id="m", name="M", recipe=(Node(id="s", kind="picture", values={"plate": "p"}),))
    assert np.isfinite(rendered(Shot(width=64, height=48, plates=(plate,), maps=(fine,)))).all()


def test_a_failing_formula_names_its_path():
    plate = Plate(id="p", kind="text", values={"turn": Formula("1 / (frame - 3)")})
    shot = Shot(width=64, height=48, plates=(plate,))
    rendered(shot, 2)
    with pytest.raises(FormulaError, match=r"plates/p/turn: .*divides by zero"):
        rendered(shot, 3)
    at_default = Shot(width=64, height=48, plates=(Plate(id="p", kind="text"),))
    shown = answer(Engine(), BenchRequest(shot, 3, 1.0, 1.0))
    assert [problem.path for problem in shown.problems] == ["plates/p/turn"]
    assert np.array_equal(shown.picture, answer(Engine(), BenchRequest(at_default, 3, 1.0, 1.0)).picture)


def test_unknown_operators_are_passed_over():
    recipe = (Node(id="a", kind="noise"), Node(id="b", kind="hologram"), Node(id="c", kind="noise", version=9))
    shot = Shot(width=32, height=24, maps=(Map(id="m", name="M", recipe=recipe),), plates=(Plate(id="x", kind="cube"),))
    job = frame_job(Engine(), shot, 0)
    map_field(job, shot.maps[0], frame_grid(32, 24))
    frame_picture(job)
    assert sorted(problem.path for problem in job.problems.values()) == ["maps/m/steps/b", "maps/m/steps/c", "plates/x"]


def test_text_is_not_cut_at_a_box():
    """Pushed far out of its own box, the same ink arrives elsewhere."""
    text = Plate(id="t", kind="text", values={"size": 60.0, "words": "ROW"})
    pushed = Plate(
        id="t",
        kind="text",
        values=text.values,
        effects=(Node(id="q", kind="push", values={"map": "map", "reach_x": 200.0, "reach_y": 0.0}),),
    )
    still, moved = (
        rendered(Shot(width=800, height=120, plates=(p,), maps=(flat_map(1.0),), ground=(0, 0, 0, 0)))
        for p in (text, pushed)
    )
    assert np.abs(np.roll(still, -200, axis=1) - moved).max() < 1e-4
    assert moved[..., 3].sum() == pytest.approx(still[..., 3].sum())


def test_place_scale_turn_and_fit(tmp_path):
    file = write_png(tmp_path / "s.png", coded(40, 20))

    def still(**values) -> np.ndarray:
        plate = Plate(id="s", kind="still", values={"file": str(file), **values})
        return rendered(Shot(width=80, height=80, plates=(plate,), ground=(0, 0, 0, 0)))

    assert np.array_equal(np.argwhere(still(fit="centre")[..., 3] > 0.5)[[0, -1]], [[30, 20], [49, 59]])
    assert np.array_equal(np.argwhere(still(fit="contain")[..., 3] > 0.5)[[0, -1]], [[20, 0], [59, 79]])
    assert still(fit="cover")[..., 3].min() > 0.99
    assert still(fit="stretch")[..., 3].min() > 0.99
    assert still(fit="tile")[..., 3].min() > 0.99
    assert np.array_equal(np.argwhere(still(fit="centre", turn=90.0)[..., 3] > 0.5)[[0, -1]], [[20, 30], [59, 49]])
    assert np.array_equal(np.argwhere(still(fit="centre", scale_x=0.5)[..., 3] > 0.5)[[0, -1]], [[30, 30], [49, 49]])
    assert not still(scale_x=0.0).any()


def test_overscan_hides_a_push(tmp_path):
    """Scale 1 + 2 d / size hides a push of d (arithmetic)."""
    file = write_png(tmp_path / "s.png", speckled(200, 100))
    quake = Node(id="q", kind="push", values={"map": "map", "reach_x": 10.0, "reach_y": 0.0})
    for scale, hidden in ((1 + 2 * 10 / 200 + 0.01, True), (1.0, False)):
        plate = Plate(
            id="s", kind="still", values={"file": str(file), "fit": "centre", "scale_x": scale}, effects=(quake,)
        )
        got = rendered(Shot(width=200, height=100, plates=(plate,), maps=(flat_map(1.0),), ground=(0, 0, 0, 0)))
        assert bool((got[..., 3] > 0.999).all()) is hidden


def test_fills_never_show_an_edge():
    plate = Plate(
        id="f",
        kind="fill",
        values={"shape": "linear"},
        effects=(Node(id="q", kind="push", values={"map": "map", "reach_x": 300.0, "reach_y": -90.0}),),
    )
    got = rendered(Shot(width=100, height=60, plates=(plate,), maps=(noise_map(size_x=30.0),), ground=(0, 0, 0, 0)))
    assert (got[..., 3] > 0.999).all()


def test_why_nothing_moves(tmp_path):
    file = write_png(tmp_path / "s.png", coded(64, 48))

    def why(map: Map = noise_map(), **values) -> str:
        return why_of(pushed_still(file, map, (64, 48), **values))

    def why_of(shot: Shot) -> str:
        path = "plates/still/effects/push"
        return answer(Engine(), BenchRequest(shot, 0, 1.0, 1.0, plate_id="still", quake_path=path)).why

    assert why() == ""
    assert "Reach is 0" in why(reach_x=0.0, reach_y=0.0)
    assert "Strength" in why(strength=0.0)
    empty = msgspec.structs.replace(pushed_still(file, noise_map(), (64, 48)), maps=())
    assert "No map" in why_of(empty)
    assert "flat" in why(flat_map(0.5))
    stripes = Map(id="map", name="S", recipe=(Node(id="s", kind="pattern", values={"size_x": 2.0, "size_y": 2.0}),))
    assert why(stripes) == "", "stripes whose mean is rest move the picture"
    assert why(Map(id="map", name="Empty")) == "Its map has no step that is on"


class TestCache:
    def test_budget_and_order(self):
        cache = ResultCache(budget=1000)
        for n in range(5):
            cache.get(n, lambda: np.zeros(75, np.float32))
        assert cache.nbytes == 900
        made = []
        cache.get(4, lambda: made.append(1))
        cache.get(0, lambda: made.append(1) or np.zeros(1))
        assert made == [1]
        cache.clear()
        assert cache.nbytes == 0

    def test_a_few_results_larger_than_the_budget_are_kept_until_smaller_ones_come(self):
        cache = ResultCache(budget=1000)
        for n in range(4):
            cache.put(("huge", n), np.zeros(1000, np.float32))
            cache.put(("small", n), np.zeros(10, np.float32))  # does not drive them out
        assert 8000 <= cache.nbytes <= 12_000
        made = []
        cache.get(("huge", 3), lambda: made.append(1))
        assert not made
        for n in range(40):
            cache.put(n, np.zeros(75, np.float32))
        assert cache.nbytes <= 12_000
        for n in range(100):
            cache.put(n, np.zeros(75, np.float32))
        assert cache.nbytes <= 1000

    def test_what_stands_still_is_not_driven_out_by_what_moves(self):
        cache, made = ResultCache(budget=1000), []

        def still():
            made.append(1)
            return np.zeros(75, np.float32)

        for frame in range(20):
            cache.get("still", still)
            for part in range(4):
                cache.get((frame, part), lambda: np.zeros(75, np.float32))
        assert len(made) == 2, "made a second time once, and kept from then on"
        assert cache.nbytes <= 1000

    def test_what_lasts_leaves_room_for_the_rest(self):
        cache = ResultCache(budget=1000)
        for _ in range(2):
            for n in range(12):
                cache.get_again(n, lambda: np.zeros(25, np.float32))
        for n in range(100, 105):
            cache.put(n, np.zeros(25, np.float32))
        assert cache.nbytes <= 1000
        assert all(n in cache.stored() for n in range(100, 105))

    def test_an_array_that_several_results_show_is_counted_once(self):
        cache, field = ResultCache(budget=1000), np.zeros((10, 20), np.float32)
        cache.put("source", field)
        cache.put("map", field[..., None])
        cache.put("part", (field[:5], field[5:]))
        assert cache.nbytes == 800
        cache.put("other", np.zeros(50, np.float32))
        assert cache.nbytes == 1000
        cache.put("more", np.zeros(50, np.float32))
        cache.put("source", field)
        assert cache.nbytes == 1200
        cache.clear()
        assert cache.nbytes == 0

    def test_same_is_identity(self):
        a, b = [1], [1]
        assert Same(a) == Same(a) != Same(b)

    def test_a_still_map_is_computed_once(self):
        engine, shot = Engine(), Shot(width=64, height=48, length=50, maps=(noise_map(),))
        grid = frame_grid(64, 48)
        fields = [map_field(frame_job(engine, shot, f), shot.maps[0], grid) for f in (0, 9, 30)]
        assert fields[0] is fields[1] is fields[2]
