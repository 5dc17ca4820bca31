"""Kernels over bands of rows."""

from __future__ import annotations

import threading

import numpy as np
import pytest

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
