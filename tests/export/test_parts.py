"""Renders in parts: whole however they came about, bit for bit."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import av
import cv2
import msgspec
import numpy as np
import OpenEXR
import pytest
import tifffile

from helpers import numbered_frame, write_clip
from media.test_sound import noise, write_wav
from nimble_quake.errors import Cancelled, FailedWork, LimitError
from nimble_quake.export.formats import format_named, formats
from nimble_quake.export.order import Order, prepared_frame, stamps_of
from nimble_quake.export.rendering import Progress, parts_of, render, render_on
from nimble_quake.render.engine import Engine
from nimble_quake.shot.model import Node, Plate, Shot

RATE = Fraction(24000, 1001)
LENGTH = 97
PART = format_named("mp4").part_length(LENGTH)
"""Frames of a segment of a clip so short; the last one has fewer."""
PREPARED = "nimble_quake.export.rendering.prepared_frame"
KEYS = [format.key for format in formats()]
JOINED = [format.key for format in formats() if format.segment > 1]


@pytest.fixture(scope="module")
def shot(tmp_path_factory):
    """A clip that holds its frame numbers in its pixels."""
    file = tmp_path_factory.mktemp("in") / "in.mkv"
    write_clip(file, [numbered_frame(n) for n in range(LENGTH)], RATE, "ffv1", "bgr0")
    plate = Plate(id="c", kind="clip", values={"file": str(file), "fit": "centre"})
    return Shot(width=64, height=48, rate=RATE, length=LENGTH, plates=(plate,))


def ordered(shot, folder, key, **values):
    format = format_named(key)
    name = f"o_###{format.suffix}" if format.sequence else f"o{format.suffix}"
    folder.mkdir(exist_ok=True)
    return Order(shot, folder / name, 0, values.pop("last", shot.length - 1), format=format, **values)


def number_of(frame):
    return sum(1 << bit for bit in range(8) if frame[24, bit * 8 + 4, 0] > 128)


@pytest.mark.sampled(5)
@pytest.mark.parametrize("key", JOINED)
def test_segments_join_without_a_seam(shot, tmp_path, key):
    """ISO 14496-12, Matroska: every frame is there once, in order, at its time; the rate is the shot's."""
    with av.open(str(render(ordered(shot, tmp_path, key), Engine()).files[0])) as clip:
        stream = clip.streams.video[0]
        assert stream.average_rate == RATE
        found = [
            (frame.pts * frame.time_base, frame.reformat(format="rgba").to_ndarray()) for frame in clip.decode(stream)
        ]
    assert [number_of(frame) for _, frame in found] == list(range(LENGTH))
    assert all(abs(time - number / RATE) <= Fraction(1, 1000) for number, (time, _) in enumerate(found))


@pytest.mark.sampled(4)
@pytest.mark.parametrize("key", JOINED)
def test_a_jump_into_any_segment_finds_its_frames(shot, tmp_path, key):
    """Each segment begins with a picture of its own: a player may begin there."""
    with av.open(str(render(ordered(shot, tmp_path, key), Engine()).files[0])) as clip:
        if key == "y4m":
            return
        stream = clip.streams.video[0]
        for wanted in (PART, PART - 1, 2 * PART, 3):
            clip.seek(int(wanted / RATE / stream.time_base), stream=stream)
            frames = {
                round(f.pts * f.time_base * RATE): f.reformat(format="rgba").to_ndarray() for f in clip.decode(stream)
            }
            assert number_of(frames[wanted]) == wanted
            assert min(frames) >= wanted // PART * PART


def after(count):
    """A stop after so many frames."""
    done = []

    def progress(now: Progress) -> None:
        done.append(now.done)

    return progress, lambda: bool(done) and done[-1] >= count


@pytest.mark.sampled(8)
@pytest.mark.parametrize("key", KEYS)
def test_a_render_goes_on_where_it_was_stopped(shot, tmp_path, key, monkeypatch):
    """What was whole is not computed again, and the files are those of a render that was never stopped."""
    last = LENGTH - 1 if format_named(key).segment > 1 else 11
    stop_after = PART + 9 if last > PART else 7
    whole = render(ordered(shot, tmp_path / "a", key, last=last), Engine()).files
    order, engine, folder = ordered(shot, tmp_path / "b", key, last=last), Engine(), tmp_path / "b" / ".parts"
    stamps = stamps_of(shot, engine)
    with pytest.raises(Cancelled):
        render_on(order, engine, folder, stamps, *after(stop_after))
    assert [file.name for file in (tmp_path / "b").iterdir()] == [".parts"]
    assert all(not file.name.startswith(".") for file in folder.iterdir())
    kept = sum(len(part.frames) for part in parts_of(order, folder) if part.file.exists())
    assert 0 < kept <= stop_after
    computed = []
    monkeypatch.setattr(PREPARED, lambda *all: computed.append(all[2]) or prepared_frame(*all))
    said: list[Progress] = []
    again = render_on(order, Engine(), folder, stamps, said.append)
    assert sorted(computed) == list(range(kept, last + 1))
    assert (said[0].done, said[0].fresh, said[-1].done) == (kept, 0, last + 1)
    assert [file.read_bytes() for file in again.files] == [file.read_bytes() for file in whole]
    assert not folder.exists()


@pytest.mark.parametrize("key", ["mp4", "ffv1", "png", "gif"])
def test_frames_that_fail_are_named_and_the_rest_goes_on(shot, tmp_path, key, monkeypatch):
    """The missing ones are rendered later, and nothing else."""
    last = LENGTH - 1 if format_named(key).segment > 1 else 11
    order, engine, folder = ordered(shot, tmp_path, key, last=last), Engine(), tmp_path / ".parts"

    def failing(engine, order, frame, target):
        if frame in (2, 5):
            raise LimitError("too large", where="plates/c", cure="make it smaller")
        return prepared_frame(engine, order, frame, target)

    monkeypatch.setattr(PREPARED, failing)
    found = render_on(order, engine, folder, stamps_of(shot, engine))
    assert found.files == []
    assert found.failures == dict.fromkeys((2, 5), "plates/c: too large - make it smaller")
    missing = {frame for part in parts_of(order, folder) if not part.file.exists() for frame in part.frames}
    assert missing == ({2, 5} if format_named(key).segment == 1 else set(range(PART)))
    monkeypatch.setattr(PREPARED, prepared_frame)
    assert len(render_on(order, engine, folder, stamps_of(shot, engine)).files) == (12 if key == "png" else 1)


def test_files_that_changed_since_the_order_are_not_mixed_with_what_there_is(shot, tmp_path):
    engine = Engine()
    old = tuple((path, time - 1, size) for path, time, size in stamps_of(shot, engine))
    with pytest.raises(FailedWork, match="was changed"):
        render_on(ordered(shot, tmp_path, "png", last=2), engine, tmp_path / ".parts", old)
    assert not (tmp_path / ".parts").exists()


def test_time_left_follows_the_pace_of_late():
    """The mean of the whole and of the last frames; what was kept from before does not count."""
    assert Progress(10, 20, 10.0).left == pytest.approx(10.0)
    assert Progress(60, 100, 10.0, fresh=10, pace=3.0).left == pytest.approx(80.0)
    assert Progress(50, 100, 0.0, fresh=0).left == float("inf")


@pytest.mark.parametrize("key", ["mp4", "webm", "ffv1"])
def test_the_sound_lies_over_the_seams(shot, tmp_path, key):
    """Sound is encoded once over the whole clip: its length is the picture's, whatever the segments."""
    hum = Node(id="h", kind="sound", values={"file": str(write_wav(tmp_path / "hum.wav", noise(240_000)))})
    order = ordered(msgspec.structs.replace(shot, sounds=(hum,)), tmp_path, key)
    with av.open(str(render(order, Engine()).files[0])) as clip:
        count = sum(frame.samples for frame in clip.decode(audio=0))
    assert abs(count / 48_000 - float(LENGTH / RATE)) < 0.045


@pytest.mark.parametrize("key", ["png", "tiff16", "exr-float"])
def test_alpha_straight_or_multiplied_in(tmp_path, key):
    """W3C Compositing, 9: a multiplied colour is the straight one times its alpha."""
    fill = Plate(id="f", kind="fill", values={"colour": (0.8, 0.4, 0.2, 0.5)})
    shot = Shot(width=8, height=8, length=1, ground=(0, 0, 0, 0), plates=(fill,))

    def pixel(alpha):
        file = render(replace(ordered(shot, tmp_path, key), alpha=alpha), Engine()).files[0]
        if key == "png":
            return cv2.imread(str(file), cv2.IMREAD_UNCHANGED)[4, 4, [2, 1, 0, 3]] / 255
        if key == "tiff16":
            return tifffile.imread(file)[4, 4] / 65535
        with OpenEXR.File(str(file), separate_channels=False) as opened:
            return np.array(opened.channels()["RGBA"].pixels)[4, 4]

    straight, multiplied = pixel("straight"), pixel("premultiplied")
    assert np.allclose(multiplied[:3], straight[:3] * straight[3], atol=0.003)
    assert straight[3] == pytest.approx(0.5, abs=0.003)
    wanted = (0.8, 0.4, 0.2) if key != "exr-float" else (0.6038, 0.1329, 0.0331)  # IEC 61966-2-1
    assert np.allclose(straight[:3], wanted, atol=0.003)
    assert np.array_equal(pixel(""), multiplied if key == "exr-float" else straight)


def test_dither_is_right_on_average_and_limits_hold(tmp_path):
    """A level between two codes comes out right in the mean; ITU-R BT.709: black is 16 and white 235."""

    def codes(colour, **values):
        fill = Plate(id="f", kind="fill", values={"colour": (*colour, 1.0)})
        shot = Shot(width=200, height=200, length=1, plates=(fill,))
        file = render(replace(ordered(shot, tmp_path, "png"), **values), Engine()).files[0]
        return cv2.imread(str(file), cv2.IMREAD_UNCHANGED)[..., 2].astype(float)

    level = 100.3 / 255
    assert np.unique(codes((level,) * 3)).tolist() == [100]
    spread = codes((level,) * 3, dither=True)
    assert spread.mean() == pytest.approx(100.3, abs=0.02)
    assert np.unique(spread).tolist() == [100, 101]
    assert np.array_equal(spread, codes((level,) * 3, dither=True))
    assert np.unique(codes((0.0,) * 3, limit=True)).tolist() == [16]
    assert np.unique(codes((1.0,) * 3, limit=True)).tolist() == [235]
