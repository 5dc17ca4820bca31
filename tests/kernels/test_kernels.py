"""Kernels do what their Python does, whatever they are handed; what is kept of them on disk is whole or made anew."""

from __future__ import annotations

import struct
import subprocess
import sys
import threading
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from nimble_quake.kernels import kernel, loader, notified_when_compiling, store
from nimble_quake.kernels.abi import channels_of, described, leaves_of, packing, parts_of, type_of
from nimble_quake.session import kernels as session_kernels

SCALE = 3.0


@pytest.fixture
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    with loader.LOCK:
        loader.address_of("pool_run")  # the runtime is kept elsewhere
    monkeypatch.setattr(store, "own", lambda: tmp_path)
    return tmp_path


def weighted(values, weight, pair, on, out, first, last, shift=2):
    for j in range(first, last):
        for i in range(out.shape[1]):
            out[j, i] = values[j, i] * weight + pair[0] - pair[1] * j + shift
            if on:
                out[j, i] += SCALE


def mixed(picture, share, out, first, last):
    for j in range(first, last):
        for i in range(out.shape[1]):
            whole = picture[j, i, picture.shape[2] - 1]
            for k in range(picture.shape[2]):
                out[j, i, k] = max(picture[j, i, k], share) * whole


def numbers(a, b):
    return a + b, a > b, b


def scratch(values):
    room = np.zeros(len(values), np.float64)
    for n in range(len(values)):
        room[n] = values[n] * 2
    found = [room[0]]
    for n in range(1, len(values)):
        found.append(room[n])
    return found[len(found) - 1] + room.reshape(-1, 1)[0, 0]


class TestKernels:
    @pytest.mark.sampled(6)
    @pytest.mark.parametrize("make", [np.ascontiguousarray, np.asfortranarray, lambda a: np.repeat(a, 2, 1)[:, ::2]])
    @pytest.mark.parametrize("type", [np.float32, np.float64, np.uint8, np.int64])
    @pytest.mark.parametrize("writable", [True, False])
    def test_does_what_its_python_does(self, make, type, writable, folder: Path):
        made = kernel()(weighted)
        values = make(np.arange(35).reshape(5, 7).astype(type))
        values.flags.writeable = writable
        for weight, on in ((1.5, True), (np.float32(0.25), False), (np.int32(2), True)):
            got, expected = np.zeros((5, 7)), np.zeros((5, 7))
            made(values, weight, (1, 2.5), on, got, 1, 4)
            weighted(values, weight, (1, 2.5), on, expected, 1, 4)
            assert np.array_equal(got, expected)
            made.bound(values, weight, (1, 2.5), on, got)(0, 5)
            weighted(values, weight, (1, 2.5), on, expected, 0, 5)
            assert np.array_equal(got, expected)

    @pytest.mark.sampled(8)
    @pytest.mark.parametrize("channels", [1, 2, 3, 4, 5])
    @pytest.mark.parametrize(
        "make",
        [
            np.array,
            np.asfortranarray,
            lambda a: np.pad(a, ((1, 2), (2, 3), (0, 0)))[1:-2, 2:-3],
            lambda a: np.repeat(a, 2, 1)[:, ::2],
            lambda a: np.repeat(a, 2, 2)[..., ::2],
            lambda a: a[::-1, ::-1],
        ],
    )
    def test_however_pixels_lie_in_memory(self, channels, make, folder: Path):
        made, rng = kernel(fastmath={"contract"})(mixed), np.random.Generator(np.random.PCG64(1))
        picture = make(rng.random((5, 23, channels)).astype(np.float32))
        got, expected = np.zeros(picture.shape, np.float32), np.zeros(picture.shape, np.float32)
        made.bound(picture, np.float32(0.5), got)(1, 5)
        mixed(picture, np.float32(0.5), expected, 1, 5)
        assert np.array_equal(got, expected)

    def test_gives_numbers_back(self, folder: Path):
        made = kernel()(numbers)
        assert made(2, 3.5) == (5.5, False, 3.5)
        assert made(7.0, 1) == (8.0, True, 1)
        assert type(made(7.0, 1)[1]) is bool

    def test_scratch_arrays_and_lists_are_given_back(self, folder: Path):
        made, values = kernel()(scratch), np.arange(200_000.0)
        assert made(values) == scratch(values)
        code = Path("/proc/self/statm")
        before = int(code.read_text().split()[1])
        for _ in range(200):  # 320 MB, were they kept
            made(values)
        assert (int(code.read_text().split()[1]) - before) * 4096 < 40e6

    def test_what_needs_numba_is_refused_when_it_is_made(self, folder: Path):
        with pytest.raises(TypeError, match="let it write into an array"):
            kernel()(lambda n: np.zeros(n))(3)
        with pytest.raises(TypeError, match="not str"):
            kernel()(numbers)("a", "b")

    def test_many_threads_at_once(self, folder: Path):
        made = kernel()(weighted)
        out = np.zeros((8, 200, 200))
        work = [
            threading.Thread(target=made, args=(np.ones((200, 200)), float(n), (0.0, 0.0), False, out[n], 0, 200))
            for n in range(8)
        ]
        for thread in work:
            thread.start()
        for thread in work:
            thread.join()
        assert np.array_equal(out[:, 5, 5], np.arange(8) + 2.0)
        assert len(list(folder.iterdir())) == 1


class TestTypes:
    def test_every_type_packs_the_leaves_its_value_has(self):
        for value in (
            1,
            2.5,
            True,
            np.float32(1),
            np.uint8(3),
            (1, (2.0, False)),
            np.zeros((2, 3), np.float32),
            None,
            np.zeros((0, 4)),
            (np.zeros(3), np.zeros((1, 2, 3))),
        ):
            packed = struct.pack(packing(type_of(value)), 7, *leaves_of((value,)))
            assert len(packed) == 8 * (1 + len(leaves_of((value,))))

    def test_channels_are_told_where_a_row_has_no_gaps(self):
        picture = np.zeros((6, 8, 4), np.float32)
        told = {
            "f3C4": picture,
            "f3A4": picture[1:3, 2:5],
            "f3A": picture[..., ::2],
            "f3Ap": picture[:, ::2],
            "f3C3": np.zeros((2, 2, 3), "f"),
            "f3C": np.zeros((2, 2, 5), "f"),
            "f2C": picture[..., 0].copy(),
            "f2A": picture[..., 0],
            "f2Ap": picture[:, 2],
        }
        for type, array in told.items():
            assert type_of(array) == type
            assert channels_of(type) == (array.shape[2] if type[-1].isdigit() else 0)

    def test_arguments_are_described_at_once_as_one_by_one(self):
        whole = np.zeros((6, 8, 4), np.float32)
        still = np.zeros((4, 4))
        still.flags.writeable = False
        arrays = [
            whole,
            whole[1:3, 2:5],
            whole[..., ::2],
            whole[:, ::2],
            whole[..., 0],
            whole[:, 2],
            whole[0, :, 0],
            whole[0, 0],
            whole[::2, 0, 0],
            whole[::-1],
            whole.transpose(1, 0, 2),
            np.asfortranarray(whole[..., 0]),
            still,
            still.T,
            np.zeros((2, 2, 5), "f"),
            np.zeros((2, 2, 3), "f"),
            np.zeros((0, 4)),
            np.zeros((1, 1, 1)),
            np.zeros(3, "B")[::2],
            np.frombuffer(b"0" * 41, np.uint8)[1:].view(np.float32),
            np.zeros((2, 3, 4, 5)),
            whole.view(np.int32),
        ]
        args = (*arrays, 1, 2.5, True, np.float32(1), (1, (2.0, whole)), None)
        for _ in range(2):  # the second time types are known
            types, leaves = described(args)
            assert types == list(map(type_of, args))
            assert leaves == leaves_of(args)

    def test_a_row_of_types_comes_apart_as_it_was_put_together(self):
        types = ["f3C", "f3C4", "d", "(q(dd))", "B2Ar", "?", "(f3C1f3A2r)", "f2Apr", "n", "d12Au"]
        assert list(parts_of("".join(types))) == types


class TestStore:
    def test_a_damaged_file_is_made_anew(self, folder: Path):
        assert kernel()(numbers)(1.0, 2.0)[0] == 3.0
        (file,) = folder.iterdir()
        whole = file.read_bytes()
        for damaged in (whole[:-40], b"", whole[:100], b"\xff" * 400):
            file.write_bytes(damaged)
            assert kernel()(numbers)(1.0, 2.0)[0] == 3.0
            assert len(file.read_bytes()) > 1000

    def test_the_runtime_is_compiled_once(self, tmp_path: Path):
        code = f"""
import llvmlite.binding as llvm
from pathlib import Path
from nimble_quake.kernels import loader, store
store.own, store.shipped = lambda: Path({str(tmp_path)!r}), lambda: None
read, texts = llvm.parse_assembly, []
llvm.parse_assembly = lambda text: texts.append(text) or read(text)
with loader.LOCK:
    assert loader.address_of("pool_run")
print(max(len(text) for text in texts))
"""
        run = [subprocess.run([sys.executable, "-c", code], capture_output=True, text=True) for _ in range(2)]
        first, again = (int(done.stdout) for done in run)
        assert first > 1000, "it was compiled"
        assert again == 0, "it was read"
        assert len(list(tmp_path.iterdir())) == 1

    def test_compiling_is_told_once_and_only_where_it_happens(self, folder: Path):
        told: list[int] = []
        with notified_when_compiling(lambda: told.append(1)):
            for _ in range(2):
                kernel()(numbers)(1.0, 2.0)
                kernel()(numbers)(1, 2)
        assert told == [1]
        with notified_when_compiling(lambda: told.append(2)):
            kernel()(numbers)(1.0, 2.0)
        assert told == [1]

    def test_where_nothing_can_be_written_it_works_all_the_same(self, tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
        (tmp_path / "file").touch()
        monkeypatch.setattr(store, "own", lambda: tmp_path / "file" / "kernels")
        assert kernel()(numbers)(1.0, 2.0)[0] == 3.0

    def test_a_full_disk_leaves_nothing_behind(self, folder: Path, monkeypatch: pytest.MonkeyPatch):
        def full(*_: object) -> None:
            raise OSError(28, "No space left on device")

        monkeypatch.setattr("nimble_quake.kernels.store.os.replace", full)
        assert kernel()(numbers)(1.0, 2.0)[0] == 3.0
        assert not list(folder.iterdir())

    def test_kernels_that_came_along_are_taken_and_none_is_compiled(
        self, folder: Path, tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch
    ):
        with monkeypatch.context() as making:
            making.setattr(store, "to_ship", lambda: True)
            kernel()(numbers)(1.0, 2.0)
        shipped = tmp_path_factory.mktemp("objects")
        for file in folder.iterdir():
            file.rename(shipped / file.name)
        monkeypatch.setattr(store, "shipped", lambda: shipped)
        told: list[int] = []
        with notified_when_compiling(lambda: told.append(1)):
            assert kernel()(numbers)(1.0, 2.0)[0] == 3.0
        assert not told
        assert not list(folder.iterdir())


class TestDigest:
    @staticmethod
    def _made(text: str, name: str = "f", **options: object):
        world = {"kernel": kernel, "__name__": "made"}
        exec(text, world)  # as a file that was edited
        return world[name]

    def test_lines_tell_kernels_apart_as_code_does_and_remarks_do_not_count(self, tmp_path: Path):
        def of(text: str, **options: bool) -> tuple[str, str]:
            file = tmp_path / f"made{len(list(tmp_path.iterdir()))}.py"
            file.write_text(text, encoding="utf-8")
            world: dict[str, Any] = {"TWICE": 2, "__name__": "made"}
            exec(compile(text, str(file), "exec"), world)
            made = kernel(**options)(world["made"])
            return made.source_digest, made.digest

        plain = of("def made(a):\n    return a * TWICE\n")
        assert (
            of("\n# moved\n@str\ndef other(): 1\n\ndef made(a):\n    # said\n\n    return a * TWICE\n\nx = 1\n")
            == plain
        )
        others = [
            of("def made(a):\n    return a + TWICE\n"),
            of("def made(\n    a,\n):\n    return a * 2\n"),
            of("def made(a):\n    return a * TWICE\n", fastmath=True),
        ]
        assert len({source for source, _ in (plain, *others)}) == len({code for _, code in (plain, *others)}) == 4
        assert kernel()(eval("lambda a: a")).source_digest == ""

    def test_another_constant_helper_or_option_is_another_kernel(self):
        helper = "@kernel()\ndef helper(x):\n    return x + 1\n"
        text = f"LIMIT = 3\n{helper}@kernel()\ndef f(x):\n    return helper(x) * LIMIT\n"
        made = self._made(text)
        assert self._made(text).digest == made.digest
        assert self._made("\n\n# a note\n" + text).digest == made.digest
        for before, after in (
            ("LIMIT = 3", "LIMIT = 4"),
            ("x + 1", "x + 2"),
            ("* LIMIT", "- LIMIT"),
            ("@kernel()\ndef f", '@kernel(error_model="numpy")\ndef f'),
        ):
            assert self._made(text.replace(before, after)).digest != made.digest

    def test_the_compiler_is_not_loaded_where_all_is_compiled(self):
        code = (
            "import sys; from nimble_quake.raster.colour import blend; blend.flat((4, 4), (1.0, 0, 0, 1)); "
            "blend.flat((4, 4), (1.0, 0, 0, 1)); print('numba' in sys.modules)"
        )
        for _ in range(2):  # the first may compile
            done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
        assert done.stdout.strip() == "False"


APART = """
import sys
import numpy as np
from nimble_quake.kernels import store
from nimble_quake.session import kernels
from nimble_quake.raster.colour.mix import _mixed_evenly
store.own = lambda: store.Path(sys.argv[1])
kernels.complete = lambda: True
kernels.compile_apart()
one, two = np.full((3, 8), 2.0), np.full((3, 8), 4.0)
out = np.zeros((3, 8), np.float64)
_mixed_evenly(one, two, 0.25, out, 0, 3)
assert (out == 2.5).all(), out
print("numba" in sys.modules)
"""


class TestApart:
    def test_a_window_compiles_elsewhere_and_loads_what_comes(self, tmp_path: Path):
        """Types that nobody foresaw: the child stores what it compiled where this process looks."""
        place = Path(store.own())
        before = set(place.glob("raster.colour.mix._mixed_evenly-*"))
        words = [sys.executable, "-c", APART, str(place)]
        try:
            done = subprocess.run(words, capture_output=True, text=True, check=True)
            assert done.stdout.split() == ["False"]
            made = set(place.glob("raster.colour.mix._mixed_evenly-*")) - before
            assert len(made) == 1
        finally:
            for path in set(place.glob("raster.colour.mix._mixed_evenly-*")) - before:
                path.unlink()

    @pytest.mark.parametrize("fails", [OSError("no more processes"), subprocess.TimeoutExpired("python", 1.0)])
    def test_where_that_fails_it_is_compiled_here(self, folder: Path, monkeypatch: pytest.MonkeyPatch, fails):
        asked: list[str] = []

        def run(words: list[str], **_: object) -> None:
            asked.append(words[-1])
            raise fails

        monkeypatch.setattr(sys.modules["nimble_quake.kernels.kernel"], "_elsewhere", [session_kernels.compile_one])
        monkeypatch.setattr(session_kernels, "complete", lambda: True)
        monkeypatch.setattr(subprocess, "run", run)
        made = kernel()(numbers)
        assert made(2, 1.5) == (3.5, True, 1.5)
        assert asked == [made.line(("q", "d"))]
