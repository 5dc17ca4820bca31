"""Live copies with exceptions, and shown several times, each a little later."""

from __future__ import annotations

import numpy as np
import pytest

from nimble_quake.errors import NimbleQuakeError
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.plates.copy import Copy
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Node, Plate, Shot
from nimble_quake.shotfile.files import read_shot, write_shot

ENGINE = Engine()


def square(id: str = "s", **values: object) -> Plate:
    size = {"form": "rectangle", "width": 60.0, "height": 60.0, "position": (80.0, 60.0)}
    return Plate(id=id, kind="shape", values={**size, **values})


def copy(**values: object) -> Plate:
    return Plate(id="c", kind="copy", values={"of": "s", **values})


def picture(*plates: Plate, frame: float = 0, engine: Engine = ENGINE) -> np.ndarray:
    shot = Shot(width=320, height=180, length=60, plates=plates)
    return frame_picture(frame_job(engine, shot, frame), 1.0).copy()


def lone(plate: Plate) -> Plate:
    return Plate(id=plate.id, kind=plate.kind, values=plate.values, effects=plate.effects, on=False)


def test_an_exception_is_the_original_with_that_value():
    red = (1.0, 0.0, 0.0, 1.0)
    original = lone(square())
    found = picture(copy(exceptions=(("plates/s/colour", '"#ff0000"'), ("plates/s/width", "120"))), original)
    expected = picture(copy(), lone(square(colour=red, width=120.0)))
    assert np.array_equal(found, expected)


def test_values_of_its_effects_and_moving_ones_too():
    blur = Node(id="b", kind="blur", values={"radius": 2.0})
    original = Plate(id="s", kind="shape", on=False, values=square().values, effects=(blur,))
    text = '{"keys": [{"frame": 0, "value": 2}, {"frame": 10, "value": 20}]}'
    found = picture(copy(exceptions=(("plates/s/effects/b/radius", text),)), original, frame=10)
    wide = Plate(
        id="s",
        kind="shape",
        on=False,
        values=square().values,
        effects=(Node(id="b", kind="blur", values={"radius": 20.0}),),
    )
    assert np.allclose(found, picture(copy(), wide, frame=10), atol=1e-6)


def test_what_is_not_there_or_makes_no_sense_changes_nothing():
    original = lone(square())
    plain = picture(copy(), original)
    for path, text in (("plates/gone/turn", "3"), ("plates/s/nothing", "3"), ("plates/s/turn", '"wide"')):
        assert np.array_equal(picture(copy(exceptions=((path, text),)), original), plain)


@pytest.mark.parametrize(
    "raw", ["x", [1], {"a": 1}, [{"path": 3, "value": 1}], [["p", "not json"]], [["a" * 400, "1"]]]
)
def test_broken_exceptions_are_refused(raw):
    with pytest.raises((NimbleQuakeError, TypeError)):
        Copy.exceptions.check(raw)


def test_they_are_kept_in_the_file(tmp_path):
    shot = Shot(plates=(copy(exceptions=(("plates/s/turn", "30"),), copies=4.0), square()))
    write_shot(shot, tmp_path / "a.nquake")
    assert read_shot(tmp_path / "a.nquake") == shot


def test_a_copy_of_a_copy_in_a_ring_is_said_not_run_into():
    a = Plate(id="c", kind="copy", values={"of": "d", "exceptions": (("plates/d/opacity", "0.5"),)})
    b = Plate(id="d", kind="copy", values={"of": "c", "exceptions": (("plates/c/opacity", "0.5"),)})
    assert np.isfinite(picture(a, b)).all()


def test_staggered_copies_are_the_original_at_earlier_moments():
    """n copies, each k frames later: the n-th shows the original n x k frames ago."""
    moving = Keys((Key(frame=0, value=(60.0, 60.0), after="straight"), Key(frame=50, value=(260.0, 60.0))))
    original = lone(square(width=12.0, position=moving))
    found = picture(copy(copies=3.0, later=10.0), original, frame=40)
    columns = np.flatnonzero(found[60, :, 0] > 0.5)
    middles = [group.mean() for group in np.split(columns, np.flatnonzero(np.diff(columns) > 1) + 1)]
    assert middles == pytest.approx([60 + 4 * 20 - 0.5, 60 + 4 * 30 - 0.5, 60 + 4 * 40 - 0.5], abs=0.6)
    assert np.array_equal(
        picture(copy(copies=1.0, later=10.0), original, frame=40), picture(copy(), original, frame=40)
    )


def test_aside_and_fainter():
    original = lone(square(width=20.0, height=20.0))
    found = picture(copy(copies=3.0, later=0.0, aside=(50.0, 10.0), fainter=0.5), original)
    levels = [float(found[60 + 10 * n, 80 + 50 * n, 0]) for n in range(3)]
    assert levels == pytest.approx([levels[0], levels[0] / 2, levels[0] / 4], abs=0.01)


def test_a_changed_pin_elsewhere_in_time_is_seen_at_once():
    engine = Engine()
    found = []
    for early in (60.0, 100.0, 60.0):
        keys = Keys((Key(frame=0, value=(early, 60.0), after="hold"), Key(frame=20, value=(200.0, 60.0))))
        found.append(picture(copy(copies=2.0, later=20.0), lone(square(position=keys)), frame=30, engine=engine))
    assert np.array_equal(found[0], found[2])
    assert not np.array_equal(found[0], found[1])


def test_changing_the_original_changes_the_copy_but_for_the_exception():
    shot = Shot(width=320, height=180, plates=(copy(exceptions=(("plates/s/width", "120"),)), lone(square())))
    higher = set_value(shot, "plates/s/height", 100.0)
    engine = Engine()
    a, b = (frame_picture(frame_job(engine, s, 0), 1.0)[..., 0] > 0.5 for s in (shot, higher))
    assert a.any(axis=0).sum() == b.any(axis=0).sum() == 120
    assert b.any(axis=1).sum() == 100
