"""Parameter kinds: what they take, refuse, and how they are written."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nimble_quake.errors import ShotError
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import (
    Choice,
    Colour,
    Number,
    Seed,
    Stop,
    Stops,
    Toggle,
    Words,
    hex_of,
    options,
    parse_hex,
)

PARAMS = [(op.kind, param) for op in registry().all() for param in op.declared.values()]
JUNK = [
    None,
    "x",
    [],
    {},
    math.nan,
    math.inf,
    -math.inf,
    10**400,
    [1, 2, 3],
    [math.nan, 0],
    {"keys": 1},
    b"",
    object(),
    "#12",
]


@pytest.mark.parametrize(("kind", "param"), PARAMS, ids=[f"{kind}.{param.name}" for kind, param in PARAMS])
def test_every_declaration(kind, param):
    """Labels, help and defaults of every parameter of every operator hold their own rules."""
    assert param.label
    assert len(param.label) <= 18
    assert param.help
    assert not param.help.endswith(".")
    start = param.start(1920, 1080)
    assert param.check(start) == start
    assert param.check(param.encode(start)) == start
    assert isinstance(param.schema(), dict)
    if isinstance(param, Number):
        assert param.hard[0] <= param.usual[0] < param.usual[1] <= param.hard[1]
    for junk in JUNK:
        try:
            clean = param.check(junk)
        except ShotError as wrong:
            assert "\n" not in wrong.line()
        else:
            assert param.check(clean) == clean


@given(st.tuples(*[st.integers(0, 255)] * 4))
def test_hex_colours_round_trip(codes):
    rgba = tuple(code / 255 for code in codes)
    assert parse_hex(hex_of(rgba)) == pytest.approx(rgba)


def test_numbers():
    size = Number(hard=(1, 10), usual=(2, 5), whole=True)
    assert size.check(4.4) == 4.0
    assert size.clamp(99) == 10.0
    assert size.clamp(math.nan) == size.default
    with pytest.raises(ShotError, match="1 to 10"):
        size.check(11)
    with pytest.raises(ShotError, match="number"):
        size.check(True)
    assert size.encode(3.0) == 3
    assert isinstance(size.encode(3.0), int)


def test_others():
    assert Seed().check(7.0) == 7
    with pytest.raises(ShotError):
        Seed().check(-1)
    choice = Choice(default="a", options=options(a="First: the first", b="Second"))
    assert choice.label_of("a") == "First"
    with pytest.raises(ShotError, match="a, b"):
        choice.check("c")
    with pytest.raises(ShotError):
        Toggle().check(1)
    assert Words().check("a\x00b\ud800") == "ab?"
    with pytest.raises(ShotError, match="under 5"):
        Words(most=5).check("longer")
    with pytest.raises(ShotError):
        Colour().check("#ggg")


def test_stops_are_sorted_and_limited():
    stops = Stops().check([[0.9, "#ffffff", 0.5], [0.1, "#000000"]])
    assert [stop.at for stop in stops] == [0.1, 0.9]
    assert Stops().check((Stop(2.0, (0, 0, 0, 1)),))[0].at == 1.0
    with pytest.raises(ShotError, match="64"):
        Stops().check([[0, "#000000"]] * 65)
