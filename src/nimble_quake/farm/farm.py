"""The machines that render: which of them may, what they have, what they are told. One order on its way is `round`."""

from __future__ import annotations

import shutil
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from nimble_quake.errors import FailedWork
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import Made
from nimble_quake.export.writers import Part
from nimble_quake.farm import work
from nimble_quake.farm.media import MOST_SENT, Job, SentFile, digest_of, kept_folder
from nimble_quake.farm.round import LEAST_PATIENCE, Round
from nimble_quake.farm.wire import packed, unpacked
from nimble_quake.render.engine import Engine

ANSWER = 20.0
"""Seconds in which a machine has to answer."""
SLOWEST_LINK = 1e6
"""Bytes a second, at which files are sent."""
LONGEST_END = 1.0
"""Seconds that the end of a job waits for machines to hear of it."""


@dataclass
class Farm:
    """Machines that are connected. As `Maker` it renders the parts of an order."""

    client: Any
    engine: Engine
    notify: Callable[[str], None] = lambda line: None
    moved: Callable[[dict[str, int]], None] = lambda frames: None
    """Is told how many frames each machine has rendered."""
    ours: bool = False
    """They are processes of this program on this machine: they are as good as it is."""
    least_patience: float = LEAST_PATIENCE
    frames: dict[str, int] = field(default_factory=dict)
    _refused: set[str] = field(default_factory=set)
    _compared: set[str] = field(default_factory=set)
    _ready: set[tuple[str, str]] = field(default_factory=set)
    """Machines that have the files of a job: (machine, job)."""
    _ends: list[threading.Thread] = field(default_factory=list)

    def __call__(self, order: Order, parts: Sequence[Part], stop: Callable[[], bool]) -> Iterator[Made]:
        """Render parts into their files; each is told when its file is there."""
        return Round(self, order, parts, stop).run()

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
            self.notify(f"{machine} is left out: {why}")

    def is_refused(self, machine: str) -> bool:
        """Return whether a machine was left out."""
        return machine in self._refused

    def _compare(self, machines: list[str]) -> None:
        """Leave out machines that would render something else."""
        self._compared.update(machines)
        ours: dict[str, str] = unpacked(work.versions(), dict[str, str])[0]
        for machine, theirs in self._run(work.versions, machines, dict[str, str]).items():
            other = [
                f"{name} {theirs.get(name)} in place of {word}"
                for name, word in ours.items()
                if theirs.get(name) != word
            ]
            if other:
                self.refuse(machine, f"it has {', '.join(other)}")

    def _run(
        self, function: Callable[..., bytes], machines: list[str], kind: Any, *arguments: bytes, seconds: float = 0.0
    ) -> dict[str, Any]:
        """Call a function on each machine, all at once; those that do not answer in time and in kind are left out."""
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
                continue
            try:
                answers[machine] = unpacked(answer, kind)[0]
            except FailedWork as wrong:
                self.refuse(machine, wrong.what)
        return answers

    def _send(self, machines: list[str], job: Job) -> None:
        """Send each machine the files it does not have."""
        files = job.digests()
        for machine, missing in self._run(work.check_media, machines, list[str], packed(job)).items():
            wanted = [files[digest] for digest in missing if digest in files]
            large = [file for file in wanted if file.size > MOST_SENT]
            if large:
                self.refuse(machine, f"{large[0].path} is not there, and too large to be sent - share its folder")
            elif all(self._sent(machine, file) for file in wanted):
                self._ready.add((machine, job.id))

    def _sent(self, machine: str, file: SentFile) -> bool:
        if digest_of(file.path) != file.digest:
            raise FailedWork("was changed while it was rendered", where=file.path, cure="render again")
        data, seconds = packed(file, [Path(file.path).read_bytes()]), ANSWER + file.size / SLOWEST_LINK
        return machine in self._run(work.take_media, [machine], bool, data, seconds=seconds)

    def end(self, job: Job) -> None:
        """Let all machines forget a job, without waiting for one that has stalled."""
        shutil.rmtree(kept_folder() / job.id, ignore_errors=True)

        def forget() -> None:
            with suppress(Exception):  # the scheduler may be gone
                self.client.run(work.forget, packed(job), on_error="ignore")

        self._ends.append(threading.Thread(target=forget, daemon=True))
        self._ends[-1].start()

    def wait_for_ends(self) -> None:
        """Give the machines a moment to hear that jobs are over."""
        until = time.monotonic() + LONGEST_END
        for thread in self._ends:
            thread.join(max(0.0, until - time.monotonic()))
