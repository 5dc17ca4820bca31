"""A circle's stroke whose colour changes across it, painted at once: as Skia's layers are, far finer."""

from __future__ import annotations

import numpy as np
import pytest

from nimble_quake.media.drawing import drawn_shape
from nimble_quake.media.drawing.drawn_shape import Paint, Repeat, Shape, Stroke, draw_shape
from nimble_quake.params.kinds import Stop

FINE = 8
SOFT = (Stop(at=0.0, colour=(1.0, 0.5, 0.25, 0.0)), Stop(at=1.0, colour=(1.0, 0.9, 0.7, 0.85)))
HARD = (Stop(at=0.0, colour=(1.0, 0.0, 0.0, 1.0)), Stop(at=1.0, colour=(0.0, 1.0, 0.0, 1.0)))


def drawn(size: float, thick: float, zoom: float, stops: tuple[Stop, ...], fill: Paint = Paint()) -> np.ndarray:
    look = Paint("across", stops=stops)
    return draw_shape(Shape((size, size), "ellipse"), fill, Stroke(thick), look, Repeat(), (zoom, zoom))[0]


@pytest.mark.parametrize(
    ("size", "thick", "zoom", "stops", "most", "mean"),
    [(410, 45, 1.0, SOFT, 0.01, 1e-4), (150, 20, 1.0, HARD, 0.07, 4e-4), (40, 6, 2.0, HARD, 0.09, 1e-3)],
)
def test_it_is_what_skia_draws_at_eight_times_the_size(size, thick, zoom, stops, most, mean, monkeypatch):
    got = drawn(size, thick, zoom, stops)
    monkeypatch.setattr(drawn_shape, "_is_whole_circle", lambda *_: False)
    layers = drawn(size, thick, zoom * FINE, stops)
    tall, wide = got.shape[:2]
    whole = np.zeros((tall * FINE, wide * FINE, 4), np.float32)
    whole[: layers.shape[0], : layers.shape[1]] = layers[: tall * FINE, : wide * FINE]
    wanted = whole.reshape(tall, FINE, wide, FINE, 4).mean(axis=(1, 3))
    assert np.abs(got - wanted).max() < most
    assert np.abs(got - wanted).mean() < mean
    assert np.abs(drawn(size, thick, zoom, stops) - wanted).mean() > 2 * np.abs(got - wanted).mean(), (
        "and nearer to it than layers at its own size, whose edges add up"
    )


def test_it_lies_over_its_filling(monkeypatch):
    fill = Paint("flat", (0.0, 0.2, 0.4, 0.7))
    got = drawn(200, 40, 1.0, SOFT, fill)
    monkeypatch.setattr(drawn_shape, "_is_whole_circle", lambda *_: False)
    assert np.abs(got - drawn(200, 40, 1.0, SOFT, fill)).mean() < 1e-3
    middle = got[got.shape[0] // 2, got.shape[1] // 2]
    assert middle == pytest.approx((0.0, 0.14, 0.28, 0.7), abs=1e-3)


@pytest.mark.parametrize(
    ("stroke", "size"), [(Stroke(20.0, dash=5.0), 90), (Stroke(20.0, end=0.5), 90), (Stroke(20.0), 60)]
)
def test_what_has_gaps_or_is_no_circle_is_drawn_layer_by_layer(stroke, size, monkeypatch):
    shape = Shape((90, size), "ellipse")
    got = draw_shape(shape, Paint(), stroke, Paint("across", stops=HARD), Repeat(), (1.0, 1.0))[0]
    monkeypatch.setattr(drawn_shape, "_is_whole_circle", lambda *_: False)
    assert np.array_equal(got, draw_shape(shape, Paint(), stroke, Paint("across", stops=HARD), Repeat(), (1.0, 1.0))[0])
