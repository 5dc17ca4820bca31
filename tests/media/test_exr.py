"""OpenEXR pictures in: values, alpha, layers, windows, sequences, against OpenEXR's own reader and FFmpeg's."""

from __future__ import annotations

from pathlib import Path

import av
import msgspec
import numpy as np
import OpenEXR
import pytest

from helpers import rendered
from nimble_quake.errors import MediaError
from nimble_quake.media.exr import layers_of, read_layer
from nimble_quake.media.pool import MediaPool, sort_of
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.session.state import Session
from nimble_quake.session.verbs.items import as_sequence, plate_from_file
from nimble_quake.shot.model import Map, Node, Plate, Shot

W, H = 32, 20
NAMES = ("R", "G", "B", "A")
Box = tuple[tuple[int, int], tuple[int, int]]


def written(file: Path, channels: dict[str, np.ndarray], window: Box | None = None, frame: Box | None = None) -> Path:
    """window, frame: first and last column and row of what is held, and of the frame."""
    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    height, width = next(iter(channels.values())).shape
    window = window or ((0, 0), (width - 1, height - 1))
    for name, box in (("dataWindow", window), ("displayWindow", frame or window)):
        header[name] = tuple(np.array(each, np.int32) for each in box)
    OpenEXR.File(header, {name: np.ascontiguousarray(plane) for name, plane in channels.items()}).write(str(file))
    return file


@pytest.fixture
def planes() -> dict[str, np.ndarray]:
    """Red across 0...2, green down 0...1, blue even, an alpha that rises; associated."""
    alpha = np.linspace(0.25, 1, W, dtype=np.float32)[None].repeat(H, 0)
    red = np.linspace(0, 2, W, dtype=np.float32)[None].repeat(H, 0)
    green = np.linspace(0, 1, H, dtype=np.float32)[:, None].repeat(W, 1)
    blue = np.full((H, W), 0.18, np.float32)
    return {"R": red * alpha, "G": green * alpha, "B": blue * alpha, "A": alpha}


def srgb(linear: np.ndarray) -> np.ndarray:
    """IEC 61966-2-1:1999, going on beyond 1."""
    return np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * np.maximum(linear, 1e-9) ** (1 / 2.4) - 0.055)


def test_a_layer_is_what_the_library_reads(tmp_path, planes):
    depth = {"depth.Z": np.linspace(0, 900, W * H, dtype=np.float32).reshape(H, W)}
    normals = {f"N.{axis}": np.full((H, W), n - 1.0, np.float32) for n, axis in enumerate("XYZ")}
    file = written(tmp_path / "a.exr", {**planes, **depth, **normals})
    with OpenEXR.File(str(file), separate_channels=True) as own:
        theirs = {name: np.asarray(channel.pixels) for name, channel in own.channels().items()}
    picture, colour = read_layer(file)
    assert colour
    assert all((picture[..., k] == theirs[name]).all() for k, name in enumerate(NAMES))
    deep, colour = read_layer(file, "depth")
    assert not colour
    assert (deep[..., 0] == theirs["depth.Z"]).all()
    assert (deep[..., 3] == 1).all()
    normal, _ = read_layer(file, "N")
    assert [normal[0, 0, k] for k in range(3)] == [-1.0, 0.0, 1.0]


def test_ffmpeg_reads_the_same(tmp_path, planes):
    """Its own decoder, written apart from the OpenEXR library."""
    file = written(tmp_path / "a.exr", {name: planes[name] for name in "RGB"})
    with av.open(str(file)) as opened:
        theirs = next(opened.decode(video=0)).to_ndarray()
    assert theirs.dtype == np.float32
    assert np.abs(theirs - read_layer(file)[0][..., :3]).max() < 1e-6


def test_it_is_shown_encoded_with_its_alpha_and_light_above_white(tmp_path, planes):
    file = written(tmp_path / "a.exr", planes)
    shown = MediaPool().open(str(file), "still").picture(0.0, W, H)
    alpha = planes["A"]
    for k, name in enumerate("RGB"):
        assert np.abs(shown[..., k] - srgb(planes[name] / alpha) * alpha).max() < 2e-5
    assert shown[..., 0].max() > 1.2


def test_as_a_map_it_is_numbers_as_the_file_holds_them(tmp_path):
    """And a layer of data too: a value of 0.3 is 0.3, not what it looks like."""
    value, deep = np.full((H, W), 0.3, np.float32), np.full((H, W), 0.7, np.float32)
    file = written(tmp_path / "a.exr", {"R": value, "G": value, "B": value, "depth.Z": deep})
    for layer, wanted in (("", 0.3), ("depth", 0.7)):
        step = Node(id="s", kind="picture", values={"file": str(file), "layer": layer, "fit": "stretch"})
        shot = Shot(width=W, height=H, length=2, maps=(Map(id="m", name="M", recipe=(step,)),))

        field = map_field(frame_job(Engine(), shot, 0), shot.maps[0], frame_grid(W, H, 1.0))
        assert np.abs(field[..., 0] - wanted).max() < 1e-4


def test_windows_what_lies_beyond_the_frame_is_cut_and_what_is_not_held_is_clear(tmp_path, planes):
    file = written(tmp_path / "a.exr", planes, ((-4, -2), (W - 5, H - 3)), ((0, 0), (W + 3, H - 1)))
    picture, _ = read_layer(file)
    assert picture.shape == (H, W + 4, 4)
    assert (picture[: H - 2, : W - 4, 1] == planes["G"][2:, 4:]).all()
    assert not picture[H - 2 :].any()
    assert not picture[:, W - 4 :].any()


def test_numbered_pictures_are_a_clip_that_any_frame_shows(tmp_path):
    for number in range(4):
        plane = np.full((H, W), number / 4, np.float32)
        written(tmp_path / f"s_{number:03}.exr", {"R": plane, "G": plane, "B": plane, "mask.Y": 1 - plane})
    session = Session()
    session.take(Shot(width=W, height=H, length=4))
    path = plate_from_file(session, str(tmp_path / "s_000.exr"))
    assert session.shot.plates[0].kind == "still"
    as_sequence(session, path)
    assert session.shot.plates[0].kind == "clip"
    levels = [float(rendered(session.shot, frame)[H // 2, W // 2, 0]) for frame in (3, 0, 2, 1)]
    assert levels == pytest.approx([float(srgb(np.array(n / 4))) for n in (3, 0, 2, 1)], abs=1e-4)
    session.set(f"{path}/layer", "mask")
    assert float(rendered(session.shot, 3)[H // 2, W // 2, 0]) == pytest.approx(0.25, abs=1e-5)


def test_in_a_shot_of_linear_light_values_come_through(tmp_path, planes):
    file = written(tmp_path / "a.exr", {name: planes[name] / planes["A"] for name in "RGB"})
    plate = Plate(id="p", kind="still", values={"file": str(file), "fit": "stretch"})
    shot = msgspec.structs.replace(Shot(width=W, height=H, length=2, plates=(plate,)), linear=True)
    shown = rendered(shot)
    assert np.abs(np.minimum(shown[..., 1], 1) - np.minimum(srgb(planes["G"] / planes["A"]), 1)).max() < 1e-3


@pytest.mark.parametrize(("layer", "said"), [("beauty", 'no layer "beauty"'), ("x" * 400, "no layer")])
def test_a_layer_that_is_not_there_is_said_with_those_that_are(tmp_path, planes, layer, said):
    file = written(tmp_path / "a.exr", {**planes, "depth.Z": planes["R"]})
    with pytest.raises(MediaError, match=said) as wrong:
        read_layer(file, layer)
    assert "depth" in wrong.value.cure
    plate = Plate(id="p", kind="still", values={"file": str(file), "layer": layer})
    job = frame_job(Engine(), Shot(width=W, height=H, length=2, plates=(plate,)), 0)
    frame_picture(job)
    assert any("no layer" in what for _, what in job.problems)


def test_bad_files_are_one_line(tmp_path, planes):
    good = written(tmp_path / "a.exr", planes).read_bytes()
    for n, data in enumerate((b"", b"v/1\x01", good[: len(good) // 2], good[:200] + b"\xff" * 300, b"no picture" * 50)):
        file = tmp_path / f"bad{n}.exr"
        file.write_bytes(data)
        with pytest.raises(MediaError):
            MediaPool().open(str(file), "still").picture(0.0, 8, 8)
    with pytest.raises(MediaError, match="not there"):
        read_layer(tmp_path / "none.exr")


def test_two_hundred_channels_are_two_hundred_names_and_few_are_read(tmp_path):
    plane = np.full((H, W), 0.5, np.float32)
    names = [f"layer{n:03}.{axis}" for n in range(50) for axis in "RGBA"]
    file = written(tmp_path / "many.exr", dict.fromkeys(names, plane))
    assert len(layers_of(names)) == 50
    assert float(read_layer(file, "layer049")[0][0, 0, 0]) == 0.5
    assert float(read_layer(file)[0][0, 0, 0]) == 0.5


def test_values_that_are_no_numbers_do_no_harm(tmp_path):
    plane = np.array([[np.nan, np.inf], [-np.inf, -1.0]], np.float32)
    file = written(tmp_path / "a.exr", {"R": plane, "G": plane, "B": plane})
    picture = MediaPool().open(str(file), "still").picture(0.0, 2, 2)
    assert np.isfinite(picture).all()
    assert (picture >= 0).all()


def test_an_exr_is_a_still():
    assert sort_of("a.EXR") == "still"
    assert sort_of("a_####.exr") == "clip"
