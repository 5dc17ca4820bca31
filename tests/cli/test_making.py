"""Starters filled from words and tables: every value by its name, every mistake one line, nothing made twice."""

from __future__ import annotations

import csv
import io
import json
import wave
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import nimble_quake as nq
from nimble_quake.cli.main import main
from nimble_quake.errors import BadInput, NimbleQuakeError
from nimble_quake.media.sound import read_sound
from nimble_quake.operators.front.turning import front_kind
from nimble_quake.params.kinds import Choice, Colour, Number, Pairs, Toggle, options
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.job import Problem
from nimble_quake.render.services import frame_job
from nimble_quake.session.fronts.described import front_schema
from nimble_quake.session.fronts.making import Measures, made, size_of
from nimble_quake.session.fronts.tables import Row, jobs, only, read_table
from nimble_quake.session.fronts.typed import value_of
from nimble_quake.session.starting.finding import find_starter
from nimble_quake.session.starting.starters import shipped
from nimble_quake.session.verbs.tracking import track_folders
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.files import read_shot

STALL = Path(str(find_starter("shockwave").file)).parent / "media" / "stall.mp4"
PERCENT = Number(label="Mix", unit="%", factor=100, hard=(0, 1))


class TestWords:
    @pytest.mark.parametrize(
        ("param", "text", "value"),
        [
            (Number(unit="px", hard=(-500, 500)), "40", 40.0),
            (Number(unit="px", hard=(-500, 500)), " -12.5 px ", -12.5),
            (PERCENT, "40%", 0.4),
            (PERCENT, "0.4", 0.4),
            (Pairs(), "640, 360", (640.0, 360.0)),
            (Pairs(), "640x360", (640.0, 360.0)),
            (Colour(), "#ff0000", (1.0, 0.0, 0.0, 1.0)),
            (Toggle(), "Yes", True),
            (Toggle(), "off", False),
            (Choice(options=options(hold="Hold: the edge")), "HOLD", "hold"),
        ],
    )
    def test_what_a_shell_gives(self, param, text, value):
        assert value_of(param, text) == value

    @pytest.mark.parametrize(
        ("param", "text"),
        [
            (Number(unit="px"), "wide"),
            (Number(unit="px"), "4 s"),
            (Number(unit="px"), "nan"),
            (Number(unit="px"), ""),
            (Pairs(), "3"),
            (Colour(), "red"),
            (Toggle(), "maybe"),
            (Choice(options=options(hold="Hold")), "held"),
        ],
    )
    def test_what_is_no_value_is_one_line(self, param, text):
        with pytest.raises(NimbleQuakeError) as wrong:
            value_of(param, text)
        assert "\n" not in wrong.value.line()


def shot(name: str) -> Shot:
    return find_starter(name).shot


class TestMade:
    def test_slots_dials_and_measures(self):
        found = made(shot("shockwave"), {"Words": "OPEN", "reach": "80"}, Measures((640, 360), Fraction(25), 6.0))
        assert (found.width, found.height, found.rate, found.length) == (640, 360, Fraction(25), 150)
        title = found.plate("title")
        assert title is not None
        assert title.values["words"] == "OPEN"
        assert title.effects[0].values["reach_x"] == 80.0  # a dial says px of the shot it is made into

    def test_a_clip_in_a_slot_covers_the_frame_as_the_example_did(self):
        found = made(shot("shockwave"), {"clip": str(STALL)}, Measures((360, 640)))
        clip = found.plate("crowd")
        assert clip is not None
        assert Path(clip.values["file"]).name == "stall.mp4"
        assert nq.picture(found, 4, scale=0.25)[..., 3].min() == 1.0

    def test_a_picture_as_map(self, tmp_path):
        cv2.imwrite(str(tmp_path / "wave.png"), np.full((9, 16, 3), 128, np.uint8))
        found = made(shot("shockwave"), {"wave": str(tmp_path / "wave.png")}, Measures())
        title = found.plate("title")
        assert title is not None
        map = found.map(title.effects[0].values["map"])
        assert map is not None
        assert map.recipe[0].values["file"] == str(tmp_path / "wave.png")

    @pytest.mark.parametrize(
        ("values", "said"),
        [
            ({"reech": "4"}, "reach"),
            ({"reach": "far"}, "expected a number"),
            ({"clip": "/no/such.mp4"}, "is not there"),
            ({"clip": __file__}, "no picture or clip"),
            ({"wave": "no-map"}, "no map"),
        ],
    )
    def test_what_cannot_be_is_one_line_that_names_it(self, values, said):
        with pytest.raises(BadInput) as wrong:
            made(shot("shockwave"), values, Measures())
        assert said in wrong.value.line()
        assert "\n" not in wrong.value.line()

    @pytest.mark.parametrize("size", ["", "x", "0x5", "1080", "99999999x2", "4x"])
    def test_sizes(self, size):
        with pytest.raises(BadInput, match="no size"):
            size_of(size)


SIZES, RATES, LENGTHS = (
    ((3840, 2160), (1080, 1350), (640, 640), (320, 180)),
    (24, 25, Fraction(30000, 1001)),
    (1.5, 3, 20),
)
ALL = [(s.name, size, rate, length) for s in shipped() for size in SIZES for rate in RATES for length in LENGTHS]


@pytest.mark.sampled(20)
@pytest.mark.parametrize(("name", "size", "rate", "length"), ALL)
def test_every_starter_at_every_size_rate_and_length(name, size, rate, length):
    """No problem, no gap at the border, at the beginning, in the middle and at the end."""
    starter = find_starter(name)
    found = made(starter.shot, {}, Measures(size, Fraction(rate), length))
    engine = Engine()
    engine.look_beside(*track_folders(starter.file))
    for frame in (0, found.length // 3, found.length - 1):
        job = frame_job(engine, found, frame)
        picture = frame_picture(job, min(1.0, 160 / max(size)))
        problems: list[Problem] = list(job.problems.values())
        assert not problems, problems[0].line()
        assert picture[..., 3].min() > 0.99, "a gap"


class TestTables:
    @given(
        st.lists(
            st.lists(
                st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\0"), max_size=12),
                min_size=2,
                max_size=2,
            ),
            min_size=1,
            max_size=6,
        )
    )
    def test_csv_is_read_as_pythons_own_reader_writes_it(self, tmp_path_factory, cells):
        """RFC 4180 against the csv module: quotes, line breaks, commas; with and without a mark of UTF-8."""
        out = io.StringIO(newline="")
        csv.writer(out).writerows([["a", "b"], *cells])
        folder = tmp_path_factory.mktemp("t")
        for mark in ("", "\ufeff"):
            (folder / "t.csv").write_text(mark + out.getvalue(), encoding="utf-8", newline="")
            kept = [row for row in cells if any(cell.strip() for cell in row)]
            if not kept:
                continue
            columns, rows = read_table(folder / "t.csv")
            assert columns == ["a", "b"]
            wanted = [{name: cell for name, cell in zip("ab", row, strict=True) if cell} for row in kept]
            assert [dict(row.values) for row in rows] == wanted

    def test_json_lines(self, tmp_path):
        (tmp_path / "t.jsonl").write_text('{"words": "A", "reach": 4}\n\n{"words": "B"}\n')
        columns, rows = read_table(tmp_path / "t.jsonl")
        assert columns == ["words", "reach"]
        assert [dict(row.values) for row in rows] == [{"words": "A", "reach": 4}, {"words": "B"}]

    @pytest.mark.parametrize(
        ("name", "data"),
        [
            ("t.csv", b""),
            ("t.csv", b"a,b\n"),
            ("t.csv", b"a,a\n1,2\n"),
            ("t.csv", b"a,\n1,2\n"),
            ("t.csv", b"a,b\n1\n"),
            ("t.csv", b'a,b\n"1,2\n'),
            ("t.csv", b"a,b\n\xff\xfe,1\n"),
            ("t.jsonl", b"[1]\n"),
            ("t.jsonl", b"{\n"),
            ("t.jsonl", b"[" * 20_000),
        ],
    )
    def test_a_wrong_table_is_one_line(self, tmp_path, name, data):
        (tmp_path / name).write_bytes(data)
        with pytest.raises(NimbleQuakeError) as wrong:
            read_table(tmp_path / name)
        assert "\n" not in wrong.value.line()

    def test_a_hundred_thousand_rows_are_refused(self, tmp_path):
        (tmp_path / "t.csv").write_text("words\n" + "x\n" * 100_002)
        with pytest.raises(BadInput, match="100,000"):
            read_table(tmp_path / "t.csv")

    def test_sizes_names_and_what_goes_wrong(self):
        rows = [
            Row(1, {"name": "a/../b", "words": "A", "size": "640x360 360x640"}),
            Row(2, {"words": "B", "reach": "wide"}),
            Row(3, {"name": "a/../b", "words": "C", "size": "640x360"}),
            Row(4, {"words": "D", "size": "big"}),
        ]
        found = list(jobs(shot("shockwave"), rows, "out/{name}-{size}.mp4", Measures()))
        assert [job.path.as_posix() for job in found[:3]] == [
            "out/a-..-b-640x360.mp4",
            "out/a-..-b-360x640.mp4",
            "out/0002-1280x720.mp4",
        ]
        assert [bool(job.wrong) for job in found] == [False, False, True, True, True]
        assert "row 1 writes" in found[3].wrong
        first = found[0].shot
        assert first is not None
        assert (first.width, first.height) == (640, 360)

    def test_a_sound_as_a_column_and_a_length_that_follows_it(self, tmp_path):
        """A second and a half of silence and two of it, by RIFF WAVE as Python's own writer makes it."""
        files = [tmp_path / f"{name}.wav" for name in "ab"]
        for file, seconds in zip(files, (1.5, 2.0), strict=True):
            with wave.open(str(file), "wb") as sound:
                sound.setparams((1, 2, 8000, 0, "NONE", ""))
                sound.writeframes(bytes(2 * round(8000 * seconds)))
        rows = [
            Row(1, {"sound": str(files[0]), "length": "sound"}),
            Row(2, {"sound": str(files[1]), "size": "320x180 180x320", "length": "Sound"}),
            Row(3, {"sound": str(files[0])}),
            Row(4, {"length": "sound"}),
            Row(5, {"sound": str(tmp_path / "none.wav"), "length": "sound"}),
            Row(6, {"sound": str(STALL.parent / "market-drums.flac"), "length": "sound"}),
        ]
        plain = shot("shockwave")
        found = list(jobs(plain, rows, "{row}-{size}.mp4", Measures()))
        made_of = [job.shot for job in found if job.shot is not None]
        rate = float(plain.rate)
        assert [shot.length / rate for shot in made_of[:4]] == [1.5, 2.0, 2.0, plain.length / rate]
        assert [len(shot.sounds) for shot in made_of] == [1] * 5
        assert made_of[0].sounds[0].values["file"] == str(files[0])
        assert abs(made_of[4].length / rate - read_sound(str(STALL.parent / "market-drums.flac")).seconds) < 1 / rate
        assert "it has no sound to be as long as" in found[4].wrong
        assert "none.wav" in found[5].wrong
        assert nq.starter("shockwave").with_sound(files[1]).sized(length="sound").shot.length == 2 * rate

    def test_rows_by_number(self):
        rows = [Row(number, {}) for number in range(1, 10)]
        assert [row.number for row in only(rows, "2-4, 8")] == [2, 3, 4, 8]
        with pytest.raises(BadInput):
            only(rows, "a-b")


class TestShell:
    def test_made_from_a_table_once(self, tmp_path, capsys, monkeypatch):
        monkeypatch.chdir(tmp_path)
        Path("t.csv").write_text("name,words,reach\na,A,40\nb,B,x\n")
        given = [
            "make",
            "shockwave",
            "--table",
            "t.csv",
            "-o",
            "out/{name}.png",
            "--frames",
            "33",
            "--size",
            "160x90",
            "--json",
        ]
        assert main(given) == 1
        first = json.loads(capsys.readouterr().out)
        assert next(row["result"] for row in first["rows"]) == "made"
        assert "expected a number" in first["rows"][1]["result"]
        assert Path("out/a_0033.png").exists()
        assert main([*given, "--report", "r.csv"]) == 1
        assert next(row["result"] for row in json.loads(capsys.readouterr().out)["rows"]) == "there already"
        assert "there already" in Path("r.csv").read_text().splitlines()[1]
        Path("t.csv").write_text("name,words,reach\na,A,41\n")
        assert main(given) == 0
        assert json.loads(capsys.readouterr().out)["rows"][0]["result"] == "made"

    def test_dry(self, tmp_path, capsys, monkeypatch):
        monkeypatch.chdir(tmp_path)
        Path("t.csv").write_text("name,words\na,A\n")
        assert main(["make", "shockwave", "--table", "t.csv", "-o", "out/{name}.mp4", "--dry-run"]) == 0
        assert "out/a.mp4  1280x720, 3 s" in capsys.readouterr().out
        assert not Path("out").exists()

    def test_a_shot_file(self, tmp_path, monkeypatch):
        monkeypatch.chdir(tmp_path)
        assert main(["make", "text-ripple", "-o", "mine.nquake", "--slot", "words=MINE", "-q"]) == 0
        title = read_shot(tmp_path / "mine.nquake").plate("title")
        assert title is not None
        assert title.values["words"] == "MINE"

    @pytest.mark.parametrize(
        "given",
        [
            ["nothing-like-it", "-o", "x.mp4"],
            ["shockwave", "-o", "x.mp4", "--dial", "reach"],
            ["shockwave", "-o", "x.mp4", "--dial", "nothing=3"],
            ["shockwave", "-o", "x.mp4", "--size", "big"],
            ["shockwave", "-o", "x.mp4", "--length", "-1"],
            ["shockwave", "-o", "x.mp4", "--times", "bend"],
            ["shockwave", "-o", "x.mp4", "--table", "gone.csv"],
            ["shockwave", "-o", "no/such/folder/x.mp4"],
        ],
    )
    def test_bad_input_is_one_line(self, given, capsys, tmp_path, monkeypatch):
        monkeypatch.chdir(tmp_path)
        assert main(["make", *given]) == 2
        assert len(capsys.readouterr().err.strip().splitlines()) == 1
        assert list(tmp_path.iterdir()) == []

    def test_slots_are_listed(self, capsys):
        assert main(["slots", "shockwave"]) == 0
        assert "reach" in capsys.readouterr().out
        assert main(["slots", "shockwave", "--json"]) == 0
        assert {entry["name"] for entry in json.loads(capsys.readouterr().out)} >= {"clip", "words", "reach"}
        assert main(["slots", "shockwave", "--schema"]) == 0
        schema = json.loads(capsys.readouterr().out)
        jsonschema = pytest.importorskip("jsonschema")
        jsonschema.validate({"words": "OPEN", "reach": 4, "colours": True}, schema)
        with pytest.raises(jsonschema.ValidationError):
            jsonschema.validate({"reach": "far"}, schema)
        assert main(["list", "starter"]) == 0
        assert "shockwave" in capsys.readouterr().out


class TestPython:
    def test_filled_and_turned(self):
        chosen = nq.starter("shockwave").fill(words="OPEN").set(reach=40).sized(320, 180)
        title = chosen.shot.plate("title")
        assert title is not None
        assert (title.values["words"], title.effects[0].values["reach_x"]) == ("OPEN", 40.0)
        assert nq.starter("shockwave").shot.plate("title").values["words"] == "BOOM"  # type: ignore[union-attr]

    def test_a_dial_set_by_its_path(self):
        found = nq.set(nq.starter("shockwave").shot, "front/reach/value", 33.0)
        assert found.plate("title").effects[0].values["reach_x"] == 33.0  # type: ignore[union-attr]
        assert found.plate("crowd").effects[0].values["reach_x"] == 33.0  # type: ignore[union-attr]

    def test_saved_and_used_again(self, tmp_path):
        mine = nq.starter("text-ripple").fill(words="MINE").shot
        nq.save_starter(mine, tmp_path / "mine.nquake-starter", author="Ada", licence="CC0-1.0")
        again = nq.starter(tmp_path / "mine.nquake-starter")
        assert again.origin.plate("title").values["words"] == "MINE"  # type: ignore[union-attr]
        assert {entry["name"] for entry in again.describe()} >= {"words", "ripple"}

    def test_rows(self, tmp_path):
        chosen = nq.starter("shockwave").sized(160, 90)
        rows: list[dict[str, object]] = [{"name": "a", "words": "A"}, {"name": "b", "words": "B", "reach": 10}]
        files = nq.make(chosen, rows, str(tmp_path / "{name}.png"), frames=(33, 33))
        assert [file.name for file in files] == ["a_0033.png", "b_0033.png"]
        with pytest.raises(BadInput, match="no slot"):
            nq.make(chosen, [{"wrong": 1}], str(tmp_path / "{row}.png"))


def test_the_schema_of_every_starter_names_all_of_its_front():
    for starter in shipped():
        found = front_schema(starter.shot)
        assert set(found["properties"]) == {node.id for node in starter.shot.front if front_kind(node) is not None}
