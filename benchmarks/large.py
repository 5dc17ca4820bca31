"""A large shot: 100 plates, 60 maps, 2,000 pins. How long it takes to open, to undo, to go to another frame."""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PyQt6.QtWidgets import QApplication

from nimble_quake.desktop.app import application, make_window
from nimble_quake.desktop.window import BenchWindow
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.session.state import Session
from nimble_quake.session.storage.preferences import Preferences
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shotfile.files import write_shot

PLATES, MAPS, PINS = 100, 60, 2000


def large_shot() -> Shot:
    """Return the shot: small texts pushed by maps, each with twenty pins on its place."""
    rng = np.random.Generator(np.random.PCG64(5))
    maps = tuple(
        Map(
            id=f"m{n}",
            name=f"Map {n}",
            recipe=(Node(id="n", kind="noise", values={"size_x": 40.0 + n}), Node(id="l", kind="levels")),
        )
        for n in range(MAPS)
    )
    plates = []
    for n in range(PLATES):
        pins = tuple(
            Key(frame=float(6 * k), value=(float(rng.uniform(0, 1280)), float(rng.uniform(0, 720))))
            for k in range(PINS // PLATES)
        )
        push = Node(id="p", kind="push", values={"map": f"m{n % MAPS}", "reach_x": 8.0})
        values = {"words": f"L{n}", "size": 40.0, "position": Keys(pins)}
        plates.append(Plate(id=f"t{n}", kind="text", values=values, effects=(push,)))
    return Shot(name="Large", width=1280, height=720, length=144, plates=tuple(plates), maps=maps)


def _settled(app: QApplication, window: BenchWindow) -> None:
    window.frames.stop()
    app.processEvents()


def timed(work: Callable[[], object]) -> float:
    """Return the milliseconds that a piece of work takes of the interface thread, what it paints included."""
    app = QApplication.instance()
    assert app is not None
    began = time.thread_time()
    work()
    app.processEvents()
    return 1000 * (time.thread_time() - began)


def measured() -> dict[str, float]:
    """Return milliseconds of each."""
    app = application("dark")
    with tempfile.TemporaryDirectory() as name:
        path = Path(name) / "large.nquake"
        write_shot(large_shot(), path)
        window = make_window(None, Preferences())
        window.resize(1280, 800)
        window.show()
        _settled(app, window)
        opened = timed(lambda: window.files.open_path(path))
        session: Session = window.session
        undone, scrubbed = [], []
        for n in range(12):
            session.set("plates/t3/size", 41.0 + n)
            app.processEvents()
            undone.append(timed(session.undo))
            scrubbed.append(timed(lambda n=n: session.set_frame(10 * n)))  # type: ignore[misc]
        session.saved = session.shot
        window.close()
    return {"open": opened, "undo": statistics.median(undone), "scrub": statistics.median(scrubbed)}
