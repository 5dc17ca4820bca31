"""Footage and stills as they come: colour of every standard, times, pixel aspect, turns, damage, sizes."""

from __future__ import annotations

import os
import struct
import time
import zlib
from fractions import Fraction

import av
import cv2
import numpy as np
import pytest
from PIL import Image, PngImagePlugin

from helpers import coded, number_in, numbered_frame, rendered, speckled, write_clip, write_png
from nimble_quake.errors import MediaError
from nimble_quake.media.clips import Clip
from nimble_quake.media.pool import MediaPool
from nimble_quake.media.stills import MOST_SHOWN, Still
from nimble_quake.raster.colour.convert import to_rgba8, to_rgba16
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Plate, Shot

WEIGHTS = {1: (0.2126, 0.0722), 6: (0.299, 0.114), 9: (0.2627, 0.0593)}
"""Red's and blue's share of luma: ITU-R BT.709-6, BT.601-7, BT.2020-2."""


def ycbcr_clip(path, rgb, matrix: int, bits: int, *, full: bool = False):
    """A flat clip whose codes are computed here, by the formulas of ITU-R BT.709-6 section 3, losslessly coded."""
    red, blue = WEIGHTS[matrix]
    r, g, b = rgb
    y = red * r + (1 - red - blue) * g + blue * b
    cb, cr = (b - y) / (2 * (1 - blue)), (r - y) / (2 * (1 - red))
    more, most = 1 << (bits - 8), (1 << bits) - 1
    codes = (
        (round(most * y), round(most * cb + 128 * more), round(most * cr + 128 * more))
        if full
        else (round((16 + 219 * y) * more), round((128 + 224 * cb) * more), round((128 + 224 * cr) * more))
    )
    name = "yuv444p" if bits == 8 else f"yuv444p{bits}le"
    with av.open(str(path), "w") as container:
        stream = container.add_stream("ffv1", rate=25)
        stream.width, stream.height, stream.pix_fmt = 32, 16, name
        stream.codec_context.colorspace = matrix
        stream.codec_context.color_range = 2 if full else 1
        frame = av.VideoFrame(32, 16, name)
        for plane, code in zip(frame.planes, codes, strict=True):
            dtype = np.uint8 if bits == 8 else np.uint16
            plane.update(np.full(plane.buffer_size // np.dtype(dtype).itemsize, code, dtype).tobytes())
        frame.pts, frame.time_base = 0, Fraction(1, 25)
        frame.colorspace, frame.color_range = matrix, 2 if full else 1
        container.mux(stream.encode(frame))
        container.mux(stream.encode())
    return path


class TestColour:
    @pytest.mark.sampled(18)
    @pytest.mark.parametrize("matrix", list(WEIGHTS))
    @pytest.mark.parametrize("bits", [8, 10, 12])
    @pytest.mark.parametrize("rgb", [(1, 1, 1), (0, 0, 0), (1, 0, 0), (0, 1, 0), (0, 0, 1), (0.5, 0.25, 0.75)])
    def test_every_matrix_and_depth(self, tmp_path, matrix, bits, rgb):
        """White is white (255, not 254) in narrow range at every depth; primaries are where the standard has them."""
        clip = Clip(ycbcr_clip(tmp_path / "c.mkv", rgb, matrix, bits))
        tolerance = 1.5 / 255 if bits == 8 else 0.4 / 255
        np.testing.assert_allclose(clip.picture(0, 32, 16)[8, 16, :3], rgb, atol=tolerance)
        assert clip.bits8 == (bits == 8)

    def test_full_range(self, tmp_path):
        clip = Clip(ycbcr_clip(tmp_path / "c.mkv", (0.5, 0.25, 0.75), 1, 10, full=True))
        np.testing.assert_allclose(clip.picture(0, 32, 16)[8, 16, :3], (0.5, 0.25, 0.75), atol=0.004)


class TestTimes:
    @pytest.mark.parametrize("ending", ["avi", "mkv", "mp4", "mov"])
    @pytest.mark.parametrize("rate", [Fraction(25), Fraction(24000, 1001)])
    def test_a_frame_begins_when_it_is_due_and_not_before(self, tmp_path, ending, rate):
        codec = {"avi": "mjpeg", "mkv": "ffv1"}.get(ending, "libx264")
        pixel = "yuvj420p" if codec == "mjpeg" else "yuv420p"
        clip = Clip(write_clip(tmp_path / f"c.{ending}", [numbered_frame(n) for n in range(8)], rate, codec, pixel))
        for number in range(8):
            begins = float(number / rate)
            assert clip.frame_at(begins) == number
            assert clip.frame_at(begins + 0.45 / float(rate)) == number
            if number:
                assert clip.frame_at(begins - 0.1 / float(rate)) == number - 1
        assert clip.seconds == pytest.approx(float(8 / rate), abs=0.002)

    def test_a_long_last_frame(self, tmp_path):
        """The last frame's own length counts, not the distance of the two before it."""
        path = tmp_path / "v.mov"
        with av.open(str(path), "w") as container:
            stream = container.add_stream("mjpeg", rate=25)
            stream.width, stream.height, stream.pix_fmt = 64, 48, "yuvj420p"
            for number, pts in enumerate((0, 1, 2)):
                frame = av.VideoFrame.from_ndarray(numbered_frame(number), "rgba").reformat(format="yuvj420p")
                frame.pts, frame.time_base = pts, Fraction(1, 25)
                for packet in stream.encode(frame):
                    packet.duration = 10 if pts == 2 else 1
                    container.mux(packet)
            container.mux(stream.encode())
        with av.open(str(path)) as opened:
            stream = opened.streams.video[0]
            last = [p for p in opened.demux(stream) if p.size][-1]
            wanted = float((last.pts + last.duration) * stream.time_base)
        assert Clip(path).seconds == pytest.approx(wanted, abs=1e-3)


def test_pixels_that_are_not_square(tmp_path):
    """ITU-R BT.601 footage of 720 x 576 at 16:15 is shown 768 wide."""
    path = tmp_path / "pal.mkv"
    with av.open(str(path), "w") as container:
        stream = container.add_stream("mpeg4", rate=25)
        stream.width, stream.height, stream.pix_fmt = 720, 576, "yuv420p"
        stream.codec_context.sample_aspect_ratio = Fraction(16, 15)
        frame = av.VideoFrame.from_ndarray(speckled(720, 576), "rgba").reformat(format="yuv420p")
        frame.pts, frame.time_base = 0, Fraction(1, 25)
        container.mux(stream.encode(frame))
        container.mux(stream.encode())
    clip = Clip(path)
    assert (clip.width, clip.height) == (768, 576)
    plate = Plate(id="p", kind="clip", values={"file": str(path), "fit": "centre"})
    picture = rendered(Shot(width=800, height=600, rate=Fraction(25), length=2, plates=(plate,), ground=(0, 0, 0, 0)))
    columns = np.flatnonzero(picture[300, :, 3] > 0.5)
    assert (columns[0], columns[-1]) == (16, 783)


def damaged(path, packets: set[int], out):
    """Copy a clip with the middle of some packets overwritten."""
    with av.open(str(path)) as source, av.open(str(out), "w") as target:
        stream = source.streams.video[0]
        copy = target.add_stream_from_template(stream)
        number = 0
        for packet in source.demux(stream):
            if packet.dts is None:
                continue
            data = bytearray(bytes(packet))
            if number in packets:
                data[8 : max(9, len(data) * 2 // 3)] = b"\xa5" * (max(9, len(data) * 2 // 3) - 8)
            made = av.Packet(bytes(data))
            made.pts, made.dts, made.time_base, made.duration = (
                packet.pts,
                packet.dts,
                packet.time_base,
                packet.duration,
            )
            made.is_keyframe, made.stream = packet.is_keyframe, copy
            target.mux(made)
            number += 1
    return out


class TestDamage:
    @pytest.mark.parametrize(
        ("codec", "pixel"), [("ffv1", "bgra"), ("mjpeg", "yuvj420p"), ("prores_ks", "yuv422p10le")]
    )
    def test_a_damaged_packet_costs_its_own_frame(self, tmp_path, codec, pixel):
        frames = [numbered_frame(n) for n in range(12)]
        path = write_clip(tmp_path / "good.mkv", frames, Fraction(25), codec, pixel, g="1")
        clip = Clip(damaged(path, {4}, tmp_path / "bad.mkv"))
        seen = [number_in(clip.picture(n / 25, 64, 48)) for n in range(12)]
        assert [n for n in range(12) if seen[n] != n] in ([], [4])

    def test_damaged_footage_is_the_same_in_order_and_afresh(self, tmp_path):
        frames = [speckled(64, 48, n) for n in range(12)]
        path = write_clip(tmp_path / "good.mov", frames, Fraction(25), "prores_ks", "yuv422p10le")
        bad = damaged(path, {3, 7}, tmp_path / "bad.mov")
        ordered = Clip(bad)
        played = [ordered.picture(n / 25, 64, 48).copy() for n in range(12)]
        for number in (7, 3, 8, 0, 11):
            np.testing.assert_array_equal(Clip(bad).picture(number / 25, 64, 48), played[number])

    def test_frames_made_ahead_are_those_of_their_number_and_size(self, tmp_path):
        """In order the next one is made a picture beside this one, at the size asked for last, which may change."""
        frames = [speckled(64, 48, n) for n in range(12)]
        path = write_clip(tmp_path / "good.mp4", frames, Fraction(25), "libx264", "yuv420p", crf="10")
        played, sizes = Clip(path), [(64, 48), (64, 48), (32, 24), (32, 24), (16, 12), (64, 48)]
        for number in (*range(12), 3, 4, 4, 5, 0, 1, 2):
            size = sizes[number % len(sizes)]
            time.sleep(0.005)  # the next one is ready by then, or under way
            np.testing.assert_array_equal(
                played.picture(number / 25, *size), Clip(path).picture(number / 25, *size), str(number)
            )


class TestStills:
    def test_a_16_bit_png_is_turned_as_it_says(self, tmp_path):
        """PNG third edition, eXIf: an orientation of 6 is a quarter turn clockwise."""
        deep = (np.arange(20 * 10 * 3).reshape(10, 20, 3) * 90).astype(np.uint16)
        cv2.imwrite(str(tmp_path / "d.png"), deep[..., ::-1])
        exif = Image.Exif()
        exif[274] = 6
        block = exif.tobytes().removeprefix(b"Exif\x00\x00")
        data = (tmp_path / "d.png").read_bytes()
        chunk = struct.pack(">I", len(block)) + b"eXIf" + block + struct.pack(">I", zlib.crc32(b"eXIf" + block))
        (tmp_path / "d.png").write_bytes(data[:33] + chunk + data[33:])
        still = Still(tmp_path / "d.png")
        assert (still.width, still.height) == (10, 20)
        assert np.array_equal(to_rgba16(still.picture(0, 10, 20))[..., :3], np.rot90(deep, -1))

    def test_wide_ones_and_long_texts(self, tmp_path):
        wide = np.zeros((3, 30_000, 3), np.uint8)
        wide[:, 15_000:] = 255
        Image.fromarray(wide).save(tmp_path / "w.png")
        still = Still(tmp_path / "w.png")
        assert still.width == 30_000
        assert still.picture(0, 3000, 3).shape == (3, 3000, 4)
        notes = PngImagePlugin.PngInfo()
        notes.add_text("Description", "x" * 3_000_000, zip=True)
        Image.fromarray(coded(40, 20)).save(tmp_path / "t.png", pnginfo=notes)
        assert np.array_equal(to_rgba8(Still(tmp_path / "t.png").picture(0, 40, 20)), coded(40, 20))

    def test_an_enormous_one_bit_picture_keeps_little(self, tmp_path):
        bits = np.zeros((4096, 16384), bool)
        bits[::2] = True
        Image.fromarray(bits).save(tmp_path / "b.png")
        still = Still(tmp_path / "b.png")
        small = still.picture(0, 1638, 410)
        np.testing.assert_allclose(small[5:-5, :, 0], 0.5, atol=0.06)
        assert still.nbytes < 90_000_000
        assert still.picture(0, 16384, 4096).size / 4 <= MOST_SHOWN

    @pytest.mark.parametrize("size", [(13, 7), (50, 31), (64, 48), (63, 11), (1, 1)])
    def test_any_size_is_the_mean_of_what_it_covers(self, tmp_path, size):
        """Against the exact integral of the pixels over each result pixel's box."""
        picture = speckled(97, 71)
        still = Still(write_png(tmp_path / "s.png", picture))
        got = still.picture(0, *size)

        def boxes(count: int, parts: int) -> np.ndarray:
            edges, share = np.linspace(0, count, parts + 1), np.zeros((parts, count))
            for n in range(parts):
                cover = np.minimum(np.arange(count) + 1, edges[n + 1]) - np.maximum(np.arange(count), edges[n])
                share[n] = np.clip(cover, 0, None) / (edges[n + 1] - edges[n])
            return share

        wanted = np.einsum("yj,jik,xi->yxk", boxes(71, size[1]), picture / 255, boxes(97, size[0]))
        np.testing.assert_allclose(got, wanted, atol=2e-3)


def test_pipes_and_devices_are_refused(tmp_path):
    for name in ("p.png", "p.mp4", "p.svg"):
        os.mkfifo(tmp_path / name)
        with pytest.raises(MediaError, match="plain file"):
            MediaPool().open(str(tmp_path / name))


@pytest.mark.parametrize(
    ("kind", "file"), [("clip", "s.png"), ("still", "c.mkv"), ("artwork", "s.png"), ("clip", "a.svg")]
)
def test_a_plate_whose_file_is_of_another_sort_says_so(tmp_path, kind, file):
    write_png(tmp_path / "s.png", coded(20, 10))
    write_clip(tmp_path / "c.mkv", [numbered_frame(0)], Fraction(25), "ffv1", "bgra")
    (tmp_path / "a.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>')
    plate = Plate(id="p", kind=kind, values={"file": str(tmp_path / file)})
    shot = Shot(width=64, height=36, plates=(plate,))
    job = frame_job(Engine(), shot, 0)
    assert rendered(shot).shape == (36, 64, 4)
    frame_picture(job)
    (problem,) = job.problems.values()
    assert ", not a" in problem.line()
    assert "choose a file" in problem.line()


class TestLoops:
    """Decoded frames are kept for a span that is played again and again, where it fits."""

    @staticmethod
    def played(clip: Clip, frames: range, monkeypatch: pytest.MonkeyPatch) -> list[int]:
        """How many frames are decoded in each of four rounds; every picture is that of its number."""
        decoded: list[int] = []
        found, own = [], clip.decode
        monkeypatch.setattr(clip, "decode", lambda number: (decoded.append(number), own(number))[1])
        for _ in range(4):
            for number in frames:
                picture = clip.picture(clip.seconds_of(number), 64, 48)
                assert number_in(picture) == number
            time.sleep(0.05)  # the frame made ahead
            found.append(len(decoded))
            decoded.clear()
        return found

    @pytest.fixture
    def path(self, tmp_path):
        return write_clip(tmp_path / "c.mkv", [numbered_frame(n) for n in range(40)], Fraction(25), "ffv1", "yuv444p")

    def test_one_that_fits_is_decoded_once_more_and_then_no_more(self, path, monkeypatch):
        first, again, *later = self.played(Clip(path), range(5, 30), monkeypatch)
        assert first >= 25
        assert again >= 15
        assert later == [0, 0]

    def test_one_that_does_not_fit_takes_no_more_room_than_a_few_frames(self, path, monkeypatch):
        clip = Clip(path)
        clip.most_bytes = 20 * 64 * 48 * 3
        assert all(count >= 20 for count in self.played(clip, range(5, 30), monkeypatch))
        assert clip.nbytes < 10 * 64 * 48 * 3 + 64 * 48 * 16

    def test_open_clips_share_what_there_is(self, path, tmp_path):
        pool = MediaPool()
        first = pool.open(str(path))
        assert isinstance(first, Clip)
        whole = first.most_bytes
        frames = [numbered_frame(n) for n in range(3)]
        other = pool.open(str(write_clip(tmp_path / "d.mkv", frames, Fraction(25), "ffv1", "yuv444p")))
        assert isinstance(other, Clip)
        assert (first.most_bytes, other.most_bytes) == (whole // 2, whole // 2)
