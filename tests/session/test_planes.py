"""Plates that lie on one plane."""

from __future__ import annotations

import pytest

from nimble_quake.session.state import Session
from nimble_quake.session.verbs import grouping
from nimble_quake.shot.model import Node, Plate, Shot
from nimble_quake.shot.paths import find
from nimble_quake.shotfile.files import read_shot, write_shot


@pytest.fixture
def session() -> Session:
    made = Session()
    title = Plate(id="title", kind="text", effects=(Node(id="glow", kind="glow"), Node(id="push", kind="push")))
    made.take(
        Shot(width=640, height=360, plates=(title, Plate(id="sign", kind="shape"), Plate(id="night", kind="fill")))
    )
    made.select(plate="plates/title")
    return made


def kinds(session: Session, plate: str) -> list[str]:
    found = find(session.shot, f"plates/{plate}")
    assert isinstance(found, Plate)
    return [effect.kind for effect in found.effects]


def test_it_stands_before_the_couplings_and_is_selected(session):
    plane = grouping.lay_on_plane(session, "plates/title")
    assert kinds(session, "title") == ["glow", "perspective", "push"]
    assert session.selection.finish == plane
    assert session.shown(f"{plane}/top_left") == (640 * 0.3, 360 * 0.52)
    session.undo()
    assert kinds(session, "title") == ["glow", "push"]


def test_several_share_it_and_one_more_comes_to_it_later(session, tmp_path):
    session.select(plate="plates/title")
    session.mark(frozenset({"plates/title", "plates/sign"}))
    plane = grouping.lay_on_plane(session, "plates/title")
    session.set(f"{plane}/top_left", (10.0, 20.0))
    assert session.shown("plates/sign/effects/plane/top_left") == (10.0, 20.0)
    session.select(plate="plates/night")
    session.mark(frozenset({"plates/night", "plates/sign"}))
    assert grouping.lay_on_plane(session, "plates/night") == plane
    assert session.shown("plates/night/effects/plane/top_left") == (10.0, 20.0)
    assert kinds(session, "sign") == ["perspective"], "it lies there already"
    write_shot(session.shot, tmp_path / "a.nquake")
    assert read_shot(tmp_path / "a.nquake").plates == session.shot.plates


def test_without_a_plate_it_is_said(session):
    told: list[str] = []
    session.message.connect(told.append)
    assert grouping.lay_on_plane(session, "") == ""
    assert "Choose" in told[-1]
