"""Render threads: the newest request wins, frames ahead are kept, the window's thread never waits."""

from __future__ import annotations

import threading
import time
from dataclasses import replace
from functools import partial

from helpers import flat_map
from nimble_quake.render.abandon import go_on
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
    assert until(lambda: made.finished >= 20 and not made.busy)
    assert made.ready(ask(19, probe=False)) is not None
    assert 0 < made.nbytes <= 140_000
    assert made.ready(ask(49, probe=False)) is None
    made.stop()


def test_of_those_prepared_the_ones_that_were_there_before_stay():
    made = Scheduler(Engine(), lambda response: None)
    made.prepare([ask(frame, probe=False) for frame in (5, 6, 7, 30, 31)])
    assert until(lambda: made.finished >= 5 and not made.busy)
    made.budget = made.nbytes
    made.prepare([ask(frame, probe=False) for frame in (5, 6, 7, 8, 9)])
    assert until(lambda: made.finished >= 7 and not made.busy)
    assert sorted(request.frame for request in made.kept()) == [5, 6, 7, 8, 9]
    made.stop()


def test_a_frame_ahead_is_given_up_for_one_that_is_waited_for_and_taken_up_again(monkeypatch):
    begun, given_up, got = threading.Event(), threading.Event(), []

    def answer(engine, request, early=None):
        if request.frame == 1 and not given_up.is_set():
            begun.set()
            try:
                until(go_on)
            finally:
                given_up.set()
        elif request.frame == 7:
            given_up.wait(10)
        return BenchResponse(request, milliseconds=1.0)

    monkeypatch.setattr(module, "answer", answer)
    made = Scheduler(Engine(), lambda response: got.append(response.request.frame))
    made.prepare([ask(1, probe=False)])
    assert begun.wait(10)
    made.ask(ask(7))
    assert given_up.wait(10)
    assert until(lambda: made.ready(ask(1, probe=False)) is not None)
    assert got == [7]
    made.stop()


def test_a_frame_that_refines_a_coarse_one_is_given_up_for_the_next(monkeypatch):
    begun, given_up, got = threading.Event(), threading.Event(), []

    def answer(engine, request, early=None):
        if request.refines:
            begun.set()
            try:
                until(go_on)
            finally:
                given_up.set()
        return BenchResponse(request, milliseconds=1.0)

    monkeypatch.setattr(module, "answer", answer)
    monkeypatch.setattr(module, "WORKERS", 1)
    made = Scheduler(Engine(), lambda response: got.append(response.request.frame))
    made.ask(replace(ask(3), refines=True))
    assert begun.wait(10)
    made.ask(ask(4))
    assert given_up.wait(10)
    assert until(lambda: got == [4])
    made.stop()


def test_each_frame_ahead_is_tried_once_though_it_fails_or_does_not_fit(monkeypatch):
    tried: list[int] = []

    def answer(engine, request, early=None):
        tried.append(request.frame)
        if request.frame % 2:
            raise ValueError("a broken clip")
        return BenchResponse(request, milliseconds=1.0)

    monkeypatch.setattr(module, "answer", answer)
    failed: list[Exception] = []
    made = Scheduler(Engine(), lambda response: None, budget=0, failed=failed.append)
    made.prepare([ask(frame, probe=False) for frame in range(6)])
    assert until(lambda: len(tried) >= 6 and not made.busy)
    assert sorted(tried) == list(range(6))
    assert len(failed) == 3
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
