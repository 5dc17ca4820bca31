"""Glass in one piece: the lens, its shape and its map are moved, scaled and turned as one."""

from __future__ import annotations

import numpy as np
import pytest

from helpers import rendered
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.session.state import Session
from nimble_quake.session.summaries import is_shown
from nimble_quake.session.verbs import glass, items, maps
from nimble_quake.shot.model import Map, Node, Plate, Shot

W, H = 320, 180


@pytest.fixture
def session() -> Session:
    made = Session()
    pattern = Map(
        id="tiles", name="Tiles", recipe=(Node(id="t", kind="pattern", values={"size_x": 14.0, "size_y": 14.0}),)
    )
    street = Plate(id="street", kind="pattern", values={"map": "tiles"})
    made.take(Shot(width=W, height=H, length=48, plates=(street,), maps=(pattern,)))
    return made


def ball(session: Session, **values: object) -> str:
    path = items.new_plate(session, "shape")
    for name, value in {"form": "ellipse", "width": 90.0, "height": 90.0, "position": (110.0, 90.0), **values}.items():
        session.set(f"{path}/{name}", value)
    assert glass.make_glass(session, path)
    return path


def changed(session: Session) -> np.ndarray:
    """Where the glass makes another picture of what lies beneath it."""
    street = Shot(width=W, height=H, length=48, plates=session.shot.plates[1:], maps=session.shot.maps)
    return np.abs(rendered(session.shot) - rendered(street)).max(axis=2) > 0.02


def test_text_is_bent_inside_and_untouched_outside(session):
    ball(session)
    y, x = np.mgrid[0:H, 0:W] + 0.5
    far = np.hypot(x - 110, y - 90)
    moved = changed(session)
    assert not moved[far > 48].any()
    assert moved[far < 40].mean() > 0.3


def test_one_place_moves_all_of_it(session):
    path = ball(session)
    before = changed(session)
    map_before = map_field(frame_job(Engine(), session.shot, 0), session.shot.maps[-1], frame_grid(W, H))
    session.set(f"{path}/position", (110.0 + 84.0, 90.0))
    map_after = map_field(frame_job(Engine(), session.shot, 0), session.shot.maps[-1], frame_grid(W, H))
    assert np.abs(map_after[:, 84:] - map_before[:, :-84]).max() < 1e-4
    assert (changed(session)[:, 130:] != before[:, 46:-84]).mean() < 0.12  # the street beneath is another part of it
    session.set(f"{path}/scale_x", 0.5)
    session.set(f"{path}/scale_y", 0.5)
    y, x = np.mgrid[0:H, 0:W] + 0.5
    assert not changed(session)[np.hypot(x - 194, y - 90) > 25].any()


def test_a_dome_rises_as_a_quarter_of_a_circle(session):
    """Geometry: at a fraction t of the way in, the height is sqrt(t (2 - t)) of what it is in the middle."""
    ball(session)
    shape = map_field(frame_job(Engine(), session.shot, 0), session.shot.maps[-1], frame_grid(W, H))[90, 110:150, 0]
    t = 1 - (np.arange(40) + 0.5) / 45
    assert shape == pytest.approx(0.5 + 0.5 * np.sqrt(t * (2 - t)), abs=0.02)


def test_a_quake_on_a_lens_is_offered_its_own_shape(session):
    path = ball(session)
    titles = [choice.title for choice in maps.choices(session, shape_of=path)]
    assert titles[:2] == ["New map", "Its own shape"]
    assert "Its own shape" not in [choice.title for choice in maps.choices(session, shape_of="plates/street")]


def test_what_cannot_be_glass_says_so(session):
    said: list[str] = []
    session.message.connect(said.append)
    assert glass.make_glass(session, "plates/street") == ""
    assert "ellipse or a rectangle" in said[-1]


@pytest.mark.parametrize("soft", [2.0, 40.0])
def test_a_lens_is_as_soft_as_its_shape(session, soft):
    """In closed form: along its long axis an ellipse's edge is as far as it is; half is seen at the outline."""
    lens = Plate(id="lens", kind="lens", values={"shape": "ellipse", "width": 200.0, "height": 60.0, "soft": soft})
    shot = Shot(width=W, height=H, plates=(lens,))
    row = frame_job(Engine(), shot, 0).plate_outline("lens", frame_grid(W, H))[90, :, 0]
    d = np.abs(np.arange(W) + 0.5 - 160) - 100
    near = np.abs(d) < 6
    t = np.clip(0.5 - d / soft, 0, 1)
    assert row[near] == pytest.approx((t * t * (3 - 2 * t))[near], abs=0.06 if soft < 10 else 0.01)


def test_its_map_offers_no_place_of_its_own(session):
    """Place, size, turn and life are the lens's: fields and handles that do nothing are not shown."""
    ball(session)
    step = f"maps/{session.shot.maps[-1].id}/steps/shape"
    declared = session.operator(step).declared
    counting = {name for name, param in declared.items() if is_shown(session, step, param)}
    assert not counting & {"place", "width", "height", "turn", "spin", "life", "when", "spread", "seed"}
    assert {"plate", "middle", "edge", "rises", "rim", "soft"} <= counting
