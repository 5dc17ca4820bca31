"""Decoding sounds: exact, at their own rate; what is broken is told in one line."""

from __future__ import annotations

import wave
from pathlib import Path

import av
import numpy as np
import pytest

from nimble_quake.errors import MediaError
from nimble_quake.media.sound import Recordings, read_sound
from nimble_quake.samples import draw_sound


def write_wav(path: Path, samples: np.ndarray, rate: int = 48_000) -> Path:
    """Write 16-bit samples, (n, channels)."""
    with wave.open(str(path), "wb") as file:
        file.setnchannels(samples.shape[1])
        file.setsampwidth(2)
        file.setframerate(rate)
        file.writeframes(samples.astype("<i2").tobytes())
    return path


def noise(count: int, channels: int = 2) -> np.ndarray:
    return (np.random.default_rng(1).standard_normal((count, channels)) * 5000).astype("<i2")


def test_a_wav_is_read_sample_by_sample(tmp_path):
    """16-bit PCM is samples / 32768 (IEEE float audio's usual scale; FFmpeg's own)."""
    samples = noise(10_000)
    found = read_sound(str(write_wav(tmp_path / "a.wav", samples, 44_100)))
    assert found.rate == 44_100
    assert np.array_equal(found.samples, samples.astype(np.float32) / 32768)
    one = read_sound(str(write_wav(tmp_path / "b.wav", samples[:, :1])))
    assert np.allclose(one.samples[:, 0], one.samples[:, 1])


def test_the_sample_sound_is_what_its_script_makes():
    assert np.array_equal(read_sound(str(draw_sound.FILE)).samples, draw_sound.drums().astype(np.float32) / 32768)


def test_what_is_no_sound_is_said(tmp_path):
    (tmp_path / "text.wav").write_text("not a sound at all")
    (tmp_path / "list.mp3").write_text("ffconcat version 1.0\nfile secret.wav\n")
    (tmp_path / "empty.flac").write_bytes(b"")
    write_wav(tmp_path / "none.wav", noise(0))
    for name in ("text.wav", "list.mp3", "empty.flac", "none.wav", "gone.wav"):
        with pytest.raises(MediaError) as caught:
            read_sound(str(tmp_path / name))
        assert "\n" not in caught.value.line()


def test_a_sound_that_ends_early_is_heard_as_far_as_it_goes(tmp_path):
    whole = write_wav(tmp_path / "a.wav", noise(48_000))
    cut = tmp_path / "cut.wav"
    cut.write_bytes(whole.read_bytes()[: 4 * 20_000])
    found = read_sound(str(cut))
    assert 15_000 < len(found.samples) < 20_001


def test_a_silent_clip_has_no_sound(tmp_path):
    path = tmp_path / "clip.mp4"
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=24)
        stream.width = stream.height = 64
        stream.pix_fmt = "yuv420p"
        frame = av.VideoFrame.from_ndarray(np.zeros((64, 64, 3), np.uint8), "rgb24")
        container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    with pytest.raises(MediaError, match="no sound"):
        read_sound(str(path))


def test_each_is_decoded_once_and_again_when_it_changed(tmp_path):
    path = write_wav(tmp_path / "a.wav", noise(1000))
    kept = Recordings()
    assert kept.known(str(path)) is None
    first = kept.read(str(path))
    assert kept.read(str(path)) is first
    assert kept.known(str(path)) is first
    write_wav(path, noise(2000))
    assert len(kept.read(str(path)).samples) == 2000
    with pytest.raises(MediaError):
        kept.read(str(tmp_path / "gone.wav"))
    assert "gone.wav" in kept.failed(str(tmp_path / "gone.wav"))
