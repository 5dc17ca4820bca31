"""Nothing ends the window: not an error in a slot, nor one in a small job on a render thread."""

from __future__ import annotations

import subprocess
import sys
import threading

import pytest

from driving import arrived
from nimble_quake.desktop.faults import catch_faults, report_folder
from nimble_quake.errors import ShotError
from nimble_quake.render.shown.scheduler import WORKERS


@pytest.fixture
def caught(window, monkeypatch):
    """The window with the net that catches all, as the program starts it."""
    hooks = sys.excepthook, threading.excepthook
    catch_faults(window.tell_fault, window.keeping.autosave)
    yield window
    sys.excepthook, threading.excepthook = hooks


def raising(error: Exception):
    def slot() -> None:
        raise error

    return slot


def test_an_error_in_a_slot_is_one_line_and_a_report(caught, qtbot):
    caught.session.set("plates/title/size", 99.0)
    # pytest-qt takes sys.excepthook for itself while a test runs; the program's own is called as PyQt would
    try:
        raising(ZeroDivisionError("a wrong turn"))()
    except ZeroDivisionError as wrong:
        sys.excepthook(type(wrong), wrong, wrong.__traceback__)
    qtbot.waitUntil(lambda: "failed in Nimble Quake itself" in caught.status.hint.text(), timeout=5000)
    (report,) = report_folder().glob("fault-*.txt")
    assert "a wrong turn" in report.read_text()
    assert list(report_folder().parent.glob("unsaved-*.json")), "the work is kept first"
    assert caught.isVisible()
    caught.session.undo()


def test_our_own_errors_are_told_in_their_own_words(caught, qtbot):
    wrong = ShotError("there is no such lamp", where="plates/lamp", cure="choose another")
    sys.excepthook(type(wrong), wrong, None)
    qtbot.waitUntil(lambda: "there is no such lamp - choose another" in caught.status.hint.text(), timeout=5000)
    assert not report_folder().exists()


def test_an_error_that_was_told_is_let_go(caught, monkeypatch):
    """Python keeps the last one for debuggers: it held the window that failed, with all its frames."""
    wrong = ShotError("there is no such lamp")
    for name, value in (("last_type", ShotError), ("last_value", wrong), ("last_traceback", wrong.__traceback__)):
        monkeypatch.setattr(sys, name, value, raising=False)
    sys.excepthook(type(wrong), wrong, None)
    assert sys.last_value is None


def test_reports_do_not_pile_up(caught):
    for _ in range(30):
        wrong = ValueError("again")
        sys.excepthook(type(wrong), wrong, None)
    assert len(list(report_folder().glob("fault-*.txt"))) <= 20


def test_a_failing_job_does_not_end_its_thread(caught, qtbot, monkeypatch):
    """Two of them ended both threads: the bench was busy for ever."""
    scheduler = caught.frames.scheduler
    told: list[str] = []
    monkeypatch.setattr(caught.status, "say", lambda line, tint="": told.append(line))
    for n in range(6):
        scheduler.later(f"bad-{n}", raising(RuntimeError("a bad small picture")))
    qtbot.waitUntil(lambda: len(told) == 6, timeout=10_000)
    assert {thread.name for thread in threading.enumerate()} >= {f"frames-{n}" for n in range(WORKERS)}
    caught.session.set_frame(60)
    arrived(caught, qtbot)
    qtbot.waitUntil(lambda: not scheduler.busy, timeout=20_000)


def test_a_thread_of_ours_that_fails_tells(caught, qtbot):
    thread = threading.Thread(target=raising(KeyError("x")))
    thread.start()
    thread.join()
    qtbot.waitUntil(lambda: "KeyError" in caught.status.hint.text(), timeout=5000)


def test_the_program_itself_starts_with_the_net(tmp_path):
    """A slot that raises in a real program: PyQt would end it with exit code 134; here it goes on and ends well."""
    script = (
        "import sys\n"
        "from PyQt6.QtCore import QTimer\n"
        "from nimble_quake.desktop import app\n"
        "real = app.make_window\n"
        "def make(*args):\n"
        "    window = real(*args)\n"
        "    QTimer.singleShot(100, lambda: 1 / 0)\n"
        "    QTimer.singleShot(1500, window.close)\n"
        "    return window\n"
        "app.make_window = make\n"
        "sys.exit(app.start(None))\n"
    )
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, timeout=120, check=False)
    assert done.returncode == 0, done.stderr
    assert "Traceback" not in done.stderr
    assert list(report_folder().glob("fault-*.txt"))
