"""Speed of what is carried: starters opened and put on, dials, crossings beside what they are made of, tables."""

from __future__ import annotations

import csv
import tempfile
import time
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

from msgspec.structs import replace

from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.samples import FOLDER, crossing_path, sample_path
from nimble_quake.session.crossings import laying, repeated
from nimble_quake.session.fronts.making import Measures
from nimble_quake.session.fronts.tables import jobs, read_table
from nimble_quake.session.starting import starters
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import bars
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import id_of
from nimble_quake.shotfile.files import read_shot


def opened() -> object:
    """A starter opened as a shot."""
    session, path = Session(), sample_path("shockwave")
    assert path is not None
    session.open(path)
    return session.shot


def put_on() -> Callable[[], object]:
    """Return work that puts a starter's effects, maps and dials on a plate."""
    session = Session()
    session.take(Shot(width=1280, height=720, plates=(Plate(id="mine", kind="text"),)))
    session.select(plate="plates/mine")
    starter = next(each for each in starters.shipped() if each.name == "text-ripple")

    def work() -> object:
        return starters.with_starter(session, starter)

    return work


def turned() -> Callable[[], object]:
    """Return work that turns a dial with several values behind it."""
    session, path = Session(), sample_path("shockwave")
    assert path is not None
    session.open(path)
    session.begin("turn")
    now = [0.0]

    def work() -> object:
        now[0] = (now[0] + 1) % 200
        session.set("front/reach/value", now[0])
        return session.shot

    return work


def crossed(name: str) -> tuple[Callable[[], object], Callable[[], object]]:
    """Return work that makes a frame of a crossing, and what it is made of, apart.

    Both plates, one of them with its effects, and the map it wipes by.
    """
    shot = read_shot(crossing_path(name))
    crossing, second, first = shot.plates
    lent = replace(second, effects=(*second.effects, *crossing.effects))
    apart = tuple(replace(shot, plates=(one, crossing_off(crossing))) for one in (first, lent))
    wipes = crossing.values.get("by", "")
    engine, grid = Engine(), frame_grid(shot.width, shot.height)

    def frame(one: Shot) -> object:
        engine.last_frames.clear()
        engine.cache._asked.clear()
        return frame_picture(frame_job(engine, one, 36))

    def parts() -> object:
        wipe = frame_job(engine, shot, 36).map_values(wipes, grid) if wipes else None
        return [frame(one) for one in apart], wipe

    return lambda: frame(shot), parts


def crossing_off(crossing: Plate) -> Plate:
    """A crossing that is not seen: what follows its values finds them."""
    return replace(crossing, on=False)


def reel(clips: int = 20) -> Callable[[], object]:
    """Return work that scrubs a reel of clips with a dissolve at every cut, at half size: a frame, seven frames on."""
    session, files = Session(), sorted((FOLDER / "media").glob("*.mp4"))
    session.take(Shot(width=1280, height=720, rate=Fraction(24), length=24))
    paths = bars.in_a_row(session, [files[n % len(files)] for n in range(clips)])
    dissolve = read_shot(crossing_path("dissolve"))
    laying.lay_crossing(session, dissolve, dissolve.name, (id_of(paths[0]), id_of(paths[1])))
    repeated.at_every_cut(session)
    at = [0]

    def work() -> object:
        at[0] = (at[0] + 7) % session.shot.length
        return frame_picture(frame_job(session.engine, session.shot, at[0]), 0.5)

    return work


def table() -> float:
    """Return the seconds until 200 rows of a table are read and made into shots."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "t.csv"
        with path.open("w", newline="") as file:
            csv.writer(file).writerows([["name", "words", "reach"], *([f"n{n}", f"WORD {n}", n] for n in range(200))])
        session_shot = opened()
        assert isinstance(session_shot, Shot)
        began = time.perf_counter()
        _, rows = read_table(path)
        made = list(jobs(session_shot, rows, str(Path(folder) / "{name}.mp4"), Measures()))
        assert not any(job.wrong for job in made)
        return time.perf_counter() - began
