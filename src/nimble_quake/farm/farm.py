"""Sending the parts of an order to many machines, and taking what they made."""

from __future__ import annotations

import hashlib
import io
import logging
import os
import secrets
import statistics
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import av
import msgspec

from nimble_quake.errors import BadInput, Cancelled, FailedWork
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import Made
from nimble_quake.export.stored import stored
from nimble_quake.export.writers import Part, told
from nimble_quake.farm import work
from nimble_quake.farm.keys import AUTHORITY, CERTIFICATE, KEY, NEEDED, refuse_open
from nimble_quake.farm.media import MOST_SENT, Held, Job, digest_of, items_of, tracks_of
from nimble_quake.farm.where import Where
from nimble_quake.farm.work import Done, Load
from nimble_quake.render.job import Engine

SINGLES = 8
"""Frames to a load, where each is a file of its own."""
AHEAD = 2
"""Loads to a machine that wait or are rendered there."""
PATIENCE = 6.0
"""A load that takes so many times as long as the others is given to another machine too ..."""
LEAST_PATIENCE = 30.0
"""... but not before so many seconds."""
SILENCE = 4.0
"""After so many times that, without a word from any machine and all of them late, it is given up."""
LOOKED_EVERY = 0.25
ANSWER = 20.0
"""Seconds in which a machine has to answer."""
SLOWEST_LINK = 1e6
"""Bytes a second, at which files are sent."""
CONNECT = 15.0
"""Seconds to reach the machines."""


@dataclass
class Farm:
    """Machines that are connected. As `Maker` it renders the parts of an order."""

    client: Any
    engine: Engine
    told: Callable[[str], None] = lambda line: None
    moved: Callable[[dict[str, int]], None] = lambda frames: None
    """Is told how many frames each machine has rendered."""
    least_patience: float = LEAST_PATIENCE
    frames: dict[str, int] = field(default_factory=dict)
    _refused: set[str] = field(default_factory=set)
    _compared: set[str] = field(default_factory=set)
    _ready: set[tuple[str, str]] = field(default_factory=set)
    """Machines that have the files of a job: (machine, job)."""

    def __call__(self, order: Order, parts: Sequence[Part], stop: Callable[[], bool]) -> Iterator[Made]:
        """Render parts into their files; each is told when its file is there."""
        return _Round(self, order, parts, stop).run()

    def machines(self, job: Job) -> list[str]:
        """Return the machines that may render: of our version, with all files; those too that come later."""
        there = list(self.client.scheduler_info(n_workers=-1)["workers"])
        self._compare([machine for machine in there if machine not in self._compared | self._refused])
        good = [machine for machine in there if machine not in self._refused]
        self._send([machine for machine in good if (machine, job.id) not in self._ready], job)
        return [machine for machine in good if (machine, job.id) in self._ready]

    def refuse(self, machine: str, why: str) -> None:
        """Leave a machine out from now on."""
        if machine not in self._refused:
            self._refused.add(machine)
            self.told(f"{machine} is left out: {why}")

    def _compare(self, machines: list[str]) -> None:
        """Leave out machines that would render something else."""
        self._compared.update(machines)
        ours = work.versions()
        for machine, theirs in self._run(work.versions, machines).items():
            other = [f"{name} {theirs.get(name)} in place of {word}" for name, word in ours.items()
                     if theirs.get(name) != word]  # fmt: skip
            if other:
                self.refuse(machine, f"it has {', '.join(other)}")

    def _run(
        self, function: Callable[..., Any], machines: list[str], *arguments: Any, seconds: float = 0.0
    ) -> dict[str, Any]:
        """Call a function on each machine, all at once; those that do not answer in time are left out."""
        found: dict[str, Any] = {}

        def ask(machine: str) -> None:
            try:
                found[machine] = self.client.run(function, *arguments, workers=[machine])[machine]
            except Exception as wrong:
                found[machine] = wrong

        threads = [threading.Thread(target=ask, args=(machine,), daemon=True) for machine in machines]
        seconds = seconds or ANSWER
        until = time.monotonic() + seconds
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(max(0.0, until - time.monotonic()))
        answers: dict[str, Any] = {}
        for machine in machines:
            answer = found.get(machine, TimeoutError(f"{seconds:.0f} s"))
            if isinstance(answer, BaseException):
                self.refuse(machine, f"it does not answer ({type(answer).__name__}: {answer})")
            else:
                answers[machine] = answer
        return answers

    def _send(self, machines: list[str], job: Job) -> None:
        """Send each machine the files it does not have."""
        files = job.digests()
        for machine, missing in self._run(work.check_media, machines, job).items():
            large = [files[digest] for digest in missing if files[digest].size > MOST_SENT]
            if large:
                self.refuse(machine, f"{large[0].path} is not there, and too large to be sent - share its folder")
                continue
            if all(self._sent(machine, files[digest]) for digest in missing):
                self._ready.add((machine, job.id))

    def _sent(self, machine: str, held: Held) -> bool:
        if digest_of(held.path) != held.digest:
            raise FailedWork("was changed while it was rendered", where=held.path, cure="render again")
        data, seconds = Path(held.path).read_bytes(), ANSWER + held.size / SLOWEST_LINK
        return machine in self._run(work.take_media, [machine], held, data, seconds=seconds)


class _Round:
    """One order on its way."""

    def __init__(self, farm: Farm, order: Order, parts: Sequence[Part], stop: Callable[[], bool]) -> None:
        self._farm, self._order, self._stop = farm, order, stop
        items = items_of(order.shot, farm.engine)
        plain = msgspec.json.encode(stored(order, (), None))
        self._job = Job(f"job-{secrets.token_hex(8)}", plain, items, tracks_of(items, farm.engine))
        self._waiting = loads_of(parts, order.kind.segment)
        self._out: dict[Any, tuple[Load, float]] = {}
        """Futures, each with its load and when it was given out."""
        self._born: dict[Any, float] = {}
        """When each future was given out first."""
        self._missing = {load.number: load for load in self._waiting}
        self._times: list[float] = []
        self._proof = secrets.choice(order.frames()), ""
        """A frame that every machine renders with its first load, and its digest here: one frame tells of all."""
        self._proven: set[str] = set()
        self._heard = time.monotonic()
        self._late: set[str] = set()
        """Machines that get nothing new until something comes from them."""
        self._halt = _event(farm.client, self._job.id)

    def run(self) -> Iterator[Made]:
        """Render all loads."""
        try:
            while self._missing:
                if self._stop():
                    raise Cancelled("the render was stopped")
                machines = self._farm.machines(self._job)
                self._refuse_silence(machines)
                self._give_out(machines)
                for future in self._ended():
                    yield from self._taken(future)
        finally:
            self._end()

    def _refuse_silence(self, machines: list[str]) -> None:
        """Raise FailedWork where there is no machine, or none that still answers."""
        quiet = time.monotonic() - self._heard > SILENCE * self._farm.least_patience
        if (not machines and not self._out) or (quiet and self._late.issuperset(machines)):
            raise FailedWork("no machine can render this", cure="start workers of the same version")

    def _give_out(self, machines: list[str]) -> None:
        """Keep every machine busy; give what takes too long to another one too."""
        at = {key: machine for machine, keys in self._farm.client.processing().items() for key in keys}
        quick = [machine for machine in machines if machine not in self._late] or machines
        busy = sum(at.get(future.key) not in self._late for future in self._out)
        while self._waiting and busy < AHEAD * len(quick):
            self._submit(self._waiting.pop(0), quick)
            busy += 1
        patience = max(self._farm.least_patience, PATIENCE * (statistics.median(self._times) if self._times else 0))
        for future, (load, began) in list(self._out.items()):
            machine = at.get(future.key, "")
            if time.monotonic() - began > patience or (machine in self._late and set(machines) - self._late):
                self._late.add(machine)
                self._out[future] = load, time.monotonic()
                self._help(load, machine, machines, at)

    def _help(self, load: Load, slow: str, machines: list[str], at: dict[str, str]) -> None:
        """Give a load to another machine too, where none that is not late has it."""
        others = [machine for machine in machines if machine not in self._late]
        copies = [future for future, (other, _) in self._out.items() if other is load]
        if others and not any(self._promising(future, at) for future in copies):
            self._farm.told(f"{slow or 'a machine'} is late: another renders the same frames")
            self._submit(load, others)

    def _promising(self, future: Any, at: dict[str, str]) -> bool:
        """Whether a copy of a load lies with a machine that is not late, or was given out just now."""
        machine = at.get(future.key)
        if machine is not None:
            return machine not in self._late
        return time.monotonic() - self._born[future] < self._farm.least_patience

    def _submit(self, load: Load, machines: list[str]) -> None:
        proof = load if self._proven.issuperset(machines) else replace(load, proof=self._proof[0])
        key = f"frames-{load.parts[0].frames[0]}-{load.parts[-1].frames[-1]}-{secrets.token_hex(4)}"
        future = self._farm.client.submit(_on_machine, self._job, proof, self._job.id, key=key, workers=machines,
                                          allow_other_workers=False, pure=False, retries=2)  # fmt: skip
        self._out[future], self._born[future] = (load, time.monotonic()), time.monotonic()

    def _ended(self) -> list[Any]:
        """The futures that have ended, waiting a little for one."""
        until = time.monotonic() + LOOKED_EVERY
        while time.monotonic() < until and not any(future.done() for future in self._out):
            time.sleep(0.01)
        return [future for future in self._out if future.done()]

    def _taken(self, future: Any) -> Iterator[Made]:
        """What a load made; it goes out again where that is not right."""
        load, _ = self._out.pop(future)
        done = future.result() if future.status == "finished" else None
        if load.number not in self._missing:
            self._late.discard(done.machine if done is not None else "")
            return  # another machine was faster
        if done is None:
            yield from self._failed(load, future)
            return
        self._late.discard(done.machine)
        wrong = self._wrong_with(load, done)
        if wrong:
            self._farm.refuse(done.machine, wrong)
            self._waiting.insert(0, load)
            return
        del self._missing[load.number]
        self._times.append(done.seconds)
        self._heard = time.monotonic()
        frames = self._farm.frames
        frames[done.machine] = frames.get(done.machine, 0) + load.count
        self._farm.moved(frames)
        yield from self._made(load, done)

    def _failed(self, load: Load, future: Any) -> Iterator[Made]:
        """A load that no machine could end: its frames are named."""
        if future.status == "cancelled":
            self._waiting.insert(0, load)
            return
        wrong = future.exception()
        del self._missing[load.number]
        for part in load.parts:
            lines = tuple((frame, f"no machine could render it ({type(wrong).__name__}: {wrong})") for frame in
                          part.frames)  # fmt: skip
            yield Made(part, (), lines)

    def _wrong_with(self, load: Load, done: Done) -> str:
        """Return why a machine is not to be believed; empty where nothing is wrong."""
        if len(done.files) != len(load.parts):
            return "it sent other frames than it was asked for"
        for part, data, digest in zip(load.parts, done.files, done.digests, strict=True):
            if hashlib.sha256(data or b"").hexdigest() != digest:
                return "what it sent was damaged on the way"
            if data is None and not any(frame in part.frames for frame, _ in done.failures):
                return "it left frames out without a word"
            if data is not None and (wrong := wrong_with_part(data, part, encoded=self._order.kind.segment > 1)):
                return wrong
        if done.machine not in self._proven:
            frame, ours = self._proof
            ours = ours or work.frame_digest(self._order, self._farm.engine, frame)
            self._proof = frame, ours
            if ours != done.proof:
                return f"its frame {frame} is not the one that is rendered here"
            self._proven.add(done.machine)
        return ""

    def _made(self, load: Load, done: Done) -> Iterator[Made]:
        for part, data in zip(load.parts, done.files, strict=True):
            failures = tuple((frame, why) for frame, why in done.failures if frame in part.frames)
            if data is not None:
                with told(self._order.path):
                    temporary = part.file.with_name(f".{part.file.name}")
                    temporary.write_bytes(data)
                    os.replace(temporary, part.file)
            yield Made(part, done.problems, failures)

    def _end(self) -> None:
        """Let the machines stop what they are at, and forget the job."""
        client = self._farm.client
        with suppress(Exception):  # the scheduler may be gone
            self._halt.set()
            client.cancel(list(self._out), force=True)
        threading.Thread(target=_forget, args=(client, self._job.id), daemon=True).start()


def _forget(client: Any, id: str) -> None:
    with suppress(Exception):
        client.run(work.forget, id, on_error="ignore", wait=False)


def _event(client: Any, name: str) -> Any:
    from distributed import Event

    return Event(name, client=client)


def _on_machine(job: Job, load: Load, name: str) -> Done:
    """Render a load where this is called."""
    from distributed import Event, get_worker

    worker = get_worker()
    halt = Event(name, client=worker.client) if hasattr(worker, "client") else Event(name)
    return work.render_load(job, load, worker.address, halt.is_set)


def wrong_with_part(data: bytes, part: Part, *, encoded: bool) -> str:
    """Return what is wrong with the bytes of a part's file; empty where nothing is. encoded: it is a segment."""
    if not data:
        return "it sent an empty file"
    if not encoded:
        return ""
    try:
        with av.open(io.BytesIO(data), "r") as clip:
            count = len([packet for packet in clip.demux(video=0) if packet.size])
    except av.FFmpegError as wrong:
        return f"it sent a segment that cannot be read ({wrong})"
    return "" if count == len(part.frames) else f"it sent {count} frames in place of {len(part.frames)}"


def loads_of(parts: Sequence[Part], segment: int) -> list[Load]:
    """Return parts in loads: a segment, or several frames that are files of their own."""
    step = SINGLES if segment == 1 else 1
    return [Load(n, tuple(parts[at : at + step])) for n, at in enumerate(range(0, len(parts), step))]


@contextmanager
def connected(where: Where, engine: Engine, told: Callable[[str], None] = lambda line: None) -> Iterator[Farm]:
    """Connect to machines, or start workers here. Raises BadInput or FailedWork."""
    try:
        from distributed import Client, LocalCluster, Security
    except ImportError as wrong:
        raise BadInput("many machines need an extra", cure=NEEDED) from wrong
    logging.getLogger("distributed").setLevel(logging.CRITICAL)
    if where.workers:
        cluster = LocalCluster(n_workers=where.workers, threads_per_worker=1, processes=True, host="127.0.0.1",
                               dashboard_address="127.0.0.1:0", worker_dashboard_address="127.0.0.1:0",
                               silence_logs=logging.CRITICAL)  # fmt: skip
        try:
            with Client(cluster, set_as_default=False) as client:
                yield Farm(client, engine, told)
        finally:
            with suppress(TimeoutError):  # what is left of its processes ends with this one
                cluster.close(timeout=2)
        return
    refuse_open(where.address, where.keys, plain=where.plain)
    security = None
    if where.keys is not None:
        names = {kind: str(where.keys / name) for kind, name in (("cert", CERTIFICATE), ("key", KEY))}
        ends = {f"tls_{end}_{kind}": file for end in ("client", "scheduler", "worker") for kind, file in names.items()}
        security = Security(require_encryption=True, tls_ca_file=str(where.keys / AUTHORITY), **ends)
    try:
        client = Client(where.address, security=security, timeout=CONNECT, set_as_default=False)
    except (OSError, TimeoutError, ValueError) as wrong:
        raise FailedWork(f"{where.address} cannot be reached ({wrong})", cure="start its scheduler") from wrong
    with client:
        yield Farm(client, engine, told)
