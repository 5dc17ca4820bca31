"""Interlaced footage and pixels that are not square, on clips written and tagged here."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from helpers import rendered
from nimble_quake.media.clips import Clip
from nimble_quake.media.interlaced import one_field
from nimble_quake.shot.model import Plate, Shot


def write_clip(path: Path, frames: list[np.ndarray], *, interlaced: bool, aspect: Fraction = Fraction(1)) -> Path:
    """Write RGB frames as H.264, tagged as interlaced or not."""
    options = {"crf": "4", "x264-params": "interlaced=1"} if interlaced else {"crf": "4"}
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=25, options=options)
        stream.height, stream.width = frames[0].shape[:2]
        stream.pix_fmt = "yuv420p"
        stream.codec_context.sample_aspect_ratio = aspect
        for number, frame in enumerate(frames):
            video = av.VideoFrame.from_ndarray(frame, "rgb24").reformat(format="yuv420p")
            video.pts = number
            container.mux(stream.encode(video))
        container.mux(stream.encode(None))
    return path


def combed() -> np.ndarray:
    """A white bar that stands at x = 32 in the upper field and at x = 64 in the lower one."""
    frame = np.zeros((96, 128, 3), np.uint8)
    frame[0::2, 32:48] = 255
    frame[1::2, 64:80] = 255
    return frame


def test_of_an_interlaced_frame_one_moment_is_seen(tmp_path):
    """The tag is the stream's own (H.264 pic_struct, read by PyAV as interlaced_frame)."""
    clip = Clip(write_clip(tmp_path / "i.mp4", [combed()] * 4, interlaced=True))
    found = clip.picture(clip.seconds_of(1), 128, 96)[..., 0]
    assert found[20:76, 36:44].min() > 0.8, "the upper field's bar is whole"
    assert found[20:76, 68:76].max() < 0.3, "the lower field's is gone"


def test_a_progressive_one_is_left_alone(tmp_path):
    clip = Clip(write_clip(tmp_path / "p.mp4", [combed()] * 4, interlaced=False))
    found = clip.picture(clip.seconds_of(1), 128, 96)[..., 0]
    rows = found[20:76, 68:76].mean(axis=1)
    assert rows[1::2].mean() - rows[0::2].mean() > 0.3


@pytest.mark.parametrize(
    ("fields", "upper", "lower"),
    [("tagged", True, True), ("both", True, True), ("upper", True, False), ("lower", False, True)],
)
def test_the_field_that_is_asked_for_is_seen_whatever_the_file_says(tmp_path, fields, upper, lower):
    file = write_clip(tmp_path / "p.mp4", [combed()] * 4, interlaced=False)
    shot = Shot(
        width=128,
        height=96,
        plates=(Plate(id="c", kind="clip", values={"file": str(file), "fit": "centre", "fields": fields}),),
    )
    found = rendered(shot, 1)[20:76, :, 0]
    assert (found[:, 36:44].mean() > 0.3) == upper
    assert (found[:, 68:76].mean() > 0.3) == lower
    if upper != lower:  # no comb: it is there on every line
        assert found[:, 36:44].min() > 0.8 if upper else found[:, 68:76].min() > 0.8


def test_the_lower_field_keeps_its_lines():
    rng = np.random.default_rng(2)
    for height in (1, 2, 5, 48):
        lines = rng.integers(0, 255, (height, 6, 4)).astype(np.uint8)
        assert np.array_equal(one_field(lines, lower=True)[1::2], lines[1::2])
    ramp = np.broadcast_to((np.arange(48) * 5)[:, None, None], (48, 3, 4)).astype(np.uint8)
    assert np.abs(one_field(ramp, lower=True)[4:-4].astype(int) - ramp[4:-4]).max() <= 1


@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
@pytest.mark.parametrize("height", [1, 2, 5, 48])
def test_lines_between_are_the_cubic_through_their_field(kind, height):
    rng = np.random.default_rng(height)
    lines = rng.integers(0, np.iinfo(kind).max, (height, 6, 4), endpoint=True).astype(kind)
    found = one_field(lines)
    assert np.array_equal(found[0::2], lines[0::2])
    ramp = np.broadcast_to((np.arange(48) * 5)[:, None, None], (48, 3, 4)).astype(kind)
    assert np.abs(one_field(ramp)[3:-4].astype(int) - ramp[3:-4]).max() <= 1, "a straight slope stays one"


@pytest.mark.parametrize(("aspect", "width"), [(Fraction(1), 128), (Fraction(16, 11), 186), (Fraction(1, 2), 64)])
def test_pixels_that_are_not_square_are_stretched_across(tmp_path, aspect, width):
    """ITU-R BT.601 PAL wide screen has pixels of 16:11 (from memory)."""
    clip = Clip(write_clip(tmp_path / "a.mp4", [combed()] * 2, interlaced=False, aspect=aspect))
    assert (clip.width, clip.height) == (width, 96)
