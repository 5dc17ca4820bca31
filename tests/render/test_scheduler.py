"""Render threads: the newest request wins, frames ahead are kept, the window's thread never waits."""

from __future__ import annotations

import threading
import time
from dataclasses import replace
from functools import partial

import numpy as np

from helpers import flat_map
from nimble_quake.render.abandon import go_on
from nimble_quake.render.engine import Engine
from nimble_quake.render.shown import scheduler as module
from nimble_quake.render.shown.request import BenchRequest, BenchResponse
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


class TestWhatIsSaid:
    """Signs and read-outs come after the picture; while something is dragged, the next picture comes first."""

    PICTURE = np.zeros((2, 2, 4), np.uint8)

    def made(
        self, monkeypatch, said: list[int], meanwhile=lambda request: None
    ) -> tuple[Scheduler, list[tuple[int, bool]]]:
        """A scheduler whose frames have a picture at once and are spoken of afterwards, and what it hands out."""
        got: list[tuple[int, bool]] = []

        def answer(engine, request, early):
            early(BenchResponse(request, picture=self.PICTURE, partial=True))
            meanwhile(request)
            go_on()
            said.append(request.frame)
            return BenchResponse(request, picture=self.PICTURE, milliseconds=1.0)

        monkeypatch.setattr(module, "answer", answer)
        return Scheduler(Engine(), lambda response: got.append((response.request.frame, response.partial))), got

    def test_it_follows_the_picture(self, monkeypatch):
        said: list[int] = []
        made, got = self.made(monkeypatch, said)
        made.ask(ask(3))
        assert until(lambda: got == [(3, True), (3, False)])
        assert said == [3]
        made.stop()

    def test_it_is_given_up_for_the_next_picture_but_not_for_ever(self, monkeypatch):
        """Each frame is asked for once the picture before it is there, as a hand does that goes on dragging."""
        monkeypatch.setattr(module, "PATIENCE", 10.0)
        monkeypatch.setattr(module, "UNSAID", 3)
        said: list[int] = []
        made, got = self.made(monkeypatch, said)
        for frame in range(9):
            made.ask(replace(ask(frame), dragged=True))
            assert until(lambda n=frame: (n, True) in got)
        assert until(lambda: said)
        assert said[0] == 3, "three were given up, then the fourth is said although another one waits"
        assert [frame for frame, partial in got if partial] == list(range(9))
        made.stop()

    def test_it_is_said_once_the_hand_rests(self, monkeypatch):
        monkeypatch.setattr(module, "PATIENCE", 0.01)
        said: list[int] = []
        made, got = self.made(monkeypatch, said)
        made.ask(replace(ask(5), dragged=True))
        assert until(lambda: got == [(5, True), (5, False)])
        assert said == [5]
        made.stop()

    def test_what_is_said_of_an_older_picture_is_not_shown_after_a_newer_one(self, monkeypatch):
        gate = threading.Event()
        said: list[int] = []
        made, got = self.made(monkeypatch, said, lambda request: request.frame == 1 and gate.wait(10))
        monkeypatch.setattr(module, "UNSAID", 0)
        made.ask(ask(1))
        assert until(lambda: (1, True) in got)
        made.ask(ask(2))
        assert until(lambda: (2, False) in got)
        gate.set()
        assert until(lambda: said == [2, 1])
        assert until(lambda: not made.busy)
        assert got == [(1, True), (2, True), (2, False)]
        made.stop()

    def test_a_map_that_is_shown_already_is_not_handed_out_before_its_picture(self, monkeypatch):
        got: list[tuple[int, bool]] = []
        maps = {1: np.zeros((2, 2, 4), np.uint8), 2: np.zeros((2, 2, 4), np.uint8), 3: np.ones((2, 2, 4), np.uint8)}

        def answer(engine, request, early):
            early(BenchResponse(request, map=maps[request.frame], partial=True))
            return BenchResponse(request, map=maps[request.frame], picture=self.PICTURE, milliseconds=1.0)

        monkeypatch.setattr(module, "answer", answer)
        made = Scheduler(Engine(), lambda response: got.append((response.request.frame, response.partial)))
        for frame in maps:
            made.ask(ask(frame))
            assert until(lambda n=frame: (n, False) in got)
        assert got == [(1, True), (1, False), (2, False), (3, True), (3, False)]
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
