"""Starters as files: what goes in comes out, and nothing of a hostile one is unpacked, run or written elsewhere."""

from __future__ import annotations

import json
import zipfile
from pathlib import Path

import cv2
import numpy as np
import pytest
from msgspec.structs import replace

from nimble_quake.errors import NimbleQuakeError, ShotError
from nimble_quake.files import unfinished
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import render_frame
from nimble_quake.samples import sample_path, samples
from nimble_quake.shot.model import Node, Plate, Shot
from nimble_quake.shotfile import starter_file
from nimble_quake.shotfile.files import read_shot
from nimble_quake.shotfile.starter_file import ABOUT, About, about_of, mark_of, unpacked, write_starter


@pytest.mark.sampled(6)
@pytest.mark.parametrize("name", samples())
def test_a_starter_is_its_shot(name: str, tmp_path: Path) -> None:
    path = sample_path(name)
    assert path is not None
    shot, file = read_shot(path), tmp_path / "one.nquake-starter"
    write_starter(file, shot, About(name=shot.name))
    found = unpacked(file, tmp_path / "media")
    assert _by_name(found.front) == _by_name(shot.front)
    assert found.maps == shot.maps or "file" in repr(shot.maps)
    scale, frame = min(1.0, 160 / shot.width), shot.length // 3
    first, second = (render_frame(Engine(), each, frame, scale) for each in (shot, found))
    np.testing.assert_array_equal(first, second)


def _by_name(front: tuple[Node, ...]) -> list[Node]:
    """Dials and slots, with the names of files for where they lie: those that came along lie elsewhere."""

    def bare(value: object) -> object:
        return Path(value).name if isinstance(value, str) and value.startswith("/") else value

    return [replace(node, values={name: bare(value) for name, value in node.values.items()}) for node in front]


def test_what_is_said_of_it(tmp_path: Path) -> None:
    path = sample_path("shockwave")
    assert path is not None
    file = tmp_path / "wave.nquake-starter"
    told = About(name="Wave", group="Titles", words="boom ring", author="Ada", licence="CC0-1.0", version=3)
    write_starter(file, read_shot(path), told, b"a picture")
    found = about_of(file)
    assert (found.name, found.group, found.words, found.author) == ("Wave", "Titles", "boom ring", "Ada")
    assert (found.licence, found.version) == ("CC0-1.0", 3)
    assert [Path(each.name).name for each in found.media] == ["crowd.mp4"]
    assert found.size > 1000
    assert found.fonts
    assert starter_file.picture_in(file) == b"a picture"
    assert starter_file.shot_in(file).name == "Shockwave"


def test_numbered_pictures_come_along(tmp_path: Path) -> None:
    folder = tmp_path / "shots"
    folder.mkdir()
    for number in (1, 2, 3):
        cv2.imwrite(str(folder / f"wave_{number:03d}.png"), np.full((8, 8, 3), number, np.uint8))
    plate = Plate(id="p", kind="clip", values={"file": str(folder / "wave_###.png")})
    write_starter(tmp_path / "s.nquake-starter", Shot(plates=(plate,)), About())
    (found,) = unpacked(tmp_path / "s.nquake-starter", tmp_path / "out").plates
    pattern = Path(found.values["file"])
    assert pattern.name == "wave_###.png"
    assert sorted(each.name for each in pattern.parent.iterdir()) == ["wave_001.png", "wave_002.png", "wave_003.png"]


def test_the_same_starter_is_the_same_file(tmp_path: Path) -> None:
    one, two = tmp_path / "one.nquake-starter", tmp_path / "two.nquake-starter"
    for file in (one, two):
        write_starter(file, Shot(name="Same"), About(name="Same"))
    assert one.read_bytes() == two.read_bytes()
    assert mark_of(one) == mark_of(two)
    write_starter(two, Shot(name="Other"), About(name="Same"))
    assert mark_of(one) != mark_of(two)


def test_a_file_that_is_gone_stays_named(tmp_path: Path) -> None:
    plate = Plate(id="p", kind="still", values={"file": str(tmp_path / "gone.png")})
    write_starter(tmp_path / "s.nquake-starter", Shot(plates=(plate,)), About())
    (found,) = unpacked(tmp_path / "s.nquake-starter", tmp_path / "out").plates
    assert Path(found.values["file"]).name == "gone.png"


# Hostile ones


def _zip(path: Path, entries: dict[str, bytes], *, twice: str = "", link: str = "") -> Path:
    with zipfile.ZipFile(path, "w") as out:
        for name, data in entries.items():
            info = zipfile.ZipInfo(name)
            if name == link:
                info.external_attr = 0o120777 << 16
            out.writestr(info, data)
        if twice:
            with pytest.warns(UserWarning, match="Duplicate"):
                out.writestr(twice, b"{}")
    return path


GOOD = {ABOUT: b'{"nimble_quake_starter": 1, "name": "x"}', "shot.nquake": b'{"nimble_quake": 2}'}


@pytest.mark.parametrize(
    "name",
    ["../evil.png", "media/../../evil.png", "/etc/evil.png", "media\\..\\evil.png", "C:evil.png", "media/a/../../../b"],
)
def test_paths_that_climb_out_are_refused(name: str, tmp_path: Path) -> None:
    file = _zip(tmp_path / "s.nquake-starter", {**GOOD, name: b"x"})
    with pytest.raises(ShotError, match="leads out of it"):
        unpacked(file, tmp_path / "in" / "out")
    assert sorted(each.name for each in tmp_path.iterdir()) == ["s.nquake-starter"]


def test_links_twins_and_bombs_are_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    linked = _zip(tmp_path / "a.nquake-starter", {**GOOD, "media/l": b"/etc/passwd"}, link="media/l")
    twice = _zip(tmp_path / "b.nquake-starter", GOOD, twice=ABOUT)
    bomb = tmp_path / "c.nquake-starter"
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as out:
        for name, data in GOOD.items():
            out.writestr(name, data)
        out.writestr("media/zero", b"\0" * 3_000_000)
    monkeypatch.setattr(starter_file, "MOST_UNPACKED", 2_000_000)
    for file in (linked, twice, bomb):
        with pytest.raises(ShotError):
            unpacked(file, tmp_path / "out")
    assert not (tmp_path / "out").exists()


@pytest.mark.parametrize(
    "entries",
    [
        {},
        {ABOUT: GOOD[ABOUT]},
        {**GOOD, ABOUT: b"no json"},
        {**GOOD, ABOUT: b"[1]"},
        {**GOOD, ABOUT: b'{"nimble_quake_starter": 99}'},
        {**GOOD, ABOUT: b'{"nimble_quake_starter": true}'},
        {**GOOD, ABOUT: b'{"nimble_quake_starter": 1, "version": "x"}'},
        {**GOOD, ABOUT: b"[" * 100_000},
        {**GOOD, "shot.nquake": b"{"},
        {**GOOD, "shot.nquake": json.dumps({"nimble_quake": 2, "width": -4}).encode()},
    ],
)
def test_damaged_ones_are_one_line(entries: dict[str, bytes], tmp_path: Path) -> None:
    file = _zip(tmp_path / "s.nquake-starter", entries)
    with pytest.raises(NimbleQuakeError) as wrong:
        unpacked(file, tmp_path / "out")
    assert "\n" not in wrong.value.line()


@pytest.mark.parametrize("data", [b"", b"PK", b"no zip at all", b"PK\x03\x04" + b"\0" * 200])
def test_what_is_no_zip_is_one_line(data: bytes, tmp_path: Path) -> None:
    file = tmp_path / "s.nquake-starter"
    file.write_bytes(data)
    with pytest.raises(ShotError):
        about_of(file)
    with pytest.raises(ShotError):
        about_of(tmp_path / "gone.nquake-starter")


def test_a_starter_cut_off_anywhere_is_one_line(tmp_path: Path) -> None:
    file = tmp_path / "s.nquake-starter"
    write_starter(file, Shot(name="Whole"), About(name="Whole"))
    data = file.read_bytes()
    for length in range(0, len(data), 97):
        file.write_bytes(data[:length])
        with pytest.raises(ShotError):
            unpacked(file, tmp_path / "out")
    assert not (tmp_path / "out").exists()


def test_another_that_unpacks_the_same_at_once_was_faster(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    file = _zip(tmp_path / "s.nquake-starter", {**GOOD, "media/a.bin": b"same"})
    before, out = unfinished.unfinished_folder, tmp_path / "out"

    def after_the_other(folder: Path) -> Path:
        (out / "media").mkdir(parents=True)
        (out / "media" / "a.bin").write_bytes(b"same")
        return before(folder)

    monkeypatch.setattr("nimble_quake.shotfile.starter_file.unfinished_folder", after_the_other)
    assert isinstance(unpacked(file, out), Shot)
    assert sorted(each.name for each in tmp_path.iterdir()) == ["out", "s.nquake-starter"]
    assert (out / "media" / "a.bin").read_bytes() == b"same"
