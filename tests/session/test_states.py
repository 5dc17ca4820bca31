"""States of a whole shot, and the two sides of any item."""

from __future__ import annotations

import pytest

from nimble_quake.errors import ShotError
from nimble_quake.motion.kinds import is_moving
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Number, Toggle
from nimble_quake.samples import sample_path, samples
from nimble_quake.session.state import Session
from nimble_quake.session.states import states
from nimble_quake.session.states.sides import flip, flip_side, side_of
from nimble_quake.shot.edits.add import add_effect
from nimble_quake.shot.edits.remove import remove
from nimble_quake.shot.edits.set_value import set_field, set_value
from nimble_quake.shot.model import FORMAT, Node
from nimble_quake.shot.paths import all_nodes, kind_of, value_path
from nimble_quake.shot.refit import Change, refitted
from nimble_quake.shotfile.codec import decoded, encoded


@pytest.fixture
def session():
    found = Session()
    found.open(sample_path())
    return found


def changed_everywhere(shot):
    """Every number another one, every switch turned, everything switched off."""
    for path, node in all_nodes(shot):
        operator = registry().get(kind_of(path), node.kind)
        for name, param in operator.declared.items() if operator else ():
            if is_moving(node.values.get(name)):
                continue
            if isinstance(param, Toggle):
                shot = set_value(shot, value_path(path, name), not node.values.get(name, param.default))
            elif isinstance(param, Number):
                low, high = param.hard
                shot = set_value(shot, value_path(path, name), high if node.values.get(name) == low else low)
        shot = set_field(shot, path, on=not node.on)
    return shot


def values(shot):
    return {path: (node.values, node.on) for path, node in all_nodes(shot)}


@pytest.mark.parametrize("name", samples())
def test_a_state_gives_back_every_value_of_every_sample(name):
    session = Session()
    session.open(sample_path(name))
    before = session.shot
    id = states.keep(session, "As it was")
    session.edit("Change all", changed_everywhere(session.shot))
    assert values(session.shot) != values(before)
    assert not states.is_now(session, id)
    again = Session()
    again.edit("Open", decoded(encoded(session.shot)))
    for each in (session, again):
        states.go_to(each, id)
        assert values(each.shot) == values(before)
        assert states.is_now(each, id)
    session.undo()
    assert not states.is_now(session, id)


def test_what_came_since_keeps_its_values_and_what_is_gone_is_passed_over(session):
    id = states.keep(session, "Before")
    shot, new = add_effect(session.shot, "plates/title", Node(id="glow", kind="glow", values={"radius": 77.0}))
    gone = "plates/title/effects/push"
    shot = remove(set_value(shot, "plates/title/turn", 30.0), gone)
    session.edit("Go on", shot)
    states.go_to(session, id)
    assert session.raw(f"{new}/radius") == 77.0
    assert session.raw("plates/title/turn") is None
    assert gone not in dict(all_nodes(session.shot))


def test_files_belong_to_no_state(session):
    """A clip that has been exchanged since then stays."""
    id = states.keep(session, "Before")
    session.edit("Exchange", set_value(session.shot, "plates/lanterns/file", "/elsewhere/other.mp4"))
    assert states.is_now(session, id)
    states.go_to(session, id)
    assert session.raw("plates/lanterns/file") == "/elsewhere/other.mp4"


def test_it_is_scaled_with_the_shot(session):
    session.edit("Set", set_value(session.shot, "plates/title/position", (640.0, 360.0)))
    id = states.keep(session, "Small")
    session.edit("Set", set_value(session.shot, "plates/title/position", (100.0, 360.0)))
    shot = session.shot
    kinds = registry().get
    session.edit("Larger", refitted(shot, Change(2 * shot.width, 2 * shot.height, shot.rate, shot.length), kinds))
    states.go_to(session, id)
    assert session.raw("plates/title/position") == (1280.0, 720.0)


def test_names_renewing_and_taking_away(session):
    first = states.keep(session, states.unused_name(session))
    assert states.unused_name(session) == "State 2"
    states.rename(session, first, "Calm")
    session.edit("Turn", set_value(session.shot, "plates/title/turn", 12.0))
    states.renew(session, first)
    assert states.is_now(session, first)
    assert [(each.id, each.name) for each in session.shot.states] == [("state-1", "Calm")]
    states.remove(session, first)
    assert session.shot.states == ()


@pytest.mark.parametrize(
    ("raw", "where"),
    [
        ([{"id": "a", "plates": [{"id": "0", "kind": "text", "values": {"turn": "x"}}]}], "states[0].plates[0].turn"),
        ([{"id": "a", "effects": 3}], "states[0].effects"),
        ([3], "states[0]"),
        ([{"id": "a"}, {"id": "a"}], "states[1].id"),
    ],
)
def test_a_broken_state_is_one_line_with_its_place(raw, where):
    with pytest.raises(ShotError) as told:
        decoded({"nimble_quake": FORMAT, "states": raw})
    assert where in told.value.line()


@pytest.mark.parametrize("path", ["plates/title", "plates/title/effects/push", "maps/heat-columns/steps/noise"])
def test_every_item_has_two_sides(session, path):
    operator = registry().get(kind_of(path), dict(all_nodes(session.shot))[path].kind)
    name, number = next((name, param) for name, param in operator.declared.items() if isinstance(param, Number))
    before, other = session.raw(f"{path}/{name}"), number.hard[1]
    flip_side(session, path, "B")
    session.edit("Set", set_value(session.shot, f"{path}/{name}", other))
    flip_side(session, path, "A")
    assert session.raw(f"{path}/{name}") == before
    flip_side(session, path, "B")
    assert session.raw(f"{path}/{name}") == other
    assert decoded(encoded(session.shot)) == session.shot


def test_the_sides_of_a_map_are_those_of_all_its_steps(session):
    path = "maps/heat-columns"
    flip_side(session, path, "B")
    assert {step.side for step in session.shot.map("heat-columns").recipe} == {"B"}
    assert side_of(session.shot, path) == "B"
    session.undo()
    assert side_of(session.shot, path) == "A"


def test_flipping_means_what_is_selected(session):
    session.select(plate="plates/title", quake="", finish="")
    flip(session)
    assert side_of(session.shot, "plates/title") == "B"
