"""Font files that are taken in: kept among one's own, set at once, and carried along when a shot is collected."""

from __future__ import annotations

import pytest

from helpers import rendered
from media.test_faces import font
from nimble_quake.errors import BadInput
from nimble_quake.media.drawing import faces
from nimble_quake.session.state import Session
from nimble_quake.session.storage.fonts import fonts_for, own_fonts, take_font
from nimble_quake.session.verbs.items import new_plate
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.collected import collect, collection


@pytest.fixture(autouse=True)
def only_these_fonts():
    yield
    for folder in faces.folders():
        faces.forget_folder(folder)


@pytest.fixture
def session() -> Session:
    session = Session()
    session.take(Shot(width=320, height=180, length=10))
    return session


def test_a_font_is_kept_and_the_selected_text_is_set_in_it_in_one_step(session, tmp_path):
    said: list[str] = []
    session.message.connect(said.append)
    path = new_plate(session, "text", words="A", size=100.0)
    before = len(session.history.past)
    take_font(session, font(tmp_path / "Stall.ttf", "Stall Sans", wide=900))
    assert (own_fonts() / "Stall.ttf").is_file()
    assert session.shown(f"{path}/face") == "Stall Sans"
    assert len(session.history.past) == before + 1
    assert said[-1] == "Stall Sans is among your fonts"
    wide = rendered(session.shot)[..., 0].sum()
    session.undo()
    assert rendered(session.shot)[..., 0].sum() < wide


def test_without_a_text_it_is_only_kept(session, tmp_path):
    said: list[str] = []
    session.message.connect(said.append)
    new_plate(session, "fill")
    before = session.shot
    take_font(session, font(tmp_path / "Stall.ttf", "Stall Sans"))
    assert session.shot is before
    assert "Stall Sans" in faces.faces()
    assert "choose it as its face" in said[-1]


@pytest.mark.parametrize("data", [b"", b"no font at all", b"\x00\x01\x00\x00" + b"\xff" * 400])
def test_what_is_no_font_is_refused_and_nothing_is_kept(session, tmp_path, data):
    file = tmp_path / "x.ttf"
    file.write_bytes(data)
    with pytest.raises(BadInput, match="no font that can be read"):
        take_font(session, file)
    assert not own_fonts().exists()


def test_a_font_that_changes_is_drawn_anew(session, tmp_path):
    """The engine that drew the text with the font before does not show what it made then."""
    new_plate(session, "text", words="A", size=100.0, face="Stall Sans")
    take_font(session, font(tmp_path / "Stall.ttf", "Stall Sans", wide=300))
    thin = rendered(session.shot, engine=session.engine)[..., 0].sum()
    take_font(session, font(tmp_path / "Stall.ttf", "Stall Sans", wide=900))
    assert rendered(session.shot, engine=session.engine)[..., 0].sum() > 2.5 * thin


def test_collected_fonts_lie_beside_the_shot_and_are_found_there(session, tmp_path):
    new_plate(session, "text", words="A", size=100.0)
    take_font(session, font(tmp_path / "Stall.ttf", "Stall Sans", wide=900))
    wide = rendered(session.shot)
    to = collect(collection(session.to_keep(), "sign"), tmp_path / "handed-on")
    assert (to / "fonts" / "Stall.ttf").is_file()
    assert "Stall Sans" not in (to / "contents.txt").read_text()
    faces.forget_folder(own_fonts())
    (own_fonts() / "Stall.ttf").unlink()
    assert "Stall Sans" not in faces.faces()
    assert (rendered(session.shot) != wide).any(), "another face stands in"
    faces.look_in(*fonts_for(to / "sign.nquake"))
    assert (rendered(session.shot) == wide).all()
