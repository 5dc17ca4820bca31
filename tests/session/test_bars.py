"""Bars cut at the playhead: what is seen stays what it was, frame by frame."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import msgspec
import numpy as np
import pytest

from helpers import write_clip
from nimble_quake.media.clips import Announced, announced
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import render_frame
from nimble_quake.samples import FOLDER
from nimble_quake.session.crossings import laying
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import bars
from nimble_quake.shot.model import Plate, Shot

CLIP = {"file": str(FOLDER / "media" / "stall.mp4"), "fit": "cover"}
FASTER = Keys((Key(frame=0.0, value=0.5), Key(frame=40.0, value=2.0)))


def bench(**values: object) -> Session:
    session = Session()
    plate = Plate(id="a", kind="clip", name="A", start=4, values={**CLIP, **values})
    session.take(Shot(width=160, height=90, rate=Fraction(24), length=48, plates=(plate,)))
    session.select(plate="plates/a")
    return session


@pytest.mark.parametrize(
    "values", [{}, {"trim": 0.5}, {"speed": 1.5}, {"speed": FASTER}, {"speed": 0.5, "between": "blend"}]
)
def test_what_is_seen_stays(values):
    session = bench(**values)
    before = session.shot
    session.set_frame(20)
    second = bars.cut_here(session, "plates/a")
    assert [(plate.start, plate.end) for plate in session.shot.plates] == [(20, None), (4, 20)]
    assert session.selection.plate == second
    for frame in (3, 4, 19, 20, 21, 40):
        now, then = (render_frame(Engine(), shot, frame, 0.5) for shot in (session.shot, before))
        np.testing.assert_allclose(now, then, atol=1 / 255)
    session.undo()
    assert session.shot == before


def test_a_crossing_at_its_end_belongs_to_the_later_part():
    session = bench()
    other = Plate(id="b", kind="fill", start=36, values={"colour": (1.0, 0.0, 0.0, 1.0)})
    first = msgspec.structs.replace(session.shot.plates[0], end=44)
    session.edit("", msgspec.structs.replace(session.shot, plates=(other, first)))
    session.select(plate="plates/a")
    path = laying.new_crossing(session)
    before = session.shot
    session.set_frame(20)
    second = bars.cut_here(session, "plates/a")
    crossing = session.shot.plate(path.rpartition("/")[2])
    assert crossing is not None
    assert crossing.values["before"] == second.rpartition("/")[2]
    for frame in (10, 30, 40, 46):
        now, then = (render_frame(Engine(), shot, frame, 0.5) for shot in (session.shot, before))
        np.testing.assert_allclose(now, then, atol=1 / 255)


@pytest.mark.parametrize("frame", [0, 4, 47])
def test_outside_its_bar_nothing_is_cut(frame):
    session = bench()
    session.edit(
        "", msgspec.structs.replace(session.shot, plates=(msgspec.structs.replace(session.shot.plates[0], end=40),))
    )
    said: list[str] = []
    session.message.connect(said.append)
    session.set_frame(frame)
    before = session.shot
    assert bars.cut_here(session, "plates/a") == ""
    assert session.shot is before
    assert len(said) == 1


def test_clips_lie_one_after_the_other(tmp_path):
    """Their lengths are those the numbered clips were written with; a file that is none adds no time."""
    grey, rate = np.zeros((32, 32, 4), np.uint8), Fraction(24)
    files = [
        write_clip(tmp_path / name, [grey] * count, rate, "libx264", "yuv420p")
        for name, count in (("five.mp4", 5), ("nine.mkv", 9))
    ]
    session = Session()
    session.take(Shot(width=160, height=90, rate=Fraction(24), length=12))
    session.set_frame(2)
    before = session.shot
    bars.in_a_row(session, files)
    assert sorted((plate.start, plate.end) for plate in session.shot.plates) == [(2, 7), (7, 16)]
    assert session.shot.length == 16
    assert announced(Path(__file__)) == announced(tmp_path / "none.mp4") == Announced()
    session.undo()
    assert session.shot == before


def test_a_gap_is_closed_and_a_crossing_goes_along():
    session = Session()
    spans = {"a": (0, 10), "b": (16, 30), "c": (26, 40)}
    plates = tuple(Plate(id=id, kind="fill", start=start, end=end) for id, (start, end) in reversed(spans.items()))
    session.take(Shot(width=160, height=90, rate=Fraction(24), length=48, plates=plates))
    session.select(plate="plates/b")
    path = laying.new_crossing(session)
    bars.close_gap(session, "plates/b")
    now = {plate.id: (plate.start, plate.end) for plate in session.shot.plates}
    assert now == {"a": (0, 10), "b": (10, 24), "c": (20, 34), path.rpartition("/")[2]: (20, 24)}
    said: list[str] = []
    session.message.connect(said.append)
    before = session.shot
    bars.close_gap(session, "plates/b")
    bars.close_gap(session, path)
    assert session.shot is before
    assert len(said) == 2
