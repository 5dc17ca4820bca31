"""Gradients whose stops stand close together, by the kernel and by NumPy."""

from __future__ import annotations

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st

from nimble_quake.params.kinds import Stop
from nimble_quake.raster.shapes.gradient import TABLE, colour_at, stop_colours

SHARE = st.floats(0, 1, width=32)
PLACES = st.lists(st.sampled_from((0.0, 0.25, 0.5, 0.5001, 0.5001, 1.0)), min_size=2, max_size=5).map(sorted)
COLOURS = st.tuples(SHARE, SHARE, SHARE, st.sampled_from((0.0, 0.3, 1.0)))
T = np.concatenate([np.linspace(-0.2, 1.2, 141), [0.25, 0.5, 0.5001, 0.50005]]).astype(np.float32).reshape(5, 29)


@given(PLACES, st.lists(COLOURS, min_size=5, max_size=5), st.floats(0.05, 0.95))
def test_hard_stops_are_those_of_the_formula(places, colours, middle):
    """CSS Images 4 colour hints and CSS Color 4 premultiplied mixing, as `stop_colours` has them in float64."""
    assume(np.diff(places).min() < 8 / TABLE)  # the others are read from a table
    stops = tuple(Stop(at, colour, middle) for at, colour in zip(places, colours, strict=False))
    assert np.allclose(colour_at(stops, T), stop_colours(stops, T.astype(np.float64)), atol=1e-6)
