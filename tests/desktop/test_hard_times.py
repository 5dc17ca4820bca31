"""A real window in hard times: killed, a full disk, no home, two of it on one shot, a clip replaced while it plays."""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
import sys
from fractions import Fraction
from pathlib import Path

import pytest
from PyQt6.QtCore import QLocale, Qt
from PyQt6.QtMultimedia import QMediaDevices

from driving import arrived, click, focused, named, press, type_text
from helpers import numbered_frame, write_clip
from nimble_quake.desktop.widgets.slide_field import SlideField
from nimble_quake.desktop.window import BenchWindow
from nimble_quake.errors import SaveFailed
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import render
from nimble_quake.render.engine import Engine
from nimble_quake.samples import sample_path
from nimble_quake.session.state import Session
from nimble_quake.session.storage import preferences, recovery
from nimble_quake.session.verbs.sounds import add_sound
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shotfile.files import read_shot, write_shot

TURN = "plates/title/turn"

ENDED = """
import os, signal, sys
from pathlib import Path
from PyQt6.QtCore import QTimer
from nimble_quake.desktop import app, window
from nimble_quake.shot.edits.set_value import set_value
if int(sys.argv[2]) != signal.SIGKILL:
    signal.signal(int(sys.argv[2]), signal.SIG_DFL)  # tests run by nohup hand on that SIGHUP is ignored
own = window.BenchWindow.show_fitted
def shown(self):
    own(self)
    def edit_and_end():
        self.session.edit("turn", set_value(self.session.shot, "plates/title/turn", 33.0))
        os.kill(os.getpid(), int(sys.argv[2]))
    QTimer.singleShot(500, edit_and_end)
window.BenchWindow.show_fitted = shown
sys.exit(app.start(Path(sys.argv[1])))
"""


@pytest.mark.sampled(2)
@pytest.mark.parametrize(("sent", "code"), [(signal.SIGTERM, 143), (signal.SIGHUP, 129), (signal.SIGKILL, -9)])
def test_a_window_that_is_ended_leaves_its_work_for_the_next_start(tmp_path, sent, code):
    """SIGTERM and SIGHUP as a logout sends them: it is kept at once; killed outright, what the last autosave held."""
    shot = tmp_path / "a.nquake"
    write_shot(read_shot(sample_path()), shot)
    done = subprocess.run(
        [sys.executable, "-c", ENDED, str(shot), str(int(sent))],
        timeout=120,
        check=False,
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
        capture_output=True,
    )
    assert done.returncode == code
    lost = recovery.lost_shots()
    if sent != signal.SIGKILL:
        assert [found.shot.plate("title").values["turn"] for found in lost] == [33.0]
        assert lost[0].path == shot
    assert read_shot(shot).plate("title") is not None, "the file is whole"


def test_two_windows_on_one_shot(tmp_path):
    """Who saves last wins the name; what the other one saved lies beside it, and that is said."""
    path = tmp_path / "a.nquake"
    write_shot(read_shot(sample_path()), path)
    one, two = Session(), Session()
    said: list[str] = []
    two.message.connect(said.append)
    for session, turn in ((one, 10.0), (two, 20.0)):
        session.open(path)
        session.edit("turn", set_value(session.shot, TURN, turn))
    one.save(path)
    two.save(path)
    assert said == ["Another program had saved a.nquake meanwhile: that is kept as a (another 1).nquake"]
    assert read_shot(path).plate("title").values["turn"] == 20.0
    assert read_shot(tmp_path / "a (another 1).nquake").plate("title").values["turn"] == 10.0
    two.save(path)
    assert len(list(tmp_path.glob("*.nquake"))) == 2, "its own file is no other's"


@pytest.fixture
def no_home(tmp_path, monkeypatch):
    """A home in which nothing can be written, by root neither."""
    (tmp_path / "file").write_text("not a folder")
    monkeypatch.setenv("NIMBLE_QUAKE_HOME", str(tmp_path / "file" / "home"))
    return tmp_path


def test_a_home_that_cannot_be_written(no_home, opened, qtbot):
    """It opens, edits and saves elsewhere; what cannot be kept is one line."""
    window = opened(sample_path())
    window.session.edit("turn", set_value(window.session.shot, TURN, 12.0))
    assert window.keeping.autosave() is False
    assert "cannot autosave" in window.status.hint.text()
    preferences.save(window.preferences)
    with pytest.raises(SaveFailed):
        window.queue.add(Order(window.session.shot, no_home / "o.mp4", 0, 3), Engine(), None)
    window.session.save(no_home / "a.nquake")
    assert read_shot(no_home / "a.nquake").plate("title").values["turn"] == 12.0


DAMAGES = (
    b"",
    b"{",
    b"[1]",
    b'{"recent": 5, "window": [1e9, -1], "splitters": {"bays": ["x"]}}',
    b'{"theme": 3, "sections": {"push": 4}, "cache_mb": 1e400}',
    b"\xff\xfe" * 99,
)


@pytest.mark.sampled(3)
@pytest.mark.parametrize("damage", DAMAGES)
def test_damaged_preferences_open_a_whole_window(opened, damage):
    preferences.folder("config").mkdir(parents=True)
    (preferences.folder("config") / "preferences.json").write_bytes(damage)
    assert preferences.load() == preferences.Preferences()
    assert opened(sample_path()).isVisible()


def test_without_a_sound_device(opened, qtbot, tmp_path, monkeypatch):
    """Playing a shot with sound plays the picture."""
    monkeypatch.setattr(QMediaDevices, "defaultAudioOutput", lambda: QMediaDevices.audioInputs()[:0] or _no_device())
    window = opened(sample_path("beat-rings"))
    add_sound(window.session, str(tmp_path / "gone.wav"))
    window.frames.play()
    qtbot.waitUntil(lambda: window.session.frame > 2, timeout=30_000)
    window.frames.stop()


def _no_device():
    from PyQt6.QtMultimedia import QAudioDevice

    return QAudioDevice()


def test_at_800_by_480_nothing_pushes_the_window_wider(opened, qtbot):
    window = opened(sample_path(), (800, 480))
    arrived(window, qtbot)
    assert (window.width(), window.height()) == (800, 480)
    hint = window.minimumSizeHint()
    assert (hint.width() <= 800, hint.height() <= 480) == (True, True)


def test_where_numbers_have_decimal_commas(opened, qtbot, tmp_path):
    """A number is typed with a point or a comma; the file has points, whatever the desktop writes."""
    before = QLocale()
    QLocale.setDefault(QLocale(QLocale.Language.German, QLocale.Country.Germany))
    try:
        window = opened(sample_path())
        window.session.select(plate="plates/title")
        for text in ("12.5", "7,25"):
            field = named(window.picture_bay, "Turn", SlideField)
            click(field)
            press(Qt.Key.Key_Return) if focused() is field else None
            type_text(text)
            press(Qt.Key.Key_Return)
            assert window.session.shown(TURN) == float(text.replace(",", "."))
        window.session.save(tmp_path / "a.nquake")
        assert '"turn": 7.25' in (tmp_path / "a.nquake").read_text()
    finally:
        QLocale.setDefault(before)


def test_a_clip_that_is_replaced_while_it_plays(opened, qtbot, tmp_path):
    """Another clip under the same name, then a damaged one, then none: the window plays on."""
    file = tmp_path / "c.mkv"
    write_clip(file, [numbered_frame(n, 64, 48) for n in range(24)], Fraction(24), "ffv1", "bgr0")
    plate = Plate(id="c", kind="clip", values={"file": str(file)})
    write_shot(Shot(width=64, height=48, rate=Fraction(24), length=24, plates=(plate,)), tmp_path / "a.nquake")
    window: BenchWindow = opened(tmp_path / "a.nquake")
    window.frames.play()
    write_clip(tmp_path / "d.mkv", [numbered_frame(n, 96, 64) for n in range(5)], Fraction(24), "ffv1", "bgr0")
    for data in ((tmp_path / "d.mkv").read_bytes(), b"nonsense" * 50, None):
        before = window.frames.scheduler.finished
        file.unlink()
        if data is not None:
            file.write_bytes(data)
        qtbot.waitUntil(lambda before=before: window.frames.scheduler.finished > before, timeout=30_000)
        window.session.edit("name", set_value(window.session.shot, "plates/c/opacity", 0.9 if data else 0.8))
    window.frames.stop()
    arrived(window, qtbot)
    assert ["plates/c: the file is not there" in problem.line() for problem in window.frames.last.problems] == [True]


@pytest.fixture
def full_disk(tmp_path):
    """A disk of 256 KB with little left on it."""
    place = tmp_path / "small"
    place.mkdir()
    if (
        os.geteuid()
        or subprocess.run(
            ["mount", "-t", "tmpfs", "-o", "size=256k", "tmpfs", str(place)], check=False, capture_output=True
        ).returncode
    ):
        pytest.skip("a small disk can only be mounted by root")
    yield place
    subprocess.run(["umount", "-l", str(place)], check=True)


def test_a_full_disk(full_disk, opened, monkeypatch):
    """The old file stays whole, the work stays in the window, and each failure is a line."""
    window = opened(sample_path())
    path = full_disk / "a.nquake"
    window.session.save(path)
    before = path.read_bytes()
    filler = full_disk / "filler"
    handle = os.open(filler, os.O_WRONLY | os.O_CREAT)
    with contextlib.suppress(OSError):
        while True:
            os.write(handle, b"x" * 4096)
    os.close(handle)
    window.session.edit("words", set_value(window.session.shot, "plates/title/words", "longer " * 4000))
    with pytest.raises(SaveFailed, match="free some room"):
        window.session.save(path)
    assert path.read_bytes() == before
    monkeypatch.setenv("NIMBLE_QUAKE_HOME", str(full_disk / "home"))
    window.keeping.unsaved = recovery.Autosave()
    assert window.keeping.autosave() is False
    with pytest.raises(SaveFailed):
        render(Order(window.session.shot, full_disk / "o.mkv", 0, 40), Engine())
    filler.unlink()
    window.session.save(path)
    assert read_shot(path) == window.session.to_keep()
    assert [item.name for item in full_disk.iterdir() if item.name.startswith(".")] == []


def test_a_window_is_killed_as_the_tool_does_it():
    """`make torture` kills it 200 times; here the tool itself is tried."""
    tool = Path(__file__).parents[2] / "tools" / "torture.py"
    done = subprocess.run([sys.executable, str(tool), "1", "7"], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    assert done.stdout.startswith("1 kills")
    assert "0 lost" in done.stdout
