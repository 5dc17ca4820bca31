"""Weighted sums of two pictures, and how far a wipe is, against their formulas in NumPy."""

import numpy as np
import pytest

from nimble_quake.raster.colour.mix import mixed, mixed_by_map

SHAPE = (70, 90)
rng = np.random.Generator(np.random.PCG64(4))


def picture(shape=SHAPE):
    return rng.random((*shape, 4)).astype(np.float32)


@pytest.mark.parametrize("one", [SHAPE, (1, 1)])
@pytest.mark.parametrize("two", [SHAPE, (1, 1)])
@pytest.mark.parametrize("where", [SHAPE, (1, 1)])
def test_it_is_the_sum_by_weights(one, two, where):
    """W3C plus-lighter: premultiplied colours and alphas are added by their weights."""
    a, b, w = picture(one), picture(two), picture(where)[..., :1]
    wanted = np.broadcast_to(a * (1 - w) + b * w, (*SHAPE, 4))
    np.testing.assert_allclose(mixed(a, b, w, SHAPE), wanted, atol=1e-6)


@pytest.mark.parametrize("where", [SHAPE, (1, 1)])
def test_at_none_and_at_all_it_is_one_of_them_bit_for_bit(where):
    a, b = picture(), picture()
    assert (mixed(a, b, np.zeros((*where, 1), np.float32), SHAPE) == a).all()
    assert (mixed(a, b, np.ones((*where, 1), np.float32), SHAPE) == b).all()


def test_a_part_of_a_larger_picture_is_taken_as_it_lies():
    a, b = picture((90, 120)), picture()
    w = np.full((1, 1, 1), 0.25, np.float32)
    part = a[10:80, 20:110]
    np.testing.assert_allclose(mixed(part, b, w, SHAPE), part * 0.75 + b * 0.25, atol=1e-6)


@pytest.mark.parametrize("channels", [1, 3, 4])
@pytest.mark.parametrize("light_first", [False, True])
@pytest.mark.parametrize("mix", [0.0, 0.3, 1.0])
def test_how_far_a_wipe_is(channels, light_first, mix):
    values = rng.uniform(-0.2, 1.2, (*SHAPE, channels)).astype(np.float32)
    v = values[..., :1] if channels == 1 else values[..., :3].mean(axis=2, keepdims=True)
    v = np.clip(1 - v if light_first else v, 0, 1)
    wanted = np.clip((mix * 1.15 - v) / 0.15, 0, 1)
    nothing, all_ = np.zeros((1, 1, 4), np.float32), np.ones((1, 1, 4), np.float32)
    got = mixed_by_map(nothing, all_, values, mix, 0.15, light_first=light_first)[..., :1]
    np.testing.assert_allclose(got, wanted, atol=2e-5)
    assert got.min() >= 0
    assert got.max() <= 1
    if mix in (0.0, 1.0):
        assert (got == mix).all()


@pytest.mark.parametrize("sides", [(SHAPE, SHAPE), ((1, 1), SHAPE), (SHAPE, (1, 1))])
@pytest.mark.parametrize("mix", [0.0, 0.4, 1.0])
def test_by_a_map_it_is_the_sum_by_those_weights(sides, mix):
    one, two = picture(sides[0]), picture(sides[1])
    values = rng.uniform(-0.2, 1.2, (*SHAPE, 1)).astype(np.float32)
    weights = np.clip((mix * 1.3 - np.clip(values.astype(float), 0, 1)) / 0.3, 0, 1).astype(np.float32)
    assert (mixed_by_map(one, two, values, mix, 0.3) == mixed(one, two, weights, SHAPE)).all()
