"""One order on its way: its parts go out to machines, what comes back is looked at, what is late goes out again."""

from __future__ import annotations

import os
import secrets
import statistics
import threading
import time
from collections.abc import Callable, Hashable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import Any, Protocol

import msgspec

from nimble_quake.errors import Cancelled, FailedWork, SaveFailed
from nimble_quake.export.checking import Pattern, Wrong
from nimble_quake.export.order import Order, prepared_frame
from nimble_quake.export.rendering import Made
from nimble_quake.export.stored import stored
from nimble_quake.export.writers import Part, Prepared, as_save_failed
from nimble_quake.farm import work
from nimble_quake.farm.media import Job, digest_of_bytes, items_of, tracks_of
from nimble_quake.farm.sampling import Sampling
from nimble_quake.farm.wire import packed, unpacked
from nimble_quake.farm.work import Done, Load
from nimble_quake.render.engine import Engine
from nimble_quake.render.job import Problem

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


@dataclass(frozen=True)
class Given:
    """Parts that one machine renders together."""

    number: int
    parts: tuple[Part, ...]

    @property
    def frames(self) -> list[int]:
        """All its frames."""
        return [frame for part in self.parts for frame in part.frames]

    def load(self) -> bytes:
        """Return what the machine is told."""
        return packed(Load(self.number, tuple(part.frames for part in self.parts)))


def loads_of(parts: Sequence[Part]) -> list[Given]:
    """Return parts in loads: a segment, or several frames that are files of their own."""
    step = SINGLES if all(len(part.frames) == 1 for part in parts) else 1
    return [Given(n, tuple(parts[at : at + step])) for n, at in enumerate(range(0, len(parts), step))]


class Future(Hashable, Protocol):
    """What a round asks of a load that was given out: see `distributed.Future`."""

    key: str
    status: str

    def done(self) -> bool:
        """Return whether it has ended, in whatever way."""

    def result(self) -> bytes:
        """Fetch what was made. Raises whatever the machine raised."""

    def exception(self) -> BaseException | None:
        """Fetch what the machine raised."""


class Machines(Protocol):
    """What a round needs of the machines: see `farm.Farm`."""

    client: Any
    engine: Engine
    ours: bool
    least_patience: float
    frames: dict[str, int]

    @property
    def notify(self) -> Callable[[str], None]:
        """Is told a line."""

    @property
    def moved(self) -> Callable[[dict[str, int]], None]:
        """Is told how many frames each machine has rendered."""

    def machines(self, job: Job) -> list[str]:
        """Return the machines that may render."""

    def refuse(self, machine: str, why: str) -> None:
        """Leave a machine out."""

    def is_refused(self, machine: str) -> bool:
        """Return whether a machine was left out."""

    def end(self, job: Job) -> None:
        """Let all machines forget a job."""


@dataclass(frozen=True)
class Arrived:
    """What a machine sent, looked at: its files lie beside their places, under names of their own."""

    machine: str
    done: Done
    files: tuple[tuple[Part, Path], ...]


class _Coming(threading.Thread):
    """Fetches what a future made, and looks at it: aside, for a machine may stall while it sends, and decoding takes
    a while."""

    def __init__(self, fetch: Callable[[], Arrived]) -> None:
        super().__init__(daemon=True)
        self.found: Arrived | Exception = FailedWork("it sent nothing")
        self._fetch = fetch
        self.start()

    def run(self) -> None:
        """Fetch it, or note what is wrong with it."""
        try:
            self.found = self._fetch()
        except Exception as wrong:
            self.found = wrong


class Round:
    """One order on its way."""

    def __init__(self, farm: Machines, order: Order, parts: Sequence[Part], stop: Callable[[], bool]) -> None:
        self._farm, self._order, self._stop = farm, order, stop
        items = items_of(order.shot, farm.engine)
        plain = msgspec.Raw(msgspec.json.encode(stored(replace(order, path=order.path.absolute()), (), None)))
        self._job = Job(f"job-{secrets.token_hex(8)}", plain, items, tracks_of(items, farm.engine))
        self._sent = packed(self._job)
        self._pattern, self._target = Pattern.of(order), order.target()
        self._waiting = loads_of(parts)
        self._out: dict[Future, tuple[Given, float]] = {}
        """Futures, each with its load and when it was given out."""
        self._coming: dict[Future, _Coming] = {}
        """What is on its way here, by future."""
        self._born: dict[Future, float] = {}
        """When each future was given out first."""
        self._at: dict[str, str] = {}
        """Which machine a future was seen at last, by its key."""
        self._missing = {given.number: given for given in self._waiting}
        self._made_by: dict[str, list[Given]] = {}
        self._again: set[int] = set()
        """Loads that were made before, by a machine that is not believed any more."""
        self._sampling = Sampling(sum(len(given.frames) for given in self._waiting))
        self._times: list[float] = []
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
        self._at |= at
        at |= {future.key: self._at[future.key] for future in self._coming if future.key in self._at}
        quick = [machine for machine in machines if machine not in self._late] or machines
        busy = sum(at.get(future.key) not in self._late for future in self._out)
        while self._waiting and busy < AHEAD * len(quick):
            self._submit(self._waiting.pop(0), quick)
            busy += 1
        patience = max(self._farm.least_patience, PATIENCE * (statistics.median(self._times) if self._times else 0))
        for future, (given, began) in list(self._out.items()):
            if given.number not in self._missing:
                continue  # it is here; a late machine is still at it
            machine = at.get(future.key, "")
            if time.monotonic() - began > patience or (machine in self._late and set(machines) - self._late):
                self._late.add(machine)
                self._out[future] = given, time.monotonic()
                self._help(given, machine, machines, at)

    def _help(self, given: Given, slow: str, machines: list[str], at: dict[str, str]) -> None:
        """Give a load to another machine too, where none that is not late has it."""
        others = [machine for machine in machines if machine not in self._late]
        copies = [future for future, (other, _) in self._out.items() if other is given]
        if others and not any(self._promising(future, at) for future in copies):
            self._farm.notify(f"{slow or 'a machine'} is late: another renders the same frames")
            self._submit(given, others)

    def _promising(self, future: Future, at: dict[str, str]) -> bool:
        """Whether a copy of a load lies with a machine that is not late, or was given out just now."""
        machine = at.get(future.key)
        if machine is not None:
            return machine not in self._late
        return time.monotonic() - self._born[future] < self._farm.least_patience

    def _submit(self, given: Given, machines: list[str]) -> None:
        frames = given.frames
        key = f"frames-{frames[0]}-{frames[-1]}-{secrets.token_hex(4)}"
        future = self._farm.client.submit(
            work.on_machine,
            self._sent,
            given.load(),
            key=key,
            workers=machines,
            allow_other_workers=False,
            pure=False,
            retries=2,
        )
        self._out[future], self._born[future] = (given, time.monotonic()), time.monotonic()

    def _ended(self) -> list[Future]:
        """The futures that have ended, waiting a little for one."""
        until = time.monotonic() + LOOKED_EVERY
        while time.monotonic() < until and not any(self._is_here(future) for future in self._out):
            time.sleep(0.01)
        return [future for future in self._out if self._is_here(future)]

    def _is_here(self, future: Future) -> bool:
        """Whether a future has ended, and what it made has come: from a machine that stalls then it never does."""
        if not future.done() or future.status != "finished":
            return bool(future.done())
        if future not in self._coming:
            self._coming[future] = _Coming(partial(self._arrived, future, self._out[future][0]))
        return not self._coming[future].is_alive()

    def _taken(self, future: Future) -> Iterator[Made]:
        """What a load made; it goes out again where that is not right."""
        given, _ = self._out.pop(future)
        coming = self._coming.pop(future, None)
        found = None if coming is None else coming.found
        machine = found.machine if isinstance(found, Arrived) else self._machine_of(future)
        self._late.discard(machine)
        if given.number not in self._missing or self._farm.is_refused(machine):
            self._wanted_again(given)
        elif found is None:
            yield from self._failed(given, future)
        elif isinstance(found, SaveFailed):
            raise found
        elif isinstance(found, Exception):
            why = found.what if isinstance(found, FailedWork) else f"it sent {found}"
            self._farm.refuse(machine, why)
            self._waiting.insert(0, given)
            self._distrust(machine)
        else:
            yield from self._accepted(given, found)
        for _, temporary in found.files if isinstance(found, Arrived) else ():
            temporary.unlink(missing_ok=True)  # not those that have their name

    def _accepted(self, given: Given, found: Arrived) -> Iterator[Made]:
        """Give files their names."""
        with as_save_failed(self._order.path):
            for part, temporary in found.files:
                os.replace(temporary, part.file)
        del self._missing[given.number]
        self._call_off(given)
        self._made_by.setdefault(found.machine, []).append(given)
        self._times.append(found.done.seconds)
        self._heard = time.monotonic()
        again, frames = given.number in self._again, self._farm.frames
        if not again:
            frames[found.machine] = frames.get(found.machine, 0) + len(given.frames)
            self._farm.moved(frames)
        problems = tuple(Problem(each.path, each.what, each.cure) for each in found.done.problems)
        for part in given.parts:
            failures = tuple((frame, why) for frame, why in found.done.failures if frame in part.frames)
            yield Made(part, problems, failures, again)

    def _call_off(self, given: Given) -> None:
        """Let nobody else begin a load that is there. A late machine keeps it: when it ends, it gets more to do."""
        copies = [future for future, (other, _) in self._out.items() if other is given and not future.done()]
        others = [future for future in copies if self._at.get(future.key, "") not in self._late]
        for future in others:
            del self._out[future]
        if others:
            self._farm.client.cancel(others, force=True)

    def _machine_of(self, future: Future) -> str:
        """The machine that has what a future made, as the scheduler says; what comes need not say it truly."""
        with suppress(Exception):
            holders = self._farm.client.who_has([future]).get(future.key, ())
            if holders:
                return str(holders[0])
        return self._at.get(future.key, "")

    def _wanted_again(self, given: Given) -> None:
        """Give a load out once more, where it is still missing and nobody has it."""
        listed = any(other is given for other, _ in self._out.values()) or given in self._waiting
        if given.number in self._missing and not listed:
            self._waiting.insert(0, given)

    def _arrived(self, future: Future, given: Given) -> Arrived:
        """Fetch what a future made and look at it. Raises Wrong or FailedWork for what is to be refused, SaveFailed."""
        try:
            data = future.result()
        except Exception as wrong:  # whatever a broken worker hands over
            raise FailedWork(f"it sent what cannot be read ({type(wrong).__name__})") from wrong
        done: Done
        done, files = unpacked(data, Done)
        machine = self._machine_of(future)
        return Arrived(machine, done, self._looked_at(machine, given, done, files, future.key[-8:]))

    def _failed(self, given: Given, future: Future) -> Iterator[Made]:
        """A load that no machine could end: its frames are named."""
        if future.status == "cancelled":
            self._wanted_again(given)
            return
        wrong = future.exception()
        del self._missing[given.number]
        for part in given.parts:
            lines = tuple(
                (frame, f"no machine could render it ({type(wrong).__name__}: {wrong})") for frame in part.frames
            )
            yield Made(part, (), lines)

    def _looked_at(
        self, machine: str, given: Given, done: Done, files: list[bytes], mark: str
    ) -> tuple[tuple[Part, Path], ...]:
        """Write files beside their places, once they are what they should be. Raises Wrong, SaveFailed."""
        if not len(files) == len(done.digests) == len(given.parts):
            raise Wrong("other frames than it was asked for")
        failed = {frame for frame, _ in done.failures}
        for part, data, digest in zip(given.parts, files, done.digests, strict=True):
            if digest_of_bytes(data) != digest:
                raise Wrong("what was damaged on the way")
            if not data and not failed.intersection(part.frames):
                raise Wrong("an empty file")
        whole = [(part, data) for part, data in zip(given.parts, files, strict=True) if data]
        sample = self._sample(machine, [frame for part, _ in whole for frame in part.frames])
        placed = tuple((part, part.file.with_name(f".{mark}-{part.file.name}")) for part, _ in whole)
        try:
            with as_save_failed(self._order.path):
                for (part, temporary), (_, data) in zip(placed, whole, strict=True):
                    temporary.write_bytes(data)
                    here = sample if sample is not None and sample[0] in part.frames else None
                    self._pattern.check(part, temporary, here)
        except BaseException:
            for _, temporary in placed:
                temporary.unlink(missing_ok=True)
            raise
        return placed

    def _sample(self, machine: str, frames: list[int]) -> tuple[int, Prepared] | None:
        """A frame of what a machine has sent, rendered here; None where nothing is compared."""
        frame = None if self._farm.ours else self._sampling.chosen(machine, frames)
        if frame is None:
            return None
        return frame, prepared_frame(self._farm.engine, self._order, frame, self._target)[0]

    def _distrust(self, machine: str) -> None:
        """Give out again all that a machine made which is not to be believed."""
        for given in self._made_by.pop(machine, []):
            for part in given.parts:
                part.file.unlink(missing_ok=True)
            self._again.add(given.number)
            self._missing[given.number] = given
            self._waiting.append(given)

    def _end(self) -> None:
        """Let the machines stop what they are at, and forget the job."""
        with suppress(Exception):  # the scheduler may be gone
            self._halt.set()
            self._farm.client.cancel(list(self._out), force=True)
        self._farm.end(self._job)


def _event(client: Any, name: str) -> Any:
    from distributed import Event

    return Event(name, client=client)
