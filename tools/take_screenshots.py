"""Take the pictures in docs/screenshots/: python tools/take_screenshots.py [NAME ...]"""

from __future__ import annotations

import os
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["NIMBLE_QUAKE_HOME"] = tempfile.mkdtemp()

from PyQt6.QtCore import QPointF

from nimble_quake.desktop.app import application, make_window, settle
from nimble_quake.desktop.window import BenchWindow
from nimble_quake.samples import sample_path

FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"


def probe(window: BenchWindow, x: float, y: float) -> None:
    window.probing.show(QPointF(x, y))


def bench_lanterns(window: BenchWindow) -> None:
    settle(app, window)
    probe(window, 868, 300)


def bench_light(window: BenchWindow) -> None:
    settle(app, window)


def board(window: BenchWindow) -> None:
    window.show_board()
    settle(app, window, 2)


def tall(window: BenchWindow) -> None:
    window.rows.setSizes([440, 330])
    path = "plates/title/quakes/push/reach_x"
    window.time.lanes.selected_row = path
    window.time.lanes.toggle_tall(path)
    window.time.lanes.scroll_to(48)
    settle(app, window)


def needles(window: BenchWindow) -> None:
    window.map_bay._choose_view("needles")
    window.picture_bay._choose_view("split")
    settle(app, window)


SHOTS: dict[str, tuple[str, int, str, tuple[int, int], Callable[[BenchWindow], None] | None]] = {
    "bench-lantern-row": ("lantern-row", 40, "dark", (1280, 800), bench_lanterns),
    "bench-sign-glitch": ("sign-glitch", 33, "dark", (1280, 800), None),
    "bench-stall-haze": ("stall-haze", 48, "dark", (1280, 800), needles),
    "source-board": ("lantern-row", 40, "dark", (1280, 800), board),
    "light-theme": ("lantern-row", 60, "light", (1280, 800), bench_light),
    "tall-row": ("lantern-row", 62, "dark", (1280, 800), tall),
    "small-window": ("sign-glitch", 33, "dark", (1024, 700), None),
}


def take(name: str) -> None:
    sample, frame, theme, size, prepare = SHOTS[name]
    application(theme)
    window = make_window(sample_path(sample))
    window.resize(*size)
    window.show()
    window.session.set_frame(frame)
    settle(app, window)
    if prepare:
        prepare(window)
    app.processEvents()
    window.grab().save(str(FOLDER / f"{name}.png"))
    window.session.saved = window.session.shot
    window.close()


def take_render_dialog() -> None:
    application("dark")
    window = make_window(sample_path("lantern-row"))
    window.show()
    settle(app, window)
    dialog = window.show_render()
    dialog.where.setText("/home/mira/lantern-row/opener.mp4")
    app.processEvents()
    dialog.grab().save(str(FOLDER / "render-dialog.png"))
    dialog.close()
    window.session.saved = window.session.shot
    window.close()


if __name__ == "__main__":
    FOLDER.mkdir(parents=True, exist_ok=True)
    app = application("dark")
    wanted = sys.argv[1:] or [*SHOTS, "render-dialog"]
    for wish in wanted:
        take_render_dialog() if wish == "render-dialog" else take(wish)
        print(wish)
