"""Where nothing moves from one frame to the next, nothing is computed for the next one."""

from __future__ import annotations

import numpy as np
import pytest

from nimble_quake.operators.registry import registry
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.plates.layers import Layer
from nimble_quake.render.services import frame_job
from nimble_quake.shot.edits.set_value import set_field, set_value
from nimble_quake.shot.model import Map, Node, Plate, Shot

STILL = {"churn": 0.0, "drift": (0.0, 0.0)}


def a_shot(**noise: object) -> Shot:
    """A pushed title with a glow, a lens over it, a group with a still shape below."""
    map = Map(id="m", name="M", recipe=(Node(id="n", kind="noise", values={**STILL, **noise}),))
    push, glow = Node(id="q", kind="push", values={"map": "m", "reach_x": 9.0}), Node(id="g", kind="glow")
    lens = Plate(id="l", kind="lens", effects=(Node(id="b", kind="blur"),))
    title = Plate(id="t", kind="text", values={"size": 60.0}, effects=(push, glow))
    group = Plate(id="h", kind="group", effects=(Node(id="v", kind="vignette"),))
    shape = Plate(id="s", kind="shape", inside="h")
    return Shot(width=240, height=135, maps=(map,), plates=(lens, title, group, shape))


def computed(engine: Engine, shot: Shot, frame: int, *, seen: bool = False) -> tuple[np.ndarray, int]:
    """A frame, and how many steps were computed for it."""
    job = frame_job(engine, shot, frame)
    return frame_picture(job, seen={} if seen else None), len(job.costs)


@pytest.mark.parametrize("seen", [False, True], ids=["played", "looked at"])
def test_a_second_still_frame_costs_nothing_and_is_the_first(seen):
    engine = Engine(registry())
    first, steps = computed(engine, a_shot(), 3, seen=seen)
    again, more = computed(engine, a_shot(), 4, seen=seen)
    assert steps > 0
    assert more == 0
    assert again is first
    with pytest.raises(ValueError, match="read-only"):
        first[:] = 0


def test_layers_are_handed_out_again():
    engine = Engine(registry())
    layers: list[dict[str, Layer]] = [{}, {}]
    for frame, seen in enumerate(layers):
        frame_picture(frame_job(engine, a_shot(), frame), seen=seen)
    assert layers[0].keys() == layers[1].keys() >= {"t", "l"}


@pytest.mark.parametrize(
    "moving",
    [
        a_shot(churn=1.0),
        set_value(a_shot(), "plates/t/effects/q/stagger_times", 2.0),
        set_field(a_shot(), "plates/t", start=4),
        set_field(a_shot(), "plates/s", end=4),
        set_field(a_shot(), "plates/t/effects/g", span=(4, 20), fades=(3, 3)),
        set_field(a_shot(), "plates/l/effects/b", span=(0, 4)),
    ],
    ids=["churn", "stagger", "start", "end", "fade", "span"],
)
def test_a_frame_in_sequence_is_the_frame_alone(moving):
    engine = Engine(registry())
    for frame in (3, 4, 5, 4):
        alone, _ = computed(Engine(registry()), moving, frame)
        np.testing.assert_array_equal(computed(engine, moving, frame)[0], alone)


def test_what_is_wrong_is_said_for_every_frame(tmp_path):
    shot = Shot(width=120, height=68, plates=(Plate(id="p", kind="still", values={"file": str(tmp_path / "no.png")}),))
    engine = Engine(registry())
    for frame in (0, 1):
        job = frame_job(engine, shot, frame)
        frame_picture(job)
        assert job.problems
