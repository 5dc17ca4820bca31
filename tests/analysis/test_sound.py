"""Bands and beats, against tones, sweeps, SciPy's filters and synthetic click tracks."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import butter, sosfiltfilt

from nimble_quake.analysis.bands import HOP_RATE, band_power, followed, spectrum
from nimble_quake.analysis.beats import found_in

RATE = 48_000


def tone(hertz: float, seconds: float = 2.0, amplitude: float = 0.5) -> np.ndarray:
    return (amplitude * np.sin(2 * np.pi * hertz * np.arange(int(RATE * seconds)) / RATE)).astype(np.float32)


def decibels(amplitude: float) -> float:
    return float(20 * np.log10(amplitude))


def level(mono: np.ndarray, low: float, high: float) -> float:
    """The amplitude of a sine that would be as loud, in dB of full scale, away from the ends."""
    power = band_power(mono, RATE, low, high)[HOP_RATE // 2 : -HOP_RATE // 2]
    return decibels(float(np.sqrt(2 * power.mean())))


@pytest.mark.parametrize("hertz", [60, 110, 440, 1000, 5000, 12_000])
def test_a_tone_within_its_band_has_its_own_level(hertz):
    """A sine of -6.02 dBFS (amplitude one half) reads as that, within 0.5 dB (arithmetic)."""
    assert level(tone(hertz), hertz / 1.6, hertz * 1.6) == pytest.approx(-6.02, abs=0.5)
    assert level(tone(hertz), hertz * 4, hertz * 8) < -40, "and little of it in a band two octaves above"
    assert level(tone(hertz, amplitude=1.0), hertz / 1.6, hertz * 1.6) == pytest.approx(0, abs=0.5)


@pytest.mark.parametrize(("low", "high"), [(40, 120), (200, 800), (1000, 4000)])
def test_levels_are_those_of_scipys_butterworth_filter(low, high):
    """scipy.signal.butter of order 4 run to and fro by sosfiltfilt, on a sweep from 20 Hz to 12 kHz; within 0.5 dB.

    Both are smoothed over 60 ms: windows of 20 ms that begin a sample apart ripple with the tone itself.
    """
    t = np.arange(RATE * 6) / RATE
    sweep = np.sin(2 * np.pi * 20 * (600 ** (t / 6) - 1) / np.log(600) * 6).astype(np.float32)
    own = band_power(sweep, RATE, low, high)
    filtered = sosfiltfilt(butter(4, (low, high), "bandpass", fs=RATE, output="sos"), sweep.astype(np.float64))
    window = np.ones(int(0.02 * RATE)) / int(0.02 * RATE)
    theirs = np.convolve(filtered**2, window, "same")[:: RATE // HOP_RATE][: len(own)]
    own, theirs = (np.convolve(n, np.ones(12) / 12, "same") for n in (own, theirs))
    loud = theirs > theirs.max() * 0.2
    loud[:40] = loud[-40:] = False
    assert np.abs(10 * np.log10(own[loud] / theirs[loud])).max() < 0.5


def test_silence_short_sounds_and_bands_beyond_the_sound_are_nothing():
    for mono in (np.zeros(RATE, np.float32), np.zeros(3, np.float32), np.ones(1, np.float32)):
        found = band_power(mono, RATE, 40, 120)
        assert np.isfinite(found).all()
        assert found.max() < 1e-4
    assert band_power(tone(440), 8000, 6000, 9000).max() < 1e-4, "above half the rate there is nothing"
    assert np.isfinite(band_power(tone(440), RATE, 500, 20)).all(), "edges in the wrong order"


def test_the_spectrum_shows_a_tone_where_it_is():
    edges = np.geomspace(20, 20_000, 61)
    bars = spectrum(tone(1060), RATE, 1.0, edges)
    loudest = int(np.argmax(bars))
    assert edges[loudest] <= 1060 <= edges[loudest + 1]
    assert bars.max() == pytest.approx(0.5, abs=0.03)
    assert spectrum(tone(1000), RATE, 99.0, edges).max() == 0, "after its end"


def test_levels_follow_with_their_own_time():
    """One-pole followers reach 63 % (1 - 1/e) of a step after their time."""
    step = np.concatenate([np.zeros(100), np.ones(200), np.zeros(300)]).astype(np.float32)
    found = followed(step, 100.0, 400.0)
    assert found[100 + HOP_RATE // 10 - 1] == pytest.approx(1 - np.exp(-1), abs=0.02)
    assert found[300 + int(HOP_RATE * 0.4) - 1] == pytest.approx(np.exp(-1), abs=0.02)
    assert np.array_equal(followed(step, 0, 0), step)


def clicks(tempo: float, swing: float, noise: float, seconds: float = 16.0) -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng(int(tempo * 10))
    out, times, length = np.zeros(int(RATE * seconds), np.float32), [], int(0.03 * RATE)
    for number in range(int((seconds - 0.5) * tempo / 60)):
        at = 0.3 + number * 60 / tempo + (swing * 60 / tempo if number % 2 else 0)
        first = int(at * RATE)
        out[first : first + length] += 0.6 * rng.standard_normal(length) * np.exp(-np.arange(length) / (0.005 * RATE))
        times.append(at)
    return out + noise * rng.standard_normal(len(out)).astype(np.float32), np.array(times)


@pytest.mark.parametrize("tempo", [60, 75, 97.5, 120, 140, 180])
@pytest.mark.parametrize("swing", [0.0, 0.08])
@pytest.mark.parametrize("noise", [0.0, 0.02])
def test_every_click_is_found_and_none_else(tempo, swing, noise):
    """Synthetic click tracks (references 10.11): all within 20 ms, at most 2 % false ones."""
    mono, times = clicks(tempo, swing, noise)
    hits = np.array(found_in(mono, RATE).hits)
    assert np.abs(hits[:, None] - times).min(axis=0).max() < 0.02
    assert len(hits) <= len(times) * 1.02


@pytest.mark.parametrize("tempo", [60, 75, 97.5, 120, 140, 180])
def test_steady_beats_have_their_tempo_and_place(tempo):
    """Tempo within 1 %, or an octave (references 10.12); every beat on a click."""
    mono, times = clicks(tempo, 0.0, 0.01)
    found = found_in(mono, RATE)
    octave = found.tempo / tempo
    assert min(abs(octave / times - 1) for times in (0.5, 1, 2)) < 0.01
    assert np.abs(np.array(found.beats)[:, None] - times).min(axis=1).max() < 0.02


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 4000), st.floats(0, 1))
def test_anything_at_all_is_searched_without_a_fault(length, loud):
    rng = np.random.default_rng(length)
    found = found_in((rng.standard_normal(length) * loud).astype(np.float32), 8000)
    assert all(np.isfinite(found.hits))


def test_silence_has_no_beats_and_a_search_can_be_stopped():
    assert found_in(np.zeros(RATE, np.float32), RATE).beats == ()
    told: list[float] = []

    def step(share: float) -> bool:
        told.append(share)
        return False

    found_in(clicks(120, 0, 0)[0], RATE, step=step)
    assert len(told) == 1
