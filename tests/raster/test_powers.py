"""Fast logarithms and powers against NumPy's, computed in double precision."""

from __future__ import annotations

import numpy as np
import pytest

from nimble_quake.raster.colour.pointwise import GAMMA, POWER, op, run_ops
from nimble_quake.raster.colour.powers import exp2_row, log2_row, power_row


def test_logarithms_over_all_sizes_of_numbers():
    row = np.concatenate([np.linspace(1e-6, 4, 4001), np.logspace(-37, 38, 3001)]).astype(np.float32)
    exact = np.log2(row.astype(np.float64))
    log2_row(row, np.empty_like(row))
    assert np.abs(row - exact).max() < 5e-6
    near_one = np.linspace(0.9, 1.1, 2001).astype(np.float32)
    exact = np.log2(near_one.astype(np.float64))
    log2_row(near_one, np.empty_like(near_one))
    assert np.abs(near_one - exact).max() < 5e-8


def test_powers_of_two_and_what_cannot_be_said():
    row = np.linspace(-125, 127, 4001).astype(np.float32)
    exact = np.exp2(row.astype(np.float64))
    exp2_row(row, np.empty(len(row), np.int32))
    assert np.abs(row / exact - 1).max() < 1.5e-7
    ends = np.array([-1e9, -np.inf, 1e9, np.inf], np.float32)
    exp2_row(ends, np.empty(4, np.int32))
    assert np.isfinite(ends).all()
    assert ends[:2].max() < 1e-37
    assert ends[2:].min() > 1e38


@pytest.mark.parametrize("power", [0.2, 1 / 1.6, 1.0, 2.2, 30.0])
def test_a_power_of_what_a_map_holds(power):
    row = np.linspace(0, 1, 8193).astype(np.float32)
    exact = row.astype(np.float64) ** power
    power_row(row, np.float32(power), np.empty_like(row))
    assert np.abs(row - exact).max() < 1e-6 if power > 0.3 else np.abs(row - exact)[1:].max() < 1e-6
    assert row[-1] == 1.0


def test_which_values_a_power_and_a_gamma_leave():
    field = np.array([[-0.5, 0.0, 0.25, 1.0, 4.0]], np.float32)[..., None]
    assert run_ops(field, (op(POWER, 0.5),)).ravel() == pytest.approx([-0.5, 0, 0.5, 1, 4], abs=1e-6)
    assert run_ops(field, (op(GAMMA, 0.5),)).ravel() == pytest.approx([-0.5, 0, 0.5, 1, 2], abs=1e-6)
