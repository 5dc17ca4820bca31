"""Render threads: the newest request wins, frames ahead are kept, the window's thread never waits."""

from __future__ import annotations

import threading
import time
from functools import partial

from helpers import flat_map
from nimble_quake.render.engine import Engine
from nimble_quake.render.shown import scheduler as module
from nimble_quake.render.shown.bench import BenchRequest, BenchResponse
from nimble_quake.render.shown.scheduler import Scheduler
from nimble_quake.shot.model import Shot

SHOT = Shot(width=64, height=36, length=50, maps=(flat_map(0.5),))


def ask(frame: int, probe: bool = True) -> BenchRequest:
    return BenchRequest(SHOT, frame, 1.0, 1.0, "map", probe=probe)


def until(condition, seconds: float = 10.0) -> bool:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if condition():
            return True
        time.sleep(0.005)
    return False


def test_the_newest_wins(monkeypatch):
    got: list[int] = []
    gate = threading.Event()

    def slow(engine, request, early=None):
        gate.wait(5)
        return BenchResponse(request)

    monkeypatch.setattr(module, "answer", slow)
    made = Scheduler(Engine(), lambda response: got.append(response.request.frame))
    for frame in range(30):
        began = time.perf_counter()
        made.ask(ask(frame))
        assert time.perf_counter() - began < 0.5
        time.sleep(0.002)
    gate.set()
    assert until(lambda: got and got[-1] == 29)
    assert len(got) <= 4
    made.stop()


def test_frames_ahead_are_kept_within_the_budget():
    made = Scheduler(Engine(), lambda response: None, budget=120_000)
    made.prepare([ask(frame, probe=False) for frame in range(20)])
    assert until(lambda: made.ready(ask(3, probe=False)) is not None)
    made.prepare(())
    assert until(lambda: not made.busy)
    assert 0 < made.nbytes <= 140_000
    assert made.ready(ask(49, probe=False)) is None
    made.stop()


def test_small_jobs_of_one_name_are_replaced():
    made = Scheduler(Engine(), lambda response: None)
    ran: list[int] = []
    for n in range(50):
        made.later("thumb", partial(ran.append, n))
    assert until(lambda: ran and ran[-1] == 49)
    assert until(lambda: not made.busy)
    made.stop()


def test_small_jobs_have_a_turn_although_frames_never_end(monkeypatch):
    """As where a shot plays that is too much for this machine: the next frame waits before the last one is done."""
    ran = threading.Event()
    made: list[Scheduler] = []

    def endless(engine, request, early=None):
        made[0].ask(ask((request.frame + 1) % 50))
        made[0].prepare([ask(frame, probe=False) for frame in range(50)])
        return BenchResponse(request, milliseconds=1.0)

    monkeypatch.setattr(module, "answer", endless)
    made.append(Scheduler(Engine(), lambda response: None, budget=0))
    made[0].ask(ask(0))
    made[0].later("thumb", ran.set)
    assert ran.wait(10)
    made[0].stop()
