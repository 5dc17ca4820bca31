"""When numbered things are born, where the rate may change."""

from __future__ import annotations

import numpy as np
import pytest

from nimble_quake.raster.noise.births import born, knots, step_for


def rising(times: np.ndarray) -> np.ndarray:
    """How many are born until a time at a rate of 20 t a second: 10 t^2."""
    return 10.0 * np.maximum(times, 0) ** 2


def test_knots_cover_a_time_and_never_shift():
    all_of_them: set[float] = set()
    for frame in range(10, 60):
        times = knots(frame / 24 - 2.0, frame / 24, step_for(2.0, 1 / 24, 60))
        assert times[0] <= frame / 24 - 2.0
        assert times[-1] >= frame / 24
        assert len(times) <= 60
        all_of_them |= {round(float(t), 9) for t in times}
    assert len(all_of_them) == len({round(t * 24) for t in all_of_them})
    assert len(knots(-500.0, 0.0, step_for(500.0, 1 / 24, 20))) <= 20


def test_each_is_born_once_at_the_same_time_whatever_the_frame():
    seen: dict[int, float] = {}
    for frame in range(1, 96):
        now = frame / 24
        times = knots(max(0.0, now - 1.5), now, step_for(1.5, 1 / 24, 64))
        numbers, births = born(times, rising(times), max(0.0, now - 1.5), now, 10_000)
        assert (np.diff(numbers) == 1).all()
        for number, birth in zip(numbers.tolist(), births.tolist(), strict=True):
            assert seen.setdefault(number, birth) == pytest.approx(birth, abs=1e-9)
    assert len(seen) == pytest.approx(rising(np.array([95 / 24]))[0], abs=1)
    exact = {n: (n / 10) ** 0.5 for n in seen}  # the inverse of 10 t^2
    assert max(abs(seen[n] - exact[n]) for n in seen if n) < 0.02


def test_no_rate_no_births_and_only_the_youngest_of_too_many():
    times = np.array([0.0, 1.0])
    assert len(born(times, np.zeros(2), 0.0, 1.0, 100)[0]) == 0
    assert len(born(times, np.array([0.0, -5.0]), 0.0, 1.0, 100)[0]) == 0, "a rate below 0 is none"
    numbers, births = born(times, np.array([0.0, 1e6]), 0.0, 1.0, 100)
    assert numbers.tolist() == list(range(999_900, 1_000_000))
    assert births.min() > 0.9998


def test_the_step_hangs_on_the_span_alone():
    """While the first second runs, a particle's birth is read off the same knots as later."""
    step = step_for(9.0, 1 / 30, 40)
    early, late = knots(0.0, 0.4, step), knots(0.0, 8.0, step)
    assert np.array_equal(early, late[: len(early)])
    assert len(knots(-9.0, 0.0, step)) <= 40
