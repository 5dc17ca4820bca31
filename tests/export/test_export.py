"""Rendering to files: counts, times, exact pixels, tags, and nothing half-made."""

from __future__ import annotations

import errno
import os
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from helpers import numbered_frame, read_png, rendered, speckled, write_clip, write_png
from nimble_quake.errors import BadInput, Cancelled, FailedWork, FormulaError, SaveFailed
from nimble_quake.export.formats import format_of, formats, numbered
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import Progress, render
from nimble_quake.motion.kinds import Formula
from nimble_quake.raster.colour.convert import to_rgba8, to_rgba16
from nimble_quake.render.engine import Engine
from nimble_quake.shot.model import Map, Node, Plate, Shot

KEYS = [format.key for format in formats()]


@pytest.fixture
def shot(tmp_path):
    """A clip that holds its frame numbers, as a shot at 24000/1001."""
    rate = Fraction(24000, 1001)
    file = write_clip(tmp_path / "in.mkv", [numbered_frame(n) for n in range(24)], rate, "ffv1", "bgr0")
    plate = Plate(id="c", kind="clip", values={"file": str(file), "fit": "centre"})
    map = Map(id="m", name="Noise", recipe=(Node(id="n", kind="noise", values={"size_x": 30.0}),))
    return Shot(width=64, height=48, rate=rate, length=24, plates=(plate,), maps=(map,), ground=(0, 0, 0, 0))


def order(shot, path, key, **values):
    format = next(format for format in formats() if format.key == key)
    return Order(shot, path, values.pop("first", 0), values.pop("last", shot.length - 1), format=format, **values)


def decoded(path):
    with av.open(str(path)) as container:
        stream = container.streams.video[0]
        frames = [frame.reformat(format="rgba").to_ndarray() for frame in container.decode(stream)]
        return frames, stream.average_rate, stream.codec_context


CLIPS = [(f.key, f.suffix) for f in formats() if not f.sequence and f.key not in ("gif", "webp-moving", "apng")]


@pytest.mark.parametrize(("key", "ending"), CLIPS)
def test_counts_and_times(shot, tmp_path, key, ending):
    """Frames written = frames decoded, each the right one; the rate is exactly the shot's."""
    path = tmp_path / f"out{ending}"
    assert render(order(shot, path, key), Engine()).files == [path]
    frames, rate, _ = decoded(path)
    assert len(frames) == 24
    assert rate == shot.rate
    for number, frame in enumerate(frames):
        assert sum(1 << bit for bit in range(8) if frame[24, bit * 8 + 4, 0] > 128) == number


def test_ffv1_is_lossless_with_alpha(tmp_path):
    """RFC 9043: the same codes, alpha too."""
    rgba = speckled(51, 37)
    rgba[:, :20, 3] = 0
    rgba[rgba[..., 3] == 0] = 0
    plate = Plate(id="s", kind="still", values={"file": str(write_png(tmp_path / "s.png", rgba)), "fit": "centre"})
    shot = Shot(width=51, height=37, length=2, plates=(plate,), ground=(0, 0, 0, 0))
    render(order(shot, tmp_path / "o.mkv", "ffv1"), Engine())
    assert np.array_equal(decoded(tmp_path / "o.mkv")[0][1], rgba)


def test_mp4_tags_and_colours(tmp_path):
    """ITU-R BT.709, narrow range: 100 % red is written as (63, 102, 240), and the stream says so (H.273 codes 1)."""
    plate = Plate(id="f", kind="fill", values={"colour": (1.0, 0.0, 0.0, 1.0)})
    shot = Shot(width=64, height=64, length=3, plates=(plate,))
    render(order(shot, tmp_path / "o.mp4", "mp4", quality=1), Engine())
    with av.open(str(tmp_path / "o.mp4")) as container:
        frame = next(container.decode(video=0))
        context = container.streams.video[0].codec_context
        assert (context.color_primaries, context.color_trc, context.colorspace) == (1, 1, 1)
        codes = [np.frombuffer(bytes(plane), np.uint8)[5] for plane in frame.planes]
    assert np.abs(np.array(codes, int) - [63, 102, 240]).max() <= 2


def test_odd_size_as_mp4(tmp_path):
    """H.264 4:2:0 needs even sides: the last column and row are repeated."""
    shot = Shot(width=51, height=37, length=2, plates=(Plate(id="f", kind="fill"),))
    render(order(shot, tmp_path / "o.mp4", "mp4"), Engine())
    assert decoded(tmp_path / "o.mp4")[0][0].shape == (38, 52, 4)


def test_webm_keeps_alpha(tmp_path):
    shot = Shot(
        width=64,
        height=48,
        length=3,
        plates=(Plate(id="t", kind="text", values={"size": 30.0, "words": "A"}),),
        ground=(0, 0, 0, 0),
    )
    render(order(shot, tmp_path / "o.webm", "webm"), Engine())
    plate = Plate(id="c", kind="clip", values={"file": str(tmp_path / "o.webm"), "fit": "centre"})
    back = rendered(Shot(width=64, height=48, plates=(plate,), ground=(0, 0, 0, 0)))
    assert np.abs(back[..., 3] - rendered(shot)[..., 3]).mean() < 0.03


@pytest.mark.parametrize(("key", "back"), [("png", to_rgba8), ("png16", to_rgba16)])
def test_pictures_are_exact(shot, tmp_path, key, back):
    """ISO 15948: what is read is what was computed, at 8 and 16 bits."""
    files = render(order(shot, tmp_path / "p_###.png", key, first=3, last=5), Engine()).files
    assert [file.name for file in files] == ["p_003.png", "p_004.png", "p_005.png"]
    assert np.array_equal(read_png(files[1]), back(rendered(shot, 4)))


def test_a_map_at_half_size(shot, tmp_path):
    files = render(order(shot, tmp_path / "m.png", "png16", last=0, what="map:Noise", scale=0.5), Engine()).files
    got = read_png(files[0])
    assert got.shape == (24, 32, 4)
    assert got.dtype == np.uint16
    assert got[..., 0].std() > 2000


def leftovers(folder):
    return sorted(path.name for path in folder.iterdir() if path.name not in ("in.mkv", "home"))


@pytest.mark.parametrize("key", KEYS)
class TestNothingHalfMade:
    def path(self, tmp_path, key):
        return tmp_path / f"out{next(format.suffix for format in formats() if format.key == key)}"

    def test_cancel(self, shot, tmp_path, key):
        seen: list[Progress] = []
        with pytest.raises(Cancelled):
            render(order(shot, self.path(tmp_path, key), key), Engine(), seen.append, lambda: len(seen) > 4)
        assert leftovers(tmp_path) == []
        assert seen[3].left >= 0

    def test_a_frame_that_fails(self, shot, tmp_path, key):
        plate = Plate(id="t", kind="text", values={"turn": Formula("1 / (frame - 5)")})
        broken = Shot(width=64, height=48, length=9, plates=(plate,))
        with pytest.raises(FormulaError, match="frame 5"):
            render(order(broken, self.path(tmp_path, key), key), Engine())
        assert leftovers(tmp_path) == []

    def test_full_disk(self, shot, tmp_path, key, monkeypatch):
        def full(*_: object, **__: object) -> None:
            raise OSError(errno.ENOSPC, "No space left on device")

        monkeypatch.setattr(Path, "replace", full)
        monkeypatch.setattr(os, "replace", full)
        monkeypatch.setattr(Path, "write_bytes", full)
        with pytest.raises(SaveFailed, match="No space left"):
            render(order(shot, self.path(tmp_path, key), key), Engine())
        monkeypatch.undo()
        assert leftovers(tmp_path) == []

    def test_folder_gone(self, shot, tmp_path, key):
        with pytest.raises(SaveFailed):
            render(order(shot, tmp_path / "none" / "x.mp4", key), Engine())


@pytest.mark.parametrize("key", ["ffv1", "png"])
def test_every_third_frame(shot, tmp_path, key):
    """The frames 1, 4, 7 ... keep their numbers; a clip lasts as long, at a third of the rate."""
    path = tmp_path / ("o.mkv" if key == "ffv1" else "o_##.png")
    files = render(order(shot, path, key, first=1, last=12, every=3), Engine()).files
    if key == "png":
        assert [file.name for file in files] == [f"o_{n:02d}.png" for n in (1, 4, 7, 10)]
        return
    frames, rate, _ = decoded(files[0])
    assert rate == shot.rate / 3
    got = [sum(1 << bit for bit in range(8) if frame[24, bit * 8 + 4, 0] > 128) for frame in frames]
    assert got == [1, 4, 7, 10]
    with pytest.raises(BadInput):
        render(order(shot, path, key, every=0), Engine())


def test_bad_orders(shot, tmp_path):
    for values in ({"first": 5, "last": 2}, {"last": 99}, {"what": "map:none"}, {"what": "sound"}):
        with pytest.raises(BadInput):
            render(order(shot, tmp_path / "x.mkv", "ffv1", **values), Engine())
    assert leftovers(tmp_path) == []


def test_names(tmp_path):
    assert numbered(tmp_path / "a_####.png", 7).name == "a_0007.png"
    assert numbered(tmp_path / "a#b##.png", 123).name == "a#b123.png"
    assert numbered(tmp_path / "a.png", 7).name == "a_0007.png"
    assert format_of(tmp_path / "a.PNG", deep=True).key == "png16"
    with pytest.raises(BadInput, match=r"\.mkv, \.mov, \.mp4"):
        format_of(tmp_path / "a.avi")


class TestWholeOrNotThere:
    """Nothing final changes until all is whole."""

    def before(self, tmp_path):
        (tmp_path / "q_0000.png").write_bytes(b"the old one")
        (tmp_path / "q_0002.png").mkdir()

    def test_a_folder_in_the_way_is_told_before_anything_is_computed(self, shot, tmp_path):
        self.before(tmp_path)
        with pytest.raises(BadInput, match=r"q_0002\.png: there is a folder"):
            render(order(shot, tmp_path / "q_####.png", "png", last=4), Engine())
        assert (tmp_path / "q_0000.png").read_bytes() == b"the old one"
        assert leftovers(tmp_path) == ["q_0000.png", "q_0002.png"]

    @pytest.mark.parametrize("name", ["a" * 400 + ".png", "b" * 300 + "/c.png"])
    def test_a_name_no_disk_can_hold_is_told(self, shot, tmp_path, name):
        with pytest.raises(BadInput, match="no file can have this name"):
            render(order(shot, tmp_path / name, "png", last=0), Engine())

    def test_a_folder_that_comes_while_rendering(self, shot, tmp_path):
        (tmp_path / "q_0000.png").write_bytes(b"the old one")

        def progress(now: Progress) -> None:
            if now.done == 3:
                (tmp_path / "q_0002.png").mkdir()

        with pytest.raises(SaveFailed, match=r"there is a folder called q_0002\.png"):
            render(order(shot, tmp_path / "q_####.png", "png", last=4), Engine(), progress)
        assert (tmp_path / "q_0000.png").read_bytes() == b"the old one"
        assert leftovers(tmp_path) == ["q_0000.png", "q_0002.png"]

    @pytest.mark.sampled(19)
    @pytest.mark.parametrize("key", KEYS)
    @pytest.mark.parametrize("how", ["cut off", "removed", "another"])
    def test_a_clip_that_changes_while_it_is_rendered(self, shot, tmp_path, key, how):
        clip = tmp_path / "in.mkv"

        def progress(now: Progress) -> None:
            if now.done == 5 and how == "removed":
                clip.unlink()
            elif now.done == 5 and how == "cut off":
                clip.write_bytes(clip.read_bytes()[:4000])
            elif now.done == 5:
                write_clip(clip, [numbered_frame(99)] * 24, Fraction(24), "ffv1", "bgr0")

        found = next(f for f in formats() if f.key == key)
        name = f"q_####{found.suffix}" if found.sequence else f"q{found.suffix}"
        with pytest.raises(FailedWork, match="was changed while it was rendered"):
            render(order(shot, tmp_path / name, key), Engine(), progress)
        assert leftovers(tmp_path) == []
