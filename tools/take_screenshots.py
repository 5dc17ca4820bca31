"""Take the pictures in docs/screenshots/: python tools/take_screenshots.py [NAME ...]"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["NIMBLE_QUAKE_HOME"] = tempfile.mkdtemp()

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPixmap

from nimble_quake.desktop.app import application, make_window, settle
from nimble_quake.desktop.dialogs.batch_dialog import BatchDialog
from nimble_quake.desktop.dialogs.queue_dialog import QueueDialog
from nimble_quake.desktop.window import BenchWindow
from nimble_quake.export.order import Order
from nimble_quake.render.engine import Engine
from nimble_quake.samples import FOLDER as FOLDER_OF_SAMPLES
from nimble_quake.samples import sample_path
from nimble_quake.session.queue.queue import Queue
from nimble_quake.session.queue.stored import Status, put
from nimble_quake.session.storage import library
from nimble_quake.session.verbs import items
from nimble_quake.session.verbs.sounds import sounds_missing
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.files import write_shot

FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"


def probe(window: BenchWindow, x: float, y: float) -> None:
    window.probing.show(QPointF(x, y))


def bench_lanterns(window: BenchWindow) -> None:
    settle(app, window)
    probe(window, 868, 300)


def bench_light(window: BenchWindow) -> None:
    settle(app, window)


def front_panel(window: BenchWindow) -> None:
    window.middle.show_front()
    settle(app, window)


def recipe_bench(window: BenchWindow) -> None:
    """A curve in a ring bracket, two steps compared."""
    session = window.session
    found = {item.name: item.recipe for item in library.kept(False)[0]}
    library.use(session, found["Text ripple"])
    items.new_step(session, "curve")
    curve = session.selection.step
    session.set(f"{curve}/points", ((0.0, 0.1), (0.3, 0.16), (0.5, 0.5), (0.72, 0.86), (1.0, 0.92)))
    items.put_in_bracket(session, curve)
    bracket = session.selection.step
    session.set(f"{bracket}/space", "rings")
    window.map_bay.compare_with(f"{session.selection.map}/steps/noise")
    session.select(step=curve)
    settle(app, window)


def tall(window: BenchWindow) -> None:
    window.rows.setSizes([440, 330])
    path = "plates/title/effects/push/reach_x"
    window.time.lanes.selected_row = path
    window.time.lanes.toggle_tall(path)
    window.time.lanes.scroll_to(48)
    settle(app, window)


def needles(window: BenchWindow) -> None:
    window.map_bay.choose_view("needles")
    window.picture_bay.choose_view("split")
    settle(app, window)


def quake_board(window: BenchWindow) -> None:
    window.session.select(plate="plates/title", quake="")
    window.show_board("quake")
    settle(app, window, 3)
    window.board.cells.choose(next(e for e in window.board.cells.entries if e.title == "Twirl"))
    window.board.cells.stepped.emit()
    settle(app, window, 2)


def lens_and_mask(window: BenchWindow) -> None:
    """Sections unfolded, a mask drawn for the lens's glow."""
    session = window.session
    session.select(effect="plates/canal/effects/slope")
    window.coupling.settings.show_section("Where")
    session.select(map="maps/canal")
    window.picture_bay.mask_button.setChecked(True)
    settle(app, window)


def tracking(window: BenchWindow) -> None:
    """The points of a street, some of them picked."""
    window.session.select(plate="plates/street")
    window.picture_bay.points_button.setChecked(True)
    tracks = window.tracking.tracks()
    if tracks is not None:
        window.tracking.picked["plates/street"] = {int(n) for n in tracks.at(48)[4:40:5]}
    settle(app, window)


def crossing(window: BenchWindow) -> None:
    window.session.select(plate="plates/light-bar", map="maps/bar")
    window.middle.show_front()
    settle(app, window)


def sound(window: BenchWindow) -> None:
    """The drums with their bands, and the spectrum of one."""
    app_wait = time.monotonic() + 10
    while sounds_missing(window.session) and time.monotonic() < app_wait:
        app.processEvents()
    window.rows.setSizes([440, 330])
    window.session.select(effect="plates/lanterns/effects/push")
    window.session.select(sound="bands/low-band")
    settle(app, window)


def start_page(window: BenchWindow) -> None:
    """With shots to go on with, a title typed, a starter chosen."""
    root = Path(tempfile.mkdtemp())
    for name in ("lantern-row/opener", "stage/boom-square", "city/windows-v3"):
        file = root / f"{name}.nquake"
        file.parent.mkdir()
        write_shot(Shot(name=file.stem), file)
        window.preferences.remember(file)
    window.session.take(Shot())
    window.beginning.show()
    window.beginning.page.words.setText("Lantern Row")
    grid = window.beginning.page.grid
    until = time.monotonic() + 2.6
    while time.monotonic() < until:
        app.processEvents()
    grid.choose(next(starter for starter in grid.starters if starter.name == "shockwave"))


SHOTS: dict[str, tuple[str, int, str, tuple[int, int], Callable[[BenchWindow], None] | None]] = {
    "bench-lantern-row": ("lantern-row", 40, "dark", (1280, 800), bench_lanterns),
    "front-panel": ("shockwave", 33, "dark", (1280, 800), front_panel),
    "bench-stall-haze": ("stall-haze", 48, "dark", (1280, 800), needles),
    "quake-board": ("lantern-row", 40, "dark", (1280, 800), quake_board),
    "lens-and-mask": ("moving-water", 30, "dark", (1280, 800), lens_and_mask),
    "recipe-bench": ("lantern-row", 40, "dark", (1280, 800), recipe_bench),
    "light-theme": ("lantern-row", 60, "light", (1280, 800), bench_light),
    "tall-row": ("lantern-row", 62, "dark", (1280, 800), tall),
    "tracking": ("tracked-squares", 48, "dark", (1280, 800), tracking),
    "crossing": ("market-reel", 50, "dark", (1280, 800), crossing),
    "sound": ("sound-blocks", 37, "dark", (1280, 800), sound),
    "start-page": ("lantern-row", 0, "dark", (1280, 800), start_page),
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
    """The render dialog, and the queue below it."""
    application("dark")
    window = make_window(sample_path("lantern-row"))
    window.show()
    settle(app, window)
    dialog = window.dialogs.show_render()
    dialog.fields.what.setCurrentIndex(dialog.fields.what.findData("st"))
    dialog.fields.format.setCurrentIndex(dialog.fields.format.findData("exr-float"))
    dialog.fields.where.setText("/home/mira/lantern-row/opener_####.exr")
    queue = filled_queue(window.session.shot)
    app.processEvents()
    pictures = [dialog.grab(), queue.grab()]
    sheet = QPixmap(max(p.width() for p in pictures), sum(p.height() for p in pictures) + 12)
    sheet.fill(QColor("#1b1b1b"))
    painter, top = QPainter(sheet), 0
    for picture in pictures:
        painter.drawPixmap((sheet.width() - picture.width()) // 2, top, picture)
        top += picture.height() + 12
    painter.end()
    sheet.save(str(FOLDER / "render-and-queue.png"))
    for shown in (dialog, queue):
        shown.close()
    window.session.saved = window.session.shot
    window.close()


def filled_queue(shot: Shot) -> QueueDialog:
    """A queue with an order in each state."""
    queue = Queue(Path(tempfile.mkdtemp()))
    states = (
        ("opener.mp4", Status("done", 144)),
        ("opener-square.webm", Status("running", 96, 41.0)),
        ("heat-map_####.exr", Status("incomplete", 143, failures={87: "plates/street: too large - make it smaller"})),
        ("loop.gif", Status("waiting", 48)),
        ("opener-4k.mkv", Status()),
    )
    folder = Path(tempfile.mkdtemp())
    for name, status in states:
        id = queue.add(Order(shot, folder / name, 0, shot.length - 1), Engine(), None)
        put(queue.root / id / "status.json", status)
    queue.pause(queue.entries()[3].id)
    queue.at_work = lambda: True
    dialog = QueueDialog(queue)
    dialog.show()
    dialog.list.setCurrentRow(1)
    return dialog


def take_table() -> None:
    """A table of titles in three sizes; a row is wrong."""
    application("dark")
    window = make_window(sample_path("time-sliced-title"))
    window.show()
    settle(app, window)
    queue = Queue(Path(tempfile.mkdtemp()))
    table = BatchDialog(window.session, window.frames, queue, window)
    table.out.setText("/home/mira/lantern-row/{name}-{size}.mp4")
    table.show()
    table.open_table(FOLDER_OF_SAMPLES / "reels" / "stall-names.csv")
    table.fill([["soup", "THE SOUP OF THE OLD HARBOUR"]], 4)
    settle(app, window, 6)
    table.grab().save(str(FOLDER / "table.png"))
    table.close()
    window.session.saved = window.session.shot
    window.close()


DIALOGS = {"render-and-queue": take_render_dialog, "table": take_table}


if __name__ == "__main__":
    FOLDER.mkdir(parents=True, exist_ok=True)
    app = application("dark")
    wanted = sys.argv[1:] or [*SHOTS, *DIALOGS]
    for wish in wanted:
        DIALOGS[wish]() if wish in DIALOGS else take(wish)
        print(wish)
