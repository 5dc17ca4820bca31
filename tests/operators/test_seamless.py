"""In a seamless shot every source closes over its length, whatever it is, and has no seam at its end."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest

from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Number, Pairs
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map, Node, Plate, Shot

SOURCES = [op for op in registry().all("source") if op.kind not in ("picture", "motion", "tracked_points")]
"""Those that show footage close as it does."""
LENGTH = 48
GRID = frame_grid(160, 90)


def lively(operator) -> dict[str, object]:
    """The operator with all its speeds on."""
    values: dict[str, object] = {}
    for name, param in operator.declared.items():
        if isinstance(param, Number) and param.accumulates:
            values[name] = 1.3
        elif isinstance(param, Pairs) and param.accumulates:
            values[name] = (37.0, -11.0)
    if operator.kind == "formula":
        values["formula"] = "0.5 + 0.4*sin(u*9 + t*2.3)"
    return values


def values_at(operator, frame: float, engine: Engine, *, seamless: bool) -> np.ndarray:
    step = Node(id="s", kind=operator.kind, values=lively(operator))
    plates = (Plate(id="t", kind="text", values={"size": 40.0}),)
    map = Map(id="m", name="M", recipe=(step,))
    shot = Shot(width=160, height=90, rate=Fraction(24), length=LENGTH, maps=(map,), plates=plates, seamless=seamless)
    return map_field(frame_job(engine, shot, frame), map, GRID)


@pytest.mark.parametrize("operator", SOURCES, ids=lambda op: op.kind)
def test_the_end_is_the_beginning_bit_for_bit_and_there_is_no_seam(operator):
    engine = Engine()
    frames = [values_at(operator, n, engine, seamless=True) for n in (0, 1, LENGTH - 1, LENGTH, LENGTH + 1)]
    assert np.array_equal(frames[0], frames[3])
    assert np.array_equal(frames[1], frames[4])
    inner = [np.abs(frames[1] - frames[0]).mean()]
    inner += [
        np.abs(values_at(operator, n + 1, engine, seamless=True) - values_at(operator, n, engine, seamless=True)).mean()
        for n in (11, 23, 37)
    ]
    seam = np.abs(frames[3] - frames[2]).mean()
    assert seam <= 1.6 * max(inner) + 1e-3, "the step from the last frame to the first is like any other"


def test_without_the_switch_nothing_is_changed():
    for operator in SOURCES[:6]:
        engine = Engine()
        first, last = (values_at(operator, n, engine, seamless=False) for n in (5, 5))
        assert np.array_equal(first, last)


def test_the_spread_stays_even_where_two_are_faded():
    """Cosine and sine weights keep the variance of what is independent: within a fifth at the middle."""
    particles = next(op for op in SOURCES if op.kind == "static")
    engine = Engine()
    spreads = [values_at(particles, n, engine, seamless=True).std() for n in (0, 12, 24, 36)]
    assert max(spreads) / min(spreads) < 1.25
