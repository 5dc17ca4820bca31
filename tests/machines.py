"""Machines of a farm as processes of their own: a scheduler, and workers that may be hurt or lie.

They are forked from one process that has read the libraries already: each would take two seconds of a core for that.
"""

from __future__ import annotations

import ctypes
import multiprocessing
import os
import runpy
import signal
import socket
import sys
from collections.abc import Mapping, Sequence
from multiprocessing.process import BaseProcess
from pathlib import Path

FORKS = multiprocessing.get_context("forkserver")
FORKS.set_forkserver_preload(
    ["distributed.cli.dask_scheduler", "distributed.cli.dask_worker", "nimble_quake.farm.work"]
)


def run(module: str, words: Sequence[str], folder: Path, environment: Mapping[str, str]) -> None:
    """Be a machine, until the tests end, however they do (prctl(2), PR_SET_PDEATHSIG)."""
    ctypes.CDLL(None).prctl(1, signal.SIGKILL)
    os.chdir(folder)
    os.environ.update(environment)
    log = os.open(folder / "log", os.O_WRONLY | os.O_APPEND | os.O_CREAT)
    for stream in (1, 2):
        os.dup2(log, stream)
    sys.argv = [module, *words]
    runpy.run_module(module, run_name="__main__")


class Machines:
    """A scheduler and its workers, on the loopback address."""

    def __init__(self, folder: Path, keys: Path | None = None, scheduler_file: Path | None = None) -> None:
        self.folder, self.log = folder, folder / "log"
        self.processes: list[BaseProcess] = []
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            port = free.getsockname()[1]
        scheme = "tls" if keys else "tcp"
        self.address = f"{scheme}://127.0.0.1:{port}"
        self.words: list[object] = []
        if keys is not None:
            ends = {"--tls-ca-file": "authority.pem", "--tls-cert": "certificate.pem", "--tls-key": "key.pem"}
            self.words = ["--protocol", "tls", *(word for end, name in ends.items() for word in (end, keys / name))]
        more = [] if scheduler_file is None else ["--scheduler-file", scheduler_file]
        self.start("distributed.cli.dask_scheduler", "--host", "127.0.0.1", "--port", port, "--no-dashboard", *more)

    def start(self, module: str, *words: object) -> BaseProcess:
        """Start a process that runs a module with these words."""
        line = [str(word) for word in (*words, *self.words)]
        environment = {**os.environ, "NIMBLE_QUAKE_HOME": str(self.folder / "kept")}
        process = FORKS.Process(target=run, args=(module, line, self.folder, environment))
        process.start()
        self.processes.append(process)
        return process

    def worker(self, name: str, preload: str = "") -> int:
        """Start a worker, after some code of its own. Returns the number of its process."""
        more = []
        if preload:
            (self.folder / f"{name}.py").write_text(preload)
            more = ["--preload", self.folder / f"{name}.py"]
        process = self.start(
            "distributed.cli.dask_worker",
            self.address,
            "--name",
            name,
            "--nthreads",
            "1",
            "--no-nanny",
            "--no-dashboard",
            "--host",
            "127.0.0.1",
            *more,
        )
        assert process.pid is not None
        return process.pid

    def end(self) -> None:
        """End all of them at once."""
        for process in self.processes:
            process.kill()
            process.join(10)
