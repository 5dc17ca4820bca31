"""What files say of their colours, read by libraries that did not write them."""

from __future__ import annotations

import io
import struct
from fractions import Fraction

import av
import numpy as np
import OpenEXR
import pytest
from PIL import Image, ImageCms, TiffImagePlugin

from nimble_quake.export.encoders.colour_space import srgb_profile
from nimble_quake.export.formats import format_named
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import render
from nimble_quake.render.engine import Engine
from nimble_quake.shot.model import Map, Node, Plate, Shot

SAYS = ["png", "png16", "tiff16", "jpeg", "webp"]
INTENT = ImageCms.Intent.RELATIVE_COLORIMETRIC
EXTRA_SAMPLES, ICC_PROFILE = 338, 34675
"""Tags of TIFF 6.0, and of ICC.1 annex B.5."""


def shot(rate: Fraction = Fraction(24), length: int = 4) -> Shot:
    """A soft map, and a fill that it bends."""
    noise = Map(id="m", name="M", recipe=(Node(id="n", kind="noise"),))
    fill = Plate(id="f", kind="fill", values={"colour": (0.8, 0.4, 0.2, 0.5)})
    return Shot(width=48, height=32, rate=rate, length=length, plates=(fill,), maps=(noise,), ground=(0, 0, 0, 0))


def written(tmp_path, key, *, frame: int = 1, of: Shot | None = None, **values):
    format = format_named(key)
    path = tmp_path / (f"o_##{format.suffix}" if format.sequence else f"o{format.suffix}")
    return render(Order(of or shot(), path, frame, frame, format=format, **values), Engine()).files[0]


def said(path) -> bytes:
    """The profile, or PNG's chunk, that a file carries."""
    with Image.open(path) as image:
        if isinstance(image, TiffImagePlugin.TiffImageFile):
            return bytes(image.tag_v2.get(ICC_PROFILE, b""))
        return image.info.get("icc_profile") or (b"srgb" if image.info.get("srgb") == 0 else b"")


def test_the_profile_is_srgb_to_littlecms():
    """LittleCMS, from our profile to its own sRGB: every code stays as it is."""
    profile = ImageCms.ImageCmsProfile(io.BytesIO(srgb_profile()))
    codes = np.random.default_rng(1).integers(0, 256, (64, 64, 3), dtype=np.uint8)
    way = ImageCms.buildTransform(profile, ImageCms.createProfile("sRGB"), "RGB", "RGB", INTENT)
    got = np.asarray(ImageCms.applyTransform(Image.fromarray(codes, "RGB"), way))
    assert np.abs(got.astype(int) - codes).max() <= 1
    assert ImageCms.getProfileDescription(profile).strip() == "sRGB"


@pytest.mark.parametrize("key", SAYS)
def test_pictures_say_srgb_and_data_say_nothing(tmp_path, key):
    """By Pillow: ICC profiles; PNG's own chunk (W3C PNG, 11.3.2.5), before its first data."""
    assert said(written(tmp_path, key)) in (srgb_profile(), b"srgb")
    assert said(written(tmp_path, key, what="map:m")) == b""


def test_png_says_it_in_h273s_codes_too(tmp_path):
    """W3C PNG third edition, 11.3.2.6: primaries, curve, matrix, whole range; before PLTE and IDAT."""
    data = written(tmp_path, "png").read_bytes()
    at = data.index(b"cICP")
    assert tuple(data[at + 4 : at + 8]) == (1, 13, 0, 1)
    assert struct.unpack(">I", data[at - 4 : at])[0] == 4
    assert at < data.index(b"IDAT")


@pytest.mark.parametrize(("alpha", "code"), [("", 2), ("premultiplied", 1)])
def test_tiff_says_what_its_fourth_channel_is(tmp_path, alpha, code):
    """TIFF 6.0, ExtraSamples: 2 is alpha beside straight colours, 1 alpha that is multiplied in."""
    with TiffImagePlugin.TiffImageFile(written(tmp_path, "tiff16", alpha=alpha)) as image:
        assert image.tag_v2[EXTRA_SAMPLES] == (code,)


def test_ffv1_says_its_curve(tmp_path):
    """Matroska's *Colour* (RFC 9559, 5.1.4.1.28.16), in H.273's codes: BT.709 primaries, sRGB's curve, no matrix."""
    with av.open(str(written(tmp_path, "ffv1"))) as container:
        context = container.streams.video[0].codec_context
        assert (context.color_primaries, context.color_trc, context.colorspace) == (1, 13, 0)
    with av.open(str(written(tmp_path, "ffv1-16", what="map:m"))) as container:
        assert container.streams.video[0].codec_context.color_trc == 2  # not said


@pytest.mark.parametrize(
    ("rate", "frame", "code"),
    [(Fraction(24), 50, (0, 0, 2, 2)), (Fraction(30000, 1001), 61, (0, 0, 2, 1)), (Fraction(60), 1, None)],
)
def test_exr_says_when_it_is_seen(tmp_path, rate, frame, code):
    """OpenEXR's standard attributes *framesPerSecond* and *timeCode*; a code has room for 40 frames a second."""
    path = written(tmp_path, "exr-half", frame=frame, of=shot(rate, 100))
    with OpenEXR.File(str(path)) as file:
        header = dict(file.header())
    assert header["framesPerSecond"] == rate
    found = header.get("timeCode")
    assert (None if found is None else (found.hours, found.minutes, found.seconds, found.frame)) == code


class TestIntermediates:
    """ProRes in QuickTime. The frame's header is read by SMPTE RDD 36, section 5 (its layout from memory)."""

    @pytest.mark.parametrize(
        ("key", "tag", "chroma", "alpha"), [("prores", b"apch", 2, 0), ("prores-4444", b"ap4h", 3, 2)]
    )
    def test_its_frames_say_what_they_are(self, tmp_path, key, tag, chroma, alpha):
        data = written(tmp_path, key).read_bytes()
        assert tag in data
        head = data.index(b"icpf") + 4
        wide, high = struct.unpack(">HH", data[head + 8 : head + 12])
        assert (wide, high) == (48, 32)
        assert data[head + 12] >> 6 == chroma  # 2 is 4:2:2, 3 is 4:4:4
        assert (data[head + 12] >> 2) & 3 == 0  # progressive
        assert tuple(data[head + 14 : head + 17]) == (1, 1, 1)  # BT.709
        assert data[head + 17] & 15 == alpha  # 2 is 16 bits

    def test_colours_and_alpha_come_back(self, tmp_path):
        with av.open(str(written(tmp_path, "prores-4444"))) as container:
            frame = next(container.decode(video=0))
            got = frame.to_ndarray(format="rgba64le").astype(float) / 65535
        assert np.abs(got[..., 3] - 0.5).max() < 1e-3
        assert np.abs(got[..., :3] - (0.8, 0.4, 0.2)).max() < 0.006
