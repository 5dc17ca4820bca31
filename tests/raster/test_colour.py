"""Transfer curves, luminance, channels and conversions against their standards."""

from __future__ import annotations

import numpy as np
import pytest

from nimble_quake.raster.colour.channels import (
    CHANNELS,
    as_channels,
    channel,
    linear_to_srgb,
    luminance,
    srgb_to_linear,
)
from nimble_quake.raster.colour.convert import premultiplied, to_rgba8, to_rgba16, to_screen


def test_srgb_values():
    """IEC 61966-2-1:1999."""
    assert srgb_to_linear(np.array([128 / 255], np.float32))[0] == pytest.approx(0.2158605, abs=1e-6)
    assert linear_to_srgb(np.array([0.5, 0.18], np.float32)) == pytest.approx([0.7353570, 0.4613561], abs=1e-6)
    codes = np.asarray(np.arange(256) / 255, np.float32)
    back = np.asarray(linear_to_srgb(srgb_to_linear(codes)))
    assert np.abs(back - codes).max() < 1e-5


def test_inverting_in_linear_light_moves_grey():
    """Why maps stay in coded values: half grey inverted in linear light comes back as 0.899 (sRGB curve)."""
    half = srgb_to_linear(np.array([0.5], np.float32))
    assert linear_to_srgb(1 - half)[0] == pytest.approx(0.899, abs=1e-3)


def test_luminance_of_red():
    """ITU-R BT.709-6: red weighs 0.2126."""
    red = np.array([[[1.0, 0, 0, 1]]], np.float32)
    assert luminance(red)[0, 0] == pytest.approx(0.2126)
    assert channel(red, "red")[0, 0] == 1.0
    assert channel(red, "value")[0, 0] < 0.5


def test_hsl_channels_against_colorsys():
    """Python's colorsys has the same HLS."""
    import colorsys

    chance = np.random.Generator(np.random.PCG64(2)).random((20, 1, 4)).astype(np.float32)
    for pixel in chance[:, 0]:
        h, light, s = colorsys.rgb_to_hls(*(float(v) for v in pixel[:3]))
        field = pixel[None, None]
        assert channel(field, "lightness")[0, 0] == pytest.approx(light, abs=1e-5)
        assert channel(field, "saturation")[0, 0] == pytest.approx(s, abs=1e-4)
        assert channel(field, "hue")[0, 0] % 1 == pytest.approx(h % 1, abs=1e-4)


@pytest.mark.parametrize("name", CHANNELS)
@pytest.mark.parametrize("count", [1, 2, 4])
def test_every_channel_of_every_kind_of_map(name, count):
    got = channel(np.full((3, 5, count), 0.25, np.float32), name)
    assert got.shape == (3, 5)
    assert np.isfinite(got).all()


def test_vector_map_value_is_per_axis():
    field = np.zeros((1, 1, 2), np.float32)
    field[..., 0], field[..., 1] = 0.2, 0.9
    assert channel(field, "value", 0)[0, 0] == pytest.approx(0.2)
    assert channel(field, "value", 1)[0, 0] == pytest.approx(0.9)


def test_richer_channels():
    value = np.full((2, 2, 1), 0.3, np.float32)
    assert as_channels(value, 4)[0, 0].tolist() == pytest.approx([0.3, 0.3, 0.3, 1])
    vector = np.full((2, 2, 2), 0.7, np.float32)
    assert as_channels(vector, 4)[0, 0].tolist() == pytest.approx([0.7, 0.7, 0.5, 1])


@pytest.mark.parametrize(("dtype", "back"), [(np.uint8, to_rgba8), (np.uint16, to_rgba16)])
def test_bytes_round_trip_where_opaque(dtype, back):
    most = np.iinfo(dtype).max
    chance = np.random.Generator(np.random.PCG64(4)).integers(0, most + 1, (30, 40, 4)).astype(dtype)
    chance[..., 3] = most
    assert np.array_equal(back(premultiplied(chance)), chance)


def test_every_8_bit_code_with_alpha_stays_close():
    rgba = np.zeros((256, 256, 4), np.uint8)
    rgba[..., 0], rgba[..., 3] = np.arange(256)[:, None], np.arange(256)[None]
    got = to_rgba8(premultiplied(rgba)).astype(int)
    visible = rgba[..., 3] > 0
    assert np.abs(got - rgba.astype(int))[visible].max() <= 1


def test_screen_bytes_are_bgrx_over_the_ground():
    picture = np.array([[[0.5, 0.0, 0.0, 0.5]]], np.float32)
    assert to_screen(picture, (0.0, 1.0, 0.0))[0, 0].tolist() == [0, 128, 128, 255]
