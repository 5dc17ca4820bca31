"""Maps as data: read back by other libraries, and by our own coupling that looks up."""

from __future__ import annotations

import cv2
import msgspec
import numpy as np
import OpenEXR
import pytest
import tifffile
from PIL import Image

from helpers import read_png, rendered, speckled, write_png
from nimble_quake.errors import BadInput, MediaError
from nimble_quake.export.data import coarseness, data_of, normals
from nimble_quake.export.formats import format_named
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import render
from nimble_quake.media.data_file import data_path, read_data
from nimble_quake.raster.colour.light import to_linear
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map, Node, Plate, Shot

SIZE = (160, 90)
NOISE = Map(id="m", name="Noise", recipe=(Node(id="n", kind="noise", values={"size_x": 60.0, "churn": 1.0}),))


def still(tmp_path, *effects):
    """A moving, soft, whole picture as large as the frame."""
    rgba = cv2.GaussianBlur(speckled(*SIZE), (0, 0), 4)
    rgba[..., 3] = 255
    values = {"file": str(write_png(tmp_path / "s.png", rgba)), "fit": "centre"}
    return Plate(id="s", kind="still", name="Sign", values=values, effects=effects)


def shot_of(tmp_path, *effects):
    return Shot(width=SIZE[0], height=SIZE[1], length=6, plates=(still(tmp_path, *effects),), maps=(NOISE,))


@pytest.fixture
def shot(tmp_path):
    """Two couplings: what is composed is d1(p) + d2(p + d1(p))."""
    push = Node(id="q", kind="push", values={"map": "m", "reach_x": 12.0, "reach_y": 7.0, "edge": "hold"})
    wave = Node(id="w", kind="wave", values={"edge": "hold"})
    return shot_of(tmp_path, wave, push)


def written(shot, tmp_path, key, what, **values):
    format = format_named(key)
    engine = values.pop("engine", None) or Engine()
    order = Order(shot, tmp_path / f"d_##{format.suffix}", 2, values.pop("last", 2), what=what, format=format, **values)
    return render(order, engine)


class TestStMap:
    def test_opencv_bends_by_it_as_we_do(self, shot, tmp_path):
        """cv2.remap (OpenCV documentation: dst(x, y) = src(map(x, y)), pixel centres at whole numbers)."""
        file = written(shot, tmp_path, "tiff-float", "st:s").files[0]
        st = tifffile.imread(file)[..., :2]
        across, down = (st[..., 0] * SIZE[0] - 0.5, st[..., 1] * SIZE[1] - 0.5)
        source = rendered(shot_of(tmp_path))
        got = cv2.remap(source, across, down, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        linear = [Node(id=e.id, kind=e.kind, values=e.values | {"filter": "linear"}) for e in shot.plates[0].effects]
        ours = rendered(shot_of(tmp_path, *linear), 2)
        assert np.abs(ours - source).max() > 0.1
        assert np.abs(got - ours).max() < 0.02  # cv2.remap rounds places to 1/32 px

    @pytest.mark.parametrize(("key", "near"), [("exr-float", 1e-3), ("tiff-float", 1e-3), ("png16", 0.01)])
    @pytest.mark.parametrize("sort", ["st", "st-up"])
    def test_our_own_reader_looks_where_it_looked(self, shot, tmp_path, key, near, sort):
        """Within 0.01 px there and back, though the same engine has shown the frame before; either way up."""
        engine = Engine()
        frame_picture(frame_job(engine, shot, 2))
        done = written(shot, tmp_path, key, f"{sort}:s", engine=engine)
        look = Node(id="l", kind="look_up", values={"file": str(done.files[0]), "holds": sort.replace("-", "_")})
        before = data_of(frame_job(engine, shot, 2), 1.0, "moves:s")[..., :2]
        after = data_of(frame_job(Engine(), shot_of(tmp_path, look), 0), 1.0, "moves:s")[..., :2]
        inside = np.ones(SIZE[::-1], bool)
        if key == "png16":
            places = data_of(frame_job(engine, shot, 2), 1.0, "st:s")[..., :2]
            inside = np.asarray(((places > 0) & (places < 1)).all(axis=2))
        assert np.abs(before).max() > 5
        assert np.abs(after - before)[inside].max() <= near
        assert bool(done.problems) == (not inside.all())

    def test_a_file_says_what_it_is(self, shot, tmp_path):
        """Its attributes name the convention; "as the file says" obeys them."""
        for what in ("st-up:Sign", "moves:s"):
            file = written(shot, tmp_path, "exr-float", what).files[0]
            with OpenEXR.File(str(file)) as found:
                header = dict(found.header())
            assert header["nimbleQuakeContent"] == what.partition(":")[0]
            assert "green" in header["nimbleQuakeConvention"]
            look = Node(id="l", kind="look_up", values={"file": str(file), "edge": "hold"})
            assert np.abs(rendered(shot_of(tmp_path, look)) - rendered(shot, 2)).max() < 1e-3

    def test_where_nothing_moves_each_pixel_is_itself(self, tmp_path):
        file = written(shot_of(tmp_path), tmp_path, "exr-float", "st:s").files[0]
        values = read_data(file).values
        wanted = (np.arange(SIZE[0], dtype=np.float32) + 0.5) / SIZE[0]
        assert np.abs(values[3, :, 0] - wanted).max() < 1e-7

    def test_coarse_formats_are_told(self, shot, tmp_path):
        assert "float" in coarseness(format_named("exr-half"), "st:s", 1280)
        assert "float" in coarseness(format_named("png"), "st:s", 1280)
        assert coarseness(format_named("png16"), "st:s", 1280) == ""
        assert coarseness(format_named("png"), "map:m", 1280) == ""
        told = [problem.line() for problem in written(shot, tmp_path, "png", "st:s").problems]
        assert any("exact to" in line for line in told)


class TestLayers:
    def test_one_file_holds_all(self, shot, tmp_path):
        """Layers as the OpenEXR documentation names them, "Layers": LAYER.CHANNEL; each is what it is alone."""
        file = written(shot, tmp_path, "exr-float", "layers", scale=0.5).files[0]
        with OpenEXR.File(str(file), separate_channels=True) as found:
            channels = {name: np.array(channel.pixels) for name, channel in found.channels().items()}
        layers = {"": "picture", "map.m.": "map:m", "moves.s.": "moves:s"}
        assert set(channels) == {f"{layer}{letter}" for layer in layers for letter in "RGBA"}
        job = frame_job(Engine(), shot, 2)
        for layer, what in layers.items():
            wanted = data_of(job, 0.5, what)
            wanted = to_linear(wanted) if what == "picture" else wanted
            got = np.stack([channels[f"{layer}{letter}"] for letter in "RGBA"], axis=2)
            assert np.array_equal(got, wanted), what

    def test_masks_are_layers(self, shot, tmp_path):
        """Of a plate (here turned round) and of an effect, each between 0 and 1."""
        plate = shot.plates[0]
        effects = tuple(msgspec.structs.replace(e, values={**e.values, "mask": "m"}) for e in plate.effects)
        values = {**plate.values, "mask": "m", "mask_invert": True}
        limited = msgspec.structs.replace(
            shot, plates=(msgspec.structs.replace(plate, values=values, effects=effects),)
        )
        file = written(limited, tmp_path, "exr-float", "layers").files[0]
        with OpenEXR.File(str(file), separate_channels=True) as found:
            grey = {n[:-2]: np.array(c.pixels) for n, c in found.channels().items() if n.endswith(".R")}
        assert set(grey) == {"map.m", "mask.s", "mask.s.q", "mask.s.w", "moves.s"}
        assert np.allclose(grey["mask.s"] + grey["mask.s.q"], 1.0)
        assert np.array_equal(grey["mask.s.q"], np.clip(grey["map.m"], 0, 1))
        with pytest.raises(BadInput, match="has no mask"):
            written(shot, tmp_path, "exr-float", "mask:s")

    def test_other_formats_refuse_them(self, shot, tmp_path):
        with pytest.raises(BadInput, match="one layer"):
            written(shot, tmp_path, "png16", "layers")
        assert list(tmp_path.glob("d_*")) == []


class TestMapsAndNormals:
    def test_a_map_in_float_keeps_what_is_beyond_white(self, tmp_path):
        bright = Map(id="m", name="M", recipe=(Node(id="f", kind="flat", values={"at_rest": False, "value": 3.5}),))
        shot = Shot(width=8, height=6, length=3, maps=(bright,))
        file = written(shot, tmp_path, "exr-float", "map:m").files[0]
        assert (read_data(file).values == 3.5).all()
        assert (read_png(written(shot, tmp_path, "png16", "map:m").files[0])[..., :3] == 65535).all()

    def test_flat_is_128_128_255(self, tmp_path):
        """Common practice, no source: a flat surface's normal map is (128, 128, 255)."""
        flat = Map(id="m", name="M", recipe=(Node(id="f", kind="flat"),))
        file = written(Shot(width=8, height=6, length=3, maps=(flat,)), tmp_path, "png", "normal:m").files[0]
        with Image.open(file) as image:
            assert (np.asarray(image)[..., :3] == (128, 128, 255)).all()

    def test_a_ramp_leans_the_way_it_falls(self):
        """n = (-s dz/dx, s dz/dy, 1) / |n|: 1 / 8 px a value leans by 45 degrees; green is up."""
        ramp = np.tile((np.arange(16) / 8).astype(np.float32), (9, 1))
        got = normals(ramp, frame_grid(16, 9, 1.0))[4, 8, :3] * 2 - 1
        assert np.abs(got - np.array([-(0.5**0.5), 0.0, 0.5**0.5])).max() < 1e-6
        down = normals(np.ascontiguousarray(ramp[:9, :9].T), frame_grid(9, 9, 1.0))[4, 4, :3] * 2 - 1
        assert np.abs(down - np.array([0.0, 0.5**0.5, 0.5**0.5])).max() < 1e-6
        other = normals(np.ascontiguousarray(ramp[:9, :9].T), frame_grid(9, 9, 1.0), down=True)[4, 4, :3] * 2 - 1
        assert np.abs(other - down * np.array([1.0, -1.0, 1.0])).max() < 1e-6

    def test_green_down_is_green_up_mirrored(self, shot, tmp_path):
        def read(what):
            file = written(shot, tmp_path, "tiff-float", what).files[0]
            return tifffile.imread(file)[..., :3] * 2 - 1

        up, down = read("normal:m"), read("normal-down:m")
        assert np.abs(up[..., 1]).max() > 0.01
        assert np.abs(down - up * np.array([1.0, -1.0, 1.0])).max() < 1e-6

    @pytest.mark.parametrize("what", ["map:none", "st:none", "normal:", "picture:s", "sound"])
    def test_what_is_not_there_is_told(self, shot, tmp_path, what):
        with pytest.raises(BadInput):
            written(shot, tmp_path, "exr-float", what)


class TestLookUp:
    def look(self, tmp_path, file, **values):
        node = Node(id="l", kind="look_up", values={"file": str(file), "edge": "hold", **values})
        return shot_of(tmp_path, node)

    def exr(self, path, values, display=None):
        header = {"type": OpenEXR.scanlineimage}
        if display is not None:
            header |= {
                "displayWindow": (np.array([0, 0], np.int32), np.array(display, np.int32) - 1),
                "dataWindow": (
                    np.array([-4, -3], np.int32),
                    np.array([values.shape[1] - 5, values.shape[0] - 4], np.int32),
                ),
            }
        channels = {"R": np.ascontiguousarray(values[..., 0]), "G": np.ascontiguousarray(values[..., 1])}
        OpenEXR.File(header, channels).write(str(path))
        return path

    def test_a_vector_map_moves_by_its_reach(self, tmp_path):
        """Grey rests; white looks the reach to the right. A 16-bit code cannot be one half: 32768 / 65535."""
        codes = np.full((90, 160, 3), 32768, np.uint16)
        codes[..., 2] = 65535  # red, in the order of OpenCV
        cv2.imwrite(str(tmp_path / "v.png"), codes)
        shot = self.look(tmp_path, tmp_path / "v.png", holds="vector", reach=10.0)
        moves = data_of(frame_job(Engine(), shot, 0), 1.0, "moves:s")[..., :2]
        assert np.abs(moves - (10.0, 0.0)).max() < 1e-3

    def test_overscan_lies_beyond_the_frame(self, tmp_path):
        """OpenEXR, "Technical introduction": the data window may be larger than the display window."""
        wide = np.zeros((90 + 6, 160 + 8, 2), np.float32)
        wide[..., 0] = np.arange(-4, 164)  # moves as far as it lies across
        file = self.exr(tmp_path / "o.exr", wide, SIZE)
        moves = data_of(frame_job(Engine(), self.look(tmp_path, file, holds="moves"), 0), 1.0, "moves:s")
        assert np.abs(moves[40, :, 0] - np.arange(160)).max() < 1e-4

    def test_numbered_files_run_with_the_shot(self, tmp_path):
        for number in range(4):
            self.exr(tmp_path / f"n_{10 + number:04d}.exr", np.full((90, 160, 2), number, np.float32))
        pattern = tmp_path / "n_####.exr"
        shot = self.look(tmp_path, pattern, holds="moves")
        found = [data_of(frame_job(Engine(), shot, frame), 1.0, "moves:s")[0, 0, 0] for frame in (0, 2, 5)]
        assert found == [0.0, 2.0, 3.0]
        assert data_path(str(pattern), 1.0).name == "n_0011.exr"

    def test_half_strength_goes_half_the_way_and_half_size_is_the_same(self, tmp_path, shot):
        file = written(shot, tmp_path, "exr-float", "moves:s").files[0]
        whole = data_of(frame_job(Engine(), self.look(tmp_path, file), 0), 1.0, "moves:s")
        half = data_of(frame_job(Engine(), self.look(tmp_path, file, strength=0.5), 0), 1.0, "moves:s")
        assert np.abs(half[..., :2] - whole[..., :2] / 2).max() < 1e-5
        small = rendered(self.look(tmp_path, file), scale=0.5)
        large = cv2.resize(rendered(self.look(tmp_path, file)), (80, 45), interpolation=cv2.INTER_AREA)
        assert np.abs(small - large).mean() * 255 < 1.0

    @pytest.mark.parametrize("name", ["gone.exr", "broken.exr", "broken.png", "grey.exr", "x.jpg", "n_####.exr"])
    def test_bad_files_are_told_and_the_picture_stands(self, tmp_path, name):
        (tmp_path / "broken.exr").write_bytes(b"\x76\x2f\x31\x01\x02" + b"junk" * 40)
        (tmp_path / "broken.png").write_bytes(b"\x89PNG\r\n\x1a\n" + b"junk" * 9)
        OpenEXR.File({}, {"Y": np.zeros((9, 9), np.float32)}).write(str(tmp_path / "grey.exr"))
        job = frame_job(Engine(), self.look(tmp_path, tmp_path / name), 0)
        assert np.array_equal(frame_picture(job), rendered(shot_of(tmp_path)))
        (line,) = [problem.line() for problem in job.problems.values()]
        assert name.partition(".")[0] in line
        assert line.count("\n") == 0
        with pytest.raises(MediaError):
            Engine().media.data(str(tmp_path / name))

    def test_numbers_that_are_none_do_no_harm(self, tmp_path):
        values = np.full((90, 160, 2), 1.0, np.float32)
        values[5, 5], values[6, 6] = np.nan, np.inf
        file = self.exr(tmp_path / "n.exr", values)
        assert np.isfinite(rendered(self.look(tmp_path, file, holds="moves"))).all()


class TestOverscan:
    """OpenEXR's technical introduction: the display window is the frame, the data window what the file holds."""

    @pytest.mark.parametrize("what", ["picture", "map:m", "st:s", "moves:s"])
    @pytest.mark.parametrize("key", ["exr-float", "exr-half"])
    def test_the_frame_in_it_is_the_frame(self, shot, tmp_path, key, what):
        made = (written(shot, folder, key, what, overscan=n).files for folder, n in folders(tmp_path))
        (plain,), (wide,) = made
        with OpenEXR.File(str(wide), separate_channels=True) as found:
            header, more = dict(found.header()), np.array(found.channels()["R"].pixels)
        with OpenEXR.File(str(plain), separate_channels=True) as found:
            less = np.array(found.channels()["R"].pixels)
        assert [tuple(int(n) for n in corner) for corner in header["dataWindow"]] == [
            (-20, -20),
            (SIZE[0] + 19, SIZE[1] + 19),
        ]
        assert [tuple(int(n) for n in corner) for corner in header["displayWindow"]] == [
            (0, 0),
            (SIZE[0] - 1, SIZE[1] - 1),
        ]
        assert "20 pixels" in header["nimbleQuakeOverscan"]
        assert more.shape == (SIZE[1] + 40, SIZE[0] + 40)
        assert np.abs(more[20:-20, 20:-20] - less).max() < 2e-3

    def test_look_up_reads_what_lies_beyond(self, shot, tmp_path):
        file = written(shot, tmp_path, "exr-float", "st:s", overscan=20).files[0]
        assert read_data(file).frame == SIZE
        look = Node(id="l", kind="look_up", values={"file": str(file), "holds": "st", "edge": "hold"})
        assert np.abs(rendered(shot_of(tmp_path, look)) - rendered(shot, 2)).max() < 2e-3

    def test_other_formats_and_absurd_sizes_refuse_it(self, shot, tmp_path):
        with pytest.raises(BadInput, match="no more than the frame"):
            written(shot, tmp_path, "png16", "map:m", overscan=4)
        for wrong in (-1, 100_000):
            with pytest.raises(BadInput, match="overscan"):
                written(shot, tmp_path, "exr-float", "map:m", overscan=wrong)


def folders(tmp_path):
    for name, overscan in (("plain", 0), ("wide", 20)):
        (tmp_path / name).mkdir()
        yield tmp_path / name, overscan
