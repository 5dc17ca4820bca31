"""Shots from strangers: bounded before anything is allocated or started, and one short line each."""

from __future__ import annotations

import json
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from helpers import rendered
from nimble_quake.errors import LONGEST_LINE, NimbleQuakeError, ShotError, one_line
from nimble_quake.motion.kinds import Formula
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shotfile.files import shot_from

NASTY = "\x1b[31mred\x07\n\r\u202e" + "long " * 400


@pytest.mark.parametrize(
    "rate", ["1e99999999", "1/1e9", "0x10", "25e0", "-25", "99999999999", "1/0", "", "٣", 1e300, None, [25]]
)
def test_rates_that_are_none(rate):
    with pytest.raises(ShotError, match="frame rate"):
        shot_from(json.dumps({"nimble_quake": 1, "rate": rate}).encode(), Path("x.nquake"))


@pytest.mark.parametrize(
    ("rate", "wanted"), [("24000/1001", Fraction(24000, 1001)), ("23.976", Fraction(2997, 125)), (25, 25)]
)
def test_rates_that_are(rate, wanted):
    assert shot_from(json.dumps({"nimble_quake": 1, "rate": rate}).encode(), Path("x.nquake")).rate == wanted


HOSTILE: list[dict[str, Any]] = [
    {"name": NASTY, "width": NASTY},
    {"plates": [{"id": NASTY, "kind": "text"}]},
    {"plates": [{"id": "a", "kind": NASTY, "values": NASTY}]},
    {"maps": [{"id": "m", "recipe": [{"id": "n", "kind": "noise", "values": {"size_x": {"formula": NASTY}}}]}]},
    {"maps": [{"id": "m", "recipe": [{"id": "n", "kind": "noise", "values": {"size_x": {"formula": "n" * 300}}}]}]},
    {"maps": [{"id": "m", "recipe": [{"id": "n", "kind": "noise", "values": {"size_x": {"formula": "9" * 400}}}]}]},
    {"ground": NASTY, "loop": NASTY},
]


@pytest.mark.parametrize("raw", HOSTILE)
def test_messages_are_one_short_plain_line(raw):
    with pytest.raises(ShotError) as wrong:
        shot_from(json.dumps({"nimble_quake": 1, **raw}).encode(), Path("/tmp/" + "folder/" * 60 + "x.nquake"))
    for error in vars(wrong.value)["all"]:
        assert len(error.line()) <= LONGEST_LINE
        assert error.line().isprintable()
    assert len(wrong.value.line()) <= LONGEST_LINE
    assert wrong.value.line().isprintable()


def test_the_cure_is_never_cut_off():
    line = one_line("what " * 200, "choose another")
    assert line.endswith(" - choose another")
    assert len(line) <= LONGEST_LINE


def test_names_of_things_in_a_problem_are_plain():
    plate = Plate(id="p", kind="text", values={"face": NASTY[:150], "words": "A"})
    job = frame_job(Engine(), Shot(width=64, height=36, plates=(plate,)), 0)
    frame_picture(job)
    (problem,) = job.problems.values()
    assert problem.line().isprintable()
    assert len(problem.line()) <= LONGEST_LINE


@pytest.mark.sampled(2)
@pytest.mark.parametrize("frame", [0, 300_000, 999_999])
def test_a_million_frames_with_a_formula_as_a_speed(frame):
    step = Node(id="n", kind="noise", values={"churn": Formula("sin(t)"), "drift": Formula("t*40, random(frame)*90")})
    plate = Plate(id="p", kind="text", effects=(Node(id="q", kind="push", values={"map": "m"}),))
    maps = (Map(id="m", name="", recipe=(step,)),)
    shot = Shot(width=64, height=36, length=1_000_000, maps=maps, plates=(plate,))
    assert rendered(shot, frame).shape == (36, 64, 4)


def test_huge_particles_are_not_all_drawn():
    step = Node(id="n", kind="particles", values={"rate": 20_000.0, "size": 9000.0, "size_end": 9000.0, "life": 60.0})
    plate = Plate(id="p", kind="text", effects=(Node(id="q", kind="push", values={"map": "m"}),))
    shot = Shot(width=640, height=360, length=900, maps=(Map(id="m", name="", recipe=(step,)),), plates=(plate,))
    job = frame_job(Engine(), shot, 600)
    frame_picture(job)
    assert any("so large" in problem.what for problem in job.problems.values())


NO_FORMULAS = [
    "t is t",
    "where(x > y)",
    "1if t else 0",
    "floor(1e308)",
    "9" * 400,
    "n" * 300,
    "x.real",
    "noise(key=3)",
    "(" * 500,
]


@pytest.mark.parametrize("text", NO_FORMULAS)
def test_pixel_formulas_that_are_none_are_told(text):
    step = Node(id="n", kind="formula", values={"text": text})
    plate = Plate(id="p", kind="text", effects=(Node(id="q", kind="push", values={"map": "m"}),))
    shot = Shot(width=64, height=36, maps=(Map(id="m", name="", recipe=(step,)),), plates=(plate,))
    job = frame_job(Engine(), shot, 3)
    try:
        frame_picture(job)
        lines = [problem.line() for problem in job.problems.values()]
    except NimbleQuakeError as wrong:
        lines = [wrong.line()]
    assert all(len(line) <= LONGEST_LINE and line.isprintable() for line in lines)
    assert bool(lines) == (text != "floor(1e308)"), "only this one is a formula, if a strange one"


def test_a_loop_through_a_lens_is_one_line():
    """A lens bent by a map of the lens itself, and by one of a plate that lies over it: refused, or drawn; no crash."""
    own = Map(id="m", name="", recipe=(Node(id="s", kind="picture", values={"plate": "lens", "with_quakes": True}),))
    push = Node(id="e", kind="push", values={"map": "m", "reach_x": 20.0})
    lens = Plate(id="lens", kind="lens", effects=(push,))
    under = Plate(id="under", kind="fill", effects=(Node(id="e", kind="push", values={"map": "m"}),))
    for plates in ((lens, under), (lens,), (lens, Plate(id="two", kind="lens", effects=(push,)), under)):
        shot = Shot(width=64, height=36, plates=plates, maps=(own,))
        try:
            assert np.isfinite(frame_picture(frame_job(Engine(), shot, 0))).all()
        except ShotError as wrong:
            assert "reads itself" in wrong.what
            assert "->" in wrong.where


def test_absurd_couplings_are_defined():
    """Points on one line, centres far off, reaches of a million, masks with no area, plates and maps that are gone."""
    noise = Map(id="m", name="", recipe=(Node(id="n", kind="noise"),))
    drawn = {"form": "polygon", "outline": ((0.0, 0.0), (0.1, 0.0), (0.2, 0.0)), "width": 1.0, "height": 1.0}
    flat = Map(id="k", name="", recipe=(Node(id="d", kind="drawn_mask", values=drawn),))
    for kind, values in (
        ("push", {"map": "m", "reach_x": 1e6, "reach_y": -1e6, "edge": "mirror"}),
        ("push", {"map": "gone", "mask": "gone"}),
        ("push", {"map": "m", "mask": "k"}),
        ("push", {"map": "m", "mode": "out", "centre": (1e5, -1e5), "reach_x": 1e6}),
        ("slope", {"map": "m", "height": 1e6, "bends_by": "own", "index": 0.2, "depth": 1e6}),
        ("mesh", {"net": (0.0, 0.0, 1e6, 1e6, 5.0)[:4], "rows": 1.0, "columns": 1.0}),
        ("mesh", {"net": (300.0,) * 40, "wide": 0.01, "high": 0.01}),
        ("cut_lines", {"lines": 64.0, "apart": 1.0, "widens": 10.0, "stretch": 1000.0}),
        ("bulge", {"form": "polynomial", "k1": 100.0, "k2": 100.0, "k3": 100.0, "radius": 1.0}),
    ):
        plates = (
            Plate(id="t", kind="text", effects=(Node(id="e", kind=kind, values=values),)),
            Plate(id="l", kind="lens", effects=(Node(id="e", kind=kind, values=values),)),
            Plate(id="f", kind="fill"),
        )
        shot = Shot(width=160, height=90, plates=plates, maps=(noise, flat))
        assert np.isfinite(frame_picture(frame_job(Engine(), shot, 3))).all(), (kind, values)
