"""Levels of sounds that are kept in files."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from nimble_quake.analysis.level_store import MOST_BANDS, LevelStore
from nimble_quake.analysis.side_files import content_name
from nimble_quake.motion.driver import drivers
from nimble_quake.motion.kinds import Driven
from nimble_quake.render import mixing
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.samples import FOLDER
from nimble_quake.session.state import Session
from nimble_quake.session.verbs.sounds import decode
from nimble_quake.session.verbs.tracking import keep_tracks
from nimble_quake.shot.model import Node, Plate, Shot

DRUMS = next(FOLDER.rglob("market-drums.flac"))
LOW = (40.0, 120.0)


@pytest.fixture
def sound(tmp_path) -> Path:
    return Path(shutil.copy(DRUMS, tmp_path / "drums.flac"))


def store(folder: Path) -> LevelStore:
    found = LevelStore()
    found.look_in(folder)
    return found


def test_what_is_kept_is_found_wherever_the_sound_lies(sound, tmp_path):
    levels = np.linspace(0, 1, 100, dtype=np.float32)
    store(tmp_path / "kept").keep(str(sound), {LOW: levels})
    elsewhere = tmp_path / "elsewhere.flac"
    shutil.copy(sound, elsewhere)
    again = store(tmp_path / "kept")
    assert np.array_equal(again.find(str(elsewhere), LOW, 100), levels)
    assert again.find(str(sound), (41.0, 120.0), 100) is None
    assert again.find(str(sound), LOW, 99) is None, "the sound was read to another length"


def test_earlier_bands_stay_up_to_a_number(sound, tmp_path):
    levels = np.zeros(10, np.float32)
    for number in range(MOST_BANDS + 5):
        store(tmp_path).keep(str(sound), {(float(number), 900.0): levels})
    again = store(tmp_path)
    found = [n for n in range(MOST_BANDS + 5) if again.find(str(sound), (float(n), 900.0), 10) is not None]
    assert found == list(range(5, MOST_BANDS + 5))


@pytest.mark.parametrize(
    "wrong",
    [
        {"version": np.int64(9)},
        {"bands": np.zeros((3, 2))},
        {"levels": np.full((1, 10), np.nan, np.float32)},
        {"levels": np.full((1, 10), -1, np.float32)},
        {"levels": np.array([[{}]], object)},
        None,
    ],
)
def test_damaged_files_and_others_are_no_levels(sound, tmp_path, wrong):
    path = tmp_path / f"{content_name(str(sound))}.levels.npz"
    good: dict[str, Any] = {"version": np.int64(1), "bands": np.array([LOW]), "levels": np.ones((1, 10), np.float32)}
    np.savez(path, **good)
    assert store(tmp_path).find(str(sound), LOW, 10) is not None
    if wrong is None:
        path.write_bytes(path.read_bytes()[:90])
    else:
        np.savez(path, **{**good, **wrong}, allow_pickle=True)
    assert store(tmp_path).find(str(sound), LOW, 10) is None


def test_a_folder_that_cannot_be_written_is_no_fault(sound, tmp_path):
    (tmp_path / "file").write_text("no folder")
    store(tmp_path / "file").keep(str(sound), {LOW: np.zeros(10, np.float32)})


def heard_shot(sound: Path) -> Shot:
    turn = Driven(0.0, 90.0, drivers()["sound"]({"band": "low"}))
    plate = Plate(id="p", kind="shape", values={"turn": turn})
    return Shot(
        length=48,
        plates=(plate,),
        sounds=(Node(id="s", kind="sound", values={"file": str(sound)}),),
        bands=(Node(id="low", kind="band", values={"low": LOW[0], "high": LOW[1]}),),
    )


def test_saving_keeps_them_beside_the_shot_and_opening_computes_none(sound, tmp_path, monkeypatch):
    session = Session()
    keep_tracks(session)
    decode(session.engine.recordings, [str(sound)])
    session.take(heard_shot(sound))
    first = frame_job(session.engine, session.shot, 10).operator("plate", session.shot.plates[0], "plates/p")
    session.save(tmp_path / "a.nquake")
    assert list((tmp_path / "a.tracks").glob("*.levels.npz"))
    monkeypatch.setattr(mixing, "band_power", lambda *_: pytest.fail("computed once more"))
    engine = Engine()
    engine.look_beside(tmp_path / "a.tracks")
    decode(engine.recordings, [str(sound)])
    again = frame_job(engine, session.shot, 10).operator("plate", session.shot.plates[0], "plates/p")
    assert first is not None
    assert again is not None
    assert again.values["turn"] == first.values["turn"] != 0
