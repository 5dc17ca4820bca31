"""Edits: random ones undone and done again; sharing; what changed; paths."""

from __future__ import annotations

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from nimble_quake.errors import ShotError
from nimble_quake.motion.kinds import Keys
from nimble_quake.shot.changes import SETTINGS, SHAPE, changes
from nimble_quake.shot.edits.add import add_effect, add_map, add_plate, add_step
from nimble_quake.shot.edits.duplicate import duplicate
from nimble_quake.shot.edits.keys import change_keys, keys_at, set_key
from nimble_quake.shot.edits.move import move
from nimble_quake.shot.edits.remove import remove
from nimble_quake.shot.edits.set_value import set_field, set_value
from nimble_quake.shot.edits.settings import move_marker, put_marker, remove_marker, set_shot
from nimble_quake.shot.history import History
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import all_nodes, find, found_node, fresh_id, node_path, owner_path, value_name
from nimble_quake.shotfile.codec import decoded, encoded


def start() -> Shot:
    shot, plate = add_plate(Shot(), Plate(id="title", kind="text"))
    shot, map = add_map(shot, Map(id="heat", name="Heat"))
    shot, _ = add_step(shot, map, Node(id="noise", kind="noise"))
    shot, _ = add_effect(shot, plate, Node(id="push", kind="push", values={"map": "heat"}))
    return shot


REACH = "plates/title/effects/push/reach_x"


def edit(shot: Shot, verb: str, pick: int, number: float) -> Shot:
    """One edit of each verb, on things chosen by number; a new verb joins here."""
    paths = [path for path, _ in all_nodes(shot)]
    path = paths[pick % len(paths)] if paths else ""
    owners = [f"maps/{m.id}" for m in shot.maps]
    if verb == "plate":
        return add_plate(shot, Plate(id="", kind="fill", name="Fill"), at=pick % (len(shot.plates) + 1))[0]
    if verb == "map":
        return add_map(shot, Map(id="", name="Map", recipe=(Node(id="noise", kind="noise"),)))[0]
    if verb == "settings":
        return set_shot(shot, length=1 + pick % 500, loop=(0, 1))
    if verb == "marker":
        return put_marker(shot, pick % 100, f"m{pick}")
    if not path:
        return shot
    if verb == "value":
        name = {"text": "size", "fill": "opacity", "push": "strength"}.get(found_node(shot, path).kind, "opacity")
        return set_value(shot, f"{path}/{name}", abs(number) % 1 + 1 if name == "size" else abs(number) % 1)
    if verb == "key":
        name = "strength" if found_node(shot, path).kind == "push" else "opacity"
        return set_key(shot, f"{path}/{name}", float(pick % 50), abs(number) % 1)
    if verb == "switch":
        return set_field(shot, path, on=not found_node(shot, path).on)
    if verb == "rename":
        return set_field(shot, path, name=f"name {pick}")
    if verb == "duplicate":
        return duplicate(shot, path)[0] if len(paths) < 30 else shot
    if verb == "move":
        return move(shot, path, pick % 4)
    if verb == "step" and owners:
        return add_step(shot, owners[pick % len(owners)], Node(id="", kind="blur"), pick % 2)[0]
    return remove(shot, path)


VERBS = (
    "plate",
    "map",
    "settings",
    "marker",
    "value",
    "key",
    "switch",
    "rename",
    "duplicate",
    "move",
    "step",
    "remove",
)
edits = st.lists(st.tuples(st.sampled_from(VERBS), st.integers(0, 999), st.floats(-5, 5)), max_size=12)


@given(edits)
def test_random_edits_undo_redo_and_save(steps):
    """Undo all is the original, redo all is the end, save and load is the same shot."""
    history = History(start())
    first = history.now
    for verb, pick, number in steps:
        history.edit(verb, edit(history.now, verb, pick, number))
    last, count = history.now, len(history.past)
    while history.undo():
        pass
    assert history.now == first
    for _ in range(count):
        history.redo()
    assert history.now == last
    assert decoded(encoded(last)) == last
    assert len({path for path, _ in all_nodes(last)}) == len(all_nodes(last))


def test_edits_share_what_they_do_not_touch():
    before = start()
    after = set_value(before, REACH, 5.0)
    assert after.maps is before.maps
    assert before.plates[0].effects[0].values == {"map": "heat"}
    assert changes(before, after) == {"plates/title/effects/push"} | {"plates/title"}


def test_changes_name_parts():
    before = start()
    assert changes(before, before) == set()
    assert SETTINGS in changes(before, set_shot(before, width=10))
    assert SHAPE in changes(before, set_field(before, "plates/title", name="x"))
    assert SHAPE not in changes(before, set_value(before, REACH, 1.0))


def test_gestures():
    history = History(start())
    history.begin("drag")
    for n in range(5):
        history.change(set_value(history.now, REACH, float(n)))
    history.commit()
    assert [label for label, _ in history.past] == ["drag"]
    history.begin("drag")
    history.change(set_value(history.now, REACH, 99.0))
    history.abort()
    assert found_node(history.now, REACH).values["reach_x"] == 4.0
    history.begin("nothing")
    history.commit()
    assert len(history.past) == 1
    for n in range(450):
        history.edit("many", set_value(history.now, REACH, float(n)))
    assert len(history.past) <= 400


def test_paths():
    assert node_path(REACH) == "plates/title/effects/push"
    assert value_name(REACH) == "reach_x"
    assert owner_path(REACH) == "plates/title"
    assert value_name("plates/title") == ""
    assert find(start(), "plates/none/size") is None
    assert find(start(), "nonsense") is None
    with pytest.raises(ShotError, match="plates/none"):
        set_value(start(), "plates/none/size", 1.0)
    assert fresh_id("Über Title!", {"ber-title"}) == "ber-title-2"
    assert fresh_id("", set()) == "item"


def test_keys():
    shot = set_key(start(), REACH, 10.0, 5.0)
    shot = set_key(shot, REACH, 4.0, 1.0)
    assert [key.frame for key in keys_at(shot, REACH)] == [4.0, 10.0]
    moved = change_keys(shot, REACH, {4.0}, lambda key: msgspec.structs.replace(key, frame=10.0, value=7.0))
    assert [(key.frame, key.value) for key in keys_at(moved, REACH)] == [(10.0, 7.0)]
    gone = change_keys(shot, REACH, {4.0, 10.0}, lambda key: None)
    assert found_node(gone, REACH).values["reach_x"] == 1.0
    assert isinstance(found_node(shot, REACH).values["reach_x"], Keys)


def test_markers_and_loop():
    shot = put_marker(put_marker(start(), 30, "b"), 10, "a")
    assert [m.name for m in shot.markers] == ["a", "b"]
    assert [m.frame for m in move_marker(shot, 10, 40).markers] == [30, 40]
    assert [m.name for m in remove_marker(shot, 10).markers] == ["b"]
    assert set_shot(set_shot(shot, loop=(10, 140)), length=50).loop is None
