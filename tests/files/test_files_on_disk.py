"""Which files are opened, and what killed programs leave: unfinished files are locked while they are written."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from pathlib import Path

import pytest

from nimble_quake.analysis.side_files import content_name
from nimble_quake.errors import MediaError
from nimble_quake.export.formats import format_named
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import render
from nimble_quake.files import unfinished
from nimble_quake.files.plain import plain_file
from nimble_quake.media.pool import MediaPool, file_stamp
from nimble_quake.media.sound import Recordings
from nimble_quake.render.engine import Engine
from nimble_quake.session import leftovers
from nimble_quake.session.storage import recovery
from nimble_quake.session.storage.preferences import Preferences, folder, load
from nimble_quake.shot.model import Shot

ENDINGS = ("png", "jpg", "webp", "tif", "gif", "svg", "mp4", "mkv", "exr", "wav", "flac")


@pytest.fixture(params=["pipe", "device", "folder"])
def special(request, tmp_path):
    """Makes a file that is none, with an ending."""

    def make(ending: str) -> Path:
        path = tmp_path / f"x.{ending}"
        if request.param == "pipe":
            os.mkfifo(path)
        elif request.param == "device":
            path.symlink_to("/dev/zero")
        else:
            path.mkdir()
        return path

    return make


@pytest.mark.parametrize("ending", ENDINGS)
def test_every_opener_refuses_what_may_never_end(special, ending):
    path = str(special(ending))
    openers = (MediaPool().open, MediaPool().data, Recordings().read, content_name, plain_file)
    for opener in openers:
        with pytest.raises((MediaError, OSError)):
            opener(path)
    assert MediaPool().moves(path) is False
    assert len(file_stamp(path)) == 2


def test_preferences_that_are_a_pipe_are_at_their_defaults():
    folder("config").mkdir(parents=True)
    os.mkfifo(folder("config") / "preferences.json")
    assert load() == Preferences()


@pytest.fixture
def settled(monkeypatch):
    """Whatever has no lock counts as left at once."""
    monkeypatch.setattr(unfinished, "SETTLED", -1.0)


def test_what_is_being_written_stays_and_what_is_left_goes(tmp_path, settled):
    mine = unfinished.unfinished_file(tmp_path / "a.nquake")
    folder_of_mine = unfinished.unfinished_folder(tmp_path / "b_###.png")
    left = [tmp_path / ".a-abcd1234.part.nquake", tmp_path / ".o-abcd1234.rendering", tmp_path / ".x-zzzz_0aa.part"]
    left[0].write_text("half")
    left[1].mkdir()
    (left[1] / "0000000.png").write_text("half")
    left[2].write_text("")
    others = [tmp_path / name for name in ("a.nquake", ".hidden", ".a-1234.part", "a-abcd1234.part", ".b.parts")]
    for path in others:
        path.write_text("not ours")
    assert unfinished.sweep(tmp_path) == 3
    assert sorted(tmp_path.iterdir()) == sorted([mine, folder_of_mine, *others])
    unfinished.finished(mine, tmp_path / "done.nquake")
    unfinished.removed(folder_of_mine)
    assert sorted(tmp_path.iterdir()) == sorted([tmp_path / "done.nquake", *others])
    assert unfinished.sweep(tmp_path / "not there") == 0


def test_a_file_that_was_just_made_is_not_taken_for_a_leftover(tmp_path):
    (tmp_path / ".a-abcd1234.part.nquake").write_text("another program makes it now, and locks it in a moment")
    assert unfinished.sweep(tmp_path) == 0


KILLED = """
import os, signal, sys
from pathlib import Path
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.files import write_whole
def die(target):
    target.write_bytes(b"half")
    os.kill(os.getpid(), signal.SIGKILL)
write_whole(Path(sys.argv[1]), die)
"""


def test_the_next_start_sweeps_what_a_killed_save_left(tmp_path, settled):
    shot = tmp_path / "work" / "a.nquake"
    shot.parent.mkdir()
    shot.write_text("whole")
    done = subprocess.run([sys.executable, "-c", KILLED, str(shot)], check=False)
    assert done.returncode == -signal.SIGKILL
    assert len(list(shot.parent.iterdir())) == 2
    lock = folder("state") / "unsaved-0123.lock"
    lock.parent.mkdir(parents=True)
    lock.touch()
    mine = recovery.Autosave()
    mine.write(Shot(), None)
    assert leftovers.sweep_all(Preferences(recent=[str(shot)])) == 1
    assert [path.name for path in shot.parent.iterdir()] == ["a.nquake"]
    assert sorted(path.suffix for path in folder("state").glob("unsaved-*")) == [".json", ".lock"]
    mine.close()


def test_the_next_render_sweeps_what_a_killed_one_left(tmp_path, settled):
    left = tmp_path / ".other-abcd1234.rendering"
    left.mkdir()
    (left / "0000000.mp4").write_text("half")
    render(Order(Shot(width=16, height=16, length=2), tmp_path / "a_#.png", 0, 1, format=format_named("png")), Engine())
    assert sorted(path.name for path in tmp_path.iterdir() if path.is_file() or "." in path.name) == [
        "a_0.png",
        "a_1.png",
    ]
