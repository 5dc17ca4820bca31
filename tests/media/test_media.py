"""Stills, clips, artwork and type: exact, and one clear line on what cannot be read."""

from __future__ import annotations

import shutil
import struct
from fractions import Fraction

import av
import cv2
import numpy as np
import pytest
import skia
from PIL import Image, ImageOps

from helpers import coded, number_in, numbered_frame, speckled, write_clip, write_png
from nimble_quake.errors import MediaError
from nimble_quake.media.clips import Clip
from nimble_quake.media.drawing import drawn_apart
from nimble_quake.media.drawing.artwork import Artwork
from nimble_quake.media.drawing.faces import DEFAULT_FACE, FONTS, Style, faces, known_face, missing_glyphs
from nimble_quake.media.drawing.type import TextLook, draw_text, text_box
from nimble_quake.media.pool import MediaPool, sort_of
from nimble_quake.media.stills import Still
from nimble_quake.raster.colour.convert import to_rgba8, to_rgba16

SVG = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="40" height="20"><rect width="20" height="20" fill="#ff0000"/></svg>'
)


class TestStills:
    def test_png_8_and_16_bits(self, tmp_path):
        """ISO 15948: exact; 16-bit RGB read as 16 (Pillow alone would cut it)."""
        deep = np.random.Generator(np.random.PCG64(1)).integers(0, 65536, (9, 11, 4)).astype(np.uint16)
        deep[..., 3] = 65535
        flat = coded(20, 10)
        a, b = Still(write_png(tmp_path / "a.png", deep)), Still(write_png(tmp_path / "b.png", flat))
        assert np.array_equal(to_rgba16(a.picture(0, 11, 9)), deep)
        assert np.array_equal(to_rgba8(b.picture(0, 20, 10)), flat)
        assert (a.bits8, b.bits8) == (False, True)

    @pytest.mark.parametrize("turn", range(1, 9))
    def test_exif_turns(self, tmp_path, turn):
        """Exif 2.3 orientation, as Pillow's ImageOps.exif_transpose."""
        image = Image.fromarray(coded(40, 20)[..., :3])
        exif = Image.Exif()
        exif[274] = turn
        image.save(tmp_path / "t.jpg", exif=exif, quality=95)
        wanted = ImageOps.exif_transpose(Image.open(tmp_path / "t.jpg")).convert("RGBA")
        got = Still(tmp_path / "t.jpg")
        assert (got.width, got.height) == wanted.size
        assert np.array_equal(to_rgba8(got.picture(0, 999, 999)), np.asarray(wanted))

    @pytest.mark.parametrize("ending", ["webp", "tif", "bmp"])
    def test_other_kinds(self, tmp_path, ending):
        Image.fromarray(coded(16, 8)).convert("RGB").save(tmp_path / f"p.{ending}", lossless=True)
        assert np.array_equal(to_rgba8(Still(tmp_path / f"p.{ending}").picture(0, 16, 8)), coded(16, 8))

    def test_16_bit_grey_tiff(self, tmp_path):
        grey = (np.arange(64, dtype=np.uint16) * 1000).reshape(8, 8)
        cv2.imwrite(str(tmp_path / "g.tif"), grey)
        assert np.array_equal(to_rgba16(Still(tmp_path / "g.tif").picture(0, 8, 8))[..., 0], grey)

    def test_shown_small(self, tmp_path):
        """A still far larger than shown is averaged, not picked from."""
        still = Still(write_png(tmp_path / "s.png", speckled(640, 360)))
        full = still.picture(0, 640, 360)
        small = still.picture(0, 80, 45)
        assert np.abs(small - cv2.resize(full, (80, 45), interpolation=cv2.INTER_AREA)).max() < 2 / 255
        assert still.nbytes > 0


RATES = [Fraction(24), Fraction(24000, 1001), Fraction(30000, 1001), Fraction(50)]


class TestClips:
    @pytest.mark.parametrize(
        ("codec", "pix_fmt", "ending"),
        [
            ("ffv1", "bgr0", "mkv"),
            ("libx264", "yuv420p", "mp4"),
            ("libvpx-vp9", "yuv420p", "webm"),
            ("prores_ks", "yuv422p10le", "mov"),
            ("libsvtav1", "yuv420p", "mkv"),
        ],
    )
    def test_every_frame_by_its_number(self, tmp_path, codec, pix_fmt, ending):
        """Each frame holds its number; any order of seeking finds it."""
        frames = [numbered_frame(n) for n in range(40)]
        clip = Clip(write_clip(tmp_path / f"c.{ending}", frames, Fraction(24), codec, pix_fmt))
        assert clip.frames == 40
        for number in (0, 39, 7, 8, 9, 30, 1, 39, 0):
            assert number_in(clip.picture((number + 0.5) / 24, 64, 48)) == number

    @pytest.mark.parametrize("rate", RATES)
    def test_exact_rates(self, tmp_path, rate):
        """Frame n is shown from exactly n / rate on (ISO 14496-12 time bases)."""
        frames = [numbered_frame(n) for n in range(30)]
        clip = Clip(write_clip(tmp_path / "c.mp4", frames, rate, "libx264", "yuv420p"))
        assert clip.rate == rate
        assert clip.seconds == pytest.approx(float(30 / rate), abs=1e-6)
        for number in range(30):
            assert clip.frame_at(float(number / rate)) == number
        assert clip.frame_at(-5) == 0
        assert clip.frame_at(99) == 29

    def test_lossless_is_exact(self, tmp_path):
        """RFC 9043: FFV1 decodes to the same codes."""
        rgba = speckled(50, 30)
        clip = Clip(write_clip(tmp_path / "c.mkv", [rgba] * 2, Fraction(25), "ffv1", "bgr0"))
        assert np.array_equal(to_rgba8(clip.picture(0, 50, 30)), rgba)

    def test_variable_rate(self, tmp_path):
        """Times come from the file's own presentation times, not from frame number / rate."""
        path = tmp_path / "v.mkv"
        with av.open(str(path), "w") as container:
            stream = container.add_stream("ffv1", rate=25)
            stream.width, stream.height, stream.pix_fmt = 64, 48, "bgr0"
            stream.codec_context.time_base = Fraction(1, 1000)
            for n, at in enumerate((0, 40, 400, 480, 1500)):
                frame = av.VideoFrame.from_ndarray(numbered_frame(n), "rgba")
                frame.pts, frame.time_base = at, Fraction(1, 1000)
                container.mux(stream.encode(frame))
            container.mux(stream.encode())
        clip = Clip(path)
        shown = [number_in(clip.picture(t, 64, 48)) for t in (0.0, 0.041, 0.3, 0.41, 1.4, 1.6)]
        assert shown == [0, 1, 1, 2, 3, 4]

    def test_matrix_and_range_of_tags(self, tmp_path):
        """ITU-R BT.709: narrow-range codes of 100 % red are (63, 102, 240); untagged HD counts as BT.709."""
        path = tmp_path / "r.mkv"
        with av.open(str(path), "w") as container:
            stream = container.add_stream("ffv1", rate=25)
            stream.width, stream.height, stream.pix_fmt = 1280, 720, "yuv444p"
            frame = av.VideoFrame(1280, 720, "yuv444p")
            for plane, code in zip(frame.planes, (63, 102, 240), strict=True):
                plane.update(bytes([code]) * plane.buffer_size)
            frame.pts = 0
            container.mux(stream.encode(frame))
            container.mux(stream.encode())
        red = to_rgba8(Clip(path).picture(0, 1280, 720))[5, 5]
        assert np.abs(red.astype(int) - [255, 0, 0, 255]).max() <= 1

    def test_alpha(self, tmp_path):
        rgba = numbered_frame(5)
        rgba[:, 32:, 3] = 0
        clip = Clip(write_clip(tmp_path / "a.mkv", [rgba] * 3, Fraction(25), "ffv1", "bgra"))
        assert np.array_equal(to_rgba8(clip.picture(0, 64, 48))[..., 3], rgba[..., 3])
        prores = Clip(write_clip(tmp_path / "a.mov", [rgba] * 3, Fraction(25), "prores_ks", "yuva444p10le"))
        assert np.abs(prores.picture(0, 64, 48)[..., 3] * 255 - rgba[..., 3]).max() <= 2

    def test_vp9_alpha_by_its_own_decoder(self, tmp_path):
        rgba = numbered_frame(5)
        rgba[:, 32:, 3] = 0
        path = write_clip(
            tmp_path / "a.webm", [rgba] * 3, Fraction(25), "libvpx-vp9", "yuva420p", **{"auto-alt-ref": "0"}
        )
        alpha = Clip(path).picture(0.05, 64, 48)[..., 3]
        assert alpha[20, 10] > 0.95
        assert alpha[20, 50] < 0.05

    def test_odd_sizes(self, tmp_path):
        rgba = speckled(51, 37)
        clip = Clip(write_clip(tmp_path / "o.mkv", [rgba], Fraction(25), "ffv1", "bgr0"))
        assert (clip.width, clip.height) == (51, 37)
        assert clip.picture(0, 25, 18).shape == (18, 25, 4)


HOSTILE = {
    "empty.mp4": b"",
    "empty.png": b"",
    "text.mp4": b"ffconcat version 1.0\nfile secret.mkv\n",
    "list.mkv": b"#EXTM3U\n#EXTINF:1,\nsecret.mkv\n",
    "noise.mov": bytes(range(256)) * 40,
    "text.png": b"not a picture",
    "cut.png": b"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x00\x10",
    "huge.png": b"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x7f\xff\xff\xff\x7f\xff\xff\xff\x08\x06" + b"\x00" * 7,
    "text.svg": b"hello",
    "bomb.svg": b'<!DOCTYPE svg [<!ENTITY a "aaaa">]><svg xmlns="http://www.w3.org/2000/svg">&a;</svg>',
    "broken.svg": b"<svg",
    "odd.xyz": b"x",
}


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_files_are_one_line(tmp_path, name):
    (tmp_path / name).write_bytes(HOSTILE[name])
    shutil.copy(
        write_clip(tmp_path / "made.mkv", [numbered_frame(1)], Fraction(25), "ffv1", "bgr0"), tmp_path / "secret.mkv"
    )
    with pytest.raises(MediaError) as wrong:
        MediaPool().open(str(tmp_path / name))
    assert "\n" not in wrong.value.line()
    assert name in wrong.value.line()


def test_cut_off_clip_still_shows_what_it_has(tmp_path):
    """A truncated Matroska file: frames that are there are shown, or it is refused; never another error."""
    whole = write_clip(
        tmp_path / "w.mkv", [numbered_frame(n) for n in range(20)], Fraction(25), "ffv1", "bgr0"
    ).read_bytes()
    for share in (0.2, 0.5, 0.9, 0.99):
        path = tmp_path / f"cut{share}.mkv"
        path.write_bytes(whole[: int(len(whole) * share)])
        try:
            clip = MediaPool().open(str(path))
            for t in (0.0, 0.3, 5.0):
                clip.picture(t, 64, 48)
        except MediaError as wrong:
            assert "\n" not in wrong.line()


def test_a_changed_file_is_opened_again(tmp_path):
    pool, path = MediaPool(), tmp_path / "a.png"
    write_png(path, coded(10, 10))
    assert pool.open(str(path)) is pool.open(str(path))
    write_png(path, coded(30, 10))
    assert pool.open(str(path)).width == 30
    path.unlink()
    with pytest.raises(MediaError, match="not there"):
        pool.open(str(path))
    write_png(path, coded(12, 10))
    assert pool.open(str(path)).width == 12
    assert (sort_of("a.SVG"), sort_of("b.jpeg"), sort_of("c.mov"), sort_of("d.txt")) == ("artwork", "still", "clip", "")


class TestArtwork:
    def test_sharp_at_any_size(self, tmp_path):
        (tmp_path / "a.svg").write_text(SVG)
        art = Artwork(tmp_path / "a.svg")
        assert (art.width, art.height) == (40, 20)
        big = art.drawn(10, 10)
        assert big.shape == (200, 400, 4)
        assert big[100, 199].tolist() == pytest.approx([1, 0, 0, 1])
        assert big[100, 201].tolist() == [0, 0, 0, 0]

    @pytest.mark.parametrize(
        ("head", "size"),
        [
            ('viewBox="0 0 30 60"', (30, 60)),
            ('width="1in" height="2in"', (96, 192)),
            ('width="50" viewBox="0 0 10 20"', (50, 100)),
            ("", (512, 512)),
        ],
    )
    def test_sizes(self, tmp_path, head, size):
        (tmp_path / "a.svg").write_text(f'<svg xmlns="http://www.w3.org/2000/svg" {head}></svg>')
        art = Artwork(tmp_path / "a.svg")
        assert (art.width, art.height) == size

    def test_nothing_is_fetched(self, tmp_path):
        """A picture named inside is not read, by path or by address."""
        write_png(tmp_path / "in.png", coded(8, 8))
        inside = f'<image href="{tmp_path}/in.png" width="8" height="8"/><script>x()</script>'
        (tmp_path / "a.svg").write_text(f'<svg xmlns="http://www.w3.org/2000/svg" width="8" height="8">{inside}</svg>')
        assert not Artwork(tmp_path / "a.svg").drawn(1, 1).any()


class TestType:
    def test_letters_are_as_large_as_asked(self):
        """Bungee's capitals are 0.72 em high (read from its OS/2 table with fontTools)."""
        picture, _ = draw_text(TextLook("H", "Bungee", 200.0), 1, 1)
        rows = np.flatnonzero(picture[..., 3].max(axis=1) > 0.5)
        assert rows[-1] - rows[0] + 1 == pytest.approx(0.72 * 200, abs=2)

    def test_kerning_and_spacing(self):
        plain = text_box(TextLook("To", "Barlow Black", 100.0))[0]
        apart = text_box(TextLook("T", "Barlow Black", 100.0))[0] + text_box(TextLook("o", "Barlow Black", 100.0))[0]
        assert plain < apart - 1
        assert text_box(TextLook("To", "Barlow Black", 100.0, 20.0))[0] == pytest.approx(plain + 40, abs=1)

    def test_lines_and_zoom(self):
        one, two = (text_box(TextLook(words, "Bungee", 50.0))[1] for words in ("A", "A\nA"))
        assert two == pytest.approx(2 * one, abs=1)
        small, big = (draw_text(TextLook("ROW", "Bungee", 50.0), zoom, zoom)[0] for zoom in (1, 3))
        assert big[..., 3].sum() == pytest.approx(small[..., 3].sum() * 9, rel=0.01)

    def test_missing_faces_and_glyphs(self):
        assert DEFAULT_FACE in faces()
        assert known_face("No Such Face") == DEFAULT_FACE
        assert missing_glyphs("A\u4e00 B\u4e8c", Style("Bungee")) == "\u4e00\u4e8c"
        assert missing_glyphs("LANTERN ROW", Style("Bungee")) == ""
        assert text_box(TextLook("", "Bungee", 10.0))[0] >= 1


class TestHostileArtwork:
    """SVG that asks for too much is one line; the program lives on and draws the next."""

    HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="40" height="20">'

    def refused(self, tmp_path, body: str) -> str:
        (tmp_path / "h.svg").write_text(f"{self.HEAD}{body}</svg>")
        with pytest.raises(MediaError) as wrong:
            Artwork(tmp_path / "h.svg").picture(0, 40, 20)
        assert "h.svg" in wrong.value.line()
        assert " - " in wrong.value.line()
        return wrong.value.line()

    def test_deep_nesting(self, tmp_path):
        assert "deeply" in self.refused(tmp_path, "<g>" * 12_000 + "</g>" * 12_000)

    def test_copies_of_copies(self, tmp_path):
        rows = '<rect id="u0" width="1" height="1"/>' + "".join(
            f'<g id="u{n}">' + f'<use href="#u{n - 1}"/>' * 10 + "</g>" for n in range(1, 9)
        )
        assert "often" in self.refused(tmp_path, f"<defs>{rows}</defs><use xlink:href='#u8'/>")

    def test_parts_that_use_each_other(self, tmp_path):
        body = '<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>'
        assert "often" in self.refused(tmp_path, body)

    def test_what_takes_too_long_is_ended(self, tmp_path, monkeypatch):
        """Dashes and filters are drawn by a helper that is ended when its time is up; the next one gets a new one."""
        monkeypatch.setattr(drawn_apart, "PATIENCE", 0.0)
        dashes = '<path d="M0 0 L9999999 10" stroke="#000" stroke-width="900" stroke-dasharray="0.01 0.011"/>'
        assert "longer than" in self.refused(tmp_path, dashes)
        (tmp_path / "g.svg").write_text(
            f'{self.HEAD}<rect width="40" height="20" fill="#f00" stroke="#f00" stroke-dasharray="4 4"/></svg>'
        )
        monkeypatch.setattr(drawn_apart, "PATIENCE", 20.0)
        assert Artwork(tmp_path / "g.svg").picture(0, 40, 20)[10, 20, 0] > 0.99

    def test_what_is_drawn_apart_is_the_same(self, tmp_path):
        (tmp_path / "s.svg").write_text(SVG)
        artwork = Artwork(tmp_path / "s.svg")
        apart = drawn_apart.drawn_apart(SVG.encode(), 80, 40, "s.svg")
        np.testing.assert_array_equal(artwork.picture(0, 80, 40), apart)


@pytest.mark.parametrize("family", ["Bungee", "Pacifico", "Rubik Mono One", "Barlow Medium"])
def test_a_line_gap_of_100_percent_is_the_faces_own(family):
    """Against the face's own numbers (OpenType, hhea: ascender - descender + lineGap)."""
    path = next(path for path in FONTS.glob("*.ttf") if skia.Typeface.MakeFromFile(str(path)).getFamilyName() == family)
    head = skia.Typeface.MakeFromFile(str(path)).getTableData(int.from_bytes(b"hhea", "big"))
    units = skia.Typeface.MakeFromFile(str(path)).getUnitsPerEm()
    ascent, descent, gap = struct.unpack(">hhh", bytes(head)[4:10])
    own = (ascent - descent + gap) / units * 100
    one, two = (text_box(TextLook(words, family, 100.0))[1] for words in ("a", "a\nb"))
    assert two - one == pytest.approx(own, abs=1.5)
    wide = text_box(TextLook("a\nb", family, 100.0, line_spacing=2.0))[1]
    assert wide == pytest.approx(2 * two, rel=0.02)
