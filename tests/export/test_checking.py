"""Files of parts that somebody else made: each is decoded, counted, and a frame compared with one rendered here."""

from __future__ import annotations

import os
from dataclasses import replace
from fractions import Fraction

import av
import cv2
import numpy as np
import pytest

from helpers import write_clip
from nimble_quake.export import checking
from nimble_quake.export.checking import Pattern, Wrong
from nimble_quake.export.encoders import priority
from nimble_quake.export.formats import format_named, formats
from nimble_quake.export.order import Order, prepared_frame
from nimble_quake.export.rendering import parts_of, render_part
from nimble_quake.export.writers import Part
from nimble_quake.render.engine import Engine
from nimble_quake.shot.model import Plate, Shot

KEYS = [format.key for format in formats()]
SIZE = (96, 64)


@pytest.fixture(scope="module")
def shot(tmp_path_factory):
    """A clip in which nothing stays as it is: soft tones with detail that moves."""
    rng = np.random.Generator(np.random.PCG64(3))
    soft = cv2.resize(rng.integers(0, 255, (6, 8, 4), np.uint8), SIZE, interpolation=cv2.INTER_CUBIC)
    soft[..., 3] = 255
    noise = rng.integers(0, 40, (*soft.shape[:2], 1), np.uint8)
    frames = [cv2.add(np.roll(soft, 9 * n, axis=1), np.roll(noise, n, axis=0).repeat(4, axis=2)) for n in range(4)]
    file = write_clip(tmp_path_factory.mktemp("in") / "in.mkv", frames, Fraction(25), "ffv1", "bgr0")
    plate = Plate(id="c", kind="clip", values={"file": str(file), "fit": "centre"})
    return Shot(width=SIZE[0], height=SIZE[1], rate=Fraction(25), length=4, plates=(plate,))


@pytest.fixture
def made(shot, tmp_path):
    """Makes the first part of an order of a kind; gives the order, its pattern and the part."""

    def make(key: str, **values: object) -> tuple[Order, Pattern, Part]:
        format = format_named(key)
        order = Order(shot, tmp_path / f"o{format.suffix}", 0, 3, format=format, **values)  # type: ignore[arg-type]
        part = parts_of(order, tmp_path)[0]
        render_part(order, Engine(), part)
        return order, Pattern.of(order), part

    return make


def rendered(order: Order, frame: int) -> tuple[int, object]:
    return 0, prepared_frame(Engine(), order, frame, order.target())[0]


@pytest.mark.parametrize("key", KEYS)
def test_what_we_write_ourselves_is_right_and_another_frame_is_not(made, key):
    order, pattern, part = made(key)
    pattern.check(part, part.file)
    pattern.check(part, part.file, rendered(order, 0))
    with pytest.raises(Wrong, match="a frame 0 that is not the one"):
        pattern.check(part, part.file, rendered(order, 2))


@pytest.mark.parametrize("key", KEYS)
def test_cut_off_files_are_told_from_whole_ones(made, key):
    _, pattern, part = made(key)
    data = part.file.read_bytes()
    for share in (0.0, 0.3, 0.9):
        part.file.write_bytes(data[: int(len(data) * share)])
        with pytest.raises(Wrong):
            pattern.check(part, part.file)


@pytest.mark.parametrize("key", KEYS)
def test_of_another_size_or_kind(made, key):
    _, _, part = made(key)
    other = Pattern.of(made(key, scale=0.5)[0])
    made(key)
    with pytest.raises(Wrong, match="another kind of file"):
        other.check(part, part.file)
    with pytest.raises(Wrong):
        Pattern.of(made("jpeg" if key != "jpeg" else "png")[0]).check(part, part.file)


@pytest.mark.parametrize("key", ["mp4", "webm", "mp4-av1", "ffv1"])
def test_the_picture_that_is_wanted_is_the_one_a_player_shows(tmp_path, key):
    """However many others are left out on the way to it. Outside check: FFmpeg's decoder, asked for all of them."""
    rng = np.random.Generator(np.random.PCG64(5))
    wide = cv2.resize(rng.integers(0, 255, (9, 40, 4), np.uint8), (400, 64), interpolation=cv2.INTER_CUBIC)
    frames = [np.ascontiguousarray(wide[:, 6 * n : 6 * n + 96]) for n in range(24)]
    file = write_clip(tmp_path / "in.mkv", frames, Fraction(25), "ffv1", "bgr0")
    plate = Plate(id="c", kind="clip", values={"file": str(file), "fit": "centre"})
    shot = Shot(width=96, height=64, rate=Fraction(25), length=24, plates=(plate,))
    order = Order(shot, tmp_path / f"o{format_named(key).suffix}", 0, 23, format=format_named(key))
    part = parts_of(order, tmp_path)[0]
    render_part(order, Engine(), part)
    with av.open(str(part.file)) as clip:
        whole = [frame.to_ndarray() for frame in clip.decode(video=0)]
    assert len(whole) == len(part.frames)
    for wanted in range(0, len(whole), 5):
        count, found = checking.seen_in(part.file, len(whole), wanted)
        assert count == len(whole)
        assert np.array_equal(found.to_ndarray(), whole[wanted])


def test_too_few_and_too_many_frames(made):
    _, pattern, part = made("mp4")
    for frames in ((0, 1, 2), (0, 1, 2, 3, 4)):
        with pytest.raises(Wrong, match=r"frames"):
            pattern.check(replace(part, frames=frames), part.file)


@pytest.mark.skipif(os.geteuid() != 0, reason="only root gets real-time priority")
def test_an_encoder_does_not_leave_us_at_real_time_priority(made):
    """SVT-AV1 under root left the thread, and all threads it began later, at SCHED_FIFO 99."""
    made("mp4-av1")
    assert os.sched_getscheduler(0) == os.SCHED_OTHER
    assert priority.real_time() == set()
