"""Threads that share a kernel's rows: every row once, whoever asks, however many ask, whatever goes wrong."""

from __future__ import annotations

import subprocess
import sys
import threading
from pathlib import Path

import numpy as np
import pytest

from nimble_quake.kernels import kernel, store
from nimble_quake.kernels.pools.native import Begun, Called, Edges, run_bands
from nimble_quake.kernels.pools.native_code import HEAP

THREADS = 2


@pytest.fixture(autouse=True)
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setattr(store, "own", lambda: tmp_path)
    return tmp_path


def counted(out, add, first, last):
    for j in range(first, last):
        for i in range(out.shape[1]):
            out[j, i] += add + j


def refusing(out, wrong, first, last):
    for j in range(first, last):
        out[j] += 1.0
        if j == wrong:
            raise ValueError


@pytest.mark.parametrize("rows", [[0, 1], [0, 7], [0, 3, 6, 7], list(range(8)), [0, 0, 7, 7], [2, 5]])
@pytest.mark.parametrize("helpers", [0, 1, 2, 5])
def test_every_row_is_done_once(rows, helpers):
    made, out = kernel()(counted), np.zeros((7, 40_000))
    for n in range(50):
        run_bands(made.bound(out, float(n)), Edges(rows), helpers, THREADS)
    expected = np.zeros(7)
    expected[rows[0] : rows[-1]] = (sum(range(50)) + 50 * np.arange(7.0))[rows[0] : rows[-1]]
    assert np.array_equal(out, np.repeat(expected[:, None], 40_000, 1))


def test_more_ask_at_once_than_may_wait():
    made = kernel()(counted)
    outs = [np.zeros((30, 50)) for _ in range(12)]

    def ask(out):
        for n in range(40):
            run_bands(made.bound(out, float(n)), Edges(list(range(0, 31, 2))), HEAP // 2, THREADS)

    asking = [threading.Thread(target=ask, args=(out,)) for out in outs]
    for thread in asking:
        thread.start()
    for thread in asking:
        thread.join()
    expected = sum(range(40)) + 40 * np.arange(30.0)[:, None]
    assert all(np.array_equal(out, np.broadcast_to(expected, out.shape)) for out in outs)


def test_the_one_that_asked_sleeps_until_a_slow_helper_is_done():
    made = kernel()(counted)
    for _ in range(5):
        out = np.zeros((2, 20_000_000), np.float32)
        run_bands(made.bound(out, 1.0), Edges([0, 1, 2]), 1, THREADS)
        assert out[0, -1] == 1.0
        assert out[1, -1] == 2.0


def test_a_failure_is_told_and_the_next_one_goes_on():
    made = kernel()(refusing)
    for wrong in (0, 5, 9):
        out = np.zeros(10)
        with pytest.raises(MemoryError, match="refusing"):
            run_bands(made.bound(out, wrong), Edges([0, 5, 10]), 1, THREADS)
        assert out[wrong] == 1.0
        out[:] = 0
        run_bands(made.bound(out, -1), Edges([0, 5, 10]), 1, THREADS)
        assert (out == 1.0).all()


def test_a_program_ends_while_helpers_sleep():
    code = (
        "from nimble_quake.raster.colour.blend import flat; from nimble_quake.raster.colour.convert import to_screen; "
        "to_screen(flat((720, 1280), (1.0, 0, 0, 1))); print('made')"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=60, check=True)
    assert done.stdout.strip() == "made"
    assert not done.stderr


def test_what_is_begun_is_whole_when_it_is_finished():
    made = kernel()(counted)
    for _ in range(20):
        outs = [np.zeros((40, 3_000)) for _ in range(3)]
        begun = [
            Begun(made.bound(out, float(n)), Edges(list(range(0, 41, 4))), 1, THREADS) for n, out in enumerate(outs)
        ]
        for one in reversed(begun):
            one.finish()
            one.finish()
        assert all((out == n + np.arange(40.0)[:, None]).all() for n, out in enumerate(outs))


def test_what_nobody_finishes_is_done_before_its_memory_goes():
    made, out = kernel()(counted), np.zeros((8, 2_000_000))
    begun = Begun(made.bound(out, 1.0), Edges(list(range(9))), 1, THREADS)
    del begun
    assert (out[:, -1] == 1.0 + np.arange(8.0)).all()


def test_functions_of_python_share_the_threads_of_kernels():
    by: set[str] = set()
    seen = np.zeros(40, int)
    met = threading.Barrier(THREADS, timeout=30)

    def band(first: int, last: int) -> None:
        by.add(threading.current_thread().name)
        seen[first:last] += 1
        met.wait()  # passes only when two threads are at it at once

    run_bands(Called(band), Edges(list(range(0, 41, 10))), 1, THREADS)
    assert (seen == 1).all()
    assert len(by) == 2
    assert any(name.startswith("rows-") for name in by)


def test_what_a_function_raises_comes_out_where_it_was_asked_and_the_uppermost_first():
    def band(first: int, last: int) -> None:
        raise ValueError(f"row {first}")

    for _ in range(20):
        with pytest.raises(ValueError, match=r"row 0$"):
            run_bands(Called(band), Edges([0, 5, 10]), 1, THREADS)


def test_a_band_may_ask_for_bands_of_its_own():
    out = np.zeros((8, 8))

    def row(first: int, last: int) -> None:
        def column(left: int, right: int) -> None:
            out[first:last, left:right] += 1

        run_bands(Called(column), Edges(list(range(9))), 1, THREADS)

    run_bands(Called(row), Edges(list(range(9))), 1, THREADS)
    assert (out == 1).all()
