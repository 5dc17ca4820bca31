"""Formulas over a whole picture: right where they are right, one line where they are hostile."""

from __future__ import annotations

import numpy as np
import pytest

from nimble_quake.errors import FormulaError
from nimble_quake.motion.fields import evaluated, parsed
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map, Node, Shot

XS, YS = np.linspace(-2, 2, 5, dtype=np.float32)[None, :], np.linspace(0, 1, 3, dtype=np.float32)[:, None]
HOSTILE = (
    "__import__('os').system('x')",
    "x.__class__",
    "[x for x in (1,)]",
    "lambda: 1",
    "open('a')",
    "x if y else t",
    "'a' * 9",
    "(" * 300 + "x" + ")" * 300,
    "+".join(["x"] * 300),
    "x +",
    "f'{x}'",
    "x[0]",
    "sin",
    "secret",
    "True",
    "sin(x)(y)",
    "1 < x < 2",
)


def shot_of(text: str) -> Shot:
    recipe = (Node(id="f", kind="formula", values={"text": text}),)
    return Shot(width=32, height=18, maps=(Map(id="m", name="", recipe=recipe),))


def run(text: str) -> np.ndarray:
    return np.broadcast_to(evaluated(text, {"x": XS, "y": YS}, lambda *_: 0.0), (3, 5))


def test_against_numpy():
    assert np.allclose(run("0.5 + sin(x) * y ** 2"), 0.5 + np.sin(XS) * YS**2)
    assert np.allclose(run("where(x < 0, 0, smoothstep(0, 2, x))")[0], [0, 0, 0, 0.5, 1])
    assert np.allclose(run("fract(x / 0.75) + hypot(x, y)"), XS / 0.75 - np.floor(XS / 0.75) + np.hypot(XS, YS))


@pytest.mark.parametrize("text", HOSTILE)
def test_nothing_but_arithmetic_is_reached(text):
    with pytest.raises(FormulaError) as wrong:
        run(text)
    assert "\n" not in wrong.value.line()


@pytest.mark.parametrize(
    "text", ["1 / 0", "x / 0", "10 ** 10 ** 10", "log(0)", "sqrt(-1)", "(-2) ** 0.5", "x % 0", "tan(pi / 2) ** 99"]
)
def test_numbers_without_a_value_come_out_finite(text):
    """In a map, what has no value is at rest, and what is enormous is held."""
    shot = Shot(
        width=32, height=18, maps=(Map(id="m", name="", recipe=(Node(id="f", kind="formula", values={"text": text}),)),)
    )
    values = map_field(frame_job(Engine(), shot, 3), shot.maps[0], frame_grid(32, 18))
    assert np.isfinite(values).all()
    assert np.abs(values).max() <= 4


def test_a_wrong_formula_in_a_map_is_told_and_the_frame_goes_on():
    shot = Shot(
        width=32,
        height=18,
        maps=(Map(id="m", name="", recipe=(Node(id="f", kind="formula", values={"text": "secret"}),)),),
    )
    job = frame_job(Engine(), shot, 3)
    assert (map_field(job, shot.maps[0], frame_grid(32, 18)) == 0.5).all()
    (problem,) = job.problems.values()
    assert "secret" in problem.line()
    assert parsed("x + 1") is parsed("x + 1")
