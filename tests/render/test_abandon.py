"""A frame that nobody waits for ends before its next step, and leaves nothing half-made behind."""

from __future__ import annotations

import threading
import time

import numpy as np
import pytest

from nimble_quake.render.abandon import Abandoned, abandoned_when, go_on
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import render_frame
from nimble_quake.render.shown import scheduler as module
from nimble_quake.render.shown.request import BenchRequest
from nimble_quake.render.shown.scheduler import Scheduler
from nimble_quake.samples import sample_path
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.files import read_shot


@pytest.mark.parametrize("sample", ["lantern-row", "cloth-stripes", "text-on-water"])
def test_a_frame_ends_before_any_step_and_the_next_one_is_right(sample):
    shot = read_shot(sample_path(sample))
    wanted = render_frame(Engine(), shot, 20, 0.2)
    engine = Engine()
    for steps in (0, 1, 2):
        asked: list[int] = []

        def unwanted(asked: list[int] = asked, most: int = steps) -> bool:
            asked.append(1)
            return len(asked) > most

        with abandoned_when(unwanted), pytest.raises(Abandoned):
            render_frame(engine, shot, 20, 0.2)
        assert len(asked) == steps + 1
    assert np.array_equal(render_frame(engine, shot, 20, 0.2), wanted)


def test_what_is_wanted_goes_on():
    with abandoned_when(lambda: True):
        with abandoned_when(lambda: False):
            go_on()
        with pytest.raises(Abandoned):
            go_on()
    go_on()


@pytest.mark.parametrize("what", ["frame", "job"])
def test_a_scheduler_that_stops_waits_for_no_frame(monkeypatch, what):
    begun = threading.Event()
    failed: list[Exception] = []

    def endless(*_: object) -> None:
        begun.set()
        while True:
            go_on()
            time.sleep(0.001)

    monkeypatch.setattr(module, "answer", endless)
    made = Scheduler(Engine(), lambda response: None, failed=failed.append)
    if what == "frame":
        made.ask(BenchRequest(Shot(width=64, height=36, length=50), 3, 1.0, 1.0))
    else:
        made.later("thumbnails", endless)
    assert begun.wait(10)
    made.stop()
    assert not made.busy
    assert not failed
