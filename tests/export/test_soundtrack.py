"""Sound in rendered files: sample-exact where the file is lossless, in step with the picture in every format."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from media.test_sound import noise, write_wav
from nimble_quake.errors import BadInput
from nimble_quake.export.formats import formats
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import Rendered, render
from nimble_quake.render.engine import Engine
from nimble_quake.shot.model import Node, Shot

WITH_SOUND = [format for format in formats() if format.sound]


def shot_of(*sounds: Node, rate: Fraction = Fraction(24), length: int = 48) -> Shot:
    return Shot(width=64, height=48, rate=rate, length=length, sounds=sounds)


def sound(file: Path, **values: object) -> Node:
    return Node(id="s", kind="sound", values={"file": str(file), **values})


def heard(path: Path) -> tuple[np.ndarray, int]:
    """The samples of a file, (n, 2), as its player hears them."""
    with av.open(str(path)) as container:
        stream = container.streams.audio[0]
        resampler = av.AudioResampler(format="fltp", layout="stereo", rate=stream.rate)
        parts = [p.to_ndarray().T for frame in container.decode(stream) for p in resampler.resample(frame)]
        return np.concatenate(parts), stream.rate


def made(tmp_path: Path, shot: Shot, suffix: str, first: int = 0, last: int | None = None) -> tuple[Path, Rendered]:
    path = tmp_path / f"out{suffix}"
    return path, render(Order(shot, path, first, shot.length - 1 if last is None else last), Engine())


@pytest.mark.parametrize("rate", [Fraction(24), Fraction(24000, 1001), Fraction(30)])
@pytest.mark.parametrize("sample_rate", [44_100, 48_000])
def test_lossless_sound_is_exact_from_its_first_frame_on(tmp_path, rate, sample_rate):
    """FLAC (RFC 9639) in Matroska, read by PyAV: the very samples of the source over frames 10 to 40."""
    samples = noise(sample_rate * 3)
    file = write_wav(tmp_path / "n.wav", samples, sample_rate)
    path, _ = made(tmp_path, shot_of(sound(file), rate=rate), ".mkv", 10, 40)
    found, found_rate = heard(path)
    first, last = (round(n / rate * sample_rate) for n in (10, 41))
    assert found_rate == sample_rate
    assert np.array_equal(found, samples[first:last].astype(np.float32) / 32768)


@pytest.mark.parametrize("format", WITH_SOUND, ids=lambda format: format.key)
def test_in_every_format_a_click_is_heard_within_a_frame_of_its_picture(tmp_path, format):
    samples = np.zeros((48_000 * 2, 2), "<i2")
    samples[36_000:36_040] = 20_000
    file = write_wav(tmp_path / "click.wav", samples)
    path, _ = made(tmp_path, shot_of(sound(file)), format.suffix)
    found, rate = heard(path)
    at = np.argmax(np.abs(found[:, 0])) / rate
    assert at == pytest.approx(0.75, abs=1 / 24)
    with av.open(str(path)) as container:
        assert container.streams.video[0].frames in (0, 48)
        lasts = [float((s.duration or 0) * s.time_base) for s in container.streams if s.duration]
        assert all(abs(seconds - 2) < 0.1 for seconds in lasts)


def test_start_trim_gain_and_fades(tmp_path):
    samples = np.full((48_000, 2), 8192, "<i2")
    file = write_wav(tmp_path / "n.wav", samples)
    node = sound(file, start=12.0, first=0.25, lasts=0.5, gain=-6.0206, fade_in=0.1)
    found, rate = heard(made(tmp_path, shot_of(node), ".mkv")[0])
    begins = round(0.5 * rate)
    assert np.abs(found[:begins]).max() == 0
    assert found[begins + round(0.05 * rate), 0] == pytest.approx(0.125 / 2, abs=1e-3)
    assert found[begins + round(0.3 * rate), 0] == pytest.approx(0.125, abs=1e-4), "-6.02 dB is one half"
    assert np.abs(found[begins + round(0.5 * rate) + 1 :]).max() == 0


def test_several_sounds_add_up_and_muted_ones_are_not_heard(tmp_path):
    a, b = noise(48_000), noise(48_000)[::-1]
    files = [write_wav(tmp_path / f"{n}.wav", s) for n, s in enumerate((a, b))]
    nodes = [Node(id=str(n), kind="sound", values={"file": str(file)}) for n, file in enumerate(files)]
    muted = Node(id="m", kind="sound", on=False, values={"file": str(files[0])})
    found, _ = heard(made(tmp_path, shot_of(*nodes, muted, length=24), ".mkv")[0])
    assert np.allclose(found, (a.astype(np.float64) + b) / 32768, atol=1e-6)


def test_a_sound_of_another_rate_keeps_its_pitch_and_time(tmp_path):
    t = np.arange(22_050 * 2) / 22_050
    wave_ = (np.sin(2 * np.pi * 440 * t) * 16_000).astype("<i2")
    files = [
        write_wav(tmp_path / "low.wav", np.stack([wave_] * 2, 1), 22_050),
        write_wav(tmp_path / "none.wav", np.zeros((48_000, 2)), 48_000),
    ]
    nodes = [Node(id=str(n), kind="sound", values={"file": str(file)}) for n, file in enumerate(files)]
    found, rate = heard(made(tmp_path, shot_of(*nodes), ".mkv")[0])
    spectrum = np.abs(np.fft.rfft(found[:, 0] * np.hanning(len(found))))
    assert np.argmax(spectrum) * rate / len(found) == pytest.approx(440, abs=1)
    assert np.abs(found).max() == pytest.approx(16_000 / 32768, abs=0.01)


def test_a_shot_without_sounds_has_no_sound_stream_and_a_lost_one_is_said(tmp_path):
    path, _ = made(tmp_path, shot_of(), ".mp4")
    with av.open(str(path)) as container:
        assert not container.streams.audio
    path, done = made(tmp_path, shot_of(sound(tmp_path / "gone.wav")), ".mkv")
    assert path.exists()
    assert any("gone.wav" in problem.line() for problem in done.problems)


@pytest.mark.parametrize(
    ("suffix", "asked", "got"), [(".mkv", 0, 44_100), (".mkv", 48_000, 48_000), (".mov", 0, 48_000)]
)
def test_at_48_khz_on_request_and_always_in_quicktime(tmp_path, suffix, asked, got):
    """A tone of 1 kHz at 44.1 kHz stays one: its zero crossings, by PyAV."""
    at = np.arange(44_100 * 2) / 44_100
    tone = np.repeat((12_000 * np.sin(2 * np.pi * 1000 * at))[:, None], 2, axis=1).astype("<i2")
    file = write_wav(tmp_path / "t.wav", tone, 44_100)
    path = tmp_path / f"out{suffix}"
    render(Order(shot_of(sound(file)), path, 0, 47, sound_rate=asked), Engine())
    found, rate = heard(path)
    assert rate == got
    assert len(found) == 2 * rate
    middle = found[rate // 2 : rate * 3 // 2, 0]
    assert abs(np.count_nonzero(np.diff(np.signbit(middle))) - 2000) <= 2


def test_another_rate_is_one_line(tmp_path):
    with pytest.raises(BadInput, match="12345 Hz"):
        render(Order(shot_of(), tmp_path / "a.mkv", 0, 1, sound_rate=12_345), Engine())
