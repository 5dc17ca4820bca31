"""Kernels over bands of rows."""

from __future__ import annotations

import gc
import threading
import weakref

import numpy as np
import pytest

from nimble_quake.raster.blur.filters import gaussian_inside
from nimble_quake.raster.threads.rows import run_rows


def test_every_row_is_done_once():
    for height in (1, 31, 64, 65, 720, 2161):
        done = np.zeros(height, int)

        def count(first, last, done=done):
            done[first:last] += 1

        run_rows(count, height)
        assert (done == 1).all()


@pytest.mark.parametrize("wrong_thread", ["here", "helper"])
def test_a_fault_in_any_band_is_told_here(wrong_thread):
    here = threading.current_thread()
    helped = threading.Event()

    def kernel(first, last):
        if (threading.current_thread() is here) == (wrong_thread == "here"):
            helped.set()
            raise ValueError("in a band")
        assert helped.wait(5)

    with pytest.raises(ValueError, match="in a band"):
        run_rows(kernel, 720)
    run_rows(lambda first, last: None, 720)  # and the helpers still serve


@pytest.fixture
def uncollected():
    """No garbage is collected meanwhile; afterwards it is as it was: a window collects by itself."""
    was = gc.isenabled()
    gc.collect()
    gc.disable()
    yield
    if was:
        gc.enable()


def test_what_a_band_works_on_goes_with_it(uncollected):
    """Nothing waits for a collection of garbage: pictures would pile up until one comes."""
    there: list[weakref.ref[np.ndarray]] = []

    def once() -> None:
        picture = np.zeros((720, 64))
        there.append(weakref.ref(picture))

        def band(first, last):
            picture[first:last] += 1

        run_rows(band, len(picture))
        assert (picture == 1).all()

    for _ in range(3):
        once()
    assert [ref() for ref in there] == [None] * 3


def test_kernels_leave_no_garbage(uncollected):
    values = np.random.default_rng(1).random((720, 64, 1), np.float32)
    gaussian_inside(values, 1.0, 1.0)
    gc.collect()
    gaussian_inside(values, 1.0, 1.0)
    assert gc.collect() == 0
