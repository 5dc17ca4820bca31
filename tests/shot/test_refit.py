"""A shot of another size, rate or length carries its work: the same picture at the same seconds."""

from __future__ import annotations

import math
from fractions import Fraction
from typing import Any

import msgspec
import numpy as np
import pytest

from nimble_quake.motion.drivers.follow import Follow
from nimble_quake.motion.drivers.jitter import Jitter
from nimble_quake.motion.drivers.wave import Wave
from nimble_quake.motion.kinds import Driven, Formula, Key, Keys, Layered, Rate
from nimble_quake.motion.motion import value_at
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Outline
from nimble_quake.render.engine import Engine, moment_in
from nimble_quake.render.frames import render_frame
from nimble_quake.render.services import frame_job
from nimble_quake.samples import FOLDER, sample_path, samples
from nimble_quake.shot.edits.set_value import set_field, set_value
from nimble_quake.shot.model import Map, Marker, Node, Plate, Shot
from nimble_quake.shot.refit import Change, refitted
from nimble_quake.shotfile.codec import decoded, encoded
from nimble_quake.shotfile.files import read_shot
from nimble_quake.shotfile.recipes import fitted_to, read_recipe

KINDS = registry().get


def changed(shot: Shot, times: float = 1, rate: float = 1, **how: Any) -> Shot:
    size = (round(shot.width * times), round(shot.height * times))
    return refitted(shot, Change(*size, shot.rate * Fraction(rate), round(shot.length * rate), **how), KINDS)


def means(one: np.ndarray, other: np.ndarray) -> float:
    return float(np.abs(one - other).mean() * 255)


@pytest.mark.sampled(12)
@pytest.mark.parametrize("name", samples())
@pytest.mark.parametrize("times", [0.5, 1.5, 2.0])
@pytest.mark.parametrize("rate", [1, 2])
def test_a_sample_of_another_size_and_rate_is_the_same_picture(name, times, rate):
    """Computed small, so that both are of the same size in px: mean <= 1 level; clips by their own frames."""
    path = sample_path(name)
    assert path is not None
    shot = read_shot(path)
    small = min(1.0, 240 / shot.width)
    new, frame = changed(shot, times, rate), shot.length * 2 // 5
    before = render_frame(Engine(), shot, frame, small)
    after = render_frame(Engine(), new, frame * rate, small / times)
    assert before.shape == after.shape
    by_frames = rate != 1 and name == "time-sliced-title"  # what is delayed comes from whole frames: of another rate
    assert means(before, after) <= (4.0 if by_frames else 1.0)
    opened = decoded(encoded(new, path.parent), path.parent)
    assert opened.plates == new.plates, "what it became can be saved and opened"


SHOT = Shot(
    width=200,
    height=100,
    rate=Fraction(24),
    length=48,
    plates=(
        Plate(id="t", kind="shape", values={"width": 40.0, "position": (50.0, 80.0)}),
        Plate(id="u", kind="shape", values={"opacity": 0.5}),
    ),
    markers=(Marker(frame=12, name="hit"),),
    loop=(12, 48),
    beats=(0.0, 6.5),
)
POSITION, WIDTH, TURN = "plates/t/position", "plates/t/width", "plates/t/turn"
MOTIONS = {
    "keys": Keys((Key(frame=0.0, value=10.0), Key(frame=24.0, value=50.0, after="eased"))),
    "rate": Rate(10.0, 4.0),
    "formula": Formula("10 + 30*sin(t*2) + frame/4 + width/20"),
    "reading formula": Formula('value("plates/u/width", 0, 2) / 2 + value("plates/u/opacity")*9'),
    "follow a length": Driven(3.0, 0.5, Follow({"path": "plates/u/width", "delay": 6.0})),
    "follow a place": Driven(3.0, 0.5, Follow({"path": "plates/u/position", "part": "second"})),
    "follow what is no length": Driven(3.0, 20.0, Follow({"path": "plates/u/opacity"})),
    "wave": Driven(20.0, 9.0, Wave({"period": 12.0, "unit": "frames"})),
    "layered": Layered(Rate(5.0, 2.0), (Driven(0.0, 6.0, Jitter({})),)),
}


def now(shot: Shot, path: str, frame: float) -> float | tuple[float, ...]:
    node = shot.plate(path.split("/")[1])
    assert node is not None
    job = frame_job(Engine(), shot, frame)
    return value_at(node.values[path.split("/")[2]], job.moment)


@pytest.mark.parametrize("motion", MOTIONS.values(), ids=MOTIONS)
def test_a_moving_length_is_three_times_as_long_at_the_same_second(motion):
    """Closed form: value' = 3 x value, at frame' = 2 x frame."""
    shot = set_value(SHOT, WIDTH, motion)
    new = changed(shot, 3, 2)
    for frame in (0, 7, 20, 31):
        assert now(new, WIDTH, 2 * frame) == pytest.approx(3 * now(shot, WIDTH, frame), abs=1e-6)


def test_a_value_without_a_length_stays_but_reads_what_it_read():
    shot = set_value(SHOT, TURN, Formula('value("plates/t/width") + value("plates/t/position", 1)'))
    assert now(changed(shot, 3, 2), TURN, 10) == pytest.approx(40 + 80)


@pytest.mark.parametrize(
    ("shape", "places", "wanted"),
    [
        ("fit", "centre", (25.0, 115.0)),
        ("fill", "centre", (-50.0, 160.0)),
        ("keep", "centre", (0.0, 130.0)),
        ("fit", "edges", (25.0, 190.0)),
        ("keep", "edges", (50.0, 180.0)),
    ],
)
def test_places_in_another_shape_of_frame(shape, places, wanted):
    """200 x 100 to 100 x 200: half as large, or twice, about the centre or from the edge; (50, 80) is left and low."""
    new = refitted(SHOT, Change(100, 200, SHOT.rate, SHOT.length, shape=shape, places=places), KINDS)
    assert new.plates[0].values["position"] == wanted


def test_guides_go_where_the_places_beside_them_go():
    shot = msgspec.structs.replace(SHOT, guides_x=(20.0, 190.0), guides_y=(10.0,))
    new = refitted(shot, Change(400, 300, SHOT.rate, SHOT.length, places="edges"), KINDS)
    assert new.guides_x == (40.0, 380.0)  # 20 px from the left, 10 px from the right, twice as large
    assert new.guides_y == (20.0,)
    assert changed(shot, 2, 1).guides_x == (40.0, 380.0)


def test_frames_keep_their_seconds_or_their_numbers():
    new = changed(SHOT, 1, 2)
    assert (new.length, new.loop, new.markers[0].frame, new.beats) == (96, (24, 96), 24, (0.0, 13.0))
    assert changed(SHOT, 1, 2, keeps_seconds=False).markers == SHOT.markers


def test_of_a_changed_length_only_what_ends_with_the_shot_follows():
    keys = Keys((Key(frame=0.0, value=0.0), Key(frame=47.0, value=1.0)))
    shot = set_value(set_field(set_field(SHOT, "plates/t", end=48), "plates/u", start=6, end=30), TURN, keys)
    longer = refitted(shot, Change(200, 100, shot.rate, 72), KINDS)
    assert (longer.plates[0].end, longer.plates[1].start, longer.plates[1].end) == (72, 6, 30)
    assert longer.plates[0].values["turn"] == keys
    stretched = refitted(shot, Change(200, 100, shot.rate, 96, stretches=True), KINDS)
    assert (stretched.plates[0].end, stretched.plates[1].start, stretched.plates[1].end) == (96, 12, 60)
    assert [key.frame for key in stretched.plates[0].values["turn"].keys] == [0, 94]


@pytest.mark.parametrize(
    ("anchor", "pins", "length", "wanted"),
    [
        ("", (4, 16, 88), 192, [8, 32, 176]),
        ("start", (4, 16, 40), 192, [4, 16, 40]),
        ("end", (80, 95), 192, [176, 191]),
        ("both", (0, 12, 80, 95), 192, [0, 12, 176, 191]),
        ("start", (0, 60), 48, [0, 48]),  # too short for them: pressed together
        ("both", (0, 24, 84, 95), 24, [0, 12, 18, 23.5]),
    ],
)
def test_pins_that_are_kept_from_an_end(anchor, pins, length, wanted):
    """By hand: from the start they stay at their frames, from the end they stay as far from it."""
    keys = Keys(tuple(Key(frame=float(at), value=float(n)) for n, at in enumerate(pins)), anchor)
    shot = set_value(msgspec.structs.replace(SHOT, length=96, loop=None), TURN, keys)
    found = refitted(shot, Change(200, 100, shot.rate, length, stretches=True), KINDS).plates[0].values["turn"]
    assert [key.frame for key in found.keys] == wanted
    assert found.anchor == anchor


def test_pins_are_kept_from_the_ends_of_what_they_belong_to_and_in_seconds():
    """A bar from 24 to 72 of 96 becomes 96 to 288 of 384 at twice the rate and length; its pins take as long."""
    keys = Keys((Key(frame=24.0, value=0.0), Key(frame=36.0, value=1.0), Key(frame=71.0, value=0.0)), "both")
    shot = set_field(msgspec.structs.replace(SHOT, length=96, loop=None), "plates/t", start=24, end=72)
    new = refitted(set_value(shot, TURN, keys), Change(200, 100, shot.rate * 2, 384, stretches=True), KINDS)
    assert (new.plates[0].start, new.plates[0].end) == (96, 288)
    assert [key.frame for key in new.plates[0].values["turn"].keys] == [96, 120, 286]
    longer = refitted(set_value(SHOT, TURN, keys.of(keys.keys[:2])), Change(200, 100, SHOT.rate, 72), KINDS)
    assert [key.frame for key in longer.plates[0].values["turn"].keys] == [24, 60], "not stretched: the end follows"


def test_an_effects_span_and_its_other_side_go_along():
    blur = Node(id="b", kind="blur", span=(6, 48), fades=(3, 2), values={"radius": 8.0}, aside={"radius": 4.0})
    new = changed(Shot(length=48, plates=(Plate(id="p", kind="fill", effects=(blur,)),)), 2, 2)
    effect = new.plates[0].effects[0]
    assert (effect.span, effect.fades) == ((12, 96), (6, 4))
    assert (effect.values["radius"], effect.aside["radius"]) == (16.0, 8.0)


def test_there_and_back_is_the_shot_it_was():
    path = sample_path("lantern-row")
    assert path is not None
    shot = read_shot(path)
    back = changed(changed(shot, 2, 2), 0.5, 0.5)
    assert means(render_frame(Engine(), shot, 40, 0.25), render_frame(Engine(), back, 40, 0.25)) <= 0.05


def test_the_same_size_and_rate_is_the_same_shot():
    assert changed(SHOT) == SHOT


def test_outlines_are_fractions_and_stay():
    """Every list of points is one of a box's fractions; nets are of px. A new kind of list would have to say which."""
    kinds = {type(p) for op in registry().all() for p in op.declared.values() if isinstance(p.default, tuple)}
    assert Outline in kinds
    map = Map(id="m", name="M", recipe=(Node(id="d", kind="drawn_mask", values={"form": "polygon", "width": 30.0}),))
    new = changed(msgspec.structs.replace(SHOT, maps=(map,)), 2)
    assert "outline" not in new.maps[0].recipe[0].values
    assert new.maps[0].recipe[0].values["width"] == 60.0


def test_a_recipe_has_as_many_ribs_at_any_size():
    """Made at 1280 px, used at 3840: a rib is three times as wide (was: as wide, so three times as many)."""
    path = FOLDER / "recipes" / "ribbed-glass.nquake-recipe"
    recipe = read_recipe(path)
    assert recipe.made_at is not None
    width, height = recipe.made_at
    large = fitted_to(recipe, 3 * width, 3 * height)
    small = [float(step.values["size"]) for step in recipe.map.recipe if step.kind == "ribs"]
    assert [float(step.values["size"]) for step in large.map.recipe if step.kind == "ribs"] == [3 * w for w in small]


def test_limits_hold(engine):
    """At the largest size nothing leaves its hard limits: the shot can be opened."""
    new = refitted(SHOT, Change(16000, 8000, Fraction(1000), 1_000_000), KINDS)
    assert decoded(encoded(new)).plates == new.plates
    assert math.isfinite(moment_in(engine, new, 5, lambda plate, frame: None).seconds)
