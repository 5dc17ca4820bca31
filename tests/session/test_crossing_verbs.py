"""Crossings laid between one's own plates: where they meet, what comes along, and that nothing changes outside."""

from __future__ import annotations

from fractions import Fraction

import msgspec
import numpy as np
import pytest

from nimble_quake.operators.front.turning import left
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.samples import FOLDER, crossing_path
from nimble_quake.session.crossings import laying, meetings, repeated
from nimble_quake.session.starting import starters
from nimble_quake.session.starting.starters import Starter, shipped
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import items
from nimble_quake.shot.crossings import CROSSING, courses, span_of, with_strongest
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import id_of
from nimble_quake.shotfile.codec import decoded, encoded
from nimble_quake.shotfile.files import read_shot

SHIPPED = [starter for starter in shipped() if starter.sort == "Crossings"]


def clip(id: str, file: str, start: int | None = None, end: int | None = None) -> Plate:
    values = {"file": str(FOLDER / "media" / f"{file}.mp4"), "fit": "cover"}
    return Plate(id=id, kind="clip", name=id, start=start, end=end, values=values)


def word(id: str, words: str, start: int | None = None, end: int | None = None) -> Plate:
    return Plate(id=id, kind="text", name=id, start=start, end=end, values={"words": words, "size": 60.0})


PAIRS = {
    "clips": (clip("b", "stall", 20), clip("a", "wall", None, 44)),
    "clip and title": (word("b", "OPEN", 20), clip("a", "wall", None, 44)),
    "titles": (word("b", "OPEN", 20), word("a", "LATE", None, 44)),
}


def bench(pair: str = "clips", *, linear: bool = False, size: tuple[int, int] = (320, 180), rate: int = 24) -> Session:
    session = Session()
    width, height = size
    plates = PAIRS[pair]
    session.take(
        Shot(
            width=width,
            height=height,
            rate=Fraction(rate),
            length=72,
            plates=plates,
            linear=linear,
            ground=(0, 0, 0, 0),
        )
    )
    session.select(plate="plates/a")
    return session


def seen(shot: Shot, frame: int, scale: float = 0.5) -> tuple[np.ndarray, list[str]]:
    job = frame_job(Engine(), shot, frame)
    return np.array(frame_picture(job, scale)), [problem.line() for problem in job.problems.values()]


@pytest.mark.sampled(6)
@pytest.mark.parametrize("starter", SHIPPED, ids=lambda starter: starter.name)
@pytest.mark.parametrize("pair", ["clips", "titles"])
class TestShipped:
    def test_it_is_exact_at_its_ends_and_outside(self, starter: Starter, pair: str):
        session = bench(pair)
        before = session.shot
        assert starters.put_on(session, starter)
        crossing = session.shot.plate(session.selection.plate.rpartition("/")[2])
        assert crossing is not None
        start, end = span_of(crossing)
        assert (start, end) == (20, 44)
        for frame in (0, start - 1, end, 60):
            np.testing.assert_array_equal(seen(session.shot, frame)[0], seen(before, frame)[0])
        first_alone = msgspec.structs.replace(before, plates=before.plates[1:])
        np.testing.assert_array_equal(seen(session.shot, start)[0], seen(first_alone, start)[0])

    def test_it_is_seen_between_and_says_nothing(self, starter: Starter, pair: str):
        session = bench(pair)
        before = session.shot
        starters.put_on(session, starter)
        for frame in (26, 32, 40):
            picture, wrong = seen(session.shot, frame)
            assert wrong == []
            assert np.abs(picture - seen(before, frame)[0]).max() > 0.02
        assert decoded(encoded(session.shot)) == session.shot
        mine = [node for node in session.shot.front if node.inside == session.selection.plate.rpartition("/")[2]]
        assert mine
        assert all(not left(session.shot, node) for node in mine)
        assert not any(node.kind == "picture" for node in mine), "its slots are filled"
        session.undo()
        assert session.shot == before


@pytest.mark.sampled(6)
@pytest.mark.parametrize("starter", SHIPPED, ids=lambda starter: starter.name)
@pytest.mark.parametrize("linear", [False, True])
@pytest.mark.parametrize("size", [(640, 360), (270, 480)])
@pytest.mark.parametrize("frames", [2, 5, 48])
def test_sizes_lights_and_lengths(starter, linear, size, frames):
    session = bench("clip and title", linear=linear, size=size)
    session.edit("", msgspec.structs.replace(session.shot, plates=_overlapping(session.shot, frames)))
    before = session.shot
    assert starters.put_on(session, starter)
    for frame in (19, 20 + frames):
        np.testing.assert_array_equal(seen(session.shot, frame, 0.25)[0], seen(before, frame, 0.25)[0])
    for frame in (20, 20 + frames // 2):
        picture, wrong = seen(session.shot, frame, 0.25)
        assert wrong == []
        assert np.isfinite(picture).all()


def _overlapping(shot: Shot, frames: int) -> tuple[Plate, ...]:
    return tuple(msgspec.structs.replace(plate, end=20 + frames) if plate.id == "a" else plate for plate in shot.plates)


class TestMeeting:
    def test_two_selected_plates(self):
        session = bench()
        session.mark(frozenset({"plates/a", "plates/b"}))
        path = laying.new_crossing(session)
        crossing = session.shot.plate(path.rpartition("/")[2])
        assert crossing is not None
        assert (crossing.values["before"], crossing.values["after"]) == ("a", "b")
        assert crossing.values["progress"] == courses(crossing)["progress"]

    def test_a_selected_one_meets_the_next_in_time(self):
        session = bench()
        assert meetings.sides(session) == ("a", "b")

    def test_the_later_one_selected_meets_what_it_follows(self):
        session = bench()
        session.select(plate="plates/b")
        assert meetings.sides(session) == ("a", "b")

    def test_bars_that_touch_come_to_overlap(self):
        session = bench()
        plates = (
            msgspec.structs.replace(PAIRS["clips"][0], start=40),
            msgspec.structs.replace(PAIRS["clips"][1], end=40),
        )
        session.edit("", msgspec.structs.replace(session.shot, plates=plates))
        session.select(plate="plates/a")
        path = laying.new_crossing(session)
        crossing = session.shot.plate(path.rpartition("/")[2])
        assert crossing is not None
        assert span_of(crossing) == (40, 64)  # a second; the first goes on under it
        first = session.shot.plate("a")
        assert first is not None
        assert first.end == 64

    def test_one_alone_leaves_or_arrives(self):
        session = bench()
        session.edit("", msgspec.structs.replace(session.shot, plates=session.shot.plates[1:]))
        session.select(plate="plates/a")
        session.set_frame(40)
        path = laying.new_crossing(session)
        crossing = session.shot.plate(path.rpartition("/")[2])
        assert crossing is not None
        assert span_of(crossing) == (20, 44)
        assert crossing.values["after"] == ""

    def test_a_clip_in_a_reel_belongs_to_two(self):
        session = bench()
        third = clip("c", "rain", 60)
        plates = (third, msgspec.structs.replace(session.shot.plates[0], end=66), session.shot.plates[1])
        session.edit("", msgspec.structs.replace(session.shot, plates=plates))
        for first in ("a", "b"):
            session.select(plate=f"plates/{first}")
            assert laying.new_crossing(session)
        found = [plate for plate in session.shot.plates if plate.kind == CROSSING]
        assert sorted((plate.values["before"], plate.values["after"]) for plate in found) == [("a", "b"), ("b", "c")]
        for frame in range(0, 72, 5):
            assert seen(session.shot, frame)[1] == []

    def test_nothing_selected_is_said(self):
        session = Session()
        said: list[str] = []
        session.message.connect(said.append)
        assert laying.new_crossing(session) == ""
        assert len(said) == 1


class TestAfterwards:
    def test_its_length_and_strongest_moment(self):
        session = bench()
        path = laying.new_crossing(session)
        session.set_frame(26)
        laying.strongest_here(session)
        assert session.shown(f"{path}/strength") == pytest.approx(1.0)
        session.set_frame(32)
        assert 0 < session.shown(f"{path}/strength") < 1

    def test_a_plate_that_is_gone_is_no_harm(self):
        session = bench()
        laying.new_crossing(session)
        items.remove_item(session, "plates/b")
        for frame in (10, 20, 30, 44):
            assert np.isfinite(seen(session.shot, frame)[0]).all()

    def test_removing_it_leaves_the_plates_as_they_were(self):
        session = bench()
        before = session.shot
        ring = next(starter for starter in SHIPPED if starter.name == "cross-into-clouds")
        starters.put_on(session, ring)
        assert any(effect for plate in session.shot.plates if plate.kind == "clip" for effect in plate.effects)
        items.remove_item(session, session.selection.plate)
        assert [plate.effects for plate in session.shot.plates] == [(), ()]
        for frame in (10, 30, 50):
            np.testing.assert_array_equal(seen(session.shot, frame)[0], seen(before, frame)[0])


def test_the_same_crossing_at_every_cut():
    session = bench()
    reel = (
        clip("d", "rain", 58),
        clip("c", "lanterns", 38, 62),
        clip("b", "stall", 18, 42),
        clip("a", "wall", None, 22),
    )
    session.edit("", msgspec.structs.replace(session.shot, plates=reel))
    session.select(plate="plates/a")
    clouds = next(starter for starter in SHIPPED if starter.name == "cross-into-clouds")
    assert starters.put_on(session, clouds)
    assert repeated.at_every_cut(session) == 2
    shot = session.shot
    found = [plate for plate in shot.plates if plate.kind == CROSSING]
    pairs = sorted((str(plate.values["before"]), str(plate.values["after"])) for plate in found)
    assert pairs == [("a", "b"), ("b", "c"), ("c", "d")]
    assert [len(plate.effects) for plate in shot.plates if plate.kind == "clip"] == [2, 4, 4, 2]
    for frame in range(0, 72, 6):
        assert seen(shot, frame)[1] == []
    assert repeated.at_every_cut(session) == 0
    session.undo()
    assert len([plate for plate in session.shot.plates if plate.kind == CROSSING]) == 1


def test_a_plate_alone_arrives_and_then_leaves():
    """By the half of its bar that the playhead is in; the second time it does the other."""
    session = Session()
    session.take(Shot(width=160, height=90, length=60, plates=(Plate(id="t", kind="text", start=10),)))
    found = []
    for frame in (12, 12, 50):
        session.set_frame(frame)
        session.select(plate="plates/t")
        path = laying.new_crossing(session)
        made = session.shot.plate(id_of(path))
        assert made is not None
        found.append((made.values["before"], made.values["after"], made.start, made.end))
        if len(found) == 2:
            session.undo()
            session.undo()
    assert found[0][:3] == ("", "t", 10)
    assert (found[1][:2], found[1][3]) == (("t", ""), 60)
    assert found[2][:2] == ("t", "")


def test_with_a_crossing_selected_the_next_one_goes_on_from_there():
    """A title arrives, then leaves, with nothing selected in between; in a reel the next cut is crossed."""
    session = Session()
    session.take(Shot(width=160, height=90, length=60, plates=(Plate(id="t", kind="text", start=10),)))
    session.select(plate="plates/t")
    for _ in range(2):
        assert laying.new_crossing(session)
    sides = [(p.values["before"], p.values["after"]) for p in session.shot.plates if p.kind == CROSSING]
    assert sorted(sides) == [("", "t"), ("t", "")]
    session.take(msgspec.structs.replace(session.shot, plates=(clip("b", "stall", 20, 40), clip("a", "wall", 0, 20))))
    session.edit("", msgspec.structs.replace(session.shot, plates=(clip("c", "rain", 40, 60), *session.shot.plates)))
    session.select(plate="plates/a")
    for pair in (("a", "b"), ("b", "c")):
        assert meetings.sides(session) == pair
        assert laying.new_crossing(session)


def test_its_strongest_moment_is_its_dials():
    session = bench()
    session.select(plate="plates/a")
    starter = read_shot(crossing_path("light-bar"))
    path = laying.lay_crossing(session, starter, starter.name)
    (dial,) = [node for node in session.shot.front if node.name == "Strongest"]
    start, end = span_of(session.shot.plate(id_of(path)))
    session.edit("", with_strongest(session.shot, path, start + (end - start) / 4))
    assert session.raw(f"{path}/strongest") == 0.25
    assert session.raw(f"front/{dial.id}/value") == 0.25
    assert all(not left(session.shot, node) for node in session.shot.front)
