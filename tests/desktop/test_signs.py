"""The signs over the map, and that one click mends what each of them says."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from helpers import write_png
from nimble_quake.desktop.bays.signs import Sign, rest_of, signs
from nimble_quake.render.shown.bench import BenchRequest, BenchResponse, answer
from nimble_quake.session.state import Session
from nimble_quake.shot.model import Map, Node, Plate, Shot

STEP, QUAKE = "maps/m/steps/s", "plates/p/effects/q"


def a_session(step: Node, plate: Plate | None = None, **push: object) -> Session:
    """A shot with one map of one step that pushes one plate."""
    quake = Node(id="q", kind="push", values={"map": "m", "reach_x": 40.0, "reach_y": 0.0, **push})
    plate = plate or Plate(id="p", kind="fill")
    made = Plate(id="p", kind=plate.kind, values=plate.values, effects=(quake,))
    session = Session()
    session.take(Shot(width=320, height=180, maps=(Map(id="m", name="M", recipe=(step,)),), plates=(made,)))
    session.select(map="maps/m", step=STEP, plate="plates/p", quake=QUAKE)
    return session


def look(session: Session) -> tuple[list[Sign], BenchResponse]:
    request = BenchRequest(session.shot, 0, 1.0, 1.0, map_id="m", plate_id="p", quake_path=QUAKE)
    response = answer(session.engine, request)
    return signs(session, response), response


def texts(session: Session) -> list[str]:
    return [sign.text for sign in look(session)[0]]


@pytest.mark.parametrize(("value", "way"), [(0.6, "8 px left"), (0.4, "8 px right")])
def test_a_map_that_slides_the_picture_is_centred(app, value, way):
    """2 x reach x (mean - rest): 40 px and a tenth above rest are 8 px; the picture goes against the look."""
    session = a_session(Node(id="s", kind="flat", values={"at_rest": False, "value": value}))
    found, _ = look(session)
    assert found[0].text == f"Mean {value:.2f}, rest 0.50: picture slides {way}"
    found[0].mend()
    assert texts(session) == []
    assert session.shown(f"{QUAKE}/rest") == pytest.approx(value)
    session.undo()
    assert texts(session) != []


def test_no_sign_where_nothing_slides(app):
    """At rest, without reach, at no strength, and when another map is read."""
    flat = Node(id="s", kind="flat", values={"at_rest": False, "value": 0.6})
    assert texts(a_session(Node(id="s", kind="flat"))) == []
    assert texts(a_session(flat, reach_x=0.0)) == []
    assert texts(a_session(flat, strength=0.0)) == []
    assert texts(a_session(flat, map="")) == []
    assert texts(a_session(flat, rest_by="one")) == [], "one side is meant"


@pytest.mark.parametrize(("by", "rest"), [("auto", 0.5), ("two", 0.5), ("one", 0.0), ("picked", 0.3)])
def test_the_rest_level_of_the_selected_quake(app, by, rest):
    session = a_session(Node(id="s", kind="flat"), rest_by=by, rest=0.3)
    assert rest_of(session, look(session)[1]) == pytest.approx(rest)


def test_clipped_values_are_eased_where_they_were_made_hard(app):
    session = a_session(Node(id="s", kind="noise", values={"contrast": 6.0}))
    found = [sign for sign in look(session)[0] if "black or white" in sign.text]
    assert found
    before = look(session)[1].clipped
    found[0].mend()
    assert session.shown(f"{STEP}/contrast") == pytest.approx(4.2)
    assert look(session)[1].clipped < before


def test_a_picture_of_another_shape_is_stretched_by_one_click(app, tmp_path: Path):
    file = write_png(tmp_path / "tall.png", np.full((200, 100, 4), 128, np.uint8))
    session = a_session(Node(id="s", kind="picture", values={"file": str(file)}))
    found = [sign for sign in look(session)[0] if "laid by" in sign.text]
    assert [sign.text.split(",")[0] for sign in found] == ["Map is 100 × 200"]
    found[0].mend()
    assert session.shown(f"{STEP}/fit") == "stretch"
    assert not [text for text in texts(session) if "laid by" in text]


def test_empty_edges_of_a_picture_are_mirrored(app, tmp_path: Path):
    file = write_png(tmp_path / "still.png", np.full((180, 320, 4), 200, np.uint8))
    still = Plate(id="p", kind="still", values={"file": str(file), "fit": "cover"})
    session = a_session(Node(id="s", kind="noise"), still)
    found = [sign for sign in look(session)[0] if "edges" in sign.text]
    found[0].mend()
    assert session.shown(f"{QUAKE}/edge") == "mirror"
    assert not [text for text in texts(session) if "edges" in text]
