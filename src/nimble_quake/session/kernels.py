"""Compiling the kernels for a new machine, aside: the first frames need a few of them, the rest while one works."""

from __future__ import annotations

import subprocess
import sys
import threading

from nimble_quake.kernels.store import complete
from nimble_quake.session.work import Work

TITLE = "Compiling for this machine, once"


def compile_aside() -> Work | None:
    """Start to compile in a process of its own at low priority; None where it was done before."""
    if complete():
        return None
    work = Work(TITLE, 1)
    threading.Thread(target=_compile, args=(work,), name="compiling", daemon=True).start()
    return work


def _compile(work: Work) -> None:
    words = [sys.executable, "-m", "nimble_quake.session.warm_up", "--low"]
    try:
        with subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True) as process:
            assert process.stdout is not None
            for line in process.stdout:
                done, total = line.split()
                work.done, work.total = int(done), int(total)
                if work.stopped:
                    process.kill()
    except (OSError, ValueError):
        return  # what is needed is compiled when it is needed
    finally:
        work.end()
