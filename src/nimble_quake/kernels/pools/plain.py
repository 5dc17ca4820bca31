"""Rows shared by plain threads of Python: what takes over from `pool` where machine code cannot be called our way."""

from __future__ import annotations

import threading
from collections.abc import Callable
from functools import cache
from queue import SimpleQueue


@cache
def _helpers(threads: int) -> SimpleQueue[Callable[[], None]]:
    """The queue of the threads that help; a plain one, since an executor's futures cost as much as a small kernel."""
    waiting: SimpleQueue[Callable[[], None]] = SimpleQueue()

    def serve() -> None:
        while True:
            waiting.get()()

    for n in range(threads):
        threading.Thread(target=serve, name=f"rows-{n}", daemon=True).start()
    return waiting


def run_plainly(run: Callable[[int, int], object], edges: list[int], helpers: int, threads: int) -> None:
    """Call `run` for each band that lies between two edges; this thread and `helpers` others take them one by one."""
    heap = iter(zip(edges, edges[1:], strict=False))  # taking the next of it is one step under the interpreter's lock
    done: SimpleQueue[Exception | None] = SimpleQueue()

    def help() -> None:
        for first, last in heap:
            try:
                run(first, last)
                done.put(None)
            except Exception as wrong:
                done.put(wrong)

    for _ in range(helpers):
        _helpers(threads).put(help)
    left = len(edges) - 1
    for first, last in heap:
        run(first, last)
        left -= 1
    for wrong in [done.get() for _ in range(left)]:
        if wrong is not None:
            raise wrong
