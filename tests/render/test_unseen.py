"""Why nothing is seen of a finish: said of the frame that is shown, and only where nothing is seen."""

from __future__ import annotations

import numpy as np
import pytest

from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import PlateRef
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture, render_frame
from nimble_quake.render.services import frame_job
from nimble_quake.render.shown.unseen import why_unseen
from nimble_quake.shot.edits.set_value import set_field, set_value
from nimble_quake.shot.model import Node, Plate, Shot

PATH = "plates/p/effects/f"
ENGINE = Engine(registry())
FILL = Plate(id="p", kind="fill")
EFFECTS = sorted(kind.kind for kind in registry().playing("effect"))
DOT = Plate(id="p", kind="shape", values={"form": "ellipse", "width": 50.0, "height": 50.0, "position": (80.0, 45.0)})


def a_shot(finish: Node, plate: Plate = FILL, *over: Plate) -> Shot:
    base = Plate(id="p", kind=plate.kind, values=plate.values, effects=(finish,))
    return Shot(width=160, height=90, ground=(0.5, 0.5, 0.5, 1.0), plates=(*over, base))


def why(shot: Shot, frame: int = 0) -> str:
    return why_unseen(frame_job(ENGINE, shot, frame), PATH, frame_grid(160, 90, 1.0))


@pytest.mark.parametrize("kind", ["outline", "drop_shadow", "rim_light", "inner_glow", "choke", "light_wrap"])
def test_what_acts_along_a_rim_says_that_a_full_picture_has_none(kind):
    assert why(a_shot(Node(id="f", kind=kind))) == "The picture fills the frame: its rim lies outside"
    assert why(a_shot(Node(id="f", kind=kind), DOT)) == "" or kind == "light_wrap"  # nothing lies beneath the dot


def test_the_reason_is_what_hides_it():
    outline = Node(id="f", kind="outline")
    assert (
        why(a_shot(outline, DOT, Plate(id="over", kind="fill")))
        == "It cannot be told from what lies over it or beneath it"
    )
    far = Plate(id="p", kind="shape", values={**DOT.values, "position": (900.0, 45.0)})
    assert why(a_shot(outline, far)) == "Its plate shows nothing here"
    shot = a_shot(outline, DOT)
    assert why(set_field(shot, PATH, on=False)) == "It is switched off"
    assert why(set_value(shot, f"{PATH}/opacity", 0.0)) == "Mix is 0"
    assert why(set_value(shot, f"{PATH}/width", 0.0)) == "Its settings change nothing"
    assert why(set_field(shot, PATH, span=(5, 9)), 3) == "It is not there at this time"
    assert why(set_field(shot, PATH, span=(5, 9)), 6) == ""


def test_the_frame_that_is_shown_is_still_known_after_the_question():
    """What is computed to tell whether a finish is seen does not put out the frame that stands still."""
    engine, shot = Engine(registry()), a_shot(Node(id="f", kind="glow"), DOT)
    shown = frame_picture(frame_job(engine, shot, 0))
    why_unseen(frame_job(engine, shot, 0), PATH, frame_grid(160, 90, 1.0))
    assert frame_picture(frame_job(engine, shot, 1)) is shown


def test_a_key_that_finds_nothing_says_so():
    white = Plate(id="p", kind="fill", values={"colour": (1.0, 1.0, 1.0, 1.0)})
    key = Node(id="f", kind="colour_key", values={"colour": (0.0, 0.6, 0.1, 1.0)})
    assert why(a_shot(key, white)) == "The picture has nothing of that colour"


@pytest.mark.sampled(40)
@pytest.mark.parametrize("kind", EFFECTS)
@pytest.mark.parametrize("plate", [FILL, DOT], ids=["full", "dot"])
def test_it_is_said_exactly_where_the_frame_is_the_same_without(kind, plate):
    operator = registry().get("effect", kind)
    lively = {n: v for n, v in operator.lively.items() if not isinstance(operator.declared[n], PlateRef)}
    shot = a_shot(Node(id="f", kind=kind, values=lively), plate)
    now, without = (render_frame(ENGINE, s, 3) for s in (shot, set_field(shot, PATH, on=False)))
    same = bool((np.abs(now - without) <= 0.5 / 255).all())
    assert bool(why(shot, 3)) == same
