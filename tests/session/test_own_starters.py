"""Starters of one's own: kept, named, removed and brought back; a damaged one is shown as such."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
import pytest

from nimble_quake.errors import SaveFailed
from nimble_quake.operators.registry import registry
from nimble_quake.samples import FOLDER
from nimble_quake.session.starting import own, starters, versions
from nimble_quake.session.starting.moving_pictures import COLUMNS, FRAMES, HEIGHT, WIDTH
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import front
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.refit import Change, refitted

STALL = FOLDER / "media" / "stall.mp4"
CLIP = Plate(id="c", kind="clip", values={"file": str(STALL)})
SHOT = Shot(name="Stall", width=1080, height=1350, length=48, plates=(CLIP,))


def test_it_is_kept_under_a_free_name_and_found_again():
    files = [own.keep(SHOT, "Night stall"), own.keep(SHOT, "Night stall")]
    assert [file.name for file in files] == ["night-stall.nquake-starter", "night-stall-2.nquake-starter"]
    found = own.own_starters()
    assert [starter.title for starter in found] == ["Night stall", "Night stall"]
    assert found[0].sort == starters.OWN
    (plate,) = found[0].shot.plates
    file = Path(plate.values["file"])
    assert (file.name, file.read_bytes()) == ("stall.mp4", STALL.read_bytes()), "its media came along"


def test_its_moving_picture_lies_beside_it():
    """As large as the others, an upright shot with bars at its sides."""
    file = own.keep(SHOT, "Upright")
    own.draw_picture(file)
    starter = own.own_starters()[0]
    sheet = cv2.imread(str(starter.picture))
    assert sheet is not None
    assert sheet.shape == (HEIGHT * FRAMES // COLUMNS, WIDTH * COLUMNS, 3)
    assert sheet[HEIGHT // 2, 3].max() < 40
    assert sheet[HEIGHT // 2, WIDTH // 2 - 30 : WIDTH // 2 + 30].max() > 60


def test_it_is_renamed_removed_and_brought_back():
    own.keep(SHOT, "One")
    own.rename(own.own_starters()[0], "Two")
    starter = own.own_starters()[0]
    assert starter.title == "Two"
    own.remove(starter)
    assert own.own_starters() == ()
    own.bring_back(starter)
    assert own.own_starters() == (starter,)
    own.remove(starter)
    own.forget_removed()
    own.bring_back(starter)
    assert own.own_starters() == ()
    assert list(own.own_folder().iterdir()) == []


def test_a_damaged_one_is_shown_as_such():
    file = own.keep(SHOT, "Broken")
    file.write_text("{")
    (starter,) = own.own_starters()
    assert starter.damaged
    assert "cannot be read" in starter.note


def test_it_goes_on_another_picture_as_those_that_are_shipped():
    ripple = next(each for each in starters.shipped() if each.name == "text-ripple")
    own.keep(ripple.shot, "My ripple")
    session = Session()
    session.take(Shot(plates=(Plate(id="mine", kind="text"),)))
    session.select(plate="plates/mine")
    assert starters.put_on(session, own.own_starters()[0])
    plate = session.shot.plate("mine")
    assert plate is not None
    assert [effect.kind for effect in plate.effects] == ["push"]


def test_where_it_cannot_be_kept_it_is_one_line(tmp_path, monkeypatch):
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("NIMBLE_QUAKE_HOME", str(tmp_path / "file"))
    assert own.own_starters() == ()
    with pytest.raises(SaveFailed):
        own.keep(SHOT, "Nowhere")


class TestVersions:
    """What was made with an older version stays, until the newer one is taken; then its dials and slots stay."""

    def _kept(self) -> starters.Starter:
        wave = next(each for each in starters.shipped() if each.name == "shockwave")
        own.keep(wave.shot, "My wave")
        return own.own_starters()[0]

    def _improved(self, starter: starters.Starter) -> None:
        """The same with a brighter glow."""
        better = set_value(starter.shot, "plates/ring/effects/glow/power", 2.5)
        own.update(starter, better)

    def _bench(self, starter: starters.Starter) -> Session:
        session = Session()
        session.take(Shot(width=640, height=360, length=72, plates=(Plate(id="mine", kind="fill"),)))
        assert starters.put_in(session, starter)
        return session

    def _value(self, session: Session, name: str) -> object:
        node = next(node for node in session.shot.front if node.name == name)
        return session.shown(f"front/{node.id}/value")

    def test_a_group_takes_the_newer_one_with_its_dials_and_slots(self, tmp_path):
        session = self._bench(self._kept())
        assert versions.newer(session) is None
        for name, value in (("Reach", 20.0), ("Words", "MINE")):
            node = next(node for node in session.shot.front if node.name == name)
            session.set(f"front/{node.id}/value", value)
        cv2.imwrite(str(tmp_path / "wall.png"), np.full((90, 160, 3), 90, np.uint8))
        clip = next(node for node in session.shot.front if node.name == "Clip")
        assert front.fill(session, f"front/{clip.id}", str(tmp_path / "wall.png"))
        before = session.shot
        self._improved(own.own_starters()[0])
        assert session.shot is before
        found = versions.newer(session)
        assert found is not None
        assert (found.made_with, found.version) == (1, 2)
        assert versions.take(session, found)
        assert (self._value(session, "Reach"), self._value(session, "Words")) == (20.0, "MINE")
        shot = session.shot
        ring = next(plate for plate in shot.plates if plate.name == "Ring")
        assert ring.effects[0].values["power"] == 2.5
        title = next(plate for plate in shot.plates if plate.kind == "text")
        assert (title.values["words"], title.effects[0].values["reach_x"]) == ("MINE", 20.0)
        assert [plate.values["file"] for plate in shot.plates if plate.kind == "still"] == [str(tmp_path / "wall.png")]
        assert (len(shot.plates), len(shot.maps)) == (len(before.plates), len(before.maps))
        assert versions.newer(session) is None
        session.undo()
        assert session.shot == before

    def test_it_stays_where_it_is_told_to(self):
        session = self._bench(self._kept())
        self._improved(own.own_starters()[0])
        found = versions.newer(session)
        assert found is not None
        versions.stay(session, found)
        assert versions.newer(session) is None
        self._improved(own.own_starters()[0])  # version 3 is another matter
        assert versions.newer(session) is not None

    def test_a_whole_shot_takes_it_in_its_own_size(self):
        starter = self._kept()
        session = Session()
        change = Change(320, 180, starter.shot.rate, 36)
        session.take(starters.with_origin(refitted(starter.shot, change, registry().get), starter, ""))
        node = next(node for node in session.shot.front if node.name == "Words")
        session.set(f"front/{node.id}/value", "MINE")
        self._improved(own.own_starters()[0])
        found = versions.newer(session)
        assert found is not None
        assert versions.take(session, found)
        assert (session.shot.width, session.shot.length) == (320, 36)
        assert session.shot.plate("title").values["words"] == "MINE"
        assert session.shot.plate("ring").effects[0].values["power"] == 2.5

    def test_a_starter_that_is_gone_is_no_harm(self):
        session = self._bench(self._kept())
        own.remove(own.own_starters()[0])
        assert versions.newer(session) is None
