"""A title is no larger than what is drawn of it, and nobody sees that."""

from __future__ import annotations

import numpy as np
import pytest

from nimble_quake.operators import lettering
from nimble_quake.operators.plate_kind import Raster
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.raster.sampling.cropping import STEP, drawn_box
from nimble_quake.raster.sampling.shrunk import BLOCK
from nimble_quake.render.chain.pictures import covered
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map, Node, Plate, Shot


def title(effects: tuple[Node, ...] = (), kind: str = "text", **values: object) -> Shot:
    said = {"words": "LOW TIDE"} if kind == "text" else {}
    noise = Map(id="m", name="m", recipe=(Node(id="n", kind="noise", values={"size_x": 30.0, "churn": 1.0}),))
    plate = Plate(id="t", kind=kind, name="t", values={"size": 60.0, **said, **values}, effects=effects)
    return Shot(width=400, height=240, length=48, plates=(plate,), maps=(noise,))


def push(**values: object) -> Node:
    return Node(id="p", kind="push", values={"map": "m", "reach_x": 30.0, "reach_y": 20.0, **values})


def both_ways(shot: Shot, scale: float, frame: int, monkeypatch: pytest.MonkeyPatch) -> tuple[np.ndarray, np.ndarray]:
    """The frame, and the frame with all the room round what is drawn."""
    cut = frame_picture(frame_job(Engine(), shot, frame), scale)
    with monkeypatch.context() as whole:
        whole.setattr(lettering, "drawn_box", lambda coverage: (0, 0, coverage.shape[1], coverage.shape[0]))
        return cut, frame_picture(frame_job(Engine(), shot, frame), scale)


@pytest.mark.parametrize("edge", ["empty", "hold", "wrap", "mirror"])
@pytest.mark.parametrize("filter", ["linear", "good", "best", "nearest"])
def test_a_pushed_title_is_the_same(edge, filter, monkeypatch):
    for scale, frame in ((1.0, 5), (0.5, 20)):
        cut, whole = both_ways(title((push(edge=edge, filter=filter),)), scale, frame, monkeypatch)
        assert whole[..., 3].max() > 0.9
        np.testing.assert_allclose(cut, whole, atol=2e-3 if filter != "nearest" else 1.0)
        assert (np.abs(cut - whole).max(axis=2) > 1e-4).mean() < 1e-3


@pytest.mark.parametrize(
    "values",
    [
        {"turn": 33.0, "scale_x": 0.4},
        {"crop_sides": (0.2, 0.1)},
        {"wrap": 200.0},
        {"outlined": 4.0, "align": "right"},
        {"words": " "},
        {"opacity": 0.5, "colour": (1.0, 0.5, 0.2, 0.4)},
        {"words": "A\nLONGER\nONE", "aligns": "left right"},
    ],
)
def test_however_it_is_set_and_placed(values, monkeypatch):
    known = {name: value for name, value in values.items() if name in lettering_values()}
    assert known.keys() == values.keys()
    for effects in ((), (push(),), (Node(id="b", kind="blur", values={"radius": 12.0}),)):
        cut, whole = both_ways(title(effects, **values), 0.5, 5, monkeypatch)
        np.testing.assert_allclose(cut, whole, atol=2e-3)


def lettering_values() -> set[str]:
    kind = Engine().operators.get("plate", "text")
    assert kind is not None
    return set(kind.declared)


def test_a_counter_is_the_same(monkeypatch):
    cut, whole = both_ways(title((push(),), kind="number"), 1.0, 30, monkeypatch)
    assert whole[..., 3].max() > 0.9
    np.testing.assert_allclose(cut, whole, atol=2e-3)


class TestBox:
    def test_all_that_is_drawn_lies_in_it_and_its_edge_is_clear(self):
        rng = np.random.Generator(np.random.PCG64(3))
        for _ in range(200):
            coverage = np.zeros((int(rng.integers(1, 90)), int(rng.integers(1, 90))), np.uint8)
            for _ in range(rng.integers(0, 4)):
                coverage[rng.integers(coverage.shape[0]), rng.integers(coverage.shape[1])] = rng.integers(1, 256)
            left, top, right, low = drawn_box(coverage)
            assert left % STEP == top % STEP == 0
            assert 0 <= left < right <= coverage.shape[1]
            assert 0 <= top < low <= coverage.shape[0]
            part = coverage[top:low, left:right]
            assert part.sum() == coverage.sum()
            for edge, border in (
                (part[0], top),
                (part[:, 0], left),
                (part[-1], coverage.shape[0] - low),
                (part[:, -1], coverage.shape[1] - right),
            ):
                assert border == 0 or not edge.any()

    def test_padded_it_is_the_whole(self):
        part = np.ones((3, 4, 4), np.float32)
        whole = Raster(part, (2.0, 0.0, 1.0, 0.0, 3.0, -1.0), whole=(20, 30, 5, 7)).padded()
        assert whole.picture.shape == (30, 20, 4)
        assert whole.picture[7:10, 5:9].all()
        assert whole.picture.sum() == part.sum()
        assert whole.to_px == (2.0, 0.0, 6.0, 0.0, 3.0, 6.0)


def test_parts_begin_where_averaged_blocks_do():
    grid = frame_grid(640, 360, 0.5)
    for place in (0.0, 31.0, 77.5, 200.2):
        for room in (0.0, 3.3, 40.0):
            part = covered(grid, (0.5, 0.0, -place, 0.0, 0.5, -place / 2), (60, 90), room)
            assert part is not None
            for first in (part.x0 * grid.scale, part.y0 * grid.scale):
                assert first % BLOCK == 0
