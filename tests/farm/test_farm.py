"""Many machines: a scheduler and workers as processes of their own, one killed, one stalled, one that lies, one of
another version; what comes back is what one machine renders, bit for bit."""

from __future__ import annotations

import json
import os
import signal
import socket
import threading
import time
from fractions import Fraction
from pathlib import Path

import dask
import msgspec
import numpy as np
import psutil
import pytest
from distributed import Client, Security

from helpers import numbered_frame, write_clip, write_png
from machines import Machines
from nimble_quake.cli.main import main
from nimble_quake.errors import BadInput, Cancelled, FailedWork
from nimble_quake.export.formats import format_named
from nimble_quake.export.order import Order, stamps_of
from nimble_quake.export.rendering import render, render_on
from nimble_quake.export.writers import Part
from nimble_quake.farm.connecting import address_of, connected, security_of
from nimble_quake.farm.keys import keys_in, make_keys
from nimble_quake.farm.round import loads_of
from nimble_quake.farm.sampling import Sampling
from nimble_quake.farm.where import Where
from nimble_quake.motion.kinds import Rate
from nimble_quake.render.engine import Engine
from nimble_quake.session.queue.queue import Queue
from nimble_quake.session.queue.running import run_queue
from nimble_quake.shot.crossings import with_courses
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shotfile.files import write_shot

OLD = "import nimble_quake.farm.work as work\nwork.__version__ = '0.0.9'\n"
LYING = """
import nimble_quake.export.rendering as rendering
from nimble_quake.export.order import prepared_frame
rendering.prepared_frame = lambda engine, order, frame, target: prepared_frame(engine, order, (frame + 7) % 90, target)
"""
SLOW = """
import time
import nimble_quake.export.rendering as rendering
from nimble_quake.export.order import prepared_frame
def slow(*all):
    time.sleep(0.04)
    return prepared_frame(*all)
rendering.prepared_frame = slow
"""


@pytest.fixture
def machines(tmp_path):
    found = Machines(tmp_path)
    yield found
    found.end()


@pytest.fixture
def shot(tmp_path):
    """A clip pushed by noise, so that a frame takes a while and depends on a file."""
    rng = np.random.Generator(np.random.PCG64(4))
    still = rng.integers(0, 255, (90, 160, 4), np.uint8)
    still[..., 3] = 255
    frames = [np.roll(still, 3 * n, axis=1) for n in range(96)]
    file = write_clip(tmp_path / "in.mkv", frames, Fraction(25), "ffv1", "bgr0")
    push = Node(id="p", kind="push", values={"map": "m", "reach_x": 12.0})
    plate = Plate(id="c", kind="clip", values={"file": str(file), "fit": "cover"}, effects=(push,))
    map = Map(id="m", name="Noise", recipe=(Node(id="n", kind="noise", values={"size_x": 40.0}),))
    return Shot(width=160, height=90, rate=Fraction(25), length=96, plates=(plate,), maps=(map,))


def ordered(shot, folder, key="mp4", last=None):
    format = format_named(key)
    folder.mkdir(exist_ok=True)
    name = f"o_###{format.suffix}" if format.sequence else f"o{format.suffix}"
    return Order(shot, folder / name, 0, shot.length - 1 if last is None else last, format=format)


def wait_for_workers(farm, count, seconds=60.0):
    end = time.monotonic() + seconds
    while len(farm.client.scheduler_info(n_workers=-1)["workers"]) < count:
        assert time.monotonic() < end
        time.sleep(0.1)


def names_of(farm):
    return {address: info["name"] for address, info in farm.client.scheduler_info(n_workers=-1)["workers"].items()}


def test_killed_stalled_lying_and_old_machines(machines, shot, tmp_path):
    """One works, one is killed in mid-work, one is stalled, one lies about its frames, one has another version."""
    whole = render(ordered(shot, tmp_path / "one"), Engine()).files[0]
    machines.worker("good", SLOW)
    hurt = {"killed": signal.SIGKILL, "stalled": signal.SIGSTOP}
    processes = {name: machines.worker(name, SLOW) for name in hurt}
    machines.worker("lying", LYING)
    machines.worker("old", OLD)
    told: list[str] = []
    with connected(Where(machines.address), Engine(), told.append) as farm:
        wait_for_workers(farm, 5)
        names, farm.least_patience = names_of(farm), 3.0

        def stop() -> bool:
            """Hurt each of them as soon as it has something to do."""
            at_work = {names.get(machine) for machine, keys in farm.client.processing().items() if keys}
            for name in at_work & set(hurt):
                os.kill(processes[name], hurt.pop(name))
            return False

        found = render(ordered(shot, tmp_path / "many"), Engine(), stop=stop, by=farm)
        counted = {names.get(machine, machine): count for machine, count in farm.frames.items()}
    assert hurt == {}
    assert found.files[0].read_bytes() == whole.read_bytes()
    assert sum(counted.values()) == shot.length
    assert set(counted) <= {"good", "killed", "stalled", "lying"}
    left_out = {names[line.split(" is left out")[0]]: line for line in told if "left out" in line}
    assert {"old", "lying"} <= set(left_out)
    assert "it has nimble-quake 0.0.9 in place of" in left_out["old"]
    assert "that is not the one that is rendered here" in left_out["lying"]
    assert any("is late: another renders the same frames" in line for line in told)
    assert sorted(file.name for file in (tmp_path / "many").iterdir()) == ["o.mp4"]


RUBBISH = """
import nimble_quake.farm.work as work
from nimble_quake.farm.media import digest_of_bytes
from nimble_quake.farm.wire import packed, unpacked
from nimble_quake.farm.work import Done, Load
def junk(job, load, stop=None):
    load = unpacked(load, Load)[0]
    files = [b"\\x89PNG\\r\\n\\x1a\\n" + b"junk" * 99 for _ in load.parts]
    return packed(Done(tuple(map(digest_of_bytes, files)), (), ()), files)
work.render_load = junk
"""
OBJECT = "import nimble_quake.farm.work as work\nwork.render_load = lambda job, load, stop=None: {'an': 'object'}\n"
SHORT = 'import nimble_quake.farm.work as work\nwork.versions = lambda: b\'{"says": {}, "sizes": [9]}\\n\'\n'


def test_rubbish_refuses_its_machine_and_not_the_render(machines, shot, tmp_path):
    """Six PNGs of rubbish used to get their final names, exit code 0."""
    machines.worker("good", SLOW)
    for name, code in (("rubbish", RUBBISH), ("object", OBJECT), ("short", SHORT)):
        machines.worker(name, code)
    told: list[str] = []
    with connected(Where(machines.address), Engine(), told.append) as farm:
        wait_for_workers(farm, 4)
        names = names_of(farm)
        found = render(ordered(shot, tmp_path / "many", "png", 47), Engine(), by=farm)
    whole = render(ordered(shot, tmp_path / "one", "png", 47), Engine())
    assert [file.read_bytes() for file in found.files] == [file.read_bytes() for file in whole.files]
    left_out = {names[line.split(" is left out")[0]]: line for line in told if "left out" in line}
    assert "it sent a file that cannot be read" in left_out["rubbish"]
    assert "it sent dict where bytes were asked for" in left_out["object"]
    assert "less than it said" in left_out["short"]


def test_what_a_liar_made_before_it_was_found_out_is_made_again(machines, shot, tmp_path, monkeypatch):
    """Its first load is not looked at here; the next one is, and then the first is not believed either."""
    skipped: list[str] = []

    def later(self, machine, frames):
        if not skipped:
            return skipped.append(machine)
        return frames[0]

    monkeypatch.setattr(Sampling, "chosen", later)
    machines.worker("lying", LYING)
    with connected(Where(machines.address), Engine()) as farm:
        wait_for_workers(farm, 1)
        joined: list[object] = []

        def stop() -> bool:
            if farm.frames and not joined:  # somebody honest comes once the liar has delivered
                joined.append(machines.worker("good"))
                wait_for_workers(farm, 2)
            return False

        found = render(ordered(shot, tmp_path / "many", "ffv1"), Engine(), stop=stop, by=farm)
    whole = render(ordered(shot, tmp_path / "one", "ffv1"), Engine())
    assert found.files[0].read_bytes() == whole.files[0].read_bytes()


def test_short_clips_keep_all_machines_busy():
    """Ninety-six frames left one of three machines idle; the length alone decides, so that the bits are the same."""
    format = format_named("mp4")
    lengths = {count: format.part_length(count) for count in (1, 12, 96, 97, 150, 383, 384, 10_000)}
    assert lengths == {1: 12, 12: 12, 96: 12, 97: 13, 150: 19, 383: 48, 384: 48, 10_000: 48}
    assert {format.part_length(count) for format in [format_named("png")] for count in lengths} == {1}


def test_where_no_machine_answers_any_more_it_is_given_up(machines, shot, tmp_path):
    stalled = machines.worker("stalled", SLOW)
    with connected(Where(machines.address), Engine()) as farm:
        wait_for_workers(farm, 1)
        farm.least_patience = 0.5
        threading.Timer(0.7, lambda: os.kill(stalled, signal.SIGSTOP)).start()
        with pytest.raises(FailedWork, match="no machine can render this"):
            render(ordered(shot, tmp_path / "many"), Engine(), by=farm)
    assert list((tmp_path / "many").iterdir()) == []


def test_a_machine_that_stalled_before_it_was_asked_is_left_out(machines, shot, tmp_path, monkeypatch):
    monkeypatch.setattr("nimble_quake.farm.farm.ANSWER", 2.0)
    machines.worker("good")
    stalled = machines.worker("stalled")
    told: list[str] = []
    with connected(Where(machines.address), Engine(), told.append) as farm:
        wait_for_workers(farm, 2)
        os.kill(stalled, signal.SIGSTOP)
        assert len(render(ordered(shot, tmp_path / "many", "png", 3), Engine(), by=farm).files) == 4
    assert any("does not answer" in line for line in told)


def test_cancelled_within_two_seconds(machines, shot, tmp_path):
    """And nothing is left; the worker stops too, and is free for the next job."""
    machines.worker("slow", SLOW)
    with connected(Where(machines.address), Engine()) as farm:
        wait_for_workers(farm, 1)
        asked: list[float] = []

        def stop() -> bool:
            if not asked and farm.client.processing() and any(farm.client.processing().values()):
                asked.append(time.monotonic())
            return bool(asked)

        with pytest.raises(Cancelled):
            render(ordered(shot, tmp_path / "many"), Engine(), stop=stop, by=farm)
        assert time.monotonic() - asked[0] < 2
        assert list((tmp_path / "many").iterdir()) == []
        found = render(ordered(shot, tmp_path / "next", "png", 3), Engine(), by=farm)
    assert len(found.files) == 4


@pytest.mark.sampled(1)
@pytest.mark.parametrize("key", ["gif", "ffv1"])
def test_workers_here(shot, tmp_path, key, capsys):
    """`--workers 2`: a farm on this machine; the same files as without, of a crossing with an open shutter too."""
    (first,) = shot.plates
    second = msgspec.structs.replace(
        first, id="d", start=5, values={**first.values, "trim": 1.0, "turn": Rate(0.0, 90.0)}
    )
    sides = {"before": "c", "after": "d"}
    crossing = with_courses(Plate(id="x", kind="crossing", start=5, end=15, values=sides))
    plates = (crossing, second, msgspec.structs.replace(first, end=15))
    shot = msgspec.structs.replace(shot, plates=plates, shutter=180, shutter_samples=0)
    write_shot(shot, tmp_path / "s.nquake")
    whole = render(ordered(shot, tmp_path / "one", key, 19), Engine()).files
    out = ordered(shot, tmp_path / "many", key).path
    words = [
        "render",
        str(tmp_path / "s.nquake"),
        "-o",
        str(out),
        "--frames",
        "0-19",
        "--workers",
        "2",
        "--format",
        key,
    ]
    assert main(words) == 0
    files = sorted(file for file in out.parent.iterdir())
    assert [file.read_bytes() for file in files] == [file.read_bytes() for file in whole]


def test_tls_and_files_that_are_sent(shot, tmp_path):
    """Keys of our own; a worker without the clip gets it once, by what it holds, and opens nothing else."""
    make_keys(tmp_path / "keys")
    machines = Machines(tmp_path, tmp_path / "keys")
    elsewhere = (
        "import nimble_quake.farm.media as media\n"
        "media.here = lambda held: media.kept_file(held) if media.kept_file(held).exists() else None\n"
    )
    try:
        machines.worker("far", elsewhere)
        with connected(Where(machines.address, keys=tmp_path / "keys"), Engine()) as farm:
            wait_for_workers(farm, 1)
            found = render(ordered(shot, tmp_path / "many", "png", 9), Engine(), by=farm)
    finally:
        machines.end()
    whole = render(ordered(shot, tmp_path / "one", "png", 9), Engine())
    assert [file.read_bytes() for file in found.files] == [file.read_bytes() for file in whole.files]
    kept = [file for file in (tmp_path / "kept" / "farm").rglob("*") if file.is_file()]
    assert [file.name for file in kept] == ["in.mkv"]
    assert all(oct((tmp_path / "keys" / name).stat().st_mode)[-3:] == "600" for name in ("key.pem", "certificate.pem"))


def test_who_has_no_key_is_not_let_in(shot, tmp_path):
    make_keys(tmp_path / "keys")
    make_keys(tmp_path / "other")
    machines = Machines(tmp_path, tmp_path / "keys")
    try:
        with connected(Where(machines.address, keys=tmp_path / "keys"), Engine()):
            pass
        other = connected(Where(machines.address, keys=tmp_path / "other"), Engine())
        with pytest.raises(FailedWork, match="cannot be reached"), other:
            pass
    finally:
        machines.end()


def test_open_connections_are_refused(tmp_path):
    """Plain ones only on the loopback address, unless asked for by name."""
    assert security_of("tcp://127.0.0.1:8786", Where()) is None
    assert security_of("tcp://10.0.0.7:8786", Where(plain=True)) is None
    make_keys(tmp_path / "keys")
    assert security_of("tls://render-7:8786", Where(keys=tmp_path / "keys")).require_encryption
    refused = (
        ("tcp://10.0.0.7:8786", None, "can be read by all"),
        ("tls://a:1", None, "needs keys"),
        ("render-7", None, "is no address"),
        ("tls://a:1", tmp_path, "one authority is needed"),
    )
    for address, keys, words in refused:
        with pytest.raises(BadInput, match=words):
            security_of(address, Where(keys=keys))
    with pytest.raises(BadInput, match="is there already"):
        make_keys(tmp_path / "keys")


def test_keys_may_be_called_anything(tmp_path):
    """What a file holds tells what it is; a certificate and its key may share one."""
    made = make_keys(tmp_path / "keys")
    folder = tmp_path / "theirs"
    folder.mkdir()
    (folder / "root.crt").write_bytes(made[0].read_bytes())
    (folder / "node.pem").write_bytes(made[1].read_bytes() + made[2].read_bytes())
    (folder / "notes.txt").write_text("not one of them")
    found = keys_in(folder)
    assert (found.authority.name, found.certificate.name, found.key.name) == ("root.crt", "node.pem", "node.pem")
    (folder / "other.pem").write_bytes(made[1].read_bytes())
    with pytest.raises(BadInput, match=r"one certificate is needed, there is node.pem, other.pem"):
        keys_in(folder)
    with pytest.raises(BadInput, match="cannot be read"):
        keys_in(tmp_path / "nowhere")


def whole_json(file: Path) -> bool:
    """Whether a file that somebody is writing is there to its end."""
    try:
        return bool(json.loads(file.read_text(encoding="utf-8")))
    except (OSError, ValueError):
        return False


def test_dasks_own_settings_and_a_scheduler_file_are_taken(shot, tmp_path):
    """A cluster that runs already, set up as its owner does: no folder of keys, no address typed."""
    make_keys(tmp_path / "keys")
    machines = Machines(tmp_path, tmp_path / "keys", scheduler_file=tmp_path / "cluster.json")
    ends = {"ca-file": "authority.pem", "client.cert": "certificate.pem", "client.key": "key.pem"}
    settings = {f"distributed.comm.tls.{end}": str(tmp_path / "keys" / name) for end, name in ends.items()}
    try:
        machines.worker("one")
        until = time.monotonic() + 60
        while not whole_json(tmp_path / "cluster.json"):
            assert time.monotonic() < until
            time.sleep(0.05)
        with dask.config.set(settings), connected(Where(str(tmp_path / "cluster.json")), Engine()) as farm:
            wait_for_workers(farm, 1)
            assert len(render(ordered(shot, tmp_path / "many", "png", 3), Engine(), by=farm).files) == 4
    finally:
        machines.end()
    (tmp_path / "cluster.json").write_text("[]")
    with pytest.raises(BadInput, match="is no scheduler file"):
        address_of(str(tmp_path / "cluster.json"))


def test_nothing_that_we_start_listens_to_others():
    """Any user of the machine reaches the loopback address: without the render's own credentials nobody is let in."""
    with connected(Where(workers=2), Engine()) as farm:
        wait_for_workers(farm, 2)
        address = farm.client.scheduler.address
        assert address.startswith("tls://127.0.0.1:")
        ours = [psutil.Process(), *psutil.Process().children(recursive=True)]
        sockets = [c.laddr for p in ours for c in p.net_connections("tcp") if c.status == psutil.CONN_LISTEN]
        assert len(sockets) >= 3, "a scheduler and two workers"
        assert {place.ip for place in sockets} == {"127.0.0.1"}
        for place in sockets:
            assert answered(place) == b"", "plain words are not answered"
            other = Security(require_encryption=True, **stranger())
            for scheme, security in (("tcp", None), ("tls", other)):
                with pytest.raises((OSError, TimeoutError)):
                    Client(f"{scheme}://127.0.0.1:{place.port}", security=security, timeout=1, set_as_default=False)


def answered(place) -> bytes:
    """What a listener says to a browser."""
    with socket.create_connection(place, timeout=5) as connection:
        connection.sendall(b"GET /info/main/workers.html HTTP/1.1\r\nHost: localhost\r\n\r\n")
        try:
            found = connection.recv(99)
        except ConnectionError:
            return b""
    return b"" if found[:1] == b"\x15" else found  # an alert of TLS (RFC 8446, 5.1)


def stranger() -> dict[str, str]:
    """The settings of somebody with credentials of their own."""
    own = Security.temporary()
    names = ("tls_ca_file", "tls_client_cert", "tls_client_key")
    return {name: getattr(own, name) for name in names}


def test_jobs_are_forgotten_everywhere(machines, tmp_path):
    """Folders of jobs hold links to numbered files; they used to stay for ever, with an AssertionError in the log."""
    (tmp_path / "in").mkdir()
    for n in range(4):
        write_png(tmp_path / "in" / f"n_{n:02d}.png", numbered_frame(n, 64, 48))
    plate = Plate(id="c", kind="clip", values={"file": str(tmp_path / "in" / "n_##.png")})
    numbered = Shot(width=64, height=48, rate=Fraction(24), length=4, plates=(plate,))
    elsewhere = "import nimble_quake.farm.media as media\nmedia.here = lambda held: media.kept_file(held) if "
    machines.worker("far", elsewhere + "media.kept_file(held).exists() else None\n")
    seen: list[str] = []
    with connected(Where(machines.address), Engine()) as farm:
        wait_for_workers(farm, 1)

        def stop() -> bool:
            seen.extend(path.name for path in (tmp_path / "kept" / "farm").glob("job-*"))
            return False

        render(ordered(numbered, tmp_path / "many", "png"), Engine(), stop=stop, by=farm)
    assert seen
    until = time.monotonic() + 30
    while list((tmp_path / "kept" / "farm").glob("job-*")):
        assert time.monotonic() < until
        time.sleep(0.05)
    assert "Combination not supported" not in machines.log.read_text()


def test_from_the_queue(shot, tmp_path, monkeypatch):
    """An order that others render: what is missing goes out, the rest is kept."""
    monkeypatch.setenv("NIMBLE_QUAKE_HOME", str(tmp_path / "home"))
    queue, order = Queue(), ordered(shot, tmp_path / "many", "mp4", 40)
    id = queue.add(order, Engine(), None, Where(workers=1))
    monkeypatch.setattr("nimble_quake.export.rendering.prepared_frame", None)  # nothing is computed here
    assert run_queue(queue) == 1
    monkeypatch.undo()
    assert queue.root.is_dir()
    whole = render(ordered(shot, tmp_path / "one", "mp4", 40), Engine()).files[0]
    assert Path(str(order.path)).read_bytes() == whole.read_bytes()
    assert id


def test_machines_that_are_not_there(monkeypatch):
    monkeypatch.setattr("nimble_quake.farm.connecting.CONNECT", 1.0)
    with pytest.raises(FailedWork, match="cannot be reached"), connected(Where("tcp://127.0.0.1:9"), Engine()):
        pass


@pytest.mark.parametrize("frames", [1, 96, 1000])
def test_every_machine_is_looked_at_once_however_short_the_clip_is(frames):
    """With a budget of one frame a liar that was second passed unseen. Beside that: one frame in fifty, no more."""
    sampling, each = Sampling(frames), range(min(frames, 12))
    assert all(sampling.chosen(name, each) in each for name in "abc")
    more = sum(sampling.chosen("abc"[n % 3], each) is not None for n in range(500))
    assert more <= max(0, frames // 50 - 3)


def test_loads():
    """Segments go out one by one, single frames by eights."""
    singles = [Part(Path(str(n)), (n,)) for n in range(20)]
    assert [len(load.frames) for load in loads_of(singles)] == [8, 8, 4]
    segments = [Part(Path(str(n)), tuple(range(48 * n, 48 * n + 48))) for n in range(3)]
    assert [len(load.frames) for load in loads_of(segments)] == [48, 48, 48]


def test_frames_that_fail_elsewhere_are_named(machines, shot, tmp_path):
    failing = (
        "import nimble_quake.export.rendering as rendering\nfrom nimble_quake.errors import LimitError\n"
        "from nimble_quake.export.order import prepared_frame\n"
        "def failing(engine, order, frame, target):\n"
        "    if frame == 3:\n        raise LimitError('too large', where='plates/c', cure='make it smaller')\n"
        "    return prepared_frame(engine, order, frame, target)\n"
        "rendering.prepared_frame = failing\n"
    )
    machines.worker("failing", failing)
    order, engine = ordered(shot, tmp_path / "many", "png", 9), Engine()
    with connected(Where(machines.address), engine) as farm:
        wait_for_workers(farm, 1)
        found = render_on(order, engine, tmp_path / "many" / ".parts", stamps_of(shot, engine), by=farm)
        with pytest.raises(FailedWork, match="frame 3: plates/c: too large"):
            render(order, engine, by=farm)
    assert found.failures == {3: "plates/c: too large - make it smaller"}
    assert len(list((tmp_path / "many" / ".parts").iterdir())) == 9
