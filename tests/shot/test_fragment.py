"""A piece of a shot laid into another: it equals where it came from, and changes nothing that was there."""

from __future__ import annotations

import msgspec
import numpy as np
import pytest

from nimble_quake.motion.drivers.follow import Follow
from nimble_quake.motion.kinds import Driven, Formula, Key, Keys
from nimble_quake.operators.registry import registry
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import render_frame
from nimble_quake.samples import sample_path, samples
from nimble_quake.shot.edits.remove import remove
from nimble_quake.shot.fragment import Fragment, Landing, fragment_of, laid
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import find, nested_path, plate_path, readers_of
from nimble_quake.shotfile.codec import decoded, encoded
from nimble_quake.shotfile.files import read_shot

KINDS = registry().get


def sample(name: str) -> Shot:
    path = sample_path(name)
    assert path is not None
    return read_shot(path)


def frame(shot: Shot, number: int) -> np.ndarray:
    return render_frame(Engine(), shot, number, min(1.0, 200 / shot.width))


def empty_like(shot: Shot) -> Shot:
    fields = ("width", "height", "rate", "length", "ground", "linear", "seamless")
    return Shot(**{name: getattr(shot, name) for name in fields})


@pytest.mark.sampled(6)
@pytest.mark.parametrize("name", samples())
def test_all_plates_laid_into_an_empty_shot_are_the_shot_they_came_from(name):
    shot = sample(name)
    fragment = fragment_of(shot, [plate_path(plate.id) for plate in shot.plates], KINDS)
    found, paths = laid(empty_like(shot), fragment, Landing(), KINDS)
    assert paths == tuple(plate_path(plate.id) for plate in shot.plates)
    number = shot.length * 2 // 5
    np.testing.assert_array_equal(frame(found, number), frame(shot, number))


EFFECTS = [
    (name, nested_path(plate_path(plate.id), effect.id))
    for name in samples()
    for plate in sample(name).plates
    for effect in plate.effects
]


@pytest.mark.sampled(8)
@pytest.mark.parametrize(("name", "path"), EFFECTS)
def test_an_effect_taken_out_and_laid_back_makes_the_same_picture(name, path):
    """With the maps that only it read taken out too: they come along. As text, as another window takes it."""
    shot = sample(name)
    plate = shot.plate(path.split("/")[1])
    assert plate is not None
    at = [effect.id for effect in plate.effects].index(path.split("/")[3])
    fragment = as_text(fragment_of(shot, [path], KINDS))
    without = remove(shot, path)
    for map in shot.maps:
        if readers_of(shot, map.id) == [path]:
            without = remove(without, f"maps/{map.id}")
    found, laid_paths = laid(without, fragment, Landing(plate=plate_path(plate.id), at=at), KINDS)
    assert len(laid_paths) == 1
    number = shot.length * 2 // 5
    np.testing.assert_array_equal(frame(found, number), frame(shot, number))


def as_text(fragment: Fragment) -> Fragment:
    shot = decoded(msgspec.json.decode(msgspec.json.encode(encoded(fragment.shot))))
    return Fragment(shot, fragment.picked, fragment.frame)


def a_shot() -> Shot:
    """Two plates; a push on one, by a map that follows its own plate's outline and has a mask that follows a value."""
    keys = Keys((Key(frame=10.0, value=0.0), Key(frame=20.0, value=30.0)))
    push = Node(id="q", kind="push", values={"map": "m", "mask": "k", "reach_x": keys})
    outline = Node(id="s", kind="shape", values={"form": "plate", "plate": "a"})
    level = Driven(0.0, 1.0, Follow({"path": "plates/a/effects/q/reach_x"}))
    mask = Node(id="f", kind="flat", values={"value": level, "at_rest": False})
    gain = Formula('value("plates/b/opacity") * 9')
    maps = (
        Map(id="m", name="M", recipe=(outline, Node(id="b", kind="blur", values={"radius": gain}))),
        Map(id="k", name="K", recipe=(mask,)),
    )
    a = Plate(id="a", kind="shape", effects=(push,))
    return Shot(width=200, height=100, length=60, plates=(a, Plate(id="b", kind="fill")), maps=maps)


def test_what_refers_to_its_own_plate_refers_to_the_plate_it_is_laid_on():
    shot = a_shot()
    fragment = fragment_of(shot, ["plates/a/effects/q"], KINDS)
    found, paths = laid(shot, fragment, Landing(plate="plates/b"), KINDS)
    assert paths == ("plates/b/effects/q",)
    effect = find(found, paths[0])
    assert isinstance(effect, Node)
    assert (effect.values["map"], effect.values["mask"]) == ("m-2", "k-2")
    outline = found.map("m-2").recipe[0]
    assert outline.values["plate"] == "b"
    assert found.map("k-2").recipe[0].values["value"].driver.path == "plates/b/effects/q/reach_x"
    assert found.map("m-2").recipe[1].values["radius"].text == 'value("plates/b/opacity") * 9', "that plate is there"
    assert (found.maps[:2], found.plates[0]) == (shot.maps, shot.plates[0]), "what was there is as it was"


def test_linked_it_shares_the_maps_that_are_there():
    shot = a_shot()
    fragment = fragment_of(shot, ["plates/a/effects/q"], KINDS)
    found, paths = laid(shot, fragment, Landing(plate="plates/b", links=True), KINDS)
    effect = find(found, paths[0])
    assert isinstance(effect, Node)
    assert (effect.values["map"], len(found.maps)) == ("m", 2)


def test_in_another_shot_what_is_read_comes_along_unseen():
    fragment = fragment_of(a_shot(), ["plates/a/effects/q"], KINDS)
    there = Shot(width=200, height=100, plates=(Plate(id="z", kind="fill"),))
    found, _ = laid(there, fragment, Landing(plate="plates/z"), KINDS)
    assert [(plate.id, plate.on) for plate in found.plates] == [("z", True), ("b", False)]
    assert [map.id for map in found.maps] == ["m", "k"]


def test_pins_move_with_the_playhead_where_asked():
    fragment = fragment_of(a_shot(), ["plates/a/effects/q"], KINDS, frame=10)
    found, paths = laid(a_shot(), fragment, Landing(plate="plates/b", later=25), KINDS)
    effect = find(found, paths[0])
    assert isinstance(effect, Node)
    assert [key.frame for key in effect.values["reach_x"].keys] == [35, 45]


def test_a_larger_shot_gets_it_larger():
    fragment = fragment_of(a_shot(), ["plates/a/effects/q"], KINDS)
    there = Shot(width=400, height=200, plates=(Plate(id="z", kind="fill"),))
    found, paths = laid(there, fragment, Landing(plate="plates/z"), KINDS)
    effect = find(found, paths[0])
    assert isinstance(effect, Node)
    assert [key.value for key in effect.values["reach_x"].keys] == [0, 60]


def test_groups_and_brackets_bring_what_is_in_them():
    group = Plate(id="g", kind="group")
    inside = Plate(id="i", kind="fill", inside="g")
    recipe = (Node(id="r", kind="bracket"), Node(id="n", kind="noise", inside="r"), Node(id="b", kind="blur"))
    shot = Shot(plates=(group, inside), maps=(Map(id="m", name="M", recipe=recipe),))
    found, paths = laid(shot, fragment_of(shot, ["plates/g"], KINDS), Landing(at=0), KINDS)
    assert paths == ("plates/g-2", "plates/i-2")
    assert [(p.id, p.inside) for p in found.plates] == [("g-2", ""), ("i-2", "g-2"), ("g", ""), ("i", "g")]
    found, paths = laid(shot, fragment_of(shot, ["maps/m/steps/r"], KINDS), Landing(map="maps/m", at=3), KINDS)
    assert [(s.id, s.inside) for s in found.map("m").recipe[3:]] == [("r-2", ""), ("n-2", "r-2")]


def test_a_place_that_is_not_there_takes_nothing():
    shot = a_shot()
    fragment = fragment_of(shot, ["plates/a/effects/q"], KINDS)
    assert laid(shot, fragment, Landing(plate="plates/gone"), KINDS)[1] == ()
    assert laid(shot, Fragment(shot, ()), Landing(), KINDS) == (shot, ())
