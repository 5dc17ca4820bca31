"""Starters: each goes on one's own title and clip, at any size and rate, and begins a shot of one's own words."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest

from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture, render_frame
from nimble_quake.render.services import frame_job
from nimble_quake.samples import FOLDER, samples
from nimble_quake.session.starting import starters
from nimble_quake.session.starting.map_shots import is_map
from nimble_quake.session.starting.starters import shipped
from nimble_quake.session.state import Session
from nimble_quake.session.storage import library
from nimble_quake.shot.model import Plate, Shot

TITLE = Plate(id="mine", kind="text", values={"words": "TEA", "size": 300.0})
CLIP = Plate(id="mine", kind="clip", values={"file": str(FOLDER / "media" / "stall.mp4"), "fit": "cover"})
SIZES = [(1920, 1080, Fraction(30)), (1080, 1350, Fraction(25)), (3840, 2160, Fraction(24))]


def with_plate(plate: Plate, width: int, height: int, rate: Fraction) -> Session:
    session = Session()
    session.take(Shot(width=width, height=height, rate=rate, length=round(4 * rate), plates=(plate,)))
    session.select(plate="plates/mine")
    return session


TO_DO = ("choose it and track its points", "choose a tracked clip")
"""A starter that rides on tracked points says so on a clip that is not tracked, and on what is no clip."""


def seen(engine: Engine, shot: Shot, frame: int) -> tuple[np.ndarray, list[str]]:
    job = frame_job(engine, shot, frame)
    return np.array(frame_picture(job, 160 / shot.width)), [problem.line() for problem in job.problems.values()]


@pytest.mark.sampled(8)
@pytest.mark.parametrize("name", samples())
@pytest.mark.parametrize("plate", [TITLE, CLIP], ids=["title", "clip"])
@pytest.mark.parametrize("size", SIZES, ids=["wide", "upright", "large"])
def test_each_goes_on_ones_own_picture_and_is_seen(name, plate, size):
    session = with_plate(plate, *size)
    before = session.shot
    starter = next(each for each in shipped() if each.name == name)
    assert starters.put_on(session, starter)
    whole = any(node.values.get("takes_mine") for node in starter.shot.front)
    assert (session.shot.plate("mine") is None) == whole  # then it has come into the starter's slot
    frames = range(0, session.shot.length, max(1, session.shot.length // 9))
    changes, engine, other = [], Engine(), Engine()
    for frame in frames:
        picture, wrong = seen(engine, session.shot, frame)
        untracked = [line for line in wrong if line.endswith(TO_DO[plate is TITLE])]
        assert wrong == untracked
        changes.append(float(np.abs(picture - seen(other, before, frame)[0]).max()) + len(untracked))
    assert max(changes) > 0.02, "at some moment it is seen"
    session.undo()
    assert session.shot == before


def test_a_title_is_not_repeated_beyond_itself():
    """A starter whose border is mirrored is made for a clip: of a title nothing is repeated."""
    session = with_plate(TITLE, *SIZES[0])
    starters.put_on(session, next(each for each in shipped() if each.name == "shockwave"))
    assert session.raw("plates/mine/effects/push/edge") is None


def test_a_title_begins_a_shot_and_moves():
    session = Session()
    starters.begin_with_title(session, "Night market")
    assert session.shown("plates/title/words") == "Night market"
    assert session.dirty
    frames = [render_frame(Engine(), session.shot, frame, 0.1) for frame in (0, 20)]
    assert np.abs(frames[0] - frames[1]).max() > 0.2
    alpha = render_frame(Engine(), session.shot, 0, 0.25)[..., :3].max(axis=2)
    across = np.flatnonzero(alpha.max(axis=0) > 0.5)
    assert 0.5 * 480 < across[-1] - across[0] < 480, "it nearly fills the frame"


@pytest.mark.parametrize("words", ["A", "A title that is much longer than any title has ever been before"])
def test_short_and_long_titles_fit(words):
    session = Session()
    starters.begin_with_title(session, words)
    alpha = render_frame(Engine(), session.shot, 0, 0.25)[..., :3].max(axis=2)
    assert alpha[:, (0, -1)].max() < 0.5


def test_a_typed_title_takes_the_place_of_a_starters_own():
    starter = next(each for each in shipped() if each.name == "text-ripple")
    texts = [p.values["words"] for p in starters.with_title(starter.shot, "SOUP").plates if p.kind == "text"]
    assert texts[0] == "SOUP"
    shot = starter.shot
    assert starters.with_title(shot, "") is shot


def test_words_find_starters():
    def found(text: str) -> set[str]:
        return {each.name for each in shipped() if each.matches(text)}

    assert "glass-lens" in found("glass")
    assert found("nothing of the sort") == set()
    assert found("titles push") <= found("push")


def test_the_list_says_what_the_shots_are():
    """So that no shot has to be read to show the page; tools/draw_moving_pictures.py makes it anew."""
    whole = [starter for starter in shipped() if not is_map(starter.name) and starter.sort != "Crossings"]
    assert [starter.name for starter in whole] == samples()
    for starter in whole:
        assert (starter.title, starter.sort, starter.note) == starters.described(starter.shot)


def test_every_recipe_is_a_starter_with_dials():
    recipes = {kept.path for kept in library.kept(False)[0]}
    maps = [starter for starter in shipped() if is_map(starter.name)]
    assert {starter.file for starter in maps} == recipes
    for starter in maps:
        shot = starter.shot
        assert 3 <= len(shot.front) <= 11, starter.name
        assert (starter.title, starter.sort) == (shot.name, "Maps")
