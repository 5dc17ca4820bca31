"""A shot collected: everything it needs lies beside it, and it shows the same there; whole or not at all."""

from __future__ import annotations

import json
import shutil
import zipfile
from pathlib import Path

import numpy as np
import pytest

import nimble_quake as nq
from helpers import rendered, speckled, write_png
from nimble_quake.cli.main import main
from nimble_quake.errors import BadInput, Cancelled, SaveFailed
from nimble_quake.samples import sample_path, samples
from nimble_quake.session.verbs.collecting import collect_all, needed_by
from nimble_quake.session.work import Work
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shotfile.collected import collect, collection
from nimble_quake.shotfile.files import read_shot, write_shot


@pytest.fixture
def home(tmp_path) -> Path:
    """A shot with two stills of one name, a sequence, a map of a picture, and a sound that is gone."""
    for folder, seed in (("one", 1), ("two", 2)):
        (tmp_path / folder).mkdir()
        write_png(tmp_path / folder / "Sign.png", speckled(40, 30, seed=seed))
    for number in (1, 2, 3):
        write_png(tmp_path / f"walk_{number:04d}.png", speckled(40, 30, seed=number + 5))
    plates = (
        Plate(id="a", kind="still", values={"file": str(tmp_path / "one" / "Sign.png")}),
        Plate(id="b", kind="still", values={"file": str(tmp_path / "two" / "Sign.png"), "opacity": 0.5}),
        Plate(id="c", kind="clip", values={"file": str(tmp_path / "walk_####.png"), "opacity": 0.4}),
    )
    maps = (Map(id="m", recipe=(Node(id="p", kind="picture", values={"file": str(tmp_path / "one" / "Sign.png")}),)),)
    gone = Node(id="s", kind="sound", values={"file": str(tmp_path / "gone.wav")})
    shot = Shot(name="Lantern Row", width=40, height=30, length=3, plates=plates, maps=maps, sounds=(gone,))
    write_shot(shot, tmp_path / "row.nquake")
    return tmp_path / "row.nquake"


def names(folder: Path) -> list[str]:
    return sorted(str(path.relative_to(folder)) for path in folder.rglob("*") if path.is_file())


LYING = ["contents.txt", "media/2/Sign.png", "media/Sign.png", *(f"media/walk/walk_000{n}.png" for n in (1, 2, 3))]


def test_it_shows_the_same_where_nothing_else_is(home, tmp_path, capsys):
    shot = read_shot(home)
    before = [rendered(shot, frame) for frame in range(3)]
    assert main(["collect", str(home), "-o", str(tmp_path / "handed")]) == 1  # the sound is gone
    told = capsys.readouterr()
    assert "gone.wav: is not there" in told.err
    for folder in ("one", "two"):
        shutil.rmtree(tmp_path / folder)
    for file in tmp_path.glob("walk_*.png"):
        file.unlink()
    (tmp_path / "handed").rename(tmp_path / "elsewhere")
    assert names(tmp_path / "elsewhere") == sorted([*LYING, "row.nquake"])
    there = read_shot(tmp_path / "elsewhere" / "row.nquake")
    for frame in range(3):
        np.testing.assert_array_equal(rendered(there, frame), before[frame])
    said = (tmp_path / "elsewhere" / "contents.txt").read_text("utf-8")
    assert "gone.wav" in said.split("Not there")[1]


def test_a_zip_holds_the_same_in_one_folder(home, tmp_path, capsys):
    assert main(["collect", str(home), "-o", str(tmp_path / "row.zip"), "--json"]) == 1
    assert json.loads(capsys.readouterr().out)["missing"] == [str(tmp_path / "gone.wav")]
    with zipfile.ZipFile(tmp_path / "row.zip") as packed:
        assert packed.testzip() is None
        packed.extractall(tmp_path / "out")
    assert names(tmp_path / "out" / "row") == sorted([*LYING, "row.nquake"])
    there = read_shot(tmp_path / "out" / "row" / "row.nquake")
    np.testing.assert_array_equal(rendered(there, 1), rendered(read_shot(home), 1))


@pytest.mark.parametrize("ending", ["", ".zip"])
def test_stopped_it_leaves_nothing(home, tmp_path, ending):
    before = sorted(tmp_path.iterdir())
    work = Work("Collecting", 1)
    work.stop()
    with pytest.raises(Cancelled):
        collect_all(needed_by(read_shot(home), home), tmp_path / f"x{ending}", work)
    assert sorted(tmp_path.iterdir()) == before


def test_what_cannot_be_is_one_line_and_leaves_nothing(home, tmp_path, monkeypatch):
    what = needed_by(read_shot(home), home)
    (tmp_path / "there").mkdir()
    with pytest.raises(BadInput, match="something of this name"):
        collect(what, tmp_path / "there")
    with pytest.raises(BadInput, match="folder is not there"):
        collect(what, tmp_path / "no" / "where")
    before = sorted(tmp_path.iterdir())
    monkeypatch.setattr(shutil, "disk_usage", lambda path: shutil._ntuple_diskusage(10**9, 10**9, 10))  # type: ignore[attr-defined]
    with pytest.raises(SaveFailed, match="no room"):
        collect(what, tmp_path / "full")
    monkeypatch.undo()
    (tmp_path / "one" / "Sign.png").unlink()  # between looking and copying
    with pytest.raises(SaveFailed, match=r"Sign\.png"):
        collect(what, tmp_path / "lost")
    assert sorted(tmp_path.iterdir()) == before


def test_every_sample_is_collected(tmp_path):
    """Nothing that a sample names is left behind: no file of it lies elsewhere."""
    for name in samples():
        path = sample_path(name)
        assert path is not None
        what = collection(read_shot(path), name)
        assert what.missing == ()
        assert len({lies.casefold() for lies, _ in what.files}) == len(what.files)
    made = nq.collect(str(sample_path("lantern-row")), tmp_path / "row.zip")
    assert zipfile.is_zipfile(made)
