"""Dials and slots: turned, filled, left by hand, carried, resized; and that a front changes no picture by itself."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import cv2
import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import nimble_quake as nq
from nimble_quake.errors import BadInput, ShotError
from nimble_quake.motion.kinds import Key, Keys, pins_of
from nimble_quake.motion.kinds.keys import keyed_value
from nimble_quake.operators.front.bringing import with_front
from nimble_quake.operators.front.turning import follows, left
from nimble_quake.operators.registry import registry
from nimble_quake.params.drives import Drive
from nimble_quake.params.kinds import Param
from nimble_quake.samples import sample_path, samples
from nimble_quake.session.fronts.filling import filled, named, shown_as
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import front, items
from nimble_quake.session.verbs.carry import lay, taken
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import find
from nimble_quake.shot.refit import Change, refitted
from nimble_quake.shotfile.codec import decoded, encoded
from nimble_quake.shotfile.files import read_shot

REACH, PLACE, SIZE = "plates/title/effects/push/reach_x", "plates/title/position", "plates/title/size"
KINDS = registry().get


def bench() -> Session:
    """A title pushed by noise."""
    push = Node(id="push", kind="push", values={"map": "noise", "reach_x": 40.0})
    title = Plate(id="title", kind="text", name="Title", values={"words": "OPEN", "size": 120.0}, effects=(push,))
    session = Session()
    session.take(Shot(width=640, height=360, length=48, rate=Fraction(24), plates=(title,), maps=(NOISE,)))
    return session


NOISE = Map(id="noise", name="Noise", recipe=(Node(id="noise", kind="noise"),))


def value(session: Session, path: str) -> object:
    return session.raw(path)


class TestTurning:
    def test_a_value_goes_along_with_its_dial(self) -> None:
        session = bench()
        dial = front.bring(session, REACH, "Wildness")
        assert find(session.shot, dial).kind == "pixels"  # type: ignore[union-attr]
        session.set(f"{dial}/value", 90.0)
        assert value(session, REACH) == 90.0
        session.undo()
        assert value(session, REACH) == 40.0

    def test_several_values_keep_their_proportion(self) -> None:
        """Closed form: value = own x dial / standard."""
        session = bench()
        dial = front.bring(session, REACH)
        session.set("plates/title/effects/push/reach_y", 10.0)
        front.put_behind(session, dial, "plates/title/effects/push/reach_y")
        for now in (80.0, 0.0, 20.0):
            session.set(f"{dial}/value", now)
            assert value(session, REACH) == now
            assert value(session, "plates/title/effects/push/reach_y") == pytest.approx(10.0 * now / 40.0)

    def test_pins_behind_a_dial_are_scaled_and_come_back(self) -> None:
        session = bench()
        keys = Keys((Key(frame=0.0, value=0.0), Key(frame=10.0, value=60.0), Key(frame=20.0, value=0.0)))
        session.edit("", set_field(session.shot, "plates/title/effects/push", values={"map": "noise", "reach_x": keys}))
        dial = front.bring(session, REACH)
        assert session.shown(f"{dial}/value") == 60.0  # the pin farthest from nothing
        for now in (30.0, 0.0, 120.0):  # through nothing and back: the pins are not lost
            session.set(f"{dial}/value", now)
            assert [key.value for key in pins_of(value(session, REACH))] == pytest.approx([0.0, now, 0.0])
        session.set(f"{dial}/value", 60.0)
        assert value(session, REACH) == keys

    def test_a_pinned_dial_moves_what_stands_behind_it(self) -> None:
        session = bench()
        dial = front.bring(session, REACH)
        session.start_moving(f"{dial}/value")
        session.set_frame(24)
        session.set(f"{dial}/value", 100.0)
        assert [(key.frame, key.value) for key in pins_of(value(session, REACH))] == [(0.0, 40.0), (24.0, 100.0)]
        for frame in (0, 7, 24, 40):
            session.set_frame(frame)
            assert session.shown(REACH) == pytest.approx(session.shown(f"{dial}/value"))

    def test_a_pinned_dial_scales_pins_behind_it(self) -> None:
        """Closed form: value = own x dial / standard, at every frame."""
        session = bench()
        keys = Keys((Key(frame=0.0, value=0.0), Key(frame=40.0, value=60.0)))
        session.edit("", set_field(session.shot, "plates/title/effects/push", values={"map": "noise", "reach_x": keys}))
        dial = front.bring(session, REACH)
        session.start_moving(f"{dial}/value")
        session.set_frame(40)
        session.set(f"{dial}/value", 120.0)
        assert decoded(encoded(session.shot)) == session.shot
        for frame in (0, 10, 25, 40, 47):
            session.set_frame(frame)
            own = keyed_value(keys, frame)
            assert session.shown(REACH) == pytest.approx(own * session.shown(f"{dial}/value") / 60.0)
        assert len(pins_of(session.raw(REACH))) == 2  # its own pins are there to be edited

    @given(st.floats(-50, 150), st.floats(-1000, 1000), st.floats(-1000, 1000))
    def test_ends_and_a_course_in_closed_form(self, now: float, low: float, high: float) -> None:
        kind = registry().get("front", "pixels")
        assert kind is not None
        values = {"value": now, "low": 0.0, "high": 100.0}
        straight = kind.behind(values, Drive("x", (low, high)), None)  # type: ignore[attr-defined]
        assert straight == pytest.approx(low + (high - low) * now / 100)
        bent = kind.behind(values, Drive("x", (low, high), ((0, 0), (0.5, 0.2), (1, 1))), None)  # type: ignore[attr-defined]
        part = min(max(now / 100, 0), 1)
        wanted = part * 0.4 if part <= 0.5 else 0.2 + (part - 0.5) * 1.6
        assert bent == pytest.approx(low + (high - low) * wanted, abs=1e-6)

    def test_places_go_along_by_as_much(self) -> None:
        session = bench()
        session.set(PLACE, (100.0, 50.0))
        dial = front.bring(session, PLACE)
        items.new_plate(session, "shape", position=(200.0, 80.0))
        front.put_behind(session, dial, f"{session.selection.plate}/position")
        session.set(f"{dial}/value", (130.0, 40.0))
        assert value(session, PLACE) == (130.0, 40.0)
        assert value(session, f"{session.selection.plate}/position") == (230.0, 70.0)

    def test_a_switch_puts_an_effect_on_and_off(self) -> None:
        session = bench()
        dial = front.bring(session, "plates/title/effects/push/on", "Shake")
        session.set(f"{dial}/value", False)
        assert not find(session.shot, "plates/title/effects/push").on  # type: ignore[union-attr]
        session.set(f"{dial}/value", True)
        assert find(session.shot, "plates/title/effects/push").on  # type: ignore[union-attr]

    def test_a_moment_carries_the_pins_behind_it(self) -> None:
        session = bench()
        keys = Keys((Key(frame=4.0, value=0.0), Key(frame=12.0, value=60.0)))
        session.edit("", set_field(session.shot, "plates/title/effects/push", values={"map": "noise", "reach_x": keys}))
        own = '{"keys":[{"frame":4,"value":0},{"frame":12,"value":60}]}'
        hit = Node(
            id="hit", kind="moment", values={"value": 12.0, "standard": 12.0, "drives": (Drive(REACH, own=own),)}
        )
        session.edit("", set_front(session.shot, (hit,)))
        session.set("front/hit/value", 30.0)
        assert [key.frame for key in pins_of(value(session, REACH))] == [22.0, 30.0]


def set_front(shot: Shot, nodes: tuple[Node, ...]) -> Shot:
    return msgspec.structs.replace(shot, front=nodes)

    def test_a_moment_is_brought_with_the_pins_of_a_plate(self) -> None:
        session = bench()
        keys = Keys((Key(frame=4.0, value=0.0), Key(frame=12.0, value=60.0)))
        session.edit("", set_field(session.shot, "plates/title/effects/push", values={"map": "noise", "reach_x": keys}))
        session.select(plate="plates/title")
        session.set_frame(12)
        slot = front.bring_moment(session)
        session.set(f"{slot}/value", 30.0)
        assert [key.frame for key in pins_of(value(session, REACH))] == [22.0, 30.0]
        assert not left(session.shot, find(session.shot, slot))  # type: ignore[arg-type]

    def test_what_is_seen_is_switched_between_result_and_map(self) -> None:
        session = bench()
        before = nq.picture(session.shot, 3, scale=0.25)
        dial = front.bring_view(session)
        np.testing.assert_array_equal(nq.picture(session.shot, 3, scale=0.25), before)
        session.set(f"{dial}/value", "noise")
        shown = nq.picture(session.shot, 3, scale=0.25)[..., 0]
        map = nq.map_values(session.shot, "noise", 3, scale=0.25)[..., 0]
        np.testing.assert_allclose(shown, np.clip(map, 0, 1), atol=1 / 255)
        session.set(f"{dial}/value", "")
        np.testing.assert_array_equal(nq.picture(session.shot, 3, scale=0.25), before)


class TestLeaving:
    def test_what_is_changed_by_hand_leaves_its_dial(self) -> None:
        session = bench()
        dial = front.bring(session, REACH)
        session.set(REACH, 55.0)
        node = find(session.shot, dial)
        assert isinstance(node, Node)
        assert [drive.path for drive in left(session.shot, node)] == [REACH]
        session.set(f"{dial}/value", 10.0)
        assert value(session, REACH) == 55.0  # it stands by itself
        front.put_back_on(session, dial)
        assert value(session, REACH) == 10.0
        session.undo()
        front.take_as_is(session, dial)
        session.set(f"{dial}/value", 20.0)
        assert value(session, REACH) == pytest.approx(110.0)

    def test_undo_brings_it_back(self) -> None:
        session = bench()
        dial = front.bring(session, REACH)
        session.set(REACH, 55.0)
        session.undo()
        node = find(session.shot, dial)
        assert isinstance(node, Node)
        assert not left(session.shot, node)


def test_every_value_of_every_operator_that_has_a_dial_goes_through_it() -> None:
    """A dial that stands for a value says what the value is, and nothing else changes."""
    through = set()
    for operator in registry().all():
        role = {"source": "step", "shaper": "step", "quake": "effect", "finish": "effect"}.get(operator.family)
        if role is None:
            continue
        node = Node(id="x", kind=operator.kind)
        shot = (
            Shot(maps=(Map(id="m", recipe=(node,)),))
            if role == "step"
            else Shot(plates=(Plate(id="p", kind="text", effects=(node,)),))
        )
        path = "maps/m/steps/x" if role == "step" else "plates/p/effects/x"
        for name, param in operator.declared.items():
            made, dial = with_front(shot, f"{path}/{name}", "", "")
            if not dial:
                continue
            at_front = find(made, dial)
            assert isinstance(at_front, Node)
            drive = at_front.values["drives"][0]
            assert follows(made, at_front, drive), (operator.kind, name)
            shown = shown_as(made, at_front)
            assert isinstance(shown, Param)
            assert shown.unit == param.unit or param.unit == ""
            assert decoded(encoded(made)) == made
            through.add(type(param).__name__)
    assert through >= {"Number", "Place", "Pairs", "Colour", "Toggle", "Choice", "MapRef"}


@pytest.mark.parametrize("size", [(1280, 720), (320, 180), (640, 640)])
def test_a_dial_goes_along_with_the_shots_size(size: tuple[int, int]) -> None:
    """Turned first and scaled then is scaled first and turned by as much: both give the same values."""
    session = bench()
    dial = front.bring(session, REACH)
    change = Change(*size, Fraction(24), 48)
    by = min(size[0] / 640, size[1] / 360)
    scaled_shot = refitted(session.shot, change, KINDS)
    node = find(scaled_shot, dial)
    assert isinstance(node, Node)
    assert not left(scaled_shot, node)
    session.take(scaled_shot)
    session.set(f"{dial}/value", 90.0 * by)
    there = value(session, REACH)
    session = bench()
    dial = front.bring(session, REACH)
    session.set(f"{dial}/value", 90.0)
    assert find(refitted(session.shot, change, KINDS), REACH).values["reach_x"] == pytest.approx(there)  # type: ignore[union-attr]


def test_a_front_goes_along_with_what_it_stands_for() -> None:
    session = bench()
    front.bring(session, REACH, "Wildness")
    front.bring(session, "plates/title/words")
    fragment = taken(session, "plates/title")
    assert fragment is not None
    other = bench()
    lay(other, fragment)
    assert [node.name for node in other.shot.front] == ["Wildness", "Title"]
    dial = other.shot.front[0]
    (drive,) = dial.values["drives"]
    assert drive.path.startswith(other.selection.plate)
    other.set(f"front/{dial.id}/value", 7.0)
    assert other.raw(drive.path) == 7.0
    assert other.raw(REACH) == 40.0


def test_effects_bring_their_dials_to_the_plate_they_are_laid_on() -> None:
    session = bench()
    front.bring(session, REACH, "Wildness")
    fragment = taken(session, "plates/title/effects/push")
    assert fragment is not None
    other = bench()
    other.select(plate="plates/title")
    lay(other, fragment)
    (dial,) = other.shot.front
    assert dial.inside == "title"
    (drive,) = dial.values["drives"]
    assert drive.path != REACH
    assert find(other.shot, drive.path) is not None
    other.set(f"front/{dial.id}/value", 7.0)
    assert other.raw(drive.path) == 7.0
    assert other.raw(REACH) == 40.0


@pytest.mark.parametrize("name", samples())
def test_a_front_alone_changes_no_picture(name: str) -> None:
    """All that can be, brought to the front: the values stay what they are, to the bit."""
    path = sample_path(name)
    assert path is not None
    shot = made = read_shot(path)
    for plate in shot.plates[:3]:
        for effect in plate.effects[:3]:
            kind = registry().get("effect", effect.kind)
            for value_name in tuple(kind.declared if kind else ())[:12]:
                made, _ = with_front(made, f"plates/{plate.id}/effects/{effect.id}/{value_name}", "", "")
    assert made.plates is shot.plates
    assert made.maps is shot.maps
    assert all(not left(made, node) for node in made.front)


class TestSlots:
    def test_words_are_filled(self) -> None:
        session = bench()
        slot = front.bring(session, "plates/title/words")
        assert front.is_example(session, find(session.shot, slot))  # type: ignore[arg-type]
        assert front.fill(session, slot, "CLOSED")
        assert value(session, "plates/title/words") == "CLOSED"
        assert not front.is_example(session, find(session.shot, slot))  # type: ignore[arg-type]
        front.to_standard(session, slot)
        assert value(session, "plates/title/words") == "OPEN"

    @pytest.mark.parametrize("fit", ["inside", "over", "own"])
    def test_a_picture_lies_where_the_example_lay(self, fit: str, tmp_path: Path) -> None:
        picture = tmp_path / "sign.png"
        _png(picture)
        session = bench()
        items.new_plate(session, "shape", width=100.0, height=100.0, position=(90.0, 60.0))
        path = session.selection.plate
        slot = Node(id="logo", kind="picture", name="Logo", values={"fit": fit, "drives": (Drive(path),)})
        shot = filled(set_front(session.shot, (slot,)), slot, str(picture))
        plate = find(shot, path)
        assert isinstance(plate, Plate)
        assert plate.kind == "still"
        assert plate.values["file"] == str(picture)
        assert plate.values["position"] == (90.0, 60.0)
        seen = {"inside": 100.0, "over": 400.0, "own": 200.0}[fit]
        assert _width_seen(shot, plate.id) == pytest.approx(seen, abs=2)

    def test_a_map_slot_takes_another_map(self) -> None:
        session = bench()
        slot = front.bring(session, "plates/title/effects/push/map")
        session.edit("", set_front_maps(session.shot))
        assert front.fill(session, slot, "Rings")
        assert value(session, "plates/title/effects/push/map") == "rings"
        assert not front.fill(session, slot, "gone")

    def test_a_plate_of_the_shot_goes_into_a_slot(self) -> None:
        session = bench()
        slot = Node(id="sign", kind="picture", values={"drives": (Drive("plates/title"),)})
        session.edit("", set_front(session.shot, (slot,)))
        items.new_plate(session, "fill")
        front.fill_with_plate(session, "front/sign", session.selection.plate)
        (plate,) = session.shot.plates
        assert (plate.id, plate.kind, [effect.id for effect in plate.effects]) == ("title", "fill", ["push"])

    @pytest.mark.parametrize("what", ["no-such-file.png", __file__])
    def test_what_cannot_be_put_in_is_said(self, what: str) -> None:
        session = bench()
        slot = Node(id="sign", kind="picture", values={"drives": (Drive("plates/title"),)})
        session.edit("", set_front(session.shot, (slot,)))
        said: list[str] = []
        before = session.shot
        session.message.connect(said.append)
        assert not front.fill(session, "front/sign", what)
        assert session.shot is before
        assert len(said) == 1


def set_front_maps(shot: Shot) -> Shot:
    rings = Map(id="rings", name="Rings", recipe=(Node(id="rings", kind="rings"),))
    return msgspec.structs.replace(shot, maps=(*shot.maps, rings))


def _png(path: Path) -> None:
    cv2.imwrite(str(path), np.full((50, 200, 3), 200, np.uint8))


def _width_seen(shot: Shot, plate: str) -> float:
    alone = msgspec.structs.replace(shot, plates=(shot.plate(plate),), ground=(0.0, 0.0, 0.0, 0.0), maps=())
    alpha = nq.picture(alone, 0)[..., 3].max(axis=0)
    # the frame cuts off what lies beyond it: the whole is told by the half right of the place
    right = np.nonzero(alpha > 0.5)[0].max() + 1
    return float(2 * (right - 90.0))


class TestBadInput:
    def test_an_unknown_dial_is_named(self) -> None:
        session = bench()
        front.bring(session, REACH, "Wildness")
        with pytest.raises(BadInput, match="no dial or slot"):
            named(session.shot, "wilder")
        assert named(session.shot, "WILDNESS").id == "wildness"

    @pytest.mark.parametrize(
        "drives",
        [3, [{}], [{"path": ""}], [{"path": "a/b", "ends": [1]}], [{"path": "a/b", "course": [[1]]}], [{}] * 200],
    )
    def test_a_damaged_dial_is_one_line(self, drives: object) -> None:
        raw = encoded(Shot())
        raw["front"] = [{"id": "x", "kind": "pixels", "values": {"drives": drives}}]  # type: ignore[list-item, dict-item]
        with pytest.raises(ShotError, match="drives"):
            decoded(raw)

    def test_what_is_gone_is_no_harm(self) -> None:
        session = bench()
        dial = front.bring(session, REACH)
        items.remove_item(session, "plates/title/effects/push")
        session.set(f"{dial}/value", 3.0)
        node = find(session.shot, dial)
        assert isinstance(node, Node)
        assert len(left(session.shot, node)) == 1
