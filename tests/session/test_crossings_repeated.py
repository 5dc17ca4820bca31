"""The same crossing at every beat: where it is laid, what is cut, and that nothing else changes."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest

from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.samples import FOLDER
from nimble_quake.session.crossings import laying, meetings, repeated
from nimble_quake.session.starting.starters import shipped
from nimble_quake.session.state import Session
from nimble_quake.shot.crossings import CROSSING, span_of, strongest
from nimble_quake.shot.edits.settings import put_marker, set_shot
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import plate_path
from nimble_quake.shotfile.files import read_shot, write_shot

RING = next(starter for starter in shipped() if starter.name == "cross-ring-burst-cut")


def clip(id: str, file: str, start: int | None, end: int | None, **values: object) -> Plate:
    held = {"file": str(FOLDER / "media" / f"{file}.mp4"), "fit": "cover", "beyond": "hold", **values}
    return Plate(id=id, kind="clip", name=id, start=start, end=end, values=held)


@pytest.fixture
def session() -> Session:
    """Two clips that cross from 40 to 52, over a third that is there throughout; beats every twenty frames."""
    session = Session()
    plates = (clip("b", "stall", 40, 100), clip("a", "wall", 0, 52), clip("under", "rain", None, None))
    shot = Shot(width=160, height=90, rate=Fraction(24), length=110, plates=plates, ground=(0, 0, 0, 0))
    session.take(set_shot(shot, beats=tuple(float(frame) for frame in range(4, 110, 20))))
    session.select(plate="plates/a")
    assert laying.lay_crossing(session, RING.shot, RING.title, ("a", "b"))
    return session


def crossings(session: Session) -> list[Plate]:
    found = [plate for plate in session.shot.plates if plate.kind == CROSSING]
    return sorted(found, key=lambda plate: plate.start or 0)


def picture(session: Session, frame: int) -> np.ndarray:
    return frame_picture(frame_job(session.engine, session.shot, frame)).copy()


def test_it_is_strongest_on_each_beat_inside_a_bar(session, tmp_path):
    said: list[str] = []
    session.message.connect(said.append)
    before = session.shot
    assert repeated.at_every_beat(session) == 3  # not 4, at the start; not 44, in the crossing; not 104, behind the end
    peaks = [strongest(session.shot, plate_path(each.id)) for each in crossings(session)]
    assert [peak for peak in peaks if peak not in (46,)] == [24, 64, 84]
    assert said == ["Ring burst at 3 of 6 beats, 3 lie in a crossing or beside the end of a bar"]
    spans = [span_of(each) for each in crossings(session)]
    assert all(one[1] <= two[0] for one, two in zip(spans, spans[1:], strict=False))
    assert session.shot.plate("under") == before.plate("under")
    write_shot(session.shot, tmp_path / "a.nquake")
    assert read_shot(tmp_path / "a.nquake") == session.shot
    session.undo()
    assert session.shot == before


def test_outside_the_crossings_each_frame_is_as_it_was(session):
    """Cut clips go on where they were; a still part's frames are the same bits."""
    before = {frame: picture(session, frame) for frame in range(0, 110, 3)}
    repeated.at_every_beat(session)
    spans = [span_of(each) for each in crossings(session)]
    outside = [frame for frame in before if not any(start <= frame < end for start, end in spans)]
    assert len(outside) > 8
    for frame in outside:
        np.testing.assert_array_equal(picture(session, frame), before[frame])
    assert any((picture(session, frame) != before[frame]).any() for frame in before if frame not in outside)


def test_without_beats_markers_count_and_without_either_it_is_said(session):
    said: list[str] = []
    session.message.connect(said.append)
    session.edit("", set_shot(session.shot, beats=()))
    before = session.shot
    assert repeated.at_every_beat(session) == 0
    assert session.shot is before
    session.edit("", put_marker(session.shot, 70, "here"))
    assert repeated.at_every_beat(session) == 1
    assert strongest(session.shot, plate_path(crossings(session)[-1].id)) == 70
    session.select(plate="plates/a")
    assert repeated.at_every_beat(session) == 0
    assert said[0].startswith("There are no beats yet")
    assert said[-1] == "Select a crossing first"


class TestNearest:
    """Which plates are meant by a place in time."""

    def test_the_cut_that_is_nearest_or_an_end(self, session):
        shot = session.shot
        found = {frame: meetings.nearest(shot, frame, "b") for frame in (45, 99)}
        assert found == {45: ("a", "b"), 99: ("b", "")}
        assert meetings.nearest(shot, 2, "a") == ("", "a")
        assert meetings.nearest(shot, 60, crossings(session)[0].id) == ("a", "b")
        assert meetings.nearest(Shot(), 10) == ("", "")

    def test_what_lies_there_gives_way_with_all_that_only_it_read(self, session):
        first = session.shot
        assert first.maps
        other = next(starter for starter in shipped() if starter.name == "cross-through-black")
        assert laying.lay_crossing(session, other.shot, other.title, ("a", "b"))
        assert [each.name for each in crossings(session)] == [other.title]
        assert {map.id for map in session.shot.maps} == {map.id for map in other.shot.maps}
        assert not any(plate.effects for plate in session.shot.plates if plate.kind == "clip")
        laid = session.shot
        session.undo()
        assert session.shot == first
        session.redo()
        assert session.shot == laid
