"""What scripts rely on: it is listed, does what the window does, and the page about it runs."""

from __future__ import annotations

import base64
import re
import subprocess
import sys
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import msgspec
import numpy as np
import OpenEXR
import pytest

import nimble_quake as nq
from helpers import (
    noise_map,
    number_in,
    numbered_frame,
    pushed_still,
    read_png,
    rendered,
    speckled,
    write_clip,
    write_png,
)
from nimble_quake.cli.main import main
from nimble_quake.export.formats import format_named
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import render
from nimble_quake.farm.where import Where
from nimble_quake.media import pool
from nimble_quake.media.pool import open_clip
from nimble_quake.operators.registry import registry
from nimble_quake.render.engine import Engine
from nimble_quake.samples import sample_path

PAGE = Path(__file__).parent.parent.parent / "docs" / "python.md"


def test_the_page_runs(tmp_path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    blocks = re.findall(r"```python\n(.*?)```", PAGE.read_text(encoding="utf-8"), re.DOTALL)
    assert len(blocks) == 5
    held: dict[str, object] = {}
    for block in blocks:
        exec(compile(block, str(PAGE), "exec"), held)
    made = [
        "handed-on.zip",
        "mine.nquake-starter",
        "out-a_0020.png",
        "out-b_0020.png",
        "st_00.exr",
        "st_01.exr",
        "swell.mp4",
        "swell.nquake",
    ]
    assert sorted(path.name for path in tmp_path.iterdir()) == made


def test_all_that_is_listed_is_there_and_nothing_is_loaded_before():
    for name in nq.__all__:
        assert getattr(nq, name).__doc__
    with pytest.raises(AttributeError):
        getattr(nq, "noth" + "ing")
    stub = (Path(nq.__file__).parent / "__init__.pyi").read_text(encoding="utf-8")
    assert set(re.findall(r'"(\w+)"', stub)) == set(nq.__all__)
    assert all(len(re.findall(rf"\b{name}\b", stub)) >= 2 for name in nq.__all__), "listed, but not imported"
    code = "import sys, nimble_quake; print('numpy' in sys.modules, 'nimble_quake.api' in sys.modules)"
    found = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=60, check=True)
    assert found.stdout.split() == ["False", "False"]


class TestArrays:
    @pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
    def test_push_gives_the_bits_of_the_command_line(self, tmp_path, dtype):
        """The same two files, by `displace` and by arrays."""
        factor = 257 if dtype == np.uint16 else 1
        sign, map = (speckled(60, 40, seed).astype(dtype) * dtype(factor) for seed in (3, 4))
        for name, codes in (("sign", sign), ("map", map)):
            write_png(tmp_path / f"{name}.png", codes)
        out = tmp_path / "out.png"
        words = ["displace", "sign.png", "map.png", "-o", str(out), "--reach", "9", "--edge", "hold"]
        deep = ["--deep"] if dtype == np.uint16 else []
        subprocess.run(
            [sys.executable, "-m", "nimble_quake", *words, *deep],
            cwd=tmp_path,
            check=True,
            timeout=120,
            capture_output=True,
        )
        got = nq.push(sign, map, 9, edge="hold", filter="linear", x_from="red", y_from="green")
        assert got.dtype == dtype
        assert np.array_equal(got, read_png(out))

    def test_floats_are_not_rounded_and_may_go_beyond(self):
        """White that is twice white pushes twice as far: a still ramp is shifted by exactly as many px."""
        ramp = np.tile(np.arange(64, dtype=np.float32) / 64, (8, 1))
        for level, far in ((1.0, 5.0), (1.5, 10.0), (0.5, 0.0), (0.0, -5.0)):
            got = nq.push(ramp, np.full((8, 64), level, np.float32), 5.0, edge="hold", x_from="value", y_from="none")
            assert np.abs(got[4, 12:50] - np.clip(ramp[4, 12:50] + far / 64, 0, 63 / 64)).max() < 1e-5 + 1e-9
            assert got.dtype == np.float32

    def test_grey_colour_and_alpha(self):
        for shape in ((9, 16), (9, 16, 3), (9, 16, 4), (9, 16, 1)):
            assert nq.couple("glow", np.full(shape, 0.5)).shape == shape
        torn = nq.push(np.full((9, 16, 3), 0.5), np.ones((9, 16)), 30.0, edge="empty")
        assert torn.shape == (9, 16, 4), "what is clear needs an alpha"
        coloured = nq.couple("tint", np.full((9, 16), 0.5))
        assert coloured.shape in ((9, 16), (9, 16, 3))
        half = np.full((9, 16, 4), 0.5)
        assert np.abs(nq.push(half, np.full((9, 16), 0.5), 30.0) - 0.5).max() < 1e-6

    @pytest.mark.parametrize(
        "bad", [np.zeros((4, 4, 2)), np.zeros(4), np.zeros((0, 4)), np.full((4, 4), np.nan), np.zeros((4, 4), int)]
    )
    def test_bad_arrays_are_one_line(self, bad):
        with pytest.raises(nq.NimbleQuakeError, match="picture"):
            nq.push(bad, np.zeros((4, 4)), 3)

    def test_bad_names_are_one_line(self):
        with pytest.raises(nq.NimbleQuakeError, match="no effect"):
            nq.couple("shove", np.zeros((4, 4)))
        with pytest.raises(nq.NimbleQuakeError, match='edge of push: "hol" is not a choice - use one of empty, hold'):
            nq.push(np.zeros((4, 4)), np.zeros((4, 4)), 3, edge="hol")
        with pytest.raises(nq.NimbleQuakeError, match="reach_x"):
            nq.couple("push", np.zeros((4, 4)), np.zeros((4, 4)), reach=3)
        with pytest.raises(nq.NimbleQuakeError):
            nq.push(np.zeros((4, 4)), np.zeros((4, 4)), float("nan"))


class TestShots:
    def test_frames_maps_and_files_are_those_of_the_program(self, tmp_path):
        shot = nq.open(sample_path("lantern-row") or "")
        premultiplied = rendered(shot, 30, 0.25)
        straight = nq.picture(shot, 30, scale=0.25)
        np.testing.assert_allclose(straight[..., :3] * straight[..., 3:], premultiplied[..., :3], atol=1e-6)
        assert np.array_equal(straight[..., 3], premultiplied[..., 3])
        name = shot.maps[0].name
        assert nq.map_values(shot, name, 30, scale=0.25).shape[:2] == (180, 320)
        mine = nq.render_to(shot, tmp_path / "a_##.png", frames=(3, 4), scale=0.25)
        order = Order(shot, tmp_path / "b_##.png", 3, 4, 0.25, format=format_named("png"))
        assert [p.read_bytes() for p in mine] == [p.read_bytes() for p in render(order, Engine()).files]

    def test_edits_leave_the_old_shot_and_refuse_what_is_none(self, tmp_path):
        old = pushed_still(write_png(tmp_path / "s.png", speckled(32, 18)), noise_map(), (32, 18))
        plate = f"plates/{old.plates[0].id}"
        new = nq.set(old, f"{plate}/opacity", 0.5)
        assert (old.plates[0].values.get("opacity"), new.plates[0].values["opacity"]) == (None, 0.5)
        assert nq.set(new, f"{plate}/opacity", None).plates[0].values.get("opacity") is None
        for path, value in ((f"{plate}/nothing", 1.0), ("plates/none/size", 1.0), (f"{plate}/opacity", "much")):
            with pytest.raises(nq.NimbleQuakeError):
                nq.set(old, path, value)
        with pytest.raises(nq.NimbleQuakeError):
            nq.new(0, 10)
        with pytest.raises(nq.NimbleQuakeError):
            nq.add_plate(old, "nothing")

    def test_what_is_not_as_it_should_be_warns(self, tmp_path):
        shot, _ = nq.add_plate(nq.new(32, 18), "still", file=str(tmp_path / "gone.png"))
        with pytest.warns(UserWarning, match="not there"):
            nq.picture(shot)

    def test_a_render_that_is_stopped_leaves_nothing(self, tmp_path):
        def stop(now: object) -> None:
            raise KeyboardInterrupt

        with pytest.raises(KeyboardInterrupt):
            nq.render_to(nq.new(32, 18), tmp_path / "a.mkv", progress=stop)
        assert list(tmp_path.iterdir()) == []


def test_a_render_takes_what_the_shell_takes(tmp_path, monkeypatch):
    """The same bytes as `nimble-quake render` writes with the options of those names."""
    shot = sample_path("lantern-row")
    mine = nq.render_to(nq.open(shot or ""), tmp_path / "a_##.png", frames=(9, 9), scale=0.2, deep=True, limit=True)
    words = [
        "render",
        str(shot),
        "-o",
        str(tmp_path / "b_##.png"),
        "--frames",
        "9",
        "--size",
        "20%",
        "--deep",
        "--limit",
    ]
    assert main([*words, "--quiet"]) == 0
    assert mine[0].read_bytes() == (tmp_path / "b_09.png").read_bytes()
    asked: list[Where] = []

    def refuse(where: Where, engine: Engine) -> None:
        asked.append(where)
        raise nq.NimbleQuakeError("no machines here")

    monkeypatch.setattr("nimble_quake.farm.connecting.connected", refuse)
    with pytest.raises(nq.NimbleQuakeError, match="no machines"):
        nq.render_to(nq.new(32, 18), tmp_path / "c_##.png", workers=2, alpha="straight", dither=True)
    assert asked == [Where(workers=2)]


def test_overscan_is_rendered_into_openexr(tmp_path):
    files = nq.render_to(nq.new(32, 18), tmp_path / "a_##.exr", frames=(0, 0), overscan=4)
    with OpenEXR.File(str(files[0])) as found:
        low, high = found.header()["dataWindow"]
    assert [tuple(int(n) for n in corner) for corner in (low, high)] == [(-4, -4), (35, 21)]


def test_one_rule_for_alpha():
    """Straight in, straight out: what nothing moves comes back as it went in, half clear or not."""
    half = np.full((9, 16, 4), 0.5, np.float32)
    shot, plate = nq.add_plate(nq.new(16, 9), "fill", colour=(0.8, 0.4, 0.2, 0.5))
    shot = nq.set(shot, f"{plate}/opacity", 1.0)
    clear = msgspec.structs.replace(shot, ground=(0.0, 0.0, 0.0, 0.0))
    np.testing.assert_allclose(nq.picture(clear)[4, 8], (0.8, 0.4, 0.2, 0.5), atol=1e-6)
    np.testing.assert_allclose(nq.push(half, np.full((9, 16), 0.5), 30.0), half, atol=1e-6)


def test_a_clip_of_arrays_is_a_list():
    pictures = [np.full((9, 16, 3), n / 4, np.float32) for n in range(4)]
    maps = [np.full((9, 16), 0.5, np.float32)] * 4
    either: list[Any] = [maps, maps[0]]
    for map in either:
        found = nq.couple("push", pictures, map, reach_x=3.0, edge="hold")
        assert [round(float(each.mean()), 3) for each in found] == [0, 0.25, 0.5, 0.75]
    with pytest.raises(nq.NimbleQuakeError, match="4 pictures have 2 maps"):
        nq.couple("push", pictures, maps[:2])
    with pytest.raises(nq.NimbleQuakeError, match="one picture has a list of maps"):
        nq.couple("push", pictures[0], maps)  # type: ignore[call-overload]  # that is what is tried


def known() -> set[str]:
    return {operator.kind for operator in registry().all()}


def test_what_is_known_of_an_operator():
    push: Any = nq.describe("push")
    assert push["title"] == "Push"
    edge = next(each for each in push["parameters"] if each["name"] == "edge")
    assert edge["choices"][:2] == ["empty", "hold"]
    assert all(nq.describe(kind)["help"] for kind in known())
    with pytest.raises(nq.NimbleQuakeError, match="use one of push"):
        nq.describe("puhs")


def test_a_notebook_shows_frames_and_plays_clips():
    """PNG and MP4 by their first bytes: ISO/IEC 15948 and ISO/IEC 14496-12."""
    shot, _ = nq.add_plate(nq.new(64, 36, length=3), "text", words="A", size=30.0)
    assert nq.show(shot)._repr_png_()[:8] == b"\x89PNG\r\n\x1a\n"
    html = nq.play(shot, scale=1.0)._repr_html_()
    data = base64.b64decode(html.partition("base64,")[2].partition('"')[0])
    assert data[4:8] == b"ftyp"


def test_frames_in_a_row_read_one_clip_on(tmp_path, monkeypatch):
    """And show what each of them shows alone."""
    file = write_clip(tmp_path / "n.mkv", [numbered_frame(n) for n in range(12)], Fraction(24), "ffv1", "bgr0")
    shot, _ = nq.add_plate(nq.new(64, 48, length=12), "clip", file=str(file))
    opened = []
    monkeypatch.setattr(pool, "open_clip", lambda *args: opened.append(args) or open_clip(*args))
    row = [nq.picture(shot, frame) for frame in (3, 4, 5, 9, 2)]
    assert [number_in(picture) for picture in row] == [3, 4, 5, 9, 2]
    assert len(opened) == 1
    for frame, picture in zip((3, 4, 5, 9, 2), row, strict=True):
        assert np.array_equal(rendered(shot, frame), picture)


@pytest.mark.parametrize("fields", ["both", "upper", "lower"])
def test_a_field_of_a_clip_is_seen_as_in_the_window(tmp_path, fields):
    lines = np.full((48, 64, 4), 255, np.uint8)
    lines[0::2, :, :3] = 40
    file = write_clip(tmp_path / "l.mkv", [lines] * 3, Fraction(24), "ffv1", "bgr0")
    shot, _ = nq.add_plate(nq.new(64, 48, length=3), "clip", file=str(file), fields=fields)
    found = nq.picture(shot, 1)
    assert np.array_equal(found, rendered(shot, 1))
    assert (found[8:40, 32, 0].min() < 0.5, found[8:40, 32, 0].max() > 0.5) == {
        "both": (True, True),
        "upper": (True, False),
        "lower": (False, True),
    }[fields]


class TestHeld:
    """Arrays where a shot takes a file: plates, clips and maps."""

    def test_a_still_is_the_array(self):
        sign = np.random.default_rng(3).integers(0, 256, (36, 64, 3), dtype=np.uint8)
        name = nq.hold(sign)
        shot, _ = nq.add_plate(nq.new(64, 36), "still", file=name)
        got = nq.picture(shot)
        assert np.array_equal(np.rint(got[..., :3] * 255).astype(np.uint8), sign)
        nq.drop(name)
        with pytest.raises(nq.NimbleQuakeError, match="nothing is held"):
            nq.drop(name)

    def test_no_name_stands_for_two_arrays(self):
        """What was made of the first may still be remembered."""
        pages = [np.full((36, 64, 3), level, np.uint8) for level in (60, 200)]
        seen = []
        for page in pages:
            name = nq.hold(page)
            shot, _ = nq.add_plate(nq.new(64, 36), "still", file=name)
            seen.append(round(float(nq.picture(shot)[9, 9, 0]) * 255))
            nq.drop(name)
        assert seen == [60, 200]

    def test_a_list_is_a_clip_at_its_rate_and_blends(self, tmp_path):
        """Five pictures at 12 a second in a shot of 24: each is seen twice; blended, half way between is the mean."""
        pictures = [np.full((36, 64), 40 * number, np.uint8) for number in range(5)]
        shot, path = nq.add_plate(
            nq.new(64, 36, rate=24, length=12), "clip", file=nq.hold(pictures, rate=12), beyond="hold"
        )
        seen = [round(float(nq.picture(shot, frame)[18, 32, 0]) * 255) for frame in range(12)]
        assert seen == [0, 0, 40, 40, 80, 80, 120, 120, 160, 160, 160, 160]
        blended = nq.set(shot, f"{path}/between", "blend")
        assert round(float(nq.picture(blended, 3)[18, 32, 0]) * 255) == 60
        (made,) = nq.render_to(shot, tmp_path / "a.mkv")
        with av.open(str(made)) as clip:
            frames = [frame.to_ndarray(format="rgb24")[18, 32, 0] for frame in clip.decode(video=0)]
        assert frames == seen

    def test_a_clip_drives_a_push(self):
        """As couple does with the same map, to a level of 255."""
        sign = cv2.GaussianBlur(np.random.default_rng(4).integers(0, 256, (36, 64, 3), dtype=np.uint8), (0, 0), 2)
        maps = [np.full((36, 64), level, np.uint8) for level in (128, 255)]
        shot, plate = nq.add_plate(nq.new(64, 36, length=2), "still", file=nq.hold(sign))
        shot, path = nq.add_map(shot, "m")
        shot, _ = nq.add_step(shot, path, "picture", file=nq.hold(maps), take="colour", fit="stretch")
        shot, _ = nq.add_effect(shot, plate, "push", map="m", reach_x=6.0, reach_y=0.0, edge="hold")
        for frame, level in enumerate(maps):
            alone = nq.push(sign, level, 6.0, 0.0, edge="hold").astype(int)
            got = np.rint(nq.picture(shot, frame)[..., :3] * 255)
            assert np.abs(got - alone).max() <= 1

    @pytest.mark.parametrize(
        ("pictures", "rate", "said"),
        [
            ([], 24, "has no pictures"),
            ([np.zeros((4, 4)), np.zeros((4, 5))], 24, "4 x 4 and 5 x 4"),
            ([np.zeros((4, 4)), np.zeros((4,))], 24, "picture 1"),
            (np.zeros((4, 4, 2)), 24, "shape"),
            ([np.zeros((4, 4))], 0, "rate"),
        ],
    )
    def test_what_cannot_be_held_is_one_line(self, pictures, rate, said):
        with pytest.raises(nq.NimbleQuakeError, match=said):
            nq.hold(pictures, rate=rate)
