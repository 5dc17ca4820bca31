"""The render queue: orders kept on disk, worked through by a process that may be killed at any time."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time
from fractions import Fraction
from pathlib import Path

import msgspec
import pytest

from helpers import numbered_frame, write_clip
from nimble_quake.cli.main import main
from nimble_quake.errors import BadInput, LimitError
from nimble_quake.export.formats import format_named
from nimble_quake.export.order import Order, prepared_frame
from nimble_quake.export.rendering import render
from nimble_quake.render.engine import Engine
from nimble_quake.session.queue.queue import Queue
from nimble_quake.session.queue.running import LOW_PRIORITY, run_queue
from nimble_quake.session.queue.stored import Status, put
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shotfile.files import write_shot


@pytest.fixture
def home(tmp_path, monkeypatch):
    monkeypatch.setenv("NIMBLE_QUAKE_HOME", str(tmp_path / "home"))
    return tmp_path


@pytest.fixture
def queue(home):
    return Queue()


def shot_of(tmp_path, length=12, size=(64, 48)):
    rate = Fraction(25)
    file = write_clip(tmp_path / "in.mkv", [numbered_frame(n) for n in range(length)], rate, "ffv1", "bgr0")
    plate = Plate(id="c", kind="clip", values={"file": str(file), "fit": "cover"})
    return Shot(name="Opener", width=size[0], height=size[1], rate=rate, length=length, plates=(plate,))


def ordered(shot, path, **values):
    return Order(shot, path, 0, values.pop("last", shot.length - 1), **values)


def states(queue):
    return [entry.state for entry in queue.entries()]


def test_orders_are_rendered_one_after_the_other(queue, tmp_path):
    shot = shot_of(tmp_path)
    for name in ("a.mp4", "b_##.png", "c.gif"):
        queue.add(ordered(shot, tmp_path / name), Engine(), None)
    assert states(queue) == ["waiting"] * 3
    told: list[str] = []
    assert run_queue(queue, told.append) == 3
    assert told == ["a.mp4 is rendered", "b_##.png is rendered", "c.gif is rendered"]
    assert states(queue) == ["done"] * 3
    assert [len(entry.status.files) for entry in queue.entries()] == [1, 12, 1]
    assert all(Path(file).is_file() for entry in queue.entries() for file in entry.status.files)
    assert sorted(file.name for file in tmp_path.iterdir() if file.name.startswith(".")) == []


def test_an_order_holds_the_shot_as_it_was(queue, tmp_path):
    shot = shot_of(tmp_path)
    queue.add(ordered(shot, tmp_path / "a.mkv"), Engine(), None)
    kept = queue.entries()[0].order.order()
    assert (kept.shot, kept.path, kept.format) == (shot, tmp_path / "a.mkv", format_named("ffv1"))
    run_queue(queue)
    wanted = render(ordered(shot, tmp_path / "wanted.mkv"), Engine()).files[0]
    assert (tmp_path / "a.mkv").read_bytes() == wanted.read_bytes()


@pytest.mark.parametrize(
    "values",
    [
        {"scale": 0.5},
        {"every": 3},
        {"what": "st:c"},
        {"quality": 30},
        {"alpha": ""},
        {"dither": True},
        {"limit": True},
        {"overscan": 40, "format": format_named("exr-half")},
    ],
)
def test_an_order_comes_back_as_it_was_given(queue, tmp_path, values):
    format = values.get("format", format_named("mp4"))
    order = ordered(shot_of(tmp_path), tmp_path / f"a{format.suffix}", **{"format": format, **values})
    queue.add(order, Engine(), tmp_path / "home.nquake")
    assert queue.entries()[0].order.order() == order


def test_order_pause_and_cancel(queue, tmp_path):
    shot = shot_of(tmp_path)
    a, b, c = (queue.add(ordered(shot, tmp_path / f"{name}.mp4"), Engine(), None) for name in "abc")
    queue.move(c, -2)
    assert [entry.id for entry in queue.entries()] == [c, a, b]
    queue.move(c, 1)
    assert [entry.id for entry in queue.entries()] == [a, c, b]
    queue.pause(a)
    queue.cancel(b)
    assert states(queue) == ["paused", "waiting"]
    told: list[str] = []
    run_queue(queue, told.append)
    assert told == ["c.mp4 is rendered"]
    queue.pause_all()
    queue.pause(a, paused=False)
    assert queue.next() is None
    queue.pause_all(paused=False)
    assert queue.next().id == a
    with pytest.raises(BadInput, match="there is no order"):
        queue.pause("nothing")


def slow(seconds):
    def prepared(*all):
        time.sleep(seconds)
        return prepared_frame(*all)

    return prepared


def wait_for(check, seconds=30.0):
    end = time.monotonic() + seconds
    while not check():
        assert time.monotonic() < end, "it did not come"
        time.sleep(0.02)


@pytest.fixture
def rendering(queue, monkeypatch):
    """Begins to render the queue, slowly, on a thread."""
    monkeypatch.setattr("nimble_quake.export.rendering.prepared_frame", slow(0.5))
    threads = []

    def begin() -> threading.Thread:
        thread = threading.Thread(target=run_queue, args=(queue,))
        threads.append(thread)
        thread.start()
        return thread

    yield begin
    for thread in threads:
        thread.join(30)


def test_paused_while_it_is_rendered_and_going_on(queue, tmp_path, rendering):
    """What was whole stays; other orders have their turn; nothing final is there before it is whole."""
    shot = shot_of(tmp_path)
    id = queue.add(ordered(shot, tmp_path / "a_##.png"), Engine(), None)
    thread = rendering()
    wait_for(lambda: queue.entry(id).running and queue.entry(id).status.done >= 2)
    assert queue.entry(id).status.left > 0
    queue.pause(id)
    thread.join(30)
    entry = queue.entry(id)
    assert entry.state == "paused"
    kept = sorted(file.name for file in entry.parts.iterdir())
    assert 0 < len(kept) < 12
    assert list(tmp_path.glob("a_*.png")) == []
    queue.pause(id, paused=False)
    assert run_queue(queue) == 1
    assert len(list(tmp_path.glob("a_*.png"))) == 12


def test_cancelled_while_it_is_rendered(queue, tmp_path, rendering):
    id = queue.add(ordered(shot_of(tmp_path), tmp_path / "a_##.png"), Engine(), None)
    thread = rendering()
    wait_for(lambda: queue.entry(id).status.done >= 2)
    queue.cancel(id)
    thread.join(30)
    assert queue.entries() == []
    assert [file.name for file in tmp_path.iterdir() if file.name not in ("home", "in.mkv")] == []
    assert [file.name for file in queue.root.iterdir() if file.is_dir()] == []


def test_frames_that_fail_are_named_and_rendered_later(queue, tmp_path, monkeypatch):
    def failing(engine, order, frame, target):
        if frame == 3 and order.path.name.startswith("a"):
            raise LimitError("too large", where="plates/c", cure="make it smaller")
        return prepared_frame(engine, order, frame, target)

    monkeypatch.setattr("nimble_quake.export.rendering.prepared_frame", failing)
    shot = shot_of(tmp_path)
    a = queue.add(ordered(shot, tmp_path / "a_##.png"), Engine(), None)
    queue.add(ordered(shot, tmp_path / "b.gif"), Engine(), None)
    told: list[str] = []
    assert run_queue(queue, told.append) == 1
    assert told == ["a_##.png: 1 frame failed, frame 3: plates/c: too large - make it smaller", "b.gif is rendered"]
    assert queue.entry(a).state == "incomplete"
    assert queue.entry(a).status.done == 11
    assert queue.next() is None
    monkeypatch.setattr("nimble_quake.export.rendering.prepared_frame", prepared_frame)
    queue.again(a)
    assert queue.entry(a).state == "waiting"
    assert run_queue(queue) == 1
    assert queue.entry(a).state == "done"
    assert len(list(tmp_path.glob("a_*.png"))) == 12


def test_what_cannot_be_rendered_at_all_is_told_and_the_rest_goes_on(queue, tmp_path):
    """A clip that was changed since, a folder that is gone: one line each, and nothing half-written."""
    (tmp_path / "out").mkdir()
    (tmp_path / "other").mkdir()
    shot = shot_of(tmp_path)
    queue.add(ordered(shot, tmp_path / "out" / "a.mp4"), Engine(), None)
    (tmp_path / "out").rmdir()
    changed = queue.add(ordered(shot_of(tmp_path / "other"), tmp_path / "b.mp4"), Engine(), None)
    (tmp_path / "other" / "in.mkv").write_bytes(b"something else")
    queue.add(ordered(shot, tmp_path / "c.mp4"), Engine(), None)
    assert run_queue(queue) == 1
    assert states(queue) == ["failed", "failed", "done"]
    assert "folder is not there" in queue.entries()[0].status.line
    assert "was changed" in queue.entry(changed).status.line


def test_damaged_orders_are_passed_over(queue, tmp_path):
    queue.add(ordered(shot_of(tmp_path), tmp_path / "a.mp4"), Engine(), None)
    (queue.root / "bad").mkdir()
    (queue.root / "bad" / "order.json").write_text("{")
    raw = msgspec.json.decode((queue.entries()[0].folder / "order.json").read_bytes())
    (queue.root / "newer").mkdir()
    (queue.root / "newer" / "order.json").write_bytes(msgspec.json.encode({**raw, "kind": "hologram"}))
    assert run_queue(queue) == 1
    assert sorted(states(queue)) == ["done", "failed"]


def test_bad_orders_are_refused_when_they_are_given(queue, tmp_path):
    shot = shot_of(tmp_path)
    for order in (ordered(shot, tmp_path / "a.mp4", last=99), ordered(shot, tmp_path / "none" / "a.mp4")):
        with pytest.raises(BadInput):
            queue.add(order, Engine(), None)
    assert queue.entries() == []


def test_the_desktop_is_told(queue, tmp_path, monkeypatch):
    """Through notify-send, as desktops have it (freedesktop.org, Desktop Notifications)."""
    programs, words = tmp_path / "bin", tmp_path / "words"
    programs.mkdir()
    (programs / "notify-send").write_text(f'#!/bin/sh\nprintf "%s\\n" "$@" > {words}\n')
    (programs / "notify-send").chmod(0o755)
    monkeypatch.setenv("PATH", f"{programs}:{os.environ['PATH']}")
    queue.add(ordered(shot_of(tmp_path), tmp_path / "a.gif"), Engine(), None)
    run_queue(queue)
    assert words.read_text().splitlines() == ["--app-name=Nimble Quake", "Nimble Quake", "a.gif is rendered"]


def test_one_process_renders_at_a_time(queue, tmp_path):
    queue.add(ordered(shot_of(tmp_path), tmp_path / "a.gif"), Engine(), None)
    told: list[str] = []
    with queue.lock() as held:
        assert held
        assert queue.at_work()
        assert run_queue(queue, told.append) == 0
    assert told == ["another process renders the queue"]
    assert not queue.at_work()


def test_an_order_whose_process_was_killed_waits_again(queue, tmp_path):
    """Its status still says that it is rendered; nobody holds the lock."""
    id = queue.add(ordered(shot_of(tmp_path), tmp_path / "a.gif"), Engine(), None)
    put(queue.entry(id).folder / "status.json", Status("running", 5))
    assert queue.entry(id).state == "waiting"
    assert queue.next().id == id


@pytest.mark.sampled(1)
@pytest.mark.parametrize("key", ["mp4", "png"])
def test_killed_in_mid_work_the_result_is_the_same_bit_for_bit(queue, tmp_path, key):
    """A process of its own at low priority, killed by SIGKILL, then another one."""
    length = 60
    shot = shot_of(tmp_path, length, (640, 360))
    name = "a.mp4" if key == "mp4" else "a_##.png"
    (tmp_path / "whole").mkdir()
    whole = render(ordered(shot, tmp_path / "whole" / name), Engine()).files
    id = queue.add(ordered(shot, tmp_path / name), Engine(), None)
    words = [sys.executable, "-m", "nimble_quake", "queue", "--run"]
    with subprocess.Popen(words, stdout=subprocess.PIPE) as process:
        parts = queue.entry(id).parts
        wait_for(lambda: parts.is_dir() and any(not file.name.startswith(".") for file in parts.iterdir()), 60)
        assert os.getpriority(os.PRIO_PROCESS, process.pid) == os.getpriority(os.PRIO_PROCESS, 0) + LOW_PRIORITY
        process.send_signal(signal.SIGKILL)
    assert queue.entry(id).state == "waiting"
    assert list(tmp_path.glob("a*.*")) == []
    kept = {file.name: file.stat().st_mtime_ns for file in parts.iterdir() if not file.name.startswith(".")}
    assert 0 < len(kept) < len(range(0, length, format_named(key).part_length(length)))
    found = subprocess.run(words, capture_output=True, timeout=120, check=True)
    assert found.stdout.decode().strip() == f"{name} is rendered"
    files = sorted(tmp_path.glob("a*.*"))
    assert [file.read_bytes() for file in files] == [file.read_bytes() for file in whole]
    if key == "png":
        assert all((tmp_path / f"a_{int(name[:7]):02d}.png").stat().st_mtime_ns == at for name, at in kept.items())


def test_the_command_line(home, tmp_path, capsys, monkeypatch):
    """render --queue, then the list, pause, cancel; nothing starts in the background here."""
    monkeypatch.setattr(Queue, "start", lambda self: None)
    write_shot(shot_of(tmp_path), tmp_path / "s.nquake")
    assert main(["render", str(tmp_path / "s.nquake"), "-o", str(tmp_path / "o.mp4"), "--queue"]) == 0
    id = capsys.readouterr().out.strip()
    assert main(["queue", "--pause", id]) == 0
    assert capsys.readouterr().out.strip() == f"{id}  {tmp_path / 'o.mp4'}  paused, 0 of 12"
    assert main(["queue", "--go", id, "--json"]) == 0
    assert msgspec.json.decode(capsys.readouterr().out)[0]["state"] == "waiting"
    assert main(["queue", "--run"]) == 0
    assert (tmp_path / "o.mp4").is_file()
    capsys.readouterr()
    assert main(["queue", "--cancel", id]) == 0
    assert capsys.readouterr().out == ""
    assert (tmp_path / "o.mp4").is_file()
    assert main(["queue", "--missing", "none"]) == 2
    assert main(["render", str(tmp_path / "s.nquake"), "-o", "-", "--queue"]) == 2


def test_it_starts_by_itself_in_the_background(queue, tmp_path):
    id = queue.add(ordered(shot_of(tmp_path), tmp_path / "a.gif"), Engine(), None)
    queue.start()
    wait_for(lambda: queue.entry(id).state == "done", 60)
    wait_for(lambda: not queue.at_work())
    queue.start()
    assert not queue.at_work()


@pytest.mark.parametrize("damage", [b"", b"{", b"[]", b'{"rank": "x"}', b'{"paused": 3}', b"\xff" * 40])
def test_a_damaged_wish_is_read_as_none(queue, tmp_path, damage):
    """It used to stop the order at once, for it to begin again without end, and those behind it never began."""
    shot = shot_of(tmp_path)
    first, _ = (queue.add(ordered(shot, tmp_path / f"{name}.mp4"), Engine(), None) for name in "ab")
    (queue.root / first / "wish.json").write_bytes(damage)
    assert run_queue(queue) == 2
    assert sorted(states(queue)) == ["done", "done"]


DAMAGED = {
    "path": "",
    "scale": 0.0,
    "first": -3,
    "last": 10_000,
    "every": 0,
    "overscan": -1,
    "kind": "none",
    "alpha": "x",
}


@pytest.mark.parametrize(
    ("field", "value"),
    [
        *DAMAGED.items(),
        ("scale", -1.0),
        ("scale", 99.0),
        ("path", "../o.mp4"),
        ("path", "/tmp/../etc/o.mp4"),
        ("path", "o.mp4"),
    ],
)
def test_a_damaged_order_fails_with_a_line_and_the_next_one_begins(queue, tmp_path, field, value):
    shot = shot_of(tmp_path)
    bad, good = (queue.add(ordered(shot, tmp_path / f"{name}.mp4"), Engine(), None) for name in "ab")
    order = queue.entry(bad).order
    put(queue.root / bad / "order.json", msgspec.structs.replace(order, **{field: value}))
    fresh = Queue()
    assert run_queue(fresh) == 1
    assert {entry.id: entry.state for entry in fresh.entries()} == {bad: "failed", good: "done"}
    assert fresh.entry(bad).status.line.isprintable()
    assert fresh.entry(bad).status.line
    fresh.cancel(bad)
    assert [entry.id for entry in fresh.entries()] == [good]


def test_what_never_became_an_order_is_removed(queue, tmp_path):
    kept = queue.add(ordered(shot_of(tmp_path), tmp_path / "a.mp4"), Engine(), None)
    place = queue.root / "123-ab"
    place.mkdir()
    (place / "wish.json").write_text("{}")
    queue.remove_leftovers()
    assert place.exists(), "it may just be put in"
    os.utime(place, (1, 1))
    queue.remove_leftovers()
    assert [each.name for each in queue.root.glob("*/")] == [kept]


def _heeding() -> None:
    """Heed signals, as a program started in a terminal does: behind a shell's & Ctrl+C is ignored."""
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, signal.SIG_DFL)


@pytest.mark.parametrize(("sent", "code"), [(signal.SIGTERM, 143), (signal.SIGHUP, 129), (signal.SIGINT, 130)])
def test_a_render_ends_as_it_is_asked_and_leaves_nothing(tmp_path, sent, code):
    """Batch systems and containers stop work so: exit codes of 128 + the signal."""
    shot = Shot(width=640, height=360, length=20_000, plates=(Plate(id="t", kind="text"),))
    write_shot(shot, tmp_path / "s.nquake")
    words = [sys.executable, "-m", "nimble_quake", "render", str(tmp_path / "s.nquake"), "-o", str(tmp_path / "o.mp4")]
    process = subprocess.Popen(words, stderr=subprocess.PIPE, start_new_session=True, preexec_fn=_heeding)
    try:
        until = time.monotonic() + 60
        while not any(tmp_path.glob(".o-*/*")):
            assert time.monotonic() < until
            time.sleep(0.02)
        process.send_signal(sent)
        _, said = process.communicate(timeout=60)
    finally:
        process.kill()
    assert (process.returncode, said.decode().strip().splitlines()[-1]) == (code, "nimble-quake: stopped")
    assert [path.name for path in tmp_path.iterdir() if path.name != "home"] == ["s.nquake"]
