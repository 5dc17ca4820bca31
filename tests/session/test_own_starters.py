"""Starters of one's own: kept, named, removed and brought back; a damaged one is shown as such."""

from __future__ import annotations

from pathlib import Path

import cv2
import pytest

from nimble_quake.errors import SaveFailed
from nimble_quake.samples import FOLDER
from nimble_quake.session.starting import own, starters
from nimble_quake.session.starting.moving_pictures import COLUMNS, FRAMES, HEIGHT, WIDTH
from nimble_quake.session.state import Session
from nimble_quake.shot.model import Plate, Shot

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
