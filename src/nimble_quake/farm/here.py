"""Workers on this machine: processes of their own that only this program can talk to.

They listen on the loopback address, which every user of the machine reaches; so each render has credentials of its own,
made for it and kept in memory, and nothing is shown on web pages.
"""

from __future__ import annotations

import logging
from collections.abc import Iterator
from contextlib import contextmanager, suppress

from distributed import Client, Nanny, Scheduler, Security, SpecCluster, Worker

LOOPBACK = "127.0.0.1"
LONGEST_END = 2.0
"""Seconds that the workers have to end; what is left of them ends with this program."""


class _NoPages:
    """A node without web pages: they would be open to whoever asks."""

    def start_http_server(self, *_: object, **__: object) -> None:
        """Show nothing."""


class QuietScheduler(_NoPages, Scheduler):  # type: ignore[misc]  # distributed's has no types
    """A scheduler without web pages."""


class QuietWorker(_NoPages, Worker):  # type: ignore[misc]  # nor has it
    """A worker without web pages."""


@contextmanager
def workers_here(count: int) -> Iterator[Client]:
    """Start so many workers and connect to them; they end with the block."""
    security = Security.temporary()
    node = {"protocol": "tls://", "host": LOOPBACK, "security": security}
    worker = {
        "cls": Nanny,
        "options": {**node, "nthreads": 1, "worker_class": QuietWorker, "silence_logs": logging.CRITICAL},
    }
    scheduler = {"cls": QuietScheduler, "options": {**node, "port": 0, "dashboard": False}}
    cluster = SpecCluster(
        workers=dict.fromkeys(range(count), worker),
        scheduler=scheduler,
        worker=worker,
        security=security,
        silence_logs=logging.CRITICAL,
    )
    try:
        with Client(cluster, set_as_default=False) as client:
            yield client
    finally:
        with suppress(TimeoutError):
            cluster.close(timeout=LONGEST_END)
