"""Timecode against SMPTE ST 12-1 (references 10.7: counts from memory of the standard)."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nimble_quake.motion.timecode import clock_text, frame_of, frames_typed, timecode

DROP = Fraction(30000, 1001)


@pytest.mark.parametrize(
    ("frame", "text"),
    [
        (0, "00:00:00;00"),
        (1799, "00:00:59;29"),
        (1800, "00:01:00;02"),
        (17981, "00:09:59;29"),
        (17982, "00:10:00;00"),
        (107_892, "01:00:00;00"),
        (3597, "00:01:59;29"),
        (3598, "00:02:00;02"),
    ],
)
def test_drop_frame_table(frame, text):
    """17,982 frames in ten minutes, 107,892 in an hour; ;00 and ;01 are left out each minute but every tenth."""
    assert timecode(frame, DROP) == text
    assert frame_of(text, DROP) == frame


@pytest.mark.parametrize(
    ("rate", "frame", "text"),
    [
        (Fraction(24), 40, "00:00:01:16"),
        (Fraction(25), 90_000, "01:00:00:00"),
        (Fraction(24000, 1001), 86_400, "01:00:00:00"),
        (Fraction(60000, 1001), 3600, "00:01:00;04"),
        (Fraction(120), 119, "00:00:00:119"),
        (Fraction(30), -31, "-00:00:01:01"),
    ],
)
def test_other_rates(rate, frame, text):
    assert timecode(frame, rate) == text


@given(
    st.integers(0, 2_000_000), st.sampled_from([DROP, Fraction(60000, 1001), Fraction(24), Fraction(25), Fraction(50)])
)
def test_there_and_back(frame, rate):
    assert frame_of(timecode(frame, rate), rate) == frame


def test_an_hour_of_drop_frame_keeps_to_the_clock():
    """It is 3.6 ms off in an hour (references 10.7)."""
    assert float(107_892 / DROP) - 3600 == pytest.approx(-0.0036, abs=1e-4)


@pytest.mark.parametrize("text", ["", "00:01:00;00", "00:00:60:00", "1:2", "a:b:c:d", "00:00:00:30"])
def test_what_is_no_timecode(text):
    assert frame_of(text, DROP) is None


def test_clocks():
    rate = Fraction(24)
    assert clock_text(40, rate, "timecode") == "00:00:01:16"
    assert clock_text(40, rate, "timecode", short=True) == "1:16"
    assert clock_text(24 * 75, rate, "timecode", short=True) == "1:15:00"
    assert clock_text(40, rate, "frames") == "40"
    assert clock_text(36, rate, "seconds") == "1.500 s"
    assert clock_text(36, rate, "seconds", short=True) == "1.50"


@pytest.mark.parametrize(
    ("text", "frames"),
    [
        ("1.5", 36),
        ("1,5 s", 36),
        ("36 f", 36),
        ("36 frames", 36),
        ("00:00:01:12", 36),
        ("x", None),
        ("-1", None),
        ("nan", None),
    ],
)
def test_what_is_typed_as_a_length(text, frames):
    assert frames_typed(text, Fraction(24)) == frames
