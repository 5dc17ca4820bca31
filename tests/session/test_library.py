"""Recipes, brackets, variations and steps alone: the document after each."""

from __future__ import annotations

import numpy as np
import pytest

from nimble_quake.errors import ShotError
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import render_frame
from nimble_quake.render.services import frame_job
from nimble_quake.session.state import Session
from nimble_quake.session.storage import library
from nimble_quake.session.summaries import step_summary
from nimble_quake.session.verbs import items, variations
from nimble_quake.shot.edits.brackets import alone
from nimble_quake.shot.edits.move import move
from nimble_quake.shot.edits.remove import remove
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import id_of
from nimble_quake.shot.recipe import Recipe
from nimble_quake.shotfile.codec import decoded, encoded
from nimble_quake.shotfile.recipes import fitted_to, read_recipe, write_recipe

GRID = frame_grid(320, 180)
STEP = '{"nimble_quake_recipe": 1, "recipe": [%s]}'
HOSTILE = (
    "",
    "{}",
    "[1]",
    '{"nimble_quake_recipe": 99}',
    '{"nimble_quake_recipe": 1, "recipe": 3}',
    "[" * 100_000,
    STEP % '{"id": "a", "kind": "noise", "values": {"size_x": 1e999}}',
    STEP % '{"id": "a/b", "kind": ""}',
    '{"nimble_quake_recipe": 2, "recipe": [], "coupling": 3}',
    '{"nimble_quake_recipe": 2, "recipe": [], "coupling": {"kind": "push", "values": {"reach_x": "far"}}}',
    STEP % '{"id": "a", "kind": "ribs", "values": {"count": "1e12"}}',
)
STEPS = (
    Node(id="noise", kind="noise", values={"size_x": 60.0, "churn": 0.5}),
    Node(id="curve", kind="curve"),
    Node(id="tile", kind="tile"),
)


@pytest.fixture
def session():
    found = Session()
    quake = Node(id="push", kind="push", values={"map": "map"})
    title = Plate(id="title", kind="text", values={"words": "ROW"}, effects=(quake,))
    found.take(Shot(width=320, height=180, plates=(title,), maps=(Map(id="map", name="Mine", recipe=STEPS),)), None)
    found.select(map="maps/map", step="maps/map/steps/curve", plate="plates/title", quake="plates/title/effects/push")
    return found


def field(shot: Shot, map: int = 0) -> np.ndarray:
    return map_field(frame_job(Engine(), shot, 20), shot.maps[map], GRID)


class TestLibrary:
    def test_at_least_24_recipes_come_with_it_and_all_compute(self):
        found, wrong = library.kept(False)
        assert not wrong
        assert len(found) >= 24
        for item in found:
            fitted = fitted_to(item.recipe, 320, 180)
            shot = Shot(width=320, height=180, length=240, maps=(Map(id="m", name="", recipe=fitted.map.recipe),))
            job = frame_job(Engine(), shot, 30)
            values = map_field(job, shot.maps[0], frame_grid(320, 180, 0.5))
            assert not job.problems, item.name
            assert np.isfinite(values).all()

    def test_each_that_comes_with_it_moves_a_picture_that_had_no_quake(self):
        session, seen = Session(), []
        figure = Plate(id="figure", kind="shape")
        session.take(Shot(width=1280, height=720, length=240, plates=(figure,)), None)
        session.select(plate="plates/figure")
        still = render_frame(session.engine, session.shot, 20, 0.25)
        for item in library.kept(False)[0]:
            shot, _, quake = library.with_recipe(session, item.recipe)
            moved = np.abs(render_frame(Engine(), shot, 20, 0.25) - still).max()
            seen += [] if quake and moved > 0.05 else [f"{item.name} {moved:.3f}"]
        assert not seen

    def test_keep_use_and_throw_away(self, session):
        path = library.keep(session, "maps/map")
        assert path is not None
        (kept,), wrong = library.kept(True)
        assert not wrong
        assert kept.recipe.map.recipe == STEPS
        used = library.use(session, kept.recipe)
        assert session.raw("plates/title/effects/push/map") == used.partition("/")[2]
        session.undo()
        assert len(session.shot.maps) == 1
        assert session.raw("plates/title/effects/push/map") == "map"
        library.throw_away(kept)
        assert library.kept(True)[0] == []
        assert path.with_name(path.name + ".bak").exists()

    def test_places_are_fitted_to_another_size(self, session, tmp_path):
        rings = Map(id="r", name="Rings", recipe=(Node(id="rings", kind="rings", values={"centre": (160.0, 45.0)}),))
        write_recipe(Recipe(map=rings, made_at=(320, 180)), tmp_path / "a.nquake-recipe")
        fitted = fitted_to(read_recipe(tmp_path / "a.nquake-recipe"), 640, 360)
        assert fitted.map.recipe[0].values["centre"] == (320.0, 90.0)

    def test_a_map_goes_from_shot_to_shot_as_text(self, session):
        other = Session()
        other.take(Shot(width=session.shot.width, height=session.shot.height))
        library.use(other, library.map_from_text(library.map_text(session, "maps/map")))
        assert other.shot.maps[-1].recipe == STEPS

    def test_a_recipe_brings_its_quake_to_the_next_picture(self, session):
        """Kind, reaches and a gesture come along; the map it read and the mask of that shot do not."""
        quake, swell = "plates/title/effects/push", Keys((Key(frame=0, value=0.0), Key(frame=12, value=40.0)))
        for name, value in (("reach_y", 0.0), ("reach_x", swell), ("edge", "mirror"), ("mask", "map")):
            session.set(f"{quake}/{name}", value)
        library.keep(session, "maps/map")
        recipe = library.kept(True)[0][0].recipe
        other = Session()
        other.take(Shot(width=320, height=180, plates=(Plate(id="fill", kind="fill"),)), None)
        other.select(plate="plates/fill")
        tried = library.with_recipe(other, recipe)[0]
        used = library.use(other, recipe)
        assert other.shot == tried
        (effect,) = other.shot.plates[0].effects
        assert effect.kind == "push"
        assert effect.values == {"map": id_of(used), "reach_x": swell, "reach_y": 0.0, "edge": "mirror"}
        assert other.selection.quake == f"plates/fill/effects/{effect.id}"
        other.undo()
        assert not other.shot.maps
        assert not other.shot.plates[0].effects

    @pytest.mark.parametrize("text", HOSTILE)
    def test_hostile_recipes_are_one_line(self, text, tmp_path):
        file = tmp_path / "x.nquake-recipe"
        file.write_text(text)
        with pytest.raises(ShotError) as wrong:
            read_recipe(file)
        assert "\n" not in wrong.value.line()
        assert str(file) in wrong.value.line()


class TestBrackets:
    def test_into_a_bracket_and_out(self, session):
        items.put_in_bracket(session, "maps/map/steps/curve")
        assert [(s.id, s.inside) for s in session.shot.maps[0].recipe] == [
            ("noise", ""),
            ("bracket", ""),
            ("curve", "bracket"),
            ("tile", ""),
        ]
        items.put_in_bracket(session, "maps/map/steps/tile")
        assert [s.inside for s in session.shot.maps[0].recipe] == ["", "", "bracket", "bracket"]
        items.take_out(session, "maps/map/steps/curve")
        assert [s.id for s in session.shot.maps[0].recipe] == ["noise", "bracket", "tile", "curve"]

    def test_a_plain_bracket_changes_nothing_and_an_empty_one_costs_nothing(self, session):
        before = field(session.shot)
        items.put_in_bracket(session, "maps/map/steps/curve")
        assert np.array_equal(field(session.shot), before)
        emptied = remove(session.shot, "maps/map/steps/curve")
        engine = Engine()
        map_field(frame_job(engine, emptied, 20), emptied.maps[0], GRID)
        assert not [key for key in engine.cache.stored() if "bracket" in str(key)]

    def test_ring_bracket_round_nothing_gives_the_picture_back(self, session):
        """Common practice, no source: ring space round steps that do nothing changes nothing but by resampling."""
        items.put_in_bracket(session, "maps/map/steps/tile")
        session.set("maps/map/steps/bracket/space", "rings")
        idle = session.with_value("maps/map/steps/tile/opacity", 0.01)
        away = np.abs(field(idle) - field(remove(session.shot, "maps/map/steps/tile")))
        assert np.median(away) < 0.02

    def test_it_travels_with_its_steps(self, session):
        items.put_in_bracket(session, "maps/map/steps/curve")
        moved = move(session.shot, "maps/map/steps/bracket", 0)
        assert [s.id for s in moved.maps[0].recipe] == ["bracket", "curve", "noise", "tile"]
        landed = move(session.shot, "maps/map/steps/tile", 2)
        assert [(s.id, s.inside) for s in landed.maps[0].recipe][2] == ("tile", "bracket")
        freed = remove(session.shot, "maps/map/steps/bracket")
        assert [(s.id, s.inside) for s in freed.maps[0].recipe] == [("noise", ""), ("curve", ""), ("tile", "")]

    def test_it_is_kept_in_the_file(self, session):
        items.put_in_bracket(session, "maps/map/steps/curve")
        assert decoded(encoded(session.shot)) == session.shot

    def test_what_lies_beneath_counts(self, session):
        """A step before a bracket, changed, changes what comes out of it (it once was remembered apart)."""
        items.put_in_bracket(session, "maps/map/steps/curve")
        engine = Engine()
        one = map_field(frame_job(engine, session.shot, 20), session.shot.maps[0], GRID)
        other = session.with_value("maps/map/steps/noise/seed", 9)
        assert not np.array_equal(map_field(frame_job(engine, other, 20), other.maps[0], GRID), one)


class TestVariations:
    @pytest.mark.parametrize("by", ["seed", "settings"])
    def test_a_dozen_that_differ_and_repeat(self, session, by):
        found = variations.variations(session, "maps/map/steps/noise", by)
        assert len(found) == 12
        assert found[0] == STEPS[0]
        assert len({str(node.values) for node in found}) == 12
        assert found == variations.variations(session, "maps/map/steps/noise", by)
        assert found[1] != variations.variations(session, "maps/map/steps/noise", by, 1)[1]
        for node in found:
            for name, value in node.values.items():
                session.engine.operators.get("step", "noise").declared[name].check(value)

    def test_taking_one_is_one_step(self, session):
        node = variations.variations(session, "maps/map/steps/noise", "seed")[3]
        variations.take_variation(session, "maps/map/steps/noise", node)
        assert session.shown("maps/map/steps/noise/seed") == node.values["seed"]
        session.undo()
        assert session.shot.maps[0].recipe == STEPS


def test_a_step_alone(session):
    shot = alone(session.shot, "maps/map/steps/noise")
    assert [step.on for step in shot.maps[0].recipe] == [True, False, False]
    assert session.shot.maps[0].recipe == STEPS


@pytest.mark.parametrize(("clips", "asked"), [((), None), (("market",), "market"), (("market", "crowd"), None)])
def test_tracked_points_begin_with_the_only_clip(clips, asked):
    title = Plate(id="title", kind="text")
    shot = Shot(plates=(title, *(Plate(id=id, kind="clip") for id in clips)))
    shot, _ = items.with_step(shot, "", "tracked_points")
    assert shot.maps[0].recipe[0].values.get("plate") == asked


def test_another_map_begins_with_one_that_does_not_read_it():
    """Of two maps, of which the last reads the first, the first takes none but its own and makes no loop."""
    session, noise = Session(), Node(id="n", kind="noise")
    reads = Node(id="a", kind="another_map", values={"other": "one"})
    one, two, three = (
        Map(id=id, name=id, recipe=(step,)) for id, step in (("one", noise), ("two", reads), ("three", noise))
    )
    session.take(Shot(maps=(one, three, two)))
    session.select(map="maps/one")
    path = items.new_step(session, "another_map")
    assert session.raw(f"{path}/other") == "three"
    assert step_summary(session, path) == "add, three"
    session.undo()
    session.take(Shot(maps=(one, two)))
    session.select(map="maps/one")
    assert session.raw(f"{items.new_step(session, 'another_map')}/other") is None
