"""What is written in each kind of file, read by libraries that are not ours."""

from __future__ import annotations

import re
import subprocess
import sys
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
import OpenEXR
import pytest
from PIL import Image, ImageSequence

from helpers import rendered, speckled, write_png
from nimble_quake.export.encoders.gif import delays
from nimble_quake.export.formats import format_named, format_of, formats
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import render
from nimble_quake.motion.kinds import Rate
from nimble_quake.raster.colour.convert import to_rgba8, to_rgba16
from nimble_quake.raster.colour.light import to_linear
from nimble_quake.render.engine import Engine
from nimble_quake.shot.model import Node, Plate, Shot
from nimble_quake.shotfile.files import write_shot


@pytest.fixture
def shot(tmp_path):
    """A still with clear, half clear and whole parts that travels, softened so that it lies between codes."""
    rgba = speckled(96, 54)
    rgba = cv2.GaussianBlur(rgba, (0, 0), 3)
    rgba[:, :30, 3], rgba[:, 30:60, 3], rgba[:, 60:, 3] = 0, 128, 255
    rgba[rgba[..., 3] == 0] = 0
    soft = Node(id="b", kind="soften", values={"amount": 2.3})
    travels = Rate((48.0, 27.0), (0.0, 30.0))
    values = {"file": str(write_png(tmp_path / "s.png", rgba)), "fit": "centre", "position": travels}
    plate = Plate(id="s", kind="still", effects=(soft,), values=values)
    return Shot(width=96, height=54, length=5, rate=Fraction(25), plates=(plate,), ground=(0, 0, 0, 0))


def written(shot, tmp_path, key, **values):
    format = format_named(key)
    name = f"o_##{format.suffix}" if format.sequence else f"o{format.suffix}"
    first = values.pop("first", 2 if format.sequence else 0)
    last = values.pop("last", first if format.sequence else shot.length - 1)
    return render(Order(shot, tmp_path / name, first, last, format=format, **values), Engine()).files[0]


def test_every_kind_of_file_is_told_apart():
    """The keys are unique; a name's ending finds the first of its kind, and 16 bits where asked."""
    keys = [format.key for format in formats()]
    assert len(set(keys)) == len(keys)
    assert all(format.label and format.about and format.suffix.startswith(".") for format in formats())
    for format in formats():
        assert format_of(Path(f"a{format.suffix}")).suffix == format.suffix
    assert format_of(Path("a.tif"), deep=True).bits == 16


@pytest.mark.parametrize(
    ("key", "pixels", "largest"), [("ffv1-10", "gbrap10le", 1023), ("ffv1-16", "gbrap16le", 65535)]
)
def test_deep_ffv1_is_exact_with_alpha(shot, tmp_path, key, pixels, largest):
    """RFC 9043: what FFmpeg decodes are the codes that were put in; planes are green, blue, red, alpha."""
    with av.open(str(written(shot, tmp_path, key))) as container:
        frames = list(container.decode(video=0))
    assert len(frames) == 5
    assert frames[0].format.name == pixels
    planes = [np.frombuffer(bytes(p), "<u2").reshape(54, -1)[:, :96] for p in frames[2].planes]
    got = np.stack([planes[2], planes[0], planes[1], planes[3]], axis=2).astype(int)
    wanted = np.rint(to_rgba16(rendered(shot, 2)).astype(float) * largest / 65535)
    assert np.array_equal(got, wanted)


def test_tiff_is_exact(shot, tmp_path):
    """TIFF 6.0, by OpenCV's libtiff: 16-bit codes, and float as it is; the alpha is not multiplied in."""
    frame = rendered(shot, 2)
    codes = cv2.imread(str(written(shot, tmp_path, "tiff16")), cv2.IMREAD_UNCHANGED)
    assert np.array_equal(codes[..., [2, 1, 0, 3]], to_rgba16(frame))
    got = cv2.imread(str(written(shot, tmp_path, "tiff-float")), cv2.IMREAD_UNCHANGED)[..., [2, 1, 0, 3]]
    assert got.dtype == np.float32
    back = np.concatenate([got[..., :3] * got[..., 3:], got[..., 3:]], axis=2)
    assert np.abs(back - frame).max() < 1e-6


@pytest.mark.parametrize(("key", "kind", "near"), [("exr-half", np.float16, 2**-11), ("exr-float", np.float32, 1e-6)])
def test_openexr_holds_linear_light(shot, tmp_path, key, kind, near):
    """OpenEXR, "Technical introduction": linear light, colours multiplied by their alpha, primaries in the header;
    BT.709's own from ITU-R BT.709-6, items 1.3 and 1.4. Half has 11 bits (IEEE 754)."""
    with OpenEXR.File(str(written(shot, tmp_path, key)), separate_channels=False) as file:
        values, header = np.array(file.channels()["RGBA"].pixels), dict(file.header())
    assert values.dtype == kind
    wanted = to_linear(rendered(shot, 2))
    assert np.abs(values.astype(np.float32) - wanted).max() <= near
    primaries = header["chromaticities"]
    assert np.allclose(primaries, (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290), atol=1e-6)
    assert header["nimbleQuakeContent"] == "picture; linear light, associated alpha"


def test_gif_times_colours_and_clear_parts(shot, tmp_path):
    """GIF89a counts hundredths of a second: 25 a second is 40 ms each; endless; clear stays clear."""
    with Image.open(written(shot, tmp_path, "gif")) as image:
        shown = ImageSequence.Iterator(image)
        frames = [(frame.info["duration"], np.asarray(frame.convert("RGBA"))) for frame in shown]
        assert image.info["loop"] == 0
    assert [time for time, _ in frames] == [40] * 5
    assert (frames[2][1][:, :20, 3] == 0).all()
    assert (frames[2][1][9:50, 70:, 3] == 255).all()
    wanted = to_rgba8(rendered(shot, 2))[9:50, 70:, :3].astype(float)
    assert np.abs(cv2.blur(frames[2][1][9:50, 70:, :3].astype(float), (5, 5)) - cv2.blur(wanted, (5, 5))).mean() < 6


@pytest.mark.parametrize("rate", [Fraction(24), Fraction(30), Fraction(30000, 1001), Fraction(60)])
def test_gif_delays_never_drift(rate):
    """Whole hundredths whose sum is never more than half of one off, as GIF89a can say it."""
    found = delays(240, rate)
    assert set(found) <= {10, 20, 30, 40, 50}
    for count in (1, 24, 100, 240):
        assert abs(sum(found[:count]) - float(1000 * count / rate)) <= 5.0001


@pytest.mark.parametrize("key", ["apng", "webp-moving"])
def test_moving_pictures_with_alpha(shot, tmp_path, key):
    """By Pillow: every frame there, at 40 ms each, its alpha too; APNG bit for bit, WebP near."""
    with Image.open(written(shot, tmp_path, key)) as image:
        assert getattr(image, "n_frames", 1) == 5
        image.seek(2)
        image.load()
        got, time = np.asarray(image.convert("RGBA")).astype(int), image.info["duration"]
    wanted = to_rgba8(rendered(shot, 2)).astype(int)
    assert time == pytest.approx(40)
    if key == "apng":
        assert np.array_equal(got, wanted)
    else:
        assert np.abs(got[..., 3] - wanted[..., 3]).mean() < 1
        assert np.abs(got[:, 70:] - wanted[:, 70:]).mean() < 8


@pytest.mark.parametrize(("key", "most"), [("webp", 6.0), ("jpeg", 6.0)])
def test_lossy_stills_are_near(shot, tmp_path, key, most):
    with Image.open(written(shot, tmp_path, key)) as image:
        got = np.asarray(image.convert("RGB")).astype(int)
    wanted = to_rgba8(rendered(shot, 2))[9:50, 66:, :3].astype(int)
    assert np.abs(got[9:50, 66:] - wanted).mean() < most


@pytest.mark.parametrize("key", ["mp4", "mp4-av1", "webm", "webm-av1"])
def test_lossy_clips_are_near_and_say_what_they_are(shot, tmp_path, key):
    """Colours within 34 dB of what was rendered at the best quality; tags of BT.709 (ITU-T H.273, codes 1)."""
    best = format_named(key).qualities[0][1]
    with av.open(str(written(shot, tmp_path, key, quality=best))) as container:
        context = container.streams.video[0].codec_context
        frames = list(container.decode(video=0))
        tags = (context.color_primaries, context.color_trc, context.colorspace)
    assert len(frames) == 5
    assert tags == (1, 1, 1)
    got = frames[2].reformat(format="rgb24", src_colorspace="itu709", src_color_range="MPEG").to_ndarray().astype(float)
    wanted = to_rgba8(rendered(shot, 2))[9:50, 66:, :3].astype(float)
    error = np.mean((cv2.blur(got[9:50, 66:96], (3, 3)) - cv2.blur(wanted, (3, 3))) ** 2)
    assert 10 * np.log10(255**2 / error) > 34


class TestY4m:
    """YUV4MPEG2, by its header grammar (mjpegtools, yuv4mpeg(5)) and by FFmpeg."""

    def pipe(self, tmp_path, shot, *words):
        write_shot(shot, tmp_path / "p.nquake")
        return [sys.executable, "-m", "nimble_quake", "render", str(tmp_path / "p.nquake"), "-o", "-", *words]

    def test_header_frames_and_colours(self, tmp_path):
        red = Plate(id="f", kind="fill", values={"colour": (1.0, 0.0, 0.0, 1.0)})
        shot = Shot(width=51, height=37, length=3, rate=Fraction(24000, 1001), plates=(red,))
        data = written(shot, tmp_path, "y4m").read_bytes()
        head, _, rest = data.partition(b"\n")
        assert re.fullmatch(rb"YUV4MPEG2 W51 H37 F24000:1001 Ip A1:1 C444 XCOLORRANGE=LIMITED", head)
        assert len(rest) == 3 * (6 + 3 * 51 * 37)
        assert rest[:6] == b"FRAME\n"
        codes = [rest[6 + plane * 51 * 37] for plane in range(3)]
        assert np.abs(np.array(codes, int) - [63, 102, 240]).max() <= 1  # 100 % red, ITU-R BT.709 narrow range
        with av.open(str(tmp_path / "o.y4m")) as container:
            assert container.streams.video[0].average_rate == Fraction(24000, 1001)
            assert len(list(container.decode(video=0))) == 3

    def test_into_a_pipe_as_into_a_file(self, shot, tmp_path):
        found = subprocess.run(self.pipe(tmp_path, shot), capture_output=True, timeout=120, check=True)
        assert found.stdout == written(shot, tmp_path, "y4m").read_bytes()

    def test_a_broken_pipe_is_one_line(self, tmp_path):
        long = Shot(width=640, height=360, length=400, plates=(Plate(id="f", kind="fill"),))
        with subprocess.Popen(self.pipe(tmp_path, long), stdout=subprocess.PIPE, stderr=subprocess.PIPE) as process:
            assert process.stdout is not None
            assert process.stderr is not None
            process.stdout.read(9)
            process.stdout.close()
            said = process.stderr.read().decode()
            assert process.wait(60) == 1
        lines = [line for line in said.splitlines() if line.startswith("nimble-quake:")]
        assert len(lines) == 1
        assert "pipe" in lines[0].lower()
        assert "Traceback" not in said
        assert "Exception ignored" not in said
