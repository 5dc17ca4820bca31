"""Seeded use of the real window for a long time: `make soak MINUTES=30 SEED=1`.

Actions, clicks, drags, keys, extreme values, undo, saving and opening again, small renders, and all that a careless
person does (`benchmarks.monkey`), on one sample after another, all of them.
It fails on any error that nobody caught, on files that are left, and on memory that grows: what is held with no window
open, after what was freed is given back, may not be 50 MB more at the end than it was after five warm minutes.
"""

from __future__ import annotations

import contextlib
import gc
import importlib
import os
import random
import re
import sys
import tempfile
import threading
import time
import traceback
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["NIMBLE_QUAKE_HOME"] = tempfile.mkdtemp(prefix="nimble-quake-soak-")

from PyQt6 import QtTest
from PyQt6.QtCore import QEvent, QPoint, Qt, QTimer
from PyQt6.QtWidgets import QApplication, QMessageBox

from benchmarks.monkey import Monkey
from nimble_quake.desktop.app import application, make_window
from nimble_quake.desktop.faults import catch_faults, report_folder
from nimble_quake.desktop.window import BenchWindow
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import render
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Choice, Number, Pairs, Seed, Toggle
from nimble_quake.raster.threads.memory import give_back
from nimble_quake.render.engine import Engine
from nimble_quake.samples import sample_path, samples
from nimble_quake.session.actions import ACTIONS
from nimble_quake.session.kernels import compile_apart
from nimble_quake.shot.paths import all_nodes, kind_of
from nimble_quake.shotfile.files import read_shot, write_shot

LEFT_ALONE = {"quit", "samples"}
"""They take the window, or the shot, away."""
KEYS = (
    Qt.Key.Key_Tab,
    Qt.Key.Key_Return,
    Qt.Key.Key_Escape,
    Qt.Key.Key_Up,
    Qt.Key.Key_Down,
    Qt.Key.Key_Left,
    Qt.Key.Key_Right,
    Qt.Key.Key_Space,
    Qt.Key.Key_Delete,
    Qt.Key.Key_5,
    Qt.Key.Key_A,
)

QTest: Any = QtTest.QTest
"""Its stubs declare its static functions as methods."""
LONGEST = 45.0
"""Seconds with one sample."""
LATE = (
    *(f"nimble_quake.{name}" for name in ("farm.connecting", "farm.here", "farm.keys")),
    *(f"scipy.{name}" for name in ("fft", "interpolate", "ndimage", "spatial", "special")),
    "cryptography.x509",
    "distributed",
)
"""What the program imports only when it is asked for."""
LONGEST_FRAME = 90.0
"""Seconds that the last frame of a closed window is waited for."""
WARM = 5.0
"""Minutes after which all caches are as full as they become."""
MOST_GROWN = 50.0


def memory() -> float:
    """Memory held, MB."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 2**20


def open_files() -> Counter[str]:
    """What is open, by name: files, pipes, sockets."""
    found: Counter[str] = Counter()
    for number in os.listdir("/proc/self/fd"):
        try:
            name = os.readlink(f"/proc/self/fd/{number}")
        except OSError:
            continue
        found[re.sub(r":\[[0-9]+\]", "", name)] += 1
    return found


def load_late_libraries() -> None:
    """Load what is loaded when it is first needed: it comes once, and what was held before it says nothing.

    Kernels should be compiled before (`make kernels`); those that nobody foresaw are compiled apart, as in the program.
    """
    compile_apart()
    for name in LATE:
        with contextlib.suppress(ImportError):
            importlib.import_module(name)


def difference(one: Any, other: Any, where: str = "shot") -> str:
    """Return the first place where two values differ."""
    if hasattr(one, "__struct_fields__") and type(one) is type(other):
        parts = ((f"{where}.{name}", getattr(one, name), getattr(other, name)) for name in one.__struct_fields__)
    elif isinstance(one, dict) and isinstance(other, dict):
        parts = ((f"{where}.{key}", one.get(key), other.get(key)) for key in {*one, *other})
    elif isinstance(one, tuple) and isinstance(other, tuple) and len(one) == len(other):
        parts = ((f"{where}[{n}]", a, b) for n, (a, b) in enumerate(zip(one, other, strict=True)))
    else:
        return f"{where}: {one!r} is {other!r}"[:300]
    return next((difference(a, b, at) for at, a, b in parts if a != b), where)


class Soak:
    """One run. `done`: how often each sort of move was made."""

    def __init__(self, seed: int) -> None:
        self.random = random.Random(seed)
        self.app = application("dark")
        self.folder = Path(tempfile.mkdtemp(prefix="nimble-quake-soak-"))
        self.done: dict[str, int] = {}
        self.last: list[str] = []
        self.said: list[str] = []
        catch_faults(self.said.append, lambda: None)
        self.monkey = Monkey(lambda: self.window, self.random, self.folder, self.last.append)
        self.waiting = list(samples())
        self.random.shuffle(self.waiting)
        self.closer = QTimer()
        self.closer.setInterval(150)
        self.closer.timeout.connect(self.monkey.use_what_waits)
        self.closer.start()
        self.rested = memory()
        """Megabytes held when no window was open last."""
        self.window = self.opened()

    def opened(self) -> BenchWindow:
        name = self.waiting.pop()
        self.waiting.insert(0, name)
        window = make_window(sample_path(name))
        window.resize(1280, 800)
        window.show()
        QTest.qWait(300)
        return window

    def again(self) -> None:
        """Close the window and open another sample."""
        self.window.session.saved = self.window.session.shot
        self.window.close()
        self.window.deleteLater()
        del self.window  # nothing of it is held while memory is looked at
        self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
        until = time.monotonic() + LONGEST_FRAME
        QTest.qWait(500)
        while time.monotonic() < until and any(thread.name.startswith("frames-") for thread in threading.enumerate()):
            QTest.qWait(200)  # frames under way end: some of what was set here takes a minute to draw
        gc.unfreeze()  # what was there when the program began is this window too
        gc.collect()
        give_back()
        self.rested = memory()
        self.window = self.opened()

    def action(self) -> None:
        action = self.random.choice([a for a in ACTIONS if a.id not in LEFT_ALONE])
        self.last.append(f"action {action.id}")
        if action.enabled(self.window):
            action.run(self.window)

    def value(self) -> None:
        session = self.window.session
        path, node = self.random.choice(list(all_nodes(session.shot)) or [("", None)])
        operator = registry().get(kind_of(path), node.kind) if node is not None else None
        if operator is None or not operator.declared:
            return
        name, param = self.random.choice(list(operator.declared.items()))
        low, high = getattr(param, "hard", (0.0, 1.0))
        usual = getattr(param, "usual", None)
        near = usual if isinstance(usual, tuple) and len(usual) == 2 else (low, high)
        ends = (low, high, self.random.uniform(low, high), self.random.uniform(*near))
        found: object = None
        if isinstance(param, Number):
            found = param.clamp(self.random.choice(ends))
        elif isinstance(param, Pairs):
            found = (self.random.choice(ends), self.random.choice(ends))
        elif isinstance(param, Choice):
            found = self.random.choice([option.value for option in param.options])
        elif isinstance(param, Toggle):
            found = self.random.random() < 0.5
        elif isinstance(param, Seed):
            found = self.random.randrange(param.most)
        if found is not None:
            self.last.append(f"set {path}/{name} = {found}")
            session.set(f"{path}/{name}", found)

    def point(self) -> QPoint:
        return QPoint(
            self.random.randrange(5, self.window.width() - 5), self.random.randrange(5, self.window.height() - 5)
        )

    def click(self) -> None:
        at = self.point()
        widget = self.window.childAt(at)
        button = self.random.choice((Qt.MouseButton.LeftButton, Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton))
        if widget is not None:
            self.last.append(f"click {type(widget).__name__} {at.x()} {at.y()}")
            QTest.mouseClick(widget, button, pos=widget.mapFrom(self.window, at))

    def drag(self) -> None:
        at, to = self.point(), self.point()
        widget = self.window.childAt(at)
        if widget is not None:
            self.last.append(f"drag {type(widget).__name__} {at.x()} {at.y()} {to.x()} {to.y()}")
            QTest.mousePress(widget, Qt.MouseButton.LeftButton, pos=widget.mapFrom(self.window, at))
            for share in (0.3, 0.6, 1.0):
                QTest.mouseMove(widget, widget.mapFrom(self.window, at + (to - at) * share))
            QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, pos=widget.mapFrom(self.window, to))

    def key(self) -> None:
        focused, key = QApplication.focusWidget(), self.random.choice(KEYS)
        if focused is not None:
            self.last.append(f"key {key.name} on {type(focused).__name__}")
            QTest.keyClick(focused, key)

    def undo(self) -> None:
        session = self.window.session
        for _ in range(self.random.randrange(1, 6)):
            session.undo() if self.random.random() < 0.7 else session.redo()

    def frame(self) -> None:
        self.window.session.set_frame(self.random.randrange(self.window.session.shot.length))

    def there_and_back(self) -> None:
        """Save, open again, and compare."""
        kept = self.window.session.to_keep()
        write_shot(kept, self.folder / "soak.nquake")
        back = read_shot(self.folder / "soak.nquake")
        if back != kept:
            raise AssertionError(f"the shot that was saved is not the shot that is opened: {difference(kept, back)}")

    def rendered(self) -> None:
        shot = self.window.session.shot
        first = self.random.randrange(shot.length)
        order = Order(shot, self.folder / "soak.mkv", first, min(first + 1, shot.length - 1), 64 / max(shot.width, 64))
        try:
            render(order, Engine(media=self.window.session.engine.media))
        except NimbleQuakeError as wrong:
            self.last.append(f"render said: {wrong.line()}")

    def step(self) -> None:
        moves: list[tuple[int, Callable[[], None]]] = [
            (8, self.click),
            (6, self.value),
            (5, self.drag),
            (5, self.key),
            (3, self.action),
            (2, self.undo),
            (3, self.frame),
            (1, self.there_and_back),
            (1, self.rendered),
            *self.monkey.moves(),
        ]
        move = self.random.choices([m for _, m in moves], [weight for weight, _ in moves])[0]
        self.done[move.__name__] = self.done.get(move.__name__, 0) + 1
        move()
        QTest.qWait(self.random.choice((1, 10, 60)))
        del self.last[:-12]


def main(minutes: float, seed: int) -> int:
    """Run, print what was seen, and return 0 where all was well."""
    QMessageBox.question = lambda *a, **k: QMessageBox.StandardButton.Discard  # type: ignore[method-assign,assignment]
    load_late_libraries()
    soak = Soak(seed)
    faults, told = 0, set[Path]()
    began = opened = spoken = time.monotonic()
    early = 0.0
    files = open_files()
    while time.monotonic() - began < minutes * 60:
        try:
            soak.step()
        except Exception as wrong:
            faults += 1
            print(f"FAULT {type(wrong).__name__}: {wrong}\n  after {soak.last}\n{traceback.format_exc()}", flush=True)
        reports = set(report_folder().glob("*")) if report_folder().exists() else set()
        for report in sorted(reports - told):
            faults += 1
            print(f"FAULT in {report}\n  after {soak.last}\n{report.read_text()}", flush=True)
        told |= reports
        now = time.monotonic()
        if now - opened > LONGEST:
            soak.again()
            opened = time.monotonic()
            if opened - began < WARM * 60 or not early:
                early = max(early, soak.rested)
        if now - spoken > 60:
            held = f"{memory():6.0f} MB, {soak.rested:6.0f} at rest"
            print(f"{(now - began) / 60:5.1f} min  {held}  {threading.active_count()} threads", flush=True)
            spoken = now
    soak.again()
    grown, left = soak.rested - early, open_files() - files
    print(f"moves: {soak.done}\nfaults: {faults}; grown {grown:.0f} MB since it was warm")
    print(f"files left {left.total()}: {', '.join(left)}")
    sys.stdout.flush()
    os._exit(1 if faults or grown > MOST_GROWN or left.total() > 8 else 0)


if __name__ == "__main__":
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 30, int(sys.argv[2]) if len(sys.argv) > 2 else 1)
