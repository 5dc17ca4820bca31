"""Speed of sound and motion: what moves a value costs next to nothing; tiles; analysis; many moving rows."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np
from msgspec.structs import replace

from benchmarks.couplings import GRID, SIZE, node
from nimble_quake.analysis.bands import band_power
from nimble_quake.analysis.beats import found_in
from nimble_quake.motion.driver import drivers
from nimble_quake.motion.kinds import Driven, Layered
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.samples.sound_shots import BEATS, DRUMS, LOW
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Map, Plate, Shot

MINUTES = 3
RATE = 48_000
ROWS = 200


def driven_shots(shot: Shot) -> tuple[Callable[[], object], Callable[[], object]]:
    """Return work that makes frames of a shot, and of the same with sound, follow, beat and jitter on its values."""
    made = replace(shot, sounds=(DRUMS,), bands=(LOW,), beats=BEATS)
    kinds = drivers()
    reach = "plates/title/effects/push/reach_x"
    sound = Driven(60.0, 1e-6, kinds["sound"]({"band": LOW.id}))
    jitter, beat = (Driven(0.0, 1e-6, kinds[kind]({})) for kind in ("jitter", "beat"))
    made = set_value(made, reach, Layered(sound, (jitter, beat)))
    made = set_value(made, "plates/title/effects/push/reach_y", Driven(0.0, 0.3, kinds["follow"]({"path": reach})))
    return _frames(set_value(set_value(shot, reach, 60.0), "plates/title/effects/push/reach_y", 18.0)), _frames(made)


def _frames(shot: Shot) -> Callable[[], object]:
    engine, numbers = Engine(), iter(range(36, 100_000))

    def work() -> object:
        engine.last_frames.clear()
        engine.cache.clear()
        return [frame_picture(frame_job(engine, shot, 36 + next(numbers) % 100), 1.0) for _ in range(4)]

    return work


def tiles() -> Callable[[], object]:
    """Return work that makes 600 tiles driven by a band, at another moment each time."""
    step = node("sound_tiles", columns=30.0, rows=20.0, size=44.0, push_by=LOW.id, turn_by=LOW.id, light_by=LOW.id)
    map = Map(id="m", name="M", recipe=(step,))
    shot = Shot(width=SIZE[0], height=SIZE[1], length=240, maps=(map,), sounds=(DRUMS,), bands=(LOW,))
    engine, numbers = Engine(), iter(range(100_000))

    def work() -> object:
        engine.last_frames.clear()
        engine.cache.clear()
        return map_field(frame_job(engine, shot, next(numbers) % 190), map, GRID)

    return work


def analysed() -> float:
    """Return the seconds it takes to find the beats and the levels of three bands in three minutes of sound."""
    rng = np.random.default_rng(4)
    mono = rng.standard_normal(RATE * 60 * MINUTES).astype(np.float32) * 0.02
    for beat in np.arange(0, 60 * MINUTES - 1, 0.5):
        first = int(beat * RATE)
        mono[first : first + 2400] += np.exp(-np.arange(2400) / 400).astype(np.float32) * 0.5
    began = time.perf_counter()
    found_in(mono, RATE)
    for low, high in ((40, 120), (200, 2000), (2000, 12_000)):
        band_power(mono, RATE, low, high)
    return time.perf_counter() - began


def scrolled() -> float:
    """Return the longest pause, ms, while 200 moving rows are scrolled through and the playhead is dragged."""
    from PyQt6.QtCore import QCoreApplication

    from nimble_quake.desktop.app import application, make_window, settle

    app = application("dark")
    made = make_window(None)
    jitter, wave = (drivers()[kind]({}) for kind in ("jitter", "wave"))
    names = ("turn", "opacity", "scale_x", "scale_y")
    plates = tuple(
        Plate(
            id=f"p{n}", kind="fill", on=False, values={n2: Driven(0.5, 0.3, jitter if n % 2 else wave) for n2 in names}
        )
        for n in range(ROWS // len(names))
    )
    made.session.take(Shot(width=320, height=180, length=240, plates=plates))
    made.refresh()
    made.show()
    settle(app, made)
    lanes, longest = made.time.lanes, 0.0
    for number in range(160):
        began = time.perf_counter()
        lanes.scroll_to(number * 30)
        made.session.set_frame(number)
        QCoreApplication.processEvents()
        longest = max(longest, (time.perf_counter() - began) * 1000) if number > 2 else longest
    made.session.saved = made.session.shot
    made.close()
    return longest
