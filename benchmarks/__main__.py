"""Print the speed table and write out/bench.json.

Every time is a median; the base of most is a 4-channel float32 `cv2.remap` (linear) of 1280x720 with as many threads
as there are cores, measured by turns with the row it stands beside. Rows in plain seconds, frames or MB depend on how
fast the machine is just now; the base beside the other rows tells.
"""

from __future__ import annotations

import gc
import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["NIMBLE_QUAKE_HOME"] = tempfile.mkdtemp()

import cv2
import numpy as np
from msgspec.structs import replace

import nimble_quake as nq
from benchmarks import starters as starting
from benchmarks.couplings import COUPLINGS, coupled, delayed, lens_shots, step_by_step
from benchmarks.dragging import dragged
from benchmarks.export import shares
from benchmarks.large import measured as large_shot_times
from benchmarks.samples import LARGE, rates
from benchmarks.sound import MINUTES, analysed, driven_shots, scrolled, tiles
from benchmarks.stack import FINISHES, copy_shots, finished, group_shots, played_fps, tall_stack, tracked_fps
from benchmarks.whole_clips import per_frame
from nimble_quake.conventions import Field, Warp
from nimble_quake.operators.base import Around, Context, MapReader
from nimble_quake.operators.registry import registry
from nimble_quake.raster.colour.convert import to_screen
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.raster.geometry.places import Places
from nimble_quake.raster.sampling.sample import fetch
from nimble_quake.raster.threads.rows import on_one_thread
from nimble_quake.raster.warps.operations import levels_of
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.render.values.resolving import resolved
from nimble_quake.samples import sample_path
from nimble_quake.shot.model import Map, Node, Shot
from nimble_quake.shotfile.files import read_shot

OUT = Path("out")
GRID = frame_grid(1280, 720)
SHOT = Shot(width=1280, height=720, length=144)
ROWS: list[dict[str, object]] = []


def remap() -> Callable[[], object]:
    """Return the base as work: one remap, with as many threads as there are cores."""
    source = np.random.Generator(np.random.PCG64(1)).random((720, 1280, 4)).astype(np.float32)
    ys, xs = np.mgrid[0:720, 0:1280].astype(np.float32)
    us, vs = xs + 5 * np.sin(ys / 30, dtype=np.float32), ys + 3 * np.cos(xs / 40, dtype=np.float32)

    def work() -> None:
        cv2.setNumThreads(os.cpu_count() or 1)
        cv2.remap(source, us, vs, cv2.INTER_LINEAR)
        cv2.setNumThreads(1)

    return work


def row(name: str, value: float, unit: str, base: str, bound: float, *, least: bool = False) -> None:
    """Print and keep one row; `least`: the value must be at least the bound."""
    good = value >= bound if least else value <= bound
    ROWS.append({"name": name, "value": round(value, 3), "unit": unit, "base": base, "bound": bound, "ok": good})
    sign = ">=" if least else "<="
    print(f"{'ok  ' if good else 'OVER'} {name:58} {value:8.2f} {unit:4} {sign} {bound:g}   ({base})", flush=True)


def by_turns(*works: Callable[[], object], times: int = 25) -> list[float]:
    """Return the median milliseconds of each piece of work; a machine that is slow for a while is slow for all."""
    taken: list[list[float]] = [[] for _ in works]
    for work in works:
        work()
    for _ in range(times):
        for one, found in zip(works, taken, strict=True):
            began = time.perf_counter()
            one()
            found.append((time.perf_counter() - began) * 1000)
    return [statistics.median(found) for found in taken]


def ratio(name: str, work: Callable[[], object], bound: float) -> None:
    """Measure work against the remap."""
    under, over = by_turns(remap(), work)
    row(name, over / under, "x", f"remap {under:.1f} ms, this {over:.1f} ms", bound)


def kernels() -> None:
    noise = registry().get("source", "noise")
    push = registry().get("quake", "push")
    assert noise is not None
    assert push is not None
    job = frame_job(Engine(), SHOT, 20)
    node = Node(id="n", kind="noise", values={"churn": 0.5})
    made = resolved(noise, node, job.moment)
    ctx: Context = job.context(made, node, "n")
    ratio("4-octave noise, 1280x720", lambda: made.make(GRID, ctx), 3)  # type: ignore[attr-defined]
    maps()
    field = made.make(GRID, ctx)  # type: ignore[attr-defined]
    quake = push.with_defaults(map="m", reach_x=40.0, reach_y=20.0)
    picture = np.random.Generator(np.random.PCG64(2)).random((720, 1280, 4)).astype(np.float32)
    given = Context(job.moment, job, around=_Given(field))

    def push_and_fetch() -> object:
        return fetch(picture, GRID, affine.IDENTITY, quake.offsets(Places(GRID), given))

    ratio("push of one plate, map given", push_and_fetch, 2.5)


class _Given(Around):
    """Hands a coupling one field for every map."""

    def __init__(self, field: Field) -> None:
        self.field = field

    @property
    def maps(self) -> MapReader:
        return self

    def at(self, map_id: str, places: Places, hook: str = "", fit: str = "", made: object = None) -> Field:
        return self.field

    def whole(self, map_id: str, made: object = None) -> Field:
        return self.field

    def remembered(self, map_id: str, key: tuple[Any, ...], make: Callable[[], Any]) -> Any:
        return make()

    def rest(self, map_id: str) -> float:
        return 0.5

    def turned(self, moves: Warp, hook: str) -> Warp:
        return moves

    def stretched(self, distance: float, hook: str) -> float:
        return distance


def couplings() -> None:
    """Each coupling on one opaque picture; a chain of four; a lens; a delay."""
    for name, effects, bound in COUPLINGS:
        ratio(name, coupled(effects), bound)
    four = {name: effects for name, effects, _ in COUPLINGS}["four chained warps"]
    together, apart = by_turns(coupled(four), step_by_step(four), times=9)
    row("four chained warps beside four cubic samplings", together / apart, "x", f"{apart:.0f} ms apart", 0.5)
    one, lens = by_turns(*lens_shots(), times=15)
    row("a lens over five plates beside the effect on one", lens / one, "x", f"{one:.0f} ms, {lens:.0f} ms", 1.3)
    warm = delayed()
    for _ in range(24):
        warm()
    ratio("delay over 3 s, warm", warm, 6)


def stack() -> None:
    for kind, values, bound in FINISHES:
        ratio(kind.replace("_", " "), finished(kind, values), bound)
    free, held = by_turns(*group_shots())
    row("five plates in a group beside the same without it", held / free, "x", f"{free:.0f} ms, {held:.0f} ms", 1.1)
    one, two = by_turns(*copy_shots())
    under = by_turns(remap())[0]
    row("a live copy of a clip costs", (two - one) / under, "x", f"remap {under:.1f} ms, this {two - one:.1f} ms", 2)
    row("400 points tracked at 1280x720", tracked_fps(), "fps", "of 40 frames", 25, least=True)
    row("12 plates with 20 effects at half size", played_fps(tall_stack(), 0.5), "fps", "shot has 24", 24, least=True)


def sound() -> None:
    path = sample_path()
    assert path is not None
    still, driven = by_turns(*driven_shots(plain_demo(read_shot(path))), times=15)
    row("sound, follow, beat and jitter in the demo frame", driven / still, "x", f"{still:.0f} ms for four", 1.03)
    ratio("600 sound tiles", tiles(), 8)
    row(f"{MINUTES} minutes of sound: beats and three bands", analysed(), "s", "once", 10)
    row("longest pause while 200 moving rows scroll and scrub", scrolled(), "ms", "160 steps", 50)


def export() -> None:
    """Rendering to files: while one core waits for another, nobody gets a frame."""
    path = sample_path()
    assert path is not None
    for name, share in shares(read_shot(path)).items():
        row(f"cores kept busy: {name}", 100 * share, "%", "processor time of all the time there was", 80, least=True)


def large() -> None:
    """A shot of 100 plates, 60 maps and 2,000 pins, on the interface thread."""
    for (name, taken), bound in zip(large_shot_times().items(), (1000, 50, 50), strict=True):
        row(f"100 plates, 60 maps, 2,000 pins: {name}", taken, "ms", "of the interface thread", bound)


def maps() -> None:
    """Sources and shapers at 1280x720, uncached, the steps before a shaper given."""
    for name, kind, values, bound in SOURCES:
        ratio(name, _step(kind, values), bound)
    for name, kind, values, bound in SHAPERS:
        ratio(name, _step(kind, values, after=True), bound)
    for name, kind in (("perspective", "perspective"), ("ring space", "ring_space")):
        ratio(f"{name}, while its numbers are dragged", _anew(_step(kind, {}, after=True)), 2.5)
    fused = tuple(Node(id=kind, kind=kind, values=values) for kind, values in POINTS)
    together, *alone = by_turns(_recipe(fused, after=True), *(_recipe((node,), after=True) for node in fused))
    row("three point-wise steps in a row, beside them one by one", together / sum(alone), "x", "fused", 0.8)
    small, large = by_turns(_step("drips", {}), _step("drips", {}, size=(3840, 2160)), times=9)
    row("3840x2160 drips beside 1280x720", large / small, "x", f"{large:.0f} ms", 12)


POINTS: tuple[tuple[str, dict[str, Any]], ...] = (
    ("contrast", {"amount": 1.4}),
    ("levels", {"black": 0.1, "clip": True}),
    ("invert", {}),
)
SPARKS = {
    "rate": 10_000.0,
    "life": 2.0,
    "life_spread": 0.0,
    "emitter": "box",
    "width": 1280.0,
    "height": 720.0,
    "size": 8.0,
    "size_end": 4.0,
    "place": (640.0, 360.0),
}
SOURCES: tuple[tuple[str, str, dict[str, object], float], ...] = (
    ("cells", "noise", {"base": "nearest", "octaves": 1, "size_x": 160.0, "size_y": 160.0}, 6),
    ("linear gradient", "gradient", {}, 2),
    ("conic gradient", "gradient", {"shape": "conic", "start": (640.0, 360.0)}, 2),
    ("ribs", "ribs", {}, 2),
    ("bands", "bands", {}, 2),
    ("stripes", "pattern", {}, 2),
    ("hexagons", "pattern", {"form": "hexagons", "size_x": 70.0, "size_y": 70.0}, 2),
    ("rays", "pattern", {"form": "rays", "rings": True}, 2),
    ("three rings", "rings", {}, 2),
    ("20,000 particles", "particles", SPARKS, 8),
    ("drips", "drips", {}, 6),
    ("water", "water", {}, 4),
)
SHAPERS: tuple[tuple[str, str, dict[str, object], float], ...] = (
    ("contrast", "contrast", {}, 1),
    ("levels", "levels", {"black": 0.1, "clip": True}, 1),
    ("posterise", "posterise", {}, 1),
    ("curve", "curve", {}, 1),
    ("gamma", "gamma", {}, 1),
    ("Gaussian blur, 8 px", "blur", {"radius": 8.0}, 4),
    ("Gaussian blur, 80 px", "blur", {"radius": 80.0}, 4),
    ("streaks", "streaks", {}, 4),
    ("perspective", "perspective", {}, 2),
    ("tile", "tile", {}, 2),
    ("ring space", "ring_space", {}, 2),
)


def _step(
    kind: str, values: dict[str, object], *, after: bool = False, size: tuple[int, int] = (1280, 720)
) -> Callable[[], object]:
    return _recipe((Node(id="step", kind=kind, values=values),), after=after, size=size)


def _recipe(
    nodes: tuple[Node, ...], *, after: bool = False, size: tuple[int, int] = (1280, 720)
) -> Callable[[], object]:
    """Work that computes a recipe's last steps; what is before them is remembered, if asked."""
    base = (Node(id="base", kind="noise"),) if after else ()
    map = Map(id="map", name="", recipe=(*base, *nodes))
    shot, grid, engine = Shot(width=size[0], height=size[1], maps=(map,)), frame_grid(*size), Engine()
    engine.cache.budget = 2**31
    before = Engine()
    before.cache.budget = 2**31

    def work() -> object:
        engine.last_frames.clear()
        engine.cache.clear()
        for key, value in list(before.cache._items.items()):
            engine.cache.put(key, value[0])
        return map_field(frame_job(engine, shot, 20), map, grid)

    if after:
        map_field(frame_job(engine, shot, 20), map, grid)
        lead = len(base)
        for key, value in engine.cache._items.items():
            if isinstance(key, tuple) and (key[0] == "source" or (key[0] == "map" and len(key[1][0]) <= lead)):
                before.cache.put(key, value[0])
    return work


def _anew(work: Callable[[], object]) -> Callable[[], object]:
    """Work that finds anew how much smaller a bend makes things; while a bend stands still, that is remembered."""

    def both() -> object:
        levels_of.cache_clear()
        return work()

    return both


SOME = 24
"""Frames of one size in a row, as when playing: a clip's next frame is made ahead at the size asked for last."""


def plain_demo(shot: Shot) -> Shot:
    """The demo shot with just what the bound names: clip, noise, levels, push, text, two blends."""
    map = shot.maps[0]
    steps = tuple(step for step in map.recipe if step.kind in ("noise", "levels"))
    title, clip = shot.plate("title"), shot.plate("lanterns")
    assert title is not None
    assert clip is not None
    return replace(shot, maps=(replace(map, recipe=steps),), plates=(title, replace(clip, effects=())))


def frames() -> None:
    path = sample_path()
    assert path is not None
    whole = read_shot(path)
    shot, engine = plain_demo(whole), Engine()
    numbers = iter(range(36, 100_000))

    def frame(of: Shot, scale: float, *, forget: bool = True) -> None:
        if forget:
            engine.last_frames.clear()
            engine.cache.clear()
        to_screen(frame_picture(frame_job(engine, of, 36 + next(numbers) % 100), scale))

    ratio("demo frame (clip, noise, levels, push, text, 2 blends)", lambda: frame(shot, 1.0), 7)
    ratio("the same at half size", lambda: frame(shot, 0.5), 2.8)

    def some(scale: float) -> None:
        for _ in range(SOME):
            frame(shot, scale)

    full, half = (taken / SOME for taken in by_turns(lambda: some(1.0), lambda: some(0.5), times=9))
    row(
        "the same at half size is faster by",
        full / half,
        "x",
        f"full {full:.1f} ms, half {half:.1f} ms",
        2.5,
        least=True,
    )
    row(
        "the demo frame, two at a time as when playing",
        _two_at_a_time(engine, shot),
        "fps",
        "full size",
        24,
        least=True,
    )
    ratio("the sample with all its maps, as played", lambda: frame(whole, 1.0, forget=False), 24)


def _two_at_a_time(engine: Engine, shot: Shot) -> float:
    """Frames a second when two threads make whole frames, each by itself, as the bench does ahead of the playhead."""
    numbers = iter(range(36, 100_000))

    def frame(_: int) -> None:
        with on_one_thread():
            to_screen(frame_picture(frame_job(engine, shot, 36 + next(numbers) % 100)))

    with ThreadPoolExecutor(2) as pool:
        list(pool.map(frame, range(8)))
        began = time.perf_counter()
        list(pool.map(frame, range(72)))
        return 72 / (time.perf_counter() - began)


def window() -> None:
    from nimble_quake.desktop.app import application, make_window, settle

    path = sample_path()
    app = application("dark")
    made = make_window(path)
    made.frames.preview = "half"
    made.show()
    made.session.set_frame(40)
    settle(app, made)
    for name, coarse, bound in (("its half-size frame on screen", False, 25), ("the first coarse one", True, 16)):
        row(f"a number dragged -> {name}", dragged(app, made, coarse=coarse), "ms", "median of 60", bound)
    _board(made)
    _start_page(made)
    _play(made)
    made.session.saved = made.session.shot
    made.close()


def _board(made) -> None:  # type: ignore[no-untyped-def]
    """The board of all sources, its thumbnails moving, while the window answers."""
    from PyQt6.QtCore import QCoreApplication

    made.show_board("source")
    longest, last, end = 0.0, time.perf_counter(), time.monotonic() + 8
    while time.monotonic() < end:
        QCoreApplication.processEvents()
        time.sleep(0.001)
        now = time.perf_counter()
        if time.monotonic() > end - 5:
            longest = max(longest, (now - last) * 1000)
        last = now
    row("board of sources, pictures a second", made.board.rate, "fps", "all that are seen", 12, least=True)
    row("longest pause of the window meanwhile", longest, "ms", "while the board moves", 100)
    made.board.shut()


def _start_page(made) -> None:  # type: ignore[no-untyped-def]
    """The board of starters, its stored pictures moving, from when the page is opened on."""
    from PyQt6.QtCore import QCoreApplication

    made.beginning.show()
    grid = made.beginning.page.grid
    longest, began = 0.0, time.perf_counter()
    last, first = began, grid.moved_on
    while last - began < 5:
        QCoreApplication.processEvents()
        time.sleep(0.001)
        now = time.perf_counter()
        longest, last = max(longest, (now - last) * 1000), now
    shown = (grid.moved_on - first) / (last - began)
    row("board of starters, pictures a second", shown, "fps", "all that are seen; 12 are stored", 11.5, least=True)
    row("longest pause of the window as the page opens", longest, "ms", "five seconds of it", 100)
    made.beginning.leave()


def _play(made) -> None:  # type: ignore[no-untyped-def]
    from PyQt6.QtCore import QCoreApplication

    from nimble_quake.raster.threads.memory import memory_mb

    made.frames.preview = "auto"
    made.frames.play()
    middle, rates = 0.0, []
    end = time.monotonic() + 60
    while time.monotonic() < end:
        QCoreApplication.processEvents()
        time.sleep(0.001)
        if middle == 0.0 and time.monotonic() > end - 30:
            middle = memory_mb()
        rates.append(made.frames.shown_rate)
    after = memory_mb()
    made.frames.stop()
    shown = statistics.median(rates[len(rates) // 10 :])
    row(
        "frames a second while playing the sample, automatic preview",
        shown,
        "fps",
        "median of 60 s, shot has 24",
        23.5,
        least=True,
    )
    row("memory after playing 60 s", after, "MB", f"{middle:.0f} MB after 30 s", 700)
    row("memory grown in the second 30 s", after - middle, "MB", "steady", 40)


def carried() -> None:
    """Starters, dials, crossings, tables."""
    open_ms, put_ms, turn_ms = by_turns(starting.opened, starting.put_on(), starting.turned())
    row("a starter opened", open_ms, "ms", "read, checked, shown to be selected", 300)
    row("its effects, maps and dials put on a plate", put_ms, "ms", "text ripple", 50)
    row("a dial turned, with two values behind it", turn_ms, "ms", "the edit, without its frame", 5)
    for name in ("dissolve", "ring-at-the-cut", "into-clouds", "light-bar", "swept-reveal", "time-slices"):
        whole, apart = by_turns(*starting.crossed(name), times=9)
        row(f"crossing {name}", whole / apart, "x", "both plates apart, one with its effects; its map", 1.1)
    (scrubbed,) = by_turns(starting.reel(), times=60)
    row("a reel of twenty clips scrubbed, half size", scrubbed, "ms", "a frame, seven frames on", 50)
    row("200 rows of a table read and made into shots", starting.table(), "s", "nothing is rendered", 1.0)


def start() -> None:
    """From the command to a window that is painted and answers, and to its first frame."""
    tool = Path(sys.executable).with_name("nimble-quake")
    for until, name, bound in (("window", "a usable window", 2.5), ("frame", "its first frame on screen", 4.0)):
        environment = {key: value for key, value in os.environ.items() if key != "PYTHONDONTWRITEBYTECODE"}
        environment |= {"NIMBLE_QUAKE_QUIT": until, "DISPLAY": ":none", "QT_QPA_PLATFORM": "offscreen"}
        taken = []
        subprocess.run([str(tool), "demo"], env=environment, check=True, capture_output=True)
        for _ in range(5):
            began = time.perf_counter()
            with subprocess.Popen(
                [str(tool), "demo"], env=environment, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
            ) as started:
                assert started.stdout is not None
                assert started.stdout.readline() == b"ready\n"
                taken.append(time.perf_counter() - began)  # closing again is not part of it
        row(f"`nimble-quake demo` to {name}", statistics.median(taken), "s", "median of 5", bound)


def shell() -> None:
    """One command after another, as a script gives them."""
    tool, path = str(Path(sys.executable).with_name("nimble-quake")), sample_path()
    with tempfile.TemporaryDirectory() as folder:
        for name, words, bound in (
            ("one frame by shell", ["frame", str(path), "40", "-o", f"{folder}/frame.png"], 0.8),
            ("`nimble-quake --help`", ["--help"], 0.25),
        ):
            taken = []
            for _ in range(6):
                began = time.perf_counter()
                subprocess.run([tool, *words], check=True, capture_output=True)
                taken.append(time.perf_counter() - began)
            row(name, statistics.median(taken[1:]), "s", "median of 5", bound)


def clip_by_clip() -> None:
    own, script = per_frame()
    said = f"the barest script {script:.0f} ms a frame, this {own:.0f} ms"
    row("a clip pushed by a clip, to MP4", own / script, "x", said, 1.0)


def window_alone() -> None:
    """The window in a process of its own, as it is used: what the rows before it left in memory is not its own."""
    with tempfile.NamedTemporaryFile(suffix=".json") as file:
        subprocess.run([sys.executable, "-m", "benchmarks", "window", file.name], check=True)
        ROWS.extend(json.loads(Path(file.name).read_text(encoding="utf-8")))


def from_python() -> None:
    """A picture pushed by a map, uint8 in and out, beside a remap whose places are worked out from the same map."""
    rng = np.random.Generator(np.random.PCG64(3))
    codes = rng.integers(0, 256, (1080, 1920, 4), dtype=np.uint8)
    picture = cv2.GaussianBlur(codes[..., :3], (0, 0), 3)
    map = cv2.GaussianBlur(codes[..., 3], (0, 0), 9)

    def bare() -> object:
        moves = (map.astype(np.float32) / 255 - np.float32(0.5)) * np.float32(60)
        ys, xs = np.mgrid[0:1080, 0:1920].astype(np.float32)
        return cv2.remap(picture, xs - moves, ys - moves, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)

    under, over = by_turns(bare, lambda: nq.push(picture, map, 30, edge="hold"), times=9)
    row("nq.push of 1920 x 1080, uint8", over / under, "x", f"remap with its places {under:.0f} ms", 2)


def played() -> None:
    """Samples that play at their rate."""
    found = [(shot, full, half) for _, shot, full, half in rates()]
    whole = [full >= float(shot.rate) for shot, full, _ in found]
    quick = [half >= float(shot.rate) * (0.5 if shot.width * shot.height >= LARGE else 1) for shot, _, half in found]
    row("samples that play at their rate, full size", sum(whole), "", f"of {len(found)}", 20, least=True)
    row("at half size (3840 x 2160: at half its rate)", sum(quick), "", f"of {len(found)}", len(found), least=True)


PARTS = (
    *(kernels, couplings, stack, sound, export, clip_by_clip, large),
    *(frames, from_python, played, carried, start, shell, window_alone),
)


def main() -> None:
    if sys.argv[1:2] == ["window"]:
        window()
        Path(sys.argv[2]).write_text(json.dumps(ROWS), encoding="utf-8")
        return
    for part in PARTS:
        part()
        gc.collect()
    OUT.mkdir(exist_ok=True)
    (OUT / "bench.json").write_text(json.dumps(ROWS, indent=1) + "\n", encoding="utf-8")
    print(f"written to {OUT / 'bench.json'}")


if __name__ == "__main__":
    main()
