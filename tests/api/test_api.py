"""What scripts rely on: it is listed, does what the window does, and the page about it runs."""

from __future__ import annotations

import re
import subprocess
import sys
from pathlib import Path

import numpy as np
import OpenEXR
import pytest

import nimble_quake as nq
from helpers import noise_map, pushed_still, read_png, rendered, speckled, write_png
from nimble_quake.export.formats import format_named
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import render
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
            assert np.abs(got[4, 12:50, 0] - np.clip(ramp[4, 12:50] + far / 64, 0, 63 / 64)).max() < 1e-5 + 1e-9
            assert got.dtype == np.float32

    def test_grey_colour_and_alpha(self):
        for shape in ((9, 16), (9, 16, 3), (9, 16, 4), (9, 16, 1)):
            assert nq.couple("glow", np.full(shape, 0.5)).shape == (9, 16, 4)
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
        with pytest.raises(nq.NimbleQuakeError, match="reach_x"):
            nq.couple("push", np.zeros((4, 4)), np.zeros((4, 4)), reach=3)
        with pytest.raises(nq.NimbleQuakeError):
            nq.push(np.zeros((4, 4)), np.zeros((4, 4)), float("nan"))


class TestShots:
    def test_frames_maps_and_files_are_those_of_the_program(self, tmp_path):
        shot = nq.open(sample_path("lantern-row") or "")
        assert np.array_equal(nq.picture(shot, 30, scale=0.25), rendered(shot, 30, 0.25))
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


def test_overscan_is_rendered_into_openexr(tmp_path):
    files = nq.render_to(nq.new(32, 18), tmp_path / "a_##.exr", frames=(0, 0), overscan=4)
    with OpenEXR.File(str(files[0])) as found:
        low, high = found.header()["dataWindow"]
    assert [tuple(int(n) for n in corner) for corner in (low, high)] == [(-4, -4), (35, 21)]
