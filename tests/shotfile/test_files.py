"""Shot files: round trips, everything wrong at once, damage, and disks that fail."""

from __future__ import annotations

import contextlib
import errno
import json
import os
import re
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import noise_map
from nimble_quake.conventions import Json
from nimble_quake.errors import NimbleQuakeError, SaveFailed, ShotError
from nimble_quake.motion.kinds import Formula, Key, Keys, Rate
from nimble_quake.operators.registry import registry
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import render_frame
from nimble_quake.render.services import frame_job
from nimble_quake.samples import sample_path, samples
from nimble_quake.shot.model import FORMAT, Marker, Node, Plate, Shot
from nimble_quake.shotfile import files
from nimble_quake.shotfile.codec import decoded, encoded
from nimble_quake.shotfile.files import read_shot, shot_bytes, shot_from, write_shot
from nimble_quake.shotfile.schema import schema

RICH = Shot(
    name="Rich – ümläut",
    rate=Fraction(24000, 1001),
    loop=(3, 9),
    markers=(Marker(frame=4, name="beat"),),
    plates=(
        Plate(
            id="t",
            kind="text",
            start=-3,
            end=40,
            locked=True,
            values={
                "size": Keys((Key(frame=0, value=10.0, after="hold"), Key(frame=2.5, value=20.0, after="eased"))),
                "position": Formula("t * 10, 5"),
                "colour": (0.5, 0.25, 0.125, 1.0),
                "turn": Rate(0.0, 200.0),
            },
            effects=(Node(id="q", kind="push", values={"map": "map"}, on=False),),
        ),
    ),
    maps=(noise_map(size_x=55.0),),
)


def test_round_trip(tmp_path):
    path = tmp_path / "rich.nquake"
    write_shot(RICH, path)
    assert read_shot(path) == RICH
    assert shot_bytes(read_shot(path), tmp_path) == path.read_bytes()


@pytest.mark.parametrize("name", samples())
def test_samples_are_written_as_we_write(name):
    """A sample opened and saved is the same file: version control sees no noise."""
    path = sample_path(name)
    assert path is not None
    assert shot_bytes(read_shot(path), path.parent) == path.read_bytes()


def test_first_format_still_opens():
    """A frozen file of format 1."""
    shot = read_shot(Path(__file__).parent / "format-1.nquake")
    assert [plate.id for plate in shot.plates] == ["title", "back"]
    assert shot.rate == Fraction(25)


FROZEN = sorted((Path(__file__).parents[1] / "frozen").glob("*.nquake"))


@pytest.mark.parametrize("path", FROZEN, ids=lambda path: path.stem)
def test_the_second_format_opens_and_is_written_as_the_third(path, tmp_path):
    """Frozen files of format 2, whose frames tests/frozen holds: nothing is lost between the two."""
    assert json.loads(path.read_bytes())["nimble_quake"] == 2
    shot = read_shot(path)
    write_shot(shot, tmp_path / "s.nquake")
    assert json.loads((tmp_path / "s.nquake").read_bytes())["nimble_quake"] == 3
    assert read_shot(tmp_path / "s.nquake") == shot


def test_a_program_older_than_a_file_says_so_and_opens_nothing(tmp_path):
    path = tmp_path / "s.nquake"
    path.write_text(f'{{"nimble_quake": {FORMAT + 1}, "maps": 7}}')
    with pytest.raises(ShotError) as told:
        read_shot(path)
    assert told.value.line().endswith(
        f"its format is {FORMAT + 1}, we read up to {FORMAT} - open it with a newer version"
    )


@pytest.mark.parametrize("frame", [0, 17, 30])
def test_steps_of_the_first_format_give_the_frames_they_gave(frame):
    """The picture and both maps: the steps of format 1 were upgraded since.

    Kept anew when the slope's smoothness became a Gaussian and a push's reach that of white, before the first release:
    until then they were those of the program that wrote format 1.
    """
    folder = Path(__file__).parent
    job = frame_job(Engine(), read_shot(folder / "format-1-steps.nquake"), frame)
    with np.load(folder / "format-1-steps.npz") as kept:
        for name in ("bent", "slope"):
            chain = next(item for item in job.shot.maps if item.id == name)
            got = map_field(job, chain, frame_grid(320, 180, 0.25))
            # blurs have summed their taps in another order since: less than a quarter of a 16-bit step
            assert np.abs(got - kept[f"{name}-{frame}"]).max() < 1 / 65535 / 4, name
        # letters are drawn by the machine's font library: its last bit may differ
        got = render_frame(job.engine, job.shot, frame, 0.25)
        assert np.abs(got - kept[f"picture-{frame}"]).max() < 1 / 255


def test_media_paths_are_relative_to_the_shot(tmp_path):
    shot = Shot(plates=(Plate(id="s", kind="still", values={"file": str(tmp_path / "media" / "a.png")}),))
    write_shot(shot, tmp_path / "x.nquake")
    assert '"media/a.png"' in (tmp_path / "x.nquake").read_text()
    assert read_shot(tmp_path / "x.nquake") == shot


def test_unknown_things_are_kept():
    """Keys, values and operators of a newer version are written back as they were."""
    raw: dict[str, Json] = {
        "nimble_quake": 1,
        "later": {"x": [1]},
        "plates": [
            {"id": "a", "kind": "hologram", "version": 1, "values": {"depth": [1, {"y": 2}]}, "glow": 3, "effects": []},
            {"id": "b", "kind": "text", "version": 99, "values": {"words": 7}, "effects": []},
            {"id": "c", "kind": "text", "version": 1, "values": {"words": "hi", "sparkle": 0.5}, "effects": []},
        ],
        "maps": [{"id": "m", "name": "M", "recipe": [], "tag": "x"}],
    }
    back = encoded(decoded(raw))
    assert back["later"] == raw["later"]
    assert back["plates"] == raw["plates"]
    assert back["maps"] == raw["maps"]


def test_all_errors_at_once():
    raw: dict[str, Json] = {
        "nimble_quake": 1,
        "width": -4,
        "rate": "fast",
        "plates": [
            {"id": "t", "kind": "text", "values": {"size": "wide", "colour": "#12"}, "effects": [{"id": "q"}]},
            5,
        ],
        "maps": [
            {"id": "m", "recipe": [{"id": "n", "kind": "noise", "values": {"octaves": "many", "seed": -1}}]},
            {"id": "m"},
        ],
    }
    with pytest.raises(ShotError) as wrong:
        decoded(raw)
    lines = [error.line() for error in vars(wrong.value)["all"]]
    for start in (
        "width: ",
        "rate: ",
        'plates[0].size: expected a number, got "wide"',
        "plates[0].colour",
        "plates[0].effects[0].kind",
        "plates[1]: ",
        "maps[0].recipe[0].octaves",
        "maps[1].id",
    ):
        assert any(line.startswith(start) for line in lines), (start, lines)
    assert all("\n" not in line for line in lines)


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"{",
        b"[]",
        b"null",
        b"\xff\xfe",
        b'{"nimble_quake": 99}',
        b'{"nimble_quake": true}',
        b'{"name": "x"}',
        b'{"nimble_quake": 1, "width": NaN}',
        b'{"nimble_quake": 1, "width": 1e999}',
        b"[" * 5000 + b"]" * 5000,
        b'{"nimble_quake": 1, "length": 99999999999}',
        b'{"nimble_quake": 1, "width": 10000000}',
        b'{"nimble_quake": 1, "plates": {}}',
        b'{"nimble_quake": 1, "loop": [5, 2]}',
    ],
)
def test_hostile_files_are_one_line(data, tmp_path):
    with pytest.raises(ShotError) as wrong:
        shot_from(data, tmp_path / "bad.nquake")
    assert "bad.nquake" in wrong.value.line()
    assert "\n" not in wrong.value.line()


SAMPLE = sample_path()
assert SAMPLE is not None
TEXT = SAMPLE.read_bytes()


@given(st.integers(0, len(TEXT) - 1), st.binary(min_size=0, max_size=6), st.integers(0, 12))
def test_damaged_files_open_or_are_refused(at, junk, cut):
    """Bytes changed, put in or cut out anywhere: a shot or a ShotError, never another error."""
    data = TEXT[:at] + junk + TEXT[at + cut :]
    try:
        shot = shot_from(data, Path("/nowhere/x.nquake"))
    except ShotError as wrong:
        assert "\n" not in wrong.line()
    else:
        assert isinstance(shot_bytes(shot, None), bytes)


leaf = st.one_of(st.none(), st.booleans(), st.integers(-(10**6), 10**9), st.floats(-1e9, 1e9), st.text(max_size=8))
tree: st.SearchStrategy[object] = st.deferred(
    lambda: st.one_of(leaf, st.lists(tree, max_size=3), st.dictionaries(st.text(max_size=6), tree, max_size=3))
)


@given(st.sampled_from(["size", "colour", "position", "words", "blend", "face"]), tree)
def test_any_json_as_a_value(name, junk):
    raw: dict[str, Json] = {"nimble_quake": 1, "plates": [{"id": "t", "kind": "text", "values": {name: junk}}]}
    try:
        shot = decoded(raw)
    except NimbleQuakeError as wrong:
        assert "\n" not in wrong.line()
    else:
        assert decoded(encoded(shot)) == shot


class TestSaving:
    """A failed save loses nothing."""

    def test_backup(self, tmp_path):
        path = tmp_path / "a.nquake"
        write_shot(Shot(name="one"), path)
        write_shot(Shot(name="two"), path)
        assert read_shot(path).name == "two"
        assert read_shot(tmp_path / "a.nquake.bak").name == "one"
        assert sorted(p.name for p in tmp_path.iterdir() if p.suffix != "") == ["a.nquake", "a.nquake.bak"]

    @pytest.mark.parametrize("failing", ["fsync", "replace"])
    def test_full_disk(self, tmp_path, monkeypatch, failing):
        path = tmp_path / "a.nquake"
        write_shot(Shot(name="one"), path, backup=False)

        def full(*_: object) -> None:
            raise OSError(errno.ENOSPC, "No space left on device")

        monkeypatch.setattr(os, failing, full)
        with pytest.raises(SaveFailed, match="No space left"):
            write_shot(Shot(name="two"), path, backup=False)
        monkeypatch.undo()
        assert read_shot(path).name == "one"
        assert [p.name for p in tmp_path.iterdir() if p.is_file()] == ["a.nquake"]

    def test_folder_gone(self, tmp_path):
        with pytest.raises(SaveFailed, match="cannot be saved"):
            write_shot(Shot(), tmp_path / "none" / "a.nquake")

    def test_missing_and_huge(self, tmp_path, monkeypatch):
        with pytest.raises(ShotError, match="not there"):
            read_shot(tmp_path / "none.nquake")
        monkeypatch.setattr(files, "MOST_BYTES", 10)
        (tmp_path / "big.nquake").write_bytes(b"x" * 11)
        with pytest.raises(ShotError, match="larger than"):
            read_shot(tmp_path / "big.nquake")


def test_schema_names_every_parameter():
    text = json.dumps(schema())
    for word in ("lacunarity", "reach_x", "letter_spacing", "keys", "noise", "maxItems"):
        assert f'"{word}"' in text
    made = json.loads(text)
    assert made["properties"]["nimble_quake"]["maximum"] == FORMAT
    assert len(text) < 4_000_000, "what occurs in many places is defined once: it was 48 MB"
    named = set(re.findall(r'"#/\$defs/([^"]+)"', text))
    assert named == set(made["$defs"])
    for operator in registry().all():
        assert list(made["$defs"][f"{operator.family}-{operator.kind}-values"]["properties"]) == list(operator.declared)


class Killed(BaseException):
    """The program was ended in the middle."""


@pytest.mark.parametrize("at", range(8))
def test_killed_while_saving_there_is_a_whole_file_under_the_name(tmp_path, monkeypatch, at):
    """The program ends before the n-th call to the disk: the name holds the old shot or the new one."""
    path = tmp_path / "a.nquake"
    write_shot(Shot(name="one"), path)
    write_shot(Shot(name="two"), path)
    count = 0

    def ending(real):
        def call(*args, **kwargs):
            nonlocal count
            count += 1
            if count == at + 1:
                raise Killed
            return real(*args, **kwargs)

        return call

    for name in ("fsync", "chmod", "link", "replace"):
        monkeypatch.setattr(os, name, ending(getattr(os, name)))
    with contextlib.suppress(Killed):
        write_shot(Shot(name="three"), path)
    monkeypatch.undo()
    assert read_shot(path).name in ("two", "three")
    assert read_shot(files.backup_of(path)).name in ("one", "two")


def test_saving_keeps_links_and_permissions_and_refuses_folders(tmp_path):
    real, link = tmp_path / "real.nquake", tmp_path / "link.nquake"
    write_shot(Shot(name="one"), real)
    real.chmod(0o640)
    link.symlink_to(real)
    write_shot(Shot(name="two"), link)
    assert link.is_symlink()
    assert read_shot(real).name == "two"
    assert real.stat().st_mode & 0o777 == 0o640
    (tmp_path / "folder.nquake").mkdir()
    with pytest.raises(SaveFailed, match="is a folder"):
        write_shot(Shot(), tmp_path / "folder.nquake")


def test_a_shot_that_is_gone_names_its_backup(tmp_path):
    path = tmp_path / "a.nquake"
    write_shot(Shot(name="one"), path)
    write_shot(Shot(name="two"), path)
    path.write_text('{"nimble_qu')
    with pytest.raises(files.LostShot, match=r"a\.nquake\.bak"):
        read_shot(path)
    path.unlink()
    with pytest.raises(files.LostShot, match=r"a\.nquake\.bak"):
        read_shot(path)
    assert read_shot(files.backup_of(path)).name == "one"


def test_pipes_and_folders_are_not_read(tmp_path):
    os.mkfifo(tmp_path / "pipe.nquake")
    for path in (tmp_path / "pipe.nquake", tmp_path, Path("/dev/zero")):
        with pytest.raises(ShotError, match=r"is no plain file|is a folder"):
            read_shot(path)


def test_media_whose_names_are_no_text_come_back(tmp_path):
    name = str(tmp_path / os.fsdecode(b"lamp\xe9.png"))
    plate = Plate(id="p", kind="still", values={"file": name})
    write_shot(Shot(plates=(plate,)), tmp_path / "a.nquake")
    assert read_shot(tmp_path / "a.nquake").plates[0].values["file"] == name


def test_values_beyond_their_limits_are_held_and_noted():
    raw: dict[str, Json] = {
        "nimble_quake": 1,
        "maps": [
            {
                "id": "m",
                "recipe": [
                    {
                        "id": "n",
                        "kind": "noise",
                        "values": {"octaves": 400, "seed": -1, "size_x": {"keys": [{"frame": 0, "value": 1e9}]}},
                    }
                ],
            }
        ],
    }
    notes: list[str] = []
    shot = decoded(raw, None, notes)
    values = shot.maps[0].recipe[0].values
    assert (values["octaves"], values["seed"]) == (10, 0)
    assert values["size_x"].keys[0].value == 20000
    assert [note.split(":")[0] for note in notes] == [f"maps[0].recipe[0].{n}" for n in ("octaves", "seed", "size_x")]
