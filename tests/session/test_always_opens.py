"""Whatever a person does, the shot can be saved and is the same when it is opened again."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nimble_quake.errors import LimitError
from nimble_quake.motion.kinds import Formula, Key, Keys, Rate
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Number
from nimble_quake.samples import sample_path
from nimble_quake.session.moving import pins
from nimble_quake.session.state import Session
from nimble_quake.session.storage import library
from nimble_quake.session.verbs import effects, items, maps
from nimble_quake.shot.edits.add import add_step
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.edits.settings import put_marker, set_shot
from nimble_quake.shot.model import Node
from nimble_quake.shot.paths import all_nodes
from nimble_quake.shotfile.files import read_shot, shot_bytes, shot_from

FOLDER = Path("/somewhere")
FAR = st.sampled_from([-1e30, -1e6, -100.5, -1.0, 0.0, 0.3, 1.0, 7.0, 900.0, 2e5, 1e12, float("inf"), float("nan")])
STEPS = [op.kind for op in registry().all("source") + registry().all("shaper")]
PLATES = [op.kind for op in registry().all("plate")]


def opened_again(session: Session) -> None:
    """Save the shot, open it, compare."""
    kept = session.to_keep()
    notes: list[str] = []
    assert shot_from(shot_bytes(kept, FOLDER), FOLDER / "x.nquake", notes) == kept
    assert notes == []


def new_session() -> Session:
    found = Session()
    path = sample_path()
    assert path is not None
    found.take(read_shot(path))
    return found


def value_paths(session: Session) -> list[str]:
    """The paths of all values in the shot."""
    found = []
    for path, _ in all_nodes(session.shot):
        operator = session.operator(path)
        found += [f"{path}/{name}" for name in operator.declared] if operator else []
    return found


class Doer:
    """Does things to a session as hypothesis draws them."""

    def __init__(self, data: st.DataObject) -> None:
        self.data, self.session = data, new_session()

    def pick(self, items: list[Any]) -> Any:
        return self.data.draw(st.sampled_from(items))

    def number(self) -> float:
        return self.data.draw(FAR)

    def do(self) -> None:
        session = self.session
        what = self.data.draw(
            st.sampled_from(
                [
                    "set",
                    "motion",
                    "pins",
                    "swap",
                    "add",
                    "copy",
                    "remove",
                    "move",
                    "shot",
                    "drag",
                    "undo",
                    "name",
                    "recipe",
                    "bracket",
                    "reset",
                ]
            )
        )
        getattr(self, f"do_{what}")()
        session.set_frame(self.data.draw(st.integers(0, 200)))

    def any_value(self) -> str:
        return str(self.pick(value_paths(self.session)))

    def any_item(self) -> str:
        return str(self.pick([path for path, _ in all_nodes(self.session.shot)]))

    def do_set(self) -> None:
        path = self.any_value()
        size = self.session.param(path).size
        number = self.number()
        value = number if size < 2 else (number,) * size
        words = self.data.draw(st.text(max_size=30))
        self.session.set(path, value if size else words)

    def do_drag(self) -> None:
        path = self.any_value()
        if isinstance(self.session.param(path), Number):
            self.session.begin("Drag")
            for _ in range(3):
                self.session.set(path, self.number())
            self.session.commit() if self.data.draw(st.booleans()) else self.session.abort()

    def do_motion(self) -> None:
        path = self.any_value()
        size = max(1, self.session.param(path).size)
        number = self.number()
        value = number if size == 1 else (number,) * size
        key = Key(frame=number, value=value, after="eased", ease=(number, 0.0, 0.5, number))
        motion = self.pick([Rate(value, value), Formula("t, t" if size == 2 else "t"), Formula("0/0 +"), Keys((key,))])
        self.session.edit("Motion", set_value(self.session.shot, path, motion))

    def do_pins(self) -> None:
        path = self.any_value()
        if self.session.param(path).animatable:
            self.session.start_moving(path)
        held = pins.copied(self.session, {(path, float(self.session.frame))})
        pins.paste(self.session, held, self.any_value())

    def do_swap(self) -> None:
        steps = [path for path, _ in all_nodes(self.session.shot) if "/steps/" in path]
        if steps:
            items.swap_kind(self.session, str(self.pick(steps)), str(self.pick(STEPS)))

    def do_add(self) -> None:
        maps.new_map(self.session, str(self.pick(STEPS)))
        items.new_plate(self.session, str(self.pick(PLATES)))
        effects.new_quake(self.session)
        items.plate_from_file(self.session, "/tmp/" + self.data.draw(st.text(max_size=240)) + ".png")

    def do_copy(self) -> None:
        items.duplicate_item(self.session, self.any_item())

    def do_remove(self) -> None:
        items.remove_item(self.session, self.any_item())

    def do_move(self) -> None:
        items.move_item(self.session, self.any_item(), self.data.draw(st.integers(0, 5)))

    def do_shot(self) -> None:
        shot = set_shot(self.session.shot, length=self.data.draw(st.integers(1, 400)), loop=(0, 300))
        self.session.edit("Shot", put_marker(shot, self.data.draw(st.integers(0, 400)), self.data.draw(st.text())))

    def do_undo(self) -> None:
        self.session.undo()
        self.session.redo()

    def do_name(self) -> None:
        items.rename(self.session, self.any_item(), self.data.draw(st.text(max_size=300)))

    def do_recipe(self) -> None:
        text = library.map_text(self.session, self.session.selection.map)
        if text:
            library.use(self.session, library.map_from_text(text))

    def do_bracket(self) -> None:
        steps = [path for path, _ in all_nodes(self.session.shot) if "/steps/" in path]
        if steps:
            items.put_in_bracket(self.session, str(self.pick(steps)))
            items.take_out(self.session, str(self.pick(steps)))

    def do_reset(self) -> None:
        items.reset(self.session, self.any_item())


@given(st.data())
@settings(max_examples=60)
def test_what_was_done_opens_again_as_it_was(data):
    doer = Doer(data)
    for _ in range(data.draw(st.integers(1, 8))):
        if all_nodes(doer.session.shot):
            doer.do()
        opened_again(doer.session)


@given(st.data())
@settings(max_examples=30)
def test_undo_and_redo_come_back_to_the_same(data):
    doer = Doer(data)
    first = doer.session.shot
    for _ in range(data.draw(st.integers(1, 6))):
        if all_nodes(doer.session.shot):
            doer.do()
    last = doer.session.shot
    while doer.session.history.past:
        doer.session.undo()
    assert doer.session.shot == first
    while doer.session.history.future:
        doer.session.redo()
    assert doer.session.shot == last


def test_blur_of_800_px_swapped_for_sharpen():
    session = new_session()
    shot, path = add_step(session.shot, "maps/heat-columns", Node(id="b", kind="blur", values={"radius": 800.0}))
    session.edit("x", shot)
    items.swap_kind(session, path, "sharpen")
    opened_again(session)


def test_pins_of_a_reach_pasted_on_opacity():
    session = new_session()
    held = [("plates/title/effects/push/reach_x", Key(frame=0.0, value=500.0))]
    pins.paste(session, held, "plates/title/opacity")
    assert session.raw("plates/title/opacity").keys[-1].value == 1.0
    opened_again(session)


def test_more_steps_than_we_open_are_refused():
    session = new_session()
    step = Node(id="n", kind="invert")
    many = msgspec.structs.replace(
        session.shot.maps[0], recipe=tuple(msgspec.structs.replace(step, id=f"n{n}") for n in range(201))
    )
    before = session.shot
    with pytest.raises(LimitError, match="200 steps"):
        session.edit("x", msgspec.structs.replace(before, maps=(many,)))
    assert session.shot is before
